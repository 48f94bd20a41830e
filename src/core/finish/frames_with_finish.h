// Output frames finished.
#pragma once

#include "core/finish/finish.h"
#include "core/finish/finish_geometry.h"
#include "core/finish/finished_picture.h"
#include "core/media/lru_cache.h"
#include "core/synthesis/output_frames.h"

#include <memory>
#include <string>

namespace yarngap {

/// Where an output frame lies on the source axis.
FinishPlace finishPlaceOf(const FramePlan& plan, std::int64_t n);

/// The frames of another with a finish. A frame that it does not touch is that of the frames below, bit for
/// bit. Thread-safe.
class FramesWithFinish final : public OutputFrames {
  public:
    /// Frames below, by their key, so that another finish of one is quick.
    using Memory = LruCache<std::string, MadeFrame>;

    /// Without a memory nothing is kept.
    FramesWithFinish(const OutputFramesPtr& below, const Finish& finish,
                     std::shared_ptr<Memory> memory = nullptr);

    [[nodiscard]] const FramePlan& plan() const override { return below_->plan(); }
    [[nodiscard]] const MediaFacts& facts() const override { return facts_; }
    [[nodiscard]] ShotFrames& source() const override { return below_->source(); }
    [[nodiscard]] std::string key(std::int64_t n) const override;
    [[nodiscard]] std::unique_ptr<FrameInMaking> begin(std::int64_t n) const override;
    using OutputFrames::make;
    [[nodiscard]] MadeFrame make(std::int64_t n, const std::stop_token& stop) const override;
    [[nodiscard]] std::optional<MadeFrame> kept(std::int64_t n) const override;
    [[nodiscard]] bool isKept(std::int64_t n) const override { return below_->isKept(n); }
    [[nodiscard]] FrameInsight insight(std::int64_t n, const std::stop_token& stop) const override;
    [[nodiscard]] OutputFramesPtr drafts() const override;
    [[nodiscard]] bool isDraftSooner(std::int64_t n) const override;
    [[nodiscard]] std::map<std::int64_t, FrameTrouble> troublesOf(std::int64_t n) const override {
        return below_->troublesOf(n);
    }
    [[nodiscard]] std::vector<std::filesystem::path> inputFiles() const override {
        return below_->inputFiles();
    }
    [[nodiscard]] std::string keepingTrouble() const override { return below_->keepingTrouble(); }
    [[nodiscard]] ImagePtr sourceAsShown(std::int64_t frame, const std::stop_token& stop) const override;
    [[nodiscard]] std::string keyOfSourceAsShown(std::int64_t frame) const override;

    [[nodiscard]] const FinishGeometry& geometry() const { return parts_->geometry; }
    /// Where an output frame lies.
    [[nodiscard]] FinishPlace placeOf(std::int64_t n) const { return finishPlaceOf(plan(), n); }

  private:
    class InMaking;
    struct Parts {
        Finish finish;
        FinishGeometry geometry;
        std::shared_ptr<const Tone> tone; ///< null where there is none
        std::shared_ptr<Memory> memory;
    };
    FramesWithFinish(OutputFramesPtr below, std::shared_ptr<const Parts> parts, bool isDraft);
    [[nodiscard]] PictureFinish finishAt(const FinishPlace& place, bool isMade, std::uint64_t seed) const;
    [[nodiscard]] PictureFinish finishOf(std::int64_t n) const;
    [[nodiscard]] ImagePtr finishedImage(const ImagePtr& made, PictureFinish finish,
                                         const FinishPlace& place) const;
    [[nodiscard]] MadeFrame finishedFrame(std::int64_t n, MadeFrame made) const;
    [[nodiscard]] std::string keyOf(const PictureFinish& finish, const FinishPlace& place) const;

    OutputFramesPtr below_;
    std::shared_ptr<const Parts> parts_;
    bool isDraft_ = false;
    MediaFacts facts_;
    double scaleX_ = 1, scaleY_ = 1; ///< of the frames below over the source
};

} // namespace yarngap
