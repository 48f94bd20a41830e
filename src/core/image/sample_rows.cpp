#include "core/image/sample_rows.h"

#include "core/widest.h"

#include <algorithm>

namespace yarngap {

YARNGAP_WIDEST void putSamples(const float* values, std::size_t n, float limit, std::uint8_t* samples) {
    for (std::size_t i = 0; i < n; ++i)
        samples[i] =
            static_cast<std::uint8_t>(static_cast<int>(std::min(std::max(values[i], 0.0F), limit) + 0.5F));
}

YARNGAP_WIDEST void putSamples(const float* values, std::size_t n, float limit, std::uint16_t* samples) {
    for (std::size_t i = 0; i < n; ++i)
        samples[i] =
            static_cast<std::uint16_t>(static_cast<int>(std::min(std::max(values[i], 0.0F), limit) + 0.5F));
}

void putSamples(const float* values, std::size_t n, float /*limit*/, float* samples) {
    std::copy_n(values, n, samples);
}

} // namespace yarngap
