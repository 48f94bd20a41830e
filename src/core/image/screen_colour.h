// Colours of a shot on a screen: its primaries and its transfer brought to those of the screen.
#pragma once

#include "core/image/light_curve.h"
#include "core/image/pixel_layout.h"

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

namespace yarngap {

/// Whether brightness beyond a screen's white is brought into its range: PQ and HLG.
[[nodiscard]] bool isToneMapped(const ColourTags& tags);

/// "BT.2020, PQ", what is known of it; empty where nothing is. The names are those of ITU-T H.273.
[[nodiscard]] std::string describeColour(const ColourTags& tags);

/// From encoded RGB of a shot to encoded RGB of a screen with BT.709's primaries.
///
/// Encoded values become light by the shot's transfer (ITU-T H.273, table 3), which a matrix brings to
/// BT.709's primaries (H.273, table 2; SMPTE RP 177; white points adapted by Bradford's method), and is
/// encoded again. Video of ordinary range, with the transfers of BT.601, BT.709 and BT.2020, keeps its curve:
/// BT.1886 shows all of them alike.
///
/// PQ (SMPTE ST 2084) and HLG (ITU-R BT.2100, shown at 1,000 cd/m² with a system gamma of 1.2) are mapped to
/// 203 cd/m², the diffuse white of ITU-R BT.2408, along the curve of ITU-R BT.2390-10, section 5.4.1, by
/// luminance, so that hues stay. What a screen has no colour for is cut off.
class ScreenColour {
  public:
    /// `white`: the sample that stands for encoded 1; more is cut off.
    explicit ScreenColour(const ColourTags& tags, int white = 65535);
    /// False where the shot's values can be shown as they are.
    [[nodiscard]] static bool isNeeded(const ColourTags& tags);
    /// A row: samples R G B A of 16 bits to bytes B G R A, A being 255. Both have four values a pixel.
    void convert(std::span<const std::uint16_t> rgba, std::span<std::uint8_t> bgra) const;

  private:
    using Rgb = std::array<float, 3>;
    [[nodiscard]] float dimming(const Rgb& light) const;

    bool toneMaps_;
    bool isHlg_;
    std::vector<float> light_;                     ///< of each sample, in screen whites
    LightTable screen_;                            ///< how the screen encodes
    std::array<std::array<float, 3>, 3> matrix_{}; ///< to BT.709's primaries
    Rgb luminance_{};                              ///< shares of the shot's R, G and B in luminance
    std::vector<float>
        dimmed_; ///< factor of light, at the fourth root of its luminance over that of the mastering peak
};

} // namespace yarngap
