// The sound of a render, stretch by stretch.
#pragma once

#include "core/render/render_part.h"
#include "core/sound/plan_sound.h"
#include "core/time/rate.h"

#include <cstdint>
#include <optional>
#include <stop_token>
#include <vector>

namespace yarngap {

/// Makes the sound of parts that follow each other. Long ones are made two minutes at a time, so that memory
/// stays bounded; stretches of one part are cross-faded.
///
///     RenderSound sound(parts, rate, making);
///     while (auto stretch = sound.next(stop)) writer.writeSound(*stretch);
class RenderSound {
  public:
    /// `rate`: that of the parts' frames. `making.form` is the form of the result.
    RenderSound(std::vector<RenderPart> parts, const Rate& rate, const SoundMaking& making);

    /// The next stretch; absent at the end. Altogether they are as long as the frames, to the sample. Throws
    /// Error for sound that cannot be decoded, Cancelled.
    std::optional<Sound> next(const std::stop_token& stop);
    /// Samples of one channel in all.
    [[nodiscard]] std::int64_t length() const;

  private:
    [[nodiscard]] Sound madeOf(const RenderPart& part, std::int64_t first, std::int64_t last,
                               const std::stop_token& stop) const;

    std::vector<RenderPart> parts_;
    Rate rate_;
    SoundMaking making_;
    std::size_t part_ = 0;
    std::int64_t row_ = 0;   ///< next row of that part, counted from its first
    std::int64_t frame_ = 0; ///< the same among all frames
    Sound overlap_;          ///< end of the stretch before, made beyond where it ends
};

/// The form in which the sound of `parts` can be kept: that of the first part with sound; absent where none
/// has any. Throws Error.
std::optional<SoundForm> ownSoundForm(const std::vector<RenderPart>& parts, const std::stop_token& stop = {});

} // namespace yarngap
