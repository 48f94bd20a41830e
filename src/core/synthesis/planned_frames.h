// Output frames as a plan asks for them.
#pragma once

#include "core/synthesis/frame_maker.h"
#include "core/synthesis/output_frames.h"

#include <memory>
#include <utility>

namespace yarngap {

/// The frames of `plan`, made by `maker`.
class PlannedFrames final : public OutputFrames {
  public:
    PlannedFrames(std::shared_ptr<const FramePlan> plan, FrameMaker maker)
        : plan_(std::move(plan))
        , maker_(std::move(maker)) {}

    [[nodiscard]] const FramePlan& plan() const override { return *plan_; }
    [[nodiscard]] const MediaFacts& facts() const override { return maker_.source().facts(); }
    [[nodiscard]] ShotFrames& source() const override { return maker_.source(); }
    [[nodiscard]] std::string key(std::int64_t n) const override { return maker_.contentKey(row(n)); }
    [[nodiscard]] std::unique_ptr<FrameInMaking> begin(std::int64_t n) const override {
        return maker_.begin(row(n));
    }
    using OutputFrames::make;
    [[nodiscard]] MadeFrame make(std::int64_t n, const std::stop_token& stop) const override {
        return maker_.make(row(n), stop);
    }
    [[nodiscard]] std::optional<MadeFrame> kept(std::int64_t n) const override {
        return maker_.finished(row(n));
    }
    [[nodiscard]] bool isKept(std::int64_t n) const override { return maker_.isFinished(row(n)); }
    [[nodiscard]] FrameInsight insight(std::int64_t n, const std::stop_token& stop) const override {
        return maker_.insight(row(n), stop);
    }
    [[nodiscard]] OutputFramesPtr drafts() const override {
        return std::make_shared<PlannedFrames>(plan_, maker_.forDraft());
    }
    [[nodiscard]] bool isDraftSooner(std::int64_t n) const override {
        return maker_.isDraftSooner(row(n)) && !isKept(n);
    }
    [[nodiscard]] std::map<std::int64_t, FrameTrouble> troublesOf(std::int64_t n) const override {
        return maker_.troublesOf(row(n));
    }
    [[nodiscard]] std::vector<std::filesystem::path> inputFiles() const override {
        return maker_.inputFiles();
    }
    [[nodiscard]] std::string keepingTrouble() const override { return maker_.vectorTrouble(); }
    [[nodiscard]] const FrameMaker& maker() const { return maker_; }
    /// The vectors of a row's gap; of a row of FrameKind::flow without a shutter.
    [[nodiscard]] VectorsPtr vectorsOf(std::int64_t n, const std::stop_token& stop) const {
        return maker_.vectorsOf(row(n), stop);
    }

  private:
    std::shared_ptr<const FramePlan> plan_;
    FrameMaker maker_;
};

} // namespace yarngap
