#include "core/render/render_work.h"

#include "core/error.h"
#include "core/finish/measured_finish.h"
#include "core/shot/shot_timecode.h"

#include <algorithm>

namespace yarngap {

namespace {

/// The file of a shot and its frames.
struct Opened {
    std::shared_ptr<const MediaIndex> index;
    Footage footage;
};

std::shared_ptr<const MediaIndex> indexOf(const WorkShot& of, const WorkMeans& means,
                                          const std::stop_token& stop) {
    for (const auto& index : means.open)
        if (index->facts.path == of.shot.media) return index;
    return means.known->index(of.shot.media, {}, stop);
}

/// Throws Error when a file is not the one that was there when the render was asked for.
void refuseOther(const WorkShot& of, const MediaIndex& index) {
    if (of.shot.identity.empty() || of.shot.identity == index.identity) return;
    throw Error(of.shot.media.string() + " has changed since " + of.shot.name +
                " was to be rendered. Open the project again, and render anew.");
}

Opened opened(const WorkShot& of, const WorkMeans& means, std::size_t cacheBytes,
              const std::stop_token& stop) {
    const auto index = indexOf(of, means, stop);
    refuseOther(of, *index);
    validate(of.shot.interpretation, *index);
    return {index,
            footageOf(index, of.shot.interpretation, cacheBytes, of.shot.cleanup,
                      {.vectors = means.vectors, .finished = means.finished, .cuts = of.uncleanedCuts})};
}

/// Frames of the file as frames that are made.
std::int64_t madeFrames(OutputScan scan, std::int64_t written) {
    const std::int64_t frames = framesOfPattern(scan);
    return written * frames / framesWritten(scan, frames);
}

RenderPart partOf(const WorkShot& of, const RenderWork& work, const WorkMeans& means, std::size_t cacheBytes,
                  const std::stop_token& stop) {
    if (!of.found) throw Error(of.shot.name + " has not been searched for cuts and repeats.");
    const Opened open = opened(of, means, cacheBytes, stop);
    const OutputScan scan = work.settings.scan;
    const Timing timing = withOutputRate(of.timing, rateToMake(scan, work.rate()));
    const ReadyShot ready =
        readyShot(of.shot, open.footage, *of.found,
                  {.vectors = means.vectors, .finished = means.finished, .timing = timing});
    RenderPart part{.name = of.shot.name, .frames = ready.frames};
    part.index = open.index;
    part.axis = open.footage.axis;
    part.first = madeFrames(scan, of.first);
    if (of.last) part.last = std::min(madeFrames(scan, *of.last + 1), part.frames->count()) - 1;
    return part;
}

} // namespace

RenderWork prepared(RenderWork work, const WorkMeans& means, const std::stop_token& stop) {
    if (work.shots.empty()) throw Error("There is nothing to render. Add a shot first.");
    refuseScanAt(work.settings.scan, work.rate());
    const std::size_t cacheBytes = means.cacheBytes / work.shots.size();
    for (WorkShot& of : work.shots) {
        throwIfStopped(stop);
        of.timing = withOutputRate(of.timing, work.rate());
        const auto index = indexOf(of, means, stop);
        refuseOther(of, *index);
        const SourceAxis axis(*index, of.shot.interpretation, of.shot.cleanup);
        const auto findings = [&] { return means.known->findings(index, {}, stop, LookedFor::making); };
        if (!of.shot.cleanup.empty()) of.uncleanedCuts = axis.interpretedFindings(*findings()).cuts;
        if (!of.found) of.found = axis.findings(*findings());
        if (lacksMeasures(of.shot.finish)) {
            const Opened open = opened(of, means, cacheBytes, stop);
            of.shot.finish = withMeasures(of.shot.finish, *open.footage.frames, means.vectors, of.timing.from,
                                          of.timing.to, of.found->cuts, {}, stop);
        }
        of.shot.identity = index->identity;
    }
    return work;
}

std::vector<RenderPart> partsOf(const RenderWork& work, const WorkMeans& means, const std::stop_token& stop) {
    std::vector<RenderPart> parts;
    for (const WorkShot& of : work.shots)
        parts.push_back(partOf(of, work, means, means.cacheBytes / work.shots.size(), stop));
    return parts;
}

std::int64_t framesToMake(const RenderWork& work) {
    const OutputScan scan = work.settings.scan;
    std::int64_t frames = 0;
    for (const WorkShot& of : work.shots) {
        const Timing made = withOutputRate(of.timing, rateToMake(scan, work.rate()));
        const std::int64_t written = framesWritten(scan, made.outputFrames());
        frames += (of.last ? std::min(*of.last + 1, written) : written) - of.first;
    }
    return madeFrames(scan, frames);
}

RenderOptions optionsOf(const RenderWork& work, const std::vector<RenderPart>& parts) {
    const RenderTarget& main = work.targets.front();
    const RenderSettings& settings = work.settings;
    RenderOptions options{main.file, main.format, work.rate(), settings.whenUndecodable, main.replace};
    options.also.assign(work.targets.begin() + 1, work.targets.end());
    options.scan = settings.scan;
    options.sound = settings.sound;
    options.usualSoundRate = settings.usualSoundRate;
    options.firstNumber = settings.firstNumber;
    const RenderPart& first = parts.front();
    options.reel = !settings.reel.empty() ? settings.reel : first.index ? first.index->facts.reel : "";
    if (settings.timecode == TimecodeUse::fromStart)
        options.timecode = settings.start;
    else if (settings.timecode == TimecodeUse::ofSource && first.index && first.axis)
        options.timecode = timecodeAt(
            sourceTimecode(*first.index, *first.axis, first.frames->row(first.first).position.frame),
            first.axis->facts().rate, work.rate());
    return options;
}

} // namespace yarngap
