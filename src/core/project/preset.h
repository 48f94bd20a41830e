// A treatment kept under a name, to be given to other shots.
#pragma once

#include "core/project/project.h"

#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

/// Timing and in-between settings of a shot by relation: places as shares of the trim, speeds as speeds,
/// freezes in seconds. So a ramp in the middle of one shot comes to lie in the middle of another.
struct Preset {
    struct Key {
        Rational place;                    ///< share of the trim passed, 0 at its first frame, 1 at its end
        Segment after = Segment::constant; ///< to the next key
        Rational speed = 1;                ///< mean of that segment, source seconds per output second
        Rational seconds = 0;              ///< of a hold
        std::optional<Rational> through;   ///< speed through the key, for eased segments

        friend bool operator==(const Key&, const Key&) = default;
    };
    Rational speed = 1;    ///< throughout, when there are no keys
    std::vector<Key> keys; ///< a speed that changes
    Method method = Method::flow;
    InBetweens inBetweens;
    Finish finish; ///< places as shares of the trim; without what is followed and measured

    friend bool operator==(const Preset&, const Preset&) = default;
};

/// What `shot`, timed as `timing`, can give to others.
Preset presetOf(const Shot& shot, const Timing& timing);
/// Gives `preset` to a shot timed as `timing`, whose trim and rates stay; keys come to lie on whole source
/// frames. Throws Error when the shot is too short for it.
Timing withPreset(const Preset& preset, Timing timing);

/// The finish that `preset` gives to a shot timed as `timing`, whose own paths and measures stay. Throws
/// Error where keys cannot be.
Finish finishFrom(const Preset& preset, const Timing& timing, const Finish& own);

std::string presetText(const Preset& preset);
/// Reads what presetText() wrote; not trusted. Throws Error.
Preset parsePreset(std::string_view text);

} // namespace yarngap
