// Motion seen from a moment inside a gap.
#pragma once

#include "core/motion/vectors.h"
#include "core/settings/synthesis_options.h"
#include "core/synthesis/cell_picture.h"

#include <cstdint>
#include <stop_token>
#include <vector>

namespace yarngap {

/// What a cell of the in-between is made of.
struct MidCell {
    float vx = 0, vy = 0; ///< motion from a to b of what is here at the moment, in cells
    float shareB = 0;     ///< 0: taken from a only; 1: from b only
    float instead = 0;    ///< how much of it the stand-in shows
};

/// For each cell of 2 x 2 pixels of the in-between, the motion through it and how much of it is seen from
/// either side. Vectors hold no more than that: they are estimated at half the size, so nothing is lost (no
/// clip lost a tenth of a decibel), and a fourth of the work and memory is enough. Cells are those of
/// CellPicture.
struct MidMotion {
    int width = 0; ///< in cells, and so is the height
    int height = 0;
    std::vector<MidCell> cells; ///< row by row
    std::vector<float> trust;   ///< 0 to 1, of the motion through each cell; see projectMotion

    /// Of motions this far apart (x and y together), in cells, a mean would be neither.
    static constexpr float apart = 1;
    static constexpr std::uint8_t seamAfter = 1; ///< between a cell and the next
    static constexpr std::uint8_t seamBelow = 2; ///< between a cell and the one below
    std::vector<std::uint8_t> seams = {};        ///< of each cell; none at all where nothing moves apart

    [[nodiscard]] const MidCell* row(int y) const {
        return cells.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
    }
    [[nodiscard]] MidCell* row(int y) {
        return cells.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
    }
};

/// Projects both fields of a gap to `phase`, 0 < phase < 1.
///
/// Each cell of a is carried phase × its forward vector, each cell of b (1 − phase) × its backward
/// vector, spread over the four cells it lands between (forward warping), where trusted vectors outweigh
/// doubtful ones; one whose vector is not a number is carried nowhere. Where only one side lands, the other
/// is hidden, and only the one that sees the cell is used; where both land they mix in the ratio 1 − phase :
/// phase, each times how much of it landed and 0.4 + its trust. Where the two disagree, the motion whose two
/// pictures agree better, in luma and colour of `a` and `b`, wins. Cells nobody lands on take the motion
/// around them, and a lone one that of both beside it. Shares change softly from cell to cell, but not across
/// seams. A side whose place lies outside the picture does not count where the other's lies inside.
///
/// `options.inFront` slower or faster: of motions that land on one cell, or of which each side sees another,
/// the slower or faster wins instead, beyond a difference of two pixels. `options.evenTexture`: both sides
/// mix in equal parts whatever the phase, which may then be 0 or 1. `options.sides` other than both: that
/// side alone. Trust is given where `options.trustLimit` asks for it.
///
/// Trust of a cell both sides see = (0.4 + 0.6 m) exp(−(d/24)²), with m the mean trust of the vectors that
/// landed and d the mean difference of both pictures along the motion over 3 x 3 cells in 8-bit steps: what
/// the two pictures agree on is rarely wrong, even where the vectors of both directions do not meet. 0.6 +
/// 0.4 m where one side sees it; 0 where nobody does.
///
/// Throws Cancelled.
MidMotion projectMotion(const Vectors& vectors, const CellPicture& a, const CellPicture& b, double phase,
                        const SynthesisOptions& options = {}, const std::stop_token& stop = {});

/// The same, followed by what each of `vectors.others` gives, in which no trust is given.
std::vector<MidMotion> projectMotions(const Vectors& vectors, const CellPicture& a, const CellPicture& b,
                                      double phase, const SynthesisOptions& options = {},
                                      const std::stop_token& stop = {});

} // namespace yarngap
