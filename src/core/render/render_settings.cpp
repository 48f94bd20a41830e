#include "core/render/render_settings.h"

#include "core/choice_names.h"
#include "core/time/timecode.h"

namespace yarngap {

namespace {

constexpr ChoiceNames<TimecodeUse, 3> timecodeUses{
    "timecode",
    {{{TimecodeUse::ofSource, "source"}, {TimecodeUse::fromStart, "start"}, {TimecodeUse::none, "none"}}}};

} // namespace

std::string_view name(TimecodeUse use) {
    return timecodeUses.nameOf(use);
}

TimecodeUse parseTimecodeUse(std::string_view text) {
    return timecodeUses.parse(text);
}

void validate(const RenderSettings& settings) {
    validate(settings.format);
    if (scanOf(settings.scan) != Scan::progressive && !canInterlace(settings.format.format))
        throw Error(std::string(name(settings.format.format)) +
                    " does not hold interlaced pictures. Render progressive ones, or choose ProRes, FFV1 or "
                    "H.264.");
    if (settings.timecode == TimecodeUse::fromStart && tidyTimecode(settings.start) != settings.start)
        throw Error("\"" + settings.start +
                    "\" is no timecode. It reads like 01:00:00:00, or 01:00:00;00 for "
                    "drop-frame.");
    if (settings.firstNumber < 0 || settings.firstNumber > RenderSettings::mostFirstNumber)
        throw Error("The first number of a sequence goes from 0 to " +
                    std::to_string(RenderSettings::mostFirstNumber) + ".");
}

} // namespace yarngap
