// Between our pictures and FFmpeg's frames. Internal to the core: no other header includes FFmpeg's.
#pragma once

#include "core/image/image.h"

extern "C" {
#include <libavutil/frame.h>
#include <libavutil/pixfmt.h>
#include <libswscale/swscale.h>
}

#include <memory>
#include <optional>

namespace yarngap {

struct FrameDeleter {
    void operator()(AVFrame* f) const { av_frame_free(&f); }
};
using FramePtr = std::unique_ptr<AVFrame, FrameDeleter>;

struct SwsDeleter {
    void operator()(SwsContext* c) const { sws_freeContext(c); }
};
using SwsPtr = std::unique_ptr<SwsContext, SwsDeleter>;

/// An allocated, empty frame.
FramePtr makeFrame();

/// The layout that `format` is worked on in; empty when FFmpeg has no description of it. Planar YUV, grey
/// and RGB of 8 to 16 bit are kept; packed ones get the planar layout that holds them without loss; rarer
/// ones (palettes, floats, Bayer) the nearest.
std::optional<PixelLayout> layoutOf(AVPixelFormat format);
/// FFmpeg's planar format for a layout, native endian.
AVPixelFormat formatOf(const PixelLayout& layout);

/// Copies or, where the format or size differs, converts a decoded frame.
Image toImage(const AVFrame& frame, const PixelLayout& layout, int width, int height);

/// A frame of `format` with the picture's samples; converted by swscale with the matrix and range of `tags`
/// when the format differs. `outFullRange`: range of a YUV result. A picture of floats is encoded for the
/// screen first.
FramePtr toFrame(const Image& image, const ColourTags& tags, AVPixelFormat format, bool outFullRange);

/// FFmpeg's numbering of the matrix for swscale, guessed from the height when untagged.
int swsMatrix(int matrix, int height);

} // namespace yarngap
