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
/// For a frame that cannot be decoded the nearest one before it that can stands in (else after it), so that a
/// damaged file still gives every promised frame; troubleOf() says so. Whoever must not show it has to ask.
/// Nothing stands in for frames of a file that is gone or was changed.
///
///     FrameSource source(std::make_shared<MediaIndex>(buildIndex(path)));
///     ImagePtr frame = source.frame(143);
class FrameSource final : public ShotFrames {
  public:
    static constexpr std::size_t defaultCacheBytes = std::size_t{384} << 20;

    explicit FrameSource(std::shared_ptr<const MediaIndex> index, std::size_t cacheBytes = defaultCacheBytes);

    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override;
    using ShotFrames::frame;
    using ShotFrames::identityOf;

    [[nodiscard]] const MediaFacts& facts() const override { return index_->facts; }
    /// Changes when the media is edited, anywhere; see mediaEdition.
    [[nodiscard]] const std::string& edition() const { return edition_; }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override;
    [[nodiscard]] std::vector<std::filesystem::path> files() const override;
    [[nodiscard]] std::size_t cachedBytes() const { return cache_.bytes(); }

    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t n) const override;

  private:
    ImagePtr decode(std::int64_t n, const std::stop_token& stop);
    void note(std::int64_t n, FrameTrouble::Kind kind, const std::string& sentence);
    [[nodiscard]] bool isUndecodable(std::int64_t n) const;

    std::shared_ptr<const MediaIndex> index_;
    std::string edition_;
    LruCache<std::int64_t, ImagePtr> cache_;
    std::mutex decoderMutex_;
    std::unique_ptr<FrameDecoder> decoder_;
    mutable std::mutex troublesMutex_;
    std::map<std::int64_t, FrameTrouble> troubles_;
};

} // namespace yarngap
