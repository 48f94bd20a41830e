#include "core/settings/guide.h"

#include "core/error.h"

#include <cmath>

namespace yarngap {

void validate(const Guide& guide) {
    if (guide.last <= guide.first) throw Error("A guide ends before it begins. Give the lower frame first.");
    if (guide.pairs.empty() || guide.pairs.size() > Guide::mostPairs)
        throw Error("A guide has " + std::to_string(guide.pairs.size()) +
                    " pairs of points. It should have 1 to " + std::to_string(Guide::mostPairs) + ".");
    constexpr double farthest = 1e6;
    for (const GuidePair& pair : guide.pairs)
        for (const PicturePoint& p : {pair.from, pair.to})
            if (!(std::abs(p.x) <= farthest && std::abs(p.y) <= farthest))
                throw Error("A guide has a point far outside the picture. Draw it again.");
}

std::string keyOf(const std::vector<GuidePair>& pairs) {
    std::string key;
    constexpr double fine = 256; // of a pixel
    for (const GuidePair& pair : pairs)
        for (const double part : {pair.from.x, pair.from.y, pair.to.x, pair.to.y})
            key += ';' + std::to_string(std::llround(part * fine));
    return key;
}

} // namespace yarngap
