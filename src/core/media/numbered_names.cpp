#include "core/media/numbered_names.h"

#include "core/files/reading_thread.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <memory>
#include <optional>
#include <set>
#include <utility>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t mostDigits = 12;

bool isDigit(char c) {
    return std::isdigit(static_cast<unsigned char>(c)) != 0;
}

/// A v that is no part of a word: "shot_v2", "v2", "shot.V003".
bool countsVersions(const NumberInName& number) {
    const std::string& before = number.before;
    if (before.empty() || (before.back() != 'v' && before.back() != 'V')) return false;
    return before.size() == 1 || std::isalnum(static_cast<unsigned char>(before[before.size() - 2])) == 0;
}

/// The digits that stand in `name` where the pattern has its number; empty when it is of another pattern.
std::string_view digitsIn(std::string_view name, const NumberInName& of) {
    if (name.size() <= of.before.size() + of.after.size() || !name.starts_with(of.before) ||
        !name.ends_with(of.after))
        return {};
    const auto digits = name.substr(of.before.size(), name.size() - of.before.size() - of.after.size());
    return digits.size() <= mostDigits && std::all_of(digits.begin(), digits.end(), isDigit)
               ? digits
               : std::string_view();
}

std::int64_t valueOf(std::string_view digits) {
    std::int64_t value = 0;
    std::from_chars(digits.data(), digits.data() + digits.size(), value);
    return value;
}

std::vector<std::string> namesIn(const fs::path& folder, ReadingThread& reading,
                                 const std::stop_token& stop) {
    struct Listed {
        std::vector<std::string> names;
        std::error_code trouble;
    };
    auto listed = std::make_shared<Listed>();
    reading.run(
        [listed, folder, stop] {
            for (fs::directory_iterator entry(folder, listed->trouble), end;
                 !listed->trouble && entry != end && !stop.stop_requested(); entry.increment(listed->trouble))
                listed->names.push_back(entry->path().filename().string());
        },
        stop);
    if (listed->trouble)
        throw Error("The folder " + folder.string() + " cannot be listed (" + listed->trouble.message() +
                    "), so the pictures of a sequence in it cannot be found. Check its permissions.");
    std::sort(listed->names.begin(), listed->names.end()); // the disk's order tells nothing
    return std::move(listed->names);
}

/// All files of one pattern. Of two with one number, the one with as many digits as the picked file counts.
NumberedFiles collected(const std::vector<std::string>& names, const NumberInName& of,
                        const fs::path& folder) {
    NumberedFiles found;
    for (const std::string& name : names) {
        const auto digits = digitsIn(name, of);
        if (digits.empty()) continue;
        const auto [kept, isNew] = found.files.try_emplace(valueOf(digits), folder / name);
        if (isNew) continue;
        fs::path other = folder / name;
        if (digits.size() == of.digits.size()) std::swap(kept->second, other);
        found.leftOut.push_back(std::move(other));
    }
    std::sort(found.leftOut.begin(), found.leftOut.end());
    return found;
}

/// A number that may count the frames.
struct Candidate {
    const NumberInName* number = nullptr;
    std::size_t values = 0;
    bool hasZeros = false; ///< leading ones
};

Candidate candidateOf(const NumberInName& number, const std::vector<std::string>& names) {
    Candidate candidate{&number};
    std::set<std::int64_t> values;
    for (const std::string& name : names) {
        const auto digits = digitsIn(name, number);
        if (digits.empty()) continue;
        values.insert(valueOf(digits));
        candidate.hasZeros |= digits.size() > 1 && digits.front() == '0';
    }
    candidate.values = values.size();
    return candidate;
}

const NumberInName& counting(const std::vector<NumberInName>& numbers, const std::vector<std::string>& names,
                             const fs::path& picked) {
    std::vector<Candidate> varying;
    for (const NumberInName& number : numbers)
        if (const Candidate candidate = candidateOf(number, names); candidate.values > 1)
            varying.push_back(candidate);
    if (varying.empty()) return numbers.back(); // a picture on its own
    std::stable_sort(varying.begin(), varying.end(),
                     [](const Candidate& a, const Candidate& b) { return a.values > b.values; });
    const auto hasZeros = [](const Candidate& c) { return c.hasZeros; };
    auto chosen = varying.end();
    if (varying.size() == 1 || varying[0].values >= 2 * varying[1].values)
        chosen = varying.begin();
    else if (std::count_if(varying.begin(), varying.end(), hasZeros) == 1)
        chosen = std::find_if(varying.begin(), varying.end(), hasZeros);
    if (chosen != varying.end() && (numbers.size() == 1 || !countsVersions(*chosen->number)))
        return *chosen->number;
    std::vector<fs::path> patterns;
    patterns.reserve(numbers.size());
    for (const NumberInName& number : numbers)
        patterns.push_back(picked.parent_path() / number.pattern());
    throw UnclearNumber(picked, std::move(patterns));
}

/// The pattern that a name with # in it stands for; nothing for any other name.
std::optional<NumberInName> patternOf(const std::string& name) {
    const auto first = name.find('#');
    if (first == std::string::npos) return std::nullopt;
    const auto end = std::min(name.find_first_not_of('#', first), name.size());
    return NumberInName{name.substr(0, first), std::string(end - first, '0'), name.substr(end)};
}

std::string choicesAmong(const std::vector<fs::path>& patterns) {
    std::string text;
    for (std::size_t i = 0; i < patterns.size(); ++i)
        text += (i == 0 ? "" : " or ") + patterns[i].filename().string();
    return text;
}

} // namespace

std::int64_t NumberInName::number() const {
    return valueOf(digits);
}

UnclearNumber::UnclearNumber(const fs::path& picked, std::vector<fs::path> patterns)
    : Error("It is not clear which number in " + picked.filename().string() +
            " counts the frames. Open it as " + choicesAmong(patterns) + '.')
    , patterns_(std::move(patterns)) {}

std::vector<NumberInName> numbersIn(std::string_view fileName) {
    const std::string name(fileName);
    const std::size_t stem = fs::path(name).stem().string().size();
    std::vector<NumberInName> numbers;
    for (std::size_t begin = 0; begin < stem;) {
        std::size_t end = begin;
        while (end < stem && isDigit(name[end]))
            ++end;
        if (end > begin && end - begin <= mostDigits)
            numbers.push_back({name.substr(0, begin), name.substr(begin, end - begin), name.substr(end)});
        begin = std::max(end, begin + 1);
    }
    return numbers;
}

NumberedFiles filesOf(const fs::path& picked, ReadingThread& reading, const std::stop_token& stop) {
    const std::string name = picked.filename().string();
    const fs::path folder = picked.has_parent_path() ? picked.parent_path() : fs::path(".");
    std::error_code ec;
    const auto pattern = fs::exists(picked, ec) ? std::nullopt : patternOf(name);
    const std::vector<NumberInName> numbers = numbersIn(name);
    if (!pattern && numbers.empty()) return {{{0, picked}}, {}};
    const std::vector<std::string> names = namesIn(folder, reading, stop);
    NumberedFiles found =
        collected(names, pattern ? *pattern : counting(numbers, names, picked), picked.parent_path());
    if (found.files.empty() && pattern)
        throw Error("There are no pictures " + picked.string() +
                    " with a number in place of #. Check the name.");
    if (found.files.empty())
        throw Error("There is no file " + picked.string() +
                    ". Check its name, and whether the disk it lies on is connected. Only local files can be "
                    "opened.");
    return found;
}

} // namespace yarngap
