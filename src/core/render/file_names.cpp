#include "core/render/file_names.h"

#include "core/decimal.h"
#include "core/error.h"
#include "core/media/frame_writer.h"

#include <algorithm>
#include <charconv>
#include <ctime>

namespace yarngap {

namespace {

constexpr int mostVersions = 9999;

std::string tame(std::string text) {
    for (char& c : text)
        if (c == '/' || c == '#' || static_cast<unsigned char>(c) < ' ') c = '-';
    return text.empty() ? "shot" : text;
}

std::string speedOf(const Timing& timing) {
    if (timing.varies()) return "varied";
    const double percent = timing.speed.toDouble() * 100;
    std::string text = decimal(percent, 1);
    if (text.ends_with(".0")) text.resize(text.size() - 2);
    return text;
}

std::string today() {
    const std::time_t now = std::time(nullptr);
    std::tm parts{};
    localtime_r(&now, &parts);
    std::string text(16, '\0');
    text.resize(std::strftime(text.data(), text.size(), "%Y-%m-%d", &parts));
    return text;
}

/// The number behind a colon: "{version:3}".
int widthIn(const std::string& word, std::size_t colon, int usual) {
    if (colon == std::string::npos) return usual;
    int width = 0;
    const auto [end, ec] = std::from_chars(word.data() + colon + 1, word.data() + word.size(), width);
    constexpr int most = 12;
    if (ec != std::errc() || end != word.data() + word.size() || width < 1 || width > most)
        throw Error("{" + word + "} in a name: the number behind the colon goes from 1 to 12.");
    return width;
}

std::string padded(int number, int width) {
    std::string text = std::to_string(number);
    if (std::ssize(text) < width) text.insert(0, static_cast<std::size_t>(width) - text.size(), '0');
    return text;
}

std::string filled(const std::string& pattern, const Shot& shot, const Timing& timing, int version) {
    std::string name;
    for (std::size_t i = 0; i < pattern.size();) {
        const std::size_t end = pattern[i] == '{' ? pattern.find('}', i) : std::string::npos;
        if (end == std::string::npos) {
            name += pattern[i++];
            continue;
        }
        const std::string word = pattern.substr(i + 1, end - i - 1);
        const std::size_t colon = word.find(':');
        const std::string what = word.substr(0, colon);
        if (what == "shot")
            name += tame(shot.name);
        else if (what == "method")
            name += keyOf(shot.method);
        else if (what == "speed")
            name += speedOf(timing);
        else if (what == "rate")
            name += timing.outputRate.display();
        else if (what == "date")
            name += today();
        else if (what == "version")
            name += padded(version, widthIn(word, colon, 1));
        else if (what == "frame")
            name.append(static_cast<std::size_t>(widthIn(word, colon, 5)), '#');
        else
            throw Error(
                "{" + word +
                "} in a name is not known. Use {shot}, {method}, {speed}, {rate}, {date}, {version} or "
                "{frame}.");
        i = end + 1;
    }
    return name;
}

bool isTaken(const std::filesystem::path& file) {
    std::error_code ec;
    if (file.filename().string().find('#') != std::string::npos) {
        try {
            return !picturesThere(file).empty();
        } catch (const Error&) {
            return false; // no such folder, which rendering will tell
        }
    }
    return std::filesystem::exists(file, ec);
}

} // namespace

std::filesystem::path fileNamed(const std::string& pattern, const Shot& shot, const Timing& timing,
                                const std::set<std::filesystem::path>& taken) {
    std::filesystem::path file = filled(pattern, shot, timing, 1);
    if (pattern.find("{version") == std::string::npos) return file;
    for (int version = 2;
         version <= mostVersions && (isTaken(file) || taken.contains(std::filesystem::absolute(file)));
         ++version)
        file = filled(pattern, shot, timing, version);
    return file;
}

std::filesystem::path fileApart(const std::string& pattern, const Shot& shot, const Timing& timing,
                                std::set<std::filesystem::path>& taken) {
    const std::filesystem::path wanted = std::filesystem::absolute(fileNamed(pattern, shot, timing, taken));
    std::filesystem::path file = wanted;
    for (int n = 2; !taken.insert(file).second; ++n)
        file = wanted.parent_path() /
               (wanted.stem().string() + "_" + std::to_string(n) + wanted.extension().string());
    return file;
}

bool namesShots(const std::string& pattern) {
    return pattern.find("{shot}") != std::string::npos || pattern.find("{version") != std::string::npos;
}

} // namespace yarngap
