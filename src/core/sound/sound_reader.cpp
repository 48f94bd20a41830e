#include "core/sound/sound_reader.h"

#include "core/error.h"
#include "core/media/demuxer.h"

extern "C" {
#include <libavutil/channel_layout.h>
#include <libswresample/swresample.h>
}

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>

namespace yarngap {

namespace {

constexpr double longest = 6.0 * 3600; // seconds asked for at once

struct ResamplerFreer {
    void operator()(SwrContext* c) const { swr_free(&c); }
};
using Resampler = std::unique_ptr<SwrContext, ResamplerFreer>;

struct FrameFreer {
    void operator()(AVFrame* f) const { av_frame_free(&f); }
};

/// FFmpeg's layout; uninitialise it.
AVChannelLayout layoutOf(const SoundForm& form) {
    AVChannelLayout layout{};
    if (form.speakers == 0 || av_channel_layout_from_mask(&layout, form.speakers) < 0 ||
        layout.nb_channels != form.channels) {
        av_channel_layout_uninit(&layout);
        av_channel_layout_default(&layout, form.channels);
    }
    return layout;
}

Resampler resamplerFor(const AVFrame& frame, const SoundForm& form) {
    AVChannelLayout wanted = layoutOf(form);
    AVChannelLayout given{};
    if (frame.ch_layout.order == AV_CHANNEL_ORDER_UNSPEC)
        av_channel_layout_default(&given, frame.ch_layout.nb_channels);
    else
        av_channel_layout_copy(&given, &frame.ch_layout);
    SwrContext* made = nullptr;
    const int result =
        swr_alloc_set_opts2(&made, &wanted, AV_SAMPLE_FMT_FLT, form.rate, &given,
                            static_cast<AVSampleFormat>(frame.format), frame.sample_rate, 0, nullptr);
    av_channel_layout_uninit(&given);
    av_channel_layout_uninit(&wanted);
    Resampler resampler(made);
    if (result < 0 || swr_init(made) < 0)
        throw Error("The sound has a form that cannot be converted. The pictures are not affected.");
    return resampler;
}

/// Lays what comes out of the decoder where it belongs.
class Track {
  public:
    Track(double from, double to, const SoundForm& form)
        : from_(from)
        , sound_(std::max<std::int64_t>(0, std::llround((to - from) * form.rate)), form) {}

    /// `seconds`: moment of the frame's first sample.
    void add(const AVFrame& frame, double seconds) {
        if (!resampler_ || frame.sample_rate != rate_ || frame.ch_layout.nb_channels != channels_ ||
            frame.format != format_) {
            drain();
            resampler_ = resamplerFor(frame, sound_.form);
            rate_ = frame.sample_rate;
            channels_ = frame.ch_layout.nb_channels;
            format_ = frame.format;
            at_ = std::llround((seconds - from_) * soundRate());
        }
        // A hole in the file stays one; what rounds to a few samples is none.
        const std::int64_t wanted =
            std::llround((seconds - from_) * soundRate()) - swr_get_delay(resampler_.get(), soundRate());
        const std::int64_t jitter = soundRate() / 100;
        if (std::abs(wanted - at_) > jitter) at_ = wanted;
        convert(const_cast<const std::uint8_t**>(frame.extended_data), frame.nb_samples);
    }
    void drain() {
        if (resampler_) convert(nullptr, 0);
    }
    [[nodiscard]] bool full() const { return at_ >= sound_.length(); }
    [[nodiscard]] Sound take() { return std::move(sound_); }

  private:
    [[nodiscard]] int soundRate() const { return sound_.form.rate; }
    [[nodiscard]] std::size_t channels() const { return static_cast<std::size_t>(sound_.form.channels); }

    void convert(const std::uint8_t** in, int count) {
        const int most = swr_get_out_samples(resampler_.get(), count);
        if (most <= 0) return;
        buffer_.resize(static_cast<std::size_t>(most) * channels());
        std::array<std::uint8_t*, 1> out{reinterpret_cast<std::uint8_t*>(buffer_.data())};
        const int made = swr_convert(resampler_.get(), out.data(), most, in, count);
        for (std::int64_t i = 0; i < made; ++i, ++at_) {
            if (at_ < 0 || at_ >= sound_.length()) continue;
            for (int c = 0; c < sound_.form.channels; ++c)
                sound_.at(at_, c) =
                    buffer_[static_cast<std::size_t>(i) * channels() + static_cast<std::size_t>(c)];
        }
    }

    double from_;
    Sound sound_;
    Resampler resampler_;
    int rate_ = 0;
    int channels_ = 0;
    int format_ = -1;
    std::int64_t at_ = 0; ///< where the next sample goes
    std::vector<float> buffer_;
};

double secondsOfFirstPicture(const MediaIndex& index) {
    if (index.displayPacket.empty() || index.packets.empty()) return 0;
    const auto& first = index.packets[static_cast<std::size_t>(index.displayPacket.front())];
    return static_cast<double>(first.pts.value_or(first.dts.value_or(0))) * index.timeBase.toDouble();
}

} // namespace

SoundForm soundFormOf(const MediaIndex& index, const std::stop_token& stop) {
    if (!index.pictures.empty() || !index.facts.hasSound)
        throw Error(index.facts.path.string() + " has no sound.");
    const Demuxer demuxer(index.facts.path, StreamKind::sound, stop);
    const AVCodecParameters& told = *demuxer.stream().codecpar;
    constexpr int leastRate = 1000;
    constexpr int mostRate = 768'000;
    if (told.sample_rate < leastRate || told.sample_rate > mostRate || told.ch_layout.nb_channels < 1 ||
        told.ch_layout.nb_channels > SoundForm::most)
        throw Error("The sound of " + index.facts.path.string() + " says it has " +
                    std::to_string(told.ch_layout.nb_channels) + " channels at " +
                    std::to_string(told.sample_rate) + " Hz, which cannot be. Render without sound.");
    return {told.sample_rate, told.ch_layout.nb_channels,
            told.ch_layout.order == AV_CHANNEL_ORDER_NATIVE ? told.ch_layout.u.mask : 0};
}

Sound readSound(const MediaIndex& index, double from, double to, const SoundForm& form,
                const std::stop_token& stop) {
    if (!(to > from) || to - from > longest) throw Error("There is no such stretch of sound.");
    if (!index.pictures.empty()) throw Error(index.facts.path.string() + " has no sound.");
    Demuxer demuxer(index.facts.path, StreamKind::sound, stop);
    Decoder decoder(demuxer.stream());
    const double tick = av_q2d(demuxer.stream().time_base);
    const double origin = secondsOfFirstPicture(index);
    constexpr double early = 0.5; // decoders need a run-up
    if (from > early) demuxer.seek(std::llround((origin + from - early) / tick), stop);
    Track track(from, to, form);
    const PacketPtr packet = makePacket();
    const std::unique_ptr<AVFrame, FrameFreer> frame(av_frame_alloc());
    if (!frame) throw Error("There is not enough memory for sound. Close other programs.");
    double next = 0; // seconds, for frames without a time
    const auto receive = [&] {
        while (decoder.receive(*frame)) {
            const std::int64_t pts = frame->pts != AV_NOPTS_VALUE ? frame->pts : frame->best_effort_timestamp;
            const double seconds = pts != AV_NOPTS_VALUE ? static_cast<double>(pts) * tick - origin : next;
            if (frame->sample_rate <= 0 || frame->nb_samples <= 0) continue;
            next = seconds + static_cast<double>(frame->nb_samples) / frame->sample_rate;
            track.add(*frame, seconds);
        }
    };
    while (!track.full() && demuxer.next(*packet, stop)) {
        throwIfStopped(stop);
        decoder.send(packet.get());
        receive();
    }
    decoder.send(nullptr);
    receive();
    track.drain();
    return track.take();
}

} // namespace yarngap
