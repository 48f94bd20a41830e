#include "core/inspection/lasting_scratches.h"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdlib>
#include <utility>

namespace yarngap {

namespace {

using Line = LastingScratches::Line;

constexpr int bands = 16;              // of the height, each looked at for itself
constexpr double leastBandShare = 0.8; // of the bands that show a line
constexpr double mostTilt = 0.02;      // of the width, from top to bottom
constexpr int leastLineGap = 8;        // pixels between two lines
constexpr std::size_t mostLines = 4;

/// By how much each column of a band stands out from both sides, with the sign of that; `means` are those
/// of the band's columns.
std::vector<float> ridgesOf(const cv::Mat& means) {
    constexpr int inner = 3; // pixels to the leastLineGap column beside the line
    const int width = means.cols;
    const float* mean = means.ptr<float>();
    std::vector<float> ridges(static_cast<std::size_t>(width), 0.F);
    for (int x = inner + 1; x + inner + 1 < width; ++x) {
        const float left = (mean[x - inner] + mean[x - inner - 1]) / 2;
        const float right = (mean[x + inner] + mean[x + inner + 1]) / 2;
        const float lower = std::min(mean[x] - left, mean[x] - right);
        const float upper = std::max(mean[x] - left, mean[x] - right);
        ridges[static_cast<std::size_t>(x)] = lower > 0 ? lower : upper < 0 ? upper : 0.F;
    }
    return ridges;
}

/// Which columns of which bands stand out clearly: +1 light, −1 dark.
struct Standing {
    int width = 0;
    cv::Mat means;                 ///< of the columns of each band
    std::vector<signed char> sign; ///< bands × width

    [[nodiscard]] signed char at(int band, int x) const {
        return sign[static_cast<std::size_t>(band) * static_cast<std::size_t>(width) +
                    static_cast<std::size_t>(x)];
    }
    /// Whether a band stands out within a pixel of a column.
    [[nodiscard]] bool near(int band, int x, int which) const {
        for (int at = std::max(0, x - 1); at <= std::min(width - 1, x + 1); ++at)
            if (this->at(band, at) == which) return true;
        return false;
    }
};

Standing standingIn(const cv::Mat& luma) {
    Standing out{luma.cols, cv::Mat(bands, luma.cols, CV_32F), {}};
    out.sign.resize(static_cast<std::size_t>(bands) * static_cast<std::size_t>(luma.cols), 0);
    for (int band = 0; band < bands; ++band) {
        const cv::Mat rows = luma.rowRange(luma.rows * band / bands, luma.rows * (band + 1) / bands);
        cv::Mat means = out.means.row(band);
        cv::reduce(rows, means, 0, cv::REDUCE_AVG, CV_32F);
        const std::vector<float> ridges = ridgesOf(means);
        std::vector<double> sizes(ridges.begin(), ridges.end());
        for (double& size : sizes)
            size = std::abs(size);
        // Half of the columns are no ridge at all; three quarters lie below what texture does.
        constexpr double weakest = 2; // 8-bit steps
        const auto high = sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() * 3 / 4);
        std::nth_element(sizes.begin(), high, sizes.end());
        const double least = std::max(weakest, 3 * *high);
        for (std::size_t x = 0; x < ridges.size(); ++x)
            if (std::abs(ridges[x]) > least)
                out.sign[static_cast<std::size_t>(band) * ridges.size() + x] = ridges[x] > 0 ? 1 : -1;
    }
    return out;
}

int bandsOn(const Standing& standing, double top, double tilt, int which) {
    int count = 0;
    for (int band = 0; band < bands; ++band) {
        const auto x = static_cast<int>(std::lround(top + tilt * (band + 0.5) / bands));
        if (x >= 0 && x < standing.width && standing.near(band, x, which)) ++count;
    }
    return count;
}

/// The best line through a column near the top.
Line bestThrough(const Standing& standing, int x, int which) {
    Line best{which > 0};
    const int reach = std::max(4, static_cast<int>(mostTilt * standing.width));
    for (int tilt = -reach; tilt <= reach; ++tilt) {
        const double share = static_cast<double>(bandsOn(standing, x, tilt, which)) / bands;
        // Of two as good the steeper one.
        if (share > best.share || (share == best.share && std::abs(tilt) < std::abs(best.bottom - best.top)))
            best = {which > 0, static_cast<double>(x), static_cast<double>(x + tilt), share};
    }
    return best;
}

/// By how much a column of a band stands out from those at the ends of its neighbourhood.
double standsOut(const Standing& standing, int band, int middle, int away, int reach, bool isLight) {
    const auto at = [&](int i) {
        return standing.means.at<float>(band, std::clamp(middle + i, 0, standing.width - 1));
    };
    const double share = (away + reach) / (2.0 * reach);
    const double beside = at(-reach) * (1 - share) + at(reach) * share;
    return (at(away) - beside) * (isLight ? 1 : -1);
}

double columnAt(const Line& line, int band) {
    return line.top + (line.bottom - line.top) * (band + 0.5) / bands;
}

/// Lays a line through the middles of what stands out near it, by least squares.
void refine(Line& line, const Standing& standing) {
    constexpr int reach = 4;
    double n = 0;
    double sumT = 0;
    double sumX = 0;
    double sumTT = 0;
    double sumTX = 0;
    for (int band = 0; band < bands; ++band) {
        const auto middle = static_cast<int>(std::lround(columnAt(line, band)));
        double weight = 0;
        double moment = 0;
        for (int i = -reach + 1; i < reach; ++i) {
            const double out = std::max(0.0, standsOut(standing, band, middle, i, reach, line.isLight));
            weight += out * out;
            moment += out * out * i;
        }
        if (weight <= 0) continue;
        const double t = (band + 0.5) / bands;
        const double x = middle + moment / weight;
        n += 1;
        sumT += t;
        sumX += x;
        sumTT += t * t;
        sumTX += t * x;
    }
    const double spread = n * sumTT - sumT * sumT;
    if (n < bands / 2.0 || spread <= 0) return;
    const double tilt = (n * sumTX - sumT * sumX) / spread;
    line.top = (sumX - tilt * sumT) / n;
    line.bottom = line.top + tilt;
}

/// Sets how wide a line is: as far as it stands out by a fifth of what its middle does.
void measureWidth(Line& line, const Standing& standing) {
    constexpr int reach = 5; // columns
    const auto out = [&](int away) {
        double sum = 0;
        for (int band = 0; band < bands; ++band)
            sum += standsOut(standing, band, static_cast<int>(std::lround(columnAt(line, band))), away, reach,
                             line.isLight);
        return sum;
    };
    const double least = std::max({out(-1), out(0), out(1)}) / 5;
    line.left = 0;
    line.right = 0;
    while (line.left < reach - 1 && out(-line.left - 1) > least)
        ++line.left;
    while (line.right < reach - 1 && out(line.right + 1) > least)
        ++line.right;
}

std::vector<Line> linesIn(const cv::Mat& luma) {
    constexpr int leastHeight = 128; // pixels; below it bands are too thin to tell
    if (luma.rows < leastHeight) return {};
    const Standing standing = standingIn(luma);
    std::vector<Line> lines;
    for (int x = 0; x < standing.width; ++x)
        for (const int which : {1, -1}) {
            // A line of which one of the first three bands shows nothing near this column is not tried.
            const auto begins = [&](int band) { return standing.at(band, x) == which; };
            if (!begins(0) && !begins(1) && !begins(2)) continue;
            const Line line = bestThrough(standing, x, which);
            if (line.share >= leastBandShare) lines.push_back(line);
        }
    std::ranges::stable_sort(lines, [](const Line& a, const Line& b) { return a.share > b.share; });
    std::vector<Line> kept;
    for (const Line& line : lines)
        if (std::ranges::none_of(kept,
                                 [&](const Line& k) { return std::abs(k.top - line.top) < leastLineGap; }))
            kept.push_back(line);
    // A fence or a curtain is full of lines.
    if (kept.size() > mostLines) kept.clear();
    for (Line& line : kept) {
        refine(line, standing);
        measureWidth(line, standing);
    }
    return kept;
}

/// The middle of a line.
double middleOf(const Line& line) {
    return (line.top + line.bottom) / 2;
}

/// A scratch over frames.
struct Track {
    std::vector<std::pair<std::size_t, Line>> lines; ///< frame and line
    double own = 0;                                  ///< where it has gone by itself, in pixels
    double least = 0, most = 0;                      ///< of that
};

/// How far the camera carries the picture sideways at a column of middle height.
double carried(const CameraStep& step, double x, int width) {
    return step.known ? step.x + step.across[0] * (x - width / 2.0) : 0;
}

constexpr std::size_t fewest = 6;     // frames
constexpr std::size_t mostMissed = 2; // frames in a row that do not show it

} // namespace

void LastingScratches::measure(const cv::Mat& luma, const CameraStep& step) {
    frames_.push_back({luma.size(), step, luma.empty() ? std::vector<Line>{} : linesIn(luma)});
}

std::vector<std::vector<LastingScratches::Found>> LastingScratches::found() const {
    std::vector<Track> tracks;
    for (std::size_t n = 0; n < frames_.size(); ++n)
        for (const Line& line : frames_[n].lines) {
            constexpr double reach = 12; // pixels it may wander between two frames
            const auto open = std::ranges::find_if(tracks, [&](const Track& t) {
                const auto& [last, at] = t.lines.back();
                return last < n && n - last <= mostMissed + 1 && at.isLight == line.isLight &&
                       std::abs(middleOf(at) - middleOf(line)) < reach;
            });
            if (open == tracks.end()) {
                tracks.push_back({{{n, line}}});
                continue;
            }
            double camera = 0;
            for (std::size_t i = open->lines.back().first + 1; i <= n; ++i)
                camera += carried(frames_[i].step, middleOf(line), frames_[i].size.width);
            open->own += middleOf(line) - middleOf(open->lines.back().second) - camera;
            open->least = std::min(open->least, open->own);
            open->most = std::max(open->most, open->own);
            open->lines.emplace_back(n, line);
        }
    std::vector<std::vector<Found>> all(frames_.size());
    for (const Track& track : tracks) {
        const std::size_t span = track.lines.back().first - track.lines.front().first + 1;
        const double far = std::max(5.0, frames_[track.lines.front().first].size.width / 200.0);
        const double gone = (track.most - track.least) / far;
        if (track.lines.size() < fewest || gone < 1 || 3 * track.lines.size() < 2 * span) continue;
        for (const auto& [n, line] : track.lines) {
            const cv::Size& size = frames_[n].size;
            Found found;
            found.certainty = std::min(1.0, 0.7 + 0.15 * (gone - 1) + 0.5 * (line.share - leastBandShare));
            for (int band = 0; band < bands; ++band) {
                constexpr double margin = 0.4; // pixels
                const double tilt = line.bottom - line.top;
                const double from = line.top + tilt * band / bands;
                const double to = line.top + tilt * (band + 1) / bands;
                const int x = static_cast<int>(std::floor(std::min(from, to) - line.left - margin + 0.5));
                const int right = static_cast<int>(std::ceil(std::max(from, to) + line.right + margin + 0.5));
                const int y = size.height * band / bands;
                const cv::Rect rect = cv::Rect(x, y, right - x, size.height * (band + 1) / bands - y) &
                                      cv::Rect(0, 0, size.width, size.height);
                if (rect.empty()) continue;
                if (!found.rects.empty() && found.rects.back().x == rect.x &&
                    found.rects.back().width == rect.width)
                    found.rects.back().height += rect.height;
                else
                    found.rects.push_back(rect);
            }
            if (!found.rects.empty()) all[n].push_back(std::move(found));
        }
    }
    return all;
}

} // namespace yarngap
