#include "core/media/frame_source.h"

#include "core/error.h"
#include "core/media/media_identity.h"

#include <algorithm>

namespace yarngap {

namespace {

constexpr std::int64_t searchRadius = 250; // frames to look through for a stand-in

} // namespace

FrameSource::FrameSource(std::shared_ptr<const MediaIndex> index, std::size_t cacheBytes)
    : index_(std::move(index))
    , identity_(index_->identity.empty() ? mediaIdentity(*index_) : index_->identity)
    , cache_(cacheBytes) {}

ImagePtr FrameSource::decode(std::int64_t n, const std::stop_token& stop) {
    if (auto hit = cache_.find(n)) return *hit;
    const std::scoped_lock lock(decoderMutex_);
    if (auto hit = cache_.find(n)) return *hit; // another thread decoded it meanwhile
    if (!decoder_) decoder_ = std::make_unique<FrameDecoder>(index_);
    const auto keep = [this](std::int64_t frame, const DecodedFrame& decoded) {
        cache_.insert(frame, decoded.image, decoded.image->byteCount());
        if (decoded.codedWidth > 0) {
            const std::scoped_lock guard(troublesMutex_);
            troubles_.try_emplace(frame, "Frame " + std::to_string(frame) + " is " +
                                             std::to_string(decoded.codedWidth) + " x " +
                                             std::to_string(decoded.codedHeight) +
                                             " in the file and scaled to the size of the first.");
        }
        if (decoded.damaged) {
            const std::scoped_lock guard(troublesMutex_);
            troubles_.try_emplace(frame, "Frame " + std::to_string(frame) +
                                             " is damaged in the file; the decoder covered the damage up.");
        }
    };
    const DecodedFrame decoded = decoder_->decode(n, keep, stop);
    keep(n, decoded);
    return decoded.image;
}

ImagePtr FrameSource::frame(std::int64_t n, const std::stop_token& stop) {
    try {
        return decode(n, stop);
    } catch (const Cancelled&) {
        throw;
    } catch (const Error&) {
        for (std::int64_t step = 1; step <= searchRadius; ++step) {
            for (const std::int64_t other : {n - step, n + step}) {
                if (other < 0 || other >= frames()) continue;
                try {
                    ImagePtr image = decode(other, stop);
                    cache_.insert(n, image, image->byteCount());
                    const std::scoped_lock guard(troublesMutex_);
                    troubles_[n] = "Frame " + std::to_string(n) + " cannot be decoded; frame " +
                                   std::to_string(other) + " is shown instead.";
                    return image;
                } catch (const Cancelled&) {
                    throw;
                } catch (const Error&) {
                    continue;
                }
            }
        }
        throw;
    }
}

std::map<std::int64_t, std::string> FrameSource::troubles() const {
    const std::scoped_lock guard(troublesMutex_);
    return troubles_;
}

} // namespace yarngap
