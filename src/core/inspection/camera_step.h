// How the whole picture moves from a frame to the next, and how its motion blur changes.
#pragma once

#include "core/image/image.h"
#include "core/inspection/held_frames.h"

#include <array>
#include <memory>

namespace yarngap {

/// From one frame to the next.
struct CameraStep {
    /// False where the pictures do not lie on each other: a cut, noise, an empty picture.
    bool known = false;
    double x = 0, y = 0; ///< where the contents of the middle of the picture go, in pixels
    /// How that differs across the picture: d x over dx and dy, d y over dx and dy, from the middle on. So
    /// far as two frames show it, a camera that turns and comes nearer moves its picture so.
    std::array<double, 4> across{};
    /// By how much the second frame is more blurred: second moments xx, xy, yy of its blur less those of the
    /// first frame's, in square pixels.
    std::array<double, 3> blur{};
    bool blurKnown = false;

    /// The same in a picture `scale` times as wide.
    [[nodiscard]] CameraStep scaled(double scale) const;
};

/// A frame at several sizes, to be measured against others.
struct CameraPicture;
using CameraPicturePtr = std::shared_ptr<const CameraPicture>;

/// Of a frame in grey, at 8 or 16 bit (see smallLuma).
CameraPicturePtr cameraPicture(const Image& grey);

/// Measures the motion of two frames of the same size; the blur is left unknown. Found from coarse to fine by
/// least squares over all pixels, those far from the rest left out (Lucas and Kanade 1981, affine, both
/// pictures moved by half of it); of large pictures at half their size.
CameraStep cameraStep(const CameraPicture& a, const CameraPicture& b);

/// What changes between two frames beside the camera's motion: for each cell the largest mean difference of
/// a block of 8 x 8 pixels of the small picture, with one frame laid on the other by `step`, or as they are
/// where that differs less, as titles do.
CellChanges changesBesideCamera(const CameraStep& step, const CameraPicture& a, const CameraPicture& b);

/// Adds the change of blur to a known step of the same frames. A blur of second moments C adds ½ C : ∇∇I to a
/// picture, so of pictures laid on each other the difference is ½ ΔC : ∇∇I, beside what is left of the motion
/// and a change of light; one regression finds them all.
void measureBlur(CameraStep& step, const CameraPicture& a, const CameraPicture& b);

} // namespace yarngap
