#include "core/image/rgb_picture.h"

#include "core/error.h"
#include "core/image/ffmpeg_image.h"
#include "core/image/scene_light.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap {

RgbPicture toScreenRgb(const Image& image, const ColourTags& tags, int width, int height) {
    if (image.layout().isFloat())
        return toScreenRgb(encodeLight(image, LightCurve::screen), tags, width, height);
    RgbPicture out{width, height, (static_cast<std::size_t>(width) * 4 + 63) / 64 * 64, {}};
    out.bgra.resize(out.stride * static_cast<std::size_t>(height) + 64); // spare bytes: see Image
    const bool smaller = width < image.width();
    PixelLayout opaque = image.layout();
    opaque.alpha = false; // the screen shows colour; alpha is carried, not shown
    const SwsPtr sws(sws_getContext(image.width(), image.height(), formatOf(opaque), width, height,
                                    AV_PIX_FMT_BGRA, (smaller ? SWS_AREA : SWS_BICUBIC) | SWS_ACCURATE_RND,
                                    nullptr, nullptr, nullptr));
    if (!sws) throw Error("A frame cannot be converted for the screen: " + image.layout().describe() + ".");
    const int* matrix = sws_getCoefficients(swsMatrix(tags.matrix, image.height()));
    const bool full = tags.fullRange || image.layout().model != ColourModel::yuv;
    sws_setColorspaceDetails(sws.get(), matrix, full ? 1 : 0, sws_getCoefficients(SWS_CS_DEFAULT), 1, 0,
                             1 << 16, 1 << 16);
    std::array<const std::uint8_t*, 4> data{};
    std::array<int, 4> strides{};
    for (int p = 0; p < opaque.planeCount(); ++p) {
        data.at(static_cast<std::size_t>(p)) =
            reinterpret_cast<const std::uint8_t*>(image.plane(p).bytes.data());
        strides.at(static_cast<std::size_t>(p)) = static_cast<int>(image.plane(p).stride);
    }
    const std::array<std::uint8_t*, 4> dst{out.bgra.data(), nullptr, nullptr, nullptr};
    const std::array<int, 4> dstStride{static_cast<int>(out.stride), 0, 0, 0};
    sws_scale(sws.get(), data.data(), strides.data(), 0, image.height(), dst.data(), dstStride.data());
    return out;
}

Size fitted(int width, int height, double sar, Size box) {
    const double w = width * (sar > 0 ? sar : 1.0);
    const double h = height;
    const double scale = std::min(box.width / w, box.height / h);
    return {std::max(1, static_cast<int>(std::lround(w * scale))),
            std::max(1, static_cast<int>(std::lround(h * scale)))};
}

} // namespace yarngap
