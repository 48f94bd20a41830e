#include "core/synthesis/gap_motion.h"
#include "core/synthesis/kind_makers.h"

#include <string>
#include <utility>

namespace yarngap {

namespace {

/// A gap with both its pictures taken apart along the matte.
struct PartGap {
    FramePair pair;
    ImagePtr a, b;
    FrameLayersPtr layersA, layersB;

    [[nodiscard]] bool isEmpty() const { return layersA->identity.empty() && layersB->identity.empty(); }
    [[nodiscard]] LayeredGap at(double phase) const { return {*layersA, *layersB, phase}; }
};

class PartedFrame final : public FrameInMaking {
  public:
    PartedFrame(FrameContextPtr context, const PlanRow& row)
        : context_(std::move(context))
        , row_(row) {}

    void read(const std::stop_token& stop) override {
        background_ = opened(row_.first, row_.last, stop);
        subject_ = opened(row_.subject->first, row_.subject->second, stop);
    }
    void estimate(const std::stop_token& stop) override {
        takeApart(background_, row_.first, row_.last, stop);
        takeApart(subject_, row_.subject->first, row_.subject->second, stop);
        const FrameLayers& a = *background_.layersA;
        const FrameLayers& b = *background_.layersB;
        vectors_.background = vectors(background_, "background", a.background, b.background, stop);
        if (!subject_.isEmpty())
            vectors_.subject =
                vectors(subject_, "subject", subject_.layersA->subject, subject_.layersB->subject, stop);
    }
    MadeFrame finish(const std::stop_token& stop) override {
        const ColourTags& colour = context_->source->facts().colour;
        const SynthesisOptions& options = context_->settingsOf(row_).synthesis;
        const double phase = phaseOf(row_).toDouble();
        WarpedFrame warped =
            vectors_.subject ? warpParts(background_.at(phase), subject_.at(subjectPhaseOf(row_).toDouble()),
                                         vectors_, context_->matte->onTop(), options, colour, stop)
                             : warpBetween(*background_.a, *background_.b, *vectors_.background, phase,
                                           options, colour, {}, stop);
        return {std::make_shared<Image>(std::move(warped.image)), warped.doubt, warped.edgeScale};
    }

  private:
    [[nodiscard]] PartGap opened(std::int64_t first, std::int64_t last, const std::stop_token& stop) const {
        ShotFrames& source = *context_->source;
        return {pairOf(source, first, last), source.frame(first, stop), source.frame(last, stop), {}, {}};
    }
    void takeApart(PartGap& gap, std::int64_t first, std::int64_t last, const std::stop_token& stop) const {
        gap.layersA = context_->matte->layers(first, *gap.a, stop);
        gap.layersB = context_->matte->layers(last, *gap.b, stop);
    }
    [[nodiscard]] VectorsPtr vectors(const PartGap& gap, const char* part, const Image& a, const Image& b,
                                     const std::stop_token& stop) const {
        // As GapMotion keeps those of a gap that both parts share.
        const std::string of =
            gap.pair.identity + ":matte:" + gap.layersA->identity + ':' + gap.layersB->identity + ':' + part;
        return context_->vectors->vectors({gap.pair.a, gap.pair.b, of}, a, b,
                                          context_->settingsOf(row_).flowOf(gap.pair.a, gap.pair.b), stop);
    }

    FrameContextPtr context_;
    PlanRow row_;
    PartGap background_, subject_;
    LayerVectors vectors_;
};

std::string keyOfParts(const FrameContext& context, const PlanRow& row) {
    const auto gap = [&](std::int64_t first, std::int64_t last) {
        return context.source->identityOf(first) + '>' + context.source->identityOf(last) + ':' +
               context.matte->key(first) + ':' + context.matte->key(last) + ':';
    };
    return "parts:" + gap(row.first, row.last) + phaseOf(row).toString() + ':' +
           gap(row.subject->first, row.subject->second) + subjectPhaseOf(row).toString() + ':' +
           keyOf(context.settingsOf(row).flowOf(row.subject->first, row.subject->second).guide) + ':' +
           GapMotion(context, row).key(row);
}

std::unique_ptr<FrameInMaking> beginParts(FrameContextPtr context, const PlanRow& row) {
    return std::make_unique<PartedFrame>(std::move(context), row);
}

} // namespace

const KindMaker partedFrames{keyOfParts, beginParts};

} // namespace yarngap
