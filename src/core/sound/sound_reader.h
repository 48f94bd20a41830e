// The sound of a shot's file.
#pragma once

#include "core/media/media_index.h"
#include "core/sound/sound.h"

#include <stop_token>

namespace yarngap {

/// How the file's own sound is sampled. Throws Error when there is none, or none that can be.
SoundForm soundFormOf(const MediaIndex& index, const std::stop_token& stop = {});

/// Sound from second `from` to second `to`, counted from the moment of the first picture, in `form`, whatever
/// the file's own rate and channels (more than that has are mixed down). Silence where the file has none,
/// before its start or behind its end. Throws Error when there is no sound stream or it cannot be decoded,
/// Cancelled when stopped.
Sound readSound(const MediaIndex& index, double from, double to, const SoundForm& form = {},
                const std::stop_token& stop = {});

} // namespace yarngap
