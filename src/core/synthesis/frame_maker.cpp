#include "core/synthesis/frame_maker.h"

#include "core/progress.h"
#include "core/synthesis/shutter.h"
#include "core/synthesis/warp.h"

#include <algorithm>
#include <array>
#include <cmath>

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

} // namespace

RowInput FrameMaker::read(const PlanRow& row, const std::stop_token& stop) const {
    if (row.kind == FrameKind::flow && row.open > Rational(0)) return blurred(row, stop);
    RowInput input;
    if (row.kind == FrameKind::blend) input.blend = std::make_shared<BlendSum>();
    for (std::int64_t n = row.first; n <= row.last; ++n) {
        ImagePtr frame = source_->frame(n, stop);
        if (!input.blend) {
            input.frames.push_back(std::move(frame));
            continue;
        }
        const double share = blendShare(row, n);
        input.blend->add(*frame, share);
        if (!mixesLight()) continue;
        if (!input.light) input.light = std::make_shared<LightMean>(*frame, source_->facts().colour);
        input.light->add(*frame, std::array{static_cast<float>(share)});
    }
    return input;
}

RowInput FrameMaker::blurred(const PlanRow& row, const std::stop_token& stop) const {
    RowInput input;
    input.blend = std::make_shared<BlendSum>();
    const Exposure through(row);
    // The motion of its own gap says how many moments are needed.
    const std::int64_t own = row.bridged ? 0 : std::clamp(row.position.frame, row.first, row.last - 1);
    const std::int64_t before = through.frame(own);
    const std::int64_t after = through.frame(own + 1);
    const VectorsPtr motion =
        vectorsOf(before, after, *source_->frame(before, stop), *source_->frame(after, stop), stop);
    for (const ShutterMoment& moment :
         shutterMoments(*motion, through.place, through.open, through.first, through.last)) {
        throwIfStopped(stop);
        const std::int64_t a = through.frame(moment.frame);
        const std::int64_t b = through.frame(moment.frame + 1);
        ImagePtr picture = source_->frame(a, stop);
        if (moment.phase > 0) {
            const ImagePtr next = source_->frame(b, stop);
            const VectorsPtr vectors = vectorsOf(a, b, *picture, *next, stop);
            WarpedFrame warped = warpBetween(*picture, *next, *vectors, moment.phase, settings_.synthesis,
                                             source_->facts().colour);
            input.doubt = std::max(input.doubt, warped.doubt);
            picture = std::make_shared<Image>(std::move(warped.image));
        }
        input.blend->add(*picture, moment.share);
        if (!mixesLight()) continue;
        if (!input.light) input.light = std::make_shared<LightMean>(*picture, source_->facts().colour);
        input.light->add(*picture, std::array{static_cast<float>(moment.share)});
    }
    return input;
}

VectorsPtr FrameMaker::vectorsOf(std::int64_t a, std::int64_t b, const Image& frameA, const Image& frameB,
                                 const std::stop_token& stop) const {
    return store_->vectors(source_->identity(), a, b, frameA, frameB, settings_.flow, stop);
}

VectorsPtr FrameMaker::estimate(const PlanRow& row, const RowInput& input,
                                const std::stop_token& stop) const {
    if (row.kind != FrameKind::flow || input.blend) return nullptr;
    return vectorsOf(row.first, row.last, *input.frames.front(), *input.frames.back(), stop);
}

MadeFrame FrameMaker::synthesise(const PlanRow& row, const RowInput& input, const VectorsPtr& vectors) const {
    if (input.blend) {
        Image mean = input.blend->mean();
        if (input.light) mean = input.light->of(mean);
        MadeFrame made{std::make_shared<Image>(std::move(mean)), std::nullopt};
        if (row.kind == FrameKind::flow) made.doubt = input.doubt;
        return made;
    }
    if (row.kind == FrameKind::flow) {
        WarpedFrame warped =
            warpBetween(*input.frames.front(), *input.frames.back(), *vectors, phaseOf(row).toDouble(),
                        settings_.synthesis, source_->facts().colour);
        return {std::make_shared<Image>(std::move(warped.image)), warped.doubt};
    }
    return {input.frames.front(), std::nullopt};
}

MadeFrame FrameMaker::make(const PlanRow& row, const std::stop_token& stop) const {
    const RowInput input = read(row, stop);
    return synthesise(row, input, estimate(row, input, stop));
}

std::string FrameMaker::contentKey(const PlanRow& row) const {
    std::string key = source_->identity() + ':' + std::to_string(row.first);
    if (row.kind == FrameKind::blend) {
        key += ":blend:" + row.position.phase.toString() + ':' + std::to_string(row.last) + ':' +
               row.span.toString() + (mixesLight() ? ":light" : "");
    } else if (row.kind == FrameKind::flow) {
        key += ":flow:" + std::to_string(row.position.frame) + ':' + row.position.phase.toString() + ':' +
               std::to_string(row.last) + ':' + row.open.toString() + ':' + keyOf(settings_.flow) + ':' +
               keyOf(settings_.synthesis);
    }
    return key;
}

} // namespace yarngap
