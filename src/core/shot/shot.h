// A shot: what the editor wants of a piece of footage.
#pragma once

#include "core/cleaning/cleanup.h"
#include "core/finish/finish.h"
#include "core/media/interpretation.h"
#include "core/settings/mend.h"
#include "core/settings/settings_in_force.h"
#include "core/shot/method_stretches.h"
#include "core/shot/take.h"
#include "core/synthesis/matte.h"
#include "core/time/frame_plan.h"
#include "core/time/map_edits.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

class SourceAxis;

/// Where a shot came from in an edit, and where it goes back to. A plain value.
struct EditPlace {
    std::filesystem::path list; ///< the list it was opened from
    std::string title;          ///< of the edit
    std::string track;
    int event = 0; ///< its number in the list
    Rate rate;     ///< of the record
    bool dropFrame = false;
    std::int64_t recordIn = 0, recordOut = 0; ///< frames from timecode 00:00:00:00, the out not included
    std::string reel;

    friend bool operator==(const EditPlace&, const EditPlace&) = default;
};

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
    std::vector<Take> takes;       ///< saved settings; none of them is in use
    Mending mending;               ///< gaps made otherwise on account of how they look, or accepted
    Matte matte;                   ///< where in the picture the subject is, for flow frames; empty for none
    Finish finish;                 ///< what is done to each frame of the result
    Interpretation interpretation; ///< how the file's frames are taken
    /// What is done about frames that this gives. `from`, `to` and all that names source frames count what is
    /// left.
    Cleanup cleanup;
    std::optional<EditPlace> edit; ///< absent for a shot that no list brought
    std::string unknownFields; ///< fields that this version does not know, at any depth: see json_fields.h

    /// Which settings are in force where.
    [[nodiscard]] SettingsInForce settingsInForce() const;
    /// Whether single gaps or a part of the picture are made otherwise than the rest: what mends consist of.
    [[nodiscard]] bool isMended() const {
        return !methodStretches.empty() || !matte.empty() || !mending.mends.empty();
    }
    /// The same without those.
    [[nodiscard]] Shot beforeMends() const;
    /// The timing this asks for on media with this rate and frame count; trims are kept inside the file.
    [[nodiscard]] Timing timing(const Rate& sourceRate, std::int64_t mediaFrames) const;
    /// Takes over interpretation and cleanup of `after`, an axis of the same file as `before`, on which the
    /// shot lies now. Trim, time map, stretches and the keys of the matte keep what they lie on, frame by
    /// frame. The cleanup changes the length of the result by the frames it takes out and puts in, unless it
    /// is to be `keepLength`; then speeds change.
    void carryOver(const SourceAxis& before, const SourceAxis& after, bool keepLength = false);
    /// Takes over trim, speed and rate.
    void setTiming(const Timing& timing, std::int64_t mediaFrames);

    friend bool operator==(const Shot&, const Shot&) = default;

  private:
    void carryFrames(const SourceAxis& before, const SourceAxis& after);
};

/// A shot of a media file, untouched: all frames, 100 %, its own rate.
Shot shotOf(const std::filesystem::path& media);

} // namespace yarngap
