// Motions of the whole plane told by single features, however far they go: whip pans, fast rolls and zooms.
#pragma once

#include "core/motion/dominant_motion.h"

#include <opencv2/core.hpp>

#include <stop_token>
#include <vector>

namespace yarngap {

/// A motion from one picture to another and the way back; their support is a share of the matched features.
struct FeatureMotion {
    PlaneMotion there;
    PlaneMotion back;
};

/// Motions of many features from `from` to `to` (both CV_8U) that `flow` (CV_32FC2) has missed, the most
/// common first, at most two; none as a rule, and none of pictures under 128 pixels in width or height.
///
/// Nothing is looked for unless the pictures differ along `flow` at a tenth of the features. Features are
/// corners (Shi, Tomasi: Good features to track, 1994) at no more than 480 pixels across, described by the 16
/// x 16 pixels about them, free of brightness and contrast. Those that are each other's best match by far
/// vote for similarities drawn from two of them (RANSAC; Fischler, Bolles 1981; always the same draws); the
/// winner is fitted by least squares as an affine motion. It needs eight features and a fifth of the matches.
/// Upright descriptions bear about 15 degrees and a fifth of zoom. Throws Cancelled.
std::vector<FeatureMotion> featureMotions(const cv::Mat& from, const cv::Mat& to, const cv::Mat& flow,
                                          const std::stop_token& stop = {});

} // namespace yarngap
