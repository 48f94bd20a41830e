#include "core/inspection/damage.h"

#include "core/inspection/small_luma.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <optional>
#include <utility>

namespace yarngap {

namespace {

constexpr int widest = 1920;             // pixels that are looked at
constexpr int blockSide = 16;            // of which one motion is taken
constexpr std::size_t mostPlaces = 48;   // in a frame that are looked at closely, the clearest
constexpr std::size_t busyPlaces = 1000; // in a frame in which everything does such things
constexpr double bandShare = 0.6;        // of the width, from which a place is a band
constexpr double wholeShare = 0.5;       // of the picture, from which the frame is bad as a whole
constexpr std::int64_t reach = 24;       // frames around, for what the scene does by itself
constexpr double sceneShare = 0.12;

/// A frame with the least and greatest values within a pixel.
struct Ranges {
    cv::Mat luma, least, greatest;
};

Ranges rangesOf(const Image& frame) {
    const Image small = smallLuma(frame, widest);
    const Image::Plane& plane = small.plane(0);
    const cv::Mat view(plane.height, plane.width, CV_8UC1, const_cast<std::byte*>(plane.bytes.data()),
                       plane.stride);
    Ranges ranges;
    ranges.luma = view.clone();
    const cv::Mat around = cv::Mat::ones(3, 3, CV_8U);
    cv::erode(ranges.luma, ranges.least, around);
    cv::dilate(ranges.luma, ranges.greatest, around);
    return ranges;
}

cv::Rect inside(const cv::Rect& rect, const cv::Size& size) {
    return rect & cv::Rect(0, 0, size.width, size.height);
}

/// Where the contents of (x, y) go, in whole pixels, forwards with sign 1.
cv::Point shiftAt(const CameraStep& step, double x, double y, const cv::Size& size, int sign) {
    if (!step.known) return {0, 0};
    const double dx = x - 0.5 * size.width;
    const double dy = y - 0.5 * size.height;
    return {static_cast<int>(std::lround(sign * (step.x + step.across[0] * dx + step.across[1] * dy))),
            static_cast<int>(std::lround(sign * (step.y + step.across[2] * dx + step.across[3] * dy)))};
}

/// `from` laid on the frame that `step` leads to (sign −1) or comes from (sign 1), block by block. What it
/// does not show is `missing` from then on.
void lay(const cv::Mat& from, cv::Mat& to, const CameraStep& step, int sign, cv::Mat& missing) {
    to.create(from.size(), from.type());
    for (int y = 0; y < from.rows; y += blockSide)
        for (int x = 0; x < from.cols; x += blockSide) {
            const cv::Rect block = inside({x, y, blockSide, blockSide}, from.size());
            const cv::Point shift =
                shiftAt(step, x + blockSide / 2.0, y + blockSide / 2.0, from.size(), sign);
            cv::Rect source = block + shift;
            const cv::Rect asked = source;
            source.x = std::clamp(source.x, 0, from.cols - source.width);
            source.y = std::clamp(source.y, 0, from.rows - source.height);
            if (source != asked) missing(block).setTo(255);
            from(source).copyTo(to(block));
        }
}

/// A neighbour laid on the frame.
struct Neighbour {
    cv::Mat luma, least, greatest;
    cv::Mat missing; ///< 255 where it does not show what the frame shows
    Neighbour(const Ranges& ranges, const CameraStep& step, int sign)
        : missing(cv::Mat::zeros(ranges.luma.size(), CV_8U)) {
        lay(ranges.luma, luma, step, sign, missing);
        lay(ranges.least, least, step, sign, missing);
        lay(ranges.greatest, greatest, step, sign, missing);
    }
};

/// A group of suspicious samples.
struct Place {
    cv::Rect rect;
    double excess = 0; ///< mean over its samples, in 8-bit steps beyond the limit
    double limit = 1;
    bool isOdd = false;    ///< found in neither neighbour
    bool isDamage = false; ///< and these agree with each other
};

/// By how much each sample lies outside of both neighbours' ranges, on the same side.
cv::Mat outsideOf(const cv::Mat& luma, const Neighbour& a, const Neighbour& b) {
    cv::Mat above;
    cv::Mat below;
    cv::subtract(luma, cv::max(a.greatest, b.greatest), above); // saturates at 0
    cv::subtract(cv::min(a.least, b.least), luma, below);
    cv::Mat outside = cv::max(above, below);
    outside.setTo(0, a.missing | b.missing);
    return outside;
}

/// Whether a place lies at the edge of the picture, where things come in, and does not go across it.
bool isAtEdge(const cv::Rect& rect, const cv::Size& size) {
    constexpr int edge = 4;
    constexpr double across = 0.3;
    if (rect.width > across * size.width || rect.height > across * size.height) return false;
    return rect.x < edge || rect.y < edge || rect.x + rect.width > size.width - edge ||
           rect.y + rect.height > size.height - edge;
}

/// Whether what a place shows is found near it in `other`, which is laid on the frame.
bool isFoundIn(const cv::Mat& luma, const cv::Mat& other, const cv::Rect& rect, double limit) {
    constexpr int margin = 2;
    constexpr int largest = 48;
    cv::Rect patch(rect.x - margin, rect.y - margin, rect.width + 2 * margin, rect.height + 2 * margin);
    if (patch.width > largest)
        patch = {patch.x + (patch.width - largest) / 2, patch.y, largest, patch.height};
    if (patch.height > largest)
        patch = {patch.x, patch.y + (patch.height - largest) / 2, patch.width, largest};
    patch = inside(patch, luma.size());
    const int far = std::max(24, luma.cols / 24);
    const cv::Rect area =
        inside({patch.x - far, patch.y - far, patch.width + 2 * far, patch.height + 2 * far}, luma.size());
    if (patch.width < 3 || patch.height < 3) return false;
    cv::Mat misfit;
    cv::matchTemplate(other(area), luma(patch), misfit, cv::TM_SQDIFF);
    double least = 0;
    cv::minMaxLoc(misfit, &least);
    cv::Scalar mean;
    cv::Scalar deviation;
    cv::meanStdDev(luma(patch), mean, deviation);
    const double left = std::sqrt(least / patch.area());
    // What is mostly surroundings would fit anywhere: the misfit counts beside what the patch holds.
    return left < std::max(0.45 * deviation[0], 0.5 * limit);
}

/// Whether both neighbours show the same in and around a place, beside how far it lies outside of them.
bool neighboursAgree(const Neighbour& a, const Neighbour& b, const Place& place) {
    constexpr int ring = 6;
    const cv::Rect& rect = place.rect;
    const cv::Rect around =
        inside({rect.x - ring, rect.y - ring, rect.width + 2 * ring, rect.height + 2 * ring}, a.luma.size());
    cv::Mat difference;
    cv::absdiff(a.luma(around), b.luma(around), difference);
    const double alike = std::max(0.35 * place.limit, 0.15 * (place.excess + place.limit));
    const bool isLong = std::max(rect.width, rect.height) > a.luma.rows / 4;
    if (!isLong) return cv::mean(difference)[0] < alike;
    // A long scratch may cross something that moves.
    constexpr double mostly = 0.65;
    return cv::countNonZero(difference < alike) > mostly * static_cast<double>(difference.total());
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
    cv::Mat mask = outside > limit;
    std::vector<Place> places;
    cv::Mat joined;
    cv::dilate(mask, joined, cv::Mat::ones(7, 7, CV_8U));
    cv::Mat labels;
    cv::Mat stats;
    cv::Mat centres;
    const int count = cv::connectedComponentsWithStats(joined, labels, stats, centres, 8, CV_32S);
    for (int i = 1; i < count; ++i) {
        const auto stat = [&](int what) { return stats.at<int>(i, what); };
        const cv::Rect box(stat(cv::CC_STAT_LEFT), stat(cv::CC_STAT_TOP), stat(cv::CC_STAT_WIDTH),
                           stat(cv::CC_STAT_HEIGHT));
        const cv::Mat own = (labels(box) == i) & mask(box);
        const int samples = cv::countNonZero(own);
        constexpr int fewest = 6; // coding leaves single samples at sharp outlines
        if (samples < fewest) continue;
        constexpr int grown = 3; // by the dilation
        const cv::Rect tight(box.x + grown, box.y + grown, std::max(1, box.width - 2 * grown),
                             std::max(1, box.height - 2 * grown));
        places.push_back({inside(tight, outside.size()), cv::mean(outside(box), own)[0] - limit, limit});
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
        std::optional<Ranges> ranges;
        CameraStep step; ///< to it, in pixels of `ranges`
        double noise = 0;
    };
    /// What a frame showed.
    struct Seen {
        std::vector<Place> places;
        bool isBusy = false;
        double whole = 0; ///< how sure it is that the frame is bad as a whole
    };
    std::array<Frame, 3> frames; ///< the last three, latest last
    std::vector<Seen> seen;      ///< of each frame
    double scale = 1;            ///< pixels of the shot to one that is looked at

    void look(Seen& seen) const;
    [[nodiscard]] double wholeCertainty(const cv::Mat& luma, const Neighbour& a, const Neighbour& b,
                                        double limit) const;
    [[nodiscard]] bool isSceneItself(std::size_t n, const Place& place) const;
};

DamageMeter::DamageMeter()
    : state_(std::make_unique<State>()) {}
DamageMeter::~DamageMeter() = default;

double DamageMeter::State::wholeCertainty(const cv::Mat& luma, const Neighbour& a, const Neighbour& b,
                                          double limit) const {
    cv::Mat toBefore;
    cv::Mat toAfter;
    cv::Mat between;
    cv::absdiff(luma, a.luma, toBefore);
    cv::absdiff(luma, b.luma, toAfter);
    cv::absdiff(a.luma, b.luma, between);
    const cv::Mat off = cv::min(toBefore, toAfter) > 0.7 * limit;
    const double share = static_cast<double>(cv::countNonZero(off)) / static_cast<double>(off.total());
    if (share < wholeShare) return 0;
    const double change = std::min(cv::mean(toBefore)[0], cv::mean(toAfter)[0]);
    const double apart = cv::mean(between)[0];
    if (apart > 0.4 * change) return 0;
    constexpr double flash = 0.35;
    if (sharesOutlines(luma, a.luma) && sharesOutlines(luma, b.luma)) return flash;
    return std::clamp(1.1 - apart / change, 0.0, 1.0);
}

void DamageMeter::State::look(Seen& result) const {
    const Frame& before = frames[0];
    const Frame& now = frames[1];
    const Frame& after = frames[2];
    if (!before.ranges || !now.ranges || !after.ranges) return;
    const cv::Mat& luma = now.ranges->luma;
    if (before.ranges->luma.size() != luma.size() || after.ranges->luma.size() != luma.size()) return;
    // The steps to and from a bad frame are of no use; those of its neighbours to it are not known.
    const Neighbour a(*before.ranges, now.step, -1);
    const Neighbour b(*after.ranges, after.step, 1);
    const double limit = 10 + 2.5 * std::max({before.noise, now.noise, after.noise});
    result.whole = wholeCertainty(luma, a, b, limit);
    if (result.whole > 0) return;
    result.places = placesIn(outsideOf(luma, a, b), limit);
    result.isBusy = result.places.size() > busyPlaces;
    std::ranges::sort(result.places, std::greater{}, &Place::excess);
    if (result.places.size() > mostPlaces) result.places.resize(mostPlaces);
    if (result.isBusy) return;
    for (Place& place : result.places) {
        if (isAtEdge(place.rect, luma.size())) continue;
        const bool isBand = place.rect.width > bandShare * luma.cols;
        place.isOdd = isBand || (!isFoundIn(luma, a.luma, place.rect, limit) &&
                                 !isFoundIn(luma, b.luma, place.rect, limit));
        place.isDamage = place.isOdd && neighboursAgree(a, b, place);
        if (place.isDamage) place.rect = wholeLine(place.rect, luma.size());
    }
    // By rows, as a picture is read.
    std::ranges::sort(result.places, {}, [](const Place& p) { return std::pair(p.rect.y, p.rect.x); });
}

void DamageMeter::measure(const Image* frame, const CameraStep& step, double noise) {
    State& s = *state_;
    std::rotate(s.frames.begin(), s.frames.begin() + 1, s.frames.end());
    State::Frame& latest = s.frames.back();
    latest = {};
    latest.noise = noise;
    if (frame) {
        latest.ranges = rangesOf(*frame);
        s.scale = static_cast<double>(frame->width()) / latest.ranges->luma.cols;
        latest.step = step.scaled(1 / s.scale);
    }
    s.seen.emplace_back();
    if (s.seen.size() >= 3) s.look(s.seen[s.seen.size() - 2]);
}

bool DamageMeter::State::isSceneItself(std::size_t n, const Place& place) const {
    const std::size_t first = n > static_cast<std::size_t>(reach) ? n - static_cast<std::size_t>(reach) : 0;
    const std::size_t last = std::min(seen.size() - 1, n + static_cast<std::size_t>(reach));
    constexpr int near = 24; // pixels
    const cv::Rect around(place.rect.x - near, place.rect.y - near, place.rect.width + 2 * near,
                          place.rect.height + 2 * near);
    int others = 0;
    for (std::size_t i = first; i <= last; ++i)
        if (i != n && (seen[i].isBusy ||
                       std::any_of(seen[i].places.begin(), seen[i].places.end(), [&](const Place& other) {
                           return other.isOdd && other.excess > 0.5 * other.limit &&
                                  (other.rect & around).area() > 0;
                       })))
            ++others;
    return others > std::max(1.0, sceneShare * static_cast<double>(last - first));
}

std::vector<FoundDamage> DamageMeter::found(std::span<const std::int64_t> cuts) const {
    const State& s = *state_;
    std::vector<FoundDamage> all;
    for (std::size_t n = 1; n + 1 < s.seen.size(); ++n) {
        const auto frame = static_cast<std::int64_t>(n);
        const auto isCut = [&](std::int64_t first) {
            return std::binary_search(cuts.begin(), cuts.end(), first);
        };
        if (isCut(frame) || isCut(frame + 1)) continue;
        const State::Seen& seen = s.seen[n];
        if (seen.whole >= CleanFindings::leastCertainty) {
            all.push_back({frame, seen.whole});
            continue;
        }
        FoundDamage damage{frame};
        for (const Place& place : seen.places) {
            if (!place.isDamage || s.isSceneItself(n, place)) continue;
            constexpr int margin = 2;
            const auto scaled = [&](int v) { return static_cast<int>(std::lround(v * s.scale)); };
            const int x = std::max(0, place.rect.x - margin);
            const int y = std::max(0, place.rect.y - margin);
            damage.places.push_back({scaled(x), scaled(y),
                                     scaled(place.rect.x + place.rect.width + margin - x),
                                     scaled(place.rect.y + place.rect.height + margin - y)});
            const double certainty = std::clamp(0.6 + 0.4 * place.excess / (2 * place.limit), 0.0, 1.0);
            damage.certainty = std::max(damage.certainty, certainty);
        }
        if (!damage.places.empty()) all.push_back(std::move(damage));
    }
    return all;
}

} // namespace yarngap
