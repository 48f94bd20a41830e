#include "core/sound/plan_sound.h"

#include "core/choice_names.h"
#include "core/progress.h"
#include "core/sound/stretched_sound.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace yarngap {

namespace {

constexpr double fadeSeconds = 0.003; // to each side of where two pieces meet

/// Seconds on the source axis at which row `i` begins; one past the last row goes on as before.
class SourceTimes {
  public:
    SourceTimes(const FramePlan& plan, const SourceTime& time)
        : plan_(plan)
        , time_(time) {}

    [[nodiscard]] double at(std::int64_t row) const {
        const auto rows = static_cast<std::int64_t>(plan_.rows.size());
        if (row < rows) return time_.secondsAt(plan_.rows[static_cast<std::size_t>(row)].position);
        if (rows < 2) return time_.secondsAt({plan_.rows.front().position.frame + 1, 0});
        return 2 * at(rows - 1) - at(rows - 2);
    }

  private:
    const FramePlan& plan_;
    const SourceTime& time_;
};

void reverse(Sound& sound) {
    for (std::int64_t i = 0, j = sound.length() - 1; i < j; ++i, --j)
        for (int c = 0; c < sound.form.channels; ++c)
            std::swap(sound.at(i, c), sound.at(j, c));
}

/// Makes one piece after the other and lays it into the whole.
class Assembly {
  public:
    Assembly(const SourceTimes& times, const Rate& outputRate, const ReadSound& read,
             const SoundMaking& making, std::stop_token stop)
        : times_(times)
        , outputRate_(outputRate)
        , read_(read)
        , making_(making)
        , stop_(std::move(stop))
        , fade_(std::llround(fadeSeconds * making.form.rate)) {}

    Sound of(const std::vector<SoundPiece>& pieces) {
        origin_ = sampleOf(pieces.front().first);
        out_ = Sound(sampleOf(pieces.back().end) - origin_, making_.form);
        for (std::size_t i = 0; i < pieces.size(); ++i) {
            throwIfStopped(stop_);
            if (!isHeard(pieces[i])) continue;
            const bool isFirst = i == 0;
            const bool isLast = i + 1 == pieces.size();
            lay(pieces[i],
                isFirst                  ? Edge::end
                : isHeard(pieces[i - 1]) ? Edge::sound
                                         : Edge::silence,
                isLast                   ? Edge::end
                : isHeard(pieces[i + 1]) ? Edge::sound
                                         : Edge::silence);
        }
        return std::move(out_);
    }

  private:
    enum class Edge { end, silence, sound }; ///< what is beyond an edge of a piece

    /// Where a piece lies in the result, and what of the source it plays.
    struct Span {
        std::int64_t begin = 0, end = 0; ///< samples, with the fades that reach over its edges
        double from = 0, to = 0;         ///< seconds of the source at these
    };

    [[nodiscard]] std::int64_t sampleOf(std::int64_t row) const {
        return samplesBefore(row, outputRate_, making_.form.rate);
    }
    [[nodiscard]] bool isHeard(const SoundPiece& piece) const {
        if (making_.use == SoundUse::atFullSpeed)
            return piece.kind == SoundPiece::Kind::asItIs && !piece.backwards;
        return piece.kind != SoundPiece::Kind::silent;
    }

    [[nodiscard]] Span spanOf(const SoundPiece& piece, Edge before, Edge behind) const {
        Span span{sampleOf(piece.first), sampleOf(piece.end), times_.at(piece.first), times_.at(piece.end)};
        if (before == Edge::sound) {
            const double speed = (times_.at(piece.first + 1) - span.from) * outputRate_.toDouble();
            span.begin -= fade_;
            span.from -= speed * static_cast<double>(fade_) / making_.form.rate;
        }
        if (behind == Edge::sound) {
            const double speed = (span.to - times_.at(piece.end - 1)) * outputRate_.toDouble();
            span.end += fade_;
            span.to += speed * static_cast<double>(fade_) / making_.form.rate;
        }
        return span;
    }

    [[nodiscard]] Sound made(const SoundPiece& piece, const Span& span) const {
        if (piece.kind == SoundPiece::Kind::stretched && making_.use == SoundUse::tape)
            return tape(piece, span);
        Sound sound = read_(std::min(span.from, span.to), std::max(span.from, span.to));
        if (piece.backwards) reverse(sound);
        if (piece.kind != SoundPiece::Kind::stretched) return sound;
        std::map<std::size_t, std::size_t> map;
        for (std::int64_t i = piece.first + 1; i < piece.end; ++i)
            map[static_cast<std::size_t>(
                std::llround(std::abs(times_.at(i) - span.from) * making_.form.rate))] =
                static_cast<std::size_t>(sampleOf(i) - span.begin);
        return stretched(sound, span.end - span.begin, map, making_.isFinal, stop_);
    }

    /// The source read wherever the pictures are.
    [[nodiscard]] Sound tape(const SoundPiece& piece, const Span& span) const {
        constexpr double margin = 0.05; // seconds, for what a kernel reaches
        const double low = std::min(span.from, span.to) - margin;
        const Sound sound = read_(low, std::max(span.from, span.to) + margin);
        std::vector<double> at;
        at.reserve(static_cast<std::size_t>(span.end - span.begin));
        const auto lead = [&](std::int64_t to, double from, double until) {
            const auto begin = span.begin + static_cast<std::int64_t>(at.size());
            for (std::int64_t i = begin; i < to; ++i) {
                const double share = static_cast<double>(i - begin) / static_cast<double>(to - begin);
                at.push_back((from + share * (until - from) - low) * making_.form.rate);
            }
        };
        lead(sampleOf(piece.first), span.from, times_.at(piece.first));
        for (std::int64_t row = piece.first; row < piece.end; ++row)
            lead(sampleOf(row + 1), times_.at(row), times_.at(row + 1));
        lead(span.end, times_.at(piece.end), span.to);
        return playedAt(sound, at, stop_);
    }

    /// How loud sample `i` of a piece of `count` is, 0 to 1.
    [[nodiscard]] float gain(std::int64_t i, std::int64_t count, Edge before, Edge behind) const {
        const auto rise = [&](std::int64_t since, Edge edge) {
            if (edge == Edge::end && !making_.fadesEnds) return 1.0F;
            const std::int64_t length = edge == Edge::sound ? 2 * fade_ : fade_;
            return std::min(1.0F, static_cast<float>(since) / static_cast<float>(length));
        };
        return std::min(rise(i, before), rise(count - 1 - i, behind));
    }

    void lay(const SoundPiece& piece, Edge before, Edge behind) {
        const Span span = spanOf(piece, before, behind);
        const Sound sound = made(piece, span);
        const std::int64_t count = span.end - span.begin;
        for (std::int64_t i = 0; i < std::min(count, sound.length()); ++i) {
            const std::int64_t at = span.begin - origin_ + i;
            if (at < 0 || at >= out_.length()) continue;
            const float level = gain(i, count, before, behind);
            for (int c = 0; c < making_.form.channels; ++c)
                out_.at(at, c) += level * sound.at(i, c);
        }
    }

    const SourceTimes& times_;
    const Rate& outputRate_;
    const ReadSound& read_;
    const SoundMaking& making_;
    std::stop_token stop_;
    std::int64_t fade_;
    std::int64_t origin_ = 0;
    Sound out_;
};

constexpr ChoiceNames<SoundUse, 4> uses{"way with sound",
                                        {{{SoundUse::ownPitch, "pitch"},
                                          {SoundUse::tape, "tape"},
                                          {SoundUse::atFullSpeed, "full-speed"},
                                          {SoundUse::none, "none"}}}};

} // namespace

std::string_view name(SoundUse use) {
    return uses.nameOf(use);
}

SoundUse parseSoundUse(std::string_view text) {
    return uses.parse(text);
}

std::int64_t samplesBefore(std::int64_t row, const Rate& outputRate, int soundRate) {
    return (Rational(row) * Rational(soundRate) / outputRate.value()).round();
}

std::vector<SoundPiece> soundPieces(const FramePlan& plan, std::int64_t first, std::int64_t last,
                                    const SourceTime& sourceTime, const Rate& outputRate) {
    std::vector<SoundPiece> pieces;
    const SourceTimes times(plan, sourceTime);
    const double frame = 1 / outputRate.toDouble();
    for (std::int64_t i = first; i <= last; ++i) {
        const double speed = (times.at(i + 1) - times.at(i)) / frame;
        constexpr double still = 1e-6;
        constexpr double own = 1e-6;
        SoundPiece piece{.kind = std::abs(speed) < still               ? SoundPiece::Kind::silent
                                 : std::abs(std::abs(speed) - 1) < own ? SoundPiece::Kind::asItIs
                                                                       : SoundPiece::Kind::stretched,
                         .backwards = speed < -still,
                         .first = i,
                         .end = i + 1};
        if (!pieces.empty() && pieces.back().kind == piece.kind && pieces.back().backwards == piece.backwards)
            pieces.back().end = piece.end;
        else
            pieces.push_back(piece);
    }
    return pieces;
}

Sound soundOf(const FramePlan& plan, std::int64_t first, std::int64_t last, const SourceTime& sourceTime,
              const Rate& outputRate, const ReadSound& read, const SoundMaking& making,
              const std::stop_token& stop) {
    first = std::max<std::int64_t>(0, first);
    last = std::min(last, static_cast<std::int64_t>(plan.rows.size()) - 1);
    if (last < first) return Sound(0, making.form);
    const SourceTimes times(plan, sourceTime);
    return Assembly(times, outputRate, read, making, stop)
        .of(soundPieces(plan, first, last, sourceTime, outputRate));
}

} // namespace yarngap
