#include "core/synthesis/cell_picture.h"

#include "core/image/sample_types.h"
#include "core/image/scene_light.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstddef>
#include <type_traits>

namespace yarngap {

namespace {

/// Means of plane `p` over cells, as `read` makes them of a mean of samples; the nearest sample of a plane
/// with fewer than cells.
template <typename Sample, typename Value, typename Read>
std::vector<Value> meansOf(const Image& image, int p, Read read) {
    const Image::Plane& plane = image.plane(p);
    const auto columns = static_cast<std::size_t>(cellsOf(image.width()));
    const int height = cellsOf(image.height());
    std::vector<Value> out(columns * static_cast<std::size_t>(height));
    const bool isChroma = image.layout().isChroma(p);
    const int shiftX = isChroma ? image.layout().chromaShiftX : 0;
    const int shiftY = isChroma ? image.layout().chromaShiftY : 0;
    tbb::parallel_for(0, height, [&](int y) {
        const auto rowOf = [&](int pixel) {
            return image.row<Sample>(p, std::min(pixel >> shiftY, plane.height - 1));
        };
        const auto upper = rowOf(2 * y);
        const auto lower = rowOf(std::min(2 * y + 1, image.height() - 1));
        Value* to = out.data() + columns * static_cast<std::size_t>(y);
        const auto two = [&](std::size_t x) { return static_cast<float>(upper[x] + lower[x]); };
        if (shiftX == 0) {
            const std::size_t pairs = upper.size() / 2;
            for (std::size_t x = 0; x < pairs; ++x)
                to[x] = read(0.25F * (two(2 * x) + two(2 * x + 1)));
            if (pairs < columns) to[pairs] = read(0.5F * two(upper.size() - 1));
            return;
        }
        // A sample a cell, the commonest, and steps are what it holds: twice as quick without floats.
        if constexpr (std::is_same_v<Sample, Value>)
            if (shiftX == 1 && upper.size() == columns) {
                for (std::size_t x = 0; x < columns; ++x)
                    to[x] = static_cast<Value>((upper[x] + lower[x] + 1) / 2);
                return;
            }
        for (std::size_t x = 0; x < columns; ++x)
            to[x] = read(0.5F * two(std::min(x >> (shiftX - 1), upper.size() - 1)));
    });
    return out;
}

constexpr float colourless = 128;

std::uint8_t toSteps(float value) {
    return static_cast<std::uint8_t>(std::clamp(value, 0.0F, 255.0F) + 0.5F);
}

/// Half of what plane `p` of RGB is above `green`.
template <typename Sample>
std::vector<std::uint8_t> aboveGreen(const Image& image, int p, const std::vector<float>& green) {
    const float scale = 1.0F / static_cast<float>(image.layout().maxValue());
    const auto values = meansOf<Sample, float>(image, p, [scale](float mean) { return scale * mean; });
    std::vector<std::uint8_t> out(values.size());
    std::transform(values.begin(), values.end(), green.begin(), out.begin(),
                   [](float c, float g) { return toSteps(colourless + 127.5F * (c - g)); });
    return out;
}

} // namespace

CellPicture cellPicture(const Image& image) {
    if (image.layout().isFloat()) return cellPicture(encodeLight(image, LightCurve::analysis));
    CellPicture out{cellsOf(image.width()), cellsOf(image.height()), {}, {}};
    const float scale = 1.0F / static_cast<float>(image.layout().maxValue());
    withSampleType(image.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        out.luma = meansOf<Sample, float>(image, 0, [scale](float mean) { return scale * mean; });
        for (int p = 1; p <= 2 && image.layout().model != ColourModel::grey; ++p)
            out.colour[static_cast<std::size_t>(p - 1)] =
                image.layout().model == ColourModel::rgb
                    ? aboveGreen<Sample>(image, p, out.luma)
                    : meansOf<Sample, std::uint8_t>(
                          image, p, [scale](float mean) { return toSteps(255 * scale * mean); });
    });
    return out;
}

} // namespace yarngap
