// What a worn print does to the star wheel: scratch, dust, weave, flicker, and two frames that are lost.

#include "theatre/old_reel.h"

#include "theatre/paper.h"
#include "theatre/scene.h"

#include <cmath>

namespace yarngap::theatre {

namespace {

class OldReel final : public Scene {
  public:
    OldReel(int width, int height)
        : width_(width)
        , height_(height)
        , scene_(starWheel(width, height)) {}

    void draw(QPainter& p, double seconds) const override {
        const auto frame = static_cast<int>(std::lround(seconds * oldReelRate));
        const auto chance = [frame](int what) {
            return hashNoise(900 + static_cast<std::uint32_t>(what), frame, what);
        };
        const double unit = width_ / 960.0;
        p.fillRect(QRectF(0, 0, width_, height_), QColor(14, 10, 7)); // the gate
        p.save();
        p.translate(1.6 * unit * (chance(1) - 0.5), 2.4 * unit * (chance(2) - 0.5)); // weave in the gate
        const int lost = frame >= oldReelLoss ? oldReelMissing : 0;
        scene_->draw(p, seconds + static_cast<double>(lost) / oldReelRate);
        p.restore();

        p.fillRect(QRectF(0, 0, width_, height_), QColor(196, 150, 92, 66)); // faded towards brown
        const int light = static_cast<int>(46 * (chance(3) - 0.5));
        p.fillRect(QRectF(0, 0, width_, height_),
                   light > 0 ? QColor(255, 244, 220, light) : QColor(20, 14, 8, -light));

        p.setPen(QPen(QColor(238, 230, 206, 150), 1.3 * unit)); // a scratch that wanders
        const double x = width_ * (0.71 + 0.012 * std::sin(frame * 0.21)) + 2 * unit * (chance(4) - 0.5);
        p.drawLine(QPointF(x, 0), QPointF(x + 5 * unit, height_));
        p.setPen(Qt::NoPen);
        const int specks = static_cast<int>(5 * chance(5));
        for (int i = 0; i < specks; ++i) {
            const double r = unit * (1.5 + 4 * chance(40 + i));
            p.setBrush(chance(60 + i) < 0.7 ? QColor(24, 18, 12, 210) : QColor(246, 240, 222, 220));
            p.drawEllipse(QPointF(width_ * chance(20 + i), height_ * chance(30 + i)), r,
                          r * (0.5 + chance(50 + i)));
        }
        QRadialGradient corner(QPointF(width_ / 2.0, height_ / 2.0), width_ * 0.62);
        corner.setColorAt(0.72, QColor(0, 0, 0, 0));
        corner.setColorAt(1, QColor(12, 8, 4, 170));
        p.fillRect(QRectF(0, 0, width_, height_), corner);
    }

  private:
    int width_, height_;
    std::unique_ptr<Scene> scene_;
};

} // namespace

std::unique_ptr<Scene> oldReel(int width, int height) {
    return std::make_unique<OldReel>(width, height);
}

} // namespace yarngap::theatre
