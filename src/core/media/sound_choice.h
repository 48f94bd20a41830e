// What sound goes into which file.
#pragma once

#include "core/media/output_format.h"
#include "core/sound/sound.h"

#include <filesystem>

namespace yarngap {

/// The codec that `choice` asks for in a file like `target`. Throws Error where it does not go in there.
SoundCodec soundCodecFor(const FormatChoice& choice, const std::filesystem::path& target);
/// The form nearest to `own` that the codec can hold.
SoundForm soundFormFor(SoundCodec codec, const SoundForm& own);

} // namespace yarngap
