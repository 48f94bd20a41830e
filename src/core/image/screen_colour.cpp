#include "core/image/screen_colour.h"

#include "core/image/colour_codes.h"

#include <algorithm>
#include <cmath>

namespace yarngap {

using namespace h273;

namespace {

constexpr double screenWhite = 203; // cd/m², ITU-R BT.2408
constexpr double masterPeak = 1000; // cd/m², of most mastering displays and of HLG's nominal one
constexpr double pqPeak = 10'000;   // cd/m²
constexpr double hlgGamma = 1.2;    // ITU-R BT.2100 at 1,000 cd/m²
constexpr int dimSteps = 4096;

using Matrix = std::array<std::array<double, 3>, 3>;
using Triple = std::array<double, 3>;
struct Chromaticity {
    double x, y;
};
struct Gamut {
    Chromaticity red, green, blue, white;
};

constexpr Chromaticity d65{0.3127, 0.3290};
constexpr Chromaticity illuminantC{0.310, 0.316};

Gamut gamutOf(int primaries) {
    switch (primaries) {
    case primariesBt470m:
        return {{0.67, 0.33}, {0.21, 0.71}, {0.14, 0.08}, illuminantC};
    case primariesBt470bg:
        return {{0.64, 0.33}, {0.29, 0.60}, {0.15, 0.06}, d65};
    case primariesSmpte170m:
    case primariesSmpte240m:
        return {{0.630, 0.340}, {0.310, 0.595}, {0.155, 0.070}, d65};
    case primariesFilm:
        return {{0.681, 0.319}, {0.243, 0.692}, {0.145, 0.049}, illuminantC};
    case primariesBt2020:
        return {{0.708, 0.292}, {0.170, 0.797}, {0.131, 0.046}, d65};
    case primariesDciP3:
        return {{0.680, 0.320}, {0.265, 0.690}, {0.150, 0.060}, {0.314, 0.351}};
    case primariesDisplayP3:
        return {{0.680, 0.320}, {0.265, 0.690}, {0.150, 0.060}, d65};
    default:
        return {{0.640, 0.330}, {0.300, 0.600}, {0.150, 0.060}, d65};
    }
}

Triple times(const Matrix& m, const Triple& v) {
    Triple out{};
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t k = 0; k < 3; ++k)
            out.at(i) += m.at(i).at(k) * v.at(k);
    return out;
}

Matrix times(const Matrix& a, const Matrix& b) {
    Matrix out{};
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j)
            for (std::size_t k = 0; k < 3; ++k)
                out.at(i).at(j) += a.at(i).at(k) * b.at(k).at(j);
    return out;
}

Matrix inverse(const Matrix& m) {
    const auto minor = [&](std::size_t r, std::size_t c) {
        const std::size_t r1 = (r + 1) % 3, r2 = (r + 2) % 3, c1 = (c + 1) % 3, c2 = (c + 2) % 3;
        return m.at(r1).at(c1) * m.at(r2).at(c2) - m.at(r1).at(c2) * m.at(r2).at(c1);
    };
    const double whole = m[0][0] * minor(0, 0) + m[0][1] * minor(0, 1) + m[0][2] * minor(0, 2);
    Matrix out{};
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j)
            out.at(i).at(j) = minor(j, i) / whole;
    return out;
}

Triple xyz(const Chromaticity& c) {
    return {c.x / c.y, 1, (1 - c.x - c.y) / c.y};
}

/// From light of R, G and B to CIE XYZ, white having Y = 1 (SMPTE RP 177).
Matrix toXyz(const Gamut& gamut) {
    const Triple r = xyz(gamut.red), g = xyz(gamut.green), b = xyz(gamut.blue);
    Matrix all{{{r[0], g[0], b[0]}, {r[1], g[1], b[1]}, {r[2], g[2], b[2]}}};
    const Triple share = times(inverse(all), xyz(gamut.white));
    for (auto& row : all)
        for (std::size_t k = 0; k < 3; ++k)
            row.at(k) *= share.at(k);
    return all;
}

/// Bradford's adaptation of one white to another (ICC.1, annex E).
Matrix adapted(const Chromaticity& from, const Chromaticity& to) {
    constexpr Matrix cone{{{0.8951, 0.2664, -0.1614}, {-0.7502, 1.7135, 0.0367}, {0.0389, -0.0685, 1.0296}}};
    const Triple a = times(cone, xyz(from)), b = times(cone, xyz(to));
    const Matrix scale{{{b[0] / a[0], 0, 0}, {0, b[1] / a[1], 0}, {0, 0, b[2] / a[2]}}};
    return times(inverse(cone), times(scale, cone));
}

bool isOfScreen(int primaries) {
    return primaries == primariesBt709 || primaries == primariesUnspecified || primaries < 1 ||
           primaries > primariesDisplayP3 || primaries == 10;
}

bool keepsCurve(int transfer) {
    return transfer != gamma22 && transfer != gamma28 && transfer != linear && transfer != pq &&
           transfer != hlg;
}

/// What the screen does with values that come from such a transfer.
int screenTransfer(int transfer) {
    return transfer == sRgb || transfer == linear ? sRgb : transferBt709;
}

/// ITU-R BT.2390-10, section 5.4.1, with black at 0: luminance in cd/m² that is shown for `y`.
double toneMapped(double y) {
    const double whole = encodedOf(pq, masterPeak / pqPeak);
    const double most = encodedOf(pq, screenWhite / pqPeak) / whole;
    const double knee = 1.5 * most - 0.5;
    const double e = std::min(1.0, encodedOf(pq, y / pqPeak) / whole);
    if (e < knee) return y;
    const double t = (e - knee) / (1 - knee), t2 = t * t, t3 = t2 * t;
    const double bent =
        (2 * t3 - 3 * t2 + 1) * knee + (t3 - 2 * t2 + t) * (1 - knee) + (3 * t2 - 2 * t3) * most;
    return pqPeak * lightOf(pq, bent * whole);
}

} // namespace

bool isToneMapped(const ColourTags& tags) {
    return tags.transfer == pq || tags.transfer == hlg;
}

std::string describeColour(const ColourTags& tags) {
    const auto gamut = [&]() -> std::string {
        switch (tags.primaries) {
        case primariesBt709:
            return "BT.709";
        case primariesBt470bg:
            return "BT.601, 625 lines";
        case primariesSmpte170m:
        case primariesSmpte240m:
            return "BT.601, 525 lines";
        case primariesBt2020:
            return "BT.2020";
        case primariesDciP3:
            return "DCI-P3";
        case primariesDisplayP3:
            return "Display P3";
        default:
            return {};
        }
    }();
    const std::string curve = tags.transfer == pq       ? "PQ"
                              : tags.transfer == hlg    ? "HLG"
                              : tags.transfer == sRgb   ? "sRGB"
                              : tags.transfer == linear ? "linear"
                                                        : "";
    return gamut.empty() || curve.empty() ? gamut + curve : gamut + ", " + curve;
}

bool ScreenColour::isNeeded(const ColourTags& tags) {
    return !isOfScreen(tags.primaries) || !keepsCurve(tags.transfer);
}

ScreenColour::ScreenColour(const ColourTags& tags, int white)
    : toneMaps_(isToneMapped(tags))
    , isHlg_(tags.transfer == hlg)
    , light_(1U << 16U)
    , screen_(screenTransfer(tags.transfer)) {
    const double unit = tags.transfer == pq ? pqPeak / screenWhite : isHlg_ ? masterPeak / screenWhite : 1;
    // Every sixteenth by formula, which is most of the time; the curves are straight between them.
    constexpr std::size_t apart = 16;
    const auto lightAt = [&](std::size_t sample) {
        const double encoded = std::min(1.0, static_cast<double>(sample) / white);
        return static_cast<float>(unit * lightOf(tags.transfer, encoded));
    };
    for (std::size_t at = 0; at < light_.size(); at += apart) {
        const float from = lightAt(at);
        const float step = (lightAt(at + apart) - from) / apart;
        for (std::size_t i = 0; i < apart; ++i)
            light_[at + i] = from + static_cast<float>(i) * step;
    }
    const Gamut from = gamutOf(tags.primaries), to = gamutOf(primariesBt709);
    const Matrix own = toXyz(from);
    const Matrix all = times(inverse(toXyz(to)), times(adapted(from.white, to.white), own));
    for (std::size_t i = 0; i < 3; ++i) {
        luminance_.at(i) = static_cast<float>(own[1].at(i));
        for (std::size_t k = 0; k < 3; ++k)
            matrix_.at(i).at(k) = static_cast<float>(all.at(i).at(k));
    }
    if (!toneMaps_) return;
    dimmed_.resize(dimSteps + 2, 1);
    for (int i = 1; i <= dimSteps + 1; ++i) {
        const double root = static_cast<double>(i) / dimSteps;
        const double scene = masterPeak * root * root * root * root;
        // HLG's system gamma turns light of the scene into light of the display.
        const double shown = isHlg_ ? masterPeak * std::pow(scene / masterPeak, hlgGamma) : scene;
        dimmed_[static_cast<std::size_t>(i)] = static_cast<float>(toneMapped(shown) / scene);
    }
    dimmed_[0] = isHlg_ ? 0 : 1;
}

float ScreenColour::dimming(const Rgb& light) const {
    const float y = light[0] * luminance_[0] + light[1] * luminance_[1] + light[2] * luminance_[2];
    constexpr auto peak = static_cast<float>(masterPeak / screenWhite);
    if (y >= peak) return 1 / y; // all of it is the screen's white
    const float place = std::sqrt(std::sqrt(y / peak)) * dimSteps;
    const auto i = static_cast<std::size_t>(place);
    const float f = place - static_cast<float>(i);
    return (1 - f) * dimmed_[i] + f * dimmed_[i + 1];
}

void ScreenColour::convert(std::span<const std::uint16_t> rgba, std::span<std::uint8_t> bgra) const {
    for (std::size_t at = 0; at + 3 < rgba.size(); at += 4) {
        Rgb light{light_[rgba[at]], light_[rgba[at + 1]], light_[rgba[at + 2]]};
        if (toneMaps_) {
            const float factor = dimming(light);
            for (float& one : light)
                one *= factor;
        }
        for (std::size_t k = 0; k < 3; ++k) {
            const auto& row = matrix_.at(k);
            const float shown = screen_.encoded(row[0] * light[0] + row[1] * light[1] + row[2] * light[2]);
            bgra[at + 2 - k] = static_cast<std::uint8_t>(shown * 255 + 0.5F);
        }
        bgra[at + 3] = 255;
    }
}

} // namespace yarngap
