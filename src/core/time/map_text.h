// Time maps as text: comma-separated values.
#pragma once

#include "core/time/map_edits.h"

#include <string>
#include <string_view>

namespace yarngap {

/// "constant", "eased", "hold".
std::string_view name(Segment segment);
/// Throws Error listing them.
Segment parseSegment(std::string_view text);

/// One key a line after the heading `output,position,speed,segment`: the output frame, the place on the
/// source axis, the speed through the key in source frames per output frame (empty: from its neighbours), and
/// what joins it to the next. Numbers are whole, decimal or exact fractions ("40/3").
std::string toCsv(const TimeKeys& keys);
/// Reads that. Columns may come in any order, `speed` and `segment` may be missing; lines that are empty or
/// begin with
/// `#` are passed over. Throws Error naming the line; nothing is half read.
TimeKeys keysFromCsv(std::string_view text);

} // namespace yarngap
