#include "core/finish/finished_picture.h"

#include "core/finish/picture_reading.h"

#include <memory>
#include <utility>

namespace yarngap {

namespace {

/// The grain of the picture before it is moved counts: the result's is what is left of it.
GrainLook grainToAdd(const PictureFinish& finish, const FloatPicture& picture, const ColourTags& colour) {
    if (!finish.isGrainMatched) return *finish.grain;
    return missingGrain(*finish.grain, grainOf(picture, colour));
}

} // namespace

ImagePtr finished(const ImagePtr& made, const PictureFinish& finish, const ColourTags& colour) {
    if (finish.isNothing()) return made;
    const bool hasTexture =
        finish.texture.softens() || finish.texture.sharpens() || finish.grain || finish.smear.length > 0;
    Image out;
    const bool mayHoldNoNumbers = made->layout().isFloat();
    if (!finish.tone && !hasTexture && !mayHoldNoNumbers) {
        out = readThrough(*made, finish.mapping, finish.width, finish.height, colour);
    } else {
        FloatPicture picture = inFloats(*made);
        if (finish.tone) finish.tone->apply(picture, colour);
        if (finish.isMoved)
            picture = readThrough(picture, finish.mapping, finish.width, finish.height, colour);
        softenAndSharpen(picture, finish.texture, finish.scale);
        if (finish.smear.length > 0)
            smear(picture, finish.smear.length * finish.width * finish.pixelAspect, finish.smear.angle,
                  finish.pixelAspect);
        if (finish.grain) addGrain(picture, grainToAdd(finish, picture, colour), colour, finish.seed);
        out = inSamples(picture);
    }
    if (finish.isMoved)
        coverAround(out, finish.mapping, made->width(), made->height(), finish.around, colour);
    return std::make_shared<const Image>(std::move(out));
}

} // namespace yarngap
