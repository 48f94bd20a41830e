// Following a point through the source.
#pragma once

#include "core/finish/hold.h"
#include "core/media/shot_frames.h"
#include "core/motion/vector_store.h"
#include "core/progress.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// What points are followed with.
struct FollowMeans {
    std::shared_ptr<ShotFrames> source;
    std::shared_ptr<VectorStore> vectors; ///< for the first guess of each step
    std::vector<std::int64_t> cuts;       ///< gaps, in order
};

struct FollowOptions {
    std::int64_t frame = 0;           ///< in which it is chosen
    PicturePoint at;                  ///< pixels of the source
    double reach = 24;                ///< half the side of the square that is looked for, pixels
    std::int64_t first = 0, last = 0; ///< source frames to follow it through, both included
};

struct FollowReport {
    FollowedPath path; ///< of the frames in which it was found; that of `frame` is put
    /// The frame before and the frame after, in which it was lost, and why, in a sentence.
    std::optional<std::int64_t> lostBefore, lostAfter;
    std::string whyBefore, whyAfter;
};

/// Follows the point from `options.frame` both ways until it is lost.
///
/// In each frame it begins where coarse vectors carry it, or where the square around it is found again, and
/// is then aligned with the square as it was in the frame in which it was chosen: shift, turn, size, light
/// and contrast by Gauss and Newton on the difference, on pictures softened by 4, 2 and 1 pixels, with both
/// pictures' slopes (Benhimane and Malis, Homography-based 2D visual tracking and servoing, 2007) and Tukey's
/// weights, so that what hides a part of it counts little. So errors do not add up. Where it no longer looks
/// as it did, it is aligned with how it looked last, there and back, and goes on from there.
///
/// Where it is lost it is looked for in the next few frames, and where one shows it beyond doubt it goes on
/// from there; the frames between are missing in the path. It is lost where both look less alike than
/// `leastAlike` (normalised correlation), where less than half of it is left in the picture, where nothing
/// holds it in one direction, and at cuts. Throws Error where there is nothing to follow at all, what reading
/// frames throws, and Cancelled.
FollowReport followPoint(const FollowMeans& means, const FollowOptions& options,
                         const Progress& progress = {}, const std::stop_token& stop = {});

inline constexpr double leastAlike = 0.75;

} // namespace yarngap
