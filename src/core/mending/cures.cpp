#include "core/mending/cures.h"

#include "core/image/sample_types.h"
#include "core/synthesis/picture_mean.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <utility>

namespace yarngap {

namespace {

/// A source frame that is made again from the frames before and after it.
PlanRow remakeRow(std::int64_t n, std::int64_t frames, const GapFindings& found) {
    PlanRow row;
    row.kind = FrameKind::flow;
    row.method = Method::flow;
    row.position = {n, 0};
    row.first = n - 1;
    row.last = n + 1;
    row.bridged = true;
    // Paths bend by what frames at the same distance tell.
    const auto isCutBetween = [&](std::int64_t low, std::int64_t high) {
        const auto cut = std::lower_bound(found.cuts.begin(), found.cuts.end(), low);
        return cut != found.cuts.end() && *cut < high;
    };
    if (row.first >= 2 && !isCutBetween(row.first - 2, row.first)) row.before = row.first - 2;
    if (row.last + 2 < frames && !isCutBetween(row.last, row.last + 2)) row.after = row.last + 2;
    return row;
}

/// Squared differences of plane 0, on the scale of 0 to 1, and how many.
struct Squares {
    double sum = 0;
    double count = 0;
};

double decibels(const Squares& squares) {
    constexpr double best = 99; // more is the same picture
    return std::min(best, -10 * std::log10(std::max(1e-12, squares.sum / squares.count)));
}

template <typename Sample>
void addSquares(Squares& squares, const Image& truth, const Image& made, const Image* other) {
    const double scale = 1.0 / truth.layout().maxValue();
    for (int y = 0; y < truth.height(); ++y) {
        const auto t = truth.row<Sample>(0, y);
        const auto m = made.row<Sample>(0, y);
        for (int x = 0; x < truth.width(); ++x) {
            const auto i = static_cast<std::size_t>(x);
            double value = static_cast<double>(m[i]);
            if (other) value = (value + static_cast<double>(other->row<Sample>(0, y)[i])) / 2;
            const double off = (static_cast<double>(t[i]) - value) * scale;
            squares.sum += off * off;
        }
        squares.count += truth.width();
    }
}

} // namespace

std::vector<Cure> usualCures(const GapSettings& settings) {
    const std::vector<Cure> all{
        {"as it is", {}},
        {"thorough", {.method = Method::flow, .quality = FlowQuality::thorough}},
        {"stiffer", {.method = Method::flow, .stiffness = 75}},
        {"looser", {.method = Method::flow, .stiffness = 15}},
        {"edges", {.method = Method::flow, .analyseOn = AnalyseOn::edges}},
        {"straight paths", {.method = Method::flow, .bendPaths = false}},
        {"from before", {.method = Method::flow, .sides = Sides::before}},
        {"from after", {.method = Method::flow, .sides = Sides::after}},
        {"blend", {.method = Method::blend}},
        {"repeat the nearer", {.method = Method::sample, .sampleFrom = SampleFrom::nearest}},
    };
    std::vector<Cure> cures;
    for (const Cure& cure : all)
        if (cures.empty() || withChanges(settings, cure.changes) != settings) cures.push_back(cure);
    return cures;
}

CureJudge::CureJudge(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                     GapFindings findings, Matte matte)
    : source_(std::move(source))
    , vectors_(std::move(vectors))
    , findings_(std::move(findings))
    , matte_(std::move(matte)) {}

bool CureJudge::isUsable(std::int64_t frame) const {
    if (frame < 1 || frame + 1 >= source_->frames()) return false;
    const auto has = [](const std::vector<std::int64_t>& list, std::int64_t n) {
        return std::binary_search(list.begin(), list.end(), n);
    };
    // A frame beside which the picture stands still comes out right whatever is done.
    const auto isStill = [&](std::int64_t n) {
        return has(findings_.repeats, n) || has(findings_.passedOver, n);
    };
    return !has(findings_.cuts, frame - 1) && !has(findings_.cuts, frame) && !isStill(frame) &&
           !isStill(frame + 1);
}

JudgedCure CureJudge::judge(const GapToCure& gap, const GapSettings& made, const Cure& cure,
                            const std::stop_token& stop) const {
    JudgedCure judged{cure, std::nullopt};
    const GapSettings settings = withChanges(made, cure.changes);
    const FrameMaker maker(source_, vectors_, settings.inBetweens, matte_);
    Squares squares;
    for (const std::int64_t n : {gap.first, gap.last}) {
        throwIfStopped(stop);
        if (!isUsable(n)) continue;
        const ImagePtr truth = source_->frame(n, stop);
        ImagePtr picture = source_->frame(n - 1, stop);
        ImagePtr other;
        if (settings.method == Method::flow)
            picture = maker.make(remakeRow(n, source_->frames(), findings_), stop).image;
        else if (settings.method == Method::blend)
            other = source_->frame(n + 1, stop);
        Squares own;
        withSampleType(truth->layout(), [&](auto sample) {
            addSquares<decltype(sample)>(own, *truth, *picture, other.get());
        });
        judged.marks.push_back(decibels(own));
        squares.sum += own.sum;
        squares.count += own.count;
    }
    if (squares.count > 0) judged.mark = decibels(squares);
    return judged;
}

std::vector<JudgedCure> CureJudge::judged(const GapToCure& gap, const GapSettings& made,
                                          const std::vector<Cure>& cures, const Progress& progress,
                                          const std::stop_token& stop) const {
    std::vector<JudgedCure> out;
    for (const Cure& cure : cures) {
        out.push_back(judge(gap, made, cure, stop));
        if (progress) progress(static_cast<double>(out.size()) / static_cast<double>(cures.size()));
    }
    std::ranges::stable_sort(out, [](const JudgedCure& a, const JudgedCure& b) {
        return a.mark.value_or(0) > b.mark.value_or(0);
    });
    return out;
}

Image madeWith(const PlannedFrames& frames, const PlanRow& row, const GapSettings& settings,
               const std::shared_ptr<VectorStore>& vectors, const Matte& matte, const std::stop_token& stop) {
    const std::shared_ptr<ShotFrames> source(std::shared_ptr<void>(), &frames.source()); // outlives the maker
    PlanRow made = row;
    made.method = settings.method;
    if (settings.method == Method::sample) {
        const bool later = settings.sampleFrom == SampleFrom::nearest && phaseOf(row) > Rational(1, 2);
        return *source->frame(later ? row.last : row.first, stop);
    }
    if (settings.method == Method::blend) {
        const ImagePtr a = source->frame(row.first, stop);
        const ImagePtr b = source->frame(row.last, stop);
        const double share = phaseOf(row).toDouble();
        PictureMean mean(settings.inBetweens.synthesis.linearLight, frames.facts().colour);
        mean.add(*a, 1 - share);
        mean.add(*b, share);
        return mean.mean();
    }
    return *FrameMaker(source, vectors, settings.inBetweens, matte).make(made, stop).image;
}

std::optional<Cure> bestCure(const std::vector<JudgedCure>& judged) {
    const auto asItIs =
        std::ranges::find_if(judged, [](const JudgedCure& j) { return j.cure.changes == MendChanges(); });
    if (asItIs == judged.end() || !asItIs->mark) return std::nullopt;
    for (const JudgedCure& cure : judged) { // the best first
        if (!cure.mark || *cure.mark <= *asItIs->mark + clearlyBetter) return std::nullopt;
        if (cure.cure.changes.method == Method::sample) continue;
        if (std::ranges::equal(cure.marks, asItIs->marks, std::ranges::greater_equal{})) return cure.cure;
    }
    return std::nullopt;
}

} // namespace yarngap
