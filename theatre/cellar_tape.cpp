// What a bad tape does to the heron: torn lines, dropouts, a frame without a picture, a frame twice, two
// lost.

#include "theatre/cellar_tape.h"

#include "theatre/paper.h"

#include <algorithm>
#include <cmath>

namespace yarngap::theatre {

namespace {

class CellarTape final : public Scene {
  public:
    CellarTape(int width, int height)
        : width_(width)
        , height_(height)
        , scene_(heronGlide(width, height)) {}

    void draw(QPainter& p, double seconds) const override {
        const auto frame = static_cast<int>(std::lround(seconds * cellarTapeRate));
        if (frame == cellarTapeGrey) {
            p.fillRect(QRectF(0, 0, width_, height_), QColor(128, 128, 128));
            return;
        }
        const int late = frame == cellarTapeRepeat ? 1 : 0;
        const int lost = frame >= cellarTapeLoss ? cellarTapeMissing : 0;
        const double moment = seconds + static_cast<double>(lost - late) / cellarTapeRate;
        scene_->draw(p, moment);
        if (std::ranges::count(cellarTapeTorn, frame) > 0) drawTorn(p, moment, frame);
        if (std::ranges::count(cellarTapeDropouts, frame) > 0) drawDropout(p, frame);
    }

  private:
    /// A band of lines pushed aside, what leaves at one side coming in at the other.
    void drawTorn(QPainter& p, double moment, int frame) const {
        const double top = std::floor(height_ * (0.6 + 0.12 * hashNoise(71, frame, 0)));
        const double by = std::floor(width_ * (0.06 + 0.05 * hashNoise(72, frame, 0)));
        for (const double aside : {by, by - width_}) {
            p.save();
            p.setClipRect(QRectF(std::max(0.0, aside), top, width_, std::floor(height_ * 0.09)));
            p.translate(aside, 0);
            p.setClipRect(QRectF(0, top, width_, std::floor(height_ * 0.09)), Qt::IntersectClip);
            scene_->draw(p, moment);
            p.restore();
        }
    }
    void drawDropout(QPainter& p, int frame) const {
        const double top = std::floor(height_ * (0.2 + 0.5 * hashNoise(73, frame, 0)));
        const double left = std::floor(width_ * 0.3 * hashNoise(74, frame, 0));
        p.fillRect(QRectF(left, top, std::floor(width_ * 0.45), 3 * std::max(1, height_ / 540)),
                   QColor(236, 236, 232));
    }

    int width_, height_;
    std::unique_ptr<Scene> scene_;
};

} // namespace

std::unique_ptr<Scene> cellarTape(int width, int height) {
    return std::make_unique<CellarTape>(width, height);
}

} // namespace yarngap::theatre
