#include "core/synthesis/gap_motion.h"

#include "core/decimal.h"

#include <algorithm>
#include <utility>

namespace yarngap {

namespace {

/// The pairs that begin on the subject, or those that do not.
std::vector<GuidePair> pairsOn(const Image& coverage, const std::vector<GuidePair>& pairs, bool subject) {
    std::vector<GuidePair> out;
    constexpr int halfWay = 32768; // of coverage
    for (const GuidePair& pair : pairs) {
        const int x = std::clamp(static_cast<int>(pair.from.x), 0, coverage.width() - 1);
        const int y = std::clamp(static_cast<int>(pair.from.y), 0, coverage.height() - 1);
        const bool covered = coverage.row<std::uint16_t>(0, y)[static_cast<std::size_t>(x)] >= halfWay;
        if (covered == subject) out.push_back(pair);
    }
    return out;
}

} // namespace

std::optional<LayerVectors> GapMotion::layerVectors(const GapPictures& gap,
                                                    const std::stop_token& stop) const {
    if (!context_.matte) return std::nullopt;
    const FrameLayersPtr before = context_.matte->layers(gap.row.first, gap.a, stop);
    const FrameLayersPtr after = context_.matte->layers(gap.row.last, gap.b, stop);
    if (before->identity.empty() && after->identity.empty()) return std::nullopt;
    const FramePair pair = pairOf(*context_.source, gap.row.first, gap.row.last);
    const std::string of = pair.identity + ":matte:" + before->identity + ':' + after->identity + ':';
    FlowOptions flow = flowOf(gap.row);
    const std::vector<GuidePair> guide = std::exchange(flow.guide, {});
    const auto layer = [&](const char* which, const Image& a, const Image& b) {
        return context_.vectors->vectors({pair.a, pair.b, of + which}, a, b, flow, stop);
    };
    LayerVectors vectors;
    flow.guide = pairsOn(before->coverage, guide, false);
    vectors.background = layer("background", before->background, after->background);
    flow.guide = pairsOn(before->coverage, guide, true);
    vectors.subject = layer("subject", before->subject, after->subject);
    return vectors;
}

GapsBeside GapMotion::gapsBeside(const PlanRow& row, const std::stop_token& stop) const {
    FlowOptions standard = settings_.flow;
    standard.quality = FlowQuality::standard;
    ShotFrames& source = *context_.source;
    const auto gap = [&](std::int64_t a, std::int64_t b, std::int64_t far) -> GapBeside {
        if (far < 0) return {};
        const ImagePtr from = source.frame(a, stop);
        const ImagePtr to = source.frame(b, stop);
        const FramePair pair = pairOf(source, a, b);
        return {identityOf(far), far == a ? from : to,
                looksFinely() ? context_.vectors->vectors(pair, *from, *to, standard, stop)
                              : context_.vectors->coarse(pair, *from, *to, settings_.flow.analyseOn, stop)};
    };
    return {gap(row.before, row.first, row.before), gap(row.last, row.after, row.after)};
}

std::optional<double> GapMotion::remakeErrorOf(const GapPictures& gap, const std::stop_token& stop) const {
    const PlanRow& row = gap.row;
    double sum = 0;
    int frames = 0;
    const auto add = [&](std::int64_t before, std::int64_t n, std::int64_t after, const Image& frame) {
        sum +=
            context_.remakes->of(*context_.source, before, n, after, frame, settings_.flow.analyseOn, stop);
        ++frames;
    };
    if (row.before >= 0) add(row.before, row.first, row.last, gap.a);
    if (row.after >= 0) add(row.first, row.last, row.after, gap.b);
    return frames > 0 ? std::optional(sum / frames) : std::nullopt;
}

LayerVectors GapMotion::vectors(const GapPictures& gap, const std::stop_token& stop) const {
    if (auto layers = layerVectors(gap, stop)) return *std::move(layers);
    const PlanRow& row = gap.row;
    const FramePair pair = pairOf(*context_.source, row.first, row.last);
    const FlowOptions flow = flowOf(row);
    LayerVectors made;
    GapsBeside beside;
    if (bends(row) || continues(row)) beside = gapsBeside(row, stop);
    made.background = continues(row) ? context_.vectors->continued(pair, gap.a, gap.b, flow, beside, stop)
                                     : context_.vectors->vectors(pair, gap.a, gap.b, flow, stop);
    if (bends(row)) made.beside.motion = {beside.before.vectors, beside.after.vectors};
    if (row.shake && settings_.synthesis.bendPaths) made.beside.shake = scaled(*row.shake, context_.scale);
    if (looksBeside() && context_.judges) made.beside.remakeError = remakeErrorOf(gap, stop);
    return made;
}

WarpedFrame GapMotion::momentIn(const GapPictures& gap, const LayerVectors& vectors, double phase,
                                const std::stop_token& stop) const {
    const ColourTags& colour = context_.source->facts().colour;
    if (!vectors.subject)
        return warpBetween(gap.a, gap.b, *vectors.background, phase, settings_.synthesis, colour,
                           vectors.beside, stop);
    const MatteFrames& matte = *context_.matte;
    return warpLayers(*matte.layers(gap.row.first, gap.a, stop), *matte.layers(gap.row.last, gap.b, stop),
                      vectors, phase, matte.onTop(), settings_.synthesis, colour, stop);
}

MidMotion GapMotion::motionIn(const GapPictures& gap, const LayerVectors& vectors, double phase,
                              const std::stop_token& stop) const {
    if (!vectors.subject) return motionOfFrame(gap.a, gap.b, *vectors.background, phase, settings_.synthesis);
    const MatteFrames& matte = *context_.matte;
    return motionOfLayers(*matte.layers(gap.row.first, gap.a, stop), *matte.layers(gap.row.last, gap.b, stop),
                          vectors, phase, matte.onTop(), settings_.synthesis);
}

bool GapMotion::isInMemory(const PlanRow& row) const {
    if (context_.matte) return false;
    const FramePair pair = pairOf(*context_.source, row.first, row.last);
    return continues(row) ? context_.vectors->hasContinued(pair, flowOf(row), identityOf(row.before),
                                                           identityOf(row.after))
                          : context_.vectors->has(pair, flowOf(row));
}

std::string GapMotion::key(const PlanRow& row) const {
    std::string key = yarngap::keyOf(flowOf(row)) + ':' + yarngap::keyOf(settings_.synthesis);
    if (row.shake && settings_.synthesis.bendPaths)
        for (const float part :
             {row.shake->firstX, row.shake->firstY, row.shake->lastX, row.shake->lastY, row.shake->told})
            key += ':' + decimal(part, 6);
    if (looksBeside()) key += ":beside:" + identityOf(row.before) + ':' + identityOf(row.after);
    if (context_.matte)
        for (std::int64_t n = row.first; n <= row.last; n += row.bridged ? row.last - row.first : 1)
            key += ':' + context_.matte->key(n);
    return key;
}

} // namespace yarngap
