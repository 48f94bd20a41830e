// The options of in-betweens that `plan`, `render` and `vectors` share.
#pragma once

#include "core/settings/in_betweens.h"

#include <CLI/CLI.hpp>

#include <optional>
#include <string>

namespace yarngap::cli {

/// In-between settings as typed. Only what was given is set.
struct InBetweenArguments {
    std::optional<std::string> quality, analyseOn, inFront, sides, standIn;
    std::optional<int> stiffness, trustLimit, shutterAngle;
    bool evenTexture = false;
    bool keepRepeats = false;
    bool straightPaths = false;
    bool keepGrain = false;
    bool linearLight = false;

    /// Adds what shapes the motion, and with `synthesis` what shapes the picture.
    void addTo(CLI::App& command, bool synthesis);
    /// Puts what was given into `settings`; a quality is that of the render. Throws Error for unknown words
    /// and numbers out of range.
    void applyTo(InBetweens& settings) const;
};

} // namespace yarngap::cli
