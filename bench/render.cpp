// What rendering takes.
//
//     bench_render formats CLIP [FRAMES]  each format, frames copied: time, bytes, peak memory of its process
//     bench_render memory CLIP [FRAMES]   the same with made frames, at 50 %, standard
//     bench_render pair CLIP [FRAMES]     one format against two of the same frames, standard and thorough
//     bench_render resume CLIP [FRAMES]   stopped half way and gone on with, against undisturbed
//     bench_render slices CLIP [FRAMES]   1, 2, 4 … slices: sum of their times, and the join

#include "core/error.h"
#include "core/inspection/known_media.h"
#include "core/media/library_messages.h"
#include "core/render/render_job.h"
#include "core/render/render_work.h"
#include "core/render/slice_folder.h"
#include "seconds_of.h"

#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <functional>
#include <iostream>
#include <memory>
#include <string>

#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace yarngap;
namespace fs = std::filesystem;

namespace {

struct Bench {
    fs::path clip;
    std::int64_t frames;
    fs::path folder = fs::temp_directory_path() / ("yarngap-bench-" + std::to_string(::getpid()));
    std::shared_ptr<KnownMedia> known = std::make_shared<KnownMedia>(folder / "known"); // as a user's own is

    Bench(const char* of, std::int64_t count)
        : clip(of)
        , frames(count) {
        fs::create_directories(folder);
    }
    ~Bench() {
        known.reset();
        fs::remove_all(folder);
    }
    Bench(const Bench&) = delete;
    Bench& operator=(const Bench&) = delete;
    Bench(Bench&&) = delete;
    Bench& operator=(Bench&&) = delete;

    /// The first frames of the clip at a speed.
    [[nodiscard]] RenderWork work(const Rational& speed, Method method, FlowQuality quality,
                                  const std::vector<std::string>& names) const {
        const auto index = known->index(clip);
        RenderWork work;
        WorkShot of{.shot = shotOf(clip), .timing = {}};
        of.shot.method = method;
        of.shot.speed = speed;
        of.shot.to = std::min(frames, index->frames()) - 1;
        of.shot.inBetweens.finalQuality = quality;
        of.timing = of.shot.timing(index->facts.rate, index->frames());
        of.found = GapFindings{};
        work.shots.push_back(of);
        for (const std::string& name : names)
            work.targets.push_back({folder / name, formatForTarget(name), true});
        work.settings.format = work.targets.front().format;
        return work;
    }
    [[nodiscard]] WorkMeans means() const {
        return {.vectors = std::make_shared<VectorStore>(std::size_t{128} << 20), .known = known};
    }
    [[nodiscard]] RenderReport
    render(const RenderWork& work, std::optional<SliceUse> slices = {}, const std::stop_token& stop = {},
           const std::function<void(const RenderProgress&)>& onProgress = {}) const {
        const WorkMeans with = means();
        const RenderWork ready = prepared(work, with, stop);
        const auto parts = partsOf(ready, with, stop);
        RenderOptions options = optionsOf(ready, parts);
        options.slices = std::move(slices);
        return RenderJob(parts, options).run(onProgress, stop);
    }
};

void formats(const Bench& bench, const Rational& speed, Method method) {
    for (const OutputFormat format : outputFormats()) {
        std::fflush(stdout);
        const pid_t child = ::fork();
        if (child == 0) {
            const std::string name = std::string("out") + std::string(extension(format));
            RenderWork work = bench.work(speed, method, FlowQuality::standard, {name});
            work.targets.front().format = work.settings.format = format;
            const RenderReport r = bench.render(work);
            std::uintmax_t bytes = 0;
            for (const auto& entry : fs::directory_iterator(bench.folder))
                bytes += entry.is_regular_file() ? entry.file_size() : 0;
            std::printf("%-16s %7.2f s  %6.2f fps  %8.3f MB a frame", std::string(shortName(format)).c_str(),
                        r.seconds, static_cast<double>(r.frames) / r.seconds,
                        static_cast<double>(bytes) / 1e6 / static_cast<double>(r.frames));
            std::fflush(stdout);
            ::_exit(0);
        }
        int status = 0;
        rusage usage{};
        ::wait4(child, &status, 0, &usage);
        std::printf("  peak %5ld MB%s\n", usage.ru_maxrss / 1024,
                    WIFEXITED(status) && WEXITSTATUS(status) == 0 ? "" : "  failed");
        for (const auto& entry : fs::directory_iterator(bench.folder))
            if (entry.is_regular_file()) fs::remove(entry);
    }
}

void pair(const Bench& bench) {
    for (const FlowQuality quality : {FlowQuality::standard, FlowQuality::thorough}) {
        const auto timed = [&](const std::vector<std::string>& names) {
            return bench.render(bench.work(Rational(1, 2), Method::flow, quality, names)).seconds;
        };
        const double one = timed({"one.mkv"});
        const double two = timed({"two.mkv", "two.mp4"});
        const double again = timed({"one.mkv"});
        std::printf("%s: one format %.2f and %.2f s, two %.2f s: %.2f times\n",
                    std::string(name(quality)).c_str(), one, again, two, 2 * two / (one + again));
    }
}

void resume(const Bench& bench) {
    const RenderWork work = bench.work(Rational(1, 2), Method::flow, FlowQuality::standard, {"resume.mkv"});
    const fs::path folder = SliceFolder::beside(work.targets.front().file);
    const SliceUse use{.folder = folder, .count = 8, .only = {}};
    const double straight = secondsOf([&] { static_cast<void>(bench.render(work)); });
    const double undisturbed = secondsOf([&] { static_cast<void>(bench.render(work, use)); });
    std::stop_source stop;
    const double first = secondsOf([&] {
        try {
            static_cast<void>(bench.render(work, use, stop.get_token(), [&](const RenderProgress& p) {
                if (p.done * 2 >= p.total) stop.request_stop();
            }));
        } catch (const Cancelled&) {
            // as meant
        }
    });
    const double second = secondsOf([&] { static_cast<void>(bench.render(work, use)); });
    std::printf("in one go %.2f s, in 8 slices %.2f s; stopped half way %.2f + %.2f s: %.2f slices more\n",
                straight, undisturbed, first, second, (first + second - undisturbed) / (undisturbed / 8));
}

void slices(const Bench& bench) {
    const RenderWork work = bench.work(Rational(1, 2), Method::flow, FlowQuality::standard, {"sliced.mkv"});
    const double straight = secondsOf([&] { static_cast<void>(bench.render(work)); });
    std::printf("in one go %.2f s\n", straight);
    for (const int count : {1, 2, 4, 16}) {
        SliceUse use{.folder = SliceFolder::beside(work.targets.front().file), .count = count, .only = {}};
        double sum = 0;
        double longest = 0;
        const auto made = static_cast<int>(
            slicesOf(work.shots.front().timing.outputFrames(), count, OutputScan::progressive).size());
        for (int n = 0; n < made; ++n) {
            use.only = n;
            const double seconds = secondsOf([&] { static_cast<void>(bench.render(work, use)); });
            sum += seconds;
            longest = std::max(longest, seconds);
        }
        use.only.reset();
        use.joinsOnly = true;
        const double join = secondsOf([&] { static_cast<void>(bench.render(work, use)); });
        std::printf("%2d slices: %.2f s of work, %.2f times; the longest %.2f s, joining %.2f s; with %d "
                    "machines %.1f times as fast\n",
                    made, sum, sum / straight, longest, join, made, straight / (longest + join));
    }
}

} // namespace

int main(int argc, char** argv) {
    silenceMediaLibraries();
    std::setvbuf(stdout, nullptr, _IOLBF, BUFSIZ);
    if (argc < 3) {
        std::puts("bench_render formats|memory|pair|resume|slices CLIP [FRAMES]");
        return 2;
    }
    const std::string what = argv[1];
    const Bench bench(argv[2], argc > 3 ? std::atoll(argv[3]) : 48);
    if (what == "formats") formats(bench, 1, Method::sample);
    if (what == "memory") formats(bench, Rational(1, 2), Method::flow);
    if (what == "pair") pair(bench);
    if (what == "resume") resume(bench);
    if (what == "slices") slices(bench);
}
