#include "core/render/render_sound.h"

#include "core/shot/shot_sound.h"
#include "core/sound/sound_reader.h"

#include <algorithm>

namespace yarngap {

namespace {

constexpr double stretchSeconds = 120; // of one call
constexpr std::int64_t overlapRows = 2;

/// As long as asked for, whatever roundings have made of it.
void setLength(Sound& sound, std::int64_t length) {
    sound.samples.resize(static_cast<std::size_t>(length * sound.form.channels));
}

} // namespace

RenderSound::RenderSound(std::vector<RenderPart> parts, const Rate& rate, const SoundMaking& making)
    : parts_(std::move(parts))
    , rate_(rate)
    , making_(making) {
    making_.isFinal = true;
    making_.fadesEnds = false;
}

std::int64_t RenderSound::length() const {
    return samplesBefore(framesOf(parts_), rate_, making_.form.rate);
}

std::optional<Sound> RenderSound::next(const std::stop_token& stop) {
    if (part_ >= parts_.size()) return std::nullopt;
    const RenderPart& part = parts_[part_];
    const auto most =
        std::max<std::int64_t>(overlapRows + 1, static_cast<std::int64_t>(stretchSeconds * rate_.toDouble()));
    const std::int64_t rows = std::min(most, part.count() - row_);
    const std::int64_t beyond = std::min(overlapRows, part.count() - row_ - rows);
    const std::int64_t first = part.first + row_;
    Sound made = madeOf(part, first, first + rows + beyond - 1, stop);
    const std::int64_t lap = std::min(overlap_.length(), made.length());
    for (std::int64_t i = 0; i < lap; ++i) {
        const float share = static_cast<float>(i) / static_cast<float>(lap);
        for (int c = 0; c < made.form.channels; ++c)
            made.at(i, c) = share * made.at(i, c) + (1 - share) * overlap_.at(i, c);
    }
    const std::int64_t length = samplesBefore(frame_ + rows, rate_, making_.form.rate) -
                                samplesBefore(frame_, rate_, making_.form.rate);
    overlap_ = Sound(0, making_.form);
    if (made.length() > length && beyond > 0)
        overlap_.samples.assign(made.samples.begin() + length * made.form.channels, made.samples.end());
    setLength(made, length);
    frame_ += rows;
    row_ += rows;
    if (row_ == part.count()) {
        ++part_;
        row_ = 0;
    }
    return made;
}

Sound RenderSound::madeOf(const RenderPart& part, std::int64_t first, std::int64_t last,
                          const std::stop_token& stop) const {
    if (!part.hasSound() || making_.use == SoundUse::none)
        return Sound(samplesBefore(last + 1, rate_, making_.form.rate) -
                         samplesBefore(first, rate_, making_.form.rate),
                     making_.form);
    const ShotSound own = shotSound(part.index, part.axis, making_.form, stop);
    return soundOf(part.frames->plan(), first, last, own.time, rate_, own.read, making_, stop);
}

std::optional<SoundForm> ownSoundForm(const std::vector<RenderPart>& parts, const std::stop_token& stop) {
    for (const RenderPart& part : parts)
        if (part.hasSound()) return soundFormOf(*part.index, stop);
    return std::nullopt;
}

} // namespace yarngap
