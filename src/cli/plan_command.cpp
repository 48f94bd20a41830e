#include "cli/commands.h"
#include "cli/json_output.h"
#include "cli/text_target.h"
#include "core/project/time_map_json.h"
#include "core/time/edl.h"
#include "core/time/map_text.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace yarngap::cli {

void plan(const ShotArguments& arguments, const std::string& mapTarget, const std::string& edlTarget,
          bool json, const Reader& reader) {
    Shot shot = arguments.baseShot();
    const Footage footage = opened(shot, arguments, 0, reader);
    const Timing timing = arguments.timing(shot, footage.axis->facts());
    const FramePlan made = planOf(shot, *footage.axis, timing, findingsOf(arguments, shot, footage, reader));
    std::vector<std::filesystem::path> targets;
    for (const std::string& target : {mapTarget, edlTarget})
        if (!target.empty()) targets.emplace_back(target);
    InputFiles inputs = arguments.inputs();
    inputs.add(shot.media);
    inputs.refuse(targets);
    refuseSameOutput(targets);
    if (!mapTarget.empty())
        writeText(mapTarget, std::filesystem::path(mapTarget).extension() == ".json"
                                 ? writeKeys(timing.asKeys()).dump(1) + '\n'
                                 : toCsv(timing.asKeys()));
    if (!edlTarget.empty()) writeText(edlTarget, toEdl(shot.name, shot.media.filename().string(), timing));
    if (json)
        std::cout << toJson(timing, made).dump(1) << '\n';
    else
        std::cout << toText(timing, made);
}

} // namespace yarngap::cli
