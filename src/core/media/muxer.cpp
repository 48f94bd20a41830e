#include "core/media/muxer.h"

#include "core/error.h"
#include "core/files/new_file.h"
#include "core/files/write_failure.h"

#include <algorithm>
#include <cctype>
#include <exception>

namespace yarngap {

/// A file in the making as FFmpeg's muxers write to it. What goes wrong waits in rethrow(), since nothing may
/// be thrown through C.
class Muxer::File {
  public:
    explicit File(const std::filesystem::path& target)
        : file_(target) {
        constexpr int bufferBytes = 64 * 1024;
        auto* buffer = static_cast<unsigned char*>(av_malloc(bufferBytes));
        if (buffer) io_ = avio_alloc_context(buffer, bufferBytes, 1, this, nullptr, &write, &seek);
        if (io_) return;
        av_free(buffer);
        throw Error(writeFailure(target, ENOMEM));
    }
    ~File() {
        av_freep(&io_->buffer);
        avio_context_free(&io_);
    }
    File(const File&) = delete;
    File& operator=(const File&) = delete;
    File(File&&) = delete;
    File& operator=(File&&) = delete;

    [[nodiscard]] AVIOContext* io() const { return io_; }
    [[nodiscard]] std::int64_t bytes() const { return file_.bytes(); }
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
        auto& own = *static_cast<File*>(self);
        return static_cast<int>(own.guarded([&] {
            own.file_.write(std::as_bytes(std::span(bytes, static_cast<std::size_t>(count))));
            return std::int64_t{count};
        }));
    }
    static std::int64_t seek(void* self, std::int64_t offset, int whence) {
        auto& own = *static_cast<File*>(self);
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

Muxer::Muxer(std::filesystem::path target, const std::string& kind)
    : target_(std::move(target)) {
    AVFormatContext* raw = nullptr;
    if (avformat_alloc_output_context2(&raw, nullptr, kind.c_str(), nullptr) < 0)
        throw Error("There is not enough memory to write. Close other programs.");
    context_.reset(raw);
    // No dates, versions or random numbers: what is rendered again is the same file.
    raw->flags |= AVFMT_FLAG_BITEXACT;
    raw->strict_std_compliance = FF_COMPLIANCE_EXPERIMENTAL; // for FLAC in MP4
    // Sound encoders begin before 0; moving the pictures back for that would part them from it.
    raw->avoid_negative_ts = AVFMT_AVOID_NEG_TS_DISABLED;
}

Muxer::~Muxer() = default;

bool Muxer::wantsGlobalHeader() const {
    return (context_->oformat->flags & AVFMT_GLOBALHEADER) != 0;
}

AVStream& Muxer::addStream(const AVCodecContext& encoder) {
    AVStream* stream = avformat_new_stream(context_.get(), nullptr);
    if (!stream || avcodec_parameters_from_context(stream->codecpar, &encoder) < 0)
        throw Error("There is not enough memory to write. Close other programs.");
    stream->time_base = encoder.time_base;
    if (encoder.codec_type == AVMEDIA_TYPE_VIDEO) {
        stream->avg_frame_rate = encoder.framerate;
        stream->r_frame_rate = encoder.framerate;
        stream->sample_aspect_ratio = encoder.sample_aspect_ratio;
    }
    return *stream;
}

void Muxer::begin(const std::vector<std::pair<std::string, std::string>>& settings) {
    file_ = std::make_unique<File>(target_);
    context_->pb = file_->io();
    context_->flags |= AVFMT_FLAG_CUSTOM_IO;
    AVDictionary* given = nullptr;
    for (const auto& [name, value] : settings)
        av_dict_set(&given, name.c_str(), value.c_str(), 0);
    const int started = avformat_write_header(context_.get(), &given);
    av_dict_free(&given);
    check(started);
}

void Muxer::write(AVPacket& packet, const AVStream& stream, AVRational timeBase) {
    av_packet_rescale_ts(&packet, timeBase, stream.time_base);
    packet.stream_index = stream.index;
    check(av_interleaved_write_frame(context_.get(), &packet));
    file_->rethrow(); // buffered writes fail behind the frame that met them
}

void Muxer::finish() {
    check(av_write_trailer(context_.get()));
    file_->finish();
}

std::int64_t Muxer::bytes() const {
    return file_ ? file_->bytes() : 0;
}

void Muxer::check(int result) const {
    if (result >= 0) return;
    if (file_) file_->rethrow();
    throw Error(writeFailure(target_, AVUNERROR(result)));
}

std::string containerFor(const std::filesystem::path& target) {
    std::string ending = target.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    if (ending == ".mkv") return "matroska";
    return ending.substr(std::min<std::size_t>(1, ending.size()));
}

} // namespace yarngap
