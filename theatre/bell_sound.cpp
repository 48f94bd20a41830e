#include "theatre/bell_sound.h"

#include "core/error.h"
#include "theatre/muxing.h"

extern "C" {
#include <libavformat/avformat.h>
}

#include <array>
#include <cmath>
#include <cstdint>
#include <memory>
#include <numbers>
#include <vector>

namespace yarngap::theatre {

namespace {

constexpr int rate = 48000;
constexpr double halfSwing = 0.625; // seconds, see bell_swing.cpp

void check(int result) {
    if (result < 0) throw Error("The bell of the demo could not be written. Check the disk.");
}

/// Partials of a bell against its prime: hum, prime, tierce, quint, nominal and two above.
struct Partial {
    double ratio, strength, decay; ///< decay: seconds to a third
};
constexpr std::array<Partial, 7> partials{{{0.5, 0.5, 2.6},
                                           {1.0, 0.7, 1.7},
                                           {1.2, 0.6, 1.3},
                                           {1.5, 0.35, 1.0},
                                           {2.0, 0.8, 0.8},
                                           {2.67, 0.3, 0.4},
                                           {3.0, 0.25, 0.25}}};

std::vector<std::int16_t> bell(double seconds) {
    constexpr double prime = 392;
    const auto length = static_cast<std::size_t>(seconds * rate);
    std::vector<double> sum(length);
    for (int stroke = 0; halfSwing * (stroke + 0.5) < seconds; ++stroke) {
        const double start = halfSwing * (stroke + 0.5);
        const double loud = stroke % 2 == 0 ? 1.0 : 0.8;
        for (std::size_t i = static_cast<std::size_t>(start * rate); i < length; ++i) {
            const double t = static_cast<double>(i) / rate - start;
            if (t < 0) continue;
            for (const Partial& p : partials)
                sum[i] += loud * p.strength * std::exp(-t / p.decay) *
                          std::sin(2 * std::numbers::pi * prime * p.ratio * t);
        }
    }
    std::vector<std::int16_t> samples;
    samples.reserve(length * 2);
    constexpr double gain = 0.16 * 32767;
    for (const double value : sum)
        for (int channel = 0; channel < 2; ++channel)
            samples.push_back(
                static_cast<std::int16_t>(std::lround(32767 * std::tanh(gain * value / 32767))));
    return samples;
}

} // namespace

void addBellSound(const std::filesystem::path& pictures, const std::filesystem::path& target,
                  double seconds) {
    AVFormatContext* opened = nullptr;
    check(avformat_open_input(&opened, pictures.c_str(), nullptr, nullptr));
    const InputPtr in(opened);
    check(avformat_find_stream_info(in.get(), nullptr));
    AVFormatContext* made = nullptr;
    check(avformat_alloc_output_context2(&made, nullptr, "mov", target.c_str()));
    const OutputPtr out(made);
    const AVStream* from = in->streams[0];
    AVStream* picture = avformat_new_stream(out.get(), nullptr);
    AVStream* sound = avformat_new_stream(out.get(), nullptr);
    if (!picture || !sound) check(-1);
    check(avcodec_parameters_copy(picture->codecpar, from->codecpar));
    picture->codecpar->codec_tag = 0;
    picture->time_base = from->time_base;
    picture->avg_frame_rate = from->avg_frame_rate;
    picture->sample_aspect_ratio = from->sample_aspect_ratio;
    sound->codecpar->codec_type = AVMEDIA_TYPE_AUDIO;
    sound->codecpar->codec_id = AV_CODEC_ID_PCM_S16LE;
    sound->codecpar->sample_rate = rate;
    sound->codecpar->format = AV_SAMPLE_FMT_S16;
    av_channel_layout_default(&sound->codecpar->ch_layout, 2);
    sound->codecpar->bits_per_coded_sample = 16;
    sound->codecpar->block_align = 4;
    sound->time_base = {1, rate};
    check(avio_open(&out->pb, target.c_str(), AVIO_FLAG_WRITE));
    check(avformat_write_header(out.get(), nullptr));
    const PacketPtr packet(av_packet_alloc());
    if (!packet) check(-1);
    while (av_read_frame(in.get(), packet.get()) >= 0) {
        if (packet->stream_index == 0) {
            av_packet_rescale_ts(packet.get(), from->time_base, picture->time_base);
            packet->stream_index = picture->index;
            packet->pos = -1;
            check(av_interleaved_write_frame(out.get(), packet.get()));
        }
        av_packet_unref(packet.get());
    }
    const std::vector<std::int16_t> samples = bell(seconds);
    constexpr std::size_t block = 4800; // a tenth of a second, of two channels each
    for (std::size_t at = 0; at < samples.size(); at += 2 * block) {
        const std::size_t count = std::min(2 * block, samples.size() - at);
        check(av_new_packet(packet.get(), static_cast<int>(count * sizeof(std::int16_t))));
        for (std::size_t i = 0; i < count; ++i) { // little-endian
            const auto value = static_cast<std::uint16_t>(samples[at + i]);
            packet->data[2 * i] = static_cast<std::uint8_t>(value & 0xffU);
            packet->data[2 * i + 1] = static_cast<std::uint8_t>(value >> 8U);
        }
        packet->stream_index = sound->index;
        packet->pts = packet->dts =
            av_rescale_q(static_cast<std::int64_t>(at / 2), {1, rate}, sound->time_base);
        packet->duration = av_rescale_q(static_cast<std::int64_t>(count / 2), {1, rate}, sound->time_base);
        check(av_interleaved_write_frame(out.get(), packet.get()));
    }
    check(av_write_trailer(out.get()));
}

} // namespace yarngap::theatre
