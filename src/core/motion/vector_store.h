// Vectors of gaps, made once: in memory within a byte limit, and on disk.
#pragma once

#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"
#include "core/motion/continued_motion.h"
#include "core/motion/flow_estimator.h"
#include "core/motion/vector_folder.h"

#include <atomic>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <set>
#include <string>
#include <vector>

namespace yarngap {

/// Two source frames between which vectors lead.
struct FramePair {
    std::int64_t a = 0; ///< their numbers, by which files name gaps
    std::int64_t b = 0;
    std::string identity; ///< of both pictures; all that is made from them is kept under it
};
/// Those of a shot.
[[nodiscard]] FramePair pairOf(const ShotFrames& source, std::int64_t a, std::int64_t b);

/// Vectors keyed by the two pictures and the estimation settings, so that a result made with other settings
/// is never returned. Thread-safe; two threads that want one gap share one estimation. With a
/// folder, what is not in memory is looked for there, and what was estimated is kept there; drafts are not,
/// since they are made again as quickly.
class VectorStore {
  public:
    static constexpr std::size_t defaultBytes = std::size_t{256} << 20;

    explicit VectorStore(std::size_t byteLimit = defaultBytes, std::shared_ptr<VectorFolder> folder = nullptr)
        : cache_(byteLimit)
        , folder_(std::move(folder)) {}

    /// Vectors from one frame of `pair` to the other; `frameA` and `frameB` are their pictures. Throws
    /// Cancelled.
    VectorsPtr vectors(const FramePair& pair, const Image& frameA, const Image& frameB,
                       const FlowOptions& options, const std::stop_token& stop = {});

    /// vectors() as continueMotion() makes them with the gaps `beside`; kept in memory. Vectors of a file
    /// (see useFiles) are given as they are. Throws Cancelled.
    VectorsPtr continued(const FramePair& pair, const Image& frameA, const Image& frameB,
                         const FlowOptions& options, const GapsBeside& beside,
                         const std::stop_token& stop = {});

    /// Coarse vectors of a gap (see estimateCoarseFlow), kept in memory within 64 MB of their own. Throws
    /// Cancelled.
    VectorsPtr coarse(const FramePair& pair, const Image& frameA, const Image& frameB, AnalyseOn analyseOn,
                      const std::stop_token& stop = {});

    /// From now on takes the vectors of a gap from a file of this folder, as writeVectors() writes them,
    /// where there is one: gap_000012.exr for the gap after source frame 12 (see gapFileName). Made elsewhere
    /// or repaired by hand, they go before those estimated. Call before the first use.
    void useFiles(std::filesystem::path folder) { files_ = std::move(folder); }

    /// Those files, where there are any.
    [[nodiscard]] std::vector<std::filesystem::path> givenFiles() const;

    /// Whether vectors are in memory, so that they need no estimation.
    [[nodiscard]] bool has(const FramePair& pair, const FlowOptions& options) const;
    /// The same of continued() with gaps beside that end at frames of these identities.
    [[nodiscard]] bool hasContinued(const FramePair& pair, const FlowOptions& options,
                                    const std::string& before, const std::string& after) const;

    [[nodiscard]] std::size_t bytes() const { return cache_.bytes(); }
    [[nodiscard]] std::size_t byteLimit() const { return cache_.byteLimit(); }
    void setByteLimit(std::size_t byteLimit) { cache_.setByteLimit(byteLimit); }
    /// Those on disk; null where none are kept.
    [[nodiscard]] const std::shared_ptr<VectorFolder>& folder() const { return folder_; }

    /// Why vectors could not be kept on disk, last time; empty when all is well. Waits for what is being
    /// written.
    [[nodiscard]] std::string trouble() const {
        if (!folder_) return {};
        folder_->flush();
        return folder_->trouble();
    }
    /// Estimations made so far; what came from memory or disk is not counted.
    [[nodiscard]] std::int64_t estimations() const { return estimations_; }

  private:
    using Cache = LruCache<std::string, VectorsPtr>;
    Cache cache_;
    static constexpr std::size_t coarseBytes = std::size_t{64} << 20;
    Cache coarse_{coarseBytes};
    /// The file that holds the vectors of a gap; empty where there is none.
    [[nodiscard]] std::filesystem::path fileOf(std::int64_t a, std::int64_t b) const;
    [[nodiscard]] VectorsPtr given(std::int64_t a, std::int64_t b, const Image& frame) const;
    Vectors estimated(const FramePair& pair, const Image& frameA, const Image& frameB,
                      const FlowOptions& options, const std::stop_token& stop);
    /// What is kept under `key`, else what `make` gives, which is kept; two threads share one making.
    template <typename Make>
    VectorsPtr once(Cache& cache, const std::string& key, Make make, const std::stop_token& stop);

    std::shared_ptr<VectorFolder> folder_;
    std::filesystem::path files_;
    std::atomic<std::int64_t> estimations_{0};
    std::mutex mutex_;
    std::condition_variable_any finished_;
    std::set<std::string> underWay_;
};

/// "gap_000012.exr".
std::string gapFileName(std::int64_t gap);

} // namespace yarngap
