#include "core/media/video_writer.h"

#include "core/error.h"
#include "core/image/ffmpeg_image.h"
#include "core/image/scene_light.h"
#include "core/media/demuxer.h"

extern "C" {
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
}

#include <algorithm>
#include <thread>

namespace yarngap {

namespace {

struct Codec {
    const char* encoder;
    const char* muxer;
};

Codec codecFor(OutputFormat format) {
    switch (format) {
    case OutputFormat::h264Mp4:
        return {"libx264", "mp4"};
    case OutputFormat::proresMov:
        return {"prores_ks", "mov"};
    default:
        return {"ffv1", "matroska"};
    }
}

class VideoWriter final : public FrameWriter {
  public:
    explicit VideoWriter(const WriterOptions& options)
        : options_(options)
        , temporary_(temporaryName(options.target))
        , packet_(makePacket()) {
        if (options_.layout.isFloat()) {
            options_.layout = encodedLayout(options_.layout);
            options_.colour.transfer = AVCOL_TRC_IEC61966_2_1;
            notes_.emplace_back("Light of the scene is encoded as sRGB and cut off at white: " +
                                std::string(name(options_.format)) +
                                " holds no floats. An EXR sequence does.");
        }
        const Codec names = codecFor(options.format);
        const AVCodec* codec = avcodec_find_encoder_by_name(names.encoder);
        if (!codec)
            throw Error(std::string("The encoder ") + names.encoder +
                        " is missing on this machine. Choose another format.");
        choosePixelFormat(*codec);
        openEncoder(*codec, names.muxer);
        openFile(names.muxer);
    }

    VideoWriter(const VideoWriter&) = delete;
    VideoWriter& operator=(const VideoWriter&) = delete;
    VideoWriter(VideoWriter&&) = delete;
    VideoWriter& operator=(VideoWriter&&) = delete;

    ~VideoWriter() override {
        closeFile();
        std::error_code ec;
        if (!temporary_.empty()) std::filesystem::remove(temporary_, ec);
    }

    void write(const Image& image) override {
        const FramePtr frame = toFrame(image, inTags_, pixelFormat_, fullRange_);
        frame->pts = next_++;
        frame->color_range = encoder_->color_range;
        frame->colorspace = encoder_->colorspace;
        frame->color_primaries = encoder_->color_primaries; // ProRes writes those of the frame
        frame->color_trc = encoder_->color_trc;
        encode(frame.get());
    }

    void finish() override {
        encode(nullptr);
        check(av_write_trailer(muxer_.get()));
        check(closeFile());
        std::error_code ec;
        std::filesystem::rename(temporary_, options_.target, ec);
        if (ec) throw Error(writeFailure(options_.target, ec.value()));
        temporary_.clear();
    }

    [[nodiscard]] std::vector<std::string> notes() const override { return notes_; }

  private:
    struct EncoderFreer {
        void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
    };
    struct MuxerFreer {
        void operator()(AVFormatContext* c) const { avformat_free_context(c); }
    };

    void choosePixelFormat(const AVCodec& codec) {
        const PixelLayout& in = options_.layout;
        const AVPixelFormat own = formatOf(in);
        const auto* begin = codec.pix_fmts;
        const auto* end = begin;
        while (*end != AV_PIX_FMT_NONE)
            ++end;
        int loss = 0;
        pixelFormat_ = std::find(begin, end, own) != end
                           ? own
                           : avcodec_find_best_pix_fmt_of_list(begin, own, in.alpha ? 1 : 0, &loss);
        const bool oddWidth = options_.width % 2 != 0;
        const bool oddHeight = options_.height % 2 != 0;
        if (options_.format == OutputFormat::h264Mp4 && (oddWidth || oddHeight)) {
            const PixelLayout chosen = *layoutOf(pixelFormat_);
            if ((oddWidth && chosen.chromaShiftX > 0) || (oddHeight && chosen.chromaShiftY > 0)) {
                pixelFormat_ = chosen.depth > 8 ? AV_PIX_FMT_YUV444P10 : AV_PIX_FMT_YUV444P;
                notes_.emplace_back("The picture has an odd size, so its chroma is written as 4:4:4, which "
                                    "some players cannot show.");
            }
        }
        const AVPixFmtDescriptor* out = av_pix_fmt_desc_get(pixelFormat_);
        outIsRgb_ = (out->flags & AV_PIX_FMT_FLAG_RGB) != 0;
        if (in.alpha && (out->flags & AV_PIX_FMT_FLAG_ALPHA) == 0)
            notes_.emplace_back("Alpha is left out: " + std::string(name(options_.format)) + " has none.");
        if (out->comp[0].depth < in.depth)
            notes_.emplace_back("Samples are rounded from " + std::to_string(in.depth) + " to " +
                                std::to_string(out->comp[0].depth) + " bit, which is what " +
                                std::string(name(options_.format)) + " holds.");
    }

    void openEncoder(const AVCodec& codec, const char* muxerName) {
        encoder_.reset(avcodec_alloc_context3(&codec));
        AVCodecContext& c = *encoder_;
        c.width = options_.width;
        c.height = options_.height;
        c.pix_fmt = pixelFormat_;
        c.time_base = {static_cast<int>(options_.rate.den()), static_cast<int>(options_.rate.num())};
        c.framerate = {static_cast<int>(options_.rate.num()), static_cast<int>(options_.rate.den())};
        c.sample_aspect_ratio = {static_cast<int>(options_.pixelAspect.num()),
                                 static_cast<int>(options_.pixelAspect.den())};
        c.field_order = AV_FIELD_PROGRESSIVE;
        c.thread_count = static_cast<int>(std::clamp(std::thread::hardware_concurrency(), 1U, 16U));

        inTags_ = options_.colour;
        ColourTags out = options_.colour;
        if (options_.layout.model == ColourModel::rgb && !outIsRgb_) {
            // RGB becomes YUV: state the matrix that is used instead of the identity.
            out.matrix = options_.height >= 720 ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M;
            inTags_.matrix = out.matrix;
            out.fullRange = false;
        }
        // ProRes has no place for the range and is read as limited everywhere.
        if (options_.format == OutputFormat::proresMov) out.fullRange = false;
        fullRange_ = out.fullRange;
        c.color_range = outIsRgb_ || fullRange_ ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
        c.color_primaries = static_cast<AVColorPrimaries>(out.primaries);
        c.color_trc = static_cast<AVColorTransferCharacteristic>(out.transfer);
        c.colorspace = outIsRgb_ ? AVCOL_SPC_RGB : static_cast<AVColorSpace>(out.matrix);
        c.chroma_sample_location = static_cast<AVChromaLocation>(out.chromaSite);

        AVDictionary* settings = nullptr;
        switch (options_.format) {
        case OutputFormat::ffv1Mkv:
            c.level = 3;
            c.gop_size = 1;
            av_dict_set(&settings, "slicecrc", "1", 0);
            break;
        case OutputFormat::h264Mp4:
            av_dict_set(&settings, "crf", "12", 0);
            av_dict_set(&settings, "preset", "medium", 0);
            av_dict_set(&settings, "rc-lookahead", "20", 0); // a third of the frames held back by default
            break;
        default:
            av_dict_set(&settings, "profile", pixelFormat_ == AV_PIX_FMT_YUV422P10 ? "hq" : "4444", 0);
            break;
        }
        const AVOutputFormat* format = av_guess_format(muxerName, nullptr, nullptr);
        if (format && (format->flags & AVFMT_GLOBALHEADER) != 0) c.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
        const int opened = avcodec_open2(&c, &codec, &settings);
        av_dict_free(&settings);
        if (opened < 0)
            throw Error(std::string(name(options_.format)) + " cannot hold pictures of " +
                        std::to_string(options_.width) + " x " + std::to_string(options_.height) +
                        " pixels. Choose another format.");
    }

    void openFile(const char* muxerName) {
        AVFormatContext* raw = nullptr;
        if (avformat_alloc_output_context2(&raw, nullptr, muxerName, nullptr) < 0)
            throw Error("There is not enough memory to write. Close other programs.");
        muxer_.reset(raw);
        AVStream* stream = avformat_new_stream(raw, nullptr);
        if (!stream) throw Error("There is not enough memory to write. Close other programs.");
        avcodec_parameters_from_context(stream->codecpar, encoder_.get());
        stream->time_base = encoder_->time_base;
        stream->avg_frame_rate = encoder_->framerate;
        stream->r_frame_rate = encoder_->framerate;
        stream->sample_aspect_ratio = encoder_->sample_aspect_ratio;
        check(avio_open(&raw->pb, ("file:" + temporary_.string()).c_str(), AVIO_FLAG_WRITE));
        AVDictionary* settings = nullptr;
        if (options_.format != OutputFormat::ffv1Mkv) av_dict_set(&settings, "movflags", "+write_colr", 0);
        const int started = avformat_write_header(raw, &settings);
        av_dict_free(&settings);
        check(started);
    }

    void encode(const AVFrame* frame) {
        check(avcodec_send_frame(encoder_.get(), frame));
        const AVStream& stream = *muxer_->streams[0];
        while (true) {
            const int result = avcodec_receive_packet(encoder_.get(), packet_.get());
            if (result == AVERROR(EAGAIN) || result == AVERROR_EOF) return;
            check(result);
            if (packet_->duration == 0) packet_->duration = 1;
            av_packet_rescale_ts(packet_.get(), encoder_->time_base, stream.time_base);
            packet_->stream_index = 0;
            check(av_interleaved_write_frame(muxer_.get(), packet_.get()));
            // Buffered writes report a full disk on the file, not on the frame that met it.
            if (muxer_->pb->error < 0) check(muxer_->pb->error);
        }
    }

    /// Closes the file; the error of the last buffered write, or 0.
    int closeFile() {
        if (!muxer_ || !muxer_->pb) return 0;
        const int before = muxer_->pb->error;
        const int closed = avio_closep(&muxer_->pb);
        return before < 0 ? before : closed;
    }

    void check(int result) const {
        if (result < 0) throw Error(writeFailure(options_.target, AVUNERROR(result)));
    }

    WriterOptions options_;
    std::filesystem::path temporary_; // empty once renamed
    PacketPtr packet_;
    std::unique_ptr<AVCodecContext, EncoderFreer> encoder_;
    std::unique_ptr<AVFormatContext, MuxerFreer> muxer_;
    AVPixelFormat pixelFormat_ = AV_PIX_FMT_NONE;
    ColourTags inTags_;
    bool outIsRgb_ = false;
    bool fullRange_ = false;
    std::int64_t next_ = 0;
    std::vector<std::string> notes_;
};

} // namespace

std::unique_ptr<FrameWriter> openVideoWriter(const WriterOptions& options) {
    return std::make_unique<VideoWriter>(options);
}

} // namespace yarngap
