#include "core/inspection/damage.h"

#include "core/inspection/laid_frames.h"
#include "core/inspection/lasting_scratches.h"
#include "core/inspection/torn_lines.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <utility>

namespace yarngap {

namespace {

constexpr std::size_t mostPlaces = 48;   // in a frame that are looked at closely, the clearest
constexpr std::size_t busyPlaces = 1000; // in a frame in which everything does such things
constexpr double bandShare = 0.6;        // of the width, from which a place is a band
constexpr double wholeShare = 0.5;       // of the picture, from which the frame is bad as a whole
constexpr std::int64_t sceneReach = 24;  // frames around, for what the scene does by itself
constexpr double sceneShare = 0.12;
constexpr double leastExcess = 0.5; // beyond the limit, in limits; less is never sure enough

/// A group of suspicious samples.
struct Place {
    cv::Rect rect;
    double excess = 0; ///< mean over its samples, in 8-bit steps beyond the limit
    double limit = 1;
    bool isOdd = false;    ///< found in neither neighbour
    bool isDamage = false; ///< and these agree with each other
};

/// Whether a place lies at the edge of the picture, where things come in, and does not go across it.
bool isAtEdge(const cv::Rect& rect, const cv::Size& size) {
    constexpr int edge = 4;
    constexpr double across = 0.3;
    if (rect.width > across * size.width || rect.height > across * size.height) return false;
    return rect.x < edge || rect.y < edge || rect.x + rect.width > size.width - edge ||
           rect.y + rect.height > size.height - edge;
}

/// Whether what a place shows is found near it in a neighbour.
bool isFoundIn(const cv::Mat& luma, const Neighbour& other, const cv::Rect& rect, double limit) {
    constexpr int margin = 2;
    constexpr int largest = 40;
    cv::Rect patch(rect.x - margin, rect.y - margin, rect.width + 2 * margin, rect.height + 2 * margin);
    if (patch.width > largest)
        patch = {patch.x + (patch.width - largest) / 2, patch.y, largest, patch.height};
    if (patch.height > largest)
        patch = {patch.x, patch.y + (patch.height - largest) / 2, patch.width, largest};
    patch = insideOf(patch, luma.size());
    const int far = std::max(24, luma.cols / 32);
    const cv::Rect area =
        insideOf({patch.x - far, patch.y - far, patch.width + 2 * far, patch.height + 2 * far}, luma.size());
    if (patch.width < 3 || patch.height < 3) return false;
    cv::Mat misfit;
    cv::matchTemplate(other.laid(area), luma(patch), misfit, cv::TM_SQDIFF);
    double least = 0;
    cv::minMaxLoc(misfit, &least);
    cv::Scalar mean;
    cv::Scalar deviation;
    cv::meanStdDev(luma(patch), mean, deviation);
    const double left = std::sqrt(std::max(0.0, least) / patch.area());
    // What is mostly surroundings would fit anywhere: the misfit counts beside what the patch holds.
    return left < std::max(0.45 * deviation[0], 0.5 * limit);
}

/// Whether both neighbours show the same in and around a place, beside how far it lies outside of them.
bool neighboursAgree(const cv::Mat& luma, const Neighbour& a, const Neighbour& b, const Place& place) {
    constexpr int ring = 6;
    const cv::Rect& rect = place.rect;
    const cv::Rect around = insideOf(
        {rect.x - ring, rect.y - ring, rect.width + 2 * ring, rect.height + 2 * ring}, a.ranges.luma.size());
    const double alike = std::max(0.35 * place.limit, 0.15 * (place.excess + place.limit));
    const bool isLong = std::max(rect.width, rect.height) > a.ranges.luma.rows / 4;
    if (!isLong) {
        cv::Mat difference;
        cv::absdiff(a.laid(around), b.laid(around), difference);
        return cv::mean(difference)[0] < alike;
    }
    // A long one may cross something that moves. It lies further off both than they lie from each other.
    constexpr double mostly = 0.65;
    const cv::Mat first = a.laid(rect);
    const cv::Mat second = b.laid(rect);
    int agreed = 0;
    for (int y = 0; y < rect.height; ++y)
        for (int x = 0; x < rect.width; ++x) {
            const int now = luma.at<std::uint8_t>(rect.y + y, rect.x + x);
            const int one = first.at<std::uint8_t>(y, x);
            const int two = second.at<std::uint8_t>(y, x);
            const int off = std::min(std::abs(now - one), std::abs(now - two));
            if (std::abs(one - two) < std::max(alike, 0.5 * off)) ++agreed;
        }
    return agreed > mostly * rect.area();
}

/// Whether another place speaks for this one being what the scene does: it is about as long, and a thin line
/// is like thin lines alone.
bool isAlike(const cv::Rect& place, const cv::Rect& other) {
    constexpr int times = 4;
    constexpr int thin = 10; // times as long as thick
    const auto alike = [](int one, int two) { return one < times * two && two < times * one; };
    const auto [thick, length] = std::minmax({place.width, place.height});
    const auto [otherThick, otherLength] = std::minmax({other.width, other.height});
    return alike(length, otherLength) && (length < thin * thick || alike(thick, otherThick));
}

/// A scratch or a band of lines goes on where it is not told, over what is as light as itself.
cv::Rect wholeLine(const cv::Rect& rect, const cv::Size& size) {
    constexpr int narrow = 24; // pixels
    if (rect.width > bandShare * size.width) return {0, rect.y, size.width, rect.height};
    if (rect.height > 0.5 * size.height && rect.width < narrow) return {rect.x, 0, rect.width, size.height};
    return rect;
}

/// Groups of suspicious samples that lie within a few pixels of each other.
std::vector<Place> placesIn(const cv::Mat& outside, double limit) {
    std::vector<Place> places;
    const cv::Mat mask = outside > limit;
    if (cv::countNonZero(mask) == 0) return places;
    // Cells with any of them, joined with their neighbours.
    constexpr int side = 4;
    cv::Mat cells;
    cv::resize(mask, cells, {(mask.cols + side - 1) / side, (mask.rows + side - 1) / side}, 0, 0,
               cv::INTER_AREA);
    cells = cells > 0;
    cv::Mat labels;
    cv::Mat stats;
    cv::Mat centres;
    const int count = cv::connectedComponentsWithStats(cells, labels, stats, centres, 8, CV_32S);
    for (int i = 1; i < count; ++i) {
        const auto stat = [&](int what) { return stats.at<int>(i, what); };
        const cv::Rect box = insideOf({stat(cv::CC_STAT_LEFT) * side, stat(cv::CC_STAT_TOP) * side,
                                       stat(cv::CC_STAT_WIDTH) * side, stat(cv::CC_STAT_HEIGHT) * side},
                                      mask.size());
        int samples = 0;
        double sum = 0;
        cv::Rect tight;
        for (int y = box.y; y < box.y + box.height; ++y)
            for (int x = box.x; x < box.x + box.width; ++x) {
                if (mask.at<std::uint8_t>(y, x) == 0 || labels.at<int>(y / side, x / side) != i) continue;
                ++samples;
                sum += outside.at<std::uint8_t>(y, x);
                tight = samples == 1 ? cv::Rect(x, y, 1, 1) : tight | cv::Rect(x, y, 1, 1);
            }
        constexpr int fewest = 6; // coding leaves single samples at sharp outlines
        if (samples >= fewest) places.push_back({tight, sum / samples - limit, limit});
    }
    return places;
}

/// Whether the outlines of both pictures are the same ones.
bool sharesOutlines(const cv::Mat& a, const cv::Mat& b) {
    const auto outlines = [](const cv::Mat& picture) {
        cv::Mat small;
        cv::resize(picture, small, {}, 0.25, 0.25, cv::INTER_AREA);
        cv::Mat x;
        cv::Mat y;
        cv::Sobel(small, x, CV_32F, 1, 0);
        cv::Sobel(small, y, CV_32F, 0, 1);
        cv::Mat size;
        cv::magnitude(x, y, size);
        return size;
    };
    const cv::Mat first = outlines(a);
    const cv::Mat second = outlines(b);
    cv::Scalar m1;
    cv::Scalar d1;
    cv::Scalar m2;
    cv::Scalar d2;
    cv::meanStdDev(first, m1, d1);
    cv::meanStdDev(second, m2, d2);
    if (d1[0] < 1 || d2[0] < 1) return false;
    const double together = first.dot(second) / static_cast<double>(first.total()) - m1[0] * m2[0];
    constexpr double alike = 0.5;
    return together / (d1[0] * d2[0]) > alike;
}

} // namespace

struct DamageMeter::State {
    struct Frame {
        bool isThere = false;
        Ranges ranges;
        CameraStep step; ///< to it, in pixels of `ranges`
        double noise = 0;
    };
    /// What a frame showed.
    struct Seen {
        std::vector<Place> places;
        std::vector<cv::Rect> torn; ///< bands of lines that are pushed aside
        bool isBusy = false;
        double whole = 0; ///< how sure it is that the frame is bad as a whole
    };
    std::array<Frame, 3> frames; ///< the last three, latest last
    std::vector<Seen> seen;      ///< of each frame
    double scale = 1;            ///< pixels of the shot to one that is looked at
    cv::Size size;               ///< of those
    LastingScratches scratches;

    cv::Mat outside; ///< memory for it

    void look(Seen& seen);
    [[nodiscard]] double wholeCertainty(double limit) const;
    [[nodiscard]] bool isSceneItself(std::size_t n, const Place& place) const;
    /// In pixels of the shot.
    [[nodiscard]] DamagedPlace placeOf(const cv::Rect& rect) const;
    void addTorn(FoundDamage& damage, std::size_t n, bool isBesideCut) const;
    void addScratches(FoundDamage& damage, const std::vector<LastingScratches::Found>& lasting) const;
};

DamageMeter::DamageMeter()
    : state_(std::make_unique<State>()) {}
DamageMeter::~DamageMeter() = default;

namespace {

/// How far three pictures lie from each other: sums of |difference| over every fourth pixel each way.
struct Apart {
    double toBefore = 0, toAfter = 0, between = 0;
    double off = 0; ///< share of pixels that lie off both neighbours

    Apart(const cv::Mat& now, const cv::Mat& before, const cv::Mat& after, double limit) {
        constexpr int every = 4;
        int count = 0;
        for (int y = 0; y < now.rows; y += every) {
            const std::uint8_t* here = now.ptr(y);
            const std::uint8_t* first = before.ptr(y);
            const std::uint8_t* second = after.ptr(y);
            for (int x = 0; x < now.cols; x += every, ++count) {
                const int a = std::abs(here[x] - first[x]);
                const int b = std::abs(here[x] - second[x]);
                toBefore += a;
                toAfter += b;
                between += std::abs(first[x] - second[x]);
                off += std::min(a, b) > 0.7 * limit ? 1 : 0;
            }
        }
        off /= std::max(1, count);
    }
    [[nodiscard]] double change() const { return std::min(toBefore, toAfter); }
};

} // namespace

double DamageMeter::State::wholeCertainty(double limit) const {
    const cv::Mat& luma = frames[1].ranges.luma;
    const Ranges& before = frames[0].ranges;
    const Ranges& after = frames[2].ranges;
    if (Apart(luma, before.luma, after.luma, limit).off < wholeShare) return 0;
    // The steps to and from a bad frame tell nothing; the neighbours go on moving as they did.
    const CameraStep& usual = frames[0].step;
    const cv::Rect all(0, 0, luma.cols, luma.rows);
    const cv::Mat first = Neighbour{before, usual, -1}.laid(all);
    const cv::Mat second = Neighbour{after, usual, 1}.laid(all);
    const Apart apart(luma, first, second, limit);
    if (apart.off < wholeShare || apart.between > 0.4 * apart.change()) return 0;
    constexpr double flash = 0.35;
    if (sharesOutlines(luma, first) && sharesOutlines(luma, second)) return flash;
    return std::clamp(1.1 - apart.between / apart.change(), 0.0, 1.0);
}

void DamageMeter::State::look(Seen& result) {
    const Frame& before = frames[0];
    const Frame& now = frames[1];
    const Frame& after = frames[2];
    if (!before.isThere || !now.isThere || !after.isThere) return;
    const cv::Mat& luma = now.ranges.luma;
    if (before.ranges.luma.size() != luma.size() || after.ranges.luma.size() != luma.size()) return;
    const Neighbour a{before.ranges, now.step, -1};
    const Neighbour b{after.ranges, after.step, 1};
    const double limit = 10 + 2.5 * std::max({before.noise, now.noise, after.noise});
    result.whole = wholeCertainty(limit);
    if (result.whole > 0) return;
    outsideOf(luma, a, b, outside);
    result.places = placesIn(outside, limit);
    result.isBusy = result.places.size() > busyPlaces;
    result.torn = tornLines(luma, a, b);
    std::erase_if(result.places, [](const Place& p) { return p.excess < leastExcess * p.limit; });
    std::ranges::sort(result.places, std::greater{}, &Place::excess);
    if (result.places.size() > mostPlaces) result.places.resize(mostPlaces);
    if (result.isBusy) return;
    for (Place& place : result.places) {
        if (isAtEdge(place.rect, luma.size())) continue;
        const bool isBand = place.rect.width > bandShare * luma.cols;
        place.isOdd =
            isBand || (!isFoundIn(luma, a, place.rect, limit) && !isFoundIn(luma, b, place.rect, limit));
        place.isDamage = place.isOdd && neighboursAgree(luma, a, b, place);
        if (place.isDamage) place.rect = wholeLine(place.rect, luma.size());
    }
    // By rows, as a picture is read.
    std::ranges::sort(result.places, {}, [](const Place& p) { return std::pair(p.rect.y, p.rect.x); });
}

void DamageMeter::measure(const ImagePtr& frame, const CameraStep& step, double noise) {
    State& s = *state_;
    std::rotate(s.frames.begin(), s.frames.begin() + 1, s.frames.end());
    State::Frame& latest = s.frames.back(); // its memory is used again
    latest.isThere = frame != nullptr;
    latest.noise = noise;
    if (frame) {
        takeRanges(latest.ranges, frame);
        s.size = latest.ranges.luma.size();
        s.scale = static_cast<double>(frame->width()) / latest.ranges.luma.cols;
        latest.step = step.scaled(1 / s.scale);
    }
    s.scratches.measure(frame ? latest.ranges.luma : cv::Mat(), latest.step);
    s.seen.emplace_back();
    if (s.seen.size() >= 3) s.look(s.seen[s.seen.size() - 2]);
}

bool DamageMeter::State::isSceneItself(std::size_t n, const Place& place) const {
    const std::size_t first =
        n > static_cast<std::size_t>(sceneReach) ? n - static_cast<std::size_t>(sceneReach) : 0;
    const std::size_t last = std::min(seen.size() - 1, n + static_cast<std::size_t>(sceneReach));
    constexpr int near = 24; // pixels
    const cv::Rect around(place.rect.x - near, place.rect.y - near, place.rect.width + 2 * near,
                          place.rect.height + 2 * near);
    int others = 0;
    for (std::size_t i = first; i <= last; ++i)
        if (i != n && (seen[i].isBusy ||
                       std::any_of(seen[i].places.begin(), seen[i].places.end(), [&](const Place& other) {
                           return other.isOdd && (other.rect & around).area() > 0 &&
                                  isAlike(place.rect, other.rect);
                       })))
            ++others;
    return others > std::max(1.0, sceneShare * static_cast<double>(last - first));
}

DamagedPlace DamageMeter::State::placeOf(const cv::Rect& rect) const {
    const auto scaled = [this](int v) { return static_cast<int>(std::lround(v * scale)); };
    const int x = std::max(0, rect.x);
    const int y = std::max(0, rect.y);
    return {scaled(x), scaled(y), scaled(rect.x + rect.width - x), scaled(rect.y + rect.height - y)};
}

void DamageMeter::State::addTorn(FoundDamage& damage, std::size_t n, bool isBesideCut) const {
    constexpr double certain = 0.95;
    constexpr std::size_t reach = 3;
    // Where frame after frame seems torn, something moves so.
    std::size_t around = 0;
    for (std::size_t i = n - std::min(n, reach); i <= std::min(seen.size() - 1, n + reach); ++i)
        around += seen[i].torn.empty() ? 0 : 1;
    if (isBesideCut || around > reach) return;
    for (const cv::Rect& band : seen[n].torn) {
        constexpr int margin = 2; // which the soft edges of wide places take up
        const DamagedPlace place =
            placeOf(insideOf({band.x, band.y - margin, band.width, band.height + 2 * margin}, size));
        const auto isPartOfIt = [&](const DamagedPlace& p) {
            const int common = std::min(p.y + p.height, place.y + place.height) - std::max(p.y, place.y);
            return 2 * common > p.height;
        };
        std::erase_if(damage.places, isPartOfIt);
        damage.places.push_back(place);
        damage.certainty = std::max(damage.certainty, certain);
    }
}

void DamageMeter::State::addScratches(FoundDamage& damage,
                                      const std::vector<LastingScratches::Found>& lasting) const {
    for (const LastingScratches::Found& scratch : lasting) {
        if (scratch.certainty < CleanFindings::leastCertainty) continue;
        damage.certainty = std::max(damage.certainty, scratch.certainty);
        for (const cv::Rect& rect : scratch.rects)
            damage.places.push_back(placeOf(rect));
    }
}

std::vector<FoundDamage> DamageMeter::found(std::span<const std::int64_t> cuts) const {
    const State& s = *state_;
    const auto lasting = s.scratches.found();
    std::vector<FoundDamage> all;
    for (std::size_t n = 0; n < s.seen.size(); ++n) {
        const auto frame = static_cast<std::int64_t>(n);
        const auto isCut = [&](std::int64_t first) {
            return std::binary_search(cuts.begin(), cuts.end(), first);
        };
        const State::Seen& seen = s.seen[n];
        const bool isBesideCut = isCut(frame) || isCut(frame + 1);
        if (!isBesideCut && seen.whole >= CleanFindings::leastCertainty) {
            all.push_back({frame, seen.whole});
            continue;
        }
        FoundDamage damage{frame};
        for (const Place& place : seen.places) {
            if (isBesideCut || !place.isDamage || s.isSceneItself(n, place)) continue;
            constexpr int margin = 2;
            damage.places.push_back(
                s.placeOf({place.rect.x - margin, place.rect.y - margin, place.rect.width + 2 * margin,
                           place.rect.height + 2 * margin}));
            const double certainty = std::clamp(0.6 + 0.4 * place.excess / (2 * place.limit), 0.0, 1.0);
            damage.certainty = std::max(damage.certainty, certainty);
        }
        s.addTorn(damage, n, isBesideCut);
        s.addScratches(damage, lasting[n]);
        if (!damage.places.empty()) all.push_back(std::move(damage));
    }
    return all;
}

} // namespace yarngap
