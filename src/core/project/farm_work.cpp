#include "core/project/farm_work.h"

#include "core/files/local_file.h"
#include "core/files/new_file.h"
#include "core/project/work_file.h"
#include "core/render/farm.h"
#include "core/render/slice_folder.h"

#include <algorithm>

namespace yarngap {

namespace {

constexpr std::int64_t largestWork = 256 << 20; // bytes

} // namespace

int submitWork(const RenderWork& work, const std::filesystem::path& program) {
    const RenderTarget& target = work.targets.front();
    const SliceFolder folder(SliceFolder::beside(target.file));
    constexpr int most = 1000; // Slurm's own limit of an array
    const std::int64_t frames = framesToMake(work);
    const int wanted = std::min(most, usualSliceCount(frames));
    const std::string text = workText(work, folder.path());
    FarmJob job{.folder = folder.path(),
                .name = target.file.stem().string(),
                .workingFolder = folder.path().parent_path(),
                .command = {program.string(), "render", folder.workFile().string(), "-o",
                            target.file.string(), "--slices", std::to_string(wanted)},
                .slices = static_cast<int>(slicesOf(frames, wanted, work.settings.scan).size())};
    if (target.replace) job.command.emplace_back("--replace");
    if (isWorkedOn(folder.path()) && contentOf(folder.workFile(), largestWork, "job") == text)
        return job.slices;
    refuseWorkedOn(folder.path()); // its workers read the file that is written next
    folder.create();
    writeWhole(folder.workFile(), text);
    submitToFarm(job);
    return job.slices;
}

RenderWork workBeside(const std::filesystem::path& target) {
    const SliceFolder folder(SliceFolder::beside(target));
    return parseWork(contentOf(folder.workFile(), largestWork, "job"),
                     std::filesystem::absolute(folder.path()), folder.workFile().string());
}

} // namespace yarngap
