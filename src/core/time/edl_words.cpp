#include "core/time/edl_words.h"

#include "core/decimal.h"

#include <algorithm>
#include <cctype>
#include <charconv>

namespace yarngap {

std::vector<std::string_view> edlWords(std::string_view line) {
    std::vector<std::string_view> words;
    constexpr std::string_view blanks = " \t\r";
    while (true) {
        const auto begin = line.find_first_not_of(blanks);
        if (begin == std::string_view::npos) return words;
        line.remove_prefix(begin);
        const auto end = std::min(line.find_first_of(blanks), line.size());
        words.push_back(line.substr(0, end));
        line.remove_prefix(end);
    }
}

std::optional<int> edlNumber(std::string_view word) {
    int number = 0;
    const auto [end, ec] = std::from_chars(word.data(), word.data() + word.size(), number);
    return ec == std::errc() && end == word.data() + word.size() && number >= 0 ? std::optional(number)
                                                                                : std::nullopt;
}

std::string edlReel(std::string_view name) {
    constexpr std::size_t longest = 8;
    std::string reel;
    for (const char c : name) {
        if (c == '.' || reel.size() == longest) break;
        if (std::isalnum(static_cast<unsigned char>(c)))
            reel += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
    }
    return reel.empty() ? "AX" : reel;
}

std::string edlLine(std::string text) {
    std::replace_if(
        text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < ' '; }, ' ');
    return text;
}

std::string edlSpeed(double framesPerSecond) {
    constexpr std::size_t digits = 5;
    std::string speed = decimal(framesPerSecond, 1);
    if (speed.size() < digits) speed.insert(speed.starts_with('-') ? 1 : 0, digits - speed.size(), '0');
    return speed;
}

} // namespace yarngap
