// The transfer curves of video, between encoded values and light.
#pragma once

#include <vector>

namespace yarngap {

/// From encoded values to light and back, by the transfer characteristics of ITU-T H.273, from tables.
///
/// Encoded values and light are 0 to 1; beyond that both are cut off. PQ's 1 is 10,000 candela per square
/// metre.
class LightTable {
  public:
    explicit LightTable(int transfer);
    [[nodiscard]] float light(float encoded) const { return read(light_, encoded); }
    /// Read at the fourth root of the light, where all curves are nearly straight.
    [[nodiscard]] float encoded(float light) const;

  private:
    static float read(const std::vector<float>& table, float at);
    std::vector<float> light_;
    std::vector<float> encoded_;
};

/// Light of an encoded value, by formula.
double lightOf(int transfer, double encoded);
/// Its inverse.
double encodedOf(int transfer, double light);

} // namespace yarngap
