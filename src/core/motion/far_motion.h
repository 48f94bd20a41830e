// Motion too large for a search from coarse to fine: small things that go farther than they are wide.
#pragma once

#include <opencv2/core.hpp>

#include <stop_token>

namespace yarngap {

/// The motions of both directions inside `where` (CV_32FC2, pixels of the full picture), with those put in
/// that were found far off.
struct FarMotions {
    cv::Mat there; ///< both empty where nothing was found
    cv::Mat back;
    cv::Rect where; ///< holds what was found, in both pictures, with room around it
};

/// Looks for pixels that `there` (from `from` to `to`, both CV_8U) and `back` leave unexplained in all places
/// up to a fifth of the width and of the height away.
///
/// At about 160 cells along the longer side, with the mean of the neighbourhood taken away (light may
/// change), the difference of both pictures, cut off at 40 steps and averaged over 5 x 5 cells, is compared
/// for every displacement. A cell takes the one of least difference if it has contrast of 10 steps, three
/// times that difference, if that is less than half of what the given motion leaves, if the search back from
/// where it leads returns to it, and if its neighbours, nine at least, are found to move alike. What is put
/// in is true to a cell: it is meant as a start for a finer search.
/// Throws Cancelled.
FarMotions farMotions(const cv::Mat& from, const cv::Mat& to, const cv::Mat& there, const cv::Mat& back,
                      const std::stop_token& stop = {});

} // namespace yarngap
