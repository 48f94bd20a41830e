#include "core/sound/plan_sound.h"

#include "core/progress.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace yarngap {

namespace {

constexpr std::int64_t fade = 144; // samples at each end of a piece, 3 ms, against clicks

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

std::int64_t soundSampleOf(std::int64_t row, const Rate& outputRate) {
    return std::llround(static_cast<double>(row) / outputRate.toDouble() * Sound::rate);
}

void reverse(Sound& sound) {
    const std::int64_t length = sound.length();
    for (std::int64_t i = 0; i < length / 2; ++i)
        for (std::int64_t c = 0; c < Sound::channels; ++c)
            std::swap(sound.samples[static_cast<std::size_t>(i * Sound::channels + c)],
                      sound.samples[static_cast<std::size_t>((length - 1 - i) * Sound::channels + c)]);
}

/// `in` stretched to `length` samples, passing through the pairs of `map` (sample of `in`, of the result).
Sound stretched(const Sound& in, std::int64_t length, const std::map<std::size_t, std::size_t>& map,
                const std::stop_token& stop) {
    using RubberBand::RubberBandStretcher;
    Sound out(length);
    if (in.length() < 2 || length < 2) return out;
    constexpr std::size_t block = 4096;
    RubberBandStretcher stretcher(Sound::rate, Sound::channels,
                                  RubberBandStretcher::OptionProcessOffline |
                                      RubberBandStretcher::OptionThreadingNever,
                                  static_cast<double>(length) / static_cast<double>(in.length()));
    stretcher.setExpectedInputDuration(static_cast<std::size_t>(in.length()));
    stretcher.setMaxProcessSize(block);
    stretcher.setKeyFrameMap(map);
    std::array<std::vector<float>, Sound::channels> parts;
    for (std::vector<float>& part : parts)
        part.resize(block);
    std::array<const float*, Sound::channels> given{parts[0].data(), parts[1].data()};
    const auto feed = [&](auto&& take) {
        const auto total = static_cast<std::size_t>(in.length());
        for (std::size_t at = 0; at < total; at += block) {
            throwIfStopped(stop);
            const std::size_t count = std::min(block, total - at);
            for (std::size_t i = 0; i < count; ++i)
                for (std::size_t c = 0; c < Sound::channels; ++c)
                    parts[c][i] = in.samples[(at + i) * Sound::channels + c];
            take(count, at + count == total);
        }
    };
    feed([&](std::size_t count, bool last) { stretcher.study(given.data(), count, last); });
    std::size_t made = 0;
    std::array<std::vector<float>, Sound::channels> got;
    const auto retrieve = [&] {
        for (int ready = stretcher.available(); ready > 0; ready = stretcher.available()) {
            for (std::vector<float>& part : got)
                part.resize(static_cast<std::size_t>(ready));
            std::array<float*, Sound::channels> to{got[0].data(), got[1].data()};
            const std::size_t count = stretcher.retrieve(to.data(), static_cast<std::size_t>(ready));
            for (std::size_t i = 0; i < count; ++i, ++made)
                if (made < static_cast<std::size_t>(length))
                    for (std::size_t c = 0; c < Sound::channels; ++c)
                        out.samples[made * Sound::channels + c] = got[c][i];
        }
    };
    feed([&](std::size_t count, bool last) {
        stretcher.process(given.data(), count, last);
        retrieve();
    });
    retrieve();
    return out;
}

} // namespace

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
              const Rate& outputRate, const ReadSound& read, const std::stop_token& stop) {
    first = std::max<std::int64_t>(0, first);
    last = std::min(last, static_cast<std::int64_t>(plan.rows.size()) - 1);
    if (last < first) return {};
    const std::int64_t origin = soundSampleOf(first, outputRate);
    Sound out(soundSampleOf(last + 1, outputRate) - origin);
    const SourceTimes times(plan, sourceTime);
    for (const SoundPiece& piece : soundPieces(plan, first, last, sourceTime, outputRate)) {
        throwIfStopped(stop);
        if (piece.kind == SoundPiece::Kind::silent) continue;
        const std::int64_t begin = soundSampleOf(piece.first, outputRate) - origin;
        const std::int64_t length = soundSampleOf(piece.end, outputRate) - origin - begin;
        const double from = std::min(times.at(piece.first), times.at(piece.end));
        const double to = std::max(times.at(piece.first), times.at(piece.end));
        Sound made = read(from, to);
        if (piece.backwards) reverse(made);
        if (piece.kind == SoundPiece::Kind::stretched) {
            std::map<std::size_t, std::size_t> map;
            const double start = piece.backwards ? to : from;
            for (std::int64_t i = piece.first + 1; i < piece.end; ++i)
                map[static_cast<std::size_t>(std::llround(std::abs(times.at(i) - start) * Sound::rate))] =
                    static_cast<std::size_t>(soundSampleOf(i, outputRate) - origin - begin);
            made = stretched(made, length, map, stop);
        }
        const std::int64_t count = std::min(length, made.length());
        for (std::int64_t i = 0; i < count; ++i) {
            const auto edge = static_cast<float>(std::min({fade, i, count - 1 - i}));
            const float gain = edge / static_cast<float>(fade);
            for (std::int64_t c = 0; c < Sound::channels; ++c)
                out.samples[static_cast<std::size_t>((begin + i) * Sound::channels + c)] =
                    gain * made.samples[static_cast<std::size_t>(i * Sound::channels + c)];
        }
    }
    return out;
}

} // namespace yarngap
