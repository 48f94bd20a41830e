// Motion inside the gaps of a shot, and the pictures of moments in them.
#pragma once

#include "core/synthesis/frame_context.h"
#include "core/synthesis/frame_insight.h"
#include "core/synthesis/layers.h"

#include <optional>
#include <stop_token>
#include <string>

namespace yarngap {

/// A gap with the pictures at both its ends.
struct GapPictures {
    const PlanRow& row; ///< between source frames row.first and row.last
    const Image& a;
    const Image& b;
};

/// The gaps of a shot under one row's settings. A view: what it is made of must outlive it.
class GapMotion {
  public:
    GapMotion(const FrameContext& context, const PlanRow& row)
        : context_(context)
        , settings_(context.settingsOf(row)) {}

    /// The vectors of a gap with what the gaps beside tell of it; of both layers where there is a matte.
    [[nodiscard]] LayerVectors vectors(const GapPictures& gap, const std::stop_token& stop) const;
    /// The picture at `phase`, 0 to 1, of a gap.
    [[nodiscard]] WarpedFrame momentIn(const GapPictures& gap, const LayerVectors& vectors, double phase,
                                       const std::stop_token& stop) const;
    /// How that is made.
    [[nodiscard]] MidMotion motionIn(const GapPictures& gap, const LayerVectors& vectors, double phase,
                                     const std::stop_token& stop) const;
    /// Whether the vectors of a gap are in memory; with a matte that is not known.
    [[nodiscard]] bool isInMemory(const PlanRow& row) const;
    /// What the motion of a row's gap, and the pictures made by it, depend on besides the pictures.
    [[nodiscard]] std::string key(const PlanRow& row) const;
    [[nodiscard]] bool mixesLight() const { return settings_.synthesis.linearLight; }

  private:
    /// How the motion of a row's gap is estimated.
    [[nodiscard]] FlowOptions flowOf(const PlanRow& row) const {
        return settings_.flowOf(row.first, row.last);
    }
    [[nodiscard]] std::optional<LayerVectors> layerVectors(const GapPictures& gap,
                                                           const std::stop_token& stop) const;
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
               !isLarge(context_.source->facts().width, context_.source->facts().height);
    }
    [[nodiscard]] GapsBeside gapsBeside(const PlanRow& row, const std::stop_token& stop) const;
    [[nodiscard]] std::optional<double> remakeErrorOf(const GapPictures& gap,
                                                      const std::stop_token& stop) const;
    /// Empty for −1.
    [[nodiscard]] std::string identityOf(std::int64_t frame) const {
        return frame < 0 ? std::string() : context_.source->identityOf(frame);
    }

    const FrameContext& context_;
    const InBetweens& settings_;
};

} // namespace yarngap
