#include "app/document/source_timecode.h"

#include "core/shot/shot_timecode.h"

namespace yarngap::app {

SourceTimecode sourceTimecodeOf(std::shared_ptr<const MediaIndex> index,
                                std::shared_ptr<const SourceAxis> axis) {
    if (sourceTimecode(*index, *axis, 0).empty()) return nullptr;
    return [index = std::move(index), axis = std::move(axis)](std::int64_t frame) {
        return QString::fromStdString(sourceTimecode(*index, *axis, frame));
    };
}

} // namespace yarngap::app
