#include "core/edit/open_edit.h"

#include "core/error.h"
#include "core/progress.h"
#include "core/time/map_edits.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cstdio>
#include <map>

namespace yarngap {

namespace {

std::string lowered(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

/// The frame of the file at which an event begins; counted from 0.
std::optional<Rational> firstFrame(const EditEvent& event, const MediaFacts& facts, const Rate& listRate) {
    const Rational start = [&]() -> Rational {
        const Timecode clock(facts.rate, isDropFrame(facts.timecode));
        return clock.parse(facts.timecode).value_or(0);
    }();
    if (!event.sourceIn.empty()) {
        // Lists count sources at their own rate, or all at that of the record.
        const Timecode own(facts.rate, isDropFrame(event.sourceIn));
        auto in = own.parse(event.sourceIn);
        if (!in) in = own.parseStart(event.sourceIn, listRate);
        if (!in) return std::nullopt;
        const Rational frame = Rational(*in) - start;
        // Files without timecode begin at 0, whatever the list says of others.
        return frame < Rational(0) && facts.timecode.empty() ? Rational(*in) : frame;
    }
    if (!event.start) return Rational(0);
    const Rate rate = event.sourceRate.value_or(facts.rate);
    Rational frame = *event.start - event.available.value_or(0);
    if (!event.available && *event.start >= start * rate.value() / facts.rate.value())
        frame = *event.start - start * rate.value() / facts.rate.value();
    return frame * facts.rate.value() / rate.value();
}

/// Source seconds in a record second; below 0 backwards. M2 lines have one decimal, so that where the
/// lengths agree with them these are exact.
Rational speedOf(const EditEvent& event, const MediaFacts& facts, const Rate& listRate) {
    if (!event.framesPerSecond) return event.speed;
    const Rational told = *event.framesPerSecond / facts.rate.value();
    if (told == Rational(0)) return told;
    const Timecode clock(facts.rate, isDropFrame(event.sourceIn));
    const auto in = clock.parse(event.sourceIn);
    const auto out = clock.parse(event.sourceOut);
    if (!in || !out || *out <= *in) return told;
    const Rational lengths =
        Rational(*out - *in) / facts.rate.value() / (Rational(event.length()) / listRate.value());
    const double tolerance =
        0.0501 / facts.rate.toDouble() + lengths.toDouble() * (1.0 / static_cast<double>(event.length()) +
                                                               1.0 / static_cast<double>(*out - *in));
    const Rational size = told < Rational(0) ? Rational(0) - told : told;
    if (std::abs(size.toDouble() - lengths.toDouble()) > tolerance) return told;
    return told < Rational(0) ? Rational(0) - lengths : lengths;
}

/// Sets trim and speed so that the result is as long as the event. Throws Error where the file has not got
/// the frames.
void setTiming(Shot& shot, const EditEvent& event, const MediaFacts& facts, const Rate& listRate) {
    const auto begin = firstFrame(event, facts, listRate);
    if (!begin)
        throw Error("its source timecode " + event.sourceIn + " is none at " + facts.rate.display() +
                    " fps.");
    const Rational speed = speedOf(event, facts, listRate);
    const Rational length(event.length());
    const Rational step = speed * facts.rate.value() / listRate.value(); // source frames per output frame
    const Rational size = step < Rational(0) ? Rational(0) - step : step;
    Timing timing{.sourceRate = facts.rate, .outputRate = listRate};
    timing.from = begin->floor();
    const std::int64_t frames = std::max<std::int64_t>(1, speed == Rational(0) ? 1 : (length * size).round());
    timing.to = timing.from + frames - 1;
    if (!event.keys.empty()) {
        timing.keys = event.keys;
        Rational low = event.keys.front().position;
        Rational high = low;
        for (const TimeKey& key : event.keys) {
            low = std::min(low, key.position);
            high = std::max(high, key.position);
        }
        timing.from = low.floor();
        timing.to = std::max(timing.from, high.floor() - (high == Rational(high.floor()) ? 1 : 0));
    } else if (speed == Rational(0)) {
        timing.keys = {{0, timing.from, Segment::hold, std::nullopt},
                       {length, timing.from, Segment::constant, std::nullopt}};
    } else {
        timing.speed = size * listRate.value() / facts.rate.value();
        if (speed < Rational(0))
            timing.keys = reversed(timing.asKeys(), timing.from, timing.to);
        else if (*begin != Rational(timing.from) || timing.outputFrames() != event.length())
            timing.keys = {{0, *begin, Segment::constant, std::nullopt},
                           {length, *begin + length * size, Segment::constant, std::nullopt}};
        if (timing.varies()) {
            timing.speed = 1;
            if (timing.outputFrames() != event.length()) timing = withLengthFrames(timing, event.length());
        }
    }
    if (timing.from < 0 || timing.to >= facts.frames)
        throw Error("it needs source frames " + std::to_string(timing.from) + " to " +
                    std::to_string(timing.to) + ", and the file has 0 to " +
                    std::to_string(facts.frames - 1) + ".");
    validate(timing);
    shot.setTiming(timing, facts.frames);
    if (timing.outputRate != facts.rate) shot.outputRate = timing.outputRate;
}

/// The one of several files that is meant. Throws Error.
std::shared_ptr<const MediaIndex> chosen(const std::vector<std::filesystem::path>& candidates,
                                         const EditEvent& event, const Rate& listRate,
                                         const KnownMedia& known, const std::stop_token& stop) {
    std::vector<std::shared_ptr<const MediaIndex>> fit;
    std::string trouble;
    for (const std::filesystem::path& file : candidates) {
        try {
            auto index = known.index(file, {}, stop);
            const auto begin = firstFrame(event, index->facts, listRate);
            if (candidates.size() == 1 ||
                (begin && *begin >= Rational(0) && *begin < Rational(index->frames())))
                fit.push_back(std::move(index));
        } catch (const Error& error) {
            trouble = error.what();
        }
    }
    const std::string called = event.clip.empty() ? event.reel : event.clip;
    if (fit.empty())
        throw Error(trouble.empty() ? "none of the files called " + called + " has its timecode." : trouble);
    if (fit.size() > 1)
        throw Error(fit[0]->facts.path.string() + " and " + fit[1]->facts.path.string() +
                    " may both be meant. Leave out one of the folders.");
    return fit.front();
}

} // namespace

MediaFinder::MediaFinder(const std::vector<std::filesystem::path>& folders, const std::stop_token& stop) {
    for (const std::filesystem::path& folder : folders) {
        std::error_code ec;
        auto at = std::filesystem::recursive_directory_iterator(
            folder, std::filesystem::directory_options::skip_permission_denied, ec);
        for (const std::filesystem::recursive_directory_iterator end; !ec && at != end && !isFull();
             at.increment(ec)) {
            throwIfStopped(stop);
            const std::string name = at->path().filename().string();
            std::error_code ignored;
            if (at->is_directory(ignored)) {
                if (name.starts_with('.') || name.ends_with(".slices")) at.disable_recursion_pending();
            } else if (!name.starts_with('.')) {
                files_.push_back(at->path());
            }
        }
    }
    std::sort(files_.begin(), files_.end());
    files_.erase(std::unique(files_.begin(), files_.end()), files_.end());
}

std::vector<std::filesystem::path> MediaFinder::named(const std::string& name, bool withEnding) const {
    std::vector<std::filesystem::path> found;
    const std::string wanted = lowered(name);
    for (const std::filesystem::path& file : files_)
        if (lowered((withEnding ? file.filename() : file.stem()).string()) == wanted && !isEditList(file) &&
            file.extension() != ".yarngap" && file.extension() != ".wav")
            found.push_back(file);
    return found;
}

std::vector<std::filesystem::path> MediaFinder::candidates(const EditEvent& event) const {
    std::error_code ec;
    if (!event.media.empty() && event.media.is_absolute() &&
        std::filesystem::is_regular_file(event.media, ec))
        return {event.media};
    for (const std::string& name : {event.media.filename().string(), event.clip}) {
        if (name.empty()) continue;
        if (auto found = named(name, true); !found.empty()) return found;
    }
    for (const std::string& name : {event.media.stem().string(), event.clip,
                                    std::filesystem::path(event.clip).stem().string(), event.reel}) {
        if (name.empty() || name == "AX" || name == "BL") continue;
        if (auto found = named(name, false); !found.empty()) return found;
    }
    return {};
}

namespace {

/// Shots of one clip are told apart by the numbers of their events: "heron_glide_004".
void tellApart(std::vector<Shot>& shots) {
    std::map<std::string, int> times;
    for (const Shot& shot : shots)
        ++times[shot.name];
    for (Shot& shot : shots) {
        if (times[shot.name] < 2) continue;
        std::array<char, 16> number{};
        std::snprintf(number.data(), number.size(), "_%03d", shot.edit->event);
        shot.name += number.data();
    }
}

} // namespace

OpenedEdit openEdit(const EditList& list, const std::filesystem::path& listFile, const MediaFinder& finder,
                    const KnownMedia& known, const std::stop_token& stop) {
    OpenedEdit opened{.shots = {}, .problems = list.problems};
    if (finder.isFull())
        opened.problems.emplace_back(
            "The folders hold more than 200,000 files; not all were looked at. Choose folders "
            "closer to the media.");
    for (const EditEvent& event : list.events) {
        throwIfStopped(stop);
        if (event.reel == "BL" && event.clip.empty()) continue; // black
        const std::string called = event.clip.empty() ? event.reel : event.clip;
        const std::string where = "Event " + std::to_string(event.number) + " (" + called + "): ";
        const auto problem = [&](const std::string& what) { opened.problems.push_back(where + what); };
        const auto candidates = finder.candidates(event);
        if (candidates.empty()) {
            problem("its media is not in the folders given.");
            continue;
        }
        try {
            const auto index = chosen(candidates, event, list.rate, known, stop);
            Shot shot = shotOf(index->facts.path);
            shot.identity = index->identity;
            shot.edit = EditPlace{.list = listFile,
                                  .title = list.title,
                                  .track = event.track,
                                  .event = event.number,
                                  .rate = list.rate,
                                  .dropFrame = list.dropFrame,
                                  .recordIn = event.recordIn,
                                  .recordOut = event.recordOut,
                                  .reel = event.reel.empty() ? index->facts.reel : event.reel};
            setTiming(shot, event, index->facts, list.rate);
            if (index->facts.rate != list.rate)
                problem("it runs at " + index->facts.rate.display() + " fps, the list at " +
                        list.rate.display() + "; its speed in time is kept.");
            opened.shots.push_back(std::move(shot));
        } catch (const Error& error) {
            problem(error.what());
        }
    }
    tellApart(opened.shots);
    return opened;
}

OpenedEdit withTreatment(OpenedEdit now, const std::vector<Shot>& before) {
    std::vector<bool> taken(before.size());
    for (Shot& shot : now.shots) {
        std::size_t best = before.size();
        std::int64_t nearest = 0;
        for (std::size_t i = 0; i < before.size(); ++i) {
            if (taken[i] || before[i].media != shot.media || !before[i].edit) continue;
            const std::int64_t apart = std::abs(before[i].from.value_or(0) - shot.from.value_or(0)) +
                                       (before[i].edit->event == shot.edit->event ? 0 : 1);
            if (best == before.size() || apart < nearest) {
                best = i;
                nearest = apart;
            }
        }
        const std::string called = "Event " + std::to_string(shot.edit->event) + " (" + shot.name + "): ";
        if (best == before.size()) {
            now.problems.push_back(called + "it is new.");
            continue;
        }
        taken[best] = true;
        const Shot fresh = shot;
        shot = before[best];
        shot.edit = fresh.edit;
        const bool retimed = shot.speed != fresh.speed || shot.keys != fresh.keys;
        const bool trimmed = shot.from != fresh.from || shot.to != fresh.to;
        if (!trimmed && !retimed) continue;
        shot.from = fresh.from;
        shot.to = fresh.to;
        shot.speed = fresh.speed;
        shot.keys = fresh.keys;
        shot.outputRate = fresh.outputRate;
        now.problems.push_back(called + (trimmed ? "its trim changed" : "its speed changed") +
                               (trimmed && retimed ? ", and its speed" : "") +
                               "; frames that it did not show before have to be made.");
    }
    for (std::size_t i = 0; i < before.size(); ++i)
        if (!taken[i] && before[i].edit)
            now.problems.push_back("Event " + std::to_string(before[i].edit->event) + " (" + before[i].name +
                                   ") of before is not in the list any more.");
    return now;
}

} // namespace yarngap
