// Whether the doubt list finds the frames that come out badly, and whether cures better them: every second
// frame of each clip is left out, made again at half the speed, and compared with what it truly was.
//
//     bench_mending [--frames N] [--quality standard] [--list-only] [--tell-each] CLIP…
//
// Frames at a cut and those that do not move are left out. PSNR over plane 0, in decibels. Columns of the
// list: the share of the worst tenth of made frames, by true error, that is in the first fifth of the list.
// Of cures, for the gaps in the first fifth of the list: how often the best mark is the truly best cure or
// within 0.1 dB of it; what mending all of them changes on the mean, in the worst tenth, and in the frame
// that loses most.

#include "core/error.h"
#include "core/inspection/shot_findings.h"
#include "core/media/library_messages.h"
#include "core/mending/mend_all.h"
#include "thinned_frames.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <iostream>
#include <string>
#include <vector>

using namespace yarngap;

namespace {

using Clock = std::chrono::steady_clock;

double secondsSince(Clock::time_point begin) {
    return std::chrono::duration<double>(Clock::now() - begin).count();
}

double psnr(const Image& a, const Image& b) {
    double sum = 0;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) {
            const auto i = static_cast<std::size_t>(x);
            const double off =
                a.layout().bytesPerSample() == 1
                    ? double{1} * a.row<std::uint8_t>(0, y)[i] - b.row<std::uint8_t>(0, y)[i]
                    : double{1} * a.row<std::uint16_t>(0, y)[i] - b.row<std::uint16_t>(0, y)[i];
            sum += off * off;
        }
    const double peak = a.layout().maxValue();
    return std::min(99.0, 10 * std::log10(peak * peak * a.width() * a.height() / std::max(1e-9, sum)));
}

struct Options {
    std::int64_t frames = 1000;
    FlowQuality quality = FlowQuality::standard;
    bool listOnly = false;
    bool tellEach = false;
};

struct Thinned {
    std::shared_ptr<FrameSource> whole;
    std::shared_ptr<ThinnedFrames> thinned;
    Timing timing;
    Treatment treatment;
    std::shared_ptr<VectorStore> vectors = std::make_shared<VectorStore>(std::size_t{256} << 20);

    [[nodiscard]] PlannedFrames planned(const Mending& mending = {}) const {
        Treatment treated = treatment;
        putMends(treated.settings, mending.mends);
        const auto plan = std::make_shared<const FramePlan>(makePlan(timing, treated, thinned->frames()));
        return {plan, FrameMaker(thinned, vectors, plan->settings)};
    }
};

Thinned opened(const std::string& clip, const Options& options) {
    const auto index = std::make_shared<MediaIndex>(buildIndex(clip));
    const auto whole = std::make_shared<FrameSource>(index);
    const auto thinned = std::make_shared<ThinnedFrames>(whole, 2);
    GapSettings settings;
    settings.inBetweens.flow.quality = options.quality;
    Treatment treatment{SettingsInForce(settings)};
    for (const std::int64_t first : inspectShot(index).cuts)
        if (const std::int64_t gap = (first - 1) / 2;
            treatment.found.cuts.empty() || treatment.found.cuts.back() < gap)
            treatment.found.cuts.push_back(gap);
    const Rate rate = whole->facts().rate;
    return {whole,
            thinned,
            {.sourceRate = rate,
             .outputRate = rate,
             .from = 0,
             .to = std::min(thinned->frames(), options.frames / 2) - 1,
             .speed = Rational(1, 2)},
            treatment};
}

/// A made frame with what is known of it.
struct Made {
    DoubtfulGap gap;
    double psnr = 0;
};

/// The worst tenth by error that is in the first fifth of the list.
double recall(std::vector<Made> all) {
    std::ranges::sort(all, {}, [](const Made& m) { return m.psnr; });
    const std::size_t tenth = std::max<std::size_t>(1, all.size() / 10);
    std::vector<double> doubts;
    doubts.reserve(all.size());
    for (const Made& m : all)
        doubts.push_back(m.gap.doubt);
    std::ranges::sort(doubts, std::greater{});
    const double limit = doubts[std::max<std::size_t>(1, all.size() / 5) - 1];
    std::size_t found = 0;
    for (std::size_t i = 0; i < tenth; ++i)
        found += all[i].gap.doubt >= limit ? 1 : 0;
    return 100.0 * static_cast<double>(found) / static_cast<double>(tenth);
}

struct Change {
    double mean = 0, worstTenth = 0, mostLost = 0;
};

Change changeOf(const std::vector<double>& before, const std::vector<double>& after) {
    const auto worst = [](std::vector<double> values) {
        std::ranges::sort(values);
        const std::size_t tenth = std::max<std::size_t>(1, values.size() / 10);
        double sum = 0;
        for (std::size_t i = 0; i < tenth; ++i)
            sum += values[i];
        return sum / static_cast<double>(tenth);
    };
    Change change;
    for (std::size_t i = 0; i < before.size(); ++i) {
        change.mean += (after[i] - before[i]) / static_cast<double>(before.size());
        change.mostLost = std::min(change.mostLost, after[i] - before[i]);
    }
    change.worstTenth = worst(after) - worst(before);
    return change;
}

void cures(const Thinned& clip, const PlannedFrames& frames, const std::vector<DoubtfulGap>& list,
           const std::vector<Made>& all, const Options& options) {
    const std::vector<DoubtfulGap> first(list.begin(),
                                         list.begin() + static_cast<std::ptrdiff_t>(list.size() / 5));
    const CureJudge judge(clip.thinned, clip.vectors, clip.treatment.found);
    const auto tried = tryCures(frames, judge, first, 0, {});
    std::size_t right = 0;
    for (const TriedGap& one : tried) {
        const ImagePtr truth = clip.whole->frame(one.gap.output);
        std::vector<double> real;
        double chosen = 0;
        const std::string wanted = one.best ? one.best->name : "as it is";
        for (const JudgedCure& cure : one.cures) {
            Mending alone;
            alone.mends.push_back({.gaps = {one.gap.first, one.gap.last - 1},
                                   .name = cure.cure.name,
                                   .changes = cure.cure.changes});
            real.push_back(psnr(*truth, *clip.planned(alone).make(one.gap.output).image));
            if (cure.cure.name == wanted) chosen = real.back();
        }
        if (options.tellEach)
            for (std::size_t i = 0; i < real.size(); ++i)
                std::printf("      gap %lld %-18s mark %.2f, truly %.2f%s\n",
                            static_cast<long long>(one.gap.first), one.cures[i].cure.name.c_str(),
                            one.cures[i].mark.value_or(0), real[i],
                            one.cures[i].cure.name == wanted ? "  taken" : "");
        right += chosen >= *std::ranges::max_element(real) - 0.1 ? 1 : 0;
    }
    const PlannedFrames mended = clip.planned(withBestCures({}, tried));
    std::vector<double> before;
    std::vector<double> after;
    std::size_t changed = 0;
    for (const Made& made : all) {
        before.push_back(made.psnr);
        const bool isTried = std::ranges::any_of(
            tried, [&](const TriedGap& t) { return t.best && t.gap.output == made.gap.output; });
        changed += isTried ? 1 : 0;
        after.push_back(isTried
                            ? psnr(*clip.whole->frame(made.gap.output), *mended.make(made.gap.output).image)
                            : made.psnr);
    }
    const Change change = changeOf(before, after);
    std::printf("   cures: %zu gaps tried, %zu mended; mark right in %.0f %%; mean %+.3f, worst tenth %+.2f, "
                "most lost %+.2f dB\n",
                tried.size(), changed,
                100.0 * static_cast<double>(right) /
                    static_cast<double>(std::max<std::size_t>(1, tried.size())),
                change.mean, change.worstTenth, change.mostLost);
}

void measure(const std::string& name, const Options& options, std::vector<Made>& pooled) {
    const Thinned clip = opened(name, options);
    const PlannedFrames frames = clip.planned();
    const auto began = Clock::now();
    const auto list = doubtfulGaps(frames);
    const double looking = secondsSince(began);
    std::vector<Made> all;
    for (const DoubtfulGap& gap : list) {
        const ImagePtr truth = clip.whole->frame(gap.output);
        if (psnr(*clip.thinned->frame(gap.first), *clip.thinned->frame(gap.last)) > 50) continue;
        all.push_back({gap, psnr(*truth, *frames.make(gap.output).image)});
    }
    if (all.empty()) return;
    pooled.insert(pooled.end(), all.begin(), all.end());
    double mean = 0;
    for (const Made& made : all)
        mean += made.psnr / static_cast<double>(all.size());
    std::printf(
        "%s: %zu frames, %.2f dB, doubt %.2f to %.2f, list %.1f s; worst tenth in the first fifth: %.0f %%\n",
        name.c_str(), all.size(), mean, list.back().doubt, list.front().doubt, looking, recall(all));
    std::fflush(stdout);
    if (!options.listOnly) cures(clip, frames, list, all, options);
    std::fflush(stdout);
}

} // namespace

int main(int argc, char** argv) {
    silenceMediaLibraries();
    Options options;
    std::vector<std::string> clips;
    try {
        for (int i = 1; i < argc; ++i) {
            const std::string word = argv[i];
            if (word == "--frames" && i + 1 < argc)
                options.frames = std::stoll(argv[++i]);
            else if (word == "--quality" && i + 1 < argc)
                options.quality = parseFlowQuality(argv[++i]);
            else if (word == "--tell-each")
                options.tellEach = true;
            else if (word == "--list-only")
                options.listOnly = true;
            else
                clips.push_back(word);
        }
        std::vector<Made> pooled;
        for (const std::string& clip : clips)
            measure(clip, options, pooled);
        if (pooled.empty()) {
            std::cerr << "bench_mending [--frames N] [--quality Q] [--list-only] [--tell-each] CLIP…\n";
            return 2;
        }
        std::printf("all clips: worst tenth in the first fifth: %.0f %%\n", recall(pooled));
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
