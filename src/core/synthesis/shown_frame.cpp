#include "core/synthesis/kind_makers.h"

namespace yarngap {

namespace {

class ShownFrame final : public FrameInMaking {
  public:
    ShownFrame(FrameContextPtr context, const PlanRow& row)
        : context_(std::move(context))
        , frame_(row.first) {}
    void read(const std::stop_token& stop) override { picture_ = context_->source->frame(frame_, stop); }
    MadeFrame finish(const std::stop_token& /*stop*/) override { return {picture_, std::nullopt, 1}; }

  private:
    FrameContextPtr context_;
    std::int64_t frame_;
    ImagePtr picture_;
};

std::string keyOfShown(const FrameContext& context, const PlanRow& row) {
    return context.source->identityOf(row.first);
}

std::unique_ptr<FrameInMaking> beginShown(FrameContextPtr context, const PlanRow& row) {
    return std::make_unique<ShownFrame>(std::move(context), row);
}

} // namespace

const KindMaker shownFrames{keyOfShown, beginShown};

} // namespace yarngap
