// Which vectors this version of the program makes.
#pragma once

namespace yarngap {

/// Raised whenever estimateFlow() or what follows it begins to give other vectors for the same input, so that
/// neither old vectors on disk nor what was made by them is taken for new.
inline constexpr int vectorGeneration = 9;

} // namespace yarngap
