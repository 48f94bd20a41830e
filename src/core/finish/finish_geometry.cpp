#include "core/finish/finish_geometry.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap {

namespace {

/// From square source pixels to pixels of the result.
Plane fitOf(const FrameChoice& choice, double sourceWidth, double sourceHeight, const ResultFrame& result) {
    const double aspect = result.pixelAspect.toDouble();
    const double width = result.size.width * aspect;
    const double height = result.size.height;
    const double across = width / sourceWidth;
    const double down = height / sourceHeight;
    double scale = 1;
    switch (choice.fit) {
    case FrameFit::letterbox:
        scale = std::min(across, down);
        break;
    case FrameFit::fill:
        scale = std::max(across, down);
        break;
    case FrameFit::width:
        scale = across;
        break;
    case FrameFit::height:
        scale = down;
        break;
    case FrameFit::byHand:
        break;
    }
    return Plane::scaled(1 / aspect, 1)
        .after(Plane::shift(width / 2, height / 2))
        .after(Plane::scaled(scale, scale))
        .after(Plane::shift(-sourceWidth / 2, -sourceHeight / 2));
}

} // namespace

FinishGeometry::FinishGeometry(const Finish& finish, const MediaFacts& source)
    : finish_(finish)
    , width_(source.width)
    , height_(source.height)
    , sourceAspect_(source.pixelAspect.toDouble())
    , result_(resultFrame(finish.frame, source))
    , calmed_(finish.calm, source.width, source.height, source.pixelAspect.toDouble(), source.rate.toDouble())
    , fit_(fitOf(finish.frame, source.width * sourceAspect_, source.height, result_)) {
    const PicturePoint first = fit_({0, 0});
    const PicturePoint last = fit_({width_ * sourceAspect_, static_cast<double>(height_)});
    const auto middle = [](double a, double b, double size) {
        return (std::max(0.0, a) + std::min(size, b)) / 2;
    };
    middle_ = {middle(first.x, last.x, result_.size.width), middle(first.y, last.y, result_.size.height)};
    isNothing_ =
        result_.size == FrameSize{width_, height_} && result_.pixelAspect == source.pixelAspect &&
        finish_.hideEdges.scale == 1 && !finish_.hold.isHolding() && !finish_.calm.isCalming() &&
        std::ranges::all_of(finish_.places,
                            [](const PlaceKey& k) { return k.scale == 1 && k.x == 0 && k.y == 0; }) &&
        std::ranges::all_of(finish_.smears, [](const Smear& s) { return s.bulge == 0; });
}

PicturePoint FinishGeometry::aim() const {
    const PicturePoint share =
        finish_.hold.at == HoldAt::middle ? PicturePoint{0.5, 0.5} : finish_.hold.chosen;
    return {share.x * result_.size.width, share.y * result_.size.height};
}

Plane FinishGeometry::held(const FinishPlace& place, const Plane& calmed) const {
    const Hold& hold = finish_.hold;
    if (!hold.isHolding()) return {};
    const PathPlace chosen = placeOfFrame(hold.frame);
    const Plane calmedThen = finish_.calm.isCalming() ? calmed_.at(chosen) : Plane();
    const auto square = [&](const PicturePoint& p) { return PicturePoint{p.x * sourceAspect_, p.y}; };
    const PicturePoint now = calmed(square(pointAt(hold.path, place.path)));
    const PicturePoint then = calmedThen(square(pointAt(hold.path, chosen)));
    const double share = hold.share / 100.0;
    Plane turned;
    if (hold.turns && !hold.second.empty()) {
        const PicturePoint secondNow = calmed(square(pointAt(hold.second, place.path)));
        const PicturePoint secondThen = calmedThen(square(pointAt(hold.second, chosen)));
        const double length = std::hypot(secondNow.x - now.x, secondNow.y - now.y);
        const double lengthThen = std::hypot(secondThen.x - then.x, secondThen.y - then.y);
        if (length > 1 && lengthThen > 1) {
            double turn = std::atan2(secondThen.y - then.y, secondThen.x - then.x) -
                          std::atan2(secondNow.y - now.y, secondNow.x - now.x);
            turn = std::remainder(turn, 2 * std::acos(-1.0));
            turned = Plane::turned(share * turn, std::pow(lengthThen / length, share));
        }
    }
    // About the point itself, which then goes part of the way to where it was.
    const PicturePoint to{now.x + share * (then.x - now.x), now.y + share * (then.y - now.y)};
    Plane out = Plane::shift(to.x, to.y).after(turned).after(Plane::shift(-now.x, -now.y));
    if (hold.at != HoldAt::own) {
        const PicturePoint wanted = fit_.inverse()(placed(place.at).inverse()(aim()));
        out = Plane::shift(wanted.x - then.x, wanted.y - then.y).after(out);
    }
    return out;
}

Plane FinishGeometry::placed(const Rational& at) const {
    if (finish_.places.empty()) return {};
    const PlaceKey key = placeAt(finish_.places, at);
    const double w = result_.size.width;
    const double h = result_.size.height;
    return Plane::shift(key.x * w, key.y * h).after(Plane::scaledAbout({w / 2, h / 2}, key.scale));
}

Plane FinishGeometry::toResult(const FinishPlace& place, double hiding) const {
    const Plane calmed = finish_.calm.isCalming() ? calmed_.at(place.path) : Plane();
    // Edges are hidden about the thing that is held where it is put, else about the middle: what is held
    // stays where it is held.
    PicturePoint about = middle_;
    if (finish_.hold.isHolding() && finish_.hold.at != HoldAt::own) about = placed(place.at).inverse()(aim());
    return placed(place.at)
        .after(Plane::scaledAbout(about, hiding))
        .after(fit_)
        .after(held(place, calmed))
        .after(calmed)
        .after(Plane::scaled(sourceAspect_, 1));
}

Mapping FinishGeometry::at(const FinishPlace& place) const {
    const Plane toResult = this->toResult(place, hidingScaleAt(finish_.hideEdges, place.at));
    Mapping out;
    constexpr double nothing = 1e-12; // of its area is left
    if (std::abs(toResult.a * toResult.e - toResult.b * toResult.d) > nothing)
        out.toSource = toResult.inverse();
    else
        out.toSource = {0, 0, -1e6, 0, 0, -1e6}; // none of it is seen
    const SmearNow smear = smearAt(finish_.smears, place.at.toDouble());
    if (smear.bulge > 0) {
        const double aspect = result_.pixelAspect.toDouble();
        out.lens.centre = {result_.size.width / 2.0, result_.size.height / 2.0};
        out.lens.radius = std::hypot(result_.size.width * aspect, result_.size.height) / 2;
        out.lens.stretch = aspect;
        constexpr double strongest = 0.5;
        out.lens.amount = strongest * smear.bulge;
    }
    return out;
}

std::optional<double> FinishGeometry::scaleThatHides(const FinishPlace& place, double madeEdge) const {
    // What has to be covered: of the frame, what the fitted picture covers, where it stands.
    const PicturePoint first = fit_({0, 0});
    const PicturePoint last = fit_({width_ * sourceAspect_, static_cast<double>(height_)});
    const Plane seen = placed(place.at).inverse();
    const PicturePoint frameFirst = seen({0, 0});
    const PicturePoint frameLast =
        seen({static_cast<double>(result_.size.width), static_cast<double>(result_.size.height)});
    const double left = std::max(first.x, frameFirst.x);
    const double top = std::max(first.y, frameFirst.y);
    const double right = std::min(last.x, frameLast.x);
    const double bottom = std::min(last.y, frameLast.y);
    if (left >= right || top >= bottom) return 1; // nothing of it is seen
    const Plane back = toResult(place, 1).inverse().after(placed(place.at));
    PicturePoint about = middle_;
    if (finish_.hold.isHolding() && finish_.hold.at != HoldAt::own) about = seen(aim());
    const double marginX = width_ / 2.0 * (1 - 1 / madeEdge);
    const double marginY = height_ / 2.0 * (1 - 1 / madeEdge);
    const PicturePoint middle = back(about);
    // At the scale e a corner c shows what lies at middle + (back(c) − middle) / e.
    double most = 1; // of 1 / e
    constexpr double nothing = 1e-6;
    for (const double x : {left, right})
        for (const double y : {top, bottom}) {
            const PicturePoint corner = back({x, y});
            const auto limit = [&](double from, double to, double least, double greatest) {
                if (from < least - nothing || from > greatest + nothing) return false;
                if (to < least - nothing) most = std::min(most, (from - least) / (from - to));
                if (to > greatest + nothing) most = std::min(most, (greatest - from) / (to - from));
                return true;
            };
            if (!limit(middle.x, corner.x, marginX, width_ - marginX) ||
                !limit(middle.y, corner.y, marginY, height_ - marginY))
                return std::nullopt;
        }
    if (most <= 1 / HideEdges::most) return std::nullopt;
    return 1 / most;
}

} // namespace yarngap
