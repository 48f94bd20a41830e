#include "core/time/time_map.h"

#include "core/error.h"

#include <algorithm>
#include <cmath>
#include <string>

namespace yarngap {

namespace {

constexpr std::int64_t farthest = 1'000'000'000;
constexpr std::int64_t fastest = 100;
constexpr std::int64_t grain = std::int64_t{1} << 24;

Rational stepBetween(const TimeKey& a, const TimeKey& b) {
    return (b.position - a.position) / (b.output - a.output);
}

Position positionOf(const Rational& place) {
    const std::int64_t frame = place.floor();
    return {frame, place - Rational(frame)};
}

/// Speed through a key between two eased segments of these means and lengths: 0 at a turning point, else
/// their harmonic mean weighted by length (Fritsch and Butland 1984), which keeps a monotone curve monotone.
double meanSpeed(double left, double leftLength, double right, double rightLength) {
    if (left * right <= 0) return 0;
    const double a = 2 * rightLength + leftLength;
    const double b = rightLength + 2 * leftLength;
    return (a + b) / (a / left + b / right);
}

/// Least value of v0 + (v1 − v0) S(u) + 6 c u (1 − u) over 0 to 1.
double leastSpeed(double v0, double v1, double c) {
    const auto speed = [&](double u) { return v0 + (v1 - v0) * u * u * (3 - 2 * u) + 6 * c * u * (1 - u); };
    double least = std::min(v0, v1);
    // The derivative over 6: −d u² + (d − 2c) u + c, with d = v1 − v0.
    const double d = v1 - v0;
    if (std::abs(d) < 1e-12) return std::min(least, speed(0.5));
    const double root = std::sqrt((d - 2 * c) * (d - 2 * c) + 4 * d * c);
    for (const double u : {((d - 2 * c) + root) / (2 * d), ((d - 2 * c) - root) / (2 * d)})
        if (u > 0 && u < 1) least = std::min(least, speed(u));
    return least;
}

/// W of the class comment, which has the integral w.
double easeShape(double w, double u) {
    if (w <= 1.0 / 3) return std::pow(u, 1 / w - 1);
    if (w >= 2.0 / 3) return 1 - std::pow(1 - u, 1 / (1 - w) - 1);
    const double s = 2 - 3 * w;
    return u < s ? u * u / s : 1 - (1 - u) * (1 - u) / (1 - s);
}

/// Its integral from 0 to u.
double easeIntegral(double w, double u) {
    if (w <= 1.0 / 3) return w * std::pow(u, 1 / w);
    const double rest = 1 - u;
    if (w >= 2.0 / 3) return u - (1 - w) * (1 - std::pow(rest, 1 / (1 - w)));
    const double s = 2 - 3 * w;
    return u < s ? u * u * u / (3 * s) : w - rest + rest * rest * rest / (3 * (1 - s));
}

} // namespace

void validateKeys(std::span<const TimeKey> keys) {
    const auto refuse = [](std::size_t i, const std::string& what) {
        return Error("Key " + std::to_string(i + 1) + " of the time map " + what + ".");
    };
    if (keys.size() < 2) throw Error("A time map needs at least 2 keys, a first and a last.");
    if (keys.size() > mostKeys)
        throw Error("A time map of " + std::to_string(keys.size()) +
                    " keys is too large; at most 100,000 are kept.");
    if (keys.front().output != Rational(0)) throw refuse(0, "does not lie at output frame 0");
    for (std::size_t i = 0; i < keys.size(); ++i) {
        const TimeKey& key = keys[i];
        if (key.position > Rational(farthest) || key.position < Rational(-farthest))
            throw refuse(i, "lies beyond a thousand million source frames");
        if (key.speed && (*key.speed > Rational(fastest) || *key.speed < Rational(-fastest)))
            throw refuse(i, "is faster than 100 source frames per output frame");
        if (i == 0) continue;
        const TimeKey& before = keys[i - 1];
        if (key.output <= before.output) throw refuse(i, "does not lie after the key before it");
        if (key.output > Rational(farthest)) throw refuse(i, "lies beyond a thousand million output frames");
        if (before.after == Segment::hold && key.position != before.position)
            throw refuse(i, "ends a hold at another source frame than it began");
        const Rational step = stepBetween(before, key);
        if (step > Rational(fastest) || step < Rational(-fastest))
            throw refuse(i, "is reached faster than 100 source frames per output frame");
    }
}

TimeMap::TimeMap(std::int64_t origin, const Rational& step) {
    // Any second key on the line will do: the last segment goes on.
    endless_ = true;
    keys_ = {{0, origin, Segment::constant, std::nullopt},
             {step.den(), Rational(origin) + Rational(step.num()), Segment::constant, std::nullopt}};
    build();
}

TimeMap::TimeMap(std::vector<TimeKey> keys)
    : keys_(std::move(keys)) {
    validateKeys(keys_);
    build();
}

void TimeMap::build() {
    const std::size_t count = keys_.size() - 1;
    pieces_.resize(count);
    for (std::size_t i = 0; i < count; ++i) {
        Piece& piece = pieces_[i];
        piece.kind = keys_[i].after;
        piece.output = keys_[i].output;
        piece.position = keys_[i].position;
        piece.step = stepBetween(keys_[i], keys_[i + 1]);
        piece.begin = piece.output.toDouble();
        piece.length = (keys_[i + 1].output - piece.output).toDouble();
        piece.origin = piece.position.toDouble();
    }
    const auto speedAtKey = [&](std::size_t key, std::size_t here, std::optional<std::size_t> there) {
        if (keys_[key].speed) return keys_[key].speed->toDouble();
        const Piece& own = pieces_[here];
        if (!there) return own.step.toDouble();
        const Piece& other = pieces_[*there];
        if (other.kind != Segment::eased) return other.step.toDouble();
        return meanSpeed(own.step.toDouble(), own.length, other.step.toDouble(), other.length);
    };
    for (std::size_t i = 0; i < count; ++i) {
        Piece& piece = pieces_[i];
        const double mean = piece.step.toDouble();
        if (piece.kind != Segment::eased) {
            piece.v0 = piece.v1 = mean;
            continue;
        }
        piece.v0 = speedAtKey(i, i, i > 0 ? std::optional(i - 1) : std::nullopt);
        piece.v1 = speedAtKey(i + 1, i, i + 1 < count ? std::optional(i + 1) : std::nullopt);
        const double way = mean < 0 ? -1 : 1;
        // An end that runs against the segment although the other does not would turn it around twice.
        if (piece.v0 * way < 0 && piece.v1 * way < 0) piece.v0 = piece.v1 = 0;
        if (mean == 0 && piece.v0 * piece.v1 >= 0) piece.v0 = piece.v1 = 0;
        if (const double share = (mean - piece.v0) / (piece.v1 - piece.v0);
            piece.v0 != piece.v1 && share > 1e-6 && share < 1 - 1e-6) {
            piece.easeShare = share;
            continue;
        }
        piece.bulge = mean - (piece.v0 + piece.v1) / 2;
        if (piece.v0 * way >= 0 && piece.v1 * way >= 0 && mean != 0 &&
            leastSpeed(piece.v0 * way, piece.v1 * way, piece.bulge * way) < 0)
            piece.power = (piece.v0 + piece.v1) / mean - 1;
    }
}

const TimeMap::Piece& TimeMap::pieceAt(double output) const {
    const auto after = std::upper_bound(pieces_.begin(), pieces_.end(), output,
                                        [](double o, const Piece& piece) { return o < piece.begin; });
    return after == pieces_.begin() ? pieces_.front() : *(after - 1);
}

double TimeMap::positionIn(const Piece& p, double output) {
    const double passed = output - p.begin;
    if (p.kind == Segment::hold) return p.origin;
    if (p.kind == Segment::constant) return p.origin + passed * p.v0;
    const double u = passed / p.length;
    if (u > 1) return positionIn(p, p.begin + p.length) + (passed - p.length) * p.v1;
    if (u < 0) return p.origin + passed * p.v0;
    if (p.easeShare >= 0)
        return p.origin + p.length * (p.v0 * u + (p.v1 - p.v0) * easeIntegral(p.easeShare, u));
    if (p.power > 0) {
        const double q = p.power + 1;
        return p.origin + p.length * (p.v0 * (1 - std::pow(1 - u, q)) + p.v1 * std::pow(u, q)) / q;
    }
    return p.origin +
           p.length * u * (p.v0 + u * (3 * p.bulge + u * ((p.v1 - p.v0) * (1 - u / 2) - 2 * p.bulge)));
}

Position TimeMap::at(std::int64_t output) const {
    // Key places compare exactly, a frame on a key is the key; the search itself is quicker in doubles.
    const Rational place(output);
    auto i = static_cast<std::size_t>(&pieceAt(static_cast<double>(output)) - pieces_.data());
    while (i + 1 < pieces_.size() && pieces_[i + 1].output <= place)
        ++i;
    while (i > 0 && pieces_[i].output > place)
        --i;
    const Piece& piece = pieces_[i];
    if (piece.kind == Segment::hold || place == piece.output) return positionOf(piece.position);
    if (&piece == &pieces_.back() && place == keys_.back().output) return positionOf(keys_.back().position);
    if (piece.kind == Segment::constant)
        return positionOf(piece.position + (place - piece.output) * piece.step);
    const double position = positionIn(piece, static_cast<double>(output));
    const double whole = std::floor(position);
    const auto part = std::llround((position - whole) * static_cast<double>(grain));
    const auto frame = static_cast<std::int64_t>(whole) + (part == grain ? 1 : 0);
    return {frame, part == grain ? Rational(0) : Rational(part, grain)};
}

double TimeMap::positionAt(double output) const {
    return positionIn(pieceAt(output), output);
}

double TimeMap::speedAt(double output) const {
    const Piece& p = pieceAt(output);
    if (p.kind != Segment::eased) return p.kind == Segment::hold ? 0 : p.v0;
    const double u = std::clamp((output - p.begin) / p.length, 0.0, 1.0);
    if (p.easeShare >= 0) return p.v0 + (p.v1 - p.v0) * easeShape(p.easeShare, u);
    if (p.power > 0) return p.v0 * std::pow(1 - u, p.power) + p.v1 * std::pow(u, p.power);
    return p.v0 + (p.v1 - p.v0) * u * u * (3 - 2 * u) + 6 * p.bulge * u * (1 - u);
}

std::vector<double> TimeMap::positions(std::int64_t count) const {
    std::vector<double> out(static_cast<std::size_t>(count));
    std::size_t piece = 0;
    for (std::size_t n = 0; n < out.size(); ++n) {
        const auto output = static_cast<double>(n);
        while (piece + 1 < pieces_.size() && pieces_[piece + 1].begin <= output)
            ++piece;
        out[n] = positionIn(pieces_[piece], output);
    }
    return out;
}

std::optional<double> TimeMap::outputAt(double position) const {
    for (const Piece& piece : pieces_) {
        const double a = piece.origin;
        const double b = positionIn(piece, piece.begin + piece.length);
        if (std::min(a, b) > position || std::max(a, b) < position) continue;
        if (a == b || position == a) return piece.begin;
        double low = piece.begin;
        double high = piece.begin + piece.length;
        for (int i = 0; i < 60; ++i) { // the position lies between the ends: halve
            const double middle = (low + high) / 2;
            ((positionIn(piece, middle) < position) == (a < b) ? low : high) = middle;
        }
        return high;
    }
    if (!endless_) return std::nullopt;
    const Piece& last = pieces_.back();
    const double end = last.begin + last.length;
    const double reached = positionIn(last, end);
    const double step = (reached - last.origin) / last.length;
    if ((position - reached) * step > 0) return end + (position - reached) / step;
    return std::nullopt;
}

} // namespace yarngap
