// Frame n of a file, exactly, from any access order.
#pragma once

#include "core/error.h"
#include "core/files/reading_thread.h"
#include "core/image/image.h"
#include "core/media/media_index.h"

#include <functional>
#include <memory>
#include <stop_token>

namespace yarngap {

/// Thrown for a frame that the file holds no decodable picture of, or none at all. Other frames of it may be
/// well.
class Undecodable : public Error {
  public:
    using Error::Error;
};

/// A decoded source frame.
struct DecodedFrame {
    ImagePtr image;
    bool damaged = false; ///< the decoder met errors in it and covered them up
    /// Size in the file where it differs from the first frame's; the image is scaled to that one's. Else 0.
    int codedWidth = 0, codedHeight = 0;
};

/// Decodes single frames through an index. Not thread-safe; see FrameSource.
///
/// Going forward continues where it is; anything else starts at the key frame before. Every packet read is
/// compared with the index, its content too: a container that cannot be entered in the middle is read from
/// its start, and a file that somebody changes meanwhile is noticed, instead of giving a wrong frame.
class FrameDecoder {
  public:
    using Sink = std::function<void(std::int64_t frame, const DecodedFrame&)>;

    explicit FrameDecoder(std::shared_ptr<const MediaIndex> index);
    ~FrameDecoder();
    FrameDecoder(FrameDecoder&&) noexcept;
    FrameDecoder& operator=(FrameDecoder&&) noexcept;
    FrameDecoder(const FrameDecoder&) = delete;
    FrameDecoder& operator=(const FrameDecoder&) = delete;

    /// Display frame `n`, 0 ≤ n < frames. Frames decoded on the way go to `alongTheWay`.
    /// Throws Undecodable, naming the frame; SourceLost when the file is gone, changed or cannot be read;
    /// Cancelled when stopped.
    DecodedFrame decode(std::int64_t n, const Sink& alongTheWay = {}, const std::stop_token& stop = {});

  private:
    class State;
    [[nodiscard]] DecodedFrame readPictureOf(std::int64_t n, const std::stop_token& stop) const;

    std::shared_ptr<const MediaIndex> index_;
    std::unique_ptr<State> state_;           // null for picture sequences
    std::shared_ptr<ReadingThread> reading_; // null for video
};

/// The first picture that decoding shows, without an index, for showing something at once.
/// `facts` receives the file's claims.
ImagePtr decodeFirstPicture(const std::filesystem::path& path, MediaFacts& facts,
                            const std::stop_token& stop = {});

} // namespace yarngap
