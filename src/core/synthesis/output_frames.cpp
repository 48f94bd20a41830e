#include "core/synthesis/output_frames.h"

namespace yarngap {

std::optional<FrameTrouble> OutputFrames::worstTroubleOf(std::int64_t n) const {
    std::optional<FrameTrouble> worst;
    for (auto& [frame, trouble] : troublesOf(n))
        if (!worst || worst->kind < trouble.kind) worst = std::move(trouble);
    return worst;
}

} // namespace yarngap
