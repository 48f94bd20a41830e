#include "core/inspection/shot_findings.h"

#include "core/inspection/cuts.h"
#include "core/inspection/damage.h"
#include "core/inspection/held_frames.h"
#include "core/inspection/median.h"
#include "core/media/frame_decoder.h"

#include <tbb/task_group.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace yarngap {

namespace {

constexpr double leastEvidence = 2.0;

/// Evidence for each kind and field order.
std::map<std::pair<CadenceKind, bool>, double> evidenceOf(const std::vector<CadenceRun>& runs) {
    std::map<std::pair<CadenceKind, bool>, double> sums;
    for (const CadenceRun& run : runs)
        sums[{run.kind, run.topFirst}] += run.evidence;
    return sums;
}

std::pair<CadenceKind, bool> strongest(const std::vector<CadenceRun>& runs) {
    const auto sums = evidenceOf(runs);
    const auto best = std::max_element(sums.begin(), sums.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    return best == sums.end() ? std::pair{CadenceKind::progressive, true} : best->first;
}

/// Lost frames are told from motion, which fields, pulldown and held drawings make uneven anyway.
bool lossShows(const ShotFindings& findings) {
    return findings.kind() == CadenceKind::progressive && findings.repeats.heldFor == 1 &&
           findings.heldPart.heldFor == 1;
}

bool isPulldown(CadenceKind kind) {
    return kind == CadenceKind::pulldown32 || kind == CadenceKind::pulldown2332;
}

} // namespace

CadenceKind ShotFindings::kind() const {
    return strongest(cadence).first;
}

bool ShotFindings::topFirst() const {
    return strongest(cadence).second;
}

bool ShotFindings::decided() const {
    double sum = 0;
    for (const CadenceRun& run : cadence)
        sum += run.evidence;
    return sum >= leastEvidence;
}

std::vector<std::int64_t> ShotFindings::breaks() const {
    std::vector<std::int64_t> breaks;
    for (std::size_t i = 1; i < cadence.size(); ++i)
        if (isPulldown(cadence[i].kind) || isPulldown(cadence[i - 1].kind))
            breaks.push_back(cadence[i].first);
    return breaks;
}

std::string ShotFindings::describe() const {
    std::string text;
    if (!decided()) {
        text = "too quiet to tell the scan";
    } else {
        text = name(kind());
        if (kind() != CadenceKind::progressive)
            text += topFirst() ? ", top field first" : ", bottom field first";
        if (const auto at = breaks(); !at.empty())
            text += ", " + std::to_string(at.size()) +
                    (at.size() == 1 ? " break at frame " : " breaks, the first at frame ") +
                    std::to_string(at.front());
    }
    if (repeats.heldFor > 1)
        text += repeats.heldFor == 2   ? ", shot on twos"
                : repeats.heldFor == 3 ? ", shot on threes"
                                       : ", shot on fours";
    else if (!repeats.frames.empty())
        text += ", " + std::to_string(repeats.frames.size()) +
                (repeats.frames.size() == 1 ? " repeat" : " repeats");
    if (heldPart.heldFor > 1)
        text +=
            heldPart.heldFor == 2 ? ", a part of the picture on twos" : ", a part of the picture on threes";
    if (!drops.empty())
        text += ", " + std::to_string(drops.size()) +
                (drops.size() == 1 ? " jump ahead as of lost frames" : " jumps ahead as of lost frames");
    if (camera.exposure > 0) {
        constexpr double circle = 360;
        constexpr int fine = 10; // degrees; closer it cannot be told
        text += ", shaken camera, shutter about " +
                std::to_string(std::lround(camera.exposure * circle / fine) * fine) + "°";
    }
    if (!cuts.empty()) text += ", " + std::to_string(cuts.size()) + (cuts.size() == 1 ? " cut" : " cuts");
    if (!undecodable.empty())
        text += ", " + std::to_string(undecodable.size()) + (undecodable.size() == 1 ? " frame" : " frames") +
                " that cannot be decoded";
    return text;
}

namespace {

/// Which field each cut begins at: the first, from the second of the frame before on, that changes as a cut
/// does. Film on fields has frames of two scenes.
std::vector<std::int64_t> firstFieldsOf(const std::vector<std::int64_t>& cuts,
                                        std::span<const FrameMetrics> frames, bool progressive,
                                        bool topFirst) {
    const auto change = [&](std::int64_t field) {
        const FrameMetrics& m = frames[static_cast<std::size_t>(field / 2)];
        return (field % 2 == 0) == topFirst ? m.topChange : m.bottomChange;
    };
    std::vector<std::int64_t> fields;
    for (const std::int64_t cut : cuts) {
        std::int64_t first = 2 * cut;
        if (!progressive) {
            const double large = std::max({change(first - 1), change(first), change(first + 1)}) / 2;
            if (change(first - 1) > large && change(first - 2) <= large)
                --first;
            else if (change(first) <= large)
                ++first;
        }
        if (fields.empty() || fields.back() < first)
            fields.push_back(first); // both frames of a mixture may count
    }
    return fields;
}

} // namespace

namespace {

std::vector<FoundFrame> heldPictures(std::span<const FrameMetrics> frames,
                                     std::span<const std::int64_t> cuts) {
    std::vector<CellChanges> changes;
    std::vector<double> noise;
    changes.reserve(frames.size());
    noise.reserve(frames.size());
    for (const FrameMetrics& m : frames) {
        changes.push_back(m.cells);
        noise.push_back(m.floor);
    }
    return heldFrames(changes, cuts, {.noise = noise});
}

std::vector<FoundLoss> lossesOf(const std::vector<Drop>& drops) {
    std::vector<FoundLoss> losses;
    for (const Drop& drop : drops)
        if (!drop.filled) losses.push_back({drop.after, drop.missing, drop.certainty});
    return losses;
}

} // namespace

ShotFindings findingsFrom(std::span<const FrameMetrics> frames) {
    ShotFindings findings;
    findings.frames = static_cast<std::int64_t>(frames.size());
    findings.cadence = trackCadence(frames);
    findings.cuts = findCuts(frames);
    findings.repeats = findRepeats(frames);
    findings.clean.repeats = heldPictures(frames, findings.cuts);
    if (findings.repeats.heldFor == 1 && findings.kind() == CadenceKind::progressive)
        findings.heldPart = findHeldPart(frames);
    findings.cutFields = firstFieldsOf(findings.cuts, frames, findings.kind() == CadenceKind::progressive,
                                       findings.topFirst());
    std::vector<double> changes;
    std::vector<double> jumps;
    for (std::size_t n = 1; n < frames.size(); ++n) {
        changes.push_back(frames[n].meanChange);
        if (n + 1 == frames.size()) break;
        const double between = (frames[n - 1].meanLuma + frames[n + 1].meanLuma) / 2;
        jumps.push_back(std::abs(frames[n].meanLuma - between));
    }
    findings.typicalChange = median(changes);
    findings.flicker = median(jumps);
    return findings;
}

namespace {

/// Whether the frames so far are clearly no progressive ones, of which no shake is told.
bool areFields(std::span<const FrameMetrics> frames) {
    ShotFindings early;
    early.cadence = trackCadence(frames);
    return early.decided() && early.kind() != CadenceKind::progressive;
}

/// Steps across a cut or to a repeat are none of the camera's. Combed frames have no blur of their own.
CameraShake shakeBetweenCuts(std::vector<CameraStep> steps, const ShotFindings& findings,
                             const std::stop_token& stop) {
    if (findings.kind() != CadenceKind::progressive) return {};
    for (const auto& firsts : {findings.cuts, findings.repeats.frames})
        for (const std::int64_t n : firsts)
            if (n > 0) steps.at(static_cast<std::size_t>(n - 1)).known = false;
    return cameraShake(steps, stop);
}

} // namespace

namespace {

/// The step to the frame measured last.
CameraStep stepOf(const CameraMeter& camera) {
    return camera.steps().empty() ? CameraStep{} : camera.steps().back();
}

} // namespace

ShotFindings inspectShot(const std::shared_ptr<const MediaIndex>& index, const Progress& progress,
                         const std::stop_token& stop, LookedFor what) {
    const bool all = what == LookedFor::all;
    FrameDecoder decoder(index);
    FrameMeter meter;
    CameraMeter camera;
    DamageMeter damage;
    ImagePtr before;
    bool looksAtCamera = true;
    std::vector<FrameMetrics> metrics;
    metrics.reserve(static_cast<std::size_t>(index->frames()));
    // One frame is measured while the next is decoded. The task goes before what it uses.
    tbb::task_group measuring;
    std::int64_t otherSizes = 0;
    std::int64_t firstOtherSize = 0;
    std::int64_t seen = 0; // frames measured
    std::vector<std::int64_t> undecodable;
    for (std::int64_t n = 0; n < index->frames(); ++n) {
        ImagePtr frame;
        try {
            const DecodedFrame decoded = decoder.decode(n, {}, stop);
            frame = decoded.image;
            if (decoded.codedWidth > 0 && otherSizes++ == 0) firstOtherSize = n;
        } catch (const Undecodable&) {
            undecodable.push_back(n); // taken to be the one before it
        } catch (...) {
            measuring.wait();
            throw;
        }
        measuring.wait();
        constexpr std::int64_t toTell = 24; // frames
        if (n == toTell) looksAtCamera = !areFields(metrics);
        const double noise = metrics.empty() ? 0 : metrics.back().floor;
        measuring.run([&meter, &metrics, &seen, frame] {
            if (frame) {
                const FrameMetrics measured = meter.measure(*frame);
                if (seen == 0) metrics.assign(metrics.size(), measured); // what came before has no picture
                metrics.push_back(measured);
                ++seen;
            } else {
                metrics.push_back(seen > 0 ? metrics.back() : FrameMetrics{});
            }
        });
        if (looksAtCamera) {
            // Of the frame before, whose step is known by now.
            if (n > 0 && all)
                measuring.run([&damage, frame = before, step = stepOf(camera), noise] {
                    damage.measure(frame, step, noise);
                });
            measuring.run([&camera, frame] { camera.measure(frame.get()); });
        }
        before = frame;
        if (progress && n % 8 == 0) progress(static_cast<double>(n) / static_cast<double>(index->frames()));
    }
    measuring.wait();
    if (seen == 0)
        throw Error("No frame of " + index->facts.path.string() +
                    " can be decoded. It is damaged; copy it again from where it came from.");
    ShotFindings findings = findingsFrom(metrics);
    findings.undecodable = std::move(undecodable);
    if (looksAtCamera) {
        if (all) damage.measure(before, stepOf(camera), metrics.back().floor);
        findings.camera = shakeBetweenCuts(camera.steps(), findings, stop);
        if (findings.kind() == CadenceKind::progressive) {
            findings.besideCamera = camera.changes();
            findings.clean.figureHolds =
                heldFrames(findings.besideCamera, findings.cuts, {.strongestOnly = true});
            findings.clean.damage = damage.found(findings.cuts);
        }
    }
    findings.otherSizes = otherSizes;
    findings.firstOtherSize = firstOtherSize;
    if (all && lossShows(findings) && findings.undecodable.empty())
        findings.drops = confirmDrops(
            suspectedDrops(metrics, findings.repeats.frames, findings.cuts), findings.repeats.frames,
            findings.frames, [&](std::int64_t n) { return decoder.decode(n, {}, stop).image; }, stop);
    findings.clean.losses = lossesOf(findings.drops);
    if (progress) progress(1.0);
    return findings;
}

} // namespace yarngap
