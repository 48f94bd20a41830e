#include "core/media/frame_decoder.h"

#include "core/media/demuxer.h"
#include "core/media/media_identity.h"
#include "core/media/picture_sequence.h"

#include <algorithm>
#include <span>
#include <unordered_map>

namespace yarngap {

namespace {

bool isDamaged(const AVFrame& frame) {
    return frame.decode_error_flags != 0 || (frame.flags & AV_FRAME_FLAG_CORRUPT) != 0;
}

} // namespace

class FrameDecoder::State {
  public:
    explicit State(std::shared_ptr<const MediaIndex> index)
        : index_(std::move(index))
        , packet_(makePacket())
        , frame_(makeFrame()) {
        const auto& packets = index_->packets;
        for (std::size_t i = 0; i < packets.size(); ++i)
            byPlace_.emplace(placeKey(packets[i].filePosition, packets[i].size),
                             static_cast<std::int32_t>(i));
    }

    DecodedFrame decode(std::int64_t n, const Sink& sink, const std::stop_token& stop) {
        try {
            if (!demuxer_) restart(stop);
            return decodeNow(n, sink, stop);
        } catch (const Undecodable&) {
            throw;
        } catch (...) {
            demuxer_.reset(); // it may have been left in the middle of a packet
            throw;
        }
    }

  private:
    DecodedFrame decodeNow(std::int64_t n, const Sink& sink, const std::stop_token& stop) {
        const std::int32_t target = index_->displayPacket.at(static_cast<std::size_t>(n));
        const std::int32_t start = index_->startFor(target);
        const bool ahead = n > lastOut_ && (start < nextPacket_ || start - nextPacket_ <= 2);
        if (!ahead) enterAt(start, stop);
        while (true) {
            while (decoder_->receive(*frame_)) {
                if (frame_->pts == AV_NOPTS_VALUE) continue;
                const auto& entry = index_->packets.at(static_cast<std::size_t>(frame_->pts));
                if (entry.shownAs < 0 || entry.shownAs < firstClean_) continue;
                lastOut_ = entry.shownAs;
                const MediaFacts& f = index_->facts;
                DecodedFrame out{std::make_shared<Image>(toImage(*frame_, f.layout, f.width, f.height)),
                                 isDamaged(*frame_)};
                if (frame_->width != f.width || frame_->height != f.height) {
                    out.codedWidth = frame_->width;
                    out.codedHeight = frame_->height;
                }
                if (lastOut_ == n) return out;
                if (sink) sink(lastOut_, out);
                if (lastOut_ > n) throw undecodable(n);
            }
            throwIfStopped(stop);
            if (ended_) throw undecodable(n);
            feed(stop);
        }
    }

    static std::uint64_t placeKey(std::int64_t position, int size) {
        return static_cast<std::uint64_t>(position) * 0x9E3779B97F4A7C15ULL ^
               static_cast<std::uint64_t>(size);
    }

    [[nodiscard]] Undecodable undecodable(std::int64_t n) const {
        return Undecodable(
            "Frame " + std::to_string(n) + " of " + index_->facts.path.string() +
            " cannot be decoded; the file is damaged there. Copy it again, or trim the shot to "
            "leave the frame out.");
    }

    void restart(const std::stop_token& stop) {
        demuxer_ = reopened(stop);
        decoder_ = std::make_unique<Decoder>(demuxer_->stream());
        nextPacket_ = 0;
        lastOut_ = -1;
        firstClean_ = 0;
        pending_ = false;
        ended_ = false;
    }

    /// Throws SourceLost for a file that cannot be opened as it was.
    [[nodiscard]] std::unique_ptr<Demuxer> reopened(const std::stop_token& stop) const {
        std::unique_ptr<Demuxer> demuxer;
        try {
            demuxer = std::make_unique<Demuxer>(index_->facts.path, StreamKind::pictures, stop);
        } catch (const Cancelled&) {
            throw;
        } catch (const Error& error) {
            const auto now = editionOf(index_->facts.path);
            if (now && !now->sameContent(index_->file)) throw changedOnDisk(index_->facts.path);
            throw SourceLost(error.what());
        }
        if (!demuxer->edition().sameContent(index_->file)) throw changedOnDisk(index_->facts.path);
        return demuxer;
    }

    /// Reads on to packet `start` and decodes from there.
    void enterAt(std::int32_t start, const std::stop_token& stop) {
        if (fromStartOnly_ || !seekTo(start, stop)) {
            restart(stop);
            while (nextPacket_ < start) {
                throwIfStopped(stop);
                if (!demuxer_->next(*packet_, stop)) throw changedOnDisk(index_->facts.path);
                ++nextPacket_;
            }
        } else if (start == 0) {
            // Flushed, it would still remember what it has learnt from later frames.
            decoder_ = std::make_unique<Decoder>(demuxer_->stream());
        } else {
            decoder_->flush();
        }
        ended_ = false;
        lastOut_ = -1;
        // Leading frames of an open GOP come out broken when entering at its key frame; never show those.
        firstClean_ = start == 0 ? 0 : index_->packets[static_cast<std::size_t>(start)].shownAs;
    }

    /// Seeks near packet `start` and reads up to it, so that it is pending; false when the place is not
    /// found.
    bool seekTo(std::int32_t start, const std::stop_token& stop) {
        // Containers differ in the clock they seek by and may land behind; go back key by key a few times.
        std::int32_t aim = start;
        for (int attempt = 0; attempt < 4; ++attempt) {
            const auto& entry = index_->packets[static_cast<std::size_t>(aim)];
            for (const auto& time : {entry.dts, entry.pts}) {
                if (!time || !demuxer_->seek(*time, stop)) continue;
                if (readUpTo(start, stop)) return true;
            }
            while (aim > 0 && !index_->packets[static_cast<std::size_t>(--aim)].key) {
            }
            if (aim == 0) break;
        }
        return false;
    }

    bool readUpTo(std::int32_t start, const std::stop_token& stop) {
        std::int32_t ordinal = -1;
        for (int unknown = 0; unknown < 64 && demuxer_->next(*packet_, stop);) {
            throwIfStopped(stop);
            if (ordinal < 0) {
                ordinal = ordinalOf(*packet_);
                if (ordinal < 0) {
                    ++unknown;
                    continue;
                }
            } else if (!matches(*packet_, ++ordinal)) {
                return false;
            }
            if (ordinal > start) return false;
            if (ordinal == start) {
                nextPacket_ = start;
                pending_ = true;
                return true;
            }
        }
        return false;
    }

    [[nodiscard]] bool matches(const AVPacket& packet, std::int32_t ordinal) const {
        if (ordinal >= static_cast<std::int32_t>(index_->packets.size())) return false;
        const auto& entry = index_->packets[static_cast<std::size_t>(ordinal)];
        return entry.size == packet.size && entry.filePosition == packet.pos;
    }

    /// Packet number by place and size, and by time where those are shared; -1 when not certain.
    [[nodiscard]] std::int32_t ordinalOf(const AVPacket& packet) const {
        const auto [begin, end] = byPlace_.equal_range(placeKey(packet.pos, packet.size));
        std::int32_t found = -1;
        const bool several = begin != end && std::next(begin) != end;
        for (auto it = begin; it != end; ++it) {
            const auto& entry = index_->packets[static_cast<std::size_t>(it->second)];
            if (!matches(packet, it->second)) continue;
            if ((several || packet.pos < 0) && (packet.pts == AV_NOPTS_VALUE || entry.pts != packet.pts))
                continue;
            if (found >= 0) return -1;
            found = it->second;
        }
        return found;
    }

    void feed(const std::stop_token& stop) {
        const bool read = nextPacket_ < static_cast<std::int32_t>(index_->packets.size()) &&
                          (pending_ || demuxer_->next(*packet_, stop));
        pending_ = false;
        if (!read) {
            ended_ = true;
            decoder_->send(nullptr);
            return;
        }
        if (!matches(*packet_, nextPacket_)) {
            // The file changed under us, or this container cuts packets differently after a jump.
            demuxer_->refuseChanged();
            if (fromStartOnly_) throw changedOnDisk(index_->facts.path);
            fromStartOnly_ = true;
            restart(stop);
            return;
        }
        if (hashOf(std::as_bytes(std::span(packet_->data, static_cast<std::size_t>(packet_->size)))) !=
            index_->packets[static_cast<std::size_t>(nextPacket_)].hash)
            throw changedOnDisk(index_->facts.path);
        packet_->pts = packet_->dts = nextPacket_++;
        decoder_->send(packet_.get());
    }

    std::shared_ptr<const MediaIndex> index_;
    std::unordered_multimap<std::uint64_t, std::int32_t> byPlace_;
    std::unique_ptr<Demuxer> demuxer_; // null before the first frame, and after a failure
    std::unique_ptr<Decoder> decoder_;
    PacketPtr packet_;
    FramePtr frame_;
    std::int32_t nextPacket_ = 0; // number of the packet that feed() sends next
    std::int64_t lastOut_ = -1;   // last display frame that came out
    std::int64_t firstClean_ = 0; // display frames before this one lack references since the last jump
    bool pending_ = false;        // packet_ holds packet nextPacket_ already
    bool ended_ = false;
    bool fromStartOnly_ = false; // this file cannot be entered in the middle
};

FrameDecoder::FrameDecoder(std::shared_ptr<const MediaIndex> index)
    : index_(std::move(index))
    , state_(index_->pictures.empty() ? std::make_unique<State>(index_) : nullptr)
    , reading_(index_->pictures.empty() ? nullptr : std::make_shared<ReadingThread>()) {}
FrameDecoder::~FrameDecoder() = default;
FrameDecoder::FrameDecoder(FrameDecoder&&) noexcept = default;
FrameDecoder& FrameDecoder::operator=(FrameDecoder&&) noexcept = default;

DecodedFrame FrameDecoder::decode(std::int64_t n, const Sink& alongTheWay, const std::stop_token& stop) {
    return state_ ? state_->decode(n, alongTheWay, stop) : readPictureOf(n, stop);
}

DecodedFrame FrameDecoder::readPictureOf(std::int64_t n, const std::stop_token& stop) const {
    const auto& file = index_->pictures.at(static_cast<std::size_t>(n));
    if (file.empty())
        throw Undecodable("Frame " + std::to_string(n) + " of the sequence of " +
                          index_->facts.path.string() +
                          " is missing or unfit. Put the picture in its place and open the sequence again.");
    const FileEdition& indexed = index_->pictureEditions[static_cast<std::size_t>(n)];
    const auto refuseChanged = [&] {
        const auto now = editionOf(file);
        if (!now)
            throw SourceLost(file.string() + " is no longer there. Put it back and open the sequence again.");
        if (!now->sameContent(indexed)) throw changedOnDisk(file);
    };
    refuseChanged();
    try {
        DecodedFrame decoded{std::make_shared<Image>(readPicture(file, index_->facts, reading_, stop)),
                             false};
        refuseChanged(); // while it was read
        return decoded;
    } catch (const Cancelled&) {
        throw;
    } catch (const SourceLost&) {
        throw;
    } catch (const Error& error) {
        refuseChanged();
        throw Undecodable(error.what());
    }
}

ImagePtr decodeFirstPicture(const std::filesystem::path& path, MediaFacts& facts,
                            const std::stop_token& stop) {
    if (isPictureFile(path)) {
        const auto reading = std::make_shared<ReadingThread>();
        const std::filesystem::path first = firstPictureOf(path);
        facts = pictureFacts(first, reading, stop);
        return std::make_shared<Image>(readPicture(first, facts, reading, stop));
    }
    Demuxer demuxer(path, StreamKind::pictures, stop);
    facts = demuxer.facts();
    Decoder decoder(demuxer.stream());
    const PacketPtr packet = makePacket();
    const FramePtr frame = makeFrame();
    const auto shown = [&]() -> ImagePtr {
        return decoder.receive(*frame)
                   ? std::make_shared<Image>(toImage(*frame, facts.layout, facts.width, facts.height))
                   : nullptr;
    };
    while (demuxer.next(*packet, stop)) {
        throwIfStopped(stop);
        decoder.send(packet.get());
        if (ImagePtr picture = shown()) return picture;
    }
    decoder.send(nullptr);
    if (ImagePtr picture = shown()) return picture;
    throw Error("No frame of " + path.string() +
                " can be decoded. The file is damaged; copy it again from where it came from.");
}

} // namespace yarngap
