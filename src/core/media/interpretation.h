// How the coded frames of a file are taken: rate, fields, pulldown, timestamps, aspect, colour, rotation.
#pragma once

#include "core/media/media_index.h"
#include "core/time/frame_plan.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// What becomes of the two fields of a coded frame.
enum class FieldUse {
    asCoded,       ///< frames stay as they are
    toFrames,      ///< deinterlaced, one frame for each coded one
    toFields,      ///< deinterlaced, one frame for each field: twice the rate
    removePulldown ///< film frames put together again from their fields: four fifths of the rate
};

[[nodiscard]] std::string_view name(FieldUse use);

/// A stretch of coded frames whose fields hold film frames in one unbroken rhythm.
struct PulldownRun {
    enum class Kind {
        whole, ///< each coded frame is a film frame
        pulldown32,
        pulldown2332,
        shifted22, ///< the second field of each film frame lies in the next coded frame
        fields     ///< no film: each field its own moment; deinterlaced
    };
    std::int64_t first = 0;
    std::int64_t last = 0; ///< included
    Kind kind = Kind::whole;
    bool topFirst = true;
    int phase = 0; ///< place of `first` in the cycle AA BB BC CD DD (AA BB BC CC DD), 0 to 4

    friend bool operator==(const PulldownRun&, const PulldownRun&) = default;
};

/// The editor's word on a file; everything absent is taken from the file. A plain value.
struct Interpretation {
    std::optional<Rate> rate; ///< the same frames at another rate
    FieldUse fields = FieldUse::asCoded;
    /// Field order declared; absent: the file's, and top first where that is silent.
    std::optional<bool> topFirst;
    std::vector<PulldownRun> pulldown; ///< for removePulldown; covers the file in order
    bool evenTimes = false; ///< varying timestamps made constant: each slot takes the frame nearest in time
    std::optional<Rational> pixelAspect;
    std::optional<bool> fullRange;
    std::optional<int> matrix; ///< H.273 code point
    int rotation = 0;          ///< 0, 90, 180 or 270 degrees clockwise

    [[nodiscard]] bool isDefault() const { return *this == Interpretation{}; }
    friend bool operator==(const Interpretation&, const Interpretation&) = default;
};

/// How one interpreted frame is made from coded ones.
struct FrameRecipe {
    enum class Kind {
        coded, ///< coded frame `top`
        woven, ///< top field of coded frame `top`, bottom field of coded frame `bottom`
        field  ///< coded frame `top` deinterlaced at its first or second field
    };
    Kind kind = Kind::coded;
    std::int64_t top = 0;
    std::int64_t bottom = 0;
    bool second = false; ///< for Kind::field

    /// The first and the last coded frame that is looked at; of fields those beside belong to it.
    [[nodiscard]] std::int64_t earliest() const;
    [[nodiscard]] std::int64_t latest() const;

    friend bool operator==(const FrameRecipe&, const FrameRecipe&) = default;
};

/// Recipes of all interpreted frames, in order. Never empty for a file with frames.
std::vector<FrameRecipe> recipesFor(const MediaIndex& index, const Interpretation& interpretation);

/// The film frames of the runs. A film frame of which a break took one field is left out.
std::vector<FrameRecipe> filmFrames(const std::vector<PulldownRun>& runs);

/// What slots of even length show, for varying timestamps: for each slot the coded frame nearest in time.
/// `shownTwice` and `leftOut` count the price.
struct EvenTimes {
    Rate rate;
    std::vector<std::int64_t> frames;
    std::int64_t shownTwice = 0;
    std::int64_t leftOut = 0;
    bool fits = true; ///< false where the times fit no rate, and each frame is taken once at the mean rate
};
/// The rate is the most common distance of two frames, snapped to a standard rate.
EvenTimes evenTimes(const MediaIndex& index);

/// Where even timestamps repeat a frame of the file or leave some out; empty for any other interpretation.
std::vector<SourceMark> sourceMarks(const MediaIndex& index, const Interpretation& interpretation);

/// The facts of the file as interpreted: rate, frame count, scan, size, aspect, colour.
MediaFacts interpretedFacts(const MediaIndex& index, const Interpretation& interpretation);

/// Throws Error naming the value when it cannot be used on this file.
void validate(const Interpretation& interpretation, const MediaIndex& index);

} // namespace yarngap
