// Writes the demo shots and the demo project.
//
//     yarngap-demo FOLDER [--truth]

#include "core/error.h"
#include "core/media/library_messages.h"
#include "theatre/theatre.h"

#include <cstdio>
#include <iostream>
#include <string>
#include <string_view>
#include <unistd.h>

int main(int argc, char** argv) {
    yarngap::silenceMediaLibraries();
    std::string folder;
    bool understood = true;
    yarngap::theatre::TheatreOptions options;
    for (int i = 1; i < argc; ++i) {
        const std::string argument = argv[i];
        if (argument == "--truth")
            options.truth = true;
        else if (folder.empty() && !argument.starts_with('-'))
            folder = argument;
        else
            understood = false;
    }
    const bool asks =
        argc == 2 &&
        (folder.empty() && (std::string_view(argv[1]) == "--help" || std::string_view(argv[1]) == "-h"));
    if (folder.empty() || !understood) {
        (asks ? std::cout : std::cerr) << "Usage: yarngap-demo FOLDER [--truth]\n";
        return asks ? 0 : 2;
    }
    try {
        // One line, rewritten on a terminal, and said once elsewhere.
        const bool rewritten = ::isatty(STDERR_FILENO) == 1;
        if (!rewritten) std::fputs("Filming the Saltmarsh Puppet Theatre", stderr);
        yarngap::theatre::makeTheatre(folder, options, [rewritten](double share) {
            if (rewritten)
                std::fprintf(stderr, "\rFilming the Saltmarsh Puppet Theatre %3.0f %%", share * 100);
        });
        std::fputs("\n", stderr);
        return 0;
    } catch (const std::exception& error) {
        std::cerr << '\n' << error.what() << '\n';
        return 1;
    }
}
