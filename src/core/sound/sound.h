// Sound as the program works with it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace yarngap {

inline constexpr int usualSoundRate = 48000; ///< samples a second
inline constexpr int usualSoundChannels = 2;

/// How sound is sampled. A plain value.
struct SoundForm {
    int rate = usualSoundRate;         ///< samples a second of each channel
    int channels = usualSoundChannels; ///< 1 to `most`
    /// Which loudspeaker each channel is for, as FFmpeg's mask of AV_CH_…; 0: the usual one of so many.
    std::uint64_t speakers = 0;

    static constexpr int most = 64;

    friend bool operator==(const SoundForm&, const SoundForm&) = default;
};

/// Samples, interleaved, 1 being full scale. A plain value.
struct Sound {
    SoundForm form;
    std::vector<float> samples; ///< of two channels: left, right, left …

    Sound() = default;
    /// Silence of `length` moments (samples of one channel).
    explicit Sound(std::int64_t length, const SoundForm& of = {})
        : form(of)
        , samples(static_cast<std::size_t>(length) * static_cast<std::size_t>(of.channels)) {}
    /// Samples of one channel.
    [[nodiscard]] std::int64_t length() const {
        return static_cast<std::int64_t>(samples.size()) / form.channels;
    }
    [[nodiscard]] float& at(std::int64_t moment, int channel) {
        return samples[static_cast<std::size_t>(moment * form.channels + channel)];
    }
    [[nodiscard]] float at(std::int64_t moment, int channel) const {
        return samples[static_cast<std::size_t>(moment * form.channels + channel)];
    }
};

} // namespace yarngap
