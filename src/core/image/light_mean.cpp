#include "core/image/light_mean.h"

#include "core/image/light_curve.h"
#include "core/image/sample_types.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>

namespace yarngap {

namespace {

using Rgb = std::array<float, 3>;

/// Encoded R G B of a picture's samples and back, as ITU-T H.273 has it.
struct ColourMatrix {
    float kr = 0.2126F;
    float kb = 0.0722F;
    float black = 0, lumaSpan = 1, middle = 0, chromaSpan = 1; // in steps of the samples

    ColourMatrix(const PixelLayout& layout, const ColourTags& tags, int height) {
        enum Matrix { bt709 = 1, unspecified = 2, fcc = 4, bt470 = 5, bt601 = 6, smpte240 = 7, bt2020 = 9 };
        const int matrix = tags.matrix == unspecified ? (height >= 720 ? bt709 : bt601) : tags.matrix;
        if (matrix == bt601 || matrix == bt470) {
            kr = 0.299F;
            kb = 0.114F;
        } else if (matrix == fcc) {
            kr = 0.30F;
            kb = 0.11F;
        } else if (matrix == smpte240) {
            kr = 0.212F;
            kb = 0.087F;
        } else if (matrix == bt2020) {
            kr = 0.2627F;
            kb = 0.0593F;
        }
        const auto most = static_cast<float>(layout.maxValue());
        const auto unit = static_cast<float>(1 << (layout.depth - 8));
        const bool limited = layout.model == ColourModel::yuv && !tags.fullRange;
        black = limited ? 16 * unit : 0;
        lumaSpan = limited ? 219 * unit : most;
        middle = 128 * unit;
        chromaSpan = limited ? 224 * unit : most;
    }
    [[nodiscard]] Rgb rgb(float y, float u, float v) const {
        const float l = (y - black) / lumaSpan;
        const float b = l + 2 * (1 - kb) * (u - middle) / chromaSpan;
        const float r = l + 2 * (1 - kr) * (v - middle) / chromaSpan;
        return {r, (l - kr * r - kb * b) / (1 - kr - kb), b};
    }
    /// Steps of Y U V that belong to a difference in R G B.
    [[nodiscard]] Rgb yuvSteps(const Rgb& d) const {
        const float l = kr * d[0] + (1 - kr - kb) * d[1] + kb * d[2];
        return {l * lumaSpan, (d[2] - l) / (2 * (1 - kb)) * chromaSpan,
                (d[0] - l) / (2 * (1 - kr)) * chromaSpan};
    }
};

/// Encoded R G B of pixel x of a row; planes are Y U V, G B R or grey.
template <typename Sample>
struct RowReader {
    const ColourMatrix& matrix;
    const PixelLayout& layout;
    std::array<const Sample*, 3> rows{};

    RowReader(const ColourMatrix& m, const Image& image, int y)
        : matrix(m)
        , layout(image.layout()) {
        const int colours = layout.model == ColourModel::grey ? 1 : 3;
        for (int p = 0; p < colours; ++p)
            rows[static_cast<std::size_t>(p)] =
                image.row<Sample>(p, layout.isChroma(p) ? y >> layout.chromaShiftY : y).data();
    }
    [[nodiscard]] Rgb at(int x) const {
        const auto value = [](const Sample* row, int i) { return static_cast<float>(row[i]); };
        const float first = value(rows[0], x);
        if (layout.model == ColourModel::grey) {
            const float l = (first - matrix.black) / matrix.lumaSpan;
            return {l, l, l};
        }
        if (layout.model == ColourModel::yuv) {
            const int c = x >> layout.chromaShiftX;
            return matrix.rgb(first, value(rows[1], c), value(rows[2], c));
        }
        return {value(rows[2], x) / matrix.lumaSpan, first / matrix.lumaSpan,
                value(rows[1], x) / matrix.lumaSpan};
    }
};

} // namespace

LightMean::LightMean(const Image& like, const ColourTags& tags)
    : width_(like.width())
    , height_(like.height())
    , layout_(like.layout())
    , tags_(tags)
    , sums_(like.layout().isFloat()
                ? 0
                : 3 * static_cast<std::size_t>(like.width()) * static_cast<std::size_t>(like.height())) {}

void LightMean::add(const Image& picture, std::span<const float> shares) {
    if (layout_.isFloat()) return;
    const ColourMatrix matrix(layout_, tags_, height_);
    const LightTable table(tags_.transfer);
    withSampleType(layout_, [&](auto sample) {
        tbb::parallel_for(0, height_, [&](int y) {
            const RowReader<decltype(sample)> row(matrix, picture, y);
            const std::size_t line = static_cast<std::size_t>(y) * static_cast<std::size_t>(width_);
            for (int x = 0; x < width_; ++x) {
                const std::size_t i = line + static_cast<std::size_t>(x);
                const float share = shares.size() == 1 ? shares[0] : shares[i];
                if (share == 0) continue;
                const Rgb encoded = row.at(x);
                for (std::size_t c = 0; c < 3; ++c)
                    sums_[3 * i + c] += share * table.light(encoded[c]);
            }
        });
    });
}

Image LightMean::addedTo(Image picture, const Image& mixed) const {
    if (layout_.isFloat()) return picture;
    const ColourMatrix matrix(layout_, tags_, height_);
    const LightTable table(tags_.transfer);
    const auto limit = static_cast<float>(layout_.maxValue());
    const int rowsPerChroma = 1 << layout_.chromaShiftY;
    const int columnsPerChroma = 1 << layout_.chromaShiftX;
    withSampleType(layout_, [&](auto sample) {
        using Sample = decltype(sample);
        // Rows that share a row of chroma together, since that takes the mean of what each of them asks.
        tbb::parallel_for(0, (height_ + rowsPerChroma - 1) / rowsPerChroma, [&](int block) {
            const int columns = (width_ + columnsPerChroma - 1) / columnsPerChroma;
            std::vector<std::array<float, 3>> chroma(static_cast<std::size_t>(columns)); // sums and count
            std::vector<Rgb> before(static_cast<std::size_t>(width_));
            const int last = std::min(height_, (block + 1) * rowsPerChroma);
            for (int y = block * rowsPerChroma; y < last; ++y) {
                const RowReader<Sample> row(matrix, mixed, y);
                for (int x = 0; x < width_; ++x)
                    before[static_cast<std::size_t>(x)] = row.at(x);
                const float* light =
                    sums_.data() + 3 * static_cast<std::size_t>(y) * static_cast<std::size_t>(width_);
                const auto shift = [&](Sample& value, float by) {
                    value = sampleOf<Sample>(static_cast<float>(value) + by, limit);
                };
                for (int x = 0; x < width_; ++x) {
                    const auto at = static_cast<std::size_t>(x);
                    Rgb d{};
                    for (std::size_t c = 0; c < 3; ++c)
                        d[c] = table.encoded(light[3 * at + c]) - std::clamp(before[at][c], 0.0F, 1.0F);
                    if (layout_.model == ColourModel::grey) {
                        shift(picture.row<Sample>(0, y)[at], d[0] * matrix.lumaSpan);
                    } else if (layout_.model == ColourModel::rgb) {
                        shift(picture.row<Sample>(0, y)[at], d[1] * matrix.lumaSpan);
                        shift(picture.row<Sample>(1, y)[at], d[2] * matrix.lumaSpan);
                        shift(picture.row<Sample>(2, y)[at], d[0] * matrix.lumaSpan);
                    } else {
                        const Rgb steps = matrix.yuvSteps(d);
                        shift(picture.row<Sample>(0, y)[at], steps[0]);
                        auto& sum = chroma[at >> static_cast<unsigned>(layout_.chromaShiftX)];
                        sum[0] += steps[1];
                        sum[1] += steps[2];
                        sum[2] += 1;
                    }
                }
            }
            if (layout_.model != ColourModel::yuv) return;
            for (std::size_t c = 0; c < chroma.size(); ++c)
                for (int p = 1; p <= 2; ++p) {
                    Sample& value = picture.row<Sample>(p, block)[c];
                    value = sampleOf<Sample>(static_cast<float>(value) +
                                                 chroma[c][static_cast<std::size_t>(p - 1)] / chroma[c][2],
                                             limit);
                }
        });
    });
    return picture;
}

} // namespace yarngap
