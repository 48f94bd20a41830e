#include "core/synthesis/frame_maker.h"

#include "core/decimal.h"
#include "core/media/halved_frames.h"
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

} // namespace

FrameMaker::FrameMaker(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                       const InBetweens& settings, const Matte& matte)
    : source_(std::move(source))
    , store_(std::move(vectors))
    , settings_(settings)
    , picturesMatte_(!matte.pictures.empty()) {
    if (!matte.empty())
        matte_ = std::make_shared<MatteFrames>(matte, source_->facts().width, source_->facts().height);
}

FrameMaker FrameMaker::forDraft() const {
    FrameMaker quick = with(settings_.forDraft());
    constexpr int largeEnough = 128; // pixels of the shorter side
    const MediaFacts& facts = source_->facts();
    if (!matte_ && std::min(facts.width, facts.height) >= largeEnough) {
        quick.source_ = std::make_shared<HalvedFrames>(source_);
        quick.scale_ = scale_ / 2;
    }
    return quick;
}

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
    const auto motionOf = [&](std::int64_t gap) {
        const PlanRow moment = gapOf(row, through.frame(gap), through.frame(gap + 1));
        return vectorsOfGap(moment, *source_->frame(moment.first, stop), *source_->frame(moment.last, stop),
                            stop);
    };
    std::int64_t gap = own;
    LayerVectors vectors = motionOf(gap);
    for (const ShutterMoment& moment :
         shutterMoments(*(vectors.subject ? vectors.subject : vectors.background), through.place,
                        through.open, through.first, through.last)) {
        throwIfStopped(stop);
        const std::int64_t a = through.frame(moment.frame);
        const std::int64_t b = through.frame(moment.frame + 1);
        ImagePtr picture = source_->frame(a, stop);
        if (moment.phase > 0) {
            if (gap != moment.frame) vectors = motionOf(gap = moment.frame);
            WarpedFrame warped =
                momentIn(a, b, *picture, *source_->frame(b, stop), vectors, moment.phase, stop);
            input.doubt = std::max(input.doubt, warped.doubt);
            input.edgeScale = std::max(input.edgeScale, warped.edgeScale);
            picture = std::make_shared<Image>(std::move(warped.image));
        }
        input.blend->add(*picture, moment.share);
        if (!mixesLight()) continue;
        if (!input.light) input.light = std::make_shared<LightMean>(*picture, source_->facts().colour);
        input.light->add(*picture, std::array{static_cast<float>(moment.share)});
    }
    return input;
}

std::optional<LayerVectors> FrameMaker::layerVectors(const PlanRow& row, const Image& frameA,
                                                     const Image& frameB, const std::stop_token& stop) const {
    if (!matte_) return std::nullopt;
    const FrameLayersPtr before = matte_->layers(row.first, frameA, stop);
    const FrameLayersPtr after = matte_->layers(row.last, frameB, stop);
    if (before->identity.empty() && after->identity.empty()) return std::nullopt;
    const std::string of = source_->identity() + ":matte:" + before->identity + ':' + after->identity + ':';
    const auto layer = [&](const char* which, const Image& a, const Image& b) {
        return store_->vectors(of + which, row.first, row.last, a, b, settings_.flow, stop);
    };
    return LayerVectors{layer("background", before->background, after->background),
                        layer("subject", before->subject, after->subject)};
}

WarpedFrame FrameMaker::momentIn(std::int64_t a, std::int64_t b, const Image& frameA, const Image& frameB,
                                 const LayerVectors& vectors, double phase,
                                 const std::stop_token& stop) const {
    const ColourTags& colour = source_->facts().colour;
    if (!vectors.subject)
        return warpBetween(frameA, frameB, *vectors.background, phase, settings_.synthesis, colour,
                           vectors.beside, stop);
    return warpLayers(*matte_->layers(a, frameA, stop), *matte_->layers(b, frameB, stop), vectors, phase,
                      matte_->onTop(), settings_.synthesis, colour, stop);
}

GapsBeside FrameMaker::gapsBeside(const PlanRow& row, const std::stop_token& stop) const {
    FlowOptions standard = settings_.flow;
    standard.quality = FlowQuality::standard;
    const auto gap = [&](std::int64_t a, std::int64_t b, std::int64_t far) -> GapBeside {
        if (far < 0) return {};
        const ImagePtr from = source_->frame(a, stop);
        const ImagePtr to = source_->frame(b, stop);
        return {far, far == a ? from : to,
                looksFinely()
                    ? store_->vectors(source_->identity(), a, b, *from, *to, standard, stop)
                    : store_->coarse(source_->identity(), a, b, *from, *to, settings_.flow.analyseOn, stop)};
    };
    return {gap(row.before, row.first, row.before), gap(row.last, row.after, row.after)};
}

std::optional<double> FrameMaker::remakeErrorOf(const PlanRow& row, const Image& frameA, const Image& frameB,
                                                const std::stop_token& stop) const {
    double sum = 0;
    int frames = 0;
    const auto add = [&](std::int64_t before, std::int64_t n, std::int64_t after, const Image& frame) {
        sum += remakes_->of(*source_, before, n, after, frame, settings_.flow.analyseOn, stop);
        ++frames;
    };
    if (row.before >= 0) add(row.before, row.first, row.last, frameA);
    if (row.after >= 0) add(row.first, row.last, row.after, frameB);
    return frames > 0 ? std::optional(sum / frames) : std::nullopt;
}

LayerVectors FrameMaker::vectorsOfGap(const PlanRow& row, const Image& frameA, const Image& frameB,
                                      const std::stop_token& stop) const {
    if (auto layers = layerVectors(row, frameA, frameB, stop)) return *std::move(layers);
    const std::string& media = source_->identity();
    LayerVectors made;
    GapsBeside beside;
    if (bends(row) || continues(row)) beside = gapsBeside(row, stop);
    made.background =
        continues(row)
            ? store_->continued(media, row.first, row.last, frameA, frameB, settings_.flow, beside, stop)
            : store_->vectors(media, row.first, row.last, frameA, frameB, settings_.flow, stop);
    if (bends(row)) made.beside.motion = {beside.before.vectors, beside.after.vectors};
    if (row.shake && settings_.synthesis.bendPaths) made.beside.shake = scaled(*row.shake, scale_);
    if (looksBeside()) made.beside.remakeError = remakeErrorOf(row, frameA, frameB, stop);
    return made;
}

LayerVectors FrameMaker::estimate(const PlanRow& row, const RowInput& input,
                                  const std::stop_token& stop) const {
    if (row.kind != FrameKind::flow || input.blend) return {};
    return vectorsOfGap(row, *input.frames.front(), *input.frames.back(), stop);
}

MadeFrame FrameMaker::synthesise(const PlanRow& row, const RowInput& input, const LayerVectors& vectors,
                                 const std::stop_token& stop) const {
    if (input.blend) {
        Image mean = input.blend->mean();
        if (input.light) mean = input.light->of(mean);
        MadeFrame made{std::make_shared<Image>(std::move(mean)), std::nullopt, input.edgeScale};
        if (row.kind == FrameKind::flow) made.doubt = input.doubt;
        return made;
    }
    if (row.kind == FrameKind::flow) {
        WarpedFrame warped = momentIn(row.first, row.last, *input.frames.front(), *input.frames.back(),
                                      vectors, phaseOf(row).toDouble(), stop);
        return {std::make_shared<Image>(std::move(warped.image)), warped.doubt, warped.edgeScale};
    }
    return {input.frames.front(), std::nullopt, 1};
}

MadeFrame FrameMaker::make(const PlanRow& row, const std::stop_token& stop) const {
    if (auto kept = finished(row)) return *kept;
    const RowInput input = read(row, stop);
    MadeFrame made = synthesise(row, input, estimate(row, input, stop), stop);
    if (isKept(row)) finished_->keep(contentKey(row), made);
    return made;
}

bool FrameMaker::isKept(const PlanRow& row) const {
    if (!finished_ || row.kind != FrameKind::flow || settings_.flow.quality == FlowQuality::draft ||
        picturesMatte_)
        return false;
    const std::int64_t first = row.before >= 0 ? row.before : row.first;
    const std::int64_t last = row.after >= 0 ? row.after : row.last;
    for (std::int64_t n = first; n <= last; ++n)
        if (source_->troubleOf(n)) return false;
    return true;
}

std::optional<FrameTrouble> FrameMaker::troubleIn(const PlanRow& row) const {
    // Of a bridged row only the frames at both ends are looked at.
    const std::int64_t step = row.bridged ? std::max<std::int64_t>(1, row.last - row.first) : 1;
    std::optional<FrameTrouble> worst;
    for (std::int64_t n = row.first; n <= row.last; n += step) {
        auto trouble = source_->troubleOf(n);
        if (trouble && (!worst || worst->kind < trouble->kind)) worst = std::move(trouble);
    }
    return worst;
}

std::vector<std::filesystem::path> FrameMaker::inputFiles() const {
    std::vector<std::filesystem::path> files = source_->files();
    if (matte_)
        for (std::filesystem::path& file : matte_->files())
            files.push_back(std::move(file));
    if (store_)
        for (std::filesystem::path& file : store_->givenFiles())
            files.push_back(std::move(file));
    return files;
}

std::optional<MadeFrame> FrameMaker::finished(const PlanRow& row) const {
    return isKept(row) ? finished_->find(contentKey(row)) : std::nullopt;
}

bool FrameMaker::isFinished(const PlanRow& row) const {
    return isKept(row) && finished_->has(contentKey(row));
}

FrameInsight FrameMaker::insight(const PlanRow& row, const std::stop_token& stop) const {
    const RowInput input = read(row, stop);
    const LayerVectors vectors = estimate(row, input, stop);
    FrameInsight made{synthesise(row, input, vectors, stop).image, {}};
    if (!vectors.background) return made;
    const Image& a = *input.frames.front();
    const Image& b = *input.frames.back();
    const double phase = phaseOf(row).toDouble();
    made.motion = vectors.subject ? motionOfLayers(*matte_->layers(row.first, a, stop),
                                                   *matte_->layers(row.last, b, stop), vectors, phase,
                                                   matte_->onTop(), settings_.synthesis)
                                  : motionOfFrame(a, b, *vectors.background, phase, settings_.synthesis);
    return made;
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
        if (row.shake && settings_.synthesis.bendPaths)
            for (const float part :
                 {row.shake->firstX, row.shake->firstY, row.shake->lastX, row.shake->lastY, row.shake->told})
                key += ':' + decimal(part, 6);
        if (looksBeside()) key += ":beside:" + std::to_string(row.before) + ':' + std::to_string(row.after);
        if (matte_)
            for (std::int64_t n = row.first; n <= row.last; n += row.bridged ? row.last - row.first : 1)
                key += ':' + matte_->key(n);
    }
    return key;
}

} // namespace yarngap
