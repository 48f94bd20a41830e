#include "core/time/map_text.h"

#include "core/error.h"

#include <algorithm>
#include <array>

namespace yarngap {

namespace {

constexpr std::array<std::string_view, 4> columns{"output", "position", "speed", "segment"};

std::string_view bareText(std::string_view text) {
    const auto blank = [](char c) { return c == ' ' || c == '\t' || c == '\r' || c == '"'; };
    while (!text.empty() && blank(text.front()))
        text.remove_prefix(1);
    while (!text.empty() && blank(text.back()))
        text.remove_suffix(1);
    return text;
}

std::vector<std::string_view> cellsOf(std::string_view line) {
    std::vector<std::string_view> cells;
    while (true) {
        const auto comma = line.find_first_of(",;");
        cells.push_back(bareText(line.substr(0, comma)));
        if (comma == std::string_view::npos) return cells;
        line.remove_prefix(comma + 1);
    }
}

/// Which cell of a line holds each of `columns`; −1 where none does.
std::array<std::ptrdiff_t, columns.size()> placesIn(const std::vector<std::string_view>& heading) {
    std::array<std::ptrdiff_t, columns.size()> places{};
    for (std::size_t c = 0; c < columns.size(); ++c) {
        const auto found = std::find(heading.begin(), heading.end(), columns.at(c));
        places.at(c) = found == heading.end() ? -1 : found - heading.begin();
    }
    if (places[0] < 0 || places[1] < 0)
        throw Error("the heading should be output,position,speed,segment; at least the first two are needed");
    return places;
}

} // namespace

std::string_view name(Segment segment) {
    switch (segment) {
    case Segment::constant:
        return "constant";
    case Segment::eased:
        return "eased";
    case Segment::hold:
        return "hold";
    }
    return "";
}

Segment parseSegment(std::string_view text) {
    for (const Segment s : {Segment::constant, Segment::eased, Segment::hold})
        if (text == name(s)) return s;
    throw Error("\"" + std::string(text.substr(0, 40)) +
                "\" is no kind of segment. Use constant, eased or hold.");
}

std::string toCsv(const TimeKeys& keys) {
    std::string text = "output,position,speed,segment\n";
    for (const TimeKey& key : keys)
        text += key.output.toString() + ',' + key.position.toString() + ',' +
                (key.speed ? key.speed->toString() : std::string()) + ',' + std::string(name(key.after)) +
                '\n';
    return text;
}

TimeKeys keysFromCsv(std::string_view text) {
    TimeKeys keys;
    std::array<std::ptrdiff_t, columns.size()> places{};
    bool headed = false;
    int number = 0;
    while (!text.empty()) {
        const auto end = text.find('\n');
        const std::string_view line = bareText(text.substr(0, end));
        text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
        ++number;
        if (line.empty() || line.front() == '#') continue;
        try {
            const auto cells = cellsOf(line);
            if (!headed) {
                places = placesIn(cells);
                headed = true;
                continue;
            }
            const auto cell = [&](std::size_t column) {
                const std::ptrdiff_t place = places.at(column);
                return place < 0 || place >= static_cast<std::ptrdiff_t>(cells.size())
                           ? std::string_view()
                           : cells[static_cast<std::size_t>(place)];
            };
            TimeKey key;
            key.output = Rational::parse(cell(0));
            key.position = Rational::parse(cell(1));
            if (!cell(2).empty()) key.speed = Rational::parse(cell(2));
            if (!cell(3).empty()) key.after = parseSegment(cell(3));
            if (keys.size() >= mostKeys) throw Error("more than 100,000 keys are not kept");
            keys.push_back(key);
        } catch (const Error& error) {
            throw Error("Line " + std::to_string(number) + " of the time map: " + error.what());
        }
    }
    validateKeys(keys);
    return keys;
}

} // namespace yarngap
