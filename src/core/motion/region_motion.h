// Motion of regions: every pixel takes one of the motions around it.
#pragma once

#include "core/motion/analysis_picture.h"
#include "core/motion/vectors.h"

#include <stop_token>
#include <vector>

namespace yarngap {

/// The two pictures of a gap and the one beyond the first, as far away in time as the second.
struct ThreePictures {
    ColouredPicture from, to, beyond;
};

/// The motions of a pixel that are in question, both on the pixels of `from`.
struct MotionsInQuestion {
    const VectorField& own;    ///< estimated
    const TrustField& trust;   ///< in it
    const VectorField& goesOn; ///< that of the gap beside, turned round
};

struct RegionMotion {
    VectorField chosen;              ///< on the pixels of `from`
    std::vector<VectorField> others; ///< what three other ways of choosing give, by cells; see inCells
};

/// `motions.own`, with another motion where that tells more.
///
/// Between two motions an estimate changes slowly from one to the other, and what the next frame hides has
/// no place there at all; yet nearly all that is seen moves as something around it does. So cells of 2 x 2
/// pixels choose among their own motion, the one that goes on, and those that the pixels around them share
/// (see LocalMotions), by the difference of the pictures along each (see differenceAlong; mean of 3 x 3
/// cells, colour counting half): to `to`, or 4 steps dearer to `beyond`, where the motion turned round leads.
/// Their own is taken up to 3 steps above. Neighbours choose together (see chooseSemiGlobally).
///
/// The others are what comes out where their own is not favoured; where it is taken up to 11 steps above; and
/// where each cell is compared by itself and its own has to be 3 steps better. Where all agree, the choice is
/// sure; where it is a close one, they differ. Throws Cancelled.
RegionMotion regionMotion(const MotionsInQuestion& motions, const ThreePictures& pictures,
                          const std::stop_token& stop = {});

} // namespace yarngap
