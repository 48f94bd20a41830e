// Motion that an editor has shown: an estimate that follows pairs of points.
#pragma once

#include "core/motion/analysis_picture.h"
#include "core/motion/guide_check.h"
#include "core/settings/guide.h"

#include <opencv2/core.hpp>

#include <functional>
#include <span>
#include <stop_token>
#include <vector>

namespace yarngap {

/// The motion that pairs tell of the whole picture, CV_32FC2, in the direction from `from` to `to`.
///
/// One pair: it moves as a whole. Two: it turns and grows as well (similarity). Three or more: affine, by
/// least squares. Where what that comes to is no motion of one thing (something would grow or shrink more
/// than twofold, or a point would miss its place by more than 3 % of the width), every pixel moves as the
/// pair nearest to it.
cv::Mat motionOfPairs(std::span<const GuidePair> pairs, const cv::Size& size);

/// Places of the pairs that contradict others, in order. Two contradict each other when they lead from
/// nearly one place to places far apart, or the other way round; the one along which the pictures are less
/// alike is left out, both CV_8U of one size.
std::vector<std::size_t> contradictingPairs(const cv::Mat& a, const cv::Mat& b,
                                            std::span<const GuidePair> pairs);

/// Finds what is left to move once `start` is taken; see estimateFlow.
using RefineFrom = std::function<cv::Mat(const cv::Mat& start, bool ahead)>;

/// `there` (from `a` to `b`) and `back` with the motion that `pairs` tell taken where it fits better.
///
/// That of all pairs together and those of single pairs, refined by `refine`, are candidates beside the
/// estimate (see chooseMotion). Within an eighth of the width around a point, or the line between two, the
/// guide is taken though it fits up to 16 steps worse, the less the farther away and the more the estimate is
/// to be trusted; elsewhere it has to fit 2 steps better. Pairs that
/// contradict others are left out. What the subject hides in the other picture goes with what is around.
/// Throws Cancelled.
void followGuide(const ColouredPicture& a, const ColouredPicture& b, cv::Mat& there, cv::Mat& back,
                 std::span<const GuidePair> pairs, const RefineFrom& refine,
                 const std::stop_token& stop = {});

} // namespace yarngap
