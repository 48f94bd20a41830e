// Names of files in the making, by processes of a test's choice.
#pragma once

#include "core/files/leftovers.h"

#include <string>

namespace yarngap::test {

inline std::filesystem::path nameBy(const Maker& maker, int number) {
    return ".yarngap-" + maker.place + '-' + maker.boot + '-' + std::to_string(maker.process) + '-' +
           std::to_string(maker.started) + '-' + std::to_string(number) + ".partial";
}

} // namespace yarngap::test
