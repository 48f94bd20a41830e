// What an output frame is made of.
#pragma once

#include "core/image/image.h"
#include "core/synthesis/cell_picture.h"
#include "core/synthesis/mid_motion.h"

#include <optional>

namespace yarngap {

/// An output frame with the motion it was made by. `motion` is empty for a frame that nothing was moved for:
/// an original, a repeat, a blend, one with a blurring shutter. With a matte it is that of the layer that
/// shows.
struct FrameInsight {
    ImagePtr image;
    MidMotion motion; ///< with trust, and with what the stand-in shows

    /// The cell of pixel (x, y); null where there is none.
    [[nodiscard]] const MidCell* cellAt(int x, int y) const {
        const int cx = x / 2;
        const int cy = y / 2;
        if (x < 0 || y < 0 || cx >= motion.width || cy >= motion.height) return nullptr;
        return motion.row(cy) + cx;
    }
    /// Trust of the motion through it, 0 to 1.
    [[nodiscard]] float trustOf(const MidCell& cell) const {
        return motion.trust[static_cast<std::size_t>(&cell - motion.cells.data())];
    }
};

/// The motion of a flow frame, with what it is judged by.
struct MotionLook {
    MidMotion motion;
    CellPicture a, b; ///< the source frames at both ends of its gap
    double phase = 0; ///< where the frame lies between them, 0 to 1
    double doubt = 0; ///< 0 to 1; see doubtOf
    /// Mean square, in 8-bit steps, by which both source frames differ from what is made of those beside;
    /// absent where that is not known.
    std::optional<double> remakeError = {};
};

} // namespace yarngap
