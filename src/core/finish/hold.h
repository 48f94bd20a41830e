// A thing in the picture held still.
#pragma once

#include "core/finish/path_place.h"
#include "core/image/picture_point.h"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

namespace yarngap {

/// Where what is followed lies in a source frame.
struct FollowedPoint {
    std::int64_t frame = 0;
    PicturePoint at;    ///< pixels of the source picture
    double quality = 1; ///< how alike it looks to where it was put, 0 to 1
    bool isPut = false; ///< by the editor, not found

    friend bool operator==(const FollowedPoint&, const FollowedPoint&) = default;
};

/// Of rising frames. Frames that are missing in between are bridged; before the first and after the last it
/// stays.
using FollowedPath = std::vector<FollowedPoint>;

enum class HoldAt {
    own,    ///< where it lies in the frame in which it was chosen
    middle, ///< in the middle of the result
    chosen  ///< at a place of the result
};
[[nodiscard]] std::string_view name(HoldAt value);
/// Reads what name() gives; throws Error listing the values.
HoldAt parseHoldAt(std::string_view text);

/// A plain value.
struct Hold {
    bool isOn = true;
    FollowedPath path = {};   ///< empty: nothing is held
    FollowedPath second = {}; ///< a point that tells turn and size as well
    bool turns = true;        ///< turn and size are held where there is a second point
    std::int64_t frame = 0;   ///< source frame in which it was chosen
    double reach = 24;        ///< half the side of what was chosen, pixels of the source
    HoldAt at = HoldAt::own;
    PicturePoint chosen = {0.5, 0.5}; ///< for HoldAt::chosen: shares of the result's width and height
    int share = 100;                  ///< how much of its motion is taken away, percent

    static constexpr std::size_t mostPoints = 1'000'000;
    static constexpr double least = 4; ///< of `reach`
    static constexpr double most = 1000;

    [[nodiscard]] bool isHolding() const { return isOn && !path.empty(); }
    friend bool operator==(const Hold&, const Hold&) = default;
};

/// Half the side of the square around a click: enough to be told, and little of what is beside it.
[[nodiscard]] double usualReach(int pictureWidth);

/// Where a path lies. The path is not empty.
PicturePoint pointAt(const FollowedPath& path, const PathPlace& place);
/// The point of a frame, or null.
const FollowedPoint* pointOf(const FollowedPath& path, std::int64_t frame);
/// The path with a point put, or moved, by hand.
FollowedPath withPoint(FollowedPath path, std::int64_t frame, const PicturePoint& at);
/// The path without points of a quality below `least` that were not put by hand, so that those frames are
/// bridged; never without the first and the last.
FollowedPath bridged(const FollowedPath& path, double least);

} // namespace yarngap
