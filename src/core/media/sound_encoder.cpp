#include "core/media/sound_encoder.h"

#include "core/error.h"

extern "C" {
#include <libavutil/channel_layout.h>
}

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

const char* encoderOf(SoundCodec codec) {
    switch (codec) {
    case SoundCodec::flac:
        return "flac";
    case SoundCodec::aac:
        return "aac";
    case SoundCodec::opus:
        return "libopus";
    default:
        return "pcm_s24le";
    }
}

AVSampleFormat samplesOf(SoundCodec codec) {
    switch (codec) {
    case SoundCodec::aac:
        return AV_SAMPLE_FMT_FLTP;
    case SoundCodec::opus:
        return AV_SAMPLE_FMT_FLT;
    default:
        return AV_SAMPLE_FMT_S32;
    }
}

/// The upper 24 of 32 bits.
std::int32_t integer(float sample) {
    constexpr double full = 1 << 23;
    const auto rounded = std::llround(std::clamp(static_cast<double>(sample) * full, -full, full - 1));
    return static_cast<std::int32_t>(rounded * 256);
}

} // namespace

SoundEncoder::SoundEncoder(const SoundForm& form, SoundCodec codec, bool globalHeader)
    : packet_(makePacket()) {
    const AVCodec* encoder = avcodec_find_encoder_by_name(encoderOf(codec));
    if (!encoder)
        throw Error(
            std::string("FFmpeg has no encoder ") + encoderOf(codec) +
            " on this machine. Install Debian's package libavcodec59, or choose another sound format.");
    context_.reset(avcodec_alloc_context3(encoder));
    AVCodecContext& c = *context_;
    c.sample_rate = form.rate;
    c.time_base = {1, form.rate};
    c.sample_fmt = samplesOf(codec);
    if (c.sample_fmt == AV_SAMPLE_FMT_S32) c.bits_per_raw_sample = 24;
    if (form.speakers == 0 || av_channel_layout_from_mask(&c.ch_layout, form.speakers) < 0 ||
        c.ch_layout.nb_channels != form.channels) {
        av_channel_layout_uninit(&c.ch_layout);
        av_channel_layout_default(&c.ch_layout, form.channels);
    }
    constexpr std::int64_t bitsPerChannel = 160'000;
    if (codec == SoundCodec::aac || codec == SoundCodec::opus) c.bit_rate = bitsPerChannel * form.channels;
    c.flags |= AV_CODEC_FLAG_BITEXACT;
    if (globalHeader) c.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    c.thread_count = 1;
    if (avcodec_open2(&c, encoder, nullptr) < 0)
        throw Error("Sound of " + std::to_string(form.channels) + " channels at " +
                    std::to_string(form.rate) + " Hz cannot be written as " + std::string(name(codec)) +
                    ". Choose another sound format (pcm holds any).");
}

SoundEncoder::~SoundEncoder() = default;

void SoundEncoder::encode(const Sound& sound, const Take& take) {
    waiting_.insert(waiting_.end(), sound.samples.begin(), sound.samples.end());
    const auto channels = static_cast<std::size_t>(context_->ch_layout.nb_channels);
    constexpr std::size_t usualFrame = 4096;
    const std::size_t frame =
        context_->frame_size > 0 ? static_cast<std::size_t>(context_->frame_size) : usualFrame;
    while (waiting_.size() - taken_ >= frame * channels)
        send(frame, take);
    waiting_.erase(waiting_.begin(), waiting_.begin() + static_cast<std::ptrdiff_t>(taken_));
    taken_ = 0;
}

void SoundEncoder::finish(const Take& take) {
    const auto channels = static_cast<std::size_t>(context_->ch_layout.nb_channels);
    if (!waiting_.empty()) send(waiting_.size() / channels, take);
    if (avcodec_send_frame(context_.get(), nullptr) < 0) throw Error("The sound could not be completed.");
    receive(take);
}

void SoundEncoder::send(std::size_t count, const Take& take) {
    const FramePtr frame = makeFrame();
    frame->nb_samples = static_cast<int>(count);
    frame->format = context_->sample_fmt;
    frame->sample_rate = context_->sample_rate;
    av_channel_layout_copy(&frame->ch_layout, &context_->ch_layout);
    if (av_frame_get_buffer(frame.get(), 0) < 0)
        throw Error("There is not enough memory for sound. Close other programs.");
    const auto channels = static_cast<std::size_t>(context_->ch_layout.nb_channels);
    const std::size_t samples = count * channels;
    const auto first = waiting_.begin() + static_cast<std::ptrdiff_t>(taken_);
    switch (context_->sample_fmt) {
    case AV_SAMPLE_FMT_FLTP:
        for (std::size_t i = 0; i < samples; ++i)
            reinterpret_cast<float*>(frame->extended_data[i % channels])[i / channels] = waiting_[taken_ + i];
        break;
    case AV_SAMPLE_FMT_FLT:
        std::copy_n(first, samples, reinterpret_cast<float*>(frame->data[0]));
        break;
    default:
        std::transform(first, first + static_cast<std::ptrdiff_t>(samples),
                       reinterpret_cast<std::int32_t*>(frame->data[0]), integer);
        break;
    }
    taken_ += samples;
    frame->pts = next_;
    next_ += static_cast<std::int64_t>(count);
    if (avcodec_send_frame(context_.get(), frame.get()) < 0) throw Error("The sound could not be encoded.");
    receive(take);
}

void SoundEncoder::receive(const Take& take) {
    while (true) {
        const int result = avcodec_receive_packet(context_.get(), packet_.get());
        if (result == AVERROR(EAGAIN) || result == AVERROR_EOF) return;
        if (result < 0) throw Error("The sound could not be encoded.");
        take(*packet_);
    }
}

} // namespace yarngap
