// The sound of a shot's file.
#pragma once

#include "core/media/media_index.h"
#include "core/sound/sound.h"

#include <stop_token>

namespace yarngap {

/// Sound from second `from` to second `to`, counted from the moment of the first picture, whatever the file's
/// own rate and channels (more than two are mixed down). Silence where the file has none, before its start or
/// behind its end. Throws Error when there is no sound stream or it cannot be decoded, Cancelled when
/// stopped.
Sound readSound(const MediaIndex& index, double from, double to, const std::stop_token& stop = {});

} // namespace yarngap
