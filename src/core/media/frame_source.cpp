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
    , edition_(index_->edition.empty() ? mediaEdition(*index_) : index_->edition)
    , cache_(cacheBytes) {}

std::string FrameSource::identityOf(std::int64_t first, std::int64_t last) const {
    std::string text = edition_ + ':' + std::to_string(first);
    if (last != first) text += ".." + std::to_string(last);
    return text;
}

void FrameSource::note(std::int64_t n, FrameTrouble::Kind kind, const std::string& sentence) {
    const std::scoped_lock guard(troublesMutex_);
    troubles_.try_emplace(n, FrameTrouble{kind, "Frame " + std::to_string(n) + ' ' + sentence});
}

bool FrameSource::isUndecodable(std::int64_t n) const {
    const auto trouble = troubleOf(n);
    return trouble && trouble->kind == FrameTrouble::Kind::undecodable;
}

ImagePtr FrameSource::decode(std::int64_t n, const std::stop_token& stop) {
    if (auto hit = cache_.find(n)) return *hit;
    const std::scoped_lock lock(decoderMutex_);
    if (auto hit = cache_.find(n)) return *hit; // another thread decoded it meanwhile
    if (!decoder_) decoder_ = std::make_unique<FrameDecoder>(index_);
    const auto keep = [this](std::int64_t frame, const DecodedFrame& decoded) {
        cache_.insert(frame, decoded.image, decoded.image->byteCount());
        if (decoded.damaged)
            note(frame, FrameTrouble::Kind::damaged,
                 "is damaged in the file; the decoder covered the damage up.");
        else if (decoded.codedWidth > 0)
            note(frame, FrameTrouble::Kind::otherSize,
                 "is " + std::to_string(decoded.codedWidth) + " x " + std::to_string(decoded.codedHeight) +
                     " in the file and scaled to the size of the first.");
    };
    const DecodedFrame decoded = decoder_->decode(n, keep, stop);
    keep(n, decoded);
    return decoded.image;
}

ImagePtr FrameSource::frame(std::int64_t n, const std::stop_token& stop) {
    std::string why = "Frame " + std::to_string(n) + " cannot be decoded.";
    if (!isUndecodable(n)) {
        try {
            return decode(n, stop);
        } catch (const Undecodable& error) {
            why = error.what();
        }
    }
    for (std::int64_t step = 1; step <= searchRadius; ++step)
        for (const std::int64_t other : {n - step, n + step}) {
            if (other < 0 || other >= frames() || isUndecodable(other)) continue;
            try {
                ImagePtr image = decode(other, stop);
                note(n, FrameTrouble::Kind::undecodable,
                     "cannot be decoded; frame " + std::to_string(other) + " is shown instead.");
                return image;
            } catch (const Undecodable&) {
                continue;
            }
        }
    throw Undecodable(why);
}

std::vector<std::filesystem::path> FrameSource::files() const {
    return index_->pictures.empty() ? std::vector{index_->facts.path} : index_->pictures;
}

std::optional<FrameTrouble> FrameSource::troubleOf(std::int64_t n) const {
    const std::scoped_lock guard(troublesMutex_);
    const auto found = troubles_.find(n);
    return found == troubles_.end() ? std::nullopt : std::optional(found->second);
}

} // namespace yarngap
