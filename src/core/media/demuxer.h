// FFmpeg's demuxer and decoder as owned objects. Internal to media/.
#pragma once

#include "core/image/ffmpeg_image.h"
#include "core/media/media_facts.h"
#include "core/media/media_input.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

#include <cstdint>
#include <filesystem>
#include <memory>

namespace yarngap {

struct PacketDeleter {
    void operator()(AVPacket* p) const { av_packet_free(&p); }
};
using PacketPtr = std::unique_ptr<AVPacket, PacketDeleter>;

/// What of a file is read.
enum class StreamKind { pictures, sound };

/// The first stream of a kind of a local file, packet by packet. Only containers of a list are opened, and no
/// other file or network address is ever followed from there.
class Demuxer {
  public:
    /// Throws Error in words for the editor when the path is missing, empty, no media or has no such stream;
    /// Cancelled when stopped. `stop` counts for reading too, until next() or seek() is given another.
    explicit Demuxer(const std::filesystem::path& path, StreamKind kind = StreamKind::pictures,
                     const std::stop_token& stop = {});

    /// Next packet of the stream; false at the end. Throws SourceLost when the file cannot be read or
    /// somebody wrote to it since it was opened, Cancelled when stopped.
    bool next(AVPacket& packet, const std::stop_token& stop);
    /// True once reading ended on an error instead of a clean end of file.
    [[nodiscard]] bool endedOnError() const { return endedOnError_; }
    /// Goes to the key frame at or before `timestamp` (stream time base), or near it; false when it cannot.
    /// Throws as next() does.
    bool seek(std::int64_t timestamp, const std::stop_token& stop);
    /// The file as it was when opened.
    [[nodiscard]] const FileEdition& edition() const { return input_->file().edition(); }
    /// Throws SourceLost when somebody wrote to the file since.
    void refuseChanged() const;
    /// Share of the file read so far, 0 to 1.
    [[nodiscard]] double position() const;

    [[nodiscard]] const AVStream& stream() const { return *format_->streams[stream_]; }
    /// Of a picture stream.
    [[nodiscard]] MediaFacts facts() const;
    /// Of what the stream's decoder is set up with, besides the packets.
    [[nodiscard]] std::uint64_t codecHash() const;

  private:
    void refusePicturesUnfit() const;
    /// A text that the stream, the file or another stream goes with; empty where there is none.
    [[nodiscard]] std::string told(const char* key) const;

    const AVInputFormat& recognised(const std::string& url);
    void open(const AVInputFormat& kind, const std::string& url);
    void choose(StreamKind wanted);

    struct FormatCloser {
        void operator()(AVFormatContext* c) const { avformat_close_input(&c); }
    };
    std::filesystem::path path_;
    std::unique_ptr<MediaInput> input_; // outlives format_
    std::unique_ptr<AVFormatContext, FormatCloser> format_;
    int stream_ = 0;
    bool endedOnError_ = false;
};

/// What frames are decoded for: to be looked at, or only to learn which of them come out. For the
/// order alone, borders of blocks are not smoothed, which saves time.
enum class DecodedFor { looking, order };

/// A decoder for the stream of a demuxer. The packet's `pts` comes back as the frame's `pts`, so
/// callers number packets with it and learn which packet a frame came from.
class Decoder {
  public:
    explicit Decoder(const AVStream& stream, DecodedFor purpose = DecodedFor::looking);

    /// Feeds a packet, or the end of the stream when null. Undecodable packets are skipped; false then.
    /// Throws Error when memory runs out, which is no fault of the packet's.
    bool send(const AVPacket* packet);
    /// Next frame in display order; false when more packets are needed or all frames are out.
    bool receive(AVFrame& frame);
    /// Forgets all state, for a jump.
    void flush();

  private:
    struct ContextFreer {
        void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
    };
    std::unique_ptr<AVCodecContext, ContextFreer> context_;
};

PacketPtr makePacket();

} // namespace yarngap
