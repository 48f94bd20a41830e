// What each subcommand does.
#pragma once

#include "cli/exit_status.h"
#include "cli/finish_arguments.h"
#include "cli/gap_slices.h"
#include "cli/output_arguments.h"
#include "cli/reader.h"
#include "cli/shot_arguments.h"
#include "core/mending/doubt_list.h"

#include <memory>
#include <optional>
#include <stop_token>
#include <string>

namespace yarngap::cli {

/// `probe`: what the file says of itself and, unless `claimsOnly`, what its pictures show.
void probe(const std::string& input, bool json, bool claimsOnly, const Reader& reader);
/// `scan`: what the pictures show, and how far the shot can be slowed.
void scan(const std::string& input, bool json, const Reader& reader);
/// The options of `clean` alone.
struct CleanArguments {
    std::string target;
    double certainty = 0;
    std::string lookAt = "picture";
};
/// `clean`: writes the decisions that the pictures of a shot call for, to be looked through.
void clean(const ShotArguments& arguments, const CleanArguments& own, const Reader& reader);
/// `plan`: which source frames make which output frame; also written as a time map or an edit decision list.
void plan(const ShotArguments& arguments, const std::string& mapTarget, const std::string& edlTarget,
          bool json, const Reader& reader);
/// `vectors`: writes the vectors by which frames of the trim at half speed are made, as files into `target`.
/// A slice writes those of its gaps alone.
struct VectorsArguments {
    std::string target;
    GapSlices slices;
};
void writeGaps(const ShotArguments& arguments, const VectorsArguments& own, const Reader& reader);

/// The options of `doubt` alone.
struct DoubtArguments {
    GapSlices slices;
    bool join = false;
    std::optional<std::string> folder; ///< where slices keep what they saw

    void check() const; ///< throws WrongUsage
};
/// `doubt`: the gaps whose in-betweens are to be doubted, worst first, with what is wrong and where. A slice
/// prints nothing; the join prints what all slices saw.
void doubt(const ShotArguments& arguments, const DoubtArguments& own, bool json, const Reader& reader);

/// What --mend auto looks for.
struct MendArguments {
    std::shared_ptr<VectorStore> vectors;
    double limit = usualDoubtLimit;
    std::stop_token stop = {};
};
/// The mends of `shot` with the best cure of each doubtful gap; how many there were goes to standard error.
Mending mendedAsBest(const Shot& shot, const Footage& footage, const GapFindings& found, const Timing& timing,
                     const MendArguments& arguments);

/// The options of `render` alone.
struct RenderArguments {
    OutputArguments output;
    std::string vectorFiles;
    std::vector<std::string> words; ///< the command line
    std::string asked;              ///< the command line without what differs from slice to slice
    bool reel = false;
    std::optional<std::string> mend; ///< auto or auto:LIMIT
    FinishArguments finish;
};

/// The options of `farm`.
struct FarmArguments {
    std::string target;
    bool cancel = false;
    bool retry = false;
    std::optional<std::string> log;
};
/// `farm`: states and logs of a render that Slurm makes; cancels it, or tries failed parts again.
ExitStatus lookAtFarm(const FarmArguments& arguments, bool json);

/// The options of `open-edit`.
struct OpenEditArguments {
    std::string list;
    std::vector<std::string> folders;
    std::string project;
    std::string rate = "24";
    std::string before; ///< a project of the same edit, whose shots' treatment is kept
};
/// `open-edit`: a project with a shot for each event of an edit's list.
ExitStatus openEditList(const OpenEditArguments& arguments, const Reader& reader);

/// The options of `hand-back`.
struct HandBackArguments {
    std::string project;
    std::string list;
    std::string pattern = "{shot}_v{version}.mov";
    std::optional<std::string> preset, format;
    std::vector<std::string> shots; ///< names or numbers; empty: all
    std::int64_t handles = 12;
    bool replace = false;
};
/// `hand-back`: renders shots that came from an edit, with handles, and writes the list that replaces them.
ExitStatus handBackShots(const HandBackArguments& arguments, const Reader& reader);

/// `render`: writes the result.
ExitStatus render(const ShotArguments& arguments, const RenderArguments& own, bool json,
                  const Reader& reader);

} // namespace yarngap::cli
