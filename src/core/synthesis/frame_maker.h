// One output frame from one row of the plan. The only way from plan to pixels: preview, render and
// command line all come through here.
#pragma once

#include "core/synthesis/frame_context.h"
#include "core/synthesis/frame_folder.h"
#include "core/synthesis/frame_in_making.h"
#include "core/synthesis/frame_insight.h"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace yarngap {

/// Makes output frames of one shot; what each kind of frame takes is told by kind_makers.h. Thread-safe;
/// cheap to copy.
///
///     FrameMaker maker(source, vectors, plan.settings);
///     MadeFrame frame = maker.make(plan.rows[143]);
class FrameMaker {
  public:
    /// `settings` as in FramePlan::settings: each row names its own.
    FrameMaker(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
               const std::vector<GapSettings>& settings, const Matte& matte = {});
    /// The same settings for all rows.
    FrameMaker(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
               const InBetweens& settings, const Matte& matte = {});

    /// The frame of a row, to be made stage by stage, as a render needs it: no remakes of source frames go
    /// into its doubt.
    [[nodiscard]] std::unique_ptr<FrameInMaking> begin(const PlanRow& row) const;
    /// All stages, unless the frame is finished already.
    [[nodiscard]] MadeFrame make(const PlanRow& row, const std::stop_token& stop = {}) const;

    /// From now on frames of optical flow are looked for in `folder`, and those that make() makes are kept
    /// there. Not kept: drafts, frames with a matte from pictures, because their files may change, and what
    /// is made from damaged frames, because that has to be told.
    void keepFinishedIn(std::shared_ptr<FrameFolder> folder) { finished_ = std::move(folder); }
    /// From now on remakes of source frames (see remake.h) are looked for in `errors` and kept there, for
    /// makers of other settings too: most have no part in them.
    void shareRemakes(std::shared_ptr<RemakeErrors> errors);
    /// The frame as it was kept, if it was.
    [[nodiscard]] std::optional<MadeFrame> finished(const PlanRow& row) const;
    /// Whether it seems to be kept; quicker.
    [[nodiscard]] bool isFinished(const PlanRow& row) const;

    /// The same frame with what it is made of.
    [[nodiscard]] FrameInsight insight(const PlanRow& row, const std::stop_token& stop = {}) const;
    /// The motion of a flow row and how far to doubt it, without the picture; null for other rows, and for
    /// those with a shutter or a subject in a gap of its own.
    [[nodiscard]] std::optional<MotionLook> look(const PlanRow& row, const std::stop_token& stop = {}) const;
    /// The vectors of the gap of a flow row.
    [[nodiscard]] VectorsPtr vectorsOf(const PlanRow& row, const std::stop_token& stop = {}) const;

    /// Key under which a made frame may be kept: equal exactly when pictures, phase and settings are.
    [[nodiscard]] std::string contentKey(const PlanRow& row) const;
    /// Whether the vectors of a flow row's gap are in memory; with a matte that is not known.
    [[nodiscard]] bool hasVectors(const PlanRow& row) const;
    /// Whether forDraft() makes the frame much sooner.
    [[nodiscard]] bool isDraftSooner(const PlanRow& row) const;
    [[nodiscard]] ShotFrames& source() const { return *context_->source; }
    /// What is wrong with the source frames that the row shows or is made from. Known once it was read.
    [[nodiscard]] std::map<std::int64_t, FrameTrouble> troublesOf(const PlanRow& row) const;
    /// All files that frames are made from: source, matte, vectors. Throws Error when they cannot be listed.
    [[nodiscard]] std::vector<std::filesystem::path> inputFiles() const;
    /// Why vectors could not be kept on disk, empty when all is well; they were made and used all the same.
    [[nodiscard]] std::string vectorTrouble() const;
    /// The same shot for a quick look: in draft, at half its size where it is large enough and has no
    /// matte, and halved further until its shorter side is below 480 pixels.
    [[nodiscard]] FrameMaker forDraft() const;

  private:
    [[nodiscard]] bool isToBeKept(const PlanRow& row) const;
    [[nodiscard]] bool isDraft(const PlanRow& row) const {
        return context_->settingsOf(row).flow.quality == FlowQuality::draft;
    }

    void use(const FrameContext& context);

    FrameContextPtr context_;
    FrameContextPtr unjudged_;              ///< the same without remakes
    std::shared_ptr<FrameFolder> finished_; ///< null: nothing is kept
};

} // namespace yarngap
