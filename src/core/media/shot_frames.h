// The frames that a plan counts: those of the file, or what an interpretation makes of them.
#pragma once

#include "core/image/image.h"
#include "core/media/media_facts.h"

#include <cstdint>
#include <map>
#include <stop_token>
#include <string>

namespace yarngap {

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

    /// 0 ≤ n < frames(). Throws Error when neither the frame nor any near it can be decoded, Cancelled when
    /// stopped.
    virtual ImagePtr frame(std::int64_t n, const std::stop_token& stop) = 0;
    ImagePtr frame(std::int64_t n) { return frame(n, {}); }

    [[nodiscard]] virtual const MediaFacts& facts() const = 0;
    [[nodiscard]] std::int64_t frames() const { return facts().frames; }
    /// Changes with the content of the media and with everything that changes pixels or numbering.
    [[nodiscard]] virtual const std::string& identity() const = 0;
    /// Frames met so far that were damaged or replaced, each with a sentence.
    [[nodiscard]] virtual std::map<std::int64_t, std::string> troubles() const = 0;
};

} // namespace yarngap
