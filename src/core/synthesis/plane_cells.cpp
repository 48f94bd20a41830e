#include "core/synthesis/plane_cells.h"

#include "core/widest.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cstdint>
#include <cstring>

namespace yarngap {

namespace {

/// A cell as the vector unit takes it.
using Four = float __attribute__((vector_size(16)));
static_assert(sizeof(MidCell) == sizeof(Four));

/// What part of the way counts; where a seam lies between, the nearer cell alone.
float partBeside(float part, bool seam) {
    return seam ? (part < 0.5F ? 0.0F : 1.0F) : part;
}

// Seams are marks of cells; none where there are none.

/// n cells between those of two rows, times `scale`.
YARNGAP_WIDEST void mixRows(const MidCell* above, const MidCell* below, std::size_t n, float part,
                            const std::uint8_t* seams, const float* scale, MidCell* out) {
    Four times;
    std::memcpy(&times, scale, sizeof times);
    for (std::size_t x = 0; x < n; ++x) {
        Four from, to;
        std::memcpy(&from, above + x, sizeof from);
        std::memcpy(&to, below + x, sizeof to);
        const float p = partBeside(part, seams && (seams[x] & MidMotion::seamBelow));
        const Four mixed = times * (from + p * (to - from));
        out[x] = std::bit_cast<MidCell>(mixed);
    }
}

/// n cells times `scale`.
YARNGAP_WIDEST void scaleRow(const MidCell* cells, std::size_t n, const float* scale, MidCell* out) {
    Four times;
    std::memcpy(&times, scale, sizeof times);
    for (std::size_t x = 0; x < n; ++x) {
        Four cell;
        std::memcpy(&cell, cells + x, sizeof cell);
        cell *= times;
        out[x] = std::bit_cast<MidCell>(cell);
    }
}

/// n samples between `cells`.
YARNGAP_WIDEST void spread(const MidCell* cells, const PlaneCells::Place* places, std::size_t n,
                           const std::uint8_t* seams, MidCell* out) {
    for (std::size_t x = 0; x < n; ++x) {
        const PlaneCells::Place place = places[x];
        Four from, to;
        std::memcpy(&from, cells + place.first, sizeof from);
        std::memcpy(&to, cells + place.first + 1, sizeof to);
        const float p = partBeside(place.part, seams && (seams[place.first] & MidMotion::seamAfter));
        const Four mixed = from + p * (to - from);
        out[x] = std::bit_cast<MidCell>(mixed);
    }
}

/// Whether the samples lie on the middles of cells, one on each.
bool areMiddles(const std::vector<PlaneCells::Place>& places) {
    for (std::size_t i = 0; i < places.size(); ++i) {
        const auto& [first, part] = places[i];
        if (static_cast<float>(first) + part != static_cast<float>(i)) return false;
    }
    return true;
}

} // namespace

PlaneCells::PlaneCells(const MidMotion& mid, const Image& like, int p)
    : mid_(mid) {
    const bool chroma = like.layout().isChroma(p);
    const int shiftX = chroma ? like.layout().chromaShiftX : 0;
    const int shiftY = chroma ? like.layout().chromaShiftY : 0;
    across_ = places(like.plane(p).width, shiftX, mid.width);
    down_ = places(like.plane(p).height, shiftY, mid.height);
    isOfCells_ = areMiddles(across_) && areMiddles(down_);
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
    const std::array<float, 4> scale{scaleX_, scaleY_, 1, 1};
    if (isOfCells_) {
        line.resize(across_.size());
        scaleRow(mid_.row(y), line.size(), scale.data(), line.data());
        return;
    }
    const Place& place = down_[static_cast<std::size_t>(y)];
    const MidCell* above = mid_.row(place.first);
    const MidCell* below = mid_.row(std::min(place.first + 1, mid_.height - 1));
    const auto seamsOf = [this](int row) -> const std::uint8_t* {
        return mid_.seams.empty()
                   ? nullptr
                   : mid_.seams.data() + static_cast<std::size_t>(row) * static_cast<std::size_t>(mid_.width);
    };
    const auto n = static_cast<std::size_t>(mid_.width);
    // The cells of this row, behind the samples, and one more for what lies on the last.
    line.resize(across_.size() + n + 1);
    MidCell* cells = line.data() + across_.size();
    mixRows(above, below, n, place.part, seamsOf(place.first), scale.data(), cells);
    cells[n] = cells[n - 1];
    spread(cells, across_.data(), across_.size(),
           seamsOf(std::min(place.first + (place.part < 0.5F ? 0 : 1), mid_.height - 1)), line.data());
    line.resize(across_.size());
}

} // namespace yarngap
