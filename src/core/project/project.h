// A project: the shots an editor works on and what is to become of each.
#pragma once

#include "core/error.h"
#include "core/files/file_edition.h"
#include "core/media/interpretation.h"
#include "core/project/take.h"
#include "core/synthesis/in_betweens.h"
#include "core/synthesis/matte.h"
#include "core/time/frame_plan.h"
#include "core/time/map_edits.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// One shot: a media reference and its treatment. A plain value.
struct Shot {
    std::string name;            ///< shown to the editor; by default the file name without extension
    std::filesystem::path media; ///< absolute once loaded
    /// Content identity of the media (mediaIdentity) when last saved; empty when never known. Finds the file
    /// again when it was moved.
    std::string identity;
    std::optional<std::int64_t> from; ///< first source frame; absent: the first of the file
    std::optional<std::int64_t> to;   ///< last source frame, included; absent: the last of the file
    Rational speed = 1;
    std::optional<Rate> outputRate; ///< absent: the source's rate
    TimeKeys keys;                  ///< a speed that changes; empty: `speed` throughout
    Method method = Method::flow;
    std::vector<MethodStretch> methodStretches; ///< gaps made otherwise, in order, none overlapping
    InBetweens inBetweens;
    std::vector<Take> takes;       ///< settings put by; none of them is used
    Matte matte;                   ///< where in the picture the subject is, for flow frames; empty for none
    Interpretation interpretation; ///< how the file's frames are taken; `from` and `to` count what it gives
    std::string unknownFields;     ///< JSON object of fields of this shot that this version does not know

    /// What the plan is made with; `found` counts frames of the interpreted source.
    [[nodiscard]] Methods methods(GapFindings found = {}) const;
    /// Whether single gaps or a part of the picture are made otherwise than the rest: what mends consist of.
    [[nodiscard]] bool isMended() const { return !methodStretches.empty() || !matte.empty(); }
    /// The same without those.
    [[nodiscard]] Shot beforeMends() const;
    /// The timing this asks for on media with this rate and frame count; trims are kept inside the file.
    [[nodiscard]] Timing timing(const Rate& sourceRate, std::int64_t mediaFrames) const;
    /// Takes over another interpretation. Trim, time map and the keys of the matte keep their moments: they
    /// are carried over in proportion.
    void setInterpretation(const Interpretation& changed, std::int64_t framesBefore,
                           std::int64_t framesAfter);
    /// Takes over trim, speed and rate.
    void setTiming(const Timing& timing, std::int64_t mediaFrames);

    friend bool operator==(const Shot&, const Shot&) = default;
};

struct Project {
    std::string name;
    std::vector<Shot> shots;
    std::string unknownFields; ///< JSON object of project fields that this version does not know

    friend bool operator==(const Project&, const Project&) = default;
};

inline constexpr int projectVersion = 1;

/// A shot of a media file, untouched: all frames, 100 %, its own rate.
Shot shotOf(const std::filesystem::path& media);

/// Reads the text of a `.yarngap` file whose media paths are relative to `folder`; messages begin with
/// `where`. The content is not trusted: anything out of range or of the wrong kind is refused with the place.
/// Throws Error.
Project parseProject(std::string_view content, const std::filesystem::path& folder, const std::string& where);
/// What parseProject() reads, with media paths relative to `folder` where possible.
std::string projectText(const Project& project, const std::filesystem::path& folder);

/// parseProject() of a file of at most 64 MB. Throws Error.
Project loadProject(const std::filesystem::path& file);
/// The same, with what saveOver() needs.
struct LoadedProject {
    Project project;
    std::optional<FileEdition> edition;
};
LoadedProject loadEdition(const std::filesystem::path& file);

/// Writes the file as a whole or not at all (see NewFile), media paths relative to it where possible. Throws
/// Error, also when the file is the media of one of the shots.
void saveProject(const Project& project, const std::filesystem::path& file);

/// Thrown when a project file is not the one that was opened.
class ChangedMeanwhile : public Error {
  public:
    using Error::Error;
};
/// saveProject() onto the file that was last read or written as `known`; what it is from then on. Throws
/// ChangedMeanwhile when another program has written to it since, or when it is there and `known` is nothing.
FileEdition saveOver(const Project& project, const std::filesystem::path& file,
                     const std::optional<FileEdition>& known);

} // namespace yarngap
