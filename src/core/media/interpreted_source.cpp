#include "core/media/interpreted_source.h"

#include "core/error.h"
#include "core/image/sample_types.h"
#include "core/media/deinterlacer.h"

#include <algorithm>
#include <cstring>

namespace yarngap {

namespace {

template <typename Sample>
void turnPlane(const Image& in, Image& out, int p, int degrees) {
    const int w = out.plane(p).width;
    const int h = out.plane(p).height;
    for (int y = 0; y < h; ++y) {
        const auto to = out.row<Sample>(p, y);
        for (int x = 0; x < w; ++x) {
            int fromX = w - 1 - x; // 180 degrees
            int fromY = h - 1 - y;
            if (degrees == 90) {
                fromX = y;
                fromY = w - 1 - x;
            } else if (degrees == 270) {
                fromX = h - 1 - y;
                fromY = x;
            }
            to[static_cast<std::size_t>(x)] = in.row<Sample>(p, fromY)[static_cast<std::size_t>(fromX)];
        }
    }
}

/// What changes every frame, as text; empty for nothing.
std::string fingerprint(const Interpretation& in) {
    std::string text;
    if (in.rotation != 0) text += ":turned" + std::to_string(in.rotation);
    // They change no sample, but what is made from them: mixing as light, and the picture on the screen.
    if (in.fullRange) text += *in.fullRange ? ":full" : ":limited";
    if (in.matrix) text += ":matrix" + std::to_string(*in.matrix);
    return text;
}

/// The same for one frame.
std::string fingerprint(const FrameRecipe& recipe, bool topFirst) {
    switch (recipe.kind) {
    case FrameRecipe::Kind::coded:
        break;
    case FrameRecipe::Kind::woven:
        return std::to_string(recipe.top) + '+' + std::to_string(recipe.bottom);
    case FrameRecipe::Kind::field:
        return std::to_string(recipe.top) + (topFirst ? 't' : 'b') + (recipe.second ? '2' : '1');
    }
    return std::to_string(recipe.top);
}

} // namespace

Image weave(const Image& top, const Image& bottom) {
    if (top.width() != bottom.width() || top.height() != bottom.height() || top.layout() != bottom.layout())
        throw Error("Fields of different size or pixel format cannot be woven into one frame.");
    Image out = top;
    for (int p = 0; p < out.planeCount(); ++p) {
        Image::Plane& plane = out.plane(p);
        const Image::Plane& from = bottom.plane(p);
        for (int y = 1; y < plane.height; y += 2) {
            const std::size_t at = plane.stride * static_cast<std::size_t>(y);
            std::memcpy(plane.bytes.data() + at, from.bytes.data() + at, plane.stride);
        }
    }
    return out;
}

Image turned(const Image& image, int degrees) {
    PixelLayout layout = image.layout();
    const bool across = degrees % 180 != 0;
    if (across) std::swap(layout.chromaShiftX, layout.chromaShiftY);
    Image out(across ? image.height() : image.width(), across ? image.width() : image.height(), layout);
    for (int p = 0; p < out.planeCount(); ++p) {
        withSampleType(layout, [&](auto sample) { turnPlane<decltype(sample)>(image, out, p, degrees); });
    }
    return out;
}

InterpretedSource::InterpretedSource(std::shared_ptr<FrameSource> coded,
                                     const std::shared_ptr<const MediaIndex>& index,
                                     const Interpretation& interpretation, std::size_t cacheBytes)
    : coded_(std::move(coded))
    , facts_(interpretedFacts(*index, interpretation))
    , recipes_(recipesFor(*index, interpretation))
    , topFirst_(interpretation.topFirst.value_or(index->facts.scan != Scan::bottomFieldFirst))
    , rotation_(interpretation.rotation)
    , prefix_(coded_->edition() + fingerprint(interpretation) + ':')
    , cache_(cacheBytes) {
    facts_.frames = static_cast<std::int64_t>(recipes_.size());
}

ImagePtr InterpretedSource::frame(std::int64_t n, const std::stop_token& stop) {
    const FrameRecipe& recipe = recipes_.at(static_cast<std::size_t>(n));
    if (recipe.kind == FrameRecipe::Kind::coded && rotation_ == 0) return coded_->frame(recipe.top, stop);
    if (auto hit = cache_.find(n)) return *hit;
    ImagePtr image = std::make_shared<Image>(make(recipe, stop));
    cache_.insert(n, image, image->byteCount());
    return image;
}

std::string InterpretedSource::identityOf(std::int64_t first, std::int64_t last) const {
    // Coded frames in a row are written as FrameSource writes them, so that both find what the other kept.
    const auto recipe = [this](std::int64_t n) { return recipes_.at(static_cast<std::size_t>(n)); };
    const auto follows = [&](std::int64_t n) {
        return recipe(n).kind == FrameRecipe::Kind::coded && recipe(n - 1).kind == FrameRecipe::Kind::coded &&
               recipe(n).top == recipe(n - 1).top + 1;
    };
    std::string text = prefix_;
    for (std::int64_t n = first; n <= last; ++n) {
        if (n > first) text += ',';
        text += fingerprint(recipe(n), topFirst_);
        const std::int64_t begin = n;
        while (n < last && follows(n + 1))
            ++n;
        if (n > begin) text += ".." + fingerprint(recipe(n), topFirst_);
    }
    return text;
}

Image InterpretedSource::make(const FrameRecipe& recipe, const std::stop_token& stop) {
    Image image;
    switch (recipe.kind) {
    case FrameRecipe::Kind::coded:
        image = *coded_->frame(recipe.top, stop);
        break;
    case FrameRecipe::Kind::woven:
        image = weave(*coded_->frame(recipe.top, stop), *coded_->frame(recipe.bottom, stop));
        break;
    case FrameRecipe::Kind::field: {
        const ImagePtr before = coded_->frame(std::max<std::int64_t>(0, recipe.top - 1), stop);
        const ImagePtr now = coded_->frame(recipe.top, stop);
        const ImagePtr after = coded_->frame(std::min(coded_->frames() - 1, recipe.top + 1), stop);
        image = deinterlace(*before, *now, *after, topFirst_, recipe.second);
        break;
    }
    }
    return rotation_ == 0 ? image : turned(image, rotation_);
}

std::optional<FrameTrouble> InterpretedSource::troubleOf(std::int64_t n) const {
    const FrameRecipe& recipe = recipes_.at(static_cast<std::size_t>(n));
    std::optional<FrameTrouble> worst;
    for (std::int64_t frame = recipe.earliest(); frame <= recipe.latest(); ++frame) {
        if (frame < 0 || frame >= coded_->frames()) continue;
        auto trouble = coded_->troubleOf(frame);
        if (trouble && (!worst || worst->kind < trouble->kind)) worst = std::move(trouble);
    }
    return worst;
}

std::shared_ptr<ShotFrames> interpreted(const std::shared_ptr<FrameSource>& coded,
                                        const std::shared_ptr<const MediaIndex>& index,
                                        const Interpretation& interpretation, std::size_t cacheBytes) {
    if (interpretation.isDefault()) return coded;
    return std::make_shared<InterpretedSource>(coded, index, interpretation, cacheBytes);
}

} // namespace yarngap
