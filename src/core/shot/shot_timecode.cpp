#include "core/shot/shot_timecode.h"

#include "core/time/timecode.h"

namespace yarngap {

std::string sourceTimecode(const MediaIndex& index, const SourceAxis& axis, std::int64_t frame) {
    const std::string& told = index.facts.timecode;
    const Rate& fileRate = index.facts.rate;
    const Timecode own(fileRate, isDropFrame(told));
    const auto start = own.parse(told);
    if (!start) return {};
    const bool isEven = axis.facts().rate == fileRate && !axis.isRecounted();
    if (isEven) return own.format(*start + frame);
    // The frame of the file that was filmed then, as the rate that the editor set counts it.
    const Rational moment = axis.momentOf(Rational(frame));
    const std::string text = own.format(*start + (moment * fileRate.value()).round());
    return timecodeAt(text, fileRate, axis.facts().rate);
}

std::string timecodeAt(const std::string& timecode, const Rate& from, const Rate& to) {
    if (timecode.empty()) return {};
    const Timecode wanted(to, isDropFrame(timecode));
    const auto frames = wanted.parseStart(timecode, from);
    return frames ? wanted.format(*frames) : std::string();
}

} // namespace yarngap
