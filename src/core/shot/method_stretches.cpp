#include "core/shot/method_stretches.h"

#include <algorithm>

namespace yarngap {

std::vector<MethodStretch> withMethodOn(const std::vector<MethodStretch>& stretches, std::int64_t first,
                                        std::int64_t last, Method method, Method everywhere) {
    std::vector<MethodStretch> out;
    out.reserve(stretches.size() + 2);
    for (const MethodStretch& s : stretches) { // what the new one leaves of the others
        if (s.first < first) out.push_back({s.first, std::min(s.last, first - 1), s.method});
        if (s.last > last) out.push_back({std::max(s.first, last + 1), s.last, s.method});
    }
    if (method != everywhere) out.push_back({first, last, method});
    std::sort(out.begin(), out.end(),
              [](const MethodStretch& a, const MethodStretch& b) { return a.first < b.first; });
    std::vector<MethodStretch> joined;
    joined.reserve(out.size());
    for (const MethodStretch& s : out) {
        if (!joined.empty() && joined.back().last + 1 == s.first && joined.back().method == s.method)
            joined.back().last = s.last;
        else
            joined.push_back(s);
    }
    return joined;
}

} // namespace yarngap
