#include "core/synthesis/mid_motion.h"

#include "core/progress.h"
#include "core/synthesis/uneven_cells.h"

#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <cmath>

namespace yarngap {

namespace {

using Four = float __attribute__((vector_size(16)));

constexpr float cellsInPixel = 0.5F;

/// Trust of both directions by cells.
struct CellTrust {
    TrustField forward, backward;
};

/// What one side's cells leave on those of the in-between.
struct Landing {
    std::vector<Four> sums;      // motion a → b, both parts, and trust, each times weight; weight
    std::vector<float> coverage; // how much landed, 1 where the motion is even
};

/// The same at one place, as means.
struct Landed {
    float vx = 0, vy = 0;
    float trust = 0;
    float coverage = 0;
};

int below(float x) {
    const int i = static_cast<int>(x);
    return static_cast<float>(i) > x ? i - 1 : i;
}

/// How much a vector of squared length `squared` (in cells) counts against others that land on the same
/// pixel: motions that differ by two pixels differ by e² (about seven times).
float precedence(InFront inFront, float squared) {
    if (inFront == InFront::judged) return 1;
    constexpr float most = 40; // beyond that all are alike, lest the sums overflow
    const float length = std::min(most, std::sqrt(squared) / cellsInPixel);
    return std::exp(inFront == InFront::faster ? length : -length);
}

/// Carries each cell `share` of its vector; `sign` turns the vector into a motion a → b.
Landing land(const VectorField& field, const TrustField& trust, float share, float sign, InFront inFront,
             const std::stop_token& stop) {
    const int w = field.width;
    const int h = field.height;
    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    Landing out{std::vector<Four>(n), std::vector<float>(n)};
    const auto drop = [&](std::size_t i, float spread, const Four& carried) {
        out.sums[i] += spread * carried;
        out.coverage[i] += spread;
    };
    for (int y = 0; y < h && !stop.stop_requested(); ++y) {
        const float* v = field.row(y);
        const std::uint8_t* q = trust.row(y);
        for (int x = 0; x < w; ++x) {
            const float tx = static_cast<float>(x) + share * v[2 * x];
            const float ty = static_cast<float>(y) + share * v[2 * x + 1];
            if (!(tx > -1 && ty > -1 && tx < static_cast<float>(w) && ty < static_cast<float>(h))) continue;
            const int ix = below(tx);
            const int iy = below(ty);
            const float fx = tx - static_cast<float>(ix);
            const float fy = ty - static_cast<float>(iy);
            const float trustHere = static_cast<float>(q[x]) * (1.0F / 255.0F);
            const float importance = (0.01F + trustHere * trustHere) *
                                     precedence(inFront, v[2 * x] * v[2 * x] + v[2 * x + 1] * v[2 * x + 1]);
            const Four carried = Four{sign * v[2 * x], sign * v[2 * x + 1], trustHere, 1.0F} * importance;
            if (ix >= 0 && iy >= 0 && ix + 1 < w && iy + 1 < h) {
                const std::size_t i =
                    static_cast<std::size_t>(iy) * static_cast<std::size_t>(w) + static_cast<std::size_t>(ix);
                drop(i, (1 - fx) * (1 - fy), carried);
                drop(i + 1, fx * (1 - fy), carried);
                drop(i + static_cast<std::size_t>(w), (1 - fx) * fy, carried);
                drop(i + static_cast<std::size_t>(w) + 1, fx * fy, carried);
                continue;
            }
            for (int k = 0; k < 4; ++k) {
                const int px = ix + (k & 1);
                const int py = iy + (k >> 1);
                if (px >= 0 && py >= 0 && px < w && py < h)
                    drop(static_cast<std::size_t>(py) * static_cast<std::size_t>(w) +
                             static_cast<std::size_t>(px),
                         ((k & 1) ? fx : 1 - fx) * ((k >> 1) ? fy : 1 - fy), carried);
            }
        }
    }
    return out;
}

Landed meanAt(const Landing& landing, std::size_t i) {
    const Four& sums = landing.sums[i];
    if (sums[3] <= 0) return {};
    const float inverse = 1.0F / sums[3];
    return {sums[0] * inverse, sums[1] * inverse, sums[2] * inverse, std::min(1.0F, landing.coverage[i])};
}

/// Both pictures of a gap, to see how well a motion fits them.
class Fit {
  public:
    Fit(const CellPicture& a, const CellPicture& b, float phase)
        : a_(a)
        , b_(b)
        , phase_(phase)
        , colour_(a.hasColour() && b.hasColour()) {}

    /// Sum of differences of luma over 3 x 3 cells around (x, y) of the in-between, to the nearest one.
    [[nodiscard]] float mismatch(int x, int y, float vx, float vy) const {
        if (a_.width < 3 || a_.height < 3) return 0;
        return difference(a_.luma, b_.luma, placesOf(x, y, vx, vy));
    }

    /// The same with those of colour, which tells two motions apart where one thing covers another as bright
    /// as itself. Trust is scaled to luma alone.
    [[nodiscard]] float mismatchWithColour(int x, int y, float vx, float vy) const {
        if (a_.width < 3 || a_.height < 3) return 0;
        const Places places = placesOf(x, y, vx, vy);
        float sum = difference(a_.luma, b_.luma, places);
        if (colour_)
            for (std::size_t c = 0; c < a_.colour.size(); ++c)
                sum += difference(a_.colour[c], b_.colour[c], places) * (1.0F / 255.0F);
        return sum;
    }

  private:
    struct Places {
        std::ptrdiff_t a, b;
    };

    [[nodiscard]] Places placesOf(int x, int y, float vx, float vy) const {
        const auto nearest = [](float place, int last) {
            return std::clamp(below(place + 0.5F), 1, std::max(1, last - 1));
        };
        const auto px = static_cast<float>(x);
        const auto py = static_cast<float>(y);
        const auto index = [&](float at, float down) {
            return static_cast<std::ptrdiff_t>(nearest(down, a_.height - 1)) * a_.width +
                   nearest(at, a_.width - 1);
        };
        return {index(px - phase_ * vx, py - phase_ * vy),
                index(px + (1 - phase_) * vx, py + (1 - phase_) * vy)};
    }

    template <typename Value>
    [[nodiscard]] float difference(const std::vector<Value>& ofA, const std::vector<Value>& ofB,
                                   const Places& places) const {
        const Value* a = ofA.data() + places.a;
        const Value* b = ofB.data() + places.b;
        const std::ptrdiff_t width = a_.width;
        float sum = 0;
        for (std::ptrdiff_t line = -width; line <= width; line += width)
            for (std::ptrdiff_t i = line - 1; i <= line + 1; ++i)
                sum += static_cast<float>(std::abs(a[i] - b[i]));
        return sum;
    }

    const CellPicture& a_;
    const CellPicture& b_;
    float phase_;
    bool colour_;
};

/// Fills cells that nobody landed on from the nearest filled ones to the left and right, mixed by distance.
void fillHoles(MidMotion& mid, const std::vector<std::uint8_t>& known) {
    const int w = mid.width;
    tbb::parallel_for(0, mid.height, [&](int y) {
        MidCell* row = mid.row(y);
        const std::uint8_t* k = known.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(w);
        for (int x = 0; x < w;) {
            if (k[x]) {
                ++x;
                continue;
            }
            int end = x;
            while (end < w && !k[end])
                ++end;
            const MidCell* left = x > 0 ? row + x - 1 : end < w ? row + end : nullptr;
            const MidCell* right = end < w ? row + end : left;
            for (int i = x; left && i < end; ++i) {
                const float s = static_cast<float>(i - x + 1) / static_cast<float>(end - x + 1);
                row[i].vx = (1 - s) * left->vx + s * right->vx;
                row[i].vy = (1 - s) * left->vy + s * right->vy;
            }
            x = end;
        }
    });
}

/// Takes a cell from the side that has it where the other's place lies outside the picture.
void leaveOutside(MidMotion& mid, float t) {
    const auto right = static_cast<float>(mid.width - 1);
    const auto bottom = static_cast<float>(mid.height - 1);
    // 1 inside, falling to 0 within a pixel outside the edge.
    const auto inside = [&](float x, float y) {
        return std::max(0.0F, 1.0F - std::max({-x, x - right, -y, y - bottom, 0.0F}) / cellsInPixel);
    };
    tbb::parallel_for(0, mid.height, [&](int y) {
        MidCell* row = mid.row(y);
        const auto py = static_cast<float>(y);
        for (int x = 0; x < mid.width; ++x) {
            MidCell& cell = row[x];
            const auto px = static_cast<float>(x);
            const float ax = px - t * cell.vx;
            const float ay = py - t * cell.vy;
            const float bx = px + (1 - t) * cell.vx;
            const float by = py + (1 - t) * cell.vy;
            // Most lie inside, and then nothing changes.
            if (std::min({ax, ay, bx, by}) >= 0 && std::max(ax, bx) <= right && std::max(ay, by) <= bottom)
                continue;
            const float wa = (1 - cell.shareB) * inside(ax, ay);
            const float wb = cell.shareB * inside(bx, by);
            if (wa + wb >= 1e-4F) cell.shareB = wb / (wa + wb);
        }
    });
}

constexpr float alike = 0.5F * cellsInPixel;  // apart, up to which two motions are one
constexpr float different = MidMotion::apart; // beyond which a mean of both would be neither

float apart(const Landed& a, const Landed& b) {
    return std::abs(a.vx - b.vx) + std::abs(a.vy - b.vy);
}

/// Where each side sees another motion: how badly the pictures fit along the one of a and along that of b.
struct Contest {
    struct Misfits {
        float a = 0, b = 0;
    };
    int width, height;
    std::vector<Misfits> misfits;

    Contest(int w, int h)
        : width(w)
        , height(h)
        , misfits(static_cast<std::size_t>(w) * static_cast<std::size_t>(h)) {}

    /// Means over 3 x 3 cells, so that one motion wins over a region and not cell by cell.
    [[nodiscard]] Misfits around(int x, int y) const {
        Misfits sum;
        for (const int j : {std::max(0, y - 1), y, std::min(height - 1, y + 1)}) {
            const Misfits* row =
                misfits.data() + static_cast<std::size_t>(j) * static_cast<std::size_t>(width);
            for (const int i : {std::max(0, x - 1), x, std::min(width - 1, x + 1)}) {
                sum.a += row[i].a;
                sum.b += row[i].b;
            }
        }
        constexpr float part = 1.0F / 9.0F;
        return {sum.a * part, sum.b * part};
    }
};

/// How much of two motions seen at one cell of the in-between, more than `alike` apart, the one from b is
/// taken, 0 to 1.
float favourOfB(const Landed& a, const Landed& b, InFront inFront, float misfitA, float misfitB) {
    const float away = apart(a, b);
    if (inFront != InFront::judged && away > different) {
        const bool fasterB = b.vx * b.vx + b.vy * b.vy > a.vx * a.vx + a.vy * a.vy;
        return fasterB == (inFront == InFront::faster) ? 1.0F : 0.0F;
    }
    constexpr float fine = 0.02F; // a difference that means nothing
    const float ma = misfitA + fine;
    const float mb = misfitB + fine;
    return away > different ? (mb < ma ? 1.0F : 0.0F) : ma / (ma + mb);
}

/// Trust of a cell; see projectMotion.
float trustAt(const Landed& a, const Landed& b, bool hasA, bool hasB, float mismatch) {
    const float landed = hasA && hasB ? 0.5F * (a.trust + b.trust) : hasA ? a.trust : b.trust;
    if (hasA && hasB) {
        const float d = mismatch * (255.0F / 9.0F / 24.0F);
        return (0.4F + 0.6F * landed) * std::exp(-d * d);
    }
    if (hasA || hasB) return 0.6F + 0.4F * landed;
    return 0;
}

/// See projectMotion; `vectors` and their trust are by cells.
MidMotion projectCells(const CellVectors& vectors, const CellTrust& trust, const CellPicture& pictureA,
                       const CellPicture& pictureB, double phase, const SynthesisOptions& options,
                       const std::stop_token& stop) {
    const auto t = static_cast<float>(phase);
    Landing fromA;
    Landing fromB;
    tbb::parallel_invoke(
        [&] { fromA = land(vectors.forward, trust.forward, t, 1.0F, options.inFront, stop); },
        [&] { fromB = land(vectors.backward, trust.backward, 1.0F - t, -1.0F, options.inFront, stop); });
    throwIfStopped(stop);

    const int w = vectors.forward.width;
    const int h = vectors.forward.height;
    const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
    const bool wantsTrust = options.trustLimit > 0;
    MidMotion mid{w, h, std::vector<MidCell>(n), std::vector<float>(wantsTrust ? n : 0)};
    std::vector<float> shares(n);
    std::vector<std::uint8_t> known(n, 1);
    const Fit fit(pictureA, pictureB, t);
    const float partB = options.evenTexture ? 0.5F : t; // of b, where both sides see a cell
    const auto placeOf = [w](int x, int y) {
        return static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x);
    };
    constexpr float landed = 0.05F;
    constexpr std::uint8_t contested = 2;
    const auto make = [&](int x, int y, const Landed& a, const Landed& b, float favourB) {
        const std::size_t i = placeOf(x, y);
        MidCell& cell = mid.cells[i];
        cell.vx = (1 - favourB) * a.vx + favourB * b.vx;
        cell.vy = (1 - favourB) * a.vy + favourB * b.vy;
        // What the other frame hides cannot be confirmed, and need not be wrong.
        constexpr float unconfirmed = 0.4F;
        const float seenA = (1 - partB) * (a.coverage * (unconfirmed + a.trust) + 1e-6F);
        const float seenB = partB * (b.coverage * (unconfirmed + b.trust) + 1e-6F);
        shares[i] = seenB / (seenA + seenB);
        if (!wantsTrust) return;
        const bool hasA = a.coverage > landed;
        const bool hasB = b.coverage > landed;
        mid.trust[i] = trustAt(a, b, hasA, hasB, hasA && hasB ? fit.mismatch(x, y, cell.vx, cell.vy) : 0);
    };
    Contest contest(w, h);
    tbb::parallel_for(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const std::size_t i = placeOf(x, y);
            const Landed a = meanAt(fromA, i);
            const Landed b = meanAt(fromB, i);
            const bool hasA = a.coverage > landed;
            const bool hasB = b.coverage > landed;
            if (hasA && hasB && apart(a, b) > alike) {
                known[i] = contested;
                contest.misfits[i] = {fit.mismatchWithColour(x, y, a.vx, a.vy),
                                      fit.mismatchWithColour(x, y, b.vx, b.vy)};
                continue;
            }
            known[i] = hasA || hasB ? 1 : 0;
            make(x, y, a, b, hasA && hasB ? t : hasB ? 1.0F : 0.0F);
        }
    });
    throwIfStopped(stop);
    tbb::parallel_for(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const std::size_t i = placeOf(x, y);
            if (known[i] != contested) continue;
            const Landed a = meanAt(fromA, i);
            const Landed b = meanAt(fromB, i);
            const Contest::Misfits misfits = contest.around(x, y);
            make(x, y, a, b, favourOfB(a, b, options.inFront, misfits.a, misfits.b));
        }
    });
    throwIfStopped(stop);
    fillHoles(mid, known);
    markSeams(mid);
    joinLoneCells(mid, shares);
    softenShares(shares, mid);
    tbb::parallel_for(0, h, [&](int y) {
        MidCell* row = mid.row(y);
        const float* share = shares.data() + placeOf(0, y);
        for (int x = 0; x < w; ++x)
            row[x].shareB = options.sides == Sides::both    ? share[x]
                            : options.sides == Sides::after ? 1.0F
                                                            : 0.0F;
    });
    if (options.sides == Sides::both) leaveOutside(mid, t);
    return mid;
}

CellTrust trustInCells(const Vectors& vectors, const CellPicture& picture) {
    if (vectors.forward.width == picture.width) return {vectors.forwardTrust, vectors.backwardTrust};
    return {inCells(vectors.forwardTrust), inCells(vectors.backwardTrust)};
}

/// `field` by the cells of `picture`, and in cells.
VectorField measuredInCells(const VectorField& field, const CellPicture& picture) {
    if (field.width != picture.width) return inCells(field);
    constexpr float inPixel = 0.5F;
    VectorField out = field;
    for (float& v : out.xy)
        v *= inPixel;
    return out;
}

MidMotion projectFirst(const Vectors& vectors, const CellTrust& trust, const CellPicture& a,
                       const CellPicture& b, double phase, const SynthesisOptions& options,
                       const std::stop_token& stop) {
    return projectCells({measuredInCells(vectors.forward, a), measuredInCells(vectors.backward, b)}, trust, a,
                        b, phase, options, stop);
}

} // namespace

MidMotion projectMotion(const Vectors& vectors, const CellPicture& a, const CellPicture& b, double phase,
                        const SynthesisOptions& options, const std::stop_token& stop) {
    return projectFirst(vectors, trustInCells(vectors, a), a, b, phase, options, stop);
}

std::vector<MidMotion> projectMotions(const Vectors& vectors, const CellPicture& a, const CellPicture& b,
                                      double phase, const SynthesisOptions& options,
                                      const std::stop_token& stop) {
    const CellTrust trust = trustInCells(vectors, a);
    std::vector<MidMotion> out;
    out.reserve(1 + vectors.others.size());
    out.push_back(projectFirst(vectors, trust, a, b, phase, options, stop));
    SynthesisOptions withoutTrust = options;
    withoutTrust.trustLimit = 0;
    for (const CellVectors& other : vectors.others)
        out.push_back(projectCells(other, trust, a, b, phase, withoutTrust, stop));
    return out;
}

} // namespace yarngap
