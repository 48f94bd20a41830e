// What lines of edit decision lists are made of.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// The words of a line, without the blanks between them.
std::vector<std::string_view> edlWords(std::string_view line);
/// A number of an event; absent for any other word.
std::optional<int> edlNumber(std::string_view word);
/// Up to 8 letters and digits of a name, as reels are named; "AX" where there are none.
std::string edlReel(std::string_view name);
/// One line, without what would end it.
std::string edlLine(std::string text);
/// Source frames a second as an M2 line has them: "012.0".
std::string edlSpeed(double framesPerSecond);

} // namespace yarngap
