#include "core/render/farm.h"

#include "core/error.h"
#include "core/files/local_file.h"
#include "core/files/new_file.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>
#include <map>
#include <sys/wait.h>
#include <unistd.h>

namespace yarngap {

namespace {

using Json = nlohmann::json;

/// What a program printed, and how it ended.
struct Ran {
    int status = -1;
    std::string text;
};

/// Runs a program without a shell. Throws Error when it cannot be started.
Ran run(const std::vector<std::string>& words) {
    // Before the fork: other threads may hold the allocator's lock in the child.
    std::vector<char*> arguments;
    arguments.reserve(words.size() + 1);
    for (const std::string& word : words)
        arguments.push_back(const_cast<char*>(word.c_str()));
    arguments.push_back(nullptr);
    std::array<int, 2> ends{};
    if (::pipe(ends.data()) != 0) throw Error("No more programs can be started. Close some.");
    const pid_t child = ::fork();
    if (child < 0) {
        ::close(ends[0]);
        ::close(ends[1]);
        throw Error("No more programs can be started. Close some.");
    }
    if (child == 0) {
        ::dup2(ends[1], STDOUT_FILENO);
        ::dup2(ends[1], STDERR_FILENO);
        ::close(ends[0]);
        ::close(ends[1]);
        ::execvp(arguments[0], arguments.data());
        ::_exit(127);
    }
    ::close(ends[1]);
    Ran ran;
    std::array<char, 4096> buffer{};
    while (true) {
        const ssize_t got = ::read(ends[0], buffer.data(), buffer.size());
        if (got < 0 && errno == EINTR) continue;
        if (got <= 0) break;
        ran.text.append(buffer.data(), static_cast<std::size_t>(got));
    }
    ::close(ends[0]);
    int status = 0;
    while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
    }
    ran.status = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
    while (!ran.text.empty() && (ran.text.back() == '\n' || ran.text.back() == ' '))
        ran.text.pop_back();
    return ran;
}

/// The output of a command of Slurm's. Throws Error with what it says.
std::string slurm(const std::vector<std::string>& words) {
    const Ran ran = run(words);
    constexpr int notThere = 127;
    if (ran.status == notThere)
        throw Error("Slurm is not installed on this machine. Install Debian's package slurm-wlm, or render "
                    "without a farm.");
    if (ran.status != 0) throw Error("Slurm refuses (" + words[0] + "): " + ran.text);
    return ran.text;
}

/// A word as a POSIX shell takes it literally.
std::string quoted(const std::string& word) {
    std::string out = "'";
    for (const char c : word)
        out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

std::filesystem::path notesFile(const std::filesystem::path& folder) {
    return folder / "farm.json";
}

struct Notes {
    std::string array, join;
    int slices = 0;
};

Notes notesIn(const std::filesystem::path& folder) {
    constexpr std::int64_t most = 1 << 20;
    if (!std::filesystem::exists(notesFile(folder)))
        throw Error("Nothing of " + folder.string() + " was handed to a farm.");
    const Json json = Json::parse(contentOf(notesFile(folder), most, "farm's notes"), nullptr, false);
    try {
        Notes notes{json.at("array").get<std::string>(), json.at("join").get<std::string>(),
                    json.at("slices").get<int>()};
        const auto isNumber = [](const std::string& text) {
            return !text.empty() && std::ranges::all_of(text, [](char c) { return c >= '0' && c <= '9'; });
        };
        constexpr int mostSlices = 9999;
        if (!isNumber(notes.array) || !isNumber(notes.join) || notes.slices < 1 || notes.slices > mostSlices)
            throw Error("numbers");
        return notes;
    } catch (const std::exception&) {
        throw Error(notesFile(folder).string() +
                    " is damaged. Look for the jobs with squeue, and hand them over anew.");
    }
}

void keepNotes(const std::filesystem::path& folder, const Notes& notes) {
    writeWhole(notesFile(folder),
               Json{{"array", notes.array}, {"join", notes.join}, {"slices", notes.slices}}.dump(1) + "\n");
}

std::filesystem::path scriptFor(const std::filesystem::path& folder, const char* name) {
    return folder / name;
}

/// Runs the render with one more option, as often as `tries` says; wrong usage is not tried again.
std::string scriptText(const FarmJob& job, const std::string& option, int tries) {
    std::string command;
    for (const std::string& word : job.command)
        command += quoted(word) + ' ';
    return "#!/bin/sh\n"
           "# Written by yarngap-cli; see docs/farm.md.\n"
           "cd " +
           quoted(job.workingFolder.string()) +
           " || exit 1\n"
           "try=1\n"
           "while true; do\n"
           "  " +
           command + option +
           " && exit 0\n"
           "  status=$?\n"
           "  if [ $status -eq 2 ] || [ $try -ge " +
           std::to_string(tries) +
           " ]; then exit $status; fi\n"
           "  try=$((try + 1))\n"
           "done\n";
}

bool isReady(const std::filesystem::path& folder, int slice) {
    std::array<char, 16> name{};
    std::snprintf(name.data(), name.size(), "%04d.json", slice);
    std::error_code ec;
    return std::filesystem::exists(folder / name.data(), ec);
}

/// Submits slices given as Slurm writes them ("0-3" or "1,7") and the join behind them.
Notes submit(const std::filesystem::path& folder, const std::string& name, const std::string& which,
             int slices) {
    Notes notes{.array = {}, .join = {}, .slices = slices};
    notes.array = slurm({"sbatch", "--parsable", "--job-name=" + name, "--array=" + which, "--requeue",
                         "--output=" + (folder / "slice-%a.log").string(), "--open-mode=append",
                         scriptFor(folder, "slice.sh").string()});
    notes.array = notes.array.substr(0, notes.array.find_first_not_of("0123456789"));
    // Whatever became of the slices: the join names those that are missing.
    try {
        notes.join =
            slurm({"sbatch", "--parsable", "--job-name=" + name + "-join", "--requeue",
                   "--dependency=afterany:" + notes.array, "--output=" + (folder / "join.log").string(),
                   "--open-mode=append", scriptFor(folder, "join.sh").string()});
        notes.join = notes.join.substr(0, notes.join.find_first_not_of("0123456789"));
        keepNotes(folder, notes);
    } catch (const Error&) {
        // Nobody would know of slices without notes.
        static_cast<void>(run({"scancel", notes.array}));
        if (!notes.join.empty()) static_cast<void>(run({"scancel", notes.join}));
        throw;
    }
    return notes;
}

/// States of jobs that Slurm still knows of, by "ARRAY_TASK" or "JOB".
std::map<std::string, std::string> listed(const Notes& notes) {
    std::map<std::string, std::string> states;
    const Ran ran = run({"squeue", "--noheader", "--array", "--states=all", "--format=%i %T",
                         "--jobs=" + notes.array + "," + notes.join});
    if (ran.status != 0 && ran.text.find("Invalid job id") == std::string::npos)
        throw Error("Slurm does not answer: " + ran.text);
    std::size_t at = 0;
    while (ran.status == 0 && at < ran.text.size()) {
        const std::size_t end = std::min(ran.text.find('\n', at), ran.text.size());
        const std::string line = ran.text.substr(at, end - at);
        at = end + 1;
        if (const std::size_t blank = line.find(' '); blank != std::string::npos)
            states[line.substr(0, blank)] = line.substr(blank + 1);
    }
    return states;
}

bool isWaiting(const std::string& state) {
    return state == "PENDING" || state == "REQUEUED" || state == "CONFIGURING" || state == "SUSPENDED";
}
bool isRunning(const std::string& state) {
    return state == "RUNNING" || state == "COMPLETING";
}

} // namespace

int FarmState::count(Slice of) const {
    return static_cast<int>(std::ranges::count(slices, of));
}

std::string_view name(FarmState::Slice slice) {
    using enum FarmState::Slice;
    return slice == waiting ? "waiting" : slice == running ? "running" : slice == ready ? "ready" : "failed";
}

std::string_view name(FarmState::Join join) {
    using enum FarmState::Join;
    return join == waiting ? "waiting" : join == running ? "running" : join == done ? "done" : "failed";
}

bool isWorkedOn(const std::filesystem::path& folder) {
    return std::filesystem::exists(notesFile(folder)) && !farmState(folder).isOver();
}

void refuseWorkedOn(const std::filesystem::path& folder) {
    if (isWorkedOn(folder))
        throw Error(folder.string() +
                    " has been handed to the farm already. Wait for it, or cancel it first.");
}

void submitToFarm(const FarmJob& job) {
    refuseWorkedOn(job.folder);
    writeWhole(scriptFor(job.folder, "slice.sh"),
               scriptText(job, "--slice \"$SLURM_ARRAY_TASK_ID\"", job.tries));
    writeWhole(scriptFor(job.folder, "join.sh"), scriptText(job, "--join", 1));
    static_cast<void>(submit(job.folder, job.name, "0-" + std::to_string(job.slices - 1), job.slices));
}

FarmState farmState(const std::filesystem::path& folder) {
    FarmState state;
    if (!std::filesystem::exists(folder)) { // the join takes it away at its end
        state.join = FarmState::Join::done;
        return state;
    }
    const Notes notes = notesIn(folder);
    const auto states = listed(notes);
    const auto of = [&](const std::string& job) {
        const auto at = states.find(job);
        return at == states.end() ? std::string() : at->second;
    };
    for (int n = 0; n < notes.slices; ++n) {
        using enum FarmState::Slice;
        const std::string told = of(notes.array + "_" + std::to_string(n));
        state.slices.push_back(isRunning(told)      ? running
                               : isReady(folder, n) ? ready
                               : isWaiting(told)    ? waiting
                                                    : failed);
    }
    const std::string join = of(notes.join);
    if (!std::filesystem::exists(folder)) {
        state.join = FarmState::Join::done;
        return state;
    }
    state.join = isWaiting(join)   ? FarmState::Join::waiting
                 : isRunning(join) ? FarmState::Join::running
                                   : FarmState::Join::failed;
    return state;
}

void cancelOnFarm(const std::filesystem::path& folder) {
    const Notes notes = notesIn(folder);
    slurm({"scancel", notes.join, notes.array});
}

void retryOnFarm(const std::filesystem::path& folder) {
    const Notes notes = notesIn(folder);
    const FarmState state = farmState(folder);
    if (!state.isOver())
        throw Error(folder.string() + " is still being worked on. Wait, or cancel it first.");
    std::string which;
    for (int n = 0; n < notes.slices; ++n)
        if (!isReady(folder, n)) which += (which.empty() ? "" : ",") + std::to_string(n);
    if (which.empty()) which = "0"; // ready as well; the join comes behind it
    static_cast<void>(submit(folder, folder.stem().string(), which, notes.slices));
}

std::string farmLog(const std::filesystem::path& folder, std::optional<int> slice) {
    const std::filesystem::path file =
        folder / (slice ? "slice-" + std::to_string(*slice) + ".log" : std::string("join.log"));
    if (!std::filesystem::exists(file)) return {};
    constexpr std::int64_t most = 4 << 20;
    constexpr std::size_t told = 2000;
    std::string text = contentOf(file, most, "log");
    if (text.size() > told) text.erase(0, text.size() - told);
    return text;
}

} // namespace yarngap
