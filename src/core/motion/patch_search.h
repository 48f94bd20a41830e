// The search for patches at one size; see denseSearch.
#pragma once

#include "core/motion/dense_search.h"

#include <opencv2/core.hpp>

#include <stop_token>

namespace yarngap {

/// Replaces `flow`, the motion to start from (CV_32FC2, of the level's size), by that of the patches: of each
/// pixel the mean of those over it, weighed by how well they fit there. Throws Cancelled.
void improveByPatches(const SearchPicture::Level& from, const SearchPicture::Level& to,
                      const SearchOptions& options, cv::Mat& flow, const std::stop_token& stop);

} // namespace yarngap
