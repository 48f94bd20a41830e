// Whatever the text, reading an edit decision list refuses it with an Error or gives events that have a
// timing or are refused; and reading a time map either refuses it with an Error or gives keys that are
// written and read again as they were, and that can be evaluated.

#include "core/error.h"
#include "core/time/edl.h"
#include "core/time/map_text.h"

#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
    using namespace yarngap;
    try {
        const Rate rate(30000, 1001);
        for (const EdlEvent& event : eventsFromEdl({reinterpret_cast<const char*>(bytes), size}, rate, rate))
            if (timingOf(event, rate, rate).outputFrames() < 1) std::abort();
    } catch (const Error&) {
        // As below.
    }
    try {
        const TimeKeys keys = keysFromCsv({reinterpret_cast<const char*>(bytes), size});
        if (keysFromCsv(toCsv(keys)) != keys) std::abort();
        const TimeMap map(keys);
        const double end = keys.back().output.toDouble();
        for (int i = 0; i <= 16; ++i)
            if (!std::isfinite(map.positionAt(end * i / 16))) std::abort();
        if (map.at(keys.back().output.floor()).phase < Rational(0)) std::abort();
    } catch (const Error&) {
        // The sentence is for a person; that there is one is enough here.
    }
    return 0;
}
