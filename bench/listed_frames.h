// A shot whose frames are there already.
#pragma once

#include "core/media/shot_frames.h"

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace yarngap {

/// Frames of a list.
class Listed final : public ShotFrames {
  public:
    Listed(std::vector<ImagePtr> frames, const Rate& rate)
        : frames_(std::move(frames)) {
        facts_.width = frames_.front()->width();
        facts_.height = frames_.front()->height();
        facts_.layout = frames_.front()->layout();
        facts_.rate = rate;
        facts_.frames = static_cast<std::int64_t>(frames_.size());
        facts_.indexed = true;
    }
    ImagePtr frame(std::int64_t n, const std::stop_token& /*stop*/) override {
        return frames_.at(static_cast<std::size_t>(n));
    }
    using ShotFrames::frame;
    [[nodiscard]] const MediaFacts& facts() const override { return facts_; }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override {
        return std::to_string(first) + '-' + std::to_string(last);
    }
    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t /*n*/) const override {
        return std::nullopt;
    }

  private:
    std::vector<ImagePtr> frames_;
    MediaFacts facts_;
};

} // namespace yarngap
