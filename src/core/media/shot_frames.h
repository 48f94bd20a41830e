// The frames that a plan counts: those of the file, or what an interpretation makes of them.
#pragma once

#include "core/image/image.h"
#include "core/media/media_facts.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// What is wrong with a source frame.
struct FrameTrouble {
    enum class Kind {
        otherSize,  ///< of another size in the file, and scaled
        damaged,    ///< the decoder met errors in it and covered them up
        undecodable ///< there is no picture of it; the nearest other frame stands in
    };
    Kind kind = Kind::damaged;
    std::string sentence; ///< naming the frame by its number in the file

    friend bool operator==(const FrameTrouble&, const FrameTrouble&) = default;
};

/// Frame n of a shot, from any thread and in any order. Source frames are counted here; everything behind it
/// (plan, synthesis, render) knows no other numbering.
class ShotFrames {
  public:
    ShotFrames() = default;
    virtual ~ShotFrames() = default;
    ShotFrames(const ShotFrames&) = delete;
    ShotFrames& operator=(const ShotFrames&) = delete;
    ShotFrames(ShotFrames&&) = delete;
    ShotFrames& operator=(ShotFrames&&) = delete;

    /// 0 ≤ n < frames(). Where there is no picture of the frame, the nearest other one; troubleOf() tells.
    /// Throws SourceLost when the file is gone, changed or cannot be read, Error when no frame near it can be
    /// decoded either, Cancelled when stopped.
    virtual ImagePtr frame(std::int64_t n, const std::stop_token& stop) = 0;
    ImagePtr frame(std::int64_t n) { return frame(n, {}); }

    [[nodiscard]] virtual const MediaFacts& facts() const = 0;
    [[nodiscard]] std::int64_t frames() const { return facts().frames; }
    /// Tells the pictures of frames `first` to `last`: equal exactly when they are the same, in the same
    /// order, from the same files. What is made from them is kept under it, so that a decision about one
    /// frame leaves all that has nothing to do with it.
    [[nodiscard]] virtual std::string identityOf(std::int64_t first, std::int64_t last) const = 0;
    [[nodiscard]] std::string identityOf(std::int64_t n) const { return identityOf(n, n); }
    /// The number of a frame before the shot was cleaned; of one that is put in that of the frame before.
    [[nodiscard]] virtual std::int64_t numberBeforeCleanup(std::int64_t n) const { return n; }
    /// The files that the frames come from.
    [[nodiscard]] virtual std::vector<std::filesystem::path> files() const { return {facts().path}; }
    /// What was found wrong with a frame, if it was met so far.
    [[nodiscard]] virtual std::optional<FrameTrouble> troubleOf(std::int64_t n) const = 0;
};

} // namespace yarngap
