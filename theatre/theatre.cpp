#include "theatre/theatre.h"

#include "core/media/frame_writer.h"
#include "core/project/project.h"
#include "theatre/bell_sound.h"
#include "theatre/cellar_tape.h"
#include "theatre/exposure.h"
#include "theatre/festival_transfer.h"
#include "theatre/old_reel.h"
#include "theatre/phone_clip.h"

#include <tbb/parallel_for.h>

#include <vector>

namespace yarngap::theatre {

namespace {

/// Exposes and writes `frames` frames, a few at a time on all cores.
void film(const Scene& scene, const Camera& camera, std::int64_t frames, const std::filesystem::path& target,
          const Progress& progress) {
    const auto writer = openWriter({.target = target,
                                    .format = formatForTarget(target),
                                    .rate = camera.rate,
                                    .width = camera.width,
                                    .height = camera.height,
                                    .layout = {.depth = camera.depth, .chromaShiftX = 1, .chromaShiftY = 1},
                                    .colour = {.primaries = 1, .transfer = 1, .matrix = 1, .chromaSite = 2},
                                    .pixelAspect = 1});
    constexpr std::int64_t batch = 8;
    for (std::int64_t n = 0; n < frames; n += batch) {
        const std::int64_t count = std::min(batch, frames - n);
        std::vector<Image> images(static_cast<std::size_t>(count));
        tbb::parallel_for(std::int64_t{0}, count, [&](std::int64_t i) {
            images[static_cast<std::size_t>(i)] = expose(scene, camera, n + i);
        });
        for (const Image& image : images)
            writer->write(image);
        if (progress) progress(static_cast<double>(n + count) / static_cast<double>(frames));
    }
    writer->finish();
}

constexpr double halfShutter = 1.0 / 48; // 180 degrees at 24 fps

Camera heronCamera(int width, int height) {
    return {.width = width,
            .height = height,
            .rate = Rate(24, 1),
            .shutterSeconds = halfShutter / 2,
            .samples = 4,
            .seed = 3};
}

Camera fourfold(Camera camera) {
    camera.rate = Rate(camera.rate.value() * Rational(4));
    camera.seed += 1000;
    return camera;
}

} // namespace

void makeHeron(const std::filesystem::path& shot, const std::filesystem::path& truth, int width, int height,
               int frames) {
    const auto scene = heronGlide(width, height);
    film(*scene, heronCamera(width, height), frames, shot, {});
    if (!truth.empty())
        film(*scene, fourfold(heronCamera(width, height)), std::int64_t{frames} * 4, truth, {});
}

namespace {

/// The project of the demo shots, whether they are there yet or not.
void writeProject(const std::filesystem::path& folder) {
    const auto file = folder / "saltmarsh.yarngap";
    if (std::filesystem::exists(file)) return;
    Project project;
    project.name = "Saltmarsh autumn film";
    for (const char* name :
         {"heron_glide.mp4", "fox_on_twos.mp4", "bell_swing.mov", "lantern_parade.mp4",
          "festival_transfer.mp4", "old_reel.mp4", "phone_heron.mp4", "cellar_tape.mp4", "toy_box.mp4"})
        project.shots.push_back(shotOf(folder / name));
    project.shots.front().speed = Rational(1, 4);
    saveProject(project, file);
}

} // namespace

void makeTheatre(const std::filesystem::path& folder, const TheatreOptions& o, const Progress& progress) {
    std::error_code ec;
    std::filesystem::create_directories(folder, ec);
    const Camera heron = heronCamera(o.width, o.height);
    Camera fox = heron;
    fox.seed = 5;
    fox.shutterSeconds = 1.0 / 96;
    Camera bell = heron;
    bell.seed = 7;
    bell.shutterSeconds = halfShutter;
    bell.samples = 12;
    bell.depth = 10;

    Camera parade = heron;
    parade.seed = 11;

    Camera reel = heron;
    reel.seed = 9;
    reel.grain = 4.2;
    Camera tape = heron;
    tape.seed = 13;
    Camera toys = heron;
    toys.seed = 17;
    toys.samples = 8;

    struct Take {
        const char* name;
        std::unique_ptr<Scene> (*scene)(int, int);
        Camera camera;
        std::int64_t frames;
    };
    std::vector<Take> takes{
        {"heron_glide.mp4", heronGlide, heron, 96}, {"fox_on_twos.mp4", foxOnTwos, fox, 120},
        {"bell_swing.mov", bellSwing, bell, 96},    {"lantern_parade.mp4", lanternParade, parade, 96},
        {"old_reel.mp4", oldReel, reel, 96},        {"cellar_tape.mp4", cellarTape, tape, cellarTapeFrames},
        {"toy_box.mp4", toyBox, toys, 72}};
    if (o.truth) {
        takes.push_back({"heron_glide_truth.mkv", heronGlide, fourfold(heron), 384});
        takes.push_back({"lantern_parade_truth.mkv", lanternParade, fourfold(parade), 384});
        takes.push_back({"toy_box_truth.mkv", toyBox, fourfold(toys), 288});
    }
    for (std::size_t i = 0; i < takes.size(); ++i) {
        const auto target = folder / takes[i].name;
        if (std::filesystem::exists(target)) {
            writeProject(folder);
            continue;
        }
        const bool rings = takes[i].scene == &bellSwing;
        const auto pictures = rings ? folder / ".bell_swing.pictures.mov" : target;
        film(*takes[i].scene(o.width, o.height), takes[i].camera, takes[i].frames, pictures,
             [&](double share) {
                 if (progress) progress((static_cast<double>(i) + share) / static_cast<double>(takes.size()));
             });
        if (i == 0) writeProject(folder); // work on it can begin
        if (!rings) continue;
        const auto half = folder / ".bell_swing.partial.mov";
        addBellSound(pictures, half, static_cast<double>(takes[i].frames) / takes[i].camera.rate.toDouble());
        std::filesystem::rename(half, target);
        std::filesystem::remove(pictures);
    }

    const auto transfer = folder / "festival_transfer.mp4";
    if (!std::filesystem::exists(transfer))
        makeFestivalTransfer(
            transfer, o.truth ? folder / "festival_transfer_truth.mkv" : std::filesystem::path(), progress);

    const auto phone = folder / "phone_heron.mp4";
    if (!std::filesystem::exists(phone)) makePhoneClip(phone, progress);
}

} // namespace yarngap::theatre
