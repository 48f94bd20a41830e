// Vectors of gaps, made once and kept within a byte limit.
#pragma once

#include "core/media/lru_cache.h"
#include "core/motion/flow_estimator.h"

#include <condition_variable>
#include <mutex>
#include <set>
#include <string>

namespace yarngap {

/// Vectors keyed by media content, the two frames and the estimation settings, so that a result made with
/// other settings is never returned. Thread-safe; two threads that want one gap share one estimation.
class VectorStore {
  public:
    static constexpr std::size_t defaultBytes = std::size_t{256} << 20;

    explicit VectorStore(std::size_t byteLimit = defaultBytes)
        : cache_(byteLimit) {}

    /// Vectors from source frame `a` to `b`, whose pictures are `frameA` and `frameB`, of the media with the
    /// identity `media`. Throws Cancelled.
    VectorsPtr vectors(const std::string& media, std::int64_t a, std::int64_t b, const Image& frameA,
                       const Image& frameB, const FlowOptions& options, const std::stop_token& stop = {});

    [[nodiscard]] std::size_t bytes() const { return cache_.bytes(); }
    [[nodiscard]] std::size_t byteLimit() const { return cache_.byteLimit(); }

  private:
    LruCache<std::string, VectorsPtr> cache_;
    std::mutex mutex_;
    std::condition_variable_any finished_;
    std::set<std::string> underWay_;
};

} // namespace yarngap
