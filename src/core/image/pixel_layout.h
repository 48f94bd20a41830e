// What the samples of a picture are: colour model, depth, subsampling, and the colour tags that go along.
#pragma once

#include <cstdint>
#include <string>

namespace yarngap {

enum class ColourModel { grey, yuv, rgb };
enum class SampleKind {
    integer,
    half, ///< floats of 16 bit in the file; worked on as 32 bit, which loses nothing
    real  ///< floats of 32 bit
};

/// Layout of a planar picture. Planes are Y U V or G B R order, then alpha; a grey picture has one.
struct PixelLayout {
    ColourModel model = ColourModel::yuv;
    bool alpha = false;
    int depth = 8;        ///< significant bits of an integer sample, 8 to 16; above 8 it takes two bytes
    int chromaShiftX = 0; ///< log2 of the horizontal subsampling of U and V; 1 for 4:2:0 and 4:2:2
    int chromaShiftY = 0; ///< log2 of the vertical subsampling of U and V; 1 for 4:2:0
    SampleKind samples =
        SampleKind::integer; ///< floats hold light of the scene, 1 being white; RGB and grey only

    [[nodiscard]] int planeCount() const { return (model == ColourModel::grey ? 1 : 3) + (alpha ? 1 : 0); }
    [[nodiscard]] bool isChroma(int plane) const {
        return model == ColourModel::yuv && (plane == 1 || plane == 2);
    }
    [[nodiscard]] bool isFloat() const { return samples != SampleKind::integer; }
    [[nodiscard]] int bytesPerSample() const { return isFloat() ? 4 : depth > 8 ? 2 : 1; }
    /// White: 2^depth − 1, or 1 of floats.
    [[nodiscard]] int maxValue() const { return isFloat() ? 1 : (1 << depth) - 1; }
    /// "4:2:0 YUV, 8 bit", "RGB with alpha, 10 bit".
    [[nodiscard]] std::string describe() const;

    friend bool operator==(const PixelLayout&, const PixelLayout&) = default;
};

/// Colour description as code points of ITU-T H.273; 2 means unspecified.
struct ColourTags {
    int primaries = 2;
    int transfer = 2;
    int matrix = 2;
    bool fullRange = false;
    int chromaSite = 0; ///< 0 unspecified, 1 left, 2 centre, 3 top left, as FFmpeg numbers them

    friend bool operator==(const ColourTags&, const ColourTags&) = default;
};

} // namespace yarngap
