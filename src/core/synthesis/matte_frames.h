// The coverage of a matte, and the layers of frames, one source frame at a time.
#pragma once

#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"
#include "core/synthesis/layers.h"
#include "core/synthesis/matte.h"

#include <functional>
#include <memory>
#include <mutex>
#include <stop_token>
#include <string>

namespace yarngap {

/// Coverage of a drawn outline: 16-bit grey, `width` x `height`, softened over `feather` pixels.
Image coverageOf(const std::vector<MattePoint>& outline, int feather, int width, int height);

/// A matte at work on one shot. Thread-safe. Pictures are opened when first needed.
class MatteFrames {
  public:
    static constexpr std::size_t layerBytes = std::size_t{128} << 20; ///< layers kept for the next in-between

    /// Frame n of pictures goes with the source frame of which `pictureOf` gives n; null: with source frame
    /// n.
    MatteFrames(Matte matte, int width, int height,
                std::function<std::int64_t(std::int64_t)> pictureOf = nullptr);

    /// Coverage of source frame `n`. Throws Error when pictures cannot be read, Cancelled when stopped.
    [[nodiscard]] Image coverage(std::int64_t n, const std::stop_token& stop = {}) const;
    /// Source frame `n`, whose picture is `frame`, taken apart.
    [[nodiscard]] FrameLayersPtr layers(std::int64_t n, const Image& frame,
                                        const std::stop_token& stop = {}) const;
    /// The files that the coverage comes from. Throws Error when they cannot be listed.
    [[nodiscard]] std::vector<std::filesystem::path> files() const;
    [[nodiscard]] bool onTop() const { return matte_.onTop; }
    /// Different for different coverage of source frame `n`; looks at no picture, so that it can be asked for
    /// often: of pictures it tells the file, its size and its times.
    [[nodiscard]] std::string key(std::int64_t n) const;

  private:
    [[nodiscard]] std::int64_t pictureOf(std::int64_t n) const { return pictureOf_ ? pictureOf_(n) : n; }
    [[nodiscard]] std::shared_ptr<ShotFrames> pictures(const std::stop_token& stop) const;

    Matte matte_;
    int width_;
    int height_;
    std::function<std::int64_t(std::int64_t)> pictureOf_;
    std::string picturesKey_;           ///< name, size and times of the pictures' first file
    std::vector<std::string> outlines_; ///< a hash of each key's points, since keys are asked for by plan row
    mutable std::mutex mutex_;
    mutable std::shared_ptr<ShotFrames> pictures_;
    mutable LruCache<std::int64_t, FrameLayersPtr> layers_{layerBytes};
};

} // namespace yarngap
