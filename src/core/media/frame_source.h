// Source frames for whoever asks, from any thread, through a cache.
#pragma once

#include "core/media/frame_decoder.h"
#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"

#include <map>
#include <memory>
#include <mutex>
#include <string>

namespace yarngap {

/// Source frames of one media file. Thread-safe.
///
/// A frame that cannot be decoded is replaced by the nearest one before it that can (else after it), so that
/// a damaged file still gives every promised frame; `troubles` says which and how.
///
///     FrameSource source(std::make_shared<MediaIndex>(buildIndex(path)));
///     ImagePtr frame = source.frame(143);
class FrameSource final : public ShotFrames {
  public:
    static constexpr std::size_t defaultCacheBytes = std::size_t{384} << 20;

    explicit FrameSource(std::shared_ptr<const MediaIndex> index, std::size_t cacheBytes = defaultCacheBytes);

    /// Throws Error when neither the frame nor any near it can be decoded, Cancelled when stopped.
    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override;
    using ShotFrames::frame;

    [[nodiscard]] const MediaFacts& facts() const override { return index_->facts; }
    /// Content identity of the media: stays the same when the file is moved, changes when it is edited.
    [[nodiscard]] const std::string& identity() const override { return identity_; }
    [[nodiscard]] std::size_t cachedBytes() const { return cache_.bytes(); }

    /// Frames met so far that were damaged or replaced, by source frame, each with a sentence.
    [[nodiscard]] std::map<std::int64_t, std::string> troubles() const override;

  private:
    ImagePtr decode(std::int64_t n, const std::stop_token& stop);

    std::shared_ptr<const MediaIndex> index_;
    std::string identity_;
    LruCache<std::int64_t, ImagePtr> cache_;
    std::mutex decoderMutex_;
    std::unique_ptr<FrameDecoder> decoder_;
    mutable std::mutex troublesMutex_;
    std::map<std::int64_t, std::string> troubles_;
};

} // namespace yarngap
