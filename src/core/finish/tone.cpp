#include "core/finish/tone.h"

#include "core/error.h"
#include "core/image/sample_types.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <string>
#include <utility>

namespace yarngap {

namespace {

void requireInside(double value, double least, double most, const char* what) {
    if (value >= least && value <= most) return;
    const auto shown = [](double v) {
        std::string text = std::to_string(v);
        text.erase(text.find_last_not_of('0') + 1);
        if (text.back() == '.') text.pop_back();
        return text;
    };
    throw Error("Tone has a " + std::string(what) + " of " + shown(value) + ". It should be from " +
                shown(least) + " to " + shown(most) + '.');
}

/// Luma of red, green and blue by the matrix of the picture: ITU-R BT.709, or BT.2020.
struct LumaShares {
    float r = 0.2126F, g = 0.7152F, b = 0.0722F;
};
LumaShares lumaShares(const ColourTags& colour) {
    constexpr int bt2020 = 9; // of H.273, as primaries
    if (colour.primaries == bt2020) return {0.2627F, 0.6780F, 0.0593F};
    return {};
}

template <typename Work>
void forRows(FloatPlane& plane, const Work& work) {
    tbb::parallel_for(0, plane.height, [&](int y) { work(plane.row(y), y); });
}

} // namespace

void validate(const ToneKey& tone) {
    requireInside(tone.black, -0.5, 0.9, "black");
    requireInside(tone.white, 0.1, 2, "white");
    requireInside(tone.gamma, 0.1, 10, "gamma");
    requireInside(tone.saturation, 0, 4, "saturation");
    if (tone.white - tone.black < 0.05)
        throw Error("Tone has its white at or below its black. Choose a white above it by 0.05 at least.");
    if (tone.curve.size() == 1 || tone.curve.size() > ToneKey::mostPoints)
        throw Error("A curve has 2 to " + std::to_string(ToneKey::mostPoints) + " points, or none.");
    for (std::size_t i = 0; i < tone.curve.size(); ++i) {
        const CurvePoint& p = tone.curve[i];
        if (!(p.x >= 0 && p.x <= 1 && p.y >= 0 && p.y <= 1))
            throw Error("Point " + std::to_string(i + 1) +
                        " of the curve lies outside. Both of its numbers go "
                        "from 0 to 1.");
        if (i > 0 && !(p.x > tone.curve[i - 1].x && p.y >= tone.curve[i - 1].y))
            throw Error("The curve folds at point " + std::to_string(i + 1) +
                        ". Each point must lie to the right of the one before, and not below it.");
    }
}

MonotoneCurve::MonotoneCurve(std::vector<CurvePoint> points)
    : points_(std::move(points))
    , slopes_(points_.size(), 0) {
    const std::size_t n = points_.size();
    if (n < 2) return;
    std::vector<double> rise(n - 1);
    for (std::size_t i = 0; i + 1 < n; ++i)
        rise[i] = (points_[i + 1].y - points_[i].y) / (points_[i + 1].x - points_[i].x);
    for (std::size_t i = 1; i + 1 < n; ++i) {
        if (rise[i - 1] * rise[i] <= 0) continue;
        const double before = points_[i].x - points_[i - 1].x;
        const double after = points_[i + 1].x - points_[i].x;
        const double share = (before + 2 * after) / (3 * (before + after)); // of the slope before
        slopes_[i] = rise[i - 1] * rise[i] / (share * rise[i] + (1 - share) * rise[i - 1]);
    }
    // At the ends the slope of the parabola through three points, held to three times that of its piece.
    const auto end = [](double own, double next, double length, double nextLength) {
        const double slope = ((2 * length + nextLength) * own - length * next) / (length + nextLength);
        if (slope * own <= 0) return 0.0;
        return std::abs(slope) > 3 * std::abs(own) ? 3 * own : slope;
    };
    if (n == 2) {
        slopes_ = {rise[0], rise[0]};
    } else {
        slopes_[0] = end(rise[0], rise[1], points_[1].x - points_[0].x, points_[2].x - points_[1].x);
        slopes_[n - 1] = end(rise[n - 2], rise[n - 3], points_[n - 1].x - points_[n - 2].x,
                             points_[n - 2].x - points_[n - 3].x);
    }
}

double MonotoneCurve::operator()(double x) const {
    if (points_.empty()) return x;
    if (x <= points_.front().x) return points_.front().y;
    if (x >= points_.back().x) return points_.back().y;
    const auto after = std::ranges::upper_bound(points_, x, {}, &CurvePoint::x);
    const auto i = static_cast<std::size_t>(after - points_.begin()) - 1;
    const CurvePoint& a = points_[i];
    const CurvePoint& b = points_[i + 1];
    const double h = b.x - a.x;
    const double u = (x - a.x) / h;
    const double v = 1 - u;
    return v * v * (1 + 2 * u) * a.y + u * u * (1 + 2 * v) * b.y +
           h * u * v * (v * slopes_[i] - u * slopes_[i + 1]);
}

Tone::Tone(const ToneKey& key) {
    read({&key, 1}, key.at);
}

Tone::Tone(std::span<const ToneKey> keys, const Rational& place) {
    if (!keys.empty()) read(keys, place);
}

void Tone::read(std::span<const ToneKey> keys, const Rational& place) {
    const auto after = std::ranges::upper_bound(
        keys, place, [](const Rational& a, const Rational& b) { return a < b; }, &ToneKey::at);
    const ToneKey& first = after == keys.begin() ? *after : *std::prev(after);
    const ToneKey& last = after == keys.end() ? *std::prev(after) : *after;
    const double u = &first == &last ? 0
                                     : std::clamp((place.toDouble() - first.at.toDouble()) /
                                                      (last.at.toDouble() - first.at.toDouble()),
                                                  0.0, 1.0);
    saturation_ = static_cast<float>(first.saturation + u * (last.saturation - first.saturation));
    isStraight_ = true;
    for (const ToneKey* key : {&first, &last})
        isStraight_ &= key->black == 0 && key->white == 1 && key->gamma == 1 && key->curve.empty();
    if (isStraight_) return;
    table_.assign(steps + 1, 0);
    double slope = 0;
    const auto add = [&](const ToneKey& key, double weight) {
        if (weight <= 0) return;
        const MonotoneCurve curve(key.curve);
        const double width = key.white - key.black;
        const auto value = [&](double v) {
            const double t = (v - key.black) / width;
            if (t <= 0) return curve(0) + t; // goes on, so that nothing is cut off here
            if (t >= 1) return curve(1) + t - 1;
            return curve(std::pow(t, 1 / key.gamma));
        };
        for (int i = 0; i <= steps; ++i)
            table_[static_cast<std::size_t>(i)] +=
                static_cast<float>(weight * value(static_cast<double>(i) / steps));
        slope += weight / width;
    };
    add(first, 1 - u);
    add(last, u);
    outsideSlope_ = static_cast<float>(slope);
}

float Tone::operator()(float value) const {
    if (isStraight_) return value;
    if (!(value > 0)) return table_.front() + outsideSlope_ * value; // what is no number too
    if (value >= 1) return table_.back() + outsideSlope_ * (value - 1);
    const float at = value * steps;
    const auto i = static_cast<std::size_t>(at);
    const float f = at - static_cast<float>(i);
    return table_[i] + f * (table_[i + 1] - table_[i]);
}

void Tone::apply(FloatPicture& picture, const ColourTags& colour) const {
    const PixelLayout& layout = picture.layout;
    const NominalRange range = nominalRange(layout, colour);
    const bool isRgb = layout.model == ColourModel::rgb;
    auto& planes = picture.planes;
    if (!isStraight_)
        for (std::size_t p = 0; p < (isRgb ? 3U : 1U); ++p)
            forRows(planes[p], [&, width = planes[p].width](float* row, int) {
                for (int x = 0; x < width; ++x)
                    row[x] = range.black + range.width() * (*this)((row[x] - range.black) / range.width());
            });
    if (saturation_ == 1 || layout.model == ColourModel::grey) return;
    if (isRgb) {
        const LumaShares luma = lumaShares(colour);
        return forRows(planes[0], [&, width = planes[0].width](float* g, int y) {
            float* b = planes[1].row(y);
            float* r = planes[2].row(y);
            for (int x = 0; x < width; ++x) {
                const float grey = luma.r * r[x] + luma.g * g[x] + luma.b * b[x];
                for (float* row : {g, b, r})
                    row[x] = grey + saturation_ * (row[x] - grey);
            }
        });
    }
    const float middle = chromaMiddle(layout);
    for (std::size_t p = 1; p < 3; ++p)
        forRows(planes[p], [&, width = planes[p].width](float* row, int) {
            for (int x = 0; x < width; ++x)
                row[x] = middle + saturation_ * (row[x] - middle);
        });
}

Histogram histogramOf(const Image& image, const ColourTags& colour) {
    Histogram out;
    const NominalRange range = nominalRange(image.layout(), colour);
    const bool isRgb = image.layout().model == ColourModel::rgb;
    const auto most = static_cast<float>(image.layout().maxValue());
    std::size_t pixels = 0;
    withSampleType(image.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        const int step = std::max(1, image.height() / 540); // rows between tell the same
        for (int y = 0; y < image.height(); y += step) {
            const auto first = image.row<Sample>(0, y);
            for (std::size_t x = 0; x < first.size(); ++x) {
                float v = static_cast<float>(first[x]);
                if (isRgb)
                    v = (v + static_cast<float>(image.row<Sample>(1, y)[x]) +
                         static_cast<float>(image.row<Sample>(2, y)[x])) /
                        3;
                const float share = (v - range.black) / (range.white - range.black);
                const int bin = static_cast<int>(
                    (share > 0 ? std::min(share, 1.0F) : 0.0F) * (Histogram::bins - 1) + 0.5F);
                out.shares[static_cast<std::size_t>(bin)] += 1;
                out.black += v <= 0 || share <= 0 ? 1 : 0;
                out.white += (!image.layout().isFloat() && v >= most) || share >= 1 ? 1 : 0;
                ++pixels;
            }
        }
    });
    if (pixels == 0) return out;
    for (float& share : out.shares)
        share /= static_cast<float>(pixels);
    out.black /= static_cast<double>(pixels);
    out.white /= static_cast<double>(pixels);
    return out;
}

} // namespace yarngap
