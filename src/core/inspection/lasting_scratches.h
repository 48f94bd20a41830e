// Scratches that stay over frames: thin upright lines that do not move with what the camera sees.
#pragma once

#include "core/inspection/camera_step.h"

#include <opencv2/core.hpp>

#include <vector>

namespace yarngap {

/// Looks for them in frames handed over in display order. Not thread-safe. Internal to the search for damage.
///
/// In each frame: lines of a few pixels that run from top to bottom and are lighter, or darker, than what
/// lies left and right of them, in nearly every sixteenth of the height. Lines at nearly the same place in
/// frames that follow each other are one scratch. A mast or a door frame is such a line as well; it moves as
/// the camera makes everything move. So a line counts once it has gone its own way, by more than it is thick.
/// A scratch that stays put while the camera does too cannot be told from what is filmed, and is not told.
class LastingScratches {
  public:
    /// The next frame at 8 bit; `step` leads to it from the one before, in its pixels. Empty: no picture.
    void measure(const cv::Mat& luma, const CameraStep& step);

    struct Line {
        bool isLight = false;
        double top = 0, bottom = 0; ///< columns at which it crosses both edges
        double share = 0;           ///< of the bands that show it
        int left = 1, right = 1;    ///< columns beside the middle one that it covers
    };
    struct Found {
        std::vector<cv::Rect> rects; ///< that hold the line, from top to bottom
        double certainty = 0;        ///< 0 to 1
    };
    /// What was found in each frame handed over.
    [[nodiscard]] std::vector<std::vector<Found>> found() const;

  private:
    struct Frame {
        cv::Size size;
        CameraStep step;
        std::vector<Line> lines;
    };
    std::vector<Frame> frames_;
};

} // namespace yarngap
