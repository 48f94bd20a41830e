// Evenly spaced values to try a function at.
#pragma once

#include <vector>

namespace yarngap::test {

/// `from`, `from` + `by` and so on, all below `to`.
inline std::vector<double> steps(double from, double to, double by) {
    std::vector<double> values;
    for (int i = 0; from + i * by < to; ++i)
        values.push_back(from + i * by);
    return values;
}

} // namespace yarngap::test
