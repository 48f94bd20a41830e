// What a render is made of.
#pragma once

#include "core/media/media_index.h"
#include "core/shot/source_axis.h"
#include "core/synthesis/output_frames.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

/// A range of the output frames of a shot. In a reel it follows the part before, and nothing is made across
/// the cut.
struct RenderPart {
    std::string name; ///< for messages
    OutputFramesPtr frames;
    std::int64_t first = 0;
    std::optional<std::int64_t> last = std::nullopt; ///< included; absent: to the end
    /// The file and the axis of its frames, for sound and timecode; null where there is neither.
    std::shared_ptr<const MediaIndex> index = nullptr;
    std::shared_ptr<const SourceAxis> axis = nullptr;

    [[nodiscard]] std::int64_t end() const { return last ? *last + 1 : frames->count(); }
    [[nodiscard]] std::int64_t count() const { return end() - first; }
    [[nodiscard]] bool hasSound() const { return index && axis && index->facts.hasSound; }
};

/// Frames of all parts.
[[nodiscard]] std::int64_t framesOf(const std::vector<RenderPart>& parts);

/// Of `parts`, laid end to end, what frames `first` to `end` (not included) consist of.
[[nodiscard]] std::vector<RenderPart> cutOut(const std::vector<RenderPart>& parts, std::int64_t first,
                                             std::int64_t end);

} // namespace yarngap
