#include "core/edit/edit_list.h"

#include "core/error.h"
#include "core/time/edl_words.h"
#include "core/time/map_text.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cstdio>

namespace yarngap {

namespace {

constexpr std::size_t mostEvents = 100'000;

std::string trimmed(std::string_view text) {
    const auto begin = text.find_first_not_of(" \t\r");
    if (begin == std::string_view::npos) return {};
    return std::string(text.substr(begin, text.find_last_not_of(" \t\r") - begin + 1));
}

/// Reads a list line by line.
class EdlReader {
  public:
    explicit EdlReader(const Rate& rate)
        : drop_(Timecode(rate).dropFrame()) {
        list_.rate = rate;
        list_.dropFrame = drop_;
    }

    EditList read(std::string_view text) {
        while (!text.empty()) {
            const auto end = text.find('\n');
            const std::string_view line = text.substr(0, end);
            text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
            ++line_;
            const auto words = edlWords(line);
            if (!words.empty()) take(line, words);
        }
        if (list_.events.empty() && list_.problems.empty())
            throw Error("This is no edit decision list, or it has no video event. Export it as CMX 3600.");
        return std::move(list_);
    }

  private:
    void take(std::string_view line, const std::vector<std::string_view>& words) {
        if (words[0] == "TITLE:") {
            list_.title = trimmed(line.substr(line.find(':') + 1));
        } else if (words[0] == "FCM:") {
            takeFrameCount(words);
        } else if (words[0] == "M2") {
            takeMotion(words);
        } else if (words[0].starts_with('*')) {
            takeNote(line);
        } else if (const auto number = edlNumber(words[0])) {
            takeEvent(*number, words);
        }
    }

    void problem(const std::string& what) {
        list_.problems.push_back("Event " + std::to_string(number_) + ", line " + std::to_string(line_) +
                                 ": " + what);
    }

    void takeFrameCount(const std::vector<std::string_view>& words) {
        const bool drop = words.size() > 1 && words[1] == "DROP";
        if (counted_ && drop != drop_)
            list_.problems.push_back(
                "Line " + std::to_string(line_) +
                ": the list changes between drop-frame and non-drop; each event is read as the "
                "line before it says.");
        counted_ = true;
        drop_ = drop;
        if (list_.events.empty()) list_.dropFrame = drop;
    }

    void takeEvent(int number, const std::vector<std::string_view>& words) {
        number_ = number;
        current_ = false;
        constexpr std::size_t fields = 8;
        if (words.size() < fields) {
            problem("an event has number, reel, track, transition and four timecodes.");
            return;
        }
        if (words[2].front() != 'V' && words[2].front() != 'B') return; // sound
        if (list_.events.size() >= mostEvents) {
            if (list_.events.size() == mostEvents) problem("more than 100,000 events are not read.");
            return;
        }
        if (words[3] != "C")
            problem("its transition \"" + std::string(words[3]) + "\" is left out; it begins with a cut.");
        const std::size_t t = words.size() - 4;
        EditEvent event{.number = number,
                        .track = std::string(words[2]),
                        .reel = std::string(words[1]),
                        .clip = {},
                        .media = {},
                        .sourceIn = tidyTimecode(words[t]),
                        .sourceOut = tidyTimecode(words[t + 1])};
        const Timecode record(list_.rate, drop_);
        const auto in = record.parse(words[t + 2]);
        const auto out = record.parse(words[t + 3]);
        if (!in || !out || event.sourceIn.empty() || event.sourceOut.empty()) {
            problem("one of its timecodes is none at " + list_.rate.display() + " fps.");
            return;
        }
        event.recordIn = *in;
        event.recordOut = *out;
        if (event.length() <= 0) {
            problem("it ends before it begins, or has no length.");
            return;
        }
        current_ = true;
        list_.events.push_back(std::move(event));
    }

    void takeMotion(const std::vector<std::string_view>& words) {
        if (!current_) return;
        if (words.size() < 4) {
            problem("a motion line has reel, speed and timecode.");
            return;
        }
        try {
            const std::string_view speed = words[words.size() - 2];
            list_.events.back().framesPerSecond =
                Rational::parse(speed.substr(speed.starts_with('+') ? 1 : 0));
        } catch (const Error& error) {
            problem(error.what());
        }
    }

    void takeNote(std::string_view line) {
        if (!current_) return;
        constexpr std::string_view name = "FROM CLIP NAME:";
        constexpr std::string_view file = "SOURCE FILE:";
        constexpr std::string_view key = "* KEY ";
        EditEvent& event = list_.events.back();
        if (const auto at = line.find(name); at != std::string_view::npos) {
            event.clip = trimmed(line.substr(at + name.size()));
        } else if (const auto path = line.find(file); path != std::string_view::npos) {
            event.media = trimmed(line.substr(path + file.size()));
        } else if (line.starts_with(key)) {
            const auto words = edlWords(line);
            try {
                if (words.size() < 5) throw Error("a key has output, position and segment.");
                event.keys.push_back({Rational::parse(words[2]), Rational::parse(words[3]),
                                      parseSegment(words[4]), std::nullopt});
            } catch (const Error& error) {
                problem(error.what());
            }
        }
    }

    EditList list_;
    bool drop_;
    bool counted_ = false; ///< an FCM line was there
    bool current_ = false; ///< notes belong to the last event
    int number_ = 0;
    int line_ = 0;
};

} // namespace

bool isEditList(const std::filesystem::path& file) {
    std::string ending = file.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return ending == ".edl" || ending == ".otio";
}

EditList editFromEdl(std::string_view text, const Rate& rate) {
    return EdlReader(rate).read(text);
}

std::string edlText(const EditList& list) {
    const Timecode record(list.rate, list.dropFrame);
    std::string text = "TITLE: " + edlLine(list.title) + "\n";
    text += record.dropFrame() ? "FCM: DROP FRAME\n" : "FCM: NON-DROP FRAME\n";
    for (const EditEvent& event : list.events) {
        const std::string reel = edlReel(event.reel.empty() ? event.clip : event.reel);
        std::array<char, 200> line{};
        std::snprintf(line.data(), line.size(), "\n%03d  %-8s V     C        %s %s %s %s\n", event.number,
                      reel.c_str(), event.sourceIn.c_str(), event.sourceOut.c_str(),
                      record.format(event.recordIn).c_str(), record.format(event.recordOut).c_str());
        text += line.data();
        if (event.framesPerSecond) {
            const std::string speed = edlSpeed(event.framesPerSecond->toDouble());
            std::snprintf(line.data(), line.size(), "M2   %-8s       %s                %s\n", reel.c_str(),
                          speed.c_str(), event.sourceIn.c_str());
            text += line.data();
        }
        text += "* FROM CLIP NAME: " + edlLine(event.clip) + "\n";
        if (!event.media.empty()) text += "* SOURCE FILE: " + edlLine(event.media.string()) + "\n";
        for (const TimeKey& key : event.keys)
            text += "* KEY " + key.output.toString() + " " + key.position.toString() + " " +
                    std::string(name(key.after)) + "\n";
    }
    return text;
}

} // namespace yarngap
