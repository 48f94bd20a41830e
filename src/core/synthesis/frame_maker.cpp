#include "core/synthesis/frame_maker.h"

#include "core/synthesis/warp.h"

namespace yarngap {

RowInput FrameMaker::read(const PlanRow& row, const std::stop_token& stop) const {
    RowInput input;
    if (row.kind == FrameKind::blend) input.blend = std::make_shared<BlendSum>();
    for (std::int64_t n = row.first; n <= row.last; ++n) {
        ImagePtr frame = source_->frame(n, stop);
        if (input.blend)
            input.blend->add(*frame, blendShare(row, n));
        else
            input.frames.push_back(std::move(frame));
    }
    return input;
}

VectorsPtr FrameMaker::estimate(const PlanRow& row, const RowInput& input,
                                const std::stop_token& stop) const {
    if (row.kind != FrameKind::flow) return nullptr;
    return store_->vectors(source_->identity(), row.first, row.last, *input.frames.front(),
                           *input.frames.back(), options_, stop);
}

MadeFrame FrameMaker::synthesise(const PlanRow& row, const RowInput& input, const VectorsPtr& vectors) {
    switch (row.kind) {
    case FrameKind::original:
    case FrameKind::repeat:
    case FrameKind::held:
        break;
    case FrameKind::blend:
        return {std::make_shared<Image>(input.blend->mean()), std::nullopt};
    case FrameKind::flow: {
        WarpedFrame warped =
            warpBetween(*input.frames.front(), *input.frames.back(), *vectors, row.position.phase.toDouble());
        return {std::make_shared<Image>(std::move(warped.image)), warped.doubt};
    }
    }
    return {input.frames.front(), std::nullopt};
}

MadeFrame FrameMaker::make(const PlanRow& row, const std::stop_token& stop) const {
    const RowInput input = read(row, stop);
    return synthesise(row, input, estimate(row, input, stop));
}

std::string FrameMaker::contentKey(const PlanRow& row) const {
    std::string key = source_->identity() + ':' + std::to_string(row.first);
    if (row.kind == FrameKind::blend || row.kind == FrameKind::flow) {
        key += ':' + std::string(name(row.kind)) + ':' + row.position.phase.toString() + ':' +
               std::to_string(row.last);
        key += row.kind == FrameKind::blend ? ':' + row.span.toString()
                                            : ':' + std::string(name(options_.quality));
    }
    return key;
}

} // namespace yarngap
