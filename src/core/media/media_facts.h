// What a media file says of itself, and what its index adds.
#pragma once

#include "core/image/pixel_layout.h"
#include "core/time/rate.h"

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>

namespace yarngap {

enum class Scan { unknown, progressive, topFieldFirst, bottomFieldFirst };

[[nodiscard]] std::string_view name(Scan scan);

/// A reel's name as a file gives it, with at most 64 printable characters.
[[nodiscard]] std::string tidyReel(std::string_view text);

/// Facts about the picture stream of a file.
struct MediaFacts {
    std::filesystem::path path;
    std::int64_t fileBytes = 0;
    std::string container;   ///< FFmpeg's short name, "matroska,webm"
    std::string codec;       ///< "h264"
    std::string pixelFormat; ///< FFmpeg's name of the coded format
    int width = 0;
    int height = 0;
    Rational pixelAspect = 1; ///< width over height of a pixel
    PixelLayout layout;       ///< layout the frames are worked on in
    ColourTags colour;
    Scan scan = Scan::unknown;
    int rotation = 0; ///< degrees clockwise that the file asks players to turn the picture by
    bool hasSound = false;
    int soundStreams = 0; ///< of which the first one is used
    std::string
        timecode;     ///< of the first frame, "10:00:00:00", ";" before the frames for drop-frame; or empty
    std::string reel; ///< name of the reel, or empty

    Rate rate;                ///< frames per second; measured from the timestamps once indexed
    bool constantRate = true; ///< timestamps evenly spaced, up to the container's own rounding
    std::int64_t frames = 0;  ///< exact when `indexed`, else the file's claim, 0 when it makes none
    bool indexed = false;
    std::string remark; ///< what was left out while indexing and why, in a sentence; usually empty

    [[nodiscard]] Rational seconds() const { return Rational(frames) / rate.value(); }
};

} // namespace yarngap
