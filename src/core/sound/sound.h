// Sound as the program works with it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace yarngap {

/// Two channels of 48 kHz, interleaved, 1 being full scale. A plain value.
struct Sound {
    static constexpr int rate = 48000;
    static constexpr int channels = 2;

    std::vector<float> samples; ///< left, right, left …

    Sound() = default;
    /// Silence of `length` moments (samples of one channel).
    explicit Sound(std::int64_t length)
        : samples(static_cast<std::size_t>(length) * channels) {}
    /// Samples of one channel.
    [[nodiscard]] std::int64_t length() const { return static_cast<std::int64_t>(samples.size()) / channels; }
};

} // namespace yarngap
