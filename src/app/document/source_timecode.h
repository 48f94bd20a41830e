// Timecodes of the frames of a shot's file, for what shows them.
#pragma once

#include <QString>

#include <cstdint>
#include <functional>
#include <memory>

namespace yarngap {
class SourceAxis;
class MediaIndex;
} // namespace yarngap

namespace yarngap::app {

/// Timecode of a source frame; null where the file has none.
using SourceTimecode = std::function<QString(std::int64_t frame)>;

SourceTimecode sourceTimecodeOf(std::shared_ptr<const MediaIndex> index,
                                std::shared_ptr<const SourceAxis> axis);

} // namespace yarngap::app
