// The middle of some values.
#pragma once

#include <algorithm>
#include <vector>

namespace yarngap {

/// The upper one of both middle values where their number is even; 0 of none.
inline double median(std::vector<double> values) {
    if (values.empty()) return 0;
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

} // namespace yarngap
