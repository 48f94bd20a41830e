// Stretches of a shot that are made by another method.
#pragma once

#include "core/settings/method.h"

#include <cstdint>
#include <vector>

namespace yarngap {

/// Gaps `first` to `last`, both included, whose in-betweens are made otherwise; gap n lies between source
/// frames n and n + 1.
struct MethodStretch {
    std::int64_t first = 0;
    std::int64_t last = 0;
    Method method = Method::sample;

    friend bool operator==(const MethodStretch&, const MethodStretch&) = default;
};

/// The stretches with gaps `first` to `last` given another method; where that is `everywhere` none is kept.
std::vector<MethodStretch> withMethodOn(const std::vector<MethodStretch>& stretches, std::int64_t first,
                                        std::int64_t last, Method method, Method everywhere);

} // namespace yarngap
