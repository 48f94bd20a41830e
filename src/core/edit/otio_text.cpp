#include "core/edit/edit_list.h"

#include "core/error.h"
#include "core/files/local_file.h"
#include "core/project/json_text.h"
#include "core/time/map_text.h"
#include "core/time/timecode.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <functional>

namespace yarngap {

namespace {

using Json = nlohmann::json;

constexpr std::size_t mostClips = 100'000;

/// "Clip.2" is a Clip of schema version 2.
std::string schemaOf(const Json& object) {
    if (!object.is_object()) return {};
    const std::string schema = object.value("OTIO_SCHEMA", "");
    return schema.substr(0, schema.find('.'));
}

std::string textIn(const Json& object, const char* key) {
    const auto it = object.find(key);
    return it != object.end() && it->is_string() ? it->get<std::string>() : std::string();
}

/// A number as an exact fraction: whole ones as they are, others to a millionth.
std::optional<Rational> exact(const Json& value) {
    if (value.is_number_integer()) return Rational(value.get<std::int64_t>());
    if (!value.is_number()) return std::nullopt;
    const double number = value.get<double>();
    constexpr double most = 1e12;
    if (!std::isfinite(number) || std::abs(number) > most) return std::nullopt;
    constexpr std::int64_t parts = 1'000'000;
    const double whole = std::round(number);
    if (std::abs(number - whole) < 1e-9) return Rational(static_cast<std::int64_t>(whole));
    return Rational(static_cast<std::int64_t>(std::round(number * parts)), parts);
}

struct Moment {
    Rational frames;
    Rate rate;
};

/// A RationalTime.
std::optional<Moment> momentIn(const Json& object) {
    if (schemaOf(object) != "RationalTime") return std::nullopt;
    const auto value = exact(object.value("value", Json()));
    const Json rate = object.value("rate", Json());
    if (!value || !rate.is_number() || rate.get<double>() < 0.001 || rate.get<double>() > 100'000)
        return std::nullopt;
    const auto frames = exact(rate);
    return Moment{*value, Rate::snapped(*frames)};
}

std::filesystem::path pathFrom(std::string url) {
    constexpr std::string_view scheme = "file://";
    if (url.starts_with(scheme)) url.erase(0, scheme.size());
    std::string path;
    for (std::size_t i = 0; i < url.size(); ++i) {
        constexpr int hexadecimal = 16;
        if (url[i] == '%' && i + 2 < url.size() && std::isxdigit(static_cast<unsigned char>(url[i + 1])) &&
            std::isxdigit(static_cast<unsigned char>(url[i + 2]))) {
            path += static_cast<char>(std::stoi(url.substr(i + 1, 2), nullptr, hexadecimal));
            i += 2;
        } else {
            path += url[i];
        }
    }
    if (path.find('\0') != std::string::npos) return {};
    return path;
}

/// The reference that is in use: Clip.2 has several under names.
const Json* referenceOf(const Json& clip) {
    if (const auto own = clip.find("media_reference"); own != clip.end()) return &*own;
    const auto all = clip.find("media_references");
    if (all == clip.end() || !all->is_object()) return nullptr;
    const std::string key = textIn(clip, "active_media_reference_key");
    const auto active = all->find(key.empty() ? "DEFAULT_MEDIA" : key);
    return active == all->end() ? nullptr : &*active;
}

/// Walks through a timeline.
class OtioReader {
  public:
    EditList read(const Json& root) {
        if (schemaOf(root) != "Timeline")
            throw Error("This is no OpenTimelineIO timeline. Export a single timeline.");
        list_.title = textIn(root, "name");
        findRate(root);
        const Json stack = root.value("tracks", Json::object());
        int video = 0;
        for (const Json& track : stack.value("children", Json::array())) {
            if (schemaOf(track) != "Track" || textIn(track, "kind") == "Audio") continue;
            readTrack(track, ++video);
        }
        if (video > 1)
            list_.problems.push_back("The timeline has " + std::to_string(video) +
                                     " video tracks; shots of all of them are opened, each with its track.");
        if (list_.events.empty() && list_.problems.empty())
            throw Error("The timeline has no clip. Export one with clips.");
        return std::move(list_);
    }

  private:
    void findRate(const Json& root) {
        if (const auto start = momentIn(root.value("global_start_time", Json()))) {
            list_.rate = start->rate;
            origin_ = start->frames;
            found_ = true;
        }
        // Else that of the first piece of a track.
        const std::function<void(const Json&)> look = [&](const Json& object) {
            if (found_ || !object.is_object()) return;
            const auto range = object.find("source_range");
            if (range != object.end() && range->is_object())
                if (const auto length = momentIn(range->value("duration", Json()))) {
                    list_.rate = length->rate;
                    found_ = true;
                    return;
                }
            for (const Json& child : object.value("children", Json::array()))
                look(child);
        };
        look(root.value("tracks", Json::object()));
        list_.dropFrame = false;
    }

    [[nodiscard]] Rational atRecord(const Moment& moment) const {
        return moment.frames * list_.rate.value() / moment.rate.value();
    }

    void readTrack(const Json& track, int number) {
        std::string name = textIn(track, "name");
        if (name.empty()) name = "V" + std::to_string(number);
        Rational at = origin_;
        for (const Json& item : track.value("children", Json::array())) {
            const std::string schema = schemaOf(item);
            if (schema == "Transition") {
                problem("a transition \"" + textIn(item, "name") +
                            "\" before it is left out; it begins with a cut.",
                        1);
                continue;
            }
            const auto length = lengthOf(item);
            if (!length) {
                ++number_;
                problem("its length is not told, so what follows on track " + name + " is not opened.");
                return;
            }
            if (schema == "Clip") {
                ++number_;
                readClip(item, name, at, *length);
            } else if (schema != "Gap") {
                ++number_;
                problem("\"" + textIn(item, "name") + "\" is a nested timeline; open that one on its own.");
            }
            at = at + *length;
        }
    }

    void problem(const std::string& what, int ahead = 0) {
        list_.problems.push_back("Clip " + std::to_string(number_ + ahead) + ": " + what);
    }

    [[nodiscard]] std::optional<Rational> lengthOf(const Json& item) const {
        const auto in = [&](const Json& range) -> std::optional<Rational> {
            if (!range.is_object()) return std::nullopt;
            const auto length = momentIn(range.value("duration", Json()));
            if (!length || length->frames < Rational(0)) return std::nullopt;
            return atRecord(*length);
        };
        if (const auto own = in(item.value("source_range", Json()))) return own;
        const Json* reference = schemaOf(item) == "Clip" ? referenceOf(item) : nullptr;
        return reference && reference->is_object() ? in(reference->value("available_range", Json()))
                                                   : std::nullopt;
    }

    void readClip(const Json& clip, const std::string& track, const Rational& at, const Rational& length) {
        if (list_.events.size() >= mostClips) return;
        EditEvent event{.number = number_, .track = track, .clip = textIn(clip, "name")};
        event.recordIn = at.round();
        event.recordOut = (at + length).round();
        if (event.length() <= 0) {
            problem("it has no length.");
            return;
        }
        const Json* reference = referenceOf(clip);
        if (reference && reference->is_object()) readReference(*reference, event);
        const Json range = clip.value("source_range", Json());
        if (range.is_object())
            if (const auto start = momentIn(range.value("start_time", Json()))) {
                event.start = start->frames;
                event.sourceRate = start->rate;
            }
        if (!event.start) {
            event.start = event.available.value_or(0);
            if (!event.sourceRate) event.sourceRate = list_.rate;
        }
        for (const Json& effect : clip.value("effects", Json::array()))
            readEffect(effect, event);
        readOwn(clip, event);
        list_.events.push_back(std::move(event));
    }

    void readReference(const Json& reference, EditEvent& event) {
        const std::string schema = schemaOf(reference);
        if (schema == "ExternalReference") {
            event.media = pathFrom(textIn(reference, "target_url"));
        } else if (schema == "ImageSequenceReference") {
            const std::string padding(
                static_cast<std::size_t>(std::clamp(reference.value("frame_zero_padding", 4), 1, 12)), '#');
            event.media =
                pathFrom(textIn(reference, "target_url_base") + "/" + textIn(reference, "name_prefix") +
                         padding + textIn(reference, "name_suffix"));
        }
        const Json range = reference.value("available_range", Json());
        if (range.is_object())
            if (const auto start = momentIn(range.value("start_time", Json()))) {
                event.available = start->frames;
                event.sourceRate = start->rate;
            }
    }

    void readEffect(const Json& effect, EditEvent& event) {
        const std::string schema = schemaOf(effect);
        if (schema == "FreezeFrame") {
            event.speed = 0;
        } else if (schema == "LinearTimeWarp") {
            const auto speed = exact(effect.value("time_scalar", Json()));
            if (speed)
                event.speed = event.speed * *speed;
            else
                problem("the speed of its time warp is no number; it runs at 100 %.");
        } else if (schema == "TimeEffect" ||
                   textIn(effect, "effect_name").find("Time") != std::string::npos) {
            if (!effect.value("metadata", Json::object()).contains("yarngap"))
                problem("its effect \"" + textIn(effect, "name") +
                        "\" changes time in a way that is not understood; it runs at " + "100 %.");
        }
    }

    /// Keys that this program wrote.
    void readOwn(const Json& clip, EditEvent& event) {
        const Json metadata = clip.value("metadata", Json::object());
        if (!metadata.is_object() || !metadata.contains("yarngap")) return;
        const Json& own = metadata["yarngap"];
        if (!own.is_object()) return;
        event.reel = textIn(own, "reel");
        try {
            for (const Json& key : own.value("timeMap", Json::array()))
                event.keys.push_back({Rational::parse(textIn(key, "output")),
                                      Rational::parse(textIn(key, "frame")),
                                      parseSegment(textIn(key, "segment")), std::nullopt});
        } catch (const Error& error) {
            event.keys.clear();
            problem(error.what());
        }
    }

    EditList list_;
    Rational origin_ = 0;
    bool found_ = false;
    int number_ = 0;
};

Json rationalTime(const Rational& frames, const Rate& rate) {
    return {{"OTIO_SCHEMA", "RationalTime.1"}, {"rate", rate.toDouble()}, {"value", frames.toDouble()}};
}

Json timeRange(const Rational& start, const Rational& length, const Rate& rate) {
    return {{"OTIO_SCHEMA", "TimeRange.1"},
            {"start_time", rationalTime(start, rate)},
            {"duration", rationalTime(length, rate)}};
}

/// A file's name as part of a URL.
std::string urlOf(const std::filesystem::path& file) {
    static constexpr std::string_view hex = "0123456789ABCDEF";
    std::string url = file.is_absolute() ? "file://" : "";
    for (const char c : file.generic_string()) {
        const auto byte = static_cast<unsigned char>(c);
        if (std::isalnum(byte) || std::string_view("/-_.~").find(c) != std::string_view::npos) {
            url += c;
        } else {
            url += '%';
            url += hex[byte >> 4U];
            url += hex[byte & 15U];
        }
    }
    return url;
}

/// The fields of a clip that tell its media, its range and its speed.
Json clipFields(const EditEvent& event, const Rate& rate) {
    const Rate source = event.sourceRate.value_or(rate);
    const Rational length = Rational(event.length()) * source.value() / rate.value();
    Json reference{{"OTIO_SCHEMA", "ExternalReference.1"},
                   {"target_url", urlOf(event.media)},
                   {"metadata", Json::object()}};
    if (event.available && event.availableFrames)
        reference["available_range"] = timeRange(*event.available, *event.availableFrames, source);
    Json effects = Json::array();
    if (event.speed == Rational(0))
        effects.push_back({{"OTIO_SCHEMA", "FreezeFrame.1"},
                           {"name", "freeze"},
                           {"effect_name", "FreezeFrame"},
                           {"time_scalar", 0.0},
                           {"metadata", Json::object()}});
    else if (event.speed != Rational(1))
        effects.push_back({{"OTIO_SCHEMA", "LinearTimeWarp.1"},
                           {"name", "speed"},
                           {"effect_name", "LinearTimeWarp"},
                           {"time_scalar", event.speed.toDouble()},
                           {"metadata", Json::object()}});
    return {{"media_reference", reference},
            {"source_range", timeRange(event.start.value_or(0), length, source)},
            {"effects", effects}};
}

Json clipOf(const EditEvent& event, const Rate& rate) {
    Json clip{{"OTIO_SCHEMA", "Clip.1"},
              {"name", event.clip},
              {"markers", Json::array()},
              {"metadata", Json::object()}};
    clip.update(clipFields(event, rate));
    Json own = Json::object();
    if (!event.reel.empty()) own["reel"] = event.reel;
    for (const TimeKey& key : event.keys)
        own["timeMap"].push_back({{"output", key.output.toString()},
                                  {"frame", key.position.toString()},
                                  {"segment", std::string(name(key.after))}});
    if (!own.empty()) clip["metadata"]["yarngap"] = own;
    return clip;
}

std::string dumped(const Json& json) {
    return json.dump(4, ' ', false, Json::error_handler_t::replace) + "\n";
}

} // namespace

EditList editFromOtio(std::string_view text) {
    const Json root = jsonFrom(text);
    if (root.is_discarded() || !root.is_object())
        throw Error("This is no OpenTimelineIO file, or it is damaged. Export it again.");
    try {
        return OtioReader().read(root);
    } catch (const Json::exception&) {
        throw Error("A part of the timeline is not what OpenTimelineIO says it is. Export it again.");
    }
}

EditList loadEdit(const std::filesystem::path& file, const Rate& rate) {
    constexpr std::int64_t most = 256 << 20;
    const std::string text = contentOf(file, most, "edit");
    try {
        return file.extension() == ".otio" || file.extension() == ".OTIO" ? editFromOtio(text)
                                                                          : editFromEdl(text, rate);
    } catch (const Error& error) {
        throw Error(file.string() + ": " + error.what());
    }
}

std::string otioText(const EditList& list) {
    Json children = Json::array();
    std::int64_t at = list.events.empty() ? 0 : list.events.front().recordIn;
    const std::int64_t origin = at;
    for (const EditEvent& event : list.events) {
        if (event.recordIn > at)
            children.push_back({{"OTIO_SCHEMA", "Gap.1"},
                                {"name", ""},
                                {"effects", Json::array()},
                                {"markers", Json::array()},
                                {"metadata", Json::object()},
                                {"source_range", timeRange(0, Rational(event.recordIn - at), list.rate)}});
        children.push_back(clipOf(event, list.rate));
        at = event.recordOut;
    }
    const Json track{{"OTIO_SCHEMA", "Track.1"},
                     {"name", "V1"},
                     {"kind", "Video"},
                     {"children", children},
                     {"effects", Json::array()},
                     {"markers", Json::array()},
                     {"metadata", Json::object()},
                     {"source_range", nullptr}};
    const Json stack{{"OTIO_SCHEMA", "Stack.1"},         {"name", "tracks"},
                     {"children", Json::array({track})}, {"effects", Json::array()},
                     {"markers", Json::array()},         {"metadata", Json::object()},
                     {"source_range", nullptr}};
    return dumped({{"OTIO_SCHEMA", "Timeline.1"},
                   {"name", list.title},
                   {"metadata", Json::object()},
                   {"global_start_time", rationalTime(Rational(origin), list.rate)},
                   {"tracks", stack}});
}

std::string otioWithEvents(std::string_view otio, const EditList& list) {
    Json root = jsonFrom(otio);
    if (root.is_discarded() || schemaOf(root) != "Timeline" || !root.contains("tracks"))
        throw Error("This is no OpenTimelineIO timeline. Export it again.");
    int number = 0;
    for (Json& track : root["tracks"]["children"]) {
        if (schemaOf(track) != "Track" || textIn(track, "kind") == "Audio") continue;
        for (Json& item : track["children"]) {
            const std::string schema = schemaOf(item);
            if (schema == "Gap" || schema == "Transition") continue;
            ++number;
            const auto event = std::ranges::find(list.events, number, &EditEvent::number);
            if (schema != "Clip" || event == list.events.end()) continue;
            Json fields = clipFields(*event, list.rate);
            // What else was done to the clip stays; its speed is in the pictures now.
            Json effects = fields["effects"];
            for (Json& effect : item["effects"])
                if (const std::string kind = schemaOf(effect);
                    kind != "LinearTimeWarp" && kind != "FreezeFrame" && kind != "TimeEffect")
                    effects.push_back(effect);
            item["effects"] = effects;
            item["source_range"] = fields["source_range"];
            if (item.contains("media_references"))
                item["media_references"][textIn(item, "active_media_reference_key").empty()
                                             ? "DEFAULT_MEDIA"
                                             : textIn(item, "active_media_reference_key")] =
                    fields["media_reference"];
            else
                item["media_reference"] = fields["media_reference"];
            item["name"] = event->clip;
        }
    }
    return dumped(root);
}

} // namespace yarngap
