// A weighted mean of pictures, as values or as light.
#pragma once

#include "core/image/light_mean.h"
#include "core/synthesis/blend.h"

#include <array>
#include <optional>
#include <utility>

namespace yarngap {

/// A mean built up picture by picture; see BlendSum and LightMean.
class PictureMean {
  public:
    /// `asLight`: pictures are mixed as light, whose colours `tags` describe.
    PictureMean(bool asLight, const ColourTags& tags)
        : asLight_(asLight)
        , tags_(tags) {}

    /// The shares of all pictures add up to 1.
    void add(const Image& picture, double share) {
        sum_.add(picture, share);
        if (!asLight_) return;
        if (!light_) light_.emplace(picture, tags_);
        light_->add(picture, std::array{static_cast<float>(share)});
    }
    [[nodiscard]] Image mean() const {
        Image mixed = sum_.mean();
        return light_ ? light_->of(mixed) : std::move(mixed);
    }

  private:
    bool asLight_;
    ColourTags tags_;
    BlendSum sum_;
    std::optional<LightMean> light_;
};

} // namespace yarngap
