// Rows of computed values as samples.
#pragma once

#include <cstddef>
#include <cstdint>

namespace yarngap {

/// Writes n values as sampleOf() has them.
void putSamples(const float* values, std::size_t n, float limit, std::uint8_t* samples);
void putSamples(const float* values, std::size_t n, float limit, std::uint16_t* samples);
void putSamples(const float* values, std::size_t n, float limit, float* samples);

} // namespace yarngap
