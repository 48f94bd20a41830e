#include "core/synthesis/kind_makers.h"
#include "core/synthesis/picture_mean.h"

namespace yarngap {

namespace {

bool blendsLight(const FrameContext& context, const PlanRow& row) {
    return context.settingsOf(row).synthesis.linearLight;
}

class BlendedFrame final : public FrameInMaking {
  public:
    BlendedFrame(FrameContextPtr context, const PlanRow& row)
        : context_(std::move(context))
        , row_(row)
        , mean_(blendsLight(*context_, row), context_->source->facts().colour) {}

    /// Adds them up at once, so that a blend over a thousand frames needs the memory of one.
    void read(const std::stop_token& stop) override {
        for (std::int64_t n = row_.first; n <= row_.last; ++n)
            mean_.add(*context_->source->frame(n, stop), blendShare(row_, n));
    }
    MadeFrame finish(const std::stop_token& /*stop*/) override {
        return {std::make_shared<Image>(mean_.mean()), std::nullopt, 1};
    }

  private:
    FrameContextPtr context_;
    PlanRow row_;
    PictureMean mean_;
};

std::string keyOfBlended(const FrameContext& context, const PlanRow& row) {
    const Rational begins = Rational(row.position.frame - row.first) + row.position.phase;
    return context.source->identityOf(row.first, row.last) + ":blend:" + begins.toString() + ':' +
           row.span.toString() + (blendsLight(context, row) ? ":light" : "");
}

std::unique_ptr<FrameInMaking> beginBlended(FrameContextPtr context, const PlanRow& row) {
    return std::make_unique<BlendedFrame>(std::move(context), row);
}

} // namespace

const KindMaker blendedFrames{keyOfBlended, beginBlended};

} // namespace yarngap
