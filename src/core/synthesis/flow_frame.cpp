#include "core/synthesis/gap_motion.h"
#include "core/synthesis/kind_makers.h"

namespace yarngap {

namespace {

class FlowFrame final : public FrameInMaking {
  public:
    FlowFrame(FrameContextPtr context, const PlanRow& row)
        : context_(std::move(context))
        , row_(row) {}
    void read(const std::stop_token& stop) override {
        a_ = context_->source->frame(row_.first, stop);
        b_ = context_->source->frame(row_.last, stop);
    }
    void estimate(const std::stop_token& stop) override {
        vectors_ = GapMotion(*context_, row_).vectors({row_, *a_, *b_}, stop);
    }
    MadeFrame finish(const std::stop_token& stop) override {
        WarpedFrame warped =
            GapMotion(*context_, row_).momentIn({row_, *a_, *b_}, vectors_, phaseOf(row_).toDouble(), stop);
        return {std::make_shared<Image>(std::move(warped.image)), warped.doubt, warped.edgeScale};
    }

  private:
    FrameContextPtr context_;
    PlanRow row_;
    ImagePtr a_, b_;
    LayerVectors vectors_;
};

std::string keyOfFlow(const FrameContext& context, const PlanRow& row) {
    return context.source->identityOf(row.first) + '>' + context.source->identityOf(row.last) +
           ":flow:" + phaseOf(row).toString() + ':' + GapMotion(context, row).key(row);
}

std::unique_ptr<FrameInMaking> beginFlow(FrameContextPtr context, const PlanRow& row) {
    return std::make_unique<FlowFrame>(std::move(context), row);
}

} // namespace

const KindMaker flowFrames{keyOfFlow, beginFlow};

} // namespace yarngap
