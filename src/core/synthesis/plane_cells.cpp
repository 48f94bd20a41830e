#include "core/synthesis/plane_cells.h"

#include <algorithm>
#include <bit>
#include <cstdint>

namespace yarngap {

namespace {

/// A cell as the vector unit takes it.
using Four = float __attribute__((vector_size(16)));
static_assert(sizeof(MidCell) == sizeof(Four));

/// `part` of the way from `a` to `b`; the nearer one where a seam lies between them.
Four between(const MidCell& a, const MidCell& b, float part, bool seam) {
    const Four from = std::bit_cast<Four>(a);
    const Four to = std::bit_cast<Four>(b);
    if (seam) return part < 0.5F ? from : to;
    return from + part * (to - from);
}

} // namespace

PlaneCells::PlaneCells(const MidMotion& mid, const Image& like, int p)
    : mid_(mid) {
    const bool chroma = like.layout().isChroma(p);
    const int shiftX = chroma ? like.layout().chromaShiftX : 0;
    const int shiftY = chroma ? like.layout().chromaShiftY : 0;
    across_ = places(like.plane(p).width, shiftX, mid.width);
    down_ = places(like.plane(p).height, shiftY, mid.height);
    scaleX_ = 2.0F / static_cast<float>(1 << shiftX);
    scaleY_ = 2.0F / static_cast<float>(1 << shiftY);
}

std::vector<PlaneCells::Place> PlaneCells::places(int samples, int shift, int cells) {
    std::vector<Place> out(static_cast<std::size_t>(samples));
    const float samplesInCell = 2.0F / static_cast<float>(1 << shift);
    for (std::size_t i = 0; i < out.size(); ++i) {
        const float place = std::clamp((static_cast<float>(i) + 0.5F) / samplesInCell - 0.5F, 0.0F,
                                       static_cast<float>(cells - 1));
        const int first = std::min(static_cast<int>(place), std::max(0, cells - 2));
        out[i] = {first, place - static_cast<float>(first)};
    }
    return out;
}

void PlaneCells::row(int y, std::vector<MidCell>& line) const {
    const Place& place = down_[static_cast<std::size_t>(y)];
    const MidCell* above = mid_.row(place.first);
    const MidCell* below = mid_.row(std::min(place.first + 1, mid_.height - 1));
    const Four scale{scaleX_, scaleY_, 1, 1};
    const auto seamsOf = [this](int row) -> const std::uint8_t* {
        return mid_.seams.empty()
                   ? nullptr
                   : mid_.seams.data() + static_cast<std::size_t>(row) * static_cast<std::size_t>(mid_.width);
    };
    const std::uint8_t* down = seamsOf(place.first);
    const std::uint8_t* across =
        seamsOf(std::min(place.first + (place.part < 0.5F ? 0 : 1), mid_.height - 1));
    // One cell more, for what lies on the last.
    std::vector<MidCell> cells(static_cast<std::size_t>(mid_.width) + 1);
    for (std::size_t x = 0; x + 1 < cells.size(); ++x)
        cells[x] = std::bit_cast<MidCell>(
            scale * between(above[x], below[x], place.part, down && (down[x] & MidMotion::seamBelow)));
    cells.back() = cells[cells.size() - 2];
    line.resize(across_.size());
    for (std::size_t x = 0; x < line.size(); ++x) {
        const auto first = static_cast<std::size_t>(across_[x].first);
        line[x] = std::bit_cast<MidCell>(between(cells[first], cells[first + 1], across_[x].part,
                                                 across && (across[first] & MidMotion::seamAfter)));
    }
}

} // namespace yarngap
