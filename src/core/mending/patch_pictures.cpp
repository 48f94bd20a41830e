#include "core/mending/patch_pictures.h"

#include "core/image/sample_types.h"
#include "core/synthesis/matte_frames.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <type_traits>

namespace yarngap {

namespace {

constexpr float whole = 65535; // of coverage

/// Samples of a picture to a sample of one of its planes.
struct PerSample {
    int x, y;
};
PerSample perSample(const Image& image, int p) {
    return {(image.width() + image.plane(p).width - 1) / image.plane(p).width,
            (image.height() + image.plane(p).height - 1) / image.plane(p).height};
}

/// The part of a plane that an area lies on.
PictureArea onPlane(const Image& image, int p, const PictureArea& area) {
    const PerSample per = perSample(image, p);
    return {area.left / per.x, area.top / per.y,
            std::min(image.plane(p).width, (area.right + per.x - 1) / per.x),
            std::min(image.plane(p).height, (area.bottom + per.y - 1) / per.y)};
}

template <typename Sample>
cv::Mat viewOf(const Image& image, int p, const PictureArea& area) {
    constexpr int type = std::is_same_v<Sample, float>          ? CV_32F
                         : std::is_same_v<Sample, std::uint8_t> ? CV_8U
                                                                : CV_16U;
    const Image::Plane& plane = image.plane(p);
    // Read alone where the picture is not to be changed.
    const cv::Mat all(plane.height, plane.width, type, const_cast<std::byte*>(plane.bytes.data()),
                      plane.stride);
    return all(cv::Rect(area.left, area.top, area.width(), area.height()));
}

/// Coverage at the samples of a plane, 0 to 1.
cv::Mat shareOn(const Image& image, int p, const SoftArea& area) {
    const Image::Plane& own = area.coverage.plane(0);
    const cv::Mat view(own.height, own.width, CV_16U, const_cast<std::byte*>(own.bytes.data()), own.stride);
    cv::Mat share;
    view.convertTo(share, CV_32F, 1 / whole);
    const PictureArea place = onPlane(image, p, area.place);
    if (share.cols != place.width() || share.rows != place.height())
        cv::resize(share, share, {place.width(), place.height()}, 0, 0, cv::INTER_AREA);
    return share;
}

} // namespace

SoftArea softAreaOf(const std::vector<PicturePoint>& outline, int feather, int width, int height) {
    SoftArea out;
    if (outline.empty()) return out;
    const auto [left, right] = std::ranges::minmax(outline, {}, &PicturePoint::x);
    const auto [top, bottom] = std::ranges::minmax(outline, {}, &PicturePoint::y);
    const int around = feather + 2;
    const auto inside = [](double v, int most) {
        return static_cast<int>(std::clamp(v, 0.0, static_cast<double>(most)));
    };
    // Even sides: a sample of chroma belongs to the area as a whole or not at all.
    constexpr int even = 4; // also for 4:1:1
    PictureArea& place = out.place;
    place.left = inside(std::floor(left.x) - around, width) / even * even;
    place.top = inside(std::floor(top.y) - around, height) / even * even;
    place.right = std::min(width, (inside(std::ceil(right.x) + around, width) + even - 1) / even * even);
    place.bottom = std::min(height, (inside(std::ceil(bottom.y) + around, height) + even - 1) / even * even);
    if (place.empty()) return out;
    std::vector<MattePoint> shifted = outline;
    for (MattePoint& p : shifted)
        p = {p.x - place.left, p.y - place.top};
    out.coverage = coverageOf(shifted, feather, place.width(), place.height());
    return out;
}

void lay(Image& frame, const Image& version, const SoftArea& area, double share) {
    if (area.place.empty() || area.coverage.empty()) return;
    withSampleType(frame.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        const auto limit = static_cast<float>(frame.layout().maxValue());
        for (int p = 0; p < frame.planeCount(); ++p) {
            const PictureArea place = onPlane(frame, p, area.place);
            if (place.empty()) continue;
            const cv::Mat shares = shareOn(frame, p, area);
            for (int y = 0; y < place.height(); ++y) {
                const float* s = shares.ptr<float>(y);
                const auto to = frame.row<Sample>(p, place.top + y);
                const auto from = version.row<Sample>(p, place.top + y);
                for (int x = 0; x < place.width(); ++x) {
                    const float part = s[x] * static_cast<float>(share);
                    if (part <= 0) continue;
                    const auto i = static_cast<std::size_t>(place.left) + static_cast<std::size_t>(x);
                    const auto now = static_cast<float>(to[i]);
                    to[i] = sampleOf<Sample>(now + part * (static_cast<float>(from[i]) - now), limit);
                }
            }
        }
    });
}

Image softened(const Image& frame, const PictureArea& place, int radius) {
    Image out = frame;
    if (radius < 1 || place.empty()) return out;
    withSampleType(frame.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        for (int p = 0; p < frame.planeCount(); ++p) {
            const PictureArea own = onPlane(frame, p, place);
            if (own.empty()) continue;
            const double sigma = radius / 2.0 / perSample(frame, p).x;
            const cv::Mat from = viewOf<Sample>(frame, p, own);
            cv::Mat to = viewOf<Sample>(out, p, own);
            // OpenCV looks beyond the part that it is given, at what is there.
            cv::GaussianBlur(from, to, {}, sigma, 0, cv::BORDER_REPLICATE);
        }
    });
    return out;
}

GatheredPicture::GatheredPicture(const Image& like, const PictureArea& place)
    : place_(place) {
    for (int p = 0; p < like.planeCount(); ++p) {
        Plane plane{onPlane(like, p, place), {}, {}};
        const auto samples =
            static_cast<std::size_t>(plane.place.width()) * static_cast<std::size_t>(plane.place.height());
        plane.sum.assign(samples, 0);
        plane.weight.assign(samples, 0);
        planes_.push_back(std::move(plane));
    }
}

void GatheredPicture::add(const Image& picture, const PlacesIn& places) {
    const int w = place_.width();
    const int h = place_.height();
    withSampleType(picture.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        for (int p = 0; p < picture.planeCount(); ++p) {
            Plane& plane = planes_[static_cast<std::size_t>(p)];
            const PerSample per = perSample(picture, p);
            const int pw = plane.place.width();
            const int ph = plane.place.height();
            cv::Mat mapX(ph, pw, CV_32F);
            cv::Mat mapY(ph, pw, CV_32F);
            cv::Mat share(ph, pw, CV_32F);
            for (int y = 0; y < ph; ++y)
                for (int x = 0; x < pw; ++x) {
                    // The pixel in the middle of the sample.
                    const int px = std::min(w - 1, x * per.x + (per.x - 1) / 2);
                    const int py = std::min(h - 1, y * per.y + (per.y - 1) / 2);
                    const std::size_t i = static_cast<std::size_t>(py) * static_cast<std::size_t>(w) +
                                          static_cast<std::size_t>(px);
                    // Its own middle is as far from there as in the place itself.
                    const float dx = static_cast<float>(x * per.x + per.x / 2.0 - px - 0.5);
                    const float dy = static_cast<float>(y * per.y + per.y / 2.0 - py - 0.5);
                    mapX.at<float>(y, x) = (places.x[i] + dx) / static_cast<float>(per.x) - 0.5F;
                    mapY.at<float>(y, x) = (places.y[i] + dy) / static_cast<float>(per.y) - 0.5F;
                    share.at<float>(y, x) = places.share[i];
                }
            const cv::Mat from =
                viewOf<Sample>(picture, p, {0, 0, picture.plane(p).width, picture.plane(p).height});
            cv::Mat moved;
            cv::remap(from, moved, mapX, mapY, cv::INTER_CUBIC, cv::BORDER_REPLICATE);
            for (int y = 0; y < ph; ++y)
                for (int x = 0; x < pw; ++x) {
                    const std::size_t i = static_cast<std::size_t>(y) * static_cast<std::size_t>(pw) +
                                          static_cast<std::size_t>(x);
                    const float s = share.at<float>(y, x);
                    plane.sum[i] += s * static_cast<float>(moved.at<Sample>(y, x));
                    plane.weight[i] += s;
                }
        }
    });
}

Image GatheredPicture::over(const Image& frame) const {
    Image out = frame;
    withSampleType(frame.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        const auto limit = static_cast<float>(frame.layout().maxValue());
        for (int p = 0; p < frame.planeCount(); ++p) {
            const Plane& plane = planes_[static_cast<std::size_t>(p)];
            for (int y = 0; y < plane.place.height(); ++y) {
                const auto to = out.row<Sample>(p, plane.place.top + y);
                for (int x = 0; x < plane.place.width(); ++x) {
                    const std::size_t i =
                        static_cast<std::size_t>(y) * static_cast<std::size_t>(plane.place.width()) +
                        static_cast<std::size_t>(x);
                    auto& value =
                        to[static_cast<std::size_t>(plane.place.left) + static_cast<std::size_t>(x)];
                    const float left = std::max(0.0F, 1 - plane.weight[i]);
                    value = sampleOf<Sample>(
                        (plane.sum[i] + left * static_cast<float>(value)) / (plane.weight[i] + left), limit);
                }
            }
        }
    });
    return out;
}

Image withMoved(const Image& frame, const Image& picture, const PictureArea& place,
                const Similarity& motion) {
    PlacesIn places;
    for (int y = place.top; y < place.bottom; ++y)
        for (int x = place.left; x < place.right; ++x) {
            const PicturePoint p = motion({x + 0.5, y + 0.5});
            places.x.push_back(static_cast<float>(p.x));
            places.y.push_back(static_cast<float>(p.y));
            const bool isThere = p.x >= 0 && p.y >= 0 && p.x <= picture.width() && p.y <= picture.height();
            places.share.push_back(isThere ? 1.0F : 0.0F);
        }
    GatheredPicture gathered(frame, place);
    gathered.add(picture, places);
    return gathered.over(frame);
}

} // namespace yarngap
