#include "core/motion/cell_vectors.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstddef>

namespace yarngap {

VectorField inCells(const VectorField& field) {
    VectorField out{cellsOf(field.width), cellsOf(field.height), {}};
    out.xy.resize(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height) * 2);
    tbb::parallel_for(0, out.height, [&](int y) {
        const float* upper = field.row(2 * y);
        const float* lower = field.row(std::min(2 * y + 1, field.height - 1));
        float* to = out.row(y);
        for (int x = 0; x < field.width / 2; ++x)
            for (int c = 0; c < 2; ++c)
                to[2 * x + c] =
                    0.25F * 0.5F *
                    (upper[4 * x + c] + upper[4 * x + 2 + c] + lower[4 * x + c] + lower[4 * x + 2 + c]);
        if (field.width % 2 == 1)
            for (int c = 0; c < 2; ++c) {
                const int last = 2 * (field.width - 1) + c;
                to[2 * (out.width - 1) + c] = 0.5F * 0.5F * (upper[last] + lower[last]);
            }
    });
    return out;
}

TrustField inCells(const TrustField& field) {
    TrustField out{cellsOf(field.width), cellsOf(field.height), {}};
    out.values.resize(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height));
    tbb::parallel_for(0, out.height, [&](int y) {
        const std::uint8_t* upper = field.row(2 * y);
        const std::uint8_t* lower = field.row(std::min(2 * y + 1, field.height - 1));
        std::uint8_t* to = out.row(y);
        for (int x = 0; x < field.width / 2; ++x)
            to[x] = static_cast<std::uint8_t>(
                (upper[2 * x] + upper[2 * x + 1] + lower[2 * x] + lower[2 * x + 1] + 2) / 4);
        if (field.width % 2 == 1)
            to[out.width - 1] =
                static_cast<std::uint8_t>((upper[field.width - 1] + lower[field.width - 1] + 1) / 2);
    });
    return out;
}

bool areByCells(const Vectors& vectors, int width, int height) {
    return width > 1 && vectors.forward.width == cellsOf(width) && vectors.forward.height == cellsOf(height);
}

Vectors byPixels(const Vectors& vectors, int width, int height) {
    if (!areByCells(vectors, width, height)) return vectors;
    const std::size_t pixels = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
    const auto field = [&](const VectorField& cells) {
        VectorField out{width, height, std::vector<float>(pixels * 2)};
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                std::copy_n(cells.row(y / 2) + std::ptrdiff_t{2} * (x / 2), 2,
                            out.row(y) + std::ptrdiff_t{2} * x);
        return out;
    };
    const auto trust = [&](const TrustField& cells) {
        TrustField out{width, height, std::vector<std::uint8_t>(pixels)};
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                out.row(y)[x] = cells.row(y / 2)[x / 2];
        return out;
    };
    return {field(vectors.forward), field(vectors.backward), trust(vectors.forwardTrust),
            trust(vectors.backwardTrust), vectors.others};
}

} // namespace yarngap
