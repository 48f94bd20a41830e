#include "cli/commands.h"
#include "cli/text_target.h"
#include "core/cleaning/found_decisions.h"
#include "core/project/cleanup_file.h"

#include <iostream>

namespace yarngap::cli {

void clean(const ShotArguments& arguments, const CleanArguments& own, const Reader& reader) {
    Shot shot = arguments.baseShot();
    const Footage footage = opened(shot, arguments, 0, reader);
    InputFiles inputs = arguments.inputs();
    inputs.add(shot.media);
    inputs.refuse({own.target});
    const Cleanup found{foundDecisions(*reader.inspect(footage.index), footage.axis->recipes(),
                                       {.certainty = own.certainty, .lookAt = parseLookAt(own.lookAt)})};
    writeText(own.target, cleanupText(found));
    std::cout << (found.empty() ? std::string("nothing found") : summary(found)) << '\n';
}

} // namespace yarngap::cli
