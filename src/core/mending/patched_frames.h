// Output frames with the patches of their shot laid on them.
#pragma once

#include "core/mending/carried_outlines.h"
#include "core/mending/what_lies_behind.h"
#include "core/settings/mend.h"
#include "core/synthesis/planned_frames.h"

#include <array>
#include <memory>
#include <string>
#include <vector>

namespace yarngap {

/// A patch at work.
struct PatchAtWork {
    GapRange gaps;
    Patch patch;
    /// The same output frames made otherwise, for PatchShows::otherwise; else null.
    OutputFramesPtr otherwise = nullptr;
};

/// What patches are carried along with.
struct PatchMeans {
    std::shared_ptr<ShotFrames> source; ///< at its full size
    std::shared_ptr<VectorStore> vectors;
    std::vector<std::int64_t> cuts; ///< gaps, in order
    std::shared_ptr<CarriedOutlines::Memory> memory = nullptr;
};

/// The frames of another with patches laid on them, in their order. A patch counts in the frames that lie in
/// its gaps, originals left out unless it says so; samples outside all outlines are those of the frames
/// below, bit for bit. Thread-safe.
class PatchedFrames final : public OutputFrames {
  public:
    PatchedFrames(OutputFramesPtr below, std::vector<PatchAtWork> patches, const PatchMeans& means);

    [[nodiscard]] const FramePlan& plan() const override { return below_->plan(); }
    [[nodiscard]] const MediaFacts& facts() const override { return below_->facts(); }
    [[nodiscard]] ShotFrames& source() const override { return below_->source(); }
    [[nodiscard]] std::string key(std::int64_t n) const override;
    [[nodiscard]] std::unique_ptr<FrameInMaking> begin(std::int64_t n) const override;
    using OutputFrames::make;
    [[nodiscard]] MadeFrame make(std::int64_t n, const std::stop_token& stop) const override;
    [[nodiscard]] std::optional<MadeFrame> kept(std::int64_t n) const override {
        return of(n).empty() ? below_->kept(n) : std::nullopt;
    }
    [[nodiscard]] bool isKept(std::int64_t n) const override { return of(n).empty() && below_->isKept(n); }
    [[nodiscard]] FrameInsight insight(std::int64_t n, const std::stop_token& stop) const override;
    [[nodiscard]] OutputFramesPtr drafts() const override;
    [[nodiscard]] bool isDraftSooner(std::int64_t n) const override;
    [[nodiscard]] std::map<std::int64_t, FrameTrouble> troublesOf(std::int64_t n) const override;
    [[nodiscard]] std::vector<std::filesystem::path> inputFiles() const override {
        return below_->inputFiles();
    }
    [[nodiscard]] std::string keepingTrouble() const override { return below_->keepingTrouble(); }

  private:
    class InMaking;
    struct Tools;
    struct Copy {};
    /// The same frames again; all that is large is shared.
    PatchedFrames(const PatchedFrames& other, Copy /*copy*/)
        : below_(other.below_)
        , patches_(other.patches_)
        , tools_(other.tools_)
        , byRow_(other.byRow_)
        , scale_(other.scale_) {}
    PatchedFrames(OutputFramesPtr below, std::shared_ptr<const std::vector<PatchAtWork>> patches,
                  std::shared_ptr<const Tools> tools, double scale);
    /// The patches that lie on an output frame.
    [[nodiscard]] const std::vector<std::size_t>& of(std::int64_t n) const {
        return byRow_->at(static_cast<std::size_t>(n));
    }
    [[nodiscard]] Rational positionOf(std::int64_t n) const;
    void patch(Image& frame, std::int64_t n, std::size_t i, const Image* otherwise,
               const std::stop_token& stop) const;
    [[nodiscard]] Image nearest(const Image& frame, std::int64_t n, const PatchAtWork& patch,
                                const PictureArea& place, const std::stop_token& stop) const;

    OutputFramesPtr below_;
    std::shared_ptr<const std::vector<PatchAtWork>> patches_;
    std::shared_ptr<const Tools> tools_;
    std::shared_ptr<const std::vector<std::vector<std::size_t>>> byRow_;
    double scale_ = 1; ///< width of these frames over that of the source
};

} // namespace yarngap
