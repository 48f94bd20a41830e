// A clip of which frames are left out, so that what is made in their place can be compared with them.
#pragma once

#include "core/media/frame_source.h"
#include "core/media/shot_frames.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>

namespace yarngap {

/// Every so many frames of a clip, as a shot of their own.
class ThinnedFrames final : public ShotFrames {
  public:
    ThinnedFrames(std::shared_ptr<FrameSource> whole, std::int64_t every)
        : whole_(std::move(whole))
        , every_(every)
        , facts_(whole_->facts()) {
        facts_.frames = (facts_.frames - 1) / every + 1;
    }
    using ShotFrames::frame;
    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override {
        return whole_->frame(n * every_, stop);
    }
    [[nodiscard]] const MediaFacts& facts() const override { return facts_; }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override {
        return whole_->identityOf(first * every_, last * every_) + '/' + std::to_string(every_);
    }
    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t n) const override {
        return whole_->troubleOf(n * every_);
    }

  private:
    std::shared_ptr<FrameSource> whole_;
    std::int64_t every_;
    MediaFacts facts_;
};

} // namespace yarngap
