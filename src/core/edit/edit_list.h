// An edit as lists tell it: which piece of which file lies where, and how fast it runs.
#pragma once

#include "core/time/rate.h"
#include "core/time/time_map.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// One piece of a video track. Frames of the record count from timecode 00:00:00:00 at the rate of the list;
/// outs are not included.
struct EditEvent {
    int number = 0; ///< as the list counts them, or from 1
    std::string track = {};
    std::string reel = {};
    std::string clip = {};            ///< name of the clip or its file
    std::filesystem::path media = {}; ///< where the list says it lies; may be empty
    /// Where it begins in the source: as timecode (EDL), or as a frame of `sourceRate` (OTIO), counted as
    /// `available` is, which is the first one the file has.
    std::string sourceIn = {}, sourceOut = {};
    std::optional<Rational> start = {}, available = {};
    std::optional<Rational> availableFrames = {}; ///< how many the file has, where that is told
    std::optional<Rate> sourceRate = {};
    std::int64_t recordIn = 0, recordOut = 0;
    Rational speed = 1; ///< source seconds in a record second; 0 is a freeze, below 0 it runs backwards
    std::optional<Rational> framesPerSecond = {}; ///< the same as an M2 line gives it
    /// A speed that changes: keys from output frame 0, positions counted from the first frame of the file.
    std::vector<TimeKey> keys = {};

    [[nodiscard]] std::int64_t length() const { return recordOut - recordIn; }
    friend bool operator==(const EditEvent&, const EditEvent&) = default;
};

struct EditList {
    std::string title;
    Rate rate; ///< of the record
    bool dropFrame = false;
    std::vector<EditEvent> events;
    /// What could not be understood, a sentence each that names event and line.
    std::vector<std::string> problems;
};

/// Whether a file's ending is that of a list: .edl or .otio.
[[nodiscard]] bool isEditList(const std::filesystem::path& file);

/// Reads a CMX 3600 list at `rate`. FCM lines tell drop-frame from non-drop. What is wrong in an event is a
/// problem; the others are read. Throws Error for a text without any event.
EditList editFromEdl(std::string_view text, const Rate& rate);
/// Reads an OpenTimelineIO file (schema Timeline.1, as published). Nested timelines, transitions and effects
/// that are not understood are problems. Throws Error for a text that is none.
EditList editFromOtio(std::string_view text);
/// Reads a file of either sort; `rate` is that of an EDL. Throws Error.
EditList loadEdit(const std::filesystem::path& file, const Rate& rate);

/// The list as CMX 3600, each event with its clip's name, M2 lines for constant speeds and notes with the
/// keys of others. Sources are told by `sourceIn` and `sourceOut`.
std::string edlText(const EditList& list);
/// The list as OpenTimelineIO, gaps between events included.
std::string otioText(const EditList& list);
/// `otio`, a file's text, with the clips of `list`'s events in place of those that have their numbers. All
/// else stays as it is. Throws Error for a text that is no OpenTimelineIO.
std::string otioWithEvents(std::string_view otio, const EditList& list);

} // namespace yarngap
