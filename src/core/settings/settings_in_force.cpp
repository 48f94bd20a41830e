#include "core/settings/settings_in_force.h"

#include <algorithm>

namespace yarngap {

void SettingsInForce::put(std::int64_t first, std::int64_t last, const GapSettings& settings) {
    const auto known = std::find(table_.begin(), table_.end(), settings);
    const auto index = static_cast<std::size_t>(known - table_.begin());
    if (known == table_.end()) table_.push_back(settings);
    if (stretches_.empty() || stretches_.back().last < first) { // as when they are put in order
        stretches_.push_back({first, last, index});
        return;
    }
    std::vector<Stretch> out;
    out.reserve(stretches_.size() + 2);
    for (const Stretch& s : stretches_) { // what the new one leaves of the others
        if (s.first < first) out.push_back({s.first, std::min(s.last, first - 1), s.index});
        if (s.last > last) out.push_back({std::max(s.first, last + 1), s.last, s.index});
    }
    out.push_back({first, last, index});
    std::sort(out.begin(), out.end(), [](const Stretch& a, const Stretch& b) { return a.first < b.first; });
    stretches_ = std::move(out);
}

void SettingsInForce::change(std::int64_t first, std::int64_t last,
                             const std::function<GapSettings(const GapSettings&)>& change) {
    // The pieces that other settings are in force in, and what lies between them.
    std::vector<Stretch> pieces;
    std::int64_t next = first;
    for (auto s = std::lower_bound(stretches_.begin(), stretches_.end(), first,
                                   [](const Stretch&a, std::int64_t gap) { return a.last < gap; });
         s != stretches_.end() && s->first <= last; ++s) {
        if (s->first > next) pieces.push_back({next, s->first - 1, 0});
        pieces.push_back({std::max(s->first, first), std::min(s->last, last), s->index});
        next = s->last + 1;
    }
    if (next <= last) pieces.push_back({next, last, 0});
    for (const Stretch& piece : pieces)
        put(piece.first, piece.last, change(table_[piece.index]));
}

std::size_t SettingsInForce::indexAt(std::int64_t gap) const {
    const auto it = std::lower_bound(stretches_.begin(), stretches_.end(), gap,
                                     [](const Stretch& s, std::int64_t g) { return s.last < g; });
    return it != stretches_.end() && it->first <= gap ? it->index : 0;
}

} // namespace yarngap
