// A media file in the making, packet by packet. Internal to media/.
#pragma once

#include "core/media/demuxer.h"

#include <filesystem>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace yarngap {

/// Streams written into one file, which is there when it is whole, or not there (see NewFile). The same
/// packets make the same bytes.
///
///     Muxer muxer(target, "matroska");
///     AVStream& pictures = muxer.addStream(*encoder);
///     muxer.begin();
///     muxer.write(packet, pictures, encoder->time_base);
///     muxer.finish();
class Muxer {
  public:
    /// `kind`: FFmpeg's name of the container. Throws Error.
    Muxer(std::filesystem::path target, const std::string& kind);
    ~Muxer();
    Muxer(const Muxer&) = delete;
    Muxer& operator=(const Muxer&) = delete;
    Muxer(Muxer&&) = delete;
    Muxer& operator=(Muxer&&) = delete;

    /// Whether encoders have to put their headers there instead of into packets.
    [[nodiscard]] bool wantsGlobalHeader() const;
    /// A stream of what `encoder`, which is open, gives.
    AVStream& addStream(const AVCodecContext& encoder);
    /// All streams are there. `settings`: of the muxer.
    void begin(const std::vector<std::pair<std::string, std::string>>& settings = {});
    /// Takes a packet whose times are in `timeBase`. Streams may run ahead of each other.
    void write(AVPacket& packet, const AVStream& stream, AVRational timeBase);
    void finish();
    [[nodiscard]] std::int64_t bytes() const; ///< so far
    /// Throws Error for what an FFmpeg function returned, unless that is fine.
    void check(int result) const;

  private:
    class File;
    struct ContextFreer {
        void operator()(AVFormatContext* c) const { avformat_free_context(c); }
    };
    std::filesystem::path target_;
    std::unique_ptr<File> file_; // outlives context_
    std::unique_ptr<AVFormatContext, ContextFreer> context_;
};

/// FFmpeg's name of the container for a file of this ending.
std::string containerFor(const std::filesystem::path& target);

} // namespace yarngap
