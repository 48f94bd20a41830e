#include "core/shot/subject_holds.h"

#include "core/progress.h"
#include "core/synthesis/matte_frames.h"

#include <cstddef>
#include <cstdint>
#include <string>

namespace yarngap {

namespace {

constexpr int columns = 16; // of CellChanges
constexpr int rows = 9;

/// The cells of which a quarter or more lies inside.
CellMask cellsOf(const Image& coverage) {
    CellMask cells;
    const int width = coverage.width();
    const int height = coverage.height();
    for (int row = 0; row < rows; ++row)
        for (int column = 0; column < columns; ++column) {
            std::int64_t sum = 0;
            std::int64_t count = 0;
            for (int y = height * row / rows; y < height * (row + 1) / rows; ++y) {
                const auto line = coverage.row<std::uint16_t>(0, y);
                for (int x = width * column / columns; x < width * (column + 1) / columns; ++x, ++count)
                    sum += line[static_cast<std::size_t>(x)];
            }
            constexpr std::int64_t full = 65535;
            if (count > 0 && 4 * sum >= full * count)
                cells.set(static_cast<std::size_t>(row) * columns + static_cast<std::size_t>(column));
        }
    return cells;
}

/// For each coded frame the frame of the axis that shows it, or the last one before it.
std::vector<std::int64_t> framesOfCoded(const SourceAxis& axis, std::int64_t codedFrames) {
    std::vector<std::int64_t> frames(static_cast<std::size_t>(codedFrames), -1);
    for (std::int64_t n = 0; n < axis.frames(); ++n) {
        if (axis.origin(n).kind == FrameOrigin::Kind::putIn) continue;
        const FrameRecipe& recipe = axis.recipes().at(static_cast<std::size_t>(axis.origin(n).frame));
        if (recipe.top >= 0 && recipe.top < codedFrames) {
            auto& frame = frames[static_cast<std::size_t>(recipe.top)];
            if (frame < 0) frame = n;
        }
    }
    std::int64_t last = 0;
    for (std::int64_t& frame : frames) {
        if (frame < 0) frame = last;
        last = frame;
    }
    return frames;
}

} // namespace

std::vector<FoundFrame> subjectHolds(const ShotFindings& findings, const Matte& matte, const SourceAxis& axis,
                                     const std::stop_token& stop) {
    if (matte.empty() || findings.besideCamera.empty()) return {};
    const MatteFrames frames(matte, axis.facts().width, axis.facts().height,
                             [&axis](std::int64_t n) { return axis.origin(n).frame; });
    std::vector<CellMask> masks;
    masks.reserve(findings.besideCamera.size());
    std::string key; // of the last one: outlines stay for many frames, pictures change with each
    for (const std::int64_t n :
         framesOfCoded(axis, static_cast<std::int64_t>(findings.besideCamera.size()))) {
        throwIfStopped(stop);
        std::string here = frames.key(n);
        masks.push_back(!masks.empty() && here == key ? masks.back() : cellsOf(frames.coverage(n, stop)));
        key = std::move(here);
    }
    return heldFrames(findings.besideCamera, findings.cuts, {.strongestOnly = true, .only = masks});
}

} // namespace yarngap
