// Variational refinement of a dense motion.
#pragma once

#include <opencv2/core.hpp>

#include <stop_token>

namespace yarngap {

struct RefinementOptions {
    float smoothness = 20; ///< α, weight of smoothness
    float brightness = 5;  ///< δ, weight of pictures that are alike
    float gradient = 10;   ///< γ, weight of gradients that are alike
    int rounds = 5;        ///< of weights; 0 changes nothing
    int sweeps = 5;        ///< of successive over-relaxation in each
};

/// Refines `flow` (CV_32FC2, pixels), the motion from `from` to `to`, both CV_32F in 8-bit steps and of its
/// size but for `border` more pixels on each side.
///
/// Minimises the sum over pixels of δ ψ(brightness) + γ ψ(gradient) + α ψ(|∇u|² + |∇v|²), ψ(s²) = √(s² +
/// 0.001², of the linearised differences divided by the length of their own derivatives
/// (Brox, Bruhn, Papenberg, Weickert: High accuracy optical flow estimation based on a theory for warping,
/// 2004; the normalisation is Zimmer, Bruhn, Weickert's, 2011), by fixed-point iterations about the motion
/// given, each solved by red-black over-relaxation.
///
/// Looks at `stop` after every few rows. Throws Cancelled.
void refineMotion(const cv::Mat& from, const cv::Mat& to, int border, cv::Mat& flow,
                  const RefinementOptions& options, const std::stop_token& stop = {});

} // namespace yarngap
