// Variational refinement of a dense motion.
#pragma once

#include <opencv2/core.hpp>

#include <stop_token>

namespace yarngap {

struct RefinementOptions {
    float smoothness = 20;
    int rounds = 5; ///< of fixed-point iteration
};

/// Refines `flow` (CV_32FC2, pixels), the motion from `from` to `to`, both CV_32F in 8-bit steps and of its
/// size but for `border` more pixels on each side.
///
/// Minimises the sum over pixels of 5 ψ(brightness²) + 10 ψ(gradient²) + α ψ(|∇u|² + |∇v|²), α being
/// `smoothness` and ψ(s²) = √(s² + 0.001²), of the linearised differences divided by the length of their own
/// derivatives (Brox, Bruhn, Papenberg, Weickert: High accuracy optical flow estimation based on a theory for
/// warping, 2004; the normalisation is Zimmer, Bruhn, Weickert's, 2011), by `rounds` fixed-point iterations
/// about the motion given, each solved by five sweeps of red-black over-relaxation.
///
/// Looks at `stop` after every row. Throws Cancelled.
void refineMotion(const cv::Mat& from, const cv::Mat& to, int border, cv::Mat& flow,
                  const RefinementOptions& options, const std::stop_token& stop = {});

} // namespace yarngap
