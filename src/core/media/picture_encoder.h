// Pictures for a media file. Internal to media/.
#pragma once

#include "core/media/demuxer.h"
#include "core/media/frame_writer.h"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace yarngap {

/// Encodes frames, in order. Equal frames and options make equal packets.
class PictureEncoder {
  public:
    using Take = std::function<void(AVPacket&)>;

    /// Throws Error where the encoder is missing or cannot take such pictures.
    PictureEncoder(const WriterOptions& options, bool globalHeader);
    ~PictureEncoder();
    PictureEncoder(const PictureEncoder&) = delete;
    PictureEncoder& operator=(const PictureEncoder&) = delete;
    PictureEncoder(PictureEncoder&&) = delete;
    PictureEncoder& operator=(PictureEncoder&&) = delete;

    [[nodiscard]] const AVCodecContext& context() const { return *context_; }
    /// Hands over the packets that are ready, in time base context().time_base. Throws Error.
    void encode(const Image& image, const Take& take);
    /// What is still on its way.
    void finish(const Take& take);
    /// What the format could not keep, a sentence each.
    [[nodiscard]] const std::vector<std::string>& notes() const { return notes_; }

  private:
    void choosePixelFormat(const AVCodec& codec);
    void avoidOddChroma();
    void noteLosses();
    void describePictures();
    void describeColour();
    void open(const AVCodec& codec);
    void send(const AVFrame* frame, const Take& take);

    struct ContextFreer {
        void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
    };
    WriterOptions options_;
    PacketPtr packet_;
    std::unique_ptr<AVCodecContext, ContextFreer> context_;
    AVPixelFormat pixelFormat_ = AV_PIX_FMT_NONE;
    ColourTags inTags_;
    bool outIsRgb_ = false;
    bool fullRange_ = false;
    std::int64_t next_ = 0;
    std::vector<std::string> notes_;
};

} // namespace yarngap
