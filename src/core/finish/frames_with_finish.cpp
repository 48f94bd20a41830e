#include "core/finish/frames_with_finish.h"

#include "core/progress.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <utility>

namespace yarngap {

namespace {

bool isMadeRow(const PlanRow& row) {
    return row.kind == FrameKind::flow || row.kind == FrameKind::blend;
}

void add(std::string& key, double value) {
    std::array<char, 32> text{};
    const auto [end, ec] =
        std::to_chars(text.data(), text.data() + text.size(), value, std::chars_format::hex);
    key += ':';
    key.append(text.data(), end);
}

/// A draft's side for a side of the result.
int draftSide(int side, double scale, int shift) {
    const int step = 1 << shift;
    return std::max(step, static_cast<int>(std::lround(side * scale / step)) * step);
}

/// Motion as it is seen through a mapping: each cell takes what is where it comes from.
MidMotion motionThrough(const MidMotion& motion, const Mapping& mapping, int width, int height) {
    MidMotion out;
    if (motion.cells.empty()) return out;
    out.width = (width + 1) / 2;
    out.height = (height + 1) / 2;
    out.cells.reserve(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height));
    const Plane& m = mapping.toSource;
    const double area = m.a * m.e - m.b * m.d;
    for (int y = 0; y < out.height; ++y)
        for (int x = 0; x < out.width; ++x) {
            const PicturePoint from = mapping({2.0 * x + 1, 2.0 * y + 1});
            if (!(from.x >= 0 && from.y >= 0 && from.x < 2.0 * motion.width &&
                  from.y < 2.0 * motion.height)) {
                out.cells.emplace_back();
                out.trust.push_back(1);
                continue;
            }
            const int cx = static_cast<int>(from.x / 2);
            const int cy = static_cast<int>(from.y / 2);
            MidCell cell = motion.row(cy)[cx];
            const auto vx = static_cast<double>(cell.vx);
            const auto vy = static_cast<double>(cell.vy);
            cell.vx = static_cast<float>((m.e * vx - m.b * vy) / area);
            cell.vy = static_cast<float>((m.a * vy - m.d * vx) / area);
            out.cells.push_back(cell);
            const auto at = static_cast<std::size_t>(cy) * static_cast<std::size_t>(motion.width) +
                            static_cast<std::size_t>(cx);
            out.trust.push_back(motion.trust.empty() ? 1 : motion.trust[at]);
        }
    return out;
}

/// Of a single key the tone itself; of several one that says that there are some.
std::shared_ptr<const Tone> toneOf(const Finish& finish) {
    if (std::ranges::all_of(finish.tones, &ToneKey::isNothing)) return nullptr;
    return std::make_shared<const Tone>(finish.tones.front());
}

} // namespace

FramesWithFinish::FramesWithFinish(const OutputFramesPtr& below, const Finish& finish,
                                   std::shared_ptr<Memory> memory)
    : FramesWithFinish(
          below,
          std::make_shared<const Parts>(Parts{finish, FinishGeometry(finish, below->source().facts()),
                                              toneOf(finish), std::move(memory)}),
          false) {}

FramesWithFinish::FramesWithFinish(OutputFramesPtr below, std::shared_ptr<const Parts> parts, bool isDraft)
    : below_(std::move(below))
    , parts_(std::move(parts))
    , isDraft_(isDraft)
    , facts_(below_->facts()) {
    const FinishGeometry& geometry = parts_->geometry;
    if (isDraft_) {
        scaleX_ = static_cast<double>(facts_.width) / geometry.sourceWidth();
        scaleY_ = static_cast<double>(facts_.height) / geometry.sourceHeight();
    }
    if (!geometry.isNothing()) {
        const ResultFrame& result = geometry.result();
        facts_.width = draftSide(result.size.width, scaleX_, isDraft_ ? facts_.layout.chromaShiftX : 0);
        facts_.height = draftSide(result.size.height, scaleY_, isDraft_ ? facts_.layout.chromaShiftY : 0);
    }
    facts_.pixelAspect = geometry.result().pixelAspect;
}

FinishPlace finishPlaceOf(const FramePlan& plan, std::int64_t n) {
    const PlanRow& row = plan.rows.at(static_cast<std::size_t>(n));
    const bool bends = plan.settings.empty() || plan.settings[row.settings].inBetweens.synthesis.bendPaths;
    const PathPlace path = placeOfRow(row, bends);
    if (isMadeRow(row)) return {Rational(row.position.frame) + row.position.phase, path};
    return {Rational(row.first), path};
}

PictureFinish FramesWithFinish::finishAt(const FinishPlace& place, bool isMade, std::uint64_t seed) const {
    const Finish& finish = parts_->finish;
    PictureFinish out;
    out.width = facts_.width;
    out.height = facts_.height;
    out.mapping = parts_->geometry.isNothing() ? Mapping() : parts_->geometry.at(place);
    const ResultFrame& result = parts_->geometry.result();
    if (isDraft_ && !parts_->geometry.isNothing()) {
        const double resultX = static_cast<double>(facts_.width) / result.size.width;
        const double resultY = static_cast<double>(facts_.height) / result.size.height;
        out.mapping.toSource = Plane::scaled(scaleX_, scaleY_)
                                   .after(out.mapping.toSource)
                                   .after(Plane::scaled(1 / resultX, 1 / resultY));
        out.mapping.lens.centre = {out.mapping.lens.centre.x * resultX, out.mapping.lens.centre.y * resultY};
        out.mapping.lens.radius *= resultY;
        out.scale = resultY;
    } else if (isDraft_) {
        out.scale = scaleY_;
    }
    out.isMoved = !out.mapping.isNothing() || out.width != below_->facts().width ||
                  out.height != below_->facts().height;
    // Of several keys the tone is made for the frame itself alone: keys are asked for far more often.
    out.tone = parts_->tone;
    out.texture = finish.texture;
    out.smear = smearAt(finish.smears, place.at.toDouble());
    out.pixelAspect = facts_.pixelAspect.toDouble();
    out.around = finish.frame.around;
    out.seed = seed;
    // Grain of a draft would be that of another picture.
    if (isDraft_) return out;
    const Texture& texture = finish.texture;
    if (texture.grain == GrainKind::added && texture.grainStrength > 0) {
        GrainLook look;
        look.luma.fill(texture.grainStrength / 100);
        look.chroma = texture.grainStrength / 300;
        look.size = texture.grainSize;
        out.grain = look;
    } else if (texture.grain == GrainKind::matched && isMade && !texture.own.isNothing()) {
        out.grain = texture.own;
        out.isGrainMatched = true;
    }
    return out;
}

PictureFinish FramesWithFinish::finishOf(std::int64_t n) const {
    return finishAt(placeOf(n), isMadeRow(below_->row(n)), static_cast<std::uint64_t>(n) + 1);
}

std::string FramesWithFinish::keyOf(const PictureFinish& finish, const FinishPlace& place) const {
    if (finish.isNothing()) return {};
    std::string key = ":finish:" + std::to_string(finish.width) + 'x' + std::to_string(finish.height);
    const Plane& m = finish.mapping.toSource;
    for (const double v : {m.a, m.b, m.c, m.d, m.e, m.f, finish.mapping.lens.amount, finish.pixelAspect,
                           finish.smear.length, finish.smear.angle, finish.scale})
        add(key, v);
    for (const int part : finish.around)
        key += ':' + std::to_string(part);
    const Texture& t = finish.texture;
    for (const double v :
         {t.softenRadius, static_cast<double>(t.soften), t.sharpenRadius, static_cast<double>(t.sharpen)})
        add(key, v);
    if (finish.grain) {
        key += finish.isGrainMatched ? ":matched" : ":grain";
        for (const double v : finish.grain->luma)
            add(key, v);
        add(key, finish.grain->chroma);
        add(key, finish.grain->size);
        key += ':' + std::to_string(finish.seed);
    }
    if (!finish.tone) return key;
    const auto& tones = parts_->finish.tones;
    key += ":tone";
    if (tones.size() > 1) key += ':' + place.at.toString();
    for (const ToneKey& tone : tones) {
        key += ':' + (tones.size() > 1 ? tone.at.toString() : std::string());
        for (const double v : {tone.black, tone.white, tone.gamma, tone.saturation})
            add(key, v);
        for (const CurvePoint& p : tone.curve) {
            add(key, p.x);
            add(key, p.y);
        }
    }
    return key;
}

std::string FramesWithFinish::key(std::int64_t n) const {
    return below_->key(n) + keyOf(finishOf(n), placeOf(n));
}

ImagePtr FramesWithFinish::finishedImage(const ImagePtr& made, PictureFinish finish,
                                         const FinishPlace& place) const {
    if (parts_->finish.tones.size() > 1)
        finish.tone = std::make_shared<const Tone>(parts_->finish.tones, place.at);
    return finished(made, finish, facts_.colour);
}

MadeFrame FramesWithFinish::finishedFrame(std::int64_t n, MadeFrame made) const {
    made.image = finishedImage(made.image, finishOf(n), placeOf(n));
    if (made.edgeScale > 1 && !parts_->geometry.isNothing()) {
        // What is left of the bare edge once the picture lies as it is to lie.
        const FinishPlace place = placeOf(n);
        const auto hides = parts_->geometry.scaleThatHides(place, made.edgeScale);
        const double hidden = hidingScaleAt(parts_->finish.hideEdges, place.at);
        made.edgeScale = std::max(1.0, hides.value_or(made.edgeScale) / hidden);
    }
    return made;
}

std::optional<MadeFrame> FramesWithFinish::kept(std::int64_t n) const {
    return finishOf(n).isNothing() ? below_->kept(n) : std::nullopt;
}

MadeFrame FramesWithFinish::make(std::int64_t n, const std::stop_token& stop) const {
    if (finishOf(n).isNothing()) return below_->make(n, stop);
    const std::shared_ptr<Memory>& memory = parts_->memory;
    if (!memory) return finishedFrame(n, below_->make(n, stop));
    const std::string key = below_->key(n);
    if (const auto known = memory->find(key)) return finishedFrame(n, *known);
    const MadeFrame made = below_->make(n, stop);
    throwIfStopped(stop);
    // What stands in for a frame with a trouble may be another next time.
    if (!below_->worstTroubleOf(n)) memory->insert(key, made, made.image->byteCount() + key.size());
    return finishedFrame(n, made);
}

/// The frame below on its way, finished at the end.
class FramesWithFinish::InMaking final : public FrameInMaking {
  public:
    InMaking(std::shared_ptr<const FramesWithFinish> frames, std::int64_t n)
        : frames_(std::move(frames))
        , n_(n)
        , below_(frames_->below_->begin(n)) {}
    void read(const std::stop_token& stop) override {
        kept_ = frames_->below_->kept(n_);
        if (!kept_) below_->read(stop);
    }
    void estimate(const std::stop_token& stop) override {
        if (!kept_) below_->estimate(stop);
    }
    MadeFrame finish(const std::stop_token& stop) override {
        MadeFrame made = kept_ ? *std::move(kept_) : below_->finish(stop);
        throwIfStopped(stop);
        return frames_->finishedFrame(n_, std::move(made));
    }

  private:
    std::shared_ptr<const FramesWithFinish> frames_;
    std::int64_t n_;
    std::unique_ptr<FrameInMaking> below_;
    std::optional<MadeFrame> kept_;
};

std::unique_ptr<FrameInMaking> FramesWithFinish::begin(std::int64_t n) const {
    if (finishOf(n).isNothing()) return below_->begin(n);
    // Cheap: all of it is shared.
    return std::make_unique<InMaking>(
        std::shared_ptr<const FramesWithFinish>(new FramesWithFinish(below_, parts_, isDraft_)), n);
}

FrameInsight FramesWithFinish::insight(std::int64_t n, const std::stop_token& stop) const {
    FrameInsight insight = below_->insight(n, stop);
    const PictureFinish finish = finishOf(n);
    if (finish.isNothing()) return insight;
    insight.image = finishedImage(insight.image, finish, placeOf(n));
    if (finish.isMoved)
        insight.motion = motionThrough(insight.motion, finish.mapping, finish.width, finish.height);
    return insight;
}

OutputFramesPtr FramesWithFinish::drafts() const {
    return std::shared_ptr<const FramesWithFinish>(new FramesWithFinish(below_->drafts(), parts_, true));
}

bool FramesWithFinish::isDraftSooner(std::int64_t n) const {
    return below_->isDraftSooner(n) && !(parts_->memory && parts_->memory->contains(below_->key(n)));
}

ImagePtr FramesWithFinish::sourceAsShown(std::int64_t frame, const std::stop_token& stop) const {
    const ImagePtr image = below_->sourceAsShown(frame, stop);
    const FinishPlace place{Rational(frame), placeOfFrame(frame)};
    return finishedImage(image, finishAt(place, false, 0), place);
}

std::string FramesWithFinish::keyOfSourceAsShown(std::int64_t frame) const {
    const FinishPlace place{Rational(frame), placeOfFrame(frame)};
    return below_->keyOfSourceAsShown(frame) + keyOf(finishAt(place, false, 0), place);
}

} // namespace yarngap
