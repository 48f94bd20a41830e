// Softening, sharpening and grain over the whole frame.
#pragma once

#include "core/finish/float_picture.h"
#include "core/image/image.h"

#include <array>
#include <cstdint>

namespace yarngap {

/// How grainy a picture is.
struct GrainLook {
    static constexpr std::size_t lights = 4;
    /// Standard deviation of luma (or of each of red, green and blue) in shares of white, of dark to bright
    /// quarters.
    std::array<double, lights> luma{};
    double chroma = 0; ///< of both
    double size = 0;   ///< of a grain: deviation of the Gaussian that white noise is softened by, pixels

    [[nodiscard]] bool isNothing() const { return *this == GrainLook(); }
    friend bool operator==(const GrainLook&, const GrainLook&) = default;
};

enum class GrainKind {
    none,
    added,  ///< of a strength and a size to choose, on all frames
    matched ///< on made frames, as much as they lack of what the shot's own have
};
[[nodiscard]] std::string_view name(GrainKind value);
GrainKind parseGrainKind(std::string_view text);

/// A plain value. Lengths are pixels of the result.
struct Texture {
    double softenRadius = 2; ///< deviation of the Gaussian, 0.3 to `mostRadius`
    int soften = 0;          ///< percent of it, 0 to 100
    double sharpenRadius = 1;
    int sharpen = 0; ///< percent of the difference from softened that is added, 0 to 300
    GrainKind grain = GrainKind::none;
    double grainStrength = 2; ///< of added: deviation in percent of white, 0 to 20
    double grainSize = 0.6;   ///< of added: see GrainLook, 0 to 4
    GrainLook own = {};       ///< of the shot's own frames, for matched; nothing: not measured yet

    static constexpr double leastRadius = 0.3;
    static constexpr double mostRadius = 100;
    static constexpr int mostSharpen = 300;
    static constexpr double mostGrain = 20;
    static constexpr double mostGrainSize = 4;

    [[nodiscard]] bool softens() const { return soften > 0; }
    [[nodiscard]] bool sharpens() const { return sharpen > 0; }
    friend bool operator==(const Texture&, const Texture&) = default;
};

/// Softens, then sharpens, as far as that is set. `scale`: size of the picture over that of the result.
void softenAndSharpen(FloatPicture& picture, const Texture& texture, double scale);

/// How grainy a picture is: of flat places, from what a second difference in both directions (1 −2 1) leaves,
/// the lesser half of it, so that edges and texture count little (after Immerkær, Fast noise variance
/// estimation, 1996); the size from how much less is left when pixels are averaged two by two.
GrainLook grainOf(const FloatPicture& picture, const ColourTags& colour);
/// The mean of several.
GrainLook meanOf(const std::vector<GrainLook>& looks);

/// Adds grain of `look`. Of one `seed` it is the same each time.
void addGrain(FloatPicture& picture, const GrainLook& look, const ColourTags& colour, std::uint64_t seed);
/// What has to be added to `have` for `want`: variances add up.
GrainLook missingGrain(const GrainLook& want, const GrainLook& have);

} // namespace yarngap
