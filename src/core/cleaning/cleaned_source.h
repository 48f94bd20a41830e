// The frames of a shot as its cleanup leaves them.
#pragma once

#include "core/cleaning/cleaned_frames.h"
#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"
#include "core/synthesis/frame_maker.h"

#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

/// What frames are made again with.
struct CleaningMeans {
    std::shared_ptr<VectorStore> vectors = nullptr;  ///< null: a small one of its own
    std::shared_ptr<FrameFolder> finished = nullptr; ///< where made frames are kept; null: nowhere
    /// Gaps between interpreted frames that are cuts, in order. Nothing is made across them.
    std::vector<std::int64_t> cuts = {};
};

/// Counts the frames of `origins`, which cleanedFrames() gave for `cleanup`. A rebuilt frame and one that is
/// put in are in-betweens of the nearest kept frames before and after, made with the thorough tier; where
/// kept frames are on one side only, the nearest of them stands in, and where there are none the frame stays.
/// A restored frame is its own picture but for the places, which come from such an in-between. What is made
/// reads `interpreted` alone, with damaged places filled (see FilledFrames), so that no made frame is made
/// from another. Thread-safe.
class CleanedSource final : public ShotFrames {
  public:
    CleanedSource(std::shared_ptr<ShotFrames> interpreted, Cleanup cleanup, std::vector<FrameOrigin> origins,
                  CleaningMeans means, std::size_t cacheBytes);

    using ShotFrames::frame;
    using ShotFrames::identityOf;
    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override;
    [[nodiscard]] const MediaFacts& facts() const override { return facts_; }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override;
    [[nodiscard]] std::int64_t numberBeforeCleanup(std::int64_t n) const override {
        return origins_.at(static_cast<std::size_t>(n)).frame;
    }
    [[nodiscard]] std::vector<std::filesystem::path> files() const override { return interpreted_->files(); }
    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t n) const override;

  private:
    /// How the picture of a made frame comes about.
    struct Recipe {
        std::optional<PlanRow> row; ///< the in-between; absent where a frame stands in
        std::int64_t standIn = 0;
    };
    [[nodiscard]] Recipe recipeOf(const FrameOrigin& origin) const;
    /// Where the picture that frame `n` shows comes from.
    [[nodiscard]] const FrameOrigin& shownAt(std::int64_t n) const {
        return origins_.at(static_cast<std::size_t>(shown_.at(static_cast<std::size_t>(n))));
    }
    [[nodiscard]] PlanRow inBetweenAt(const KeptAround& kept, const Rational& position) const;
    [[nodiscard]] ImagePtr made(const FrameOrigin& origin, const std::stop_token& stop);
    [[nodiscard]] std::string keyOf(const FrameOrigin& origin) const;

    std::shared_ptr<ShotFrames> interpreted_;
    Cleanup cleanup_;
    std::vector<FrameOrigin> origins_;
    std::vector<std::int64_t>
        shown_; ///< the frame whose picture each shows: itself, unless it is passed over
    std::vector<std::int64_t> cuts_;
    MediaFacts facts_;
    std::shared_ptr<ShotFrames> filled_;
    FrameMaker maker_;
    LruCache<std::string, ImagePtr> cache_;
    std::timed_mutex making_; ///< one frame at a time, so that none is made twice at once
};

} // namespace yarngap
