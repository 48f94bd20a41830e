// A matte: where in the picture a subject is, so that it and what is behind it move apart.
#pragma once

#include "core/image/picture_point.h"

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

namespace yarngap {

using MattePoint = PicturePoint;

/// The outline drawn at a source frame.
struct MatteKey {
    std::int64_t frame = 0;
    std::vector<MattePoint> points; ///< three or more; as many in every key of a matte
    friend bool operator==(const MatteKey&, const MatteKey&) = default;
};

/// Either drawn outlines or pictures that are white where the subject is. A plain value.
struct Matte {
    std::vector<MatteKey> keys = {}; ///< in order of frame
    /// A file of a picture sequence, or a video, whose frame n goes with source frame n; used instead of
    /// keys.
    std::filesystem::path pictures = {};
    /// Pixels over which a drawn outline goes from subject to background, 0 to `softest`.
    int feather = 4;
    /// The subject covers what it passes; off: it is covered, as behind reeds that the matte leaves out.
    bool onTop = true;

    static constexpr int softest = 200;
    static constexpr std::size_t mostPoints = 2000;
    static constexpr std::size_t mostKeys = 100'000;

    [[nodiscard]] bool empty() const { return keys.empty() && pictures.empty(); }
    friend bool operator==(const Matte&, const Matte&) = default;
};

/// Throws Error, with what is wrong, unless keys are in order, have as many points as each other, and all is
/// in range.
void validate(const Matte& matte);

/// The outline at a source frame: each point on the line between its places in the keys before and after;
/// before the first key and after the last it stays. Empty when nothing is drawn.
std::vector<MattePoint> outlineAt(const Matte& matte, std::int64_t frame);

/// The matte with this outline as its key at `frame`.
Matte withKey(Matte matte, std::int64_t frame, std::vector<MattePoint> points);
/// The matte without the key at `frame`, if there is one; of the last one all goes.
Matte withoutKey(Matte matte, std::int64_t frame);
/// A point more on the outline, in all keys: half way between points `after` and the next.
Matte withPoint(Matte matte, std::size_t after);
/// A point less in all keys; of a triangle none can go.
Matte withoutPoint(Matte matte, std::size_t point);

} // namespace yarngap
