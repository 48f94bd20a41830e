#include "core/render/render_part.h"

#include <algorithm>

namespace yarngap {

std::int64_t framesOf(const std::vector<RenderPart>& parts) {
    std::int64_t frames = 0;
    for (const RenderPart& part : parts)
        frames += part.count();
    return frames;
}

std::vector<RenderPart> cutOut(const std::vector<RenderPart>& parts, std::int64_t first, std::int64_t end) {
    std::vector<RenderPart> cut;
    std::int64_t begin = 0;
    for (const RenderPart& part : parts) {
        const std::int64_t from = std::max(first, begin);
        const std::int64_t to = std::min(end, begin + part.count());
        if (from < to) {
            RenderPart& piece = cut.emplace_back(part);
            piece.first = part.first + from - begin;
            piece.last = part.first + to - begin - 1;
        }
        begin += part.count();
    }
    return cut;
}

} // namespace yarngap
