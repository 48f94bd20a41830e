#include "core/media/sound_choice.h"

#include "core/error.h"
#include "core/media/muxer.h"

#include <algorithm>
#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

SoundCodec soundCodecFor(const FormatChoice& choice, const std::filesystem::path& target) {
    const std::string container = isSequence(choice.format) ? "wav" : containerFor(target);
    struct Held {
        std::string_view container;
        std::vector<SoundCodec> codecs; ///< the usual one first
    };
    using enum SoundCodec;
    static const std::array<Held, 6> held{{{"matroska", {pcm, flac}},
                                           {"mov", {pcm, aac}},
                                           {"mp4", {aac, flac}},
                                           {"mxf", {pcm}},
                                           {"webm", {opus}},
                                           {"wav", {pcm}}}};
    for (const Held& entry : held) {
        if (entry.container != container) continue;
        if (choice.soundCodec == usual) return entry.codecs.front();
        if (std::ranges::count(entry.codecs, choice.soundCodec) > 0) return choice.soundCodec;
        std::string names;
        for (const SoundCodec codec : entry.codecs)
            names += (names.empty() ? "" : " or ") + std::string(name(codec));
        throw Error("Sound as " + std::string(name(choice.soundCodec)) + " does not go into " +
                    (container == "wav" ? std::string("a WAV file") : target.extension().string()) +
                    ". Use " + names + ".");
    }
    return pcm;
}

SoundForm soundFormFor(SoundCodec codec, const SoundForm& own) {
    SoundForm form = own;
    constexpr int mostCoded = 8;
    if (codec == SoundCodec::opus) form.rate = usualSoundRate;
    constexpr std::array aacRates{8000,  11025, 12000, 16000, 22050, 24000,
                                  32000, 44100, 48000, 64000, 88200, 96000};
    if (codec == SoundCodec::aac && std::ranges::count(aacRates, form.rate) == 0) form.rate = usualSoundRate;
    if (codec != SoundCodec::pcm && form.channels > mostCoded) {
        form.channels = usualSoundChannels;
        form.speakers = 0;
    }
    return form;
}

} // namespace yarngap
