// How badly a source frame comes out when it is made again from the frames beside it: what made frames next
// to it are worth.
#pragma once

#include "core/image/image.h"
#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"
#include "core/motion/flow_estimator.h"

#include <cstdint>
#include <stop_token>
#include <string>

namespace yarngap {

/// Mean square, in 8-bit steps of luma at half the size, of the difference between `frame` and what a draft
/// makes at `phase` between `before` and `after` (all of one size and layout). 0 of pictures under 32 pixels
/// in width or height, which have no motion to be found at half the size. Throws Cancelled.
double remakeError(const Image& before, const Image& frame, const Image& after, double phase,
                   AnalyseOn analyseOn, const std::stop_token& stop = {});

/// Remake errors of source frames, each found once. Thread-safe.
class RemakeErrors {
  public:
    /// Of source frame `n`, whose picture is `frame`, between source frames `before` and `after`.
    double of(ShotFrames& source, std::int64_t before, std::int64_t n, std::int64_t after, const Image& frame,
              AnalyseOn analyseOn, const std::stop_token& stop = {});

  private:
    static constexpr std::size_t entryBytes = 256; // with its key
    static constexpr std::size_t kept = 4096;      // entries
    LruCache<std::string, double> errors_{kept * entryBytes};
};

} // namespace yarngap
