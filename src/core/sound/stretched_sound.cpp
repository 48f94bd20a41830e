#include "core/sound/stretched_sound.h"

#include "core/progress.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace yarngap {

namespace {

constexpr std::size_t block = 4096; // samples handed over at a time

/// Hands `in` to `take`, block by block, as one row for each channel.
template <typename Take>
void feed(const Sound& in, const std::stop_token& stop, Take take) {
    const auto channels = static_cast<std::size_t>(in.form.channels);
    std::vector<std::vector<float>> parts(channels, std::vector<float>(block));
    std::vector<const float*> given;
    given.reserve(channels);
    for (const std::vector<float>& part : parts)
        given.push_back(part.data());
    const auto total = static_cast<std::size_t>(in.length());
    for (std::size_t at = 0; at < total; at += block) {
        throwIfStopped(stop);
        const std::size_t count = std::min(block, total - at);
        for (std::size_t i = 0; i < count; ++i)
            for (std::size_t c = 0; c < channels; ++c)
                parts[c][i] = in.samples[(at + i) * channels + c];
        take(given.data(), count, at + count == total);
    }
}

/// Takes from the stretcher what is ready and lays it into a sound.
class Gathering {
  public:
    Gathering(RubberBand::RubberBandStretcher& from, Sound& to)
        : from_(from)
        , to_(to)
        , got_(static_cast<std::size_t>(to.form.channels)) {}

    void gather() {
        for (int ready = from_.available(); ready > 0; ready = from_.available()) {
            std::vector<float*> rows;
            for (std::vector<float>& row : got_) {
                row.resize(static_cast<std::size_t>(ready));
                rows.push_back(row.data());
            }
            const auto count =
                static_cast<std::int64_t>(from_.retrieve(rows.data(), static_cast<std::size_t>(ready)));
            for (std::int64_t i = 0; i < count && made_ < to_.length(); ++i, ++made_)
                for (int c = 0; c < to_.form.channels; ++c)
                    to_.at(made_, c) = got_[static_cast<std::size_t>(c)][static_cast<std::size_t>(i)];
        }
    }

  private:
    RubberBand::RubberBandStretcher& from_;
    Sound& to_;
    std::vector<std::vector<float>> got_;
    std::int64_t made_ = 0;
};

/// The Kaiser-windowed sinc, read from a table.
class Kernel {
  public:
    static constexpr int reach = 16; // zero crossings

    Kernel() {
        constexpr double beta = 8;
        for (std::size_t i = 0; i < table_.size(); ++i) {
            const double x = static_cast<double>(i) / steps;
            const double inside = std::sqrt(std::max(0.0, 1 - (x / reach) * (x / reach)));
            const double window = std::cyl_bessel_i(0, beta * inside) / std::cyl_bessel_i(0, beta);
            const double angle = std::numbers::pi * x;
            table_[i] = static_cast<float>((i == 0 ? 1 : std::sin(angle) / angle) * window);
        }
    }
    [[nodiscard]] float at(double x) const {
        const double place = std::abs(x) * steps;
        const auto i = static_cast<std::size_t>(place);
        if (i + 1 >= table_.size()) return 0;
        const auto share = static_cast<float>(place - static_cast<double>(i));
        return table_[i] + share * (table_[i + 1] - table_[i]);
    }

  private:
    static constexpr int steps = 512; // in a zero crossing
    std::array<float, std::size_t{reach} * steps + 1> table_{};
};

} // namespace

Sound stretched(const Sound& in, std::int64_t length, const std::map<std::size_t, std::size_t>& map,
                bool isFinal, const std::stop_token& stop) {
    using RubberBand::RubberBandStretcher;
    Sound out(length, in.form);
    if (in.length() < 2 || length < 2) return out;
    RubberBandStretcher stretcher(
        static_cast<std::size_t>(in.form.rate), static_cast<std::size_t>(in.form.channels),
        RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionThreadingNever |
            (isFinal ? RubberBandStretcher::OptionEngineFiner : RubberBandStretcher::OptionEngineFaster),
        static_cast<double>(length) / static_cast<double>(in.length()));
    stretcher.setExpectedInputDuration(static_cast<std::size_t>(in.length()));
    stretcher.setMaxProcessSize(block);
    stretcher.setKeyFrameMap(map);
    feed(in, stop,
         [&](const float* const* rows, std::size_t count, bool last) { stretcher.study(rows, count, last); });
    Gathering gathering(stretcher, out);
    feed(in, stop, [&](const float* const* rows, std::size_t count, bool last) {
        stretcher.process(rows, count, last);
        gathering.gather();
    });
    gathering.gather();
    return out;
}

Sound playedAt(const Sound& in, const std::vector<double>& at, const std::stop_token& stop) {
    const Kernel kernel;
    Sound out(static_cast<std::int64_t>(at.size()), in.form);
    for (std::size_t s = 0; s < at.size(); ++s) {
        if (s % block == 0) throwIfStopped(stop);
        const double before = s > 0 ? at[s - 1] : at[s];
        const double behind = s + 1 < at.size() ? at[s + 1] : at[s];
        const double span = s > 0 && s + 1 < at.size() ? 2 : 1;
        const double cutoff = 1 / std::max(1.0, std::abs(behind - before) / span);
        const double reach = Kernel::reach / cutoff;
        const auto first = std::max<std::int64_t>(0, static_cast<std::int64_t>(std::ceil(at[s] - reach)));
        const auto last =
            std::min<std::int64_t>(in.length() - 1, static_cast<std::int64_t>(std::floor(at[s] + reach)));
        for (std::int64_t i = first; i <= last; ++i) {
            const float weight =
                static_cast<float>(cutoff) * kernel.at((static_cast<double>(i) - at[s]) * cutoff);
            for (int c = 0; c < in.form.channels; ++c)
                out.at(static_cast<std::int64_t>(s), c) += weight * in.at(i, c);
        }
    }
    return out;
}

} // namespace yarngap
