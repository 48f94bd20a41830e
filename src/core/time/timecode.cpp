#include "core/time/timecode.h"

#include <array>
#include <charconv>
#include <cstdio>

namespace yarngap {

Timecode::Timecode(const Rate& rate)
    : nominal_(std::max<std::int64_t>(1, rate.value().round()))
    , drop_(0) {
    if (rate == Rate(30000, 1001)) drop_ = 2;
    if (rate == Rate(60000, 1001)) drop_ = 4;
}

Timecode::Timecode(const Rate& rate, bool dropWherePossible)
    : Timecode(rate) {
    if (!dropWherePossible) drop_ = 0;
}

std::string Timecode::format(std::int64_t frames) const {
    const bool negative = frames < 0;
    std::int64_t number = negative ? -frames : frames;
    if (drop_ > 0) {
        // Put back the numbers left out before this frame: 9 times drop_ in each ten minutes.
        const std::int64_t perMinute = nominal_ * 60 - drop_;
        const std::int64_t perTen = nominal_ * 600 - drop_ * 9;
        const std::int64_t tens = number / perTen;
        const std::int64_t rest = number % perTen;
        number += drop_ * 9 * tens;
        if (rest >= nominal_ * 60) number += drop_ * (1 + (rest - nominal_ * 60) / perMinute);
    }
    const std::int64_t seconds = number / nominal_;
    std::array<char, 64> text{};
    std::snprintf(text.data(), text.size(), "%s%02lld:%02lld:%02lld%c%02lld", negative ? "-" : "",
                  static_cast<long long>(seconds / 3600), static_cast<long long>(seconds / 60 % 60),
                  static_cast<long long>(seconds % 60), drop_ > 0 ? ';' : ':',
                  static_cast<long long>(number % nominal_));
    return text.data();
}

std::optional<std::int64_t> Timecode::parse(std::string_view text) const {
    std::array<std::int64_t, 4> fields{};
    std::size_t count = 0;
    while (true) {
        const auto end = text.find_first_of(":;");
        const std::string_view part = text.substr(0, end);
        if (count == 4 || part.empty() || part.size() > 4) return std::nullopt;
        std::int64_t value = 0;
        const auto [last, ec] = std::from_chars(part.data(), part.data() + part.size(), value);
        if (ec != std::errc() || last != part.data() + part.size() || value < 0) return std::nullopt;
        fields.at(count++) = value;
        if (end == std::string_view::npos) break;
        text.remove_prefix(end + 1);
    }
    if (count < 2) return std::nullopt;
    std::array<std::int64_t, 4> hmsf{};
    for (std::size_t i = 0; i < count; ++i)
        hmsf.at(4 - count + i) = fields.at(i);
    const auto [h, m, s, f] = hmsf;
    if (f >= nominal_ || (count > 2 && s > 59) || (count > 3 && m > 59)) return std::nullopt;
    const std::int64_t minutes = h * 60 + m + s / 60;
    if (drop_ > 0 && s % 60 == 0 && f < drop_ && minutes % 10 != 0) return std::nullopt;
    return (h * 3600 + m * 60 + s) * nominal_ + f - drop_ * (minutes - minutes / 10);
}

bool isDropFrame(std::string_view text) {
    const auto last = text.find_last_of(":;");
    return last != std::string_view::npos && text[last] == ';';
}

std::string tidyTimecode(std::string_view text) {
    constexpr std::string_view form = "00:00:00:00";
    if (text.size() < form.size()) return {};
    text = text.substr(0, form.size());
    for (std::size_t i = 0; i < form.size(); ++i) {
        const bool digit = text[i] >= '0' && text[i] <= '9';
        if (digit != (form[i] == '0') || (!digit && text[i] != ':' && text[i] != ';' && text[i] != '.'))
            return {};
    }
    const bool drop = text[8] != ':';
    std::string tidy(text);
    tidy[2] = tidy[5] = ':';
    tidy[8] = drop ? ';' : ':';
    return tidy;
}

std::optional<std::int64_t> Timecode::parseStart(std::string_view text, const Rate& fileRate) const {
    const Timecode own(fileRate, isDropFrame(text));
    if (nominal_ == own.nominal_) return parse(text);
    const auto frames = own.parse(text);
    if (!frames) return std::nullopt;
    const Timecode counted(fileRate, false); // hours, minutes and seconds as they are written
    const std::int64_t number = *counted.parse(text);
    const std::int64_t seconds = number / own.nominal_;
    const std::int64_t rest = number % own.nominal_ * nominal_ / own.nominal_;
    if (drop_ == 0) return seconds * nominal_ + rest;
    const std::int64_t minutes = seconds / 60;
    return seconds * nominal_ + rest - drop_ * (minutes - minutes / 10);
}

} // namespace yarngap
