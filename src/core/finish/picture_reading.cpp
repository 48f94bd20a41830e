#include "core/finish/picture_reading.h"

#include "core/image/light_curve.h"
#include "core/image/sample_types.h"
#include "core/synthesis/spline_plane.h"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <vector>

namespace yarngap {

namespace {

/// How the samples of a plane lie on the pixels of the picture: sample i at scale × (i + offset).
struct Siting {
    double scaleX = 1, scaleY = 1;
    double offsetX = 0.5, offsetY = 0.5;
};

Siting sitingOf(const PixelLayout& layout, int plane, const ColourTags& colour) {
    Siting out;
    if (!layout.isChroma(plane)) return out;
    out.scaleX = 1 << layout.chromaShiftX;
    out.scaleY = 1 << layout.chromaShiftY;
    constexpr int centre = 2;
    constexpr int topLeft = 3;
    if (colour.chromaSite != centre) out.offsetX = 0.5 / out.scaleX;
    if (colour.chromaSite == topLeft) out.offsetY = 0.5 / out.scaleY;
    return out;
}

/// The mapping from samples of a plane to samples of the same plane of what is read.
class PlaneReading {
  public:
    PlaneReading(const Mapping& mapping, const Siting& siting)
        : mapping_(mapping)
        , siting_(siting) {
        const Plane& m = mapping.toSource;
        ax_ = m.a;
        bx_ = m.b * siting.scaleY / siting.scaleX;
        ay_ = m.d * siting.scaleX / siting.scaleY;
        by_ = m.e;
        const auto covered = [](double across, double down) {
            constexpr double nearly = 1.06; // what is lost to aliasing by so little is not seen
            constexpr int most = 16;
            const double samples = std::hypot(across, down);
            return samples > nearly ? std::clamp(static_cast<int>(std::ceil(samples)), 1, most) : 1;
        };
        across_ = covered(ax_, ay_);
        down_ = covered(bx_, by_);
    }

    /// Row `y` of a plane of `width` samples.
    void read(const SplinePlane& plane, int planeWidth, int planeHeight, int y, int width, float* out) const {
        const auto lastX = static_cast<double>(planeWidth - 1);
        const auto lastY = static_cast<double>(planeHeight - 1);
        constexpr auto fine = static_cast<double>(SplinePlane::fine);
        const auto place = [](double v, double last) {
            return static_cast<unsigned>(static_cast<int>(std::clamp(v, 0.0, last) * fine + 0.5));
        };
        const float share = 1.0F / static_cast<float>(across_ * down_);
        std::vector<PicturePoint> knots;
        for (int j = 0; j < down_; ++j)
            for (int i = 0; i < across_; ++i) {
                const double shiftX = (i + 0.5) / across_ - 0.5;
                const double shiftY = (j + 0.5) / down_ - 0.5;
                const bool isFirst = i == 0 && j == 0;
                const auto put = [&](int x, double sx, double sy) {
                    const float v = SplinePlane::sum(plane.parts(place(sx, lastX), place(sy, lastY)));
                    out[x] = share * v + (isFirst ? 0.0F : out[x]);
                };
                if (mapping_.lens.amount <= 0) {
                    const PicturePoint start = at(shiftX, y + shiftY);
                    for (int x = 0; x < width; ++x)
                        put(x, start.x + ax_ * x, start.y + ay_ * x);
                    continue;
                }
                // A lens bends slowly: between places so far apart a line is as good.
                constexpr int apart = 8;
                knots.clear();
                for (int x = 0; x < width + apart; x += apart)
                    knots.push_back(at(x + shiftX, y + shiftY));
                for (int from = 0; from < width; from += apart) {
                    const PicturePoint& a = knots[static_cast<std::size_t>(from / apart)];
                    const PicturePoint& b = knots[static_cast<std::size_t>(from / apart) + 1];
                    const double stepX = (b.x - a.x) / apart;
                    const double stepY = (b.y - a.y) / apart;
                    const int count = std::min(apart, width - from);
                    for (int k = 0; k < count; ++k)
                        put(from + k, a.x + stepX * k, a.y + stepY * k);
                }
            }
    }

  private:
    [[nodiscard]] PicturePoint at(double x, double y) const {
        const PicturePoint q =
            mapping_({siting_.scaleX * (x + siting_.offsetX), siting_.scaleY * (y + siting_.offsetY)});
        return {q.x / siting_.scaleX - siting_.offsetX, q.y / siting_.scaleY - siting_.offsetY};
    }

    const Mapping& mapping_;
    Siting siting_;
    double ax_, bx_, ay_, by_; ///< source samples per sample, along a row and down
    int across_, down_;        ///< places read for a sample
};

int planeSide(int side, int shift) {
    return (side + (1 << shift) - 1) >> shift;
}

/// Samples of a colour in each plane.
std::vector<float> samplesOf(const std::array<int, 3>& rgb, const PixelLayout& layout,
                             const ColourTags& colour) {
    std::array<double, 3> v{};
    std::transform(rgb.begin(), rgb.end(), v.begin(), [](int c) { return std::clamp(c, 0, 255) / 255.0; });
    constexpr int srgb = 13; // of H.273
    if (layout.isFloat())
        for (double& c : v)
            c = lightOf(srgb, c);
    // Luma by BT.601, BT.2020 or BT.709.
    double r = 0.2126;
    double b = 0.0722;
    if (colour.matrix == 5 || colour.matrix == 6) {
        r = 0.299;
        b = 0.114;
    } else if (colour.matrix == 9) {
        r = 0.2627;
        b = 0.0593;
    }
    const double y = r * v[0] + (1 - r - b) * v[1] + b * v[2];
    const NominalRange range = nominalRange(layout, colour);
    const auto scaled = [&](double share) { return range.black + range.width() * static_cast<float>(share); };
    std::vector<float> out;
    if (layout.model == ColourModel::rgb) {
        out = {scaled(v[1]), scaled(v[2]), scaled(v[0])};
    } else {
        out.push_back(scaled(y));
        if (layout.model == ColourModel::yuv) {
            const float most = static_cast<float>(layout.maxValue());
            const float width =
                colour.fullRange ? most : 224.0F * static_cast<float>(1 << (layout.depth - 8));
            out.push_back(chromaMiddle(layout) + width * static_cast<float>((v[2] - y) / (2 * (1 - b))));
            out.push_back(chromaMiddle(layout) + width * static_cast<float>((v[0] - y) / (2 * (1 - r))));
        }
    }
    if (layout.alpha) out.push_back(static_cast<float>(layout.maxValue()));
    return out;
}

} // namespace

FloatPicture readThrough(const FloatPicture& made, const Mapping& mapping, int width, int height,
                         const ColourTags& colour) {
    FloatPicture out{width, height, made.layout, {}};
    for (std::size_t p = 0; p < made.planes.size(); ++p) {
        const FloatPlane& in = made.planes[p];
        const bool isChroma = made.layout.isChroma(static_cast<int>(p));
        FloatPlane plane(planeSide(width, isChroma ? made.layout.chromaShiftX : 0),
                         planeSide(height, isChroma ? made.layout.chromaShiftY : 0));
        const SplinePlane spline(in.width, in.height,
                                 [&](int y, float* row) { std::copy_n(in.row(y), in.width, row); });
        const PlaneReading reading(mapping, sitingOf(made.layout, static_cast<int>(p), colour));
        tbb::parallel_for(0, plane.height, [&](int y) {
            reading.read(spline, in.width, in.height, y, plane.width, plane.row(y));
        });
        out.planes.push_back(std::move(plane));
    }
    return out;
}

Image readThrough(const Image& made, const Mapping& mapping, int width, int height,
                  const ColourTags& colour) {
    Image out(width, height, made.layout());
    const auto limit = static_cast<float>(made.layout().maxValue());
    for (int p = 0; p < made.planeCount(); ++p) {
        const SplinePlane spline(made, p);
        const PlaneReading reading(mapping, sitingOf(made.layout(), p, colour));
        const int planeWidth = out.plane(p).width;
        withSampleType(made.layout(), [&](auto sample) {
            using Sample = decltype(sample);
            tbb::parallel_for(tbb::blocked_range<int>(0, out.plane(p).height, 8), [&](const auto& rows) {
                std::vector<float> line(static_cast<std::size_t>(planeWidth));
                for (int y = rows.begin(); y < rows.end(); ++y) {
                    reading.read(spline, made.plane(p).width, made.plane(p).height, y, planeWidth,
                                 line.data());
                    std::transform(line.begin(), line.end(), out.row<Sample>(p, y).begin(),
                                   [limit](float v) { return sampleOf<Sample>(v, limit); });
                }
            });
        });
    }
    return out;
}

bool showsAround(const Mapping& mapping, int width, int height, int madeWidth, int madeHeight) {
    constexpr double nothing = 1e-6; // of a pixel
    for (const double x : {0.0, static_cast<double>(width)})
        for (const double y : {0.0, static_cast<double>(height)}) {
            const PicturePoint q = mapping.toSource({x, y}); // a lens shows less
            if (q.x < -nothing || q.y < -nothing || q.x > madeWidth + nothing || q.y > madeHeight + nothing)
                return true;
        }
    return false;
}

void coverAround(Image& picture, const Mapping& mapping, int madeWidth, int madeHeight,
                 const std::array<int, 3>& around, const ColourTags& colour) {
    if (!showsAround(mapping, picture.width(), picture.height(), madeWidth, madeHeight)) return;
    const std::vector<float> cover = samplesOf(around, picture.layout(), colour);
    const Plane& m = mapping.toSource;
    const double perX = std::max(1e-9, std::abs(m.a) + std::abs(m.b)); // source pixels that a pixel covers
    const double perY = std::max(1e-9, std::abs(m.d) + std::abs(m.e));
    const auto limit = static_cast<float>(picture.layout().maxValue());
    for (int p = 0; p < picture.planeCount(); ++p) {
        const Siting siting = sitingOf(picture.layout(), p, colour);
        const double scaleX = picture.layout().isChroma(p) ? siting.scaleX : 1;
        const double scaleY = picture.layout().isChroma(p) ? siting.scaleY : 1;
        const float value = cover[static_cast<std::size_t>(p)];
        withSampleType(picture.layout(), [&](auto sample) {
            using Sample = decltype(sample);
            tbb::parallel_for(0, picture.plane(p).height, [&](int y) {
                const auto row = picture.row<Sample>(p, y);
                for (std::size_t x = 0; x < row.size(); ++x) {
                    // A sample of chroma stands for the middle of its pixels here.
                    const PicturePoint q =
                        mapping({scaleX * (static_cast<double>(x) + 0.5), scaleY * (y + 0.5)});
                    const auto inside = [](double v, double size, double per) {
                        return std::clamp(std::min(v, size - v) / per + 0.5, 0.0, 1.0);
                    };
                    const auto share = static_cast<float>(inside(q.x, madeWidth, perX * scaleX) *
                                                          inside(q.y, madeHeight, perY * scaleY));
                    if (share >= 1) continue;
                    row[x] = sampleOf<Sample>(value + share * (static_cast<float>(row[x]) - value), limit);
                }
            });
        });
    }
}

} // namespace yarngap
