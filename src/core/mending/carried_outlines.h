// The outline of a patch, carried along by the motion.
#pragma once

#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"
#include "core/motion/vector_store.h"
#include "core/settings/patch.h"

#include <cstdint>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// x' = a x − b y + dx, y' = b x + a y + dy: what turns, grows and shifts.
struct Similarity {
    double a = 1, b = 0, dx = 0, dy = 0;

    [[nodiscard]] PicturePoint operator()(const PicturePoint& p) const {
        return {a * p.x - b * p.y + dx, b * p.x + a * p.y + dy};
    }
};

/// The one that brings `from` to `to` best by least squares, each pair counting by its weight; as many of
/// each. Where they say nothing of turn and growth, a shift.
Similarity fittedSimilarity(const std::vector<PicturePoint>& from, const std::vector<PicturePoint>& to,
                            const std::vector<double>& weights);

/// Carries outlines from source frame to source frame. From a key on, the outline goes with what most of the
/// pixels inside it do: the similarity that fits their coarse vectors (see estimateCoarseFlow), by iterated
/// least squares with Tukey's weights, so that torn vectors, on whose account there is a patch, count little.
/// Between two keys it is carried from both, and counts the more the nearer it is. Across a cut it stays
/// where it is. Thread-safe.
///
///     CarriedOutlines outlines(source, vectors, findings.cuts);
///     outlines.at(patch, Rational(85, 4)); // a quarter from frame 21 to 22
class CarriedOutlines {
  public:
    /// Outlines carried before, for others of the same shots too.
    using Memory = LruCache<std::string, std::vector<PicturePoint>>;
    static constexpr std::size_t memoryBytes = std::size_t{8} << 20;

    /// `cuts` are gaps, in order. Without a memory it has its own.
    CarriedOutlines(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors,
                    std::vector<std::int64_t> cuts, std::shared_ptr<Memory> memory = nullptr);

    /// The outline at a place on the source axis, in pixels of the source frames. Throws what reading frames
    /// throws, and Cancelled.
    [[nodiscard]] std::vector<PicturePoint> at(const Patch& patch, const Rational& position,
                                               const std::stop_token& stop = {}) const;
    /// What at() depends on besides the outlines drawn.
    [[nodiscard]] std::string key(const Patch& patch, const Rational& position) const;

  private:
    /// The outline at the first source frame ahead of its key, or behind it.
    [[nodiscard]] std::vector<PicturePoint> beginning(const PatchKey& key, bool ahead,
                                                      const std::stop_token& stop) const;
    [[nodiscard]] std::vector<PicturePoint> atFrame(const PatchKey& key, std::int64_t frame,
                                                    const std::stop_token& stop) const;
    [[nodiscard]] std::vector<PicturePoint> fromKey(const PatchKey& from, const Rational& position,
                                                    const std::stop_token& stop) const;
    [[nodiscard]] std::vector<PicturePoint> carried(const std::vector<PicturePoint>& points,
                                                    std::int64_t from, int direction,
                                                    const std::stop_token& stop) const;
    [[nodiscard]] std::int64_t lastFrame() const { return source_->frames() - 1; }

    std::shared_ptr<ShotFrames> source_;
    std::shared_ptr<VectorStore> vectors_;
    std::vector<std::int64_t> cuts_;
    std::shared_ptr<Memory> kept_;
};

/// Different for different outlines.
std::string keyOf(const PatchKey& key);

} // namespace yarngap
