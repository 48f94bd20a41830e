// Black, white, gamma, a curve and saturation.
#pragma once

#include "core/finish/float_picture.h"
#include "core/image/image.h"
#include "core/time/rational.h"

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace yarngap {

struct CurvePoint {
    double x = 0, y = 0; ///< shares of white, 0 to 1
    friend bool operator==(const CurvePoint&, const CurvePoint&) = default;
};

/// Tone at a source place. Values are shares of white in the picture's own transfer; of pictures of floats,
/// light of the scene.
struct ToneKey {
    Rational at = 0;
    double black = 0;      ///< what becomes black, −0.5 to 0.9
    double white = 1;      ///< what becomes white, 0.1 to 2, above black by 0.05
    double gamma = 1;      ///< above 1 lifts the middle, 0.1 to 10
    double saturation = 1; ///< 0 to 4
    /// Of rising x and never falling y, 0 to 16 points; none: straight.
    std::vector<CurvePoint> curve = {};

    static constexpr std::size_t mostPoints = 16;

    [[nodiscard]] bool isNothing() const {
        return black == 0 && white == 1 && gamma == 1 && saturation == 1 && curve.empty();
    }
    friend bool operator==(const ToneKey&, const ToneKey&) = default;
};

/// Throws Error, with what is allowed.
void validate(const ToneKey& tone);

/// A curve through points that goes nowhere beyond them: piecewise cubic Hermite with the slopes of Fritsch
/// and Carlson (Monotone piecewise cubic interpolation, 1980), here in the form of Fritsch and Butland
/// (1984): the weighted harmonic mean of the slopes on both sides. Level before the first point and after
/// the last.
class MonotoneCurve {
  public:
    explicit MonotoneCurve(std::vector<CurvePoint> points);
    [[nodiscard]] double operator()(double x) const;

  private:
    std::vector<CurvePoint> points_;
    std::vector<double> slopes_;
};

/// What tone makes of values, for one place in time.
///
///     (v − black) / (white − black), to the power 1 / gamma, through the curve.
///
/// Values below black stay below it and those above white above it, without gamma or curve bending them back;
/// what the picture cannot hold is cut off when it is written.
class Tone {
  public:
    Tone() = default;
    explicit Tone(const ToneKey& key);
    /// Of keys in order, at `place`: values between those of two keys, in equal parts of time.
    Tone(std::span<const ToneKey> keys, const Rational& place);

    [[nodiscard]] bool isNothing() const { return isStraight_ && saturation_ == 1; }
    [[nodiscard]] float operator()(float value) const;
    [[nodiscard]] float saturation() const { return saturation_; }
    void apply(FloatPicture& picture, const ColourTags& colour) const;

  private:
    static constexpr int steps = 4096;
    void read(std::span<const ToneKey> keys, const Rational& place);
    std::vector<float> table_; ///< of values 0 to 1
    float outsideSlope_ = 1;   ///< of values below 0 and above 1
    float saturation_ = 1;
    bool isStraight_ = true;
};

/// How the values of a picture are spread: of luma, or of the mean of red, green and blue.
struct Histogram {
    static constexpr std::size_t bins = 64;
    std::array<float, bins> shares{}; ///< of all pixels; the fullest bin of most pictures is above 0.02
    double black = 0; ///< share of pixels that are as dark as the picture can hold, or darker than black
    double white = 0; ///< the same of white
};
Histogram histogramOf(const Image& image, const ColourTags& colour);

} // namespace yarngap
