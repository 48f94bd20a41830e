#include "core/media/video_writer.h"

#include "core/error.h"
#include "core/files/new_file.h"
#include "core/files/write_failure.h"
#include "core/image/ffmpeg_image.h"
#include "core/image/scene_light.h"
#include "core/media/demuxer.h"

extern "C" {
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
}

#include <algorithm>
#include <exception>
#include <limits>
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

/// A file in the making as FFmpeg's muxers write to it. What goes wrong waits in rethrow(), since nothing may
/// be thrown through C.
class MuxerFile {
  public:
    explicit MuxerFile(const std::filesystem::path& target)
        : file_(target) {
        constexpr int bufferBytes = 64 * 1024;
        auto* buffer = static_cast<unsigned char*>(av_malloc(bufferBytes));
        if (buffer) io_ = avio_alloc_context(buffer, bufferBytes, 1, this, nullptr, &write, &seek);
        if (io_) return;
        av_free(buffer);
        throw Error(writeFailure(target, ENOMEM));
    }
    ~MuxerFile() {
        av_freep(&io_->buffer);
        avio_context_free(&io_);
    }
    MuxerFile(const MuxerFile&) = delete;
    MuxerFile& operator=(const MuxerFile&) = delete;
    MuxerFile(MuxerFile&&) = delete;
    MuxerFile& operator=(MuxerFile&&) = delete;

    [[nodiscard]] AVIOContext* io() const { return io_; }
    void rethrow() {
        if (failure_) std::rethrow_exception(failure_);
    }
    void finish() {
        avio_flush(io_);
        rethrow();
        file_.finish();
    }

  private:
    template <typename Work>
    std::int64_t guarded(Work work) {
        if (failure_) return AVERROR(EIO);
        try {
            return work();
        } catch (...) {
            failure_ = std::current_exception();
            return AVERROR(EIO);
        }
    }
    static int write(void* self, std::uint8_t* bytes, int count) {
        auto& own = *static_cast<MuxerFile*>(self);
        return static_cast<int>(own.guarded([&] {
            own.file_.write(std::as_bytes(std::span(bytes, static_cast<std::size_t>(count))));
            return std::int64_t{count};
        }));
    }
    static std::int64_t seek(void* self, std::int64_t offset, int whence) {
        auto& own = *static_cast<MuxerFile*>(self);
        return own.guarded([&]() -> std::int64_t {
            const std::int64_t size = own.file_.bytes();
            if ((whence & AVSEEK_SIZE) != 0) return size;
            const int from = whence & ~AVSEEK_FORCE;
            const std::int64_t place = offset + (from == SEEK_CUR   ? own.file_.place()
                                                 : from == SEEK_END ? size
                                                                    : 0);
            if (place < 0) return AVERROR(EINVAL);
            own.file_.seek(place);
            return place;
        });
    }

    NewFile file_;
    AVIOContext* io_ = nullptr;
    std::exception_ptr failure_;
};

/// Encoders and containers count in 32 bit. The simplest fraction within 10^-10 of the rate: over a day at 60
/// fps that is a thousandth of a frame.
AVRational rateFor32Bit(const Rate& rate) {
    constexpr double enough = 1e-10;
    AVRational simple{0, 1};
    for (std::int64_t largest = 1000; largest <= std::numeric_limits<int>::max(); largest *= 10) {
        av_reduce(&simple.num, &simple.den, rate.num(), rate.den(), largest);
        if (simple.num > 0 && std::abs(av_q2d(simple) / rate.toDouble() - 1) < enough) return simple;
    }
    av_reduce(&simple.num, &simple.den, rate.num(), rate.den(), std::numeric_limits<int>::max());
    return simple;
}

class VideoWriter final : public FrameWriter {
  public:
    explicit VideoWriter(const WriterOptions& options)
        : options_(options)
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

    ~VideoWriter() override = default;

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
        file_->finish();
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
        c.framerate = rateFor32Bit(options_.rate);
        c.time_base = av_inv_q(c.framerate);
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
        if (opened == AVERROR(ENOMEM)) throw Error(outOfMemory);
        if (opened == AVERROR_EXTERNAL) // the encoder's own library, which does not tell why
            throw Error("The encoder of " + std::string(name(options_.format)) +
                        " cannot be started for pictures of " + std::to_string(options_.width) + " x " +
                        std::to_string(options_.height) + " pixels at " + options_.rate.display() +
                        " fps. Close other programs if memory is short, or choose another format.");
        if (opened < 0)
            throw Error(std::string(name(options_.format)) + " cannot hold pictures of " +
                        std::to_string(options_.width) + " x " + std::to_string(options_.height) +
                        " pixels at " + options_.rate.display() + " fps. Choose another format.");
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
        file_ = std::make_unique<MuxerFile>(options_.target);
        raw->pb = file_->io();
        raw->flags |= AVFMT_FLAG_CUSTOM_IO;
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
            file_->rethrow(); // buffered writes fail behind the frame that met them
        }
    }

    void check(int result) const {
        if (result >= 0) return;
        if (file_) file_->rethrow();
        throw Error(writeFailure(options_.target, AVUNERROR(result)));
    }

    WriterOptions options_;
    PacketPtr packet_;
    std::unique_ptr<MuxerFile> file_; // outlives muxer_
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
