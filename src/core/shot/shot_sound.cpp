#include "core/shot/shot_sound.h"

#include "core/sound/sound_reader.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

namespace yarngap {

namespace {

/// A stretch of the file that is heard on end.
struct Heard {
    double at = 0;   ///< seconds of what is heard
    double file = 0; ///< seconds of the file
};

/// Moments of frames among which some were taken out or put in.
class SplicedTime {
  public:
    SplicedTime(const MediaIndex& index, const SourceAxis& axis) {
        const std::int64_t interpreted = axis.interpretedFrames();
        // Even frames have even moments, whatever the ticks of the file make of them.
        const bool even = axis.facts().constantRate;
        const double length = index.facts.seconds().toDouble() / static_cast<double>(interpreted);
        std::optional<SourceAxis> uncleaned;
        if (!even) uncleaned.emplace(index, axis.interpretation());
        const auto begins = [&](std::int64_t frame, double phase) {
            if (even) return (static_cast<double>(frame) + phase) * length;
            return uncleaned->momentOf(Rational(frame)).toDouble() * (1 - phase) +
                   uncleaned->momentOf(Rational(frame + 1)).toDouble() * phase;
        };
        const auto count = static_cast<std::size_t>(axis.frames());
        heard_.reserve(count + 1);
        double at = 0;
        double end = -1; // of the file, where the frame before is over
        for (std::size_t n = 0; n < count; ++n) {
            const FrameOrigin& origin = axis.origin(static_cast<std::int64_t>(n));
            const double file = begins(origin.frame, phaseOf(origin));
            if (n == 0 || file > end + joint) splices_.push_back({at, file});
            heard_.push_back(at);
            end = begins(origin.frame + 1, 0);
            if (n + 1 < count) {
                const FrameOrigin& next = axis.origin(static_cast<std::int64_t>(n) + 1);
                if (next.kind == FrameOrigin::Kind::putIn)
                    end = std::min(end, begins(next.frame, phaseOf(next)));
            }
            at += std::max(0.0, end - file);
        }
        heard_.push_back(at);
    }

    [[nodiscard]] double secondsAt(const Position& position) const {
        const auto last = static_cast<std::int64_t>(heard_.size()) - 2;
        const auto n = static_cast<std::size_t>(std::clamp<std::int64_t>(position.frame, 0, last));
        return heard_[n] + (position.toDouble() - static_cast<double>(n)) * (heard_[n + 1] - heard_[n]);
    }

    /// Reads across splices.
    [[nodiscard]] Sound read(double from, double to, const ReadSound& file, const SoundForm& form) const {
        Sound sound(std::max<std::int64_t>(0, std::llround((to - from) * form.rate)), form);
        for (std::size_t i = 0; i < splices_.size(); ++i) {
            const double begin = i == 0 ? from : std::max(from, splices_[i].at);
            const double end = i + 1 < splices_.size() ? std::min(to, splices_[i + 1].at) : to;
            if (end <= begin) continue;
            const double lead = begin > from ? joint : 0;
            const double tail = end < to ? joint : 0;
            const double shift = splices_[i].file - splices_[i].at;
            const Sound part = file(begin - lead + shift, end + tail + shift);
            lay(sound, part, begin - lead - from, lead > 0, tail > 0);
        }
        return sound;
    }

  private:
    static constexpr double joint = 0.001; // seconds to each side of a splice

    static double phaseOf(const FrameOrigin& origin) {
        return origin.kind == FrameOrigin::Kind::putIn ? origin.phase.toDouble() : 0;
    }

    static void lay(Sound& whole, const Sound& part, double at, bool rises, bool falls) {
        const std::int64_t place = std::llround(at * whole.form.rate);
        const double fade = 2 * joint * whole.form.rate;
        for (std::int64_t i = 0; i < part.length(); ++i) {
            if (place + i < 0 || place + i >= whole.length()) continue;
            double level = 1;
            if (rises) level = std::min(level, static_cast<double>(i) / fade);
            if (falls) level = std::min(level, static_cast<double>(part.length() - i) / fade);
            for (int c = 0; c < whole.form.channels; ++c)
                whole.at(place + i, c) += static_cast<float>(level) * part.at(i, c);
        }
    }

    std::vector<double> heard_; ///< moment at which each frame begins, and the end of the last
    std::vector<Heard> splices_;
};

/// The time of an axis whose frames follow each other as the file's do.
SourceTime ownTime(const MediaIndex& index, std::shared_ptr<const SourceAxis> axis) {
    if (axis->facts().constantRate) return Rate(Rational(axis->frames()) / index.facts.seconds());
    return SourceTime([axis = std::move(axis)](const Position& at) {
        return axis->momentOf(Rational(at.frame) + at.phase).toDouble();
    });
}

} // namespace

ShotSound shotSound(const std::shared_ptr<const MediaIndex>& index, std::shared_ptr<const SourceAxis> axis,
                    const SoundForm& form, const std::stop_token& stop) {
    const ReadSound file = [index, form, stop](double from, double to) {
        return readSound(*index, from, to, form, stop);
    };
    if (!axis->isRecounted()) return {ownTime(*index, std::move(axis)), file};
    const auto time = std::make_shared<const SplicedTime>(*index, *axis);
    return {SourceTime([time](const Position& at) { return time->secondsAt(at); }),
            [time, file, form](double from, double to) { return time->read(from, to, file, form); }};
}

} // namespace yarngap
