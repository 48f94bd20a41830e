// One output frame from one row of the plan. The only way from plan to pixels: preview, render and
// command line all come through here.
#pragma once

#include "core/image/light_mean.h"
#include "core/media/shot_frames.h"
#include "core/motion/vector_store.h"
#include "core/synthesis/blend.h"
#include "core/synthesis/frame_folder.h"
#include "core/synthesis/frame_insight.h"
#include "core/synthesis/in_betweens.h"
#include "core/synthesis/matte_frames.h"
#include "core/synthesis/remake.h"
#include "core/time/frame_plan.h"

#include <memory>
#include <optional>
#include <vector>

namespace yarngap {

/// What a row is made from.
struct RowInput {
    std::vector<ImagePtr> frames;     ///< the source frames, for all kinds but blends
    std::shared_ptr<BlendSum> blend;  ///< the sum so far, for a blend or a blurred frame
    std::shared_ptr<LightMean> light; ///< the same as light, where that is asked for
    double doubt = 0;                 ///< of a blurred frame, the greatest of its moments
    double edgeScale = 1;             ///< the same
};

/// Makes output frames of one shot. Thread-safe; cheap to copy.
///
/// The three stages can be called one by one, as the render pipeline does, or in one go with `make`.
///
///     FrameMaker maker(source, vectors, {});
///     MadeFrame frame = maker.make(plan.rows[143]);
class FrameMaker {
  public:
    FrameMaker(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
               const InBetweens& settings, const Matte& matte = {});

    /// Stage 1: the source frames row.first..row.last, added up at once for a blend. A row with an open
    /// shutter is made here as a whole, moment by moment.
    [[nodiscard]] RowInput read(const PlanRow& row, const std::stop_token& stop = {}) const;
    /// Stage 2: the vectors of the row's gap; none unless it is a flow frame.
    [[nodiscard]] LayerVectors estimate(const PlanRow& row, const RowInput& input,
                                        const std::stop_token& stop = {}) const;
    /// Stage 3: the picture. Originals, repeats and held frames are the source frame itself, bit for bit.
    [[nodiscard]] MadeFrame synthesise(const PlanRow& row, const RowInput& input, const LayerVectors& vectors,
                                       const std::stop_token& stop = {}) const;

    /// All three, unless the frame is finished already.
    [[nodiscard]] MadeFrame make(const PlanRow& row, const std::stop_token& stop = {}) const;

    /// From now on frames of optical flow are looked for in `folder`, and those that make() makes are kept
    /// there. Not kept: drafts, frames with a matte from pictures, because their files may change, and what
    /// is made from damaged frames, because that has to be told.
    void keepFinishedIn(std::shared_ptr<FrameFolder> folder) { finished_ = std::move(folder); }
    /// From now on remakes of source frames (see remake.h) are looked for in `errors` and kept there, for
    /// makers of other settings too: most have no part in them.
    void shareRemakes(std::shared_ptr<RemakeErrors> errors) { remakes_ = std::move(errors); }
    /// The frame as it was kept, if it was.
    [[nodiscard]] std::optional<MadeFrame> finished(const PlanRow& row) const;
    /// Whether it seems to be kept; quicker.
    [[nodiscard]] bool isFinished(const PlanRow& row) const;

    /// The same frame with what it is made of.
    [[nodiscard]] FrameInsight insight(const PlanRow& row, const std::stop_token& stop = {}) const;

    /// Key under which a made frame may be kept: equal exactly when media, frames, phase and settings are.
    [[nodiscard]] std::string contentKey(const PlanRow& row) const;
    /// Whether the vectors of a flow row's gap are in memory; with a matte that is not known.
    [[nodiscard]] bool hasVectors(const PlanRow& row) const {
        if (matte_) return false;
        return continues(row) ? store_->hasContinued(source_->identity(), row.first, row.last, settings_.flow,
                                                     row.before, row.after)
                              : store_->has(source_->identity(), row.first, row.last, settings_.flow);
    }
    [[nodiscard]] ShotFrames& source() const { return *source_; }
    /// The worst that is wrong with the source frames that the row shows or is made from. Known once the row
    /// was read.
    [[nodiscard]] std::optional<FrameTrouble> troubleIn(const PlanRow& row) const;
    /// All files that frames are made from: source, matte, vectors. Throws Error when they cannot be listed.
    [[nodiscard]] std::vector<std::filesystem::path> inputFiles() const;
    [[nodiscard]] const InBetweens& settings() const { return settings_; }
    /// Why vectors could not be kept on disk, empty when all is well; they were made and used all the same.
    [[nodiscard]] std::string vectorTrouble() const { return store_ ? store_->trouble() : std::string(); }
    /// The same shot for a quick look: in draft, at half its size where it is large enough and has no matte.
    [[nodiscard]] FrameMaker forDraft() const;
    /// The same shot with other settings.
    [[nodiscard]] FrameMaker with(const InBetweens& settings) const {
        FrameMaker other = *this;
        other.settings_ = settings;
        return other;
    }

  private:
    /// The vectors of a row's gap with what the gaps beside tell of it; `frameA` and `frameB` are its frames.
    [[nodiscard]] LayerVectors vectorsOfGap(const PlanRow& row, const Image& frameA, const Image& frameB,
                                            const std::stop_token& stop) const;
    [[nodiscard]] RowInput blurred(const PlanRow& row, const std::stop_token& stop) const;
    /// Vectors of both layers of the matte; nothing where the matte has no subject in either frame.
    [[nodiscard]] std::optional<LayerVectors> layerVectors(const PlanRow& row, const Image& frameA,
                                                           const Image& frameB,
                                                           const std::stop_token& stop) const;
    /// The moment at `phase` between source frames `a` and `b`.
    [[nodiscard]] WarpedFrame momentIn(std::int64_t a, std::int64_t b, const Image& frameA,
                                       const Image& frameB, const LayerVectors& vectors, double phase,
                                       const std::stop_token& stop = {}) const;
    /// Whether the gaps beside a row are looked at.
    [[nodiscard]] bool looksBeside() const { return settings_.flow.quality != FlowQuality::draft; }
    [[nodiscard]] bool bends(const PlanRow& row) const {
        return settings_.synthesis.bendPaths && looksBeside() && row.before >= 0 && row.after >= 0;
    }
    /// Whether motion of the gaps beside goes on into that of a row; see continueMotion.
    [[nodiscard]] bool continues(const PlanRow& row) const {
        return looksFinely() && (row.before >= 0 || row.after >= 0);
    }
    /// Whether the gaps beside are looked at at the full size. Finer motion tells more of the curve, at the
    /// cost of two estimates; of large pictures too few fit into memory for the next in-between to find them.
    [[nodiscard]] bool looksFinely() const {
        return settings_.flow.quality == FlowQuality::thorough &&
               !isLarge(source_->facts().width, source_->facts().height);
    }
    [[nodiscard]] GapsBeside gapsBeside(const PlanRow& row, const std::stop_token& stop) const;
    [[nodiscard]] std::optional<double> remakeErrorOf(const PlanRow& row, const Image& frameA,
                                                      const Image& frameB, const std::stop_token& stop) const;
    [[nodiscard]] bool isKept(const PlanRow& row) const;
    [[nodiscard]] bool mixesLight() const { return settings_.synthesis.linearLight; }

    std::shared_ptr<ShotFrames> source_;
    std::shared_ptr<VectorStore> store_;
    std::shared_ptr<RemakeErrors> remakes_ = std::make_shared<RemakeErrors>();
    InBetweens settings_;
    std::shared_ptr<const MatteFrames> matte_; ///< null without a matte
    bool picturesMatte_ = false;               ///< it comes from pictures
    std::shared_ptr<FrameFolder> finished_;    ///< null: nothing is kept
    float scale_ = 1;                          ///< width of the frames over that of the shot
};

} // namespace yarngap
