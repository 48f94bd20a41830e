// Frames with their damaged places filled from what lies beside them.
#pragma once

#include "core/cleaning/cleanup.h"
#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

/// `frame` with the samples inside `places` made from those at both sides of each: line by line across its
/// shorter way, straight from the mean of two samples to the mean of two, leaning as what lies on both sides
/// shows, and with the grain of what lies beside. Where the picture ends at one side the other one goes on; a
/// place without sides stays. Parts of places beyond the picture are passed over.
Image withPlacesFilled(const Image& frame, const std::vector<DamagedPlace>& places);

/// Counts the frames of `source`; those that `cleanup` restores have their places filled. What is made again
/// is made from these: a scratch that stays is in the neighbours as well, where it would be taken for a thing
/// that stands still, and be made again with everything else. Thread-safe.
class FilledFrames final : public ShotFrames {
  public:
    FilledFrames(std::shared_ptr<ShotFrames> source, Cleanup cleanup);

    using ShotFrames::frame;
    using ShotFrames::identityOf;
    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override;
    [[nodiscard]] const MediaFacts& facts() const override { return source_->facts(); }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override;
    [[nodiscard]] std::vector<std::filesystem::path> files() const override { return source_->files(); }
    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t n) const override {
        return source_->troubleOf(n);
    }

  private:
    /// What is filled in a frame; null for nothing.
    [[nodiscard]] const std::vector<DamagedPlace>* placesOf(std::int64_t n) const;

    std::shared_ptr<ShotFrames> source_;
    Cleanup cleanup_;
    LruCache<std::int64_t, ImagePtr> cache_;
};

} // namespace yarngap
