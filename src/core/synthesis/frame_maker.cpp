#include "core/synthesis/frame_maker.h"
#include "core/synthesis/doubt.h"

#include "core/media/halved_frames.h"
#include "core/synthesis/gap_motion.h"
#include "core/synthesis/kind_makers.h"

#include <algorithm>

namespace yarngap {

namespace {

std::vector<InBetweens> inBetweensOf(const std::vector<GapSettings>& settings) {
    std::vector<InBetweens> out;
    out.reserve(settings.size());
    for (const GapSettings& one : settings)
        out.push_back(one.inBetweens);
    return out;
}

/// A guide on pictures of half the size.
Guide halved(Guide guide) {
    for (GuidePair& pair : guide.pairs)
        pair = {{pair.from.x / 2, pair.from.y / 2}, {pair.to.x / 2, pair.to.y / 2}};
    return guide;
}

FrameContext contextOf(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                       std::vector<InBetweens> settings, const Matte& matte) {
    FrameContext context{.source = std::move(source),
                         .vectors = std::move(vectors),
                         .remakes = std::make_shared<RemakeErrors>(),
                         .matte = nullptr,
                         .hasMatteFiles = !matte.pictures.empty(),
                         .settings = std::move(settings)};
    if (!matte.empty())
        context.matte = std::make_shared<MatteFrames>(
            matte, context.source->facts().width, context.source->facts().height,
            [source = context.source](std::int64_t n) { return source->numberBeforeCleanup(n); });
    return context;
}

} // namespace

void FrameMaker::use(const FrameContext& context) {
    context_ = std::make_shared<const FrameContext>(context);
    FrameContext unjudged = context;
    unjudged.judges = false;
    unjudged_ = std::make_shared<const FrameContext>(std::move(unjudged));
}

FrameMaker::FrameMaker(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                       const std::vector<GapSettings>& settings, const Matte& matte) {
    use(contextOf(std::move(source), std::move(vectors), inBetweensOf(settings), matte));
}

FrameMaker::FrameMaker(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                       const InBetweens& settings, const Matte& matte) {
    use(contextOf(std::move(source), std::move(vectors), {settings}, matte));
}

FrameMaker FrameMaker::forDraft() const {
    FrameContext quick = *context_;
    for (InBetweens& settings : quick.settings)
        settings = settings.forDraft();
    constexpr int largeEnough = 128; // pixels of the shorter side
    constexpr int tooLarge = 480;    // to be there at once
    const auto side = [&] { return std::min(quick.source->facts().width, quick.source->facts().height); };
    for (int least = largeEnough; !quick.matte && side() >= least; least = tooLarge) {
        quick.source = std::make_shared<HalvedFrames>(quick.source);
        quick.scale /= 2;
        for (InBetweens& settings : quick.settings)
            if (settings.guide) *settings.guide = halved(*std::move(settings.guide));
    }
    FrameMaker maker = *this;
    maker.use(quick);
    return maker;
}

void FrameMaker::shareRemakes(std::shared_ptr<RemakeErrors> errors) {
    FrameContext sharing = *context_;
    sharing.remakes = std::move(errors);
    use(sharing);
}

std::unique_ptr<FrameInMaking> FrameMaker::begin(const PlanRow& row) const {
    return kindMakerOf(row).begin(unjudged_, row);
}

MadeFrame FrameMaker::make(const PlanRow& row, const std::stop_token& stop) const {
    if (auto kept = finished(row)) return *kept;
    const auto frame = kindMakerOf(row).begin(context_, row);
    frame->read(stop);
    frame->estimate(stop);
    MadeFrame made = frame->finish(stop);
    if (isToBeKept(row)) finished_->keep(contentKey(row), made);
    return made;
}

bool FrameMaker::isToBeKept(const PlanRow& row) const {
    if (!finished_ || row.kind != FrameKind::flow || isDraft(row) || context_->hasMatteFiles) return false;
    const std::int64_t first = row.before >= 0 ? row.before : row.first;
    const std::int64_t last = row.after >= 0 ? row.after : row.last;
    for (std::int64_t n = first; n <= last; ++n)
        if (context_->source->troubleOf(n)) return false;
    return !row.subject || (!context_->source->troubleOf(row.subject->first) &&
                            !context_->source->troubleOf(row.subject->second));
}

std::map<std::int64_t, FrameTrouble> FrameMaker::troublesOf(const PlanRow& row) const {
    // Of a bridged row only the frames at both ends are looked at.
    const std::int64_t step = row.bridged ? std::max<std::int64_t>(1, row.last - row.first) : 1;
    std::map<std::int64_t, FrameTrouble> troubles;
    const auto add = [&](std::int64_t n) {
        if (auto trouble = context_->source->troubleOf(n)) troubles.emplace(n, *std::move(trouble));
    };
    for (std::int64_t n = row.first; n <= row.last; n += step)
        add(n);
    if (row.subject) {
        add(row.subject->first);
        add(row.subject->second);
    }
    return troubles;
}

std::vector<std::filesystem::path> FrameMaker::inputFiles() const {
    std::vector<std::filesystem::path> files = context_->source->files();
    const auto add = [&files](std::vector<std::filesystem::path> more) {
        for (std::filesystem::path& file : more)
            files.push_back(std::move(file));
    };
    if (context_->matte) add(context_->matte->files());
    if (context_->vectors) add(context_->vectors->givenFiles());
    return files;
}

std::string FrameMaker::vectorTrouble() const {
    return context_->vectors ? context_->vectors->trouble() : std::string();
}

std::optional<MadeFrame> FrameMaker::finished(const PlanRow& row) const {
    return isToBeKept(row) ? finished_->find(contentKey(row)) : std::nullopt;
}

bool FrameMaker::isFinished(const PlanRow& row) const {
    return isToBeKept(row) && finished_->has(contentKey(row));
}

VectorsPtr FrameMaker::vectorsOf(const PlanRow& row, const std::stop_token& stop) const {
    const ImagePtr a = context_->source->frame(row.first, stop);
    const ImagePtr b = context_->source->frame(row.last, stop);
    return GapMotion(*context_, row).vectors({row, *a, *b}, stop).background;
}

FrameInsight FrameMaker::insight(const PlanRow& row, const std::stop_token& stop) const {
    if (row.kind != FrameKind::flow || row.open > Rational(0) || row.subject) {
        const auto frame = begin(row);
        frame->read(stop);
        frame->estimate(stop);
        return {frame->finish(stop).image, {}};
    }
    const ImagePtr a = context_->source->frame(row.first, stop);
    const ImagePtr b = context_->source->frame(row.last, stop);
    const GapMotion motion(*context_, row);
    const GapPictures gap{row, *a, *b};
    const LayerVectors vectors = motion.vectors(gap, stop);
    const double phase = phaseOf(row).toDouble();
    return {std::make_shared<Image>(motion.momentIn(gap, vectors, phase, stop).image),
            motion.motionIn(gap, vectors, phase, stop)};
}

std::optional<MotionLook> FrameMaker::look(const PlanRow& row, const std::stop_token& stop) const {
    if (row.kind != FrameKind::flow || row.open > Rational(0) || row.subject) return std::nullopt;
    const ImagePtr a = context_->source->frame(row.first, stop);
    const ImagePtr b = context_->source->frame(row.last, stop);
    const GapMotion motion(*context_, row);
    const GapPictures gap{row, *a, *b};
    const LayerVectors vectors = motion.vectors(gap, stop);
    MotionLook look;
    look.phase = phaseOf(row).toDouble();
    look.motion = motion.motionIn(gap, vectors, look.phase, stop);
    look.a = cellPicture(*a);
    look.b = cellPicture(*b);
    look.remakeError = vectors.beside.remakeError;
    look.doubt = doubtOf(look.motion, look.a.luma, look.b.luma, look.phase, look.remakeError);
    return look;
}

std::string FrameMaker::contentKey(const PlanRow& row) const {
    return kindMakerOf(row).key(*context_, row);
}

bool FrameMaker::hasVectors(const PlanRow& row) const {
    return GapMotion(*context_, row).isInMemory(row);
}

bool FrameMaker::isDraftSooner(const PlanRow& row) const {
    // With its vectors at hand the frame itself is as quick.
    return row.kind == FrameKind::flow && !isDraft(row) && !hasVectors(row);
}

} // namespace yarngap
