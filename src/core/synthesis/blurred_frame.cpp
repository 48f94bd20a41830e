#include "core/progress.h"
#include "core/synthesis/gap_motion.h"
#include "core/synthesis/kind_makers.h"
#include "core/synthesis/picture_mean.h"
#include "core/synthesis/shutter.h"

#include <algorithm>
#include <map>
#include <vector>

namespace yarngap {

namespace {

/// The gaps through which a blurred row sees, and where in them it lies. Of a bridged row it is a single one,
/// from frame `first` to `first + step`, which counts as one frame.
struct Exposure {
    double place, open;        ///< in gaps
    std::int64_t first, last;  ///< counted in gaps
    std::int64_t origin, step; ///< gap n begins at source frame origin + n * step

    explicit Exposure(const PlanRow& row)
        : place(row.position.toDouble())
        , open(row.open.toDouble())
        , first(row.first)
        , last(row.last)
        , origin(0)
        , step(1) {
        if (!row.bridged) return;
        step = row.last - row.first;
        origin = row.first;
        place = phaseOf(row).toDouble();
        open /= static_cast<double>(step);
        first = 0;
        last = 1;
    }
    [[nodiscard]] std::int64_t frame(std::int64_t gap) const { return origin + gap * step; }
};

/// A row inside one of the gaps that a blurred one sees. Where the frames at both its ends have others beside
/// them, so have those of all gaps between.
PlanRow gapOf(const PlanRow& blurred, std::int64_t a, std::int64_t b) {
    PlanRow row = blurred;
    row.open = 0;
    row.first = a;
    row.last = b;
    if (row.shake && row.shake->gap != a) row.shake.reset();
    const bool known = blurred.before >= 0 && blurred.after >= 0;
    row.before = known ? a - 1 : -1;
    row.after = known ? b + 1 : -1;
    return row;
}

/// Gaps whose vectors a frame on its way may hold.
std::size_t gapsHeld(const MediaFacts& facts) {
    constexpr std::size_t most = 4;
    return isLarge(facts.width, facts.height) ? 1 : most;
}

class BlurredFrame final : public FrameInMaking {
  public:
    BlurredFrame(FrameContextPtr context, const PlanRow& row)
        : context_(std::move(context))
        , row_(row)
        , through_(row) {}

    /// All it sees, so that what is wrong with it is known; at hand stays its own gap.
    void read(const std::stop_token& stop) override {
        for (std::int64_t gap = through_.first; gap <= through_.last; ++gap) {
            ImagePtr picture = context_->source->frame(through_.frame(gap), stop);
            if (gap == ownGap() || gap == ownGap() + 1) pictures_.push_back(std::move(picture));
        }
    }

    /// The motion of its own gap says how many moments are needed, and so which other gaps are.
    void estimate(const std::stop_token& stop) override {
        const LayerVectors& own = motions_[ownGap()] = motionOf(ownGap(), stop);
        moments_ = shutterMoments(*(own.subject ? own.subject : own.background), through_.place,
                                  through_.open, through_.first, through_.last);
        for (const ShutterMoment& moment : moments_) {
            if (motions_.size() == gapsHeld(context_->source->facts())) return;
            if (moment.phase > 0 && !motions_.contains(moment.frame))
                motions_[moment.frame] = motionOf(moment.frame, stop);
        }
    }

    MadeFrame finish(const std::stop_token& stop) override {
        PictureMean mean(GapMotion(*context_, row_).mixesLight(), context_->source->facts().colour);
        MadeFrame made{nullptr, 0.0, 1};
        for (const ShutterMoment& moment : moments_) {
            throwIfStopped(stop);
            if (moment.phase > 0)
                addMoment(mean, made, moment, stop);
            else
                mean.add(*context_->source->frame(through_.frame(moment.frame), stop), moment.share);
        }
        made.image = std::make_shared<Image>(mean.mean());
        return made;
    }

  private:
    [[nodiscard]] std::int64_t ownGap() const {
        return row_.bridged ? 0 : std::clamp(row_.position.frame, row_.first, row_.last - 1);
    }
    [[nodiscard]] PlanRow rowOf(std::int64_t gap) const {
        return gapOf(row_, through_.frame(gap), through_.frame(gap + 1));
    }
    [[nodiscard]] LayerVectors motionOf(std::int64_t gap, const std::stop_token& stop) const {
        const PlanRow row = rowOf(gap);
        const ImagePtr a = context_->source->frame(row.first, stop);
        const ImagePtr b = context_->source->frame(row.last, stop);
        return GapMotion(*context_, row).vectors({row, *a, *b}, stop);
    }
    void addMoment(PictureMean& mean, MadeFrame& made, const ShutterMoment& moment,
                   const std::stop_token& stop) {
        auto motion = motions_.find(moment.frame);
        if (motion == motions_.end()) { // moments rise: none of the gaps before is needed again
            motions_.clear();
            motion = motions_.emplace(moment.frame, motionOf(moment.frame, stop)).first;
        }
        const PlanRow row = rowOf(moment.frame);
        const ImagePtr a = context_->source->frame(row.first, stop);
        const ImagePtr b = context_->source->frame(row.last, stop);
        const WarpedFrame warped =
            GapMotion(*context_, row).momentIn({row, *a, *b}, motion->second, moment.phase, stop);
        made.doubt = std::max(*made.doubt, warped.doubt);
        made.edgeScale = std::max(made.edgeScale, warped.edgeScale);
        mean.add(warped.image, moment.share);
    }

    FrameContextPtr context_;
    PlanRow row_;
    Exposure through_;
    std::vector<ImagePtr> pictures_; ///< of its own gap, read ahead
    std::map<std::int64_t, LayerVectors> motions_;
    std::vector<ShutterMoment> moments_;
};

std::string keyOfBlurred(const FrameContext& context, const PlanRow& row) {
    const Rational place = Rational(row.position.frame - row.first) + row.position.phase;
    return context.source->identityOf(row.first, row.last) + ":blurred:" + place.toString() + ':' +
           row.open.toString() + (row.bridged ? ":bridged:" : ":") + GapMotion(context, row).key(row);
}

std::unique_ptr<FrameInMaking> beginBlurred(FrameContextPtr context, const PlanRow& row) {
    return std::make_unique<BlurredFrame>(std::move(context), row);
}

} // namespace

const KindMaker blurredFrames{keyOfBlurred, beginBlurred};

} // namespace yarngap
