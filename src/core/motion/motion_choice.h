// Which of several candidate motions each pixel follows.
#pragma once

#include "core/motion/analysis_picture.h"

#include <opencv2/core.hpp>

#include <stop_token>
#include <vector>

namespace yarngap {

/// A motion a pixel may follow, CV_32FC2, and how readily it is believed: steps of 8-bit picture difference
/// that it may be worse than another and still be taken.
struct Candidate {
    cv::Mat flow;
    float favour = 0;
    cv::Mat favourHere = {}; ///< the same pixel by pixel, CV_32F, added to it; or empty
};

/// Another picture to find a pixel in, on the other side in time and as far away: a motion that goes on as it
/// is leads there turned round. None where `picture` has no luma.
struct OtherSide {
    ColouredPicture picture = {}; ///< as large as `to`
    float dearer = 0;             ///< steps by which a difference there counts more
};

/// For each pixel of `from` the candidate that brings it to the place in `to` that looks most like it.
///
/// The difference of the pictures along each candidate (see differenceAlong) is averaged over the
/// neighbourhood by a guided filter (He, Sun, Tang: Guided image filtering, 2010) with the luma of `from` as
/// its guide, so that the choice follows outlines; then the smallest wins. `from` may be a part of its
/// picture, which begins at `origin`. Where there is an `other` side, the lesser of the two differences
/// counts, pixel by pixel. Throws Cancelled.
cv::Mat chooseMotion(const ColouredPicture& from, const ColouredPicture& to,
                     const std::vector<Candidate>& candidates, const cv::Point& origin = {},
                     const std::stop_token& stop = {}, const OtherSide& other = {});

} // namespace yarngap
