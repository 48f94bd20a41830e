#include "core/time/edl.h"

#include "core/error.h"
#include "core/time/edl_words.h"
#include "core/time/map_edits.h"
#include "core/time/map_text.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace yarngap {

namespace {

constexpr std::size_t mostEvents = 100'000;

Rational wholeSpeed(const EdlEvent& event, const Rate& sourceRate, const Rate& recordRate) {
    return Rational(event.sourceOut - event.sourceIn, event.recordOut - event.recordIn) *
           (recordRate.value() / sourceRate.value());
}

} // namespace

std::string toEdl(const std::string& title, const std::string& clip, const Timing& timing,
                  std::int64_t recordIn) {
    const Timecode source(timing.sourceRate);
    const Timecode record(timing.outputRate);
    const std::string reel = edlReel(clip);
    std::string text = "TITLE: " + edlLine(title) + "\n";
    text += record.dropFrame() ? "FCM: DROP FRAME\n" : "FCM: NON-DROP FRAME\n";
    std::array<char, 160> line{};
    std::snprintf(line.data(), line.size(), "001  %-8s V     C        %s %s %s %s\n", reel.c_str(),
                  source.format(timing.from).c_str(), source.format(timing.to + 1).c_str(),
                  record.format(recordIn).c_str(), record.format(recordIn + timing.outputFrames()).c_str());
    text += line.data();
    if (!timing.varies() && timing.speed != Rational(1)) {
        const std::string speed = edlSpeed((timing.speed * timing.sourceRate.value()).toDouble());
        std::snprintf(line.data(), line.size(), "M2   %-8s       %s                %s\n", reel.c_str(),
                      speed.c_str(), source.format(timing.from).c_str());
        text += line.data();
    }
    text += "* FROM CLIP NAME: " + edlLine(clip) + "\n";
    if (timing.varies()) {
        text += "* THE SPEED VARIES; ITS TIME MAP HAS THESE KEYS (OUTPUT FRAME, SOURCE FRAME, THEN)\n";
        for (const TimeKey& key : timing.keys)
            text += "* KEY " + key.output.toString() + " " + key.position.toString() + " " +
                    std::string(name(key.after)) + "\n";
    }
    return text;
}

std::vector<EdlEvent> eventsFromEdl(std::string_view text, const Rate& sourceRate, const Rate& recordRate) {
    std::vector<EdlEvent> events;
    bool drop = Timecode(recordRate).dropFrame();
    bool video = false; // the last event is one that is kept
    int number = 0;
    while (!text.empty()) {
        const auto end = text.find('\n');
        const std::string_view line = text.substr(0, end);
        text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
        ++number;
        const auto refuse = [number](const std::string& why) {
            return Error("Line " + std::to_string(number) + " of the edit decision list: " + why);
        };
        const auto words = edlWords(line);
        if (words.empty()) continue;
        const auto timecode = [&](std::string_view word, const Rate& rate) {
            const auto frames = Timecode(rate, drop).parse(word);
            if (!frames)
                throw refuse("\"" + std::string(word.substr(0, 40)) + "\" is no timecode at " +
                             rate.display() + " fps.");
            return *frames;
        };
        if (words[0] == "FCM:") {
            drop = words.size() > 1 && words[1] == "DROP";
        } else if (words[0] == "M2") {
            if (words.size() < 4) throw refuse("a motion line has reel, speed and timecode.");
            if (!video) continue;
            try {
                const std::string_view speed = words[words.size() - 2];
                events.back().motion = Rational::parse(speed.substr(speed.starts_with('+') ? 1 : 0));
            } catch (const Error& error) {
                throw refuse(error.what());
            }
        } else if (words[0] == "*") {
            constexpr std::string_view tag = "FROM CLIP NAME:";
            if (const auto at = line.find(tag); video && at != std::string_view::npos) {
                const std::string_view rest = line.substr(at + tag.size());
                const auto begin = rest.find_first_not_of(" \t\r");
                if (begin != std::string_view::npos)
                    events.back().clip =
                        std::string(rest.substr(begin, rest.find_last_not_of(" \t\r") - begin + 1));
            }
        } else if (const auto event = edlNumber(words[0])) {
            if (words.size() < 8)
                throw refuse("an event has number, reel, track, transition and four timecodes.");
            video = words[2].front() == 'V' || words[2].front() == 'B';
            if (!video) continue;
            if (events.size() >= mostEvents) throw refuse("more than 100,000 events are not read.");
            EdlEvent read{.number = *event, .reel = std::string(words[1]), .clip = {}, .motion = {}};
            const std::size_t t = words.size() - 4;
            read.sourceIn = timecode(words[t], sourceRate);
            read.sourceOut = timecode(words[t + 1], sourceRate);
            read.recordIn = timecode(words[t + 2], recordRate);
            read.recordOut = timecode(words[t + 3], recordRate);
            if (read.sourceOut <= read.sourceIn || read.recordOut <= read.recordIn)
                throw refuse("an event ends before it begins, or has no length.");
            events.push_back(std::move(read));
        }
    }
    return events;
}

Timing timingOf(const EdlEvent& event, const Rate& sourceRate, const Rate& recordRate) {
    const std::int64_t recorded = event.recordOut - event.recordIn;
    Timing timing{.sourceRate = sourceRate,
                  .outputRate = recordRate,
                  .from = event.sourceIn,
                  .to = event.sourceOut - 1,
                  .speed = wholeSpeed(event, sourceRate, recordRate)};
    if (event.motion == Rational(0)) {
        timing.speed = 1;
        timing.keys = {{0, event.sourceIn, Segment::hold, std::nullopt},
                       {recorded, event.sourceIn, Segment::constant, std::nullopt}};
    } else if (event.motion) {
        const bool backwards = *event.motion < Rational(0);
        const Rational wanted =
            (backwards ? Rational(0) - *event.motion : *event.motion) / sourceRate.value();
        // Half a unit of its one decimal, and a frame of either length.
        const double tolerance = 0.0501 / sourceRate.toDouble() +
                                 timing.speed.toDouble() * (1.0 / static_cast<double>(recorded) +
                                                            1.0 / static_cast<double>(timing.sourceFrames()));
        if (std::abs(timing.speed.toDouble() - wanted.toDouble()) > tolerance) timing.speed = wanted;
        if (backwards) timing.keys = reversed(timing.asKeys(), timing.from, timing.to);
    }
    validate(timing);
    return timing;
}

} // namespace yarngap
