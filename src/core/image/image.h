// A picture in its own planes.
#pragma once

#include "core/image/pixel_layout.h"

#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace yarngap {

/// Planar picture with value semantics. Samples are `std::uint8_t` at depth 8, native-endian
/// `std::uint16_t` above, `float` where the layout says so. Rows of a plane lie `stride` bytes apart, in one
/// allocation per plane; rows lie multiples of 64 bytes apart and 64 spare bytes follow, since vector code in
/// libraries reads past a row's end.
///
///     Image img(1920, 1080, {.depth = 10, .chromaShiftX = 1, .chromaShiftY = 1});
///     for (std::uint16_t& v : img.row<std::uint16_t>(0, y)) v = 64;
class Image {
  public:
    struct Plane {
        int width = 0;
        int height = 0;
        std::size_t stride = 0; ///< bytes
        std::vector<std::byte> bytes;

        friend bool operator==(const Plane&, const Plane&) = default;
    };

    Image() = default;
    /// Zero-filled. Throws Error unless 1 ≤ width, height ≤ longestSide and width × height ≤ maxPixels.
    Image(int width, int height, const PixelLayout& layout);

    static constexpr std::int64_t maxPixels = std::int64_t{16384} * 16384;
    static constexpr int longestSide = 1 << 20;

    [[nodiscard]] bool empty() const { return planes_.empty(); }
    [[nodiscard]] int width() const { return width_; }
    [[nodiscard]] int height() const { return height_; }
    [[nodiscard]] const PixelLayout& layout() const { return layout_; }
    [[nodiscard]] int planeCount() const { return static_cast<int>(planes_.size()); }
    [[nodiscard]] const Plane& plane(int p) const { return planes_[static_cast<std::size_t>(p)]; }
    [[nodiscard]] Plane& plane(int p) { return planes_[static_cast<std::size_t>(p)]; }
    /// Bytes held by all planes.
    [[nodiscard]] std::size_t byteCount() const;

    /// Samples of row `y` of plane `p`; `T` must fit layout().bytesPerSample().
    template <typename T>
    [[nodiscard]] std::span<T> row(int p, int y) {
        Plane& pl = plane(p);
        return {reinterpret_cast<T*>(pl.bytes.data() + pl.stride * static_cast<std::size_t>(y)),
                static_cast<std::size_t>(pl.width)};
    }
    template <typename T>
    [[nodiscard]] std::span<const T> row(int p, int y) const {
        const Plane& pl = plane(p);
        return {reinterpret_cast<const T*>(pl.bytes.data() + pl.stride * static_cast<std::size_t>(y)),
                static_cast<std::size_t>(pl.width)};
    }

    friend bool operator==(const Image&, const Image&) = default;

  private:
    int width_ = 0;
    int height_ = 0;
    PixelLayout layout_;
    std::vector<Plane> planes_;
};

/// Pictures are made once and then only read, from several threads.
using ImagePtr = std::shared_ptr<const Image>;

} // namespace yarngap
