// One output frame from one row of the plan. The only way from plan to pixels: preview, render and
// command line all come through here.
#pragma once

#include "core/media/shot_frames.h"
#include "core/motion/vector_store.h"
#include "core/synthesis/blend.h"
#include "core/time/frame_plan.h"

#include <memory>
#include <optional>
#include <vector>

namespace yarngap {

/// An output frame.
struct MadeFrame {
    ImagePtr image;
    std::optional<double> doubt; ///< of a flow frame, 0 to 1
};

/// What a row is made from.
struct RowInput {
    std::vector<ImagePtr> frames;    ///< the source frames, for all kinds but blends
    std::shared_ptr<BlendSum> blend; ///< the sum so far, for a blend
};

/// Makes output frames of one shot. Thread-safe; cheap to copy.
///
/// The three stages can be called one by one, as the render pipeline does, or in one go with `make`.
///
///     FrameMaker maker(source, vectors, {});
///     MadeFrame frame = maker.make(plan.rows[143]);
class FrameMaker {
  public:
    FrameMaker(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors, FlowOptions options)
        : source_(std::move(source))
        , store_(std::move(vectors))
        , options_(options) {}

    /// Stage 1: the source frames row.first..row.last, added up at once for a blend.
    [[nodiscard]] RowInput read(const PlanRow& row, const std::stop_token& stop = {}) const;
    /// Stage 2: the vectors of the row's gap; null unless it is a flow frame.
    [[nodiscard]] VectorsPtr estimate(const PlanRow& row, const RowInput& input,
                                      const std::stop_token& stop = {}) const;
    /// Stage 3: the picture. Originals, repeats and held frames are the source frame itself, bit for bit.
    [[nodiscard]] static MadeFrame synthesise(const PlanRow& row, const RowInput& input,
                                              const VectorsPtr& vectors);

    [[nodiscard]] MadeFrame make(const PlanRow& row, const std::stop_token& stop = {}) const;

    /// Key under which a made frame may be kept: equal exactly when media, frames, phase and settings are.
    [[nodiscard]] std::string contentKey(const PlanRow& row) const;
    [[nodiscard]] ShotFrames& source() const { return *source_; }

  private:
    std::shared_ptr<ShotFrames> source_;
    std::shared_ptr<VectorStore> store_;
    FlowOptions options_;
};

} // namespace yarngap
