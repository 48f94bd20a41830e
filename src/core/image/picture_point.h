// A place in a picture.
#pragma once

namespace yarngap {

/// In pixels of the full picture, x right, y down, from the outer corner of the top left pixel.
struct PicturePoint {
    double x = 0, y = 0;
    friend bool operator==(const PicturePoint&, const PicturePoint&) = default;
};

} // namespace yarngap
