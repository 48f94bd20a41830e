// The sound of a shot along its source axis.
#pragma once

#include "core/media/media_index.h"
#include "core/shot/source_axis.h"
#include "core/sound/plan_sound.h"

#include <memory>
#include <stop_token>

namespace yarngap {

/// What soundOf() needs to know of a shot.
///
/// Its time is that of the source axis with the stretches left out that belong to frames taken out: their
/// sound goes with them. `read` counts in that time.
struct ShotSound {
    SourceTime time;
    ReadSound read;
};

/// The sound of the file of `index` in `form`. Where a frame was taken out, what lay before and behind it is
/// joined over 2 ms.
ShotSound shotSound(const std::shared_ptr<const MediaIndex>& index, std::shared_ptr<const SourceAxis> axis,
                    const SoundForm& form = {}, const std::stop_token& stop = {});

} // namespace yarngap
