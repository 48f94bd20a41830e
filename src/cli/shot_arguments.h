// The timing options that `plan` and `render` share.
#pragma once

#include "cli/in_between_arguments.h"
#include "core/error.h"
#include "core/files/input_files.h"
#include "core/media/media_facts.h"
#include "core/project/project.h"

#include <CLI/CLI.hpp>

#include <optional>
#include <string>
#include <vector>

namespace yarngap::cli {

/// Timing as typed. Only what was given is set.
struct ShotArguments {
    std::string input; ///< media file, or project where allowed
    std::string shot;  ///< which shot of a project, by name or number from 1
    std::optional<std::string> speed, length, toRate, method, cuts, repeats, matte;
    std::optional<std::string> clean;
    std::optional<std::string> mends;
    std::optional<std::int64_t> from, to;
    std::optional<std::string> map, ramp, freeze, edl;
    std::vector<std::string> methodsAt;
    InBetweenArguments inBetweens;
    bool subjectBelow = false;
    bool reverse = false;
    bool thereAndBack = false;
    bool everyFrame = false;
    bool asMeasured = false;
    bool sameLength = false;

    /// Adds the options to a subcommand.
    void addTo(CLI::App& command);
    void addMatteTo(CLI::App& command);
    /// Of them, those that say where cuts and repeats are.
    void addFindingsTo(CLI::App& command);
    /// The shot named by `input`, before timing: the media file itself or a shot of the project.
    [[nodiscard]] Shot baseShot() const;
    /// Files named by the arguments, and the media of all shots of a project: none of them is written on.
    [[nodiscard]] InputFiles inputs() const;
    /// Whether anything is given that is for one shot only, and what.
    [[nodiscard]] std::string forOneShot() const;
    /// The part of `timing` that changes the speed on the way.
    void applyMap(Timing& timing) const;
    /// The file of decisions that --clean names, or how sure the search must be of what it found; both absent
    /// when nothing is given. Throws WrongUsage.
    struct Cleaning {
        std::optional<std::string> file;
        std::optional<double> certainty;
    };
    [[nodiscard]] Cleaning cleaning() const;
    /// Methods as given replace those of the shot. Throws WrongUsage.
    void applyMethods(Shot& base) const;
    /// The gaps given as cuts; absent when they are to be looked for. Throws WrongUsage.
    [[nodiscard]] std::optional<std::vector<std::int64_t>> cutGaps() const;
    /// The frames given as repeats; absent when they are to be looked for. Throws WrongUsage.
    [[nodiscard]] std::optional<std::vector<std::int64_t>> repeatedFrames() const;
    /// `base` with the given options applied. Throws WrongUsage for values that cannot be meant.
    [[nodiscard]] Timing timing(const Shot& base, const MediaFacts& facts) const;
};

/// Reads "auto" or "auto:0.4". Throws WrongUsage.
double doubtLimitFrom(const std::string& text);

/// Wrong values in arguments: exit status 2.
class WrongUsage : public Error {
  public:
    using Error::Error;
};

} // namespace yarngap::cli
