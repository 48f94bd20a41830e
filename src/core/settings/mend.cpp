#include "core/settings/mend.h"

#include "core/error.h"

#include <algorithm>
#include <functional>
#include <iterator>
#include <map>
#include <set>
#include <utility>

namespace yarngap {

GapSettings withChanges(GapSettings settings, const MendChanges& changes) {
    const auto take = [](auto& value, const auto& change) {
        if (change) value = *change;
    };
    InBetweens& made = settings.inBetweens;
    take(settings.method, changes.method);
    take(settings.sampleFrom, changes.sampleFrom);
    take(made.flow.quality, changes.quality);
    take(made.finalQuality, changes.quality);
    take(made.flow.stiffness, changes.stiffness);
    take(made.flow.analyseOn, changes.analyseOn);
    take(made.synthesis.inFront, changes.inFront);
    take(made.synthesis.sides, changes.sides);
    take(made.synthesis.trustLimit, changes.trustLimit);
    take(made.synthesis.standIn, changes.standIn);
    take(made.synthesis.bendPaths, changes.bendPaths);
    if (changes.guide) made.guide = changes.guide;
    return settings;
}

std::optional<std::size_t> Mending::at(std::int64_t gap) const {
    for (std::size_t i = mends.size(); i-- > 0;)
        if (mends[i].isOn && mends[i].gaps.contains(gap)) return i;
    return std::nullopt;
}

bool Mending::isAccepted(std::int64_t gap) const {
    return std::binary_search(accepted.begin(), accepted.end(), gap);
}

std::vector<MendInForce> mendsInForce(const std::vector<Mend>& mends) {
    // Where any begins or has ended, from left to right, with those that are on there.
    std::map<std::int64_t, std::pair<std::vector<std::size_t>, std::vector<std::size_t>>> places;
    for (std::size_t i = 0; i < mends.size(); ++i)
        if (mends[i].isOn) {
            places[mends[i].gaps.first].first.push_back(i);
            places[mends[i].gaps.last + 1].second.push_back(i);
        }
    std::vector<MendInForce> out;
    std::set<std::size_t> open;
    for (auto at = places.begin(); at != places.end(); ++at) {
        for (const std::size_t i : at->second.second)
            open.erase(i);
        open.insert(at->second.first.begin(), at->second.first.end());
        if (open.empty()) continue;
        const GapRange gaps{at->first, std::next(at)->first - 1};
        if (!out.empty() && out.back().mend == *open.rbegin() && out.back().gaps.last + 1 == gaps.first)
            out.back().gaps.last = gaps.last;
        else
            out.push_back({gaps, *open.rbegin()});
    }
    return out;
}

Mending withAccepted(Mending mending, std::int64_t gap, bool accepted) {
    const auto at = std::lower_bound(mending.accepted.begin(), mending.accepted.end(), gap);
    const bool isThere = at != mending.accepted.end() && *at == gap;
    if (accepted && !isThere) mending.accepted.insert(at, gap);
    if (!accepted && isThere) mending.accepted.erase(at);
    return mending;
}

Mending withMend(Mending mending, Mend mend) {
    std::erase_if(mending.mends, [&](const Mend& other) {
        return other.gaps == mend.gaps && !other.patch && !mend.patch &&
               other.changes.guide.has_value() == mend.changes.guide.has_value();
    });
    mending.mends.push_back(std::move(mend));
    return mending;
}

Mending withoutMendAt(Mending mending, std::int64_t gap) {
    std::vector<Mend> kept;
    for (Mend& mend : mending.mends) {
        if (!mend.gaps.contains(gap)) {
            kept.push_back(std::move(mend));
            continue;
        }
        if (mend.changes.guide) continue; // of its gap nothing can stay
        Mend before = mend;
        before.gaps.last = gap - 1;
        Mend after = std::move(mend);
        after.gaps.first = gap + 1;
        if (before.gaps.first <= before.gaps.last) kept.push_back(std::move(before));
        if (after.gaps.first <= after.gaps.last) kept.push_back(std::move(after));
    }
    mending.mends = std::move(kept);
    return mending;
}

namespace {

void refuseTooManyPatches(const std::vector<Mend>& mends) {
    std::map<std::int64_t, int> changes; // of how many there are, where that is
    for (const Mend& mend : mends)
        if (mend.patch) {
            ++changes[mend.gaps.first];
            --changes[mend.gaps.last + 1];
        }
    int now = 0;
    for (const auto& [gap, change] : changes) {
        now += change;
        if (now > static_cast<int>(Mending::mostPatchesAtOnce))
            throw Error("More than " + std::to_string(Mending::mostPatchesAtOnce) +
                        " patches lie over each other in gap " + std::to_string(gap) +
                        ". Take one of them out, or draw one larger patch.");
    }
}

} // namespace

void validate(const Mending& mending) {
    if (mending.mends.size() > Mending::mostMends)
        throw Error("A shot can have " + std::to_string(Mending::mostMends) +
                    " mends at most. Change the settings of the whole shot instead.");
    for (std::size_t i = 0; i < mending.mends.size(); ++i) {
        const Mend& mend = mending.mends[i];
        const std::string where = "mends: entry " + std::to_string(i + 1) + " ";
        if (mend.gaps.last < mend.gaps.first)
            throw Error(where + "ends before it begins. Give the lower gap first.");
        const auto inside = [&](const std::optional<int>& value, int most, const char* what) {
            if (value && (*value < 0 || *value > most))
                throw Error(where + "has a " + what + " of " + std::to_string(*value) +
                            ". It should be from 0 to " + std::to_string(most) + ".");
        };
        if (mend.patch) {
            try {
                validate(*mend.patch);
            } catch (const Error& error) {
                throw Error("mends: entry " + std::to_string(i + 1) + ": " + error.what());
            }
        }
        inside(mend.changes.stiffness, FlowOptions::stiffest, "stiffness");
        if (mend.changes.guide) {
            validate(*mend.changes.guide);
            if (!mend.gaps.contains(mend.changes.guide->first))
                throw Error(where + "has a guide of another gap. Draw it again.");
        }
        inside(mend.changes.trustLimit, SynthesisOptions::strictestTrust, "trust limit");
    }
    refuseTooManyPatches(mending.mends);
    if (std::ranges::adjacent_find(mending.accepted, std::greater_equal{}) != mending.accepted.end())
        throw Error("accepted: gaps are not in order, or one stands there twice.");
}

void putMends(SettingsInForce& settings, const std::vector<Mend>& mends) {
    for (const Mend& mend : mends)
        if (mend.isOn && !mend.patch)
            settings.change(mend.gaps.first, mend.gaps.last,
                            [&mend](const GapSettings& before) { return withChanges(before, mend.changes); });
}

} // namespace yarngap
