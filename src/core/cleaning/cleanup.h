// Decisions about the source frames of a shot.
#pragma once

#include "core/time/rational.h"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// What is done about a source frame.
enum class CleanupKind {
    keep,     ///< it stays as it is, whatever its pictures show
    passOver, ///< it counts as a repeat of the kept frame before; the axis stays as it is
    takeOut,  ///< it is gone, and later frames close up
    rebuild,  ///< its picture is made again from kept frames before and after
    restore,  ///< only places in it are made again; all other samples stay as they are
    putIn     ///< frames are added behind it, where some were lost
};

/// Which part of a picture a decision is about, where a matte tells subject and background apart.
enum class CleanupPart {
    both,
    subject,   ///< of CleanupKind::passOver: the background stays as filmed
    background ///< of CleanupKind::passOver: the subject does
};

/// The word in files: "pass-over".
[[nodiscard]] std::string_view name(CleanupKind kind);
/// Reads what name() gives; throws Error listing the words.
CleanupKind parseCleanupKind(std::string_view text);
[[nodiscard]] std::string_view name(CleanupPart part);
CleanupPart parseCleanupPart(std::string_view text);

/// A part of a picture, in pixels from its top left corner.
struct DamagedPlace {
    int x = 0, y = 0;
    int width = 1, height = 1;

    friend bool operator==(const DamagedPlace&, const DamagedPlace&) = default;
};

/// All of them as text, for keys of what is made with them.
[[nodiscard]] std::string textOf(const std::vector<DamagedPlace>& places);

/// A decision about one frame.
struct CleanupDecision {
    std::int64_t frame = 0; ///< interpreted source frame; of CleanupKind::putIn the one before those put in
    CleanupKind kind = CleanupKind::keep;
    int count = 1; ///< frames put in, 1 to `mostPutIn`
    /// Where between the frames around it a picture lies, 0 to 1, rising. Of a rebuilt frame one, or none for
    /// its own moment; of frames put in one for each, or none for even ones.
    std::vector<Rational> phases = {};
    std::vector<DamagedPlace> places = {}; ///< of a restored frame
    CleanupPart part = CleanupPart::both;
    double certainty = 1; ///< how sure the search was that it is called for, 0 to 1; 1 for the editor's word

    static constexpr int mostPutIn = 100;
    static constexpr std::size_t mostPlaces = 10'000;

    friend bool operator==(const CleanupDecision&, const CleanupDecision&) = default;
};

/// The decisions about a shot's interpreted source frames. A plain value.
struct Cleanup {
    /// In order of frames. A frame has at most one decision about itself and one that puts frames in behind
    /// it, in this order.
    std::vector<CleanupDecision> decisions;

    static constexpr std::size_t mostDecisions = 1'000'000;

    [[nodiscard]] bool empty() const { return decisions.empty(); }
    /// What is done about a frame itself; null for nothing.
    [[nodiscard]] const CleanupDecision* about(std::int64_t frame) const;
    /// What is put in behind a frame; null for nothing.
    [[nodiscard]] const CleanupDecision* behind(std::int64_t frame) const;
    [[nodiscard]] std::int64_t count(CleanupKind kind) const;

    friend bool operator==(const Cleanup&, const Cleanup&) = default;
};

/// With one decision more, in place of the one it contradicts.
Cleanup withDecision(Cleanup cleanup, CleanupDecision decision);
/// The same for many at once.
Cleanup withDecisions(Cleanup cleanup, std::vector<CleanupDecision> decisions);
/// Without any about frames `first` to `last`, nor behind them.
Cleanup withoutDecisions(Cleanup cleanup, std::int64_t first, std::int64_t last);

/// Throws Error, which says what is wrong and where, unless decisions are in order, no frame has two of one
/// sort, and all values are in range.
void validate(const Cleanup& cleanup);
/// The same for a shot of `frames` interpreted frames, of which some are left.
void validate(const Cleanup& cleanup, std::int64_t frames);

/// "38 passed over, 2 restored, 1 put in"; empty for no decision.
[[nodiscard]] std::string summary(const Cleanup& cleanup);

} // namespace yarngap
