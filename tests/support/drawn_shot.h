// A shot whose frames are drawn, without a file.
#pragma once

#include "core/media/shot_frames.h"
#include "core/time/frame_plan.h"

#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <stdexcept>
#include <string>
#include <utility>

namespace yarngap::test {

/// `draw(n)` gives frame n; all are of one size and layout.
class DrawnShot final : public ShotFrames {
  public:
    DrawnShot(std::int64_t frames, std::function<Image(std::int64_t)> draw, std::string identity = "drawn",
              const Rate& rate = Rate(24, 1))
        : draw_(std::move(draw))
        , identity_(std::move(identity)) {
        const Image first = draw_(0);
        facts_.width = first.width();
        facts_.height = first.height();
        facts_.layout = first.layout();
        facts_.rate = rate;
        facts_.frames = frames;
    }
    using ShotFrames::frame;
    using ShotFrames::identityOf;
    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override {
        if (stop.stop_requested()) throw std::runtime_error("stopped");
        ++reads;
        return std::make_shared<Image>(draw_(n));
    }
    [[nodiscard]] const MediaFacts& facts() const override { return facts_; }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override {
        std::string text = identity_ + ':' + std::to_string(first) + ".." + std::to_string(last);
        if (otherPicture && *otherPicture >= first && *otherPicture <= last) text += '*';
        return text;
    }
    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t) const override { return {}; }

    std::atomic<int> reads = 0;
    std::optional<std::int64_t> otherPicture; ///< a frame that shows something else since

  private:
    std::function<Image(std::int64_t)> draw_;
    std::string identity_;
    MediaFacts facts_;
};

/// Of `frames` frames by optical flow at half speed: row 2 n + 1 lies half way from frame n to the next.
inline FramePlan halfSpeedPlan(std::int64_t frames, int shutterAngle = 0) {
    Treatment treatment(Method::flow);
    treatment.settings.everywhere().inBetweens.synthesis.shutterAngle = shutterAngle;
    const Timing half{.sourceRate = Rate(24, 1),
                      .outputRate = Rate(24, 1),
                      .from = 0,
                      .to = frames - 1,
                      .speed = Rational(1, 2)};
    return makePlan(half, treatment, frames);
}

} // namespace yarngap::test
