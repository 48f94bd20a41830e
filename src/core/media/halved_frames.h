// A shot at half its size, for a quick look.
#pragma once

#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"

#include <memory>
#include <string>

namespace yarngap {

/// The frames of another source with each 2 x 2 samples of a plane taken as one; odd sizes are rounded up,
/// and what is left over at an edge counts double. Thread-safe.
class HalvedFrames final : public ShotFrames {
  public:
    static constexpr std::size_t cacheBytes = std::size_t{32} << 20;

    explicit HalvedFrames(std::shared_ptr<ShotFrames> whole);

    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override;
    using ShotFrames::frame;
    using ShotFrames::identityOf;
    [[nodiscard]] const MediaFacts& facts() const override { return facts_; }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override {
        return whole_->identityOf(first, last) + ":half";
    }
    [[nodiscard]] std::vector<std::filesystem::path> files() const override { return whole_->files(); }
    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t n) const override {
        return whole_->troubleOf(n);
    }

  private:
    std::shared_ptr<ShotFrames> whole_;
    MediaFacts facts_;
    LruCache<std::int64_t, ImagePtr> frames_{cacheBytes};
};

/// `image` at half its size.
Image halved(const Image& image);

} // namespace yarngap
