// A frame taken apart along its matte: the subject and what is behind it, each whole.
#pragma once

#include "core/image/image.h"
#include "core/motion/vectors.h"
#include "core/settings/synthesis_options.h"
#include "core/synthesis/warp.h"

#include <memory>
#include <string>

namespace yarngap {

/// The layers of one frame.
struct FrameLayers {
    Image subject;        ///< its colours go on smoothly beyond its outline
    Image background;     ///< its colours go on smoothly where the subject hides it
    Image coverage;       ///< of the subject: grey, 16 bit, 0 to 65535
    std::string identity; ///< different for different coverage; empty where there is no subject at all

    [[nodiscard]] std::size_t byteCount() const {
        return subject.byteCount() + background.byteCount() + coverage.byteCount();
    }
};

using FrameLayersPtr = std::shared_ptr<const FrameLayers>;

/// Layout of coverage.
inline constexpr PixelLayout coverageLayout{.model = ColourModel::grey, .depth = 16};

/// Takes `frame` apart. The subject is seen where coverage is next to whole, the background where it is next
/// to nothing, so that neither holds colours of the other's edge; what a layer lacks is filled from around by
/// a pyramid of means (pull and push; Gortler, Grzeszczuk, Szeliski, Cohen: The lumigraph, 1996). `coverage`
/// has the size of the frame.
FrameLayers layersOf(const Image& frame, Image coverage);

/// Motion over a gap of the two layers.
struct LayerVectors {
    VectorsPtr background; ///< of the whole picture where there is no subject
    VectorsPtr subject;
    Beside beside = {}; ///< without a subject
};

/// The picture at `phase` of the gap between `a` and `b`: both layers moved by their own vectors, and one
/// laid on the other. What the subject hides in one frame is taken from the other, where it is seen there.
/// With `onTop` the subject covers the background, else the background covers the subject.
///
/// Doubt is the mean of both layers', each for the part of the picture where it is seen.
WarpedFrame warpLayers(const FrameLayers& a, const FrameLayers& b, const LayerVectors& vectors, double phase,
                       bool onTop, const SynthesisOptions& options = {}, const ColourTags& tags = {},
                       const std::stop_token& stop = {});

/// A pair of layered frames, and where between them a picture lies.
struct LayeredGap {
    const FrameLayers& a;
    const FrameLayers& b;
    double phase = 0;
};

/// The same where the subject has another gap than the background: each part is moved between frames of its
/// own. Where the background lies on a frame, what that frame shows of it is taken bit for bit. The vectors
/// are those of both gaps.
WarpedFrame warpParts(const LayeredGap& background, const LayeredGap& subject, const LayerVectors& vectors,
                      bool onTop, const SynthesisOptions& options = {}, const ColourTags& tags = {},
                      const std::stop_token& stop = {});

/// The motion, trust and shares by which warpLayers makes the same frame, in each cell those of the layer
/// that shows there.
MidMotion motionOfLayers(const FrameLayers& a, const FrameLayers& b, const LayerVectors& vectors,
                         double phase, bool onTop, const SynthesisOptions& options = {});

} // namespace yarngap
