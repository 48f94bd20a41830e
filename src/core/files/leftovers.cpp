#include "core/files/leftovers.h"

#include "core/files/new_sequence.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <charconv>
#include <csignal>
#include <fstream>
#include <iterator>
#include <random>
#include <unistd.h>
#include <vector>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr std::string_view prefix = ".yarngap-";
constexpr std::string_view suffix = ".partial";

/// Eight hexadecimal digits of FNV-1a (Fowler, Noll, Vo).
std::string shortHash(std::string_view text) {
    std::uint32_t hash = 2166136261U;
    for (const char c : text)
        hash = (hash ^ static_cast<unsigned char>(c)) * 16777619U;
    constexpr std::string_view digits = "0123456789abcdef";
    std::string out;
    for (int shift = 28; shift >= 0; shift -= 4)
        out += digits[(hash >> shift) & 15U];
    return out;
}

std::string firstLineOf(const char* file) {
    std::ifstream in(file);
    std::string line;
    std::getline(in, line);
    return line;
}

/// Process numbers of one name space mean nothing in another, as of two containers.
std::string placeOfProcesses() {
    std::array<char, 256> name{};
    std::string machine = firstLineOf("/etc/machine-id");
    if (machine.empty() && ::gethostname(name.data(), name.size() - 1) == 0) machine = name.data();
    std::error_code ec;
    return shortHash(machine + fs::read_symlink("/proc/self/ns/pid", ec).string());
}

/// Field 22 of /proc/PID/stat; −1 when there is no such process. The name before it may hold anything.
long long startOf(long process) {
    std::ifstream in("/proc/" + std::to_string(process) + "/stat");
    const std::string line{std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
    auto at = line.rfind(')');
    constexpr int fields = 20; // from the end of the name to the start
    for (int i = 0; i < fields && at != std::string::npos; ++i)
        at = line.find(' ', at + 1);
    long long started = -1;
    if (at != std::string::npos) std::from_chars(line.data() + at + 1, line.data() + line.size(), started);
    return started;
}

template <typename Number>
bool readNumber(std::string_view text, Number& value) {
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value);
    return ec == std::errc() && end == text.data() + text.size() && value >= 0;
}

} // namespace

Maker thisMaker() {
    const long process = ::getpid();
    return {placeOfProcesses(), shortHash(firstLineOf("/proc/sys/kernel/random/boot_id")), process,
            std::max(0LL, startOf(process))};
}

bool hasEnded(const Maker& maker) {
    const Maker own = thisMaker();
    if (maker.place != own.place) return false;
    if (maker.boot != own.boot) return true;
    if (::kill(static_cast<pid_t>(maker.process), 0) != 0 && errno == ESRCH) return true;
    const long long started = startOf(maker.process);
    return started >= 0 && started != maker.started; // another process has its number now
}

fs::path partialNameIn(const fs::path& folder) {
    const Maker own = thisMaker();
    std::random_device random;
    const std::uint64_t number = std::uint64_t{random()} << 32U | random();
    return folder / (std::string(prefix) + own.place + '-' + own.boot + '-' + std::to_string(own.process) +
                     '-' + std::to_string(own.started) + '-' + std::to_string(number) + std::string(suffix));
}

std::optional<Maker> makerFrom(std::string_view name) {
    if (!name.starts_with(prefix) || !name.ends_with(suffix) || name.size() < prefix.size() + suffix.size())
        return std::nullopt;
    name = name.substr(prefix.size(), name.size() - prefix.size() - suffix.size());
    std::vector<std::string_view> parts;
    while (true) {
        const auto dash = name.find('-');
        parts.push_back(name.substr(0, dash));
        if (dash == std::string_view::npos) break;
        name.remove_prefix(dash + 1);
    }
    Maker maker;
    if (parts.size() != 5 || !readNumber(parts[2], maker.process) || !readNumber(parts[3], maker.started))
        return std::nullopt;
    maker.place = parts[0];
    maker.boot = parts[1];
    return maker;
}

void removeLeftovers(const fs::path& folder) {
    std::vector<fs::path> left;
    std::error_code ec;
    for (fs::directory_iterator entry(folder.empty() ? fs::path(".") : folder, ec), end; !ec && entry != end;
         entry.increment(ec))
        if (const auto maker = makerFrom(entry->path().filename().string()); maker && hasEnded(*maker))
            left.push_back(entry->path());
    for (const fs::path& path : left) {
        std::error_code gone;
        if (fs::is_directory(fs::symlink_status(path, gone)) && !completeMoves(path)) continue;
        fs::remove_all(path, gone);
    }
}

} // namespace yarngap
