#include "theatre/phone_clip.h"

#include "core/error.h"
#include "core/media/frame_writer.h"
#include "core/media/interpreted_source.h"
#include "theatre/exposure.h"
#include "theatre/muxing.h"

extern "C" {
#include <libavformat/avformat.h>
#include <libavutil/display.h>
}

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <memory>

namespace yarngap::theatre {

namespace {

constexpr int shortSide = 540;
constexpr int longSide = 960;
constexpr int clipFrames = 110;
constexpr int usualStep = 8;

/// Somebody holds the phone upright and follows the heron.
class HandHeld final : public Scene {
  public:
    HandHeld()
        : heron_(heronGlide(longSide * 16 / 9, longSide)) {}

    void draw(QPainter& p, double seconds) const override {
        const double hand = 5 * std::sin(6.1 * seconds) + 3 * std::sin(14.3 * seconds);
        const double lift = 4 * std::sin(5.3 * seconds + 1) + 2 * std::sin(17.1 * seconds);
        p.scale(1.02, 1.02); // nothing is uncovered at the edges
        p.translate(-360 - 120 * seconds + hand, -10 + lift);
        heron_->draw(p, seconds);
    }

  private:
    std::unique_ptr<Scene> heron_;
};

void check(int result) {
    if (result < 0) throw Error("The phone clip of the demo could not be written. Check the disk.");
}

/// Copies the packets of `even`, whose frames lie one tick of its rate apart, with other times.
void retime(const std::filesystem::path& even, const std::filesystem::path& target,
            const std::vector<std::int64_t>& times) {
    AVFormatContext* opened = nullptr;
    check(avformat_open_input(&opened, even.c_str(), nullptr, nullptr));
    const InputPtr in(opened);
    check(avformat_find_stream_info(in.get(), nullptr));
    AVFormatContext* made = nullptr;
    check(avformat_alloc_output_context2(&made, nullptr, "mp4", target.c_str()));
    const OutputPtr out(made);
    const AVStream* from = in->streams[0];
    AVStream* to = avformat_new_stream(out.get(), nullptr);
    if (!to) check(-1);
    check(avcodec_parameters_copy(to->codecpar, from->codecpar));
    to->codecpar->codec_tag = 0;
    to->time_base = {1, phoneClock * 50};
    auto* matrix = reinterpret_cast<std::int32_t*>(
        av_stream_new_side_data(to, AV_PKT_DATA_DISPLAYMATRIX, 9 * sizeof(std::int32_t)));
    if (!matrix) check(-1);
    av_display_rotation_set(matrix, 90); // clockwise
    check(avio_open(&out->pb, target.c_str(), AVIO_FLAG_WRITE));
    check(avformat_write_header(out.get(), nullptr));
    const PacketPtr packet(av_packet_alloc());
    const AVRational frame = av_inv_q(from->avg_frame_rate);
    const std::int64_t origin = from->start_time == AV_NOPTS_VALUE ? 0 : from->start_time;
    const auto timeOf = [&](std::int64_t ticks) {
        const std::int64_t n = av_rescale_q(ticks - origin, from->time_base, frame);
        const auto last = static_cast<std::int64_t>(times.size()) - 1;
        // Frames are decoded before the first is shown: those times go on evenly to the left.
        const std::int64_t clock = n < 0 ? n * usualStep : times[static_cast<std::size_t>(std::min(n, last))];
        return av_rescale_q(clock, {1, phoneClock}, to->time_base);
    };
    while (av_read_frame(in.get(), packet.get()) >= 0) {
        packet->pts = timeOf(packet->pts);
        packet->dts = timeOf(packet->dts);
        packet->duration = 0;
        packet->stream_index = 0;
        check(av_interleaved_write_frame(out.get(), packet.get()));
    }
    check(av_write_trailer(out.get()));
}

} // namespace

std::vector<std::int64_t> phoneTimes(int frames) {
    std::vector<std::int64_t> times;
    std::int64_t now = 0;
    for (int n = 0; n < frames; ++n) {
        times.push_back(now);
        // Steps of 7 and 9 even out; every 17th frame or so the phone is late by a whole frame.
        const int place = n % 17;
        now += place == 16      ? 2 * usualStep
               : place % 4 == 1 ? usualStep - 1
               : place % 4 == 2 ? usualStep + 1
                                : usualStep;
    }
    return times;
}

void makePhoneClip(const std::filesystem::path& target, const Progress& progress) {
    const HandHeld scene;
    const Camera camera{.width = shortSide,
                        .height = longSide,
                        .rate = Rate(phoneClock, 1),
                        .shutterSeconds = 1.0 / 120,
                        .samples = 4,
                        .grain = 2.4,
                        .seed = 17};
    const auto times = phoneTimes(clipFrames);
    std::filesystem::path even = target;
    even += ".even.mp4";
    const auto writer = openWriter({.target = even,
                                    .format = OutputFormat::h264Mp4,
                                    .rate = Rate(phoneClock / usualStep, 1),
                                    .width = longSide,
                                    .height = shortSide,
                                    .layout = {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1},
                                    .colour = {.primaries = 1, .transfer = 1, .matrix = 1, .chromaSite = 1},
                                    .pixelAspect = 1});
    constexpr int batch = 8;
    for (int n = 0; n < clipFrames; n += batch) {
        std::vector<Image> images(static_cast<std::size_t>(std::min(batch, clipFrames - n)));
        tbb::parallel_for(std::size_t{0}, images.size(), [&](std::size_t i) {
            images[i] = turned(expose(scene, camera, times[static_cast<std::size_t>(n) + i]), 270);
        });
        for (const Image& image : images)
            writer->write(image);
        if (progress) progress(static_cast<double>(n) / clipFrames);
    }
    writer->finish();
    retime(even, target, times);
    std::error_code ec;
    std::filesystem::remove(even, ec);
}

} // namespace yarngap::theatre
