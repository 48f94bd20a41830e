// Sound for a media file. Internal to media/.
#pragma once

#include "core/media/demuxer.h"
#include "core/media/output_format.h"
#include "core/sound/sound.h"

#include <functional>
#include <memory>
#include <vector>

namespace yarngap {

/// Encodes sound in pieces of any length. Integers are rounded to 24 bit.
class SoundEncoder {
  public:
    using Take = std::function<void(AVPacket&)>;

    /// `codec` is not `usual`. Throws Error for a form it cannot hold.
    SoundEncoder(const SoundForm& form, SoundCodec codec, bool globalHeader);
    ~SoundEncoder();
    SoundEncoder(const SoundEncoder&) = delete;
    SoundEncoder& operator=(const SoundEncoder&) = delete;
    SoundEncoder(SoundEncoder&&) = delete;
    SoundEncoder& operator=(SoundEncoder&&) = delete;

    [[nodiscard]] const AVCodecContext& context() const { return *context_; }
    /// Sound in the form given. Packets have times in samples.
    void encode(const Sound& sound, const Take& take);
    /// What is still on its way.
    void finish(const Take& take);

  private:
    void send(std::size_t count, const Take& take);
    void receive(const Take& take);

    struct ContextFreer {
        void operator()(AVCodecContext* c) const { avcodec_free_context(&c); }
    };
    std::unique_ptr<AVCodecContext, ContextFreer> context_;
    PacketPtr packet_;
    std::vector<float> waiting_; ///< samples, interleaved, not yet enough for a frame
    std::size_t taken_ = 0;      ///< of those, already encoded
    std::int64_t next_ = 0;
};

} // namespace yarngap
