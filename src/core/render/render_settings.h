// How a result is written: what an editor chooses once and uses for many shots.
#pragma once

#include "core/media/output_format.h"
#include "core/media/output_scan.h"
#include "core/sound/plan_sound.h"

#include <cstdint>
#include <string>
#include <string_view>

namespace yarngap {

/// What becomes of a source frame that cannot be decoded.
enum class WhenUndecodable {
    stop, ///< the render ends, and nothing is written
    hold  ///< the nearest frame before it is shown in its place
};

/// Where the timecode of a result begins.
enum class TimecodeUse {
    ofSource,  ///< at that of the source frame it begins with, and runs on from there; none where the source
               ///< has none
    fromStart, ///< at one that the editor gives
    none
};
[[nodiscard]] std::string_view name(TimecodeUse use); ///< "source", "start", "none"
TimecodeUse parseTimecodeUse(std::string_view text);  ///< throws Error

/// A plain value; kept in presets, projects and job files.
struct RenderSettings {
    FormatChoice format;
    OutputScan scan = OutputScan::progressive;
    SoundUse sound = SoundUse::ownPitch;
    bool usualSoundRate = false; ///< 48 kHz whatever the rate of the source's sound
    TimecodeUse timecode = TimecodeUse::ofSource;
    std::string start;            ///< for TimecodeUse::fromStart: "01:00:00:00"
    std::string reel;             ///< name of the reel; empty: that of the source
    std::int64_t firstNumber = 0; ///< of a sequence
    WhenUndecodable whenUndecodable = WhenUndecodable::stop;

    static constexpr std::int64_t mostFirstNumber = 99'999'999;

    friend bool operator==(const RenderSettings&, const RenderSettings&) = default;
};

/// Throws Error for what cannot be together.
void validate(const RenderSettings& settings);

} // namespace yarngap
