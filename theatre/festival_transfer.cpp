#include "theatre/festival_transfer.h"

#include "core/media/frame_writer.h"
#include "core/media/interpreted_source.h"
#include "theatre/exposure.h"

#include <tbb/parallel_for.h>

#include <array>
#include <vector>

namespace yarngap::theatre {

namespace {

constexpr int width = 720;
constexpr int height = 480;

WriterOptions optionsFor(const std::filesystem::path& target, const Rate& rate) {
    return {.target = target,
            .format = formatForTarget(target),
            .rate = rate,
            .width = width,
            .height = height,
            .layout = {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1},
            .colour = {.primaries = 6, .transfer = 6, .matrix = 6, .chromaSite = 1},
            .pixelAspect = 1};
}

} // namespace

TransferFields festivalFields(std::int64_t n) {
    constexpr std::array<std::int64_t, 5> first{0, 1, 1, 2, 3};
    constexpr std::array<std::int64_t, 5> second{0, 1, 2, 3, 3};
    const std::int64_t place = n < festivalEdit ? n : n + 2;
    const auto within = static_cast<std::size_t>(place % 5);
    return {place / 5 * 4 + first.at(within), place / 5 * 4 + second.at(within)};
}

void makeFestivalTransfer(const std::filesystem::path& transfer, const std::filesystem::path& truth,
                          const Progress& progress) {
    const auto scene = heronGlide(width, height);
    const Camera camera{.width = width,
                        .height = height,
                        .rate = Rate(24000, 1001),
                        .shutterSeconds = 1.0 / 96,
                        .samples = 4,
                        .seed = 11};
    const std::int64_t filmFrames = festivalFields(festivalFrames - 1).bottom + 1;
    std::vector<Image> film(static_cast<std::size_t>(filmFrames));
    tbb::parallel_for(std::int64_t{0}, filmFrames, [&](std::int64_t n) {
        film[static_cast<std::size_t>(n)] = expose(*scene, camera, n);
        if (progress) progress(static_cast<double>(n) / static_cast<double>(filmFrames));
    });
    const auto video = openWriter(optionsFor(transfer, Rate(30000, 1001)));
    for (std::int64_t n = 0; n < festivalFrames; ++n) {
        const TransferFields fields = festivalFields(n);
        video->write(
            weave(film[static_cast<std::size_t>(fields.top)], film[static_cast<std::size_t>(fields.bottom)]));
    }
    video->finish();
    if (truth.empty()) return;
    const auto clean = openWriter(optionsFor(truth, camera.rate));
    for (const Image& frame : film)
        clean->write(frame);
    clean->finish();
}

} // namespace yarngap::theatre
