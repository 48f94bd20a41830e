#include "core/media/frame_source.h"

#include "core/error.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <fstream>
#include <iterator>
#include <vector>

namespace yarngap {

namespace {

/// FNV-1a, 64 bit (Fowler, Noll, Vo).
class Hash {
  public:
    void add(const char* data, std::size_t size) {
        for (std::size_t i = 0; i < size; ++i)
            value_ = (value_ ^ static_cast<std::uint8_t>(data[i])) * 0x100000001B3ULL;
    }
    void add(std::int64_t v) { add(reinterpret_cast<const char*>(&v), sizeof v); }
    [[nodiscard]] std::uint64_t value() const { return value_; }

  private:
    std::uint64_t value_ = 0xCBF29CE484222325ULL;
};

constexpr std::int64_t searchRadius = 250; // frames to look through for a stand-in

} // namespace

std::string mediaIdentity(const MediaIndex& index) {
    Hash hash;
    const std::int64_t size = index.facts.fileBytes;
    hash.add(size);
    for (const PacketEntry& p : index.packets) {
        hash.add(p.size);
        hash.add(p.key ? 1 : 0);
    }
    std::ifstream file(index.facts.path, std::ios::binary);
    std::vector<char> block(std::size_t{64} << 10);
    const auto blockSize = static_cast<std::int64_t>(block.size());
    for (const std::int64_t at : {std::int64_t{0}, size / 2, std::max<std::int64_t>(0, size - blockSize)}) {
        file.clear();
        file.seekg(at);
        file.read(block.data(), blockSize);
        hash.add(block.data(), static_cast<std::size_t>(file.gcount()));
    }
    std::array<char, 48> text{};
    std::snprintf(text.data(), text.size(), "%lld-%016llx", static_cast<long long>(size),
                  static_cast<unsigned long long>(hash.value()));
    return text.data();
}

FrameSource::FrameSource(std::shared_ptr<const MediaIndex> index, std::size_t cacheBytes)
    : index_(std::move(index))
    , identity_(mediaIdentity(*index_))
    , cache_(cacheBytes) {}

ImagePtr FrameSource::decode(std::int64_t n, const std::stop_token& stop) {
    if (auto hit = cache_.find(n)) return *hit;
    const std::scoped_lock lock(decoderMutex_);
    if (auto hit = cache_.find(n)) return *hit; // another thread decoded it meanwhile
    if (!decoder_) decoder_ = std::make_unique<FrameDecoder>(index_);
    const auto keep = [this](std::int64_t frame, const DecodedFrame& decoded) {
        cache_.insert(frame, decoded.image, decoded.image->byteCount());
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
