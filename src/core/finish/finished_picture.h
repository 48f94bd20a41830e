// One picture finished.
#pragma once

#include "core/finish/finish_geometry.h"
#include "core/image/image.h"

#include <array>
#include <cstdint>
#include <memory>
#include <optional>

namespace yarngap {

/// What a finish does to one picture.
struct PictureFinish {
    Mapping mapping;                  ///< pixels of the picture made to those of the result
    int width = 0, height = 0;        ///< of the result
    bool isMoved = false;             ///< the mapping, or the size, is another than none
    std::shared_ptr<const Tone> tone; ///< null where there is none
    Texture texture;
    std::optional<GrainLook> grain; ///< what is added; of GrainKind::matched the whole that is wanted
    bool isGrainMatched = false;    ///< what the picture has of it is not added
    std::uint64_t seed = 0;         ///< of the grain
    SmearNow smear;
    double pixelAspect = 1; ///< of the result
    double scale = 1;       ///< of a draft: its size over that of the result
    std::array<int, 3> around{};

    [[nodiscard]] bool isNothing() const {
        return !isMoved && !tone && !texture.softens() && !texture.sharpens() && !grain && smear.length <= 0;
    }
};

/// The picture finished; itself where nothing is done.
ImagePtr finished(const ImagePtr& made, const PictureFinish& finish, const ColourTags& colour);

} // namespace yarngap
