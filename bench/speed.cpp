// How long a render takes from the command to the finished file, nothing kept from before, beside what an
// engineer would use instead.
//
//     bench_speed [--runs N] [--frames N] [--cli FILE] CLIP…
//
// Besides each clip, what it becomes with every second frame left out is rendered, and its first frame shaken
// by an unsteady hand: both are harder than the clip itself. Everything is made at half speed into FFV1, and
// the library's motion-compensated filter (minterpolate, mci, aobmc, vsbmc) does the same in turn. Medians of
// N runs (three where nothing is said) on both cores; "again" is a second render after a change of timing
// only (25 %) by a program that has the first one's vectors, for each frame, beside the first for each frame;
// "one core" is standard under taskset. Below the table: the share of each stage, and what more cores would
// give by Amdahl's formula.

#include "core/error.h"
#include "core/media/library_messages.h"
#include "core/media/media_index.h"
#include "seconds_of.h"
#include "stolen_time.h"

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <iterator>
#include <string>
#include <vector>

#include <unistd.h>

using namespace yarngap;
namespace fs = std::filesystem;

namespace {

double medianOf(std::vector<double> values) {
    std::ranges::nth_element(values, values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2));
    return values[values.size() / 2];
}

std::string quoted(const fs::path& file) {
    return "'" + file.string() + "'";
}

void run(const std::string& command) {
    if (std::system(command.c_str()) != 0) throw Error("This failed: " + command);
}

struct Folder {
    fs::path path = fs::temp_directory_path() / ("yarngap-speed-" + std::to_string(::getpid()));
    Folder() { fs::create_directories(path); }
    ~Folder() { fs::remove_all(path); }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    Folder(Folder&&) = delete;
    Folder& operator=(Folder&&) = delete;
};

struct Settings {
    int runs = 3;
    int frames = 21;
    fs::path cli;
    std::vector<fs::path> clips;
};

/// What is measured of one clip.
class Clip {
  public:
    Clip(fs::path file, std::string name, const Settings& settings, const fs::path& folder)
        : file_(std::move(file))
        , name_(std::move(name))
        , settings_(settings)
        , folder_(folder) {
        const MediaIndex index = buildIndex(file_);
        frames_ = std::min<std::int64_t>(settings_.frames, index.frames());
        rate_ = index.facts.rate.toDouble();
        size_ = std::to_string(index.facts.width) + "x" + std::to_string(index.facts.height);
    }

    void measure() const {
        std::vector<double> filter, standard, again, thorough, oneCore;
        std::string ofStandard, ofThorough;
        for (int i = 0; i < settings_.runs; ++i) {
            filter.push_back(secondsOf([&] { filtered(); }));
            forget();
            standard.push_back(secondsOf([&] { render("standard", "50%"); }));
            ofStandard = stages();
            again.push_back(secondsOf([&] { render("standard", "25%"); }) / 2); // twice the frames
            forget();
            thorough.push_back(secondsOf([&] { render("thorough", "50%"); }));
            ofThorough = stages();
            forget();
            oneCore.push_back(secondsOf([&] { render("standard", "50%", "taskset -c 0 "); }));
        }
        const double of = medianOf(filter);
        const double first = medianOf(standard);
        const double both = medianOf(oneCore) / first;
        std::printf("%-26s %-10s %6.2f %8.2f %5.2f %8.2f %5.2f %8.2f %7.2f %6.2f\n", name_.c_str(),
                    size_.c_str(), of, first, first / of, medianOf(thorough), medianOf(thorough) / of,
                    medianOf(again) / first, medianOf(oneCore), both);
        std::printf("    busy in standard: %s\n    busy in thorough: %s\n", ofStandard.c_str(),
                    ofThorough.c_str());
        // T(n) = T(1) (1 - p + p / n), with p from n = 2.
        const double parallel = std::clamp(2 * (1 - 1 / both), 0.0, 1.0);
        std::printf("    in parallel %.0f %%; by Amdahl's formula 8, 16 and 64 cores take", 100 * parallel);
        for (const int n : {8, 16, 64})
            std::printf(" %.2f", medianOf(oneCore) * (1 - parallel + parallel / n));
        std::puts(" s");
        std::fflush(stdout);
    }

  private:
    [[nodiscard]] fs::path report() const { return folder_ / "report.json"; }
    /// Busy seconds of each stage of the last render, which overlap.
    [[nodiscard]] std::string stages() const {
        std::ifstream in(report());
        const std::string text{std::istreambuf_iterator<char>(in), {}};
        std::string out;
        for (const char* stage : {"read", "estimate", "synthesise", "write"}) {
            const std::size_t at = text.find('"' + std::string(stage) + "\":");
            if (at == std::string::npos) continue;
            char line[64];
            std::snprintf(line, sizeof line, "%s %.2f  ", stage,
                          std::atof(text.c_str() + text.find(':', at) + 1));
            out += line;
        }
        return out;
    }
    [[nodiscard]] fs::path cache() const { return folder_ / "cache"; }
    void forget() const { fs::remove_all(cache()); }

    void filtered() const {
        run("ffmpeg -v error -y -i " + quoted(file_) + " -frames:v " + std::to_string(2 * frames_) +
            " -vf minterpolate=fps=" + std::to_string(2 * rate_) +
            ":mi_mode=mci:mc_mode=aobmc:me_mode=bidir:vsbmc=1 -an -c:v ffv1 -level 3 -g 1 " +
            quoted(folder_ / "filter.mkv"));
    }
    void render(const std::string& quality, const std::string& speed, const std::string& before = {}) const {
        const fs::path made = folder_ / "made.mkv";
        fs::remove(made);
        run("XDG_CACHE_HOME=" + quoted(cache()) + " " + before + quoted(settings_.cli) + " render " +
            quoted(file_) + " --from 0 --to " + std::to_string(frames_ - 1) + " --speed " + speed +
            " --quality " + quality + " --sound none --json -o " + quoted(made) + " >" + quoted(report()));
    }

    fs::path file_;
    std::string name_;
    const Settings& settings_;
    const fs::path& folder_;
    std::int64_t frames_ = 0;
    double rate_ = 0;
    std::string size_;
};

fs::path thinned(const fs::path& clip, const fs::path& folder) {
    fs::path out = folder / ("thinned_" + clip.stem().string() + ".mp4");
    run("ffmpeg -v error -y -i " + quoted(clip) +
        " -an -vf \"select='not(mod(n,2))',setpts=N/(25*TB)\" -r 25 " +
        "-c:v libx264 -crf 18 -pix_fmt yuv420p " + quoted(out));
    return out;
}

/// Swings of several frequencies and jerks of a frame, up to 60 pixels a frame.
fs::path shaken(const fs::path& clip, const fs::path& folder, int frames) {
    const fs::path still = folder / "still.png";
    fs::path out = folder / ("shaken_" + clip.stem().string() + ".mp4");
    run("ffmpeg -v error -y -i " + quoted(clip) + " -frames:v 1 " + quoted(still));
    run("ffmpeg -v error -y -loop 1 -framerate 25 -i " + quoted(still) + " -frames:v " +
        std::to_string(frames) +
        " -vf \"scale=iw*1.25:ih*1.25,rotate=0.02*sin(n/2.3)+0.01*sin(n*1.7):bilinear=1,"
        "crop=floor(iw/1.25/2)*2:floor(ih/1.25/2)*2:x='(iw-ow)/2+30*sin(n/1.9)+14*sin(n*2.3)':"
        "y='(ih-oh)/2+22*sin(n/1.3+1)+12*sin(n*1.9)'\" -c:v libx264 -crf 18 -pix_fmt yuv420p " +
        quoted(out));
    return out;
}

Settings settingsOf(int argc, char** argv) {
    Settings s;
    s.cli = fs::canonical("/proc/self/exe").parent_path() / "yarngap-cli";
    for (int i = 1; i < argc; ++i) {
        const std::string argument = argv[i];
        if (argument == "--runs" && i + 1 < argc)
            s.runs = std::max(1, std::atoi(argv[++i]));
        else if (argument == "--frames" && i + 1 < argc)
            s.frames = std::max(3, std::atoi(argv[++i]));
        else if (argument == "--cli" && i + 1 < argc)
            s.cli = argv[++i];
        else
            s.clips.emplace_back(argument);
    }
    return s;
}

} // namespace

int main(int argc, char** argv) try {
    silenceMediaLibraries();
    const Settings settings = settingsOf(argc, argv);
    if (settings.clips.empty()) throw Error("Name a clip, or several.");
    const Folder folder;
    const StolenTime stolen;
    std::printf("%-26s %-10s %6s %8s %5s %8s %5s %8s %7s %6s\n", "clip", "", "filter", "standard", "ratio",
                "thorough", "ratio", "again", "1 core", "by two");
    for (const fs::path& clip : settings.clips) {
        const std::string name = clip.stem().string();
        Clip(clip, name, settings, folder.path).measure();
        Clip(thinned(clip, folder.path), name + ", thinned", settings, folder.path).measure();
        Clip(shaken(clip, folder.path, settings.frames), name + ", shaken", settings, folder.path).measure();
    }
    std::printf("%.1f %% of the processors' time went to others on the host\n", 100 * stolen.share());
    return 0;
} catch (const std::exception& e) {
    std::cerr << e.what() << '\n';
    return 1;
}
