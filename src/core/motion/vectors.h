// Motion between the two source frames of a gap.
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <vector>

namespace yarngap {

/// One displacement per pixel, or per cell of 2 x 2 pixels (see cell_vectors.h), in pixels of the full
/// picture, x right, y down; row by row, x y x y ….
struct VectorField {
    int width = 0;
    int height = 0;
    std::vector<float> xy;

    [[nodiscard]] const float* row(int y) const {
        return xy.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width) * 2;
    }
    [[nodiscard]] float* row(int y) {
        return xy.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width) * 2;
    }
};

/// Trust per pixel or cell: 255 is full trust, 0 none.
struct TrustField {
    int width = 0;
    int height = 0;
    std::vector<std::uint8_t> values;

    [[nodiscard]] const std::uint8_t* row(int y) const {
        return values.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
    }
    [[nodiscard]] std::uint8_t* row(int y) {
        return values.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
    }
};

/// Both directions by cells of 2 x 2 pixels, and in cells, not pixels; see inCells.
struct CellVectors {
    VectorField forward;
    VectorField backward;
};

/// Both directions over a gap with source frames a and b, all fields by pixels or all by cells.
struct Vectors {
    VectorField forward;  ///< on a: where each pixel or cell goes in b, minus where it is
    VectorField backward; ///< on b: where each was in a, minus where it is
    TrustField forwardTrust;
    TrustField backwardTrust;
    std::vector<CellVectors> others = {}; ///< how it may have moved as well; see continueMotion

    [[nodiscard]] std::size_t byteCount() const {
        std::size_t numbers = forward.xy.size() + backward.xy.size();
        for (const CellVectors& other : others)
            numbers += other.forward.xy.size() + other.backward.xy.size();
        return numbers * sizeof(float) + forwardTrust.values.size() + backwardTrust.values.size();
    }
    /// One minus the mean trust of both directions, 0 (sure) to 1.
    [[nodiscard]] double doubt() const;
};

using VectorsPtr = std::shared_ptr<const Vectors>;

} // namespace yarngap
