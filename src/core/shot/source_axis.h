// Which frames a shot has, when they were taken, and what of the file they show.
#pragma once

#include "core/cleaning/cleaned_frames.h"
#include "core/inspection/shot_findings.h"
#include "core/media/interpretation.h"
#include "core/time/rational.h"

#include <cstdint>
#include <optional>
#include <vector>

namespace yarngap {

/// The source frames of a shot, as the interpretation of its file and the cleanup of these make them.
///
/// Each frame has an origin, which tells the interpreted frame it comes from, that one a recipe, which tells
/// the coded frames or fields, and each a moment in the file's own time. Moments rise from frame to frame, so
/// places on two axes of one file are carried to each other exactly and in order, whatever happened to the
/// frames in between:
///
///     const SourceAxis coded(index, {});
///     const SourceAxis film(index, {.fields = FieldUse::removePulldown, .pulldown = runs});
///     Rational place = coded.carried(100, film); // the frame of the film seen at coded frame 100
class SourceAxis {
  public:
    /// `interpretation` suits the file, see validate(). Decisions about frames that there are not change
    /// nothing. Throws Error for a file without frames.
    SourceAxis(const MediaIndex& index, const Interpretation& interpretation, Cleanup cleanup = {});

    /// Of the file as interpreted and cleaned: rate, frame count, size, colour.
    [[nodiscard]] const MediaFacts& facts() const { return facts_; }
    [[nodiscard]] std::int64_t frames() const { return facts_.frames; }
    [[nodiscard]] const Interpretation& interpretation() const { return interpretation_; }
    [[nodiscard]] const Cleanup& cleanup() const { return cleanup_; }
    /// Of the interpreted frames, in order.
    [[nodiscard]] const std::vector<FrameRecipe>& recipes() const { return recipes_; }
    /// Frames before the cleanup.
    [[nodiscard]] std::int64_t interpretedFrames() const {
        return static_cast<std::int64_t>(recipes_.size());
    }
    /// Where frame `n` comes from.
    [[nodiscard]] const FrameOrigin& origin(std::int64_t n) const {
        return origins_.at(static_cast<std::size_t>(n));
    }
    [[nodiscard]] const std::vector<FrameOrigin>& origins() const { return origins_; }
    /// The frame that stands for interpreted frame `frame`; absent where that is taken out.
    [[nodiscard]] std::optional<std::int64_t> frameOf(std::int64_t frame) const;
    /// Whether frames were taken out or put in, so that the cleanup changes more than pictures.
    [[nodiscard]] bool isRecounted() const { return isRecounted_; }
    /// Where frames of the file are shown twice or left out.
    [[nodiscard]] const std::vector<SourceMark>& marks() const { return marks_; }
    /// Frames in a second of the file's time, on average; the rate that the editor set plays no part.
    [[nodiscard]] const Rational& framesPerSecond() const { return framesPerSecond_; }

    /// When place `position` (in source frames, whole at the beginning of each) was filmed: seconds since the
    /// first coded frame. Places before the first and behind the last frame go on at the pace there.
    [[nodiscard]] Rational momentOf(const Rational& position) const;
    /// The place filmed at `moment`. The inverse of momentOf().
    [[nodiscard]] Rational positionAt(const Rational& moment) const;
    /// The place on `other`, an axis of the same file, that was filmed when `position` was.
    [[nodiscard]] Rational carried(const Rational& position, const SourceAxis& other) const;
    /// The frame of `other` that begins nearest to where frame `frame` begins, kept inside 0 to its end.
    [[nodiscard]] std::int64_t carriedFrame(std::int64_t frame, const SourceAxis& other) const;

    /// Findings of the coded frames, as the interpreted frames know them: before the cleanup.
    [[nodiscard]] GapFindings interpretedFindings(const ShotFindings& found) const;
    /// The same as the frames of this axis know them.
    [[nodiscard]] GapFindings findings(const ShotFindings& found) const;

  private:
    void clean(const std::vector<std::int64_t>& interpretedBegins);
    /// In ticks of a part of the file's clock.
    [[nodiscard]] Rational ticksOf(const Rational& position) const;
    [[nodiscard]] Rational positionAtTicks(const Rational& ticks) const;

    Interpretation interpretation_;
    Cleanup cleanup_;
    MediaFacts facts_;
    std::vector<FrameRecipe> recipes_;
    std::vector<FrameOrigin> origins_;
    bool isRecounted_ = false;
    std::vector<SourceMark> marks_;
    Rational framesPerSecond_;
    Rational tick_ = 1; ///< seconds
    /// Beginning of each frame in ticks, and the end of the last one; rising. Of two axes of one file the
    /// ticks are the same.
    std::vector<std::int64_t> begins_;
};

/// Decisions about the frames of `before`, an axis without a cleanup, as decisions about those of `after`,
/// another such of the same file: each goes to the frame that begins nearest. Of two that meet at a frame the
/// first is kept. Where the picture is turned, frames are rebuilt that were to be restored in places.
Cleanup carriedCleanup(const Cleanup& cleanup, const SourceAxis& before, const SourceAxis& after);

} // namespace yarngap
