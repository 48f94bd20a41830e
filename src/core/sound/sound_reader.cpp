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

Resampler resamplerFor(const AVFrame& frame) {
    AVChannelLayout stereo = AV_CHANNEL_LAYOUT_STEREO;
    AVChannelLayout given{};
    if (frame.ch_layout.order == AV_CHANNEL_ORDER_UNSPEC)
        av_channel_layout_default(&given, frame.ch_layout.nb_channels);
    else
        av_channel_layout_copy(&given, &frame.ch_layout);
    SwrContext* made = nullptr;
    const int result =
        swr_alloc_set_opts2(&made, &stereo, AV_SAMPLE_FMT_FLT, Sound::rate, &given,
                            static_cast<AVSampleFormat>(frame.format), frame.sample_rate, 0, nullptr);
    av_channel_layout_uninit(&given);
    Resampler resampler(made);
    if (result < 0 || swr_init(made) < 0)
        throw Error("The sound has a form that cannot be converted. The pictures are not affected.");
    return resampler;
}

/// Lays what comes out of the decoder where it belongs.
class Track {
  public:
    Track(double from, double to)
        : from_(from)
        , sound_(std::max<std::int64_t>(0, std::llround((to - from) * Sound::rate))) {}

    /// `seconds`: moment of the frame's first sample.
    void add(const AVFrame& frame, double seconds) {
        if (!resampler_ || frame.sample_rate != rate_ || frame.ch_layout.nb_channels != channels_ ||
            frame.format != format_) {
            drain();
            resampler_ = resamplerFor(frame);
            rate_ = frame.sample_rate;
            channels_ = frame.ch_layout.nb_channels;
            format_ = frame.format;
            at_ = std::llround((seconds - from_) * Sound::rate);
        }
        // A hole in the file stays one; what rounds to a few samples is none.
        const std::int64_t wanted =
            std::llround((seconds - from_) * Sound::rate) - swr_get_delay(resampler_.get(), Sound::rate);
        constexpr std::int64_t jitter = Sound::rate / 100;
        if (std::abs(wanted - at_) > jitter) at_ = wanted;
        convert(const_cast<const std::uint8_t**>(frame.extended_data), frame.nb_samples);
    }
    void drain() {
        if (resampler_) convert(nullptr, 0);
    }
    [[nodiscard]] bool full() const { return at_ >= sound_.length(); }
    [[nodiscard]] Sound take() { return std::move(sound_); }

  private:
    void convert(const std::uint8_t** in, int count) {
        const int most = swr_get_out_samples(resampler_.get(), count);
        if (most <= 0) return;
        buffer_.resize(static_cast<std::size_t>(most) * Sound::channels);
        std::array<std::uint8_t*, 1> out{reinterpret_cast<std::uint8_t*>(buffer_.data())};
        const int made = swr_convert(resampler_.get(), out.data(), most, in, count);
        for (std::int64_t i = 0; i < made; ++i, ++at_) {
            if (at_ < 0 || at_ >= sound_.length()) continue;
            for (std::int64_t c = 0; c < Sound::channels; ++c)
                sound_.samples[static_cast<std::size_t>(at_ * Sound::channels + c)] =
                    buffer_[static_cast<std::size_t>(i * Sound::channels + c)];
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

Sound readSound(const MediaIndex& index, double from, double to, const std::stop_token& stop) {
    if (!(to > from) || to - from > longest) throw Error("There is no such stretch of sound.");
    if (!index.pictures.empty()) throw Error(index.facts.path.string() + " has no sound.");
    Demuxer demuxer(index.facts.path, StreamKind::sound, stop);
    Decoder decoder(demuxer.stream());
    const double tick = av_q2d(demuxer.stream().time_base);
    const double origin = secondsOfFirstPicture(index);
    constexpr double early = 0.5; // decoders need a run-up
    if (from > early) demuxer.seek(std::llround((origin + from - early) / tick), stop);
    Track track(from, to);
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
