#include "core/edit/hand_back.h"

#include "core/error.h"
#include "core/files/local_file.h"
#include "core/progress.h"
#include "core/render/file_names.h"
#include "core/shot/shot_timecode.h"
#include "core/time/handles.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <set>

namespace yarngap {

namespace {

/// Timecode of a file without any: an hour, so that handles stay above zero.
std::int64_t usualStart(const Timecode& clock) {
    return *clock.parse("01:00:00:00");
}

} // namespace

HandedBack handBack(const std::vector<Shot>& shots, const HandBackOptions& options, const KnownMedia& known,
                    const std::stop_token& stop) {
    HandedBack back;
    std::set<std::filesystem::path> taken = options.taken;
    bool any = false;
    for (const Shot& shot : shots) {
        throwIfStopped(stop);
        if (!shot.edit) {
            back.notes.push_back(shot.name + " came from no edit, and is left out.");
            continue;
        }
        const EditPlace& place = *shot.edit;
        if (any && place.rate != back.list.rate)
            throw Error(shot.name + " came from an edit at " + place.rate.display() + " fps, the others at " +
                        back.list.rate.display() + ". Hand them back apart.");
        any = true;
        back.list.rate = place.rate;
        back.list.dropFrame = place.dropFrame;
        back.list.title = place.title;
        const auto index = known.index(shot.media, {}, stop);
        const SourceAxis axis(*index, shot.interpretation, shot.cleanup);
        const Timing own = withOutputRate(shot.timing(axis.facts().rate, axis.frames()), place.rate);
        const std::int64_t length = place.recordOut - place.recordIn;
        if (own.outputFrames() < length)
            back.notes.push_back(shot.name + " is " + std::to_string(own.outputFrames()) +
                                 " frames long, its place in the edit " + std::to_string(length) +
                                 "; what is missing comes from its handle.");
        const std::int64_t missing = std::max<std::int64_t>(0, length - own.outputFrames());
        const WithHandles with = withHandles(own, options.handles, options.handles + missing, axis.frames());
        if (own.outputFrames() + with.after < length)
            throw Error(shot.name + " is too short for its place in the edit, which has " +
                        std::to_string(length) + " frames. Slow it, or trim less.");
        const Timecode clock(place.rate, place.dropFrame);
        const std::string source = timecodeAt(
            sourceTimecode(*index, axis, std::max<std::int64_t>(0, own.asKeys().front().position.floor())),
            axis.facts().rate, place.rate);
        std::int64_t in = clock.parse(source).value_or(usualStart(clock));
        if (in < with.before) in = usualStart(clock);

        RenderWork work;
        work.name = shot.name;
        work.shots.push_back({.shot = shot, .timing = with.timing});
        work.shots.back().shot.identity = index->identity;
        work.settings = options.settings;
        work.settings.timecode = TimecodeUse::fromStart;
        work.settings.start = clock.format(in - with.before);
        if (work.settings.reel.empty()) work.settings.reel = place.reel;
        const std::filesystem::path file = fileApart(options.pattern, shot, own, taken);
        work.targets.push_back({file, options.settings.format, options.replace});

        EditEvent event{.number = place.event,
                        .track = place.track,
                        .reel = place.reel,
                        .clip = file.filename().string(),
                        .media = file};
        event.sourceIn = clock.format(in);
        event.sourceOut = clock.format(in + length);
        event.start = Rational(in);
        event.available = Rational(in - with.before);
        event.availableFrames = Rational(with.timing.outputFrames());
        event.sourceRate = place.rate;
        event.recordIn = place.recordIn;
        event.recordOut = place.recordOut;
        back.list.events.push_back(event);
        back.works.push_back(std::move(work));
    }
    for (const Shot& shot : shots)
        if (shot.edit) back.original = shot.edit->list;
    if (!any) throw Error("No shot came from an edit. Open an .edl or .otio file first.");
    return back;
}

std::string returnedList(const HandedBack& back, const std::filesystem::path& target) {
    if (target.extension() != ".otio") return edlText(back.list);
    constexpr std::int64_t most = 256 << 20;
    std::error_code ec;
    if (back.original.extension() == ".otio" && std::filesystem::exists(back.original, ec))
        return otioWithEvents(contentOf(back.original, most, "edit"), back.list);
    return otioText(back.list);
}

} // namespace yarngap
