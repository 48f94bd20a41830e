#include "core/media/video_writer.h"

#include "core/error.h"
#include "core/media/muxer.h"
#include "core/media/picture_encoder.h"
#include "core/media/sound_choice.h"
#include "core/media/sound_encoder.h"

namespace yarngap {

namespace {

class VideoWriter final : public FrameWriter {
  public:
    explicit VideoWriter(const WriterOptions& options)
        : muxer_(options.target, containerFor(options.target))
        , pictures_(options, muxer_.wantsGlobalHeader()) {
        if (options.sound)
            sound_ = std::make_unique<SoundEncoder>(
                *options.sound, soundCodecFor(options.format, options.target), muxer_.wantsGlobalHeader());
        pictureStream_ = &muxer_.addStream(pictures_.context());
        if (sound_) soundStream_ = &muxer_.addStream(sound_->context());
        describe(options);
    }

    void write(const Image& image) override {
        pictures_.encode(image, [this](AVPacket& packet) { takePicture(packet); });
    }

    void writeSound(const Sound& sound) override {
        sound_->encode(sound, [this](AVPacket& packet) { takeSound(packet); });
    }

    void copy(const std::filesystem::path& part, std::int64_t frames, const std::function<void()>& each,
              const std::stop_token& stop) override {
        Demuxer demuxer(part, StreamKind::pictures, stop);
        const PacketPtr packet = makePacket();
        std::int64_t count = 0;
        while (demuxer.next(*packet, stop)) {
            packet->pts = packet->dts = copied_++;
            packet->duration = 1;
            takePicture(*packet);
            ++count;
            each();
        }
        if (count != frames || demuxer.endedOnError())
            throw Error(part.string() + " holds " + std::to_string(count) + " frames, not " +
                        std::to_string(frames) + ". Delete it and make that part again.");
    }

    void finish() override {
        pictures_.finish([this](AVPacket& packet) { takePicture(packet); });
        if (sound_) sound_->finish([this](AVPacket& packet) { takeSound(packet); });
        muxer_.finish();
    }

    [[nodiscard]] std::int64_t bytes() const override { return muxer_.bytes(); }
    [[nodiscard]] std::vector<std::string> notes() const override { return pictures_.notes(); }

  private:
    void describe(const WriterOptions& options) {
        const std::string container = containerFor(options.target);
        const bool isMov = container == "mov" || container == "mp4";
        if (!options.timecode.empty()) {
            av_dict_set(&pictureStream_->metadata, "timecode", options.timecode.c_str(), 0);
            if (!options.reel.empty())
                av_dict_set(&pictureStream_->metadata, "reel_name", options.reel.c_str(), 0);
        }
        if (isMov && options.format.format == OutputFormat::h265Mp4)
            pictureStream_->codecpar->codec_tag = MKTAG('h', 'v', 'c', '1'); // what most players look for
        // Matroska counts a block's time from before the encoder's run-up, which players skip; the muxer does
        // not.
        if (sound_ && (container == "webm" || container == "matroska"))
            soundShift_ = sound_->context().initial_padding;
        std::vector<std::pair<std::string, std::string>> settings;
        if (isMov)
            settings = {{"movflags", "+write_colr"}, {"write_tmcd", options.timecode.empty() ? "0" : "1"}};
        muxer_.begin(settings);
    }
    void takePicture(AVPacket& packet) {
        muxer_.write(packet, *pictureStream_, pictures_.context().time_base);
    }
    void takeSound(AVPacket& packet) {
        packet.pts += soundShift_;
        packet.dts += soundShift_;
        muxer_.write(packet, *soundStream_, sound_->context().time_base);
    }

    Muxer muxer_;
    PictureEncoder pictures_;
    std::unique_ptr<SoundEncoder> sound_;
    AVStream* pictureStream_ = nullptr;
    AVStream* soundStream_ = nullptr;
    std::int64_t copied_ = 0;
    std::int64_t soundShift_ = 0;
};

} // namespace

std::unique_ptr<FrameWriter> openVideoWriter(const WriterOptions& options) {
    return std::make_unique<VideoWriter>(options);
}

} // namespace yarngap
