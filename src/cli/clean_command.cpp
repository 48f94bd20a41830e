#include "cli/commands.h"
#include "cli/text_target.h"
#include "core/cleaning/found_decisions.h"
#include "core/error.h"
#include "core/project/cleanup_file.h"
#include "core/shot/subject_holds.h"

#include <iostream>
#include <vector>

namespace yarngap::cli {

void clean(const ShotArguments& arguments, const CleanArguments& own, const Reader& reader) {
    Shot shot = arguments.baseShot();
    const Footage footage = opened(shot, arguments, 0, reader, nullptr, nullptr, LookedFor::all);
    InputFiles inputs = arguments.inputs();
    inputs.add(shot.media);
    inputs.refuse({own.target});
    const auto findings = reader.inspect(footage.index, LookedFor::all);
    FoundOptions options{.certainty = own.certainty, .lookAt = parseLookAt(own.lookAt)};
    std::vector<FoundFrame> holds;
    if (options.lookAt == LookAt::subject) {
        if (shot.matte.empty()) throw Error("The shot has no matte to look at. Give one with --matte.");
        holds = subjectHolds(*findings, shot.matte, *footage.axis);
        options.subjectHolds = holds;
    }
    const Cleanup found{foundDecisions(*findings, footage.axis->recipes(), options)};
    writeText(own.target, cleanupText(found));
    std::cout << (found.empty() ? std::string("nothing found") : summary(found)) << '\n';
}

} // namespace yarngap::cli
