// How long work tells of its progress and learns that it is no longer wanted.
#pragma once

#include "core/error.h"

#include <functional>
#include <stop_token>

namespace yarngap {

/// Called with the finished share, 0 to 1, from whichever thread does the work. May be empty.
using Progress = std::function<void(double)>;

/// Throws Cancelled once `stop` was requested. Cheap enough for inner loops over frames.
inline void throwIfStopped(const std::stop_token& stop) {
    if (stop.stop_requested()) throw Cancelled();
}

} // namespace yarngap
