// The index of a shot: which packet holds display frame n, and where to start decoding for it.
#pragma once

#include "core/files/file_edition.h"
#include "core/media/media_facts.h"
#include "core/progress.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <vector>

namespace yarngap {

/// One packet of the picture stream, in decoding order.
struct PacketEntry {
    std::optional<std::int64_t> pts; ///< display time in stream ticks
    std::optional<std::int64_t> dts; ///< decoding time in stream ticks
    std::int64_t filePosition = -1;  ///< bytes from the start of the file, -1 when unknown
    std::uint64_t hash = 0;          ///< of its bytes; 0 for a picture file
    std::int32_t size = 0;           ///< bytes
    bool key = false;
    std::int32_t shownAs = -1; ///< display frame that comes out of it, -1 when none does
};

/// Frame-exact index. Frames are what linear decoding of the file shows, in display order, counted from 0.
class MediaIndex {
  public:
    MediaFacts facts;                        ///< complete, `indexed` true
    std::vector<PacketEntry> packets;        ///< decoding order
    std::vector<std::int32_t> displayPacket; ///< packet that display frame n came from
    std::string identity;                    ///< of the content, see mediaIdentity
    std::string edition;                     ///< what is kept of it is kept under this, see mediaEdition
    FileEdition file;                        ///< of video, when it was indexed
    std::uint64_t codecHash = 0;             ///< of what the decoder is set up with
    /// For a picture sequence, the file of each frame, empty where it is missing or unfit; empty for video.
    std::vector<std::filesystem::path> pictures;
    std::vector<FileEdition> pictureEditions; ///< of each of these, when it was indexed
    Rational timeBase = 1;                    ///< seconds in a tick of the packets' times

    [[nodiscard]] std::int64_t frames() const { return static_cast<std::int64_t>(displayPacket.size()); }
    /// Packet to start decoding at so that `packet` comes out as in linear decoding: the last key packet
    /// not after it in decoding order nor in display order (open GOPs show frames before their key frame).
    [[nodiscard]] std::int32_t startFor(std::int32_t packet) const;
    /// Sets `shownAs` of all packets from `displayPacket`.
    void numberPackets();
};

/// Reads all packets of a file (no decoding but for the first and last frames, to leave out what a decoder
/// never shows; the whole file when its packets carry no usable times). Throws Error or Cancelled.
MediaIndex buildIndex(const std::filesystem::path& path, const Progress& progress = {},
                      const std::stop_token& stop = {});

} // namespace yarngap
