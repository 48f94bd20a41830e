// An output frame on its way.
#pragma once

#include "core/synthesis/frame_folder.h"

#include <stop_token>

namespace yarngap {

/// One output frame, made in three stages that follow each other, so that a render can have several frames
/// under way. Each stage may run on another thread. All throw what ShotFrames::frame() throws, and Cancelled.
class FrameInMaking {
  public:
    FrameInMaking() = default;
    virtual ~FrameInMaking() = default;
    FrameInMaking(const FrameInMaking&) = delete;
    FrameInMaking& operator=(const FrameInMaking&) = delete;
    FrameInMaking(FrameInMaking&&) = delete;
    FrameInMaking& operator=(FrameInMaking&&) = delete;

    /// Stage 1: source frames are read.
    virtual void read(const std::stop_token& stop) = 0;
    /// Stage 2: their motion is found.
    virtual void estimate(const std::stop_token& /*stop*/) {}
    /// Stage 3: the picture.
    [[nodiscard]] virtual MadeFrame finish(const std::stop_token& stop) = 0;
};

} // namespace yarngap
