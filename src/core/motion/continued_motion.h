// Motion of what one frame of a gap shows and the other hides, told by the gap beside.
#pragma once

#include "core/image/image.h"
#include "core/motion/flow_estimator.h"
#include "core/motion/vectors.h"

#include <stop_token>
#include <string>

namespace yarngap {

/// A gap beside another.
struct GapBeside {
    std::string identity = {};    ///< of the frame at its far end; empty where there is no such gap
    ImagePtr frame = nullptr;     ///< the picture of that frame
    VectorsPtr vectors = nullptr; ///< of the gap, by pixels or cells of it
};

/// Those on both sides.
struct GapsBeside {
    GapBeside before = {};
    GapBeside after = {};
};

/// `vectors` from `a` to `b`, which are by pixels, with the motion of the gaps `beside`, going on as it was,
/// where it tells more.
///
/// What b hides of a has no place there, and no search finds one; but the frame before a mostly shows it. So
/// each pixel of a may also follow its motion in the gap before, turned round, and both motions are judged by
/// the better of two differences: to b, and 8 steps dearer, to the frame before, where the motion turned
/// round leads (see chooseMotion); the gap's own is taken up to 1 step above. Where trust in the gap's own is
/// lower than in the other by a half or more, over 5 x 5 pixels, the other is taken. The pixels of b
/// likewise, with the gap after. What is chosen goes on to regionMotion, which may take the motion of a
/// region around instead.
///
/// Things go on as they did apart from what most of the picture does otherwise than in the gap beside, as
/// where the camera shakes: that is added to the motion turned round, and taken out of the frame beyond (see
/// SharedChange).
///
/// Trust is left as it was: what is hidden on one side is not confirmed. A gap beside of another size is not
/// looked at.
///
/// The others it gives are four: what regionMotion gives besides, and `vectors` as they came, each in both
/// directions; where a direction has no gap beside, they are the same in it. Without any gap beside there are
/// none. Throws Cancelled.
Vectors continueMotion(const Vectors& vectors, const Image& a, const Image& b, const GapsBeside& beside,
                       AnalyseOn analyseOn, const std::stop_token& stop = {});

} // namespace yarngap
