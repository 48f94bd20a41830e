// Whatever the text, reading a time map either refuses it with an Error or gives keys that are written and
// read again as they were, and that can be evaluated.

#include "core/error.h"
#include "core/time/map_text.h"

#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
    using namespace yarngap;
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
