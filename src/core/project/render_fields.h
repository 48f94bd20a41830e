// The fields of what a render needs to know, each told once. Internal to project/; docs/formats.md says what
// they mean.
#pragma once

#include "core/project/shot_fields.h"
#include "core/render/render_work.h"

#include <filesystem>

namespace yarngap {

inline constexpr std::size_t mostFoundGaps = 10'000'000;

/// [gap, firstX, firstY, lastX, lastY, told].
struct ShakeForm {
    [[nodiscard]] Json write(const Shake& shake) const {
        return {shake.gap, shake.firstX, shake.firstY, shake.lastX, shake.lastY, shake.told};
    }
    [[nodiscard]] Shake read(const Json& json) const {
        constexpr std::size_t numbers = 6;
        if (!json.is_array() || json.size() != numbers) throw shouldBe("six numbers of a camera's shake");
        constexpr double farthest = 1e6;
        const auto number = [&](std::size_t i) {
            return static_cast<float>(Number{-farthest, farthest}.read(json[i]));
        };
        return {Whole{0, lastFrame}.read(json[0]), number(1), number(2), number(3), number(4), number(5)};
    }
};

inline constexpr auto tellFormat = [](auto& fields, auto& format) {
    const FormatChoice usual;
    constexpr int mostBits = 32;
    constexpr int mostQuality = 100;
    fields.value("name", format.format,
                 Choice{[](OutputFormat v) { return shortName(v); }, parseOutputFormat});
    fields.optional("quality", format.quality, Whole{0, mostQuality});
    fields.optional("depth", format.depth, Whole{-mostBits, mostBits});
    fields.optional("chroma", format.chroma, Choice{[](Chroma v) { return name(v); }, parseChroma});
    fields.unless("compression", format.compression, usual.compression,
                  Choice{[](ExrCompression v) { return name(v); }, parseExrCompression});
    fields.unless("sound", format.soundCodec, usual.soundCodec,
                  Choice{[](SoundCodec v) { return name(v); }, parseSoundCodec});
};

inline constexpr auto tellRenderSettings = [](auto& fields, auto& settings) {
    const RenderSettings usual;
    fields.object("format", settings.format, tellFormat);
    fields.unless("scan", settings.scan, usual.scan,
                  Choice{[](OutputScan v) { return name(v); }, parseOutputScan});
    fields.unless("sound", settings.sound, usual.sound,
                  Choice{[](SoundUse v) { return name(v); }, parseSoundUse});
    fields.unless("usualSoundRate", settings.usualSoundRate, usual.usualSoundRate, Flag{});
    fields.unless("timecode", settings.timecode, usual.timecode,
                  Choice{[](TimecodeUse v) { return name(v); }, parseTimecodeUse});
    fields.unless("start", settings.start, usual.start, Words{});
    fields.unless("reel", settings.reel, usual.reel, Words{});
    fields.unless("firstNumber", settings.firstNumber, usual.firstNumber,
                  Whole{0, RenderSettings::mostFirstNumber});
    fields.unless("undecodable", settings.whenUndecodable, usual.whenUndecodable,
                  Choice{[](WhenUndecodable v) {
                             return std::string_view(v == WhenUndecodable::hold ? "hold" : "stop");
                         },
                         [](std::string_view text) {
                             if (text != "hold" && text != "stop") throw shouldBe("hold or stop");
                             return text == "hold" ? WhenUndecodable::hold : WhenUndecodable::stop;
                         }});
};

inline constexpr auto tellTiming = [](auto& fields, auto& timing) {
    fields.needs({"sourceRate", "outputRate", "from", "to"});
    fields.value("sourceRate", timing.sourceRate, FrameRate{});
    fields.value("outputRate", timing.outputRate, FrameRate{});
    fields.value("from", timing.from, Whole{0, lastFrame});
    fields.value("to", timing.to, Whole{0, lastFrame});
    fields.value("speed", timing.speed, Exact{});
    fields.list("keys", timing.keys, mostKeys, tellTimeKey);
};

inline constexpr auto tellFound = [](auto& fields, auto& found) {
    const Whole place{0, lastFrame};
    fields.plainList("cuts", found.cuts, mostFoundGaps, place);
    fields.plainList("repeats", found.repeats, mostFoundGaps, place);
    fields.plainList("shakes", found.shakes, mostFoundGaps, ShakeForm{});
    fields.plainList("passedOver", found.passedOver, mostFoundGaps, place);
    fields.plainList("subjectPassedOver", found.subjectPassedOver, mostFoundGaps, place);
    fields.plainList("backgroundPassedOver", found.backgroundPassedOver, mostFoundGaps, place);
};

/// Of a work kept in `folder`.
inline auto tellWorkShotIn(const std::filesystem::path& folder) {
    return [&folder](auto& fields, auto& of) {
        fields.needs({"shot", "timing"});
        fields.object("shot", of.shot, tellShotIn(folder));
        fields.object("timing", of.timing, tellTiming);
        fields.optionalObject("found", of.found, tellFound);
        fields.plainList("uncleanedCuts", of.uncleanedCuts, mostFoundGaps, Whole{0, lastFrame});
        fields.unless("first", of.first, std::int64_t{0}, Whole{0, maxOutputFrames});
        fields.optional("last", of.last, Whole{0, maxOutputFrames});
    };
}

inline auto tellTargetIn(const std::filesystem::path& folder) {
    return [&folder](auto& fields, auto& target) {
        fields.needs({"file", "format"});
        fields.value("file", target.file, FileIn{folder});
        fields.object("format", target.format, tellFormat);
        fields.unless("replace", target.replace, false, Flag{});
    };
}

inline auto tellWorkIn(const std::filesystem::path& folder) {
    return [&folder](auto& fields, auto& work) {
        constexpr std::size_t mostShots = 10'000;
        constexpr std::size_t mostTargets = 12;
        fields.needs({"shots", "targets"});
        fields.value("name", work.name, Words{});
        fields.unless("asked", work.asked, std::string(), Words{});
        fields.list("shots", work.shots, mostShots, tellWorkShotIn(folder));
        fields.list("targets", work.targets, mostTargets, tellTargetIn(folder));
        fields.object("settings", work.settings, tellRenderSettings);
        fields.plainList("spared", work.spared, mostShots, FileIn{folder});
    };
}

} // namespace yarngap
