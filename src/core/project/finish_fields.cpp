#include "core/project/finish_fields.h"

#include "core/decimal.h"

#include <cmath>
#include <cstddef>
#include <vector>

namespace yarngap {

namespace {

double rounded(double value, double fine) {
    return std::round(value * fine) / fine;
}

constexpr double ofPixel = 10'000;
constexpr double ofTurn = 1e8; // radians, and logarithms
constexpr std::int64_t last = 1'000'000'000;

/// `least` to `most` numbers.
std::vector<double> numbers(const Json& json, std::size_t least, std::size_t most, const char* what) {
    if (!json.is_array() || json.size() < least || json.size() > most) throw shouldBe(what);
    std::vector<double> out;
    for (const Json& one : json) {
        if (!one.is_number() || !std::isfinite(one.get<double>())) throw shouldBe(what);
        out.push_back(one.get<double>());
    }
    return out;
}

std::int64_t frameOf(const Json& json) {
    return Whole{0, last}.read(json[0]);
}

} // namespace

Json Number::write(double value) const {
    return rounded(value, 1e6);
}
double Number::read(const Json& json) const {
    if (!json.is_number() || !(json.get<double>() >= least && json.get<double>() <= most))
        throw shouldBe("a number from " + decimal(least, 2) + " to " + decimal(most, 2));
    return json.get<double>();
}

FrameSize FrameSizeForm::read(const Json& json) const {
    if (!json.is_array() || json.size() != 2) throw shouldBe("two whole numbers, [width, height]");
    const Whole side{FrameChoice::smallest, FrameChoice::largest};
    return {static_cast<int>(side.read(json[0])), static_cast<int>(side.read(json[1]))};
}

std::array<int, 3> ColourForm::read(const Json& json) const {
    if (!json.is_array() || json.size() != 3) throw shouldBe("a colour, [red, green, blue]");
    std::array<int, 3> out{};
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = static_cast<int>(Whole{0, 255}.read(json[i]));
    return out;
}

Json CurvePointForm::write(const CurvePoint& p) const {
    return {rounded(p.x, 1e6), rounded(p.y, 1e6)};
}
CurvePoint CurvePointForm::read(const Json& json) const {
    const auto n = numbers(json, 2, 2, "two numbers from 0 to 1, [x, y]");
    return {n[0], n[1]};
}

Json SharePointForm::write(const PicturePoint& p) const {
    return {rounded(p.x, 1e6), rounded(p.y, 1e6)};
}
PicturePoint SharePointForm::read(const Json& json) const {
    const auto n = numbers(json, 2, 2, "two shares of the frame, [x, y]");
    return {n[0], n[1]};
}

Json FollowedPointForm::write(const FollowedPoint& p) const {
    Json out{p.frame, rounded(p.at.x, ofPixel), rounded(p.at.y, ofPixel), rounded(p.quality, 1000)};
    if (p.isPut) out.push_back(1);
    return out;
}
FollowedPoint FollowedPointForm::read(const Json& json) const {
    const auto n = numbers(json, 4, 5, "[frame, x, y, quality]");
    return {frameOf(json), {n[1], n[2]}, n[3], n.size() > 4 && n[4] != 0};
}

Json CameraPointForm::write(const CameraPoint& p) const {
    Json out{p.frame, rounded(p.x, ofPixel), rounded(p.y, ofPixel), rounded(p.turn, ofTurn),
             rounded(p.grow, ofTurn)};
    if (p.begins) out.push_back(1);
    return out;
}
CameraPoint CameraPointForm::read(const Json& json) const {
    const auto n = numbers(json, 5, 6, "[frame, x, y, turn, grow]");
    return {frameOf(json), n[1], n[2], n[3], n[4], n.size() > 5 && n[5] != 0};
}

Json GrainLookForm::write(const GrainLook& look) const {
    Json out = Json::array();
    for (const double one : look.luma)
        out.push_back(rounded(one, 1e6));
    out.push_back(rounded(look.chroma, 1e6));
    out.push_back(rounded(look.size, 1e4));
    return out;
}
GrainLook GrainLookForm::read(const Json& json) const {
    constexpr std::size_t count = GrainLook::lights + 2;
    const auto n =
        numbers(json, count, count, "six numbers, the grain of dark to bright, of colour, and its size");
    GrainLook out;
    std::copy_n(n.begin(), GrainLook::lights, out.luma.begin());
    out.chroma = n[GrainLook::lights];
    out.size = n[GrainLook::lights + 1];
    return out;
}

} // namespace yarngap
