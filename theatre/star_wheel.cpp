// The star wheel turns before a night sky: rotation, and a rim and spokes that repeat.

#include "theatre/landscape.h"
#include "theatre/scene.h"

#include <cmath>
#include <numbers>

namespace yarngap::theatre {

namespace {

constexpr double pi = std::numbers::pi;
constexpr int spokes = 12;

QPainterPath star(double outer, double inner, int points) {
    QPainterPath path;
    for (int i = 0; i < 2 * points; ++i) {
        const double r = i % 2 == 0 ? outer : inner;
        const double a = pi * i / points - pi / 2;
        const QPointF at(r * std::cos(a), r * std::sin(a));
        if (i == 0)
            path.moveTo(at);
        else
            path.lineTo(at);
    }
    path.closeSubpath();
    return path;
}

QImage nightSky() {
    QImage sky = skySheet(960, 540, QColor(0x2E, 0x3F, 0x5E), QColor(0x8C, 0x8E, 0x86), 61)
                     .convertToFormat(QImage::Format_RGB32);
    QPainter p(&sky);
    p.setRenderHint(QPainter::Antialiasing);
    drawCutout(p, groundPath(960, 540, 430, 26, 300, 14), Paper(QColor(0x3C, 0x4B, 0x46), 62));
    drawCutout(p, groundPath(960, 540, 486, 14, 190, 15), Paper(QColor(0x2B, 0x38, 0x34), 63));
    return sky;
}

class StarWheel final : public Scene {
  public:
    StarWheel(int width, int height)
        : scaleX_(width / 960.0)
        , scaleY_(height / 540.0)
        , sky_(nightSky())
        , rim_(QColor(0xB8, 0x86, 0x4A), 64)
        , spoke_(QColor(0x8E, 0x5A, 0x3C), 65)
        , star_(QColor(0xE6, 0xC8, 0x74), 66)
        , post_(QColor(0x4A, 0x38, 0x2C), 67) {}

    void draw(QPainter& p, double seconds) const override {
        p.scale(scaleX_, scaleY_);
        p.drawImage(0, 0, sky_);
        QPainterPath post;
        post.moveTo(462, 540);
        post.lineTo(474, 250);
        post.lineTo(490, 250);
        post.lineTo(502, 540);
        post.closeSubpath();
        drawCutout(p, post, post_);
        p.translate(482, 256);
        p.rotate(34 * seconds);
        QPainterPath beam;
        beam.addRect(-5, -196, 10, 196);
        QPainterPath ring;
        ring.addEllipse(QPointF(0, 0), 206, 206);
        ring.addEllipse(QPointF(0, 0), 188, 188);
        for (int i = 0; i < spokes; ++i) {
            drawCutout(p, beam, spoke_);
            p.rotate(360.0 / spokes);
        }
        drawCutout(p, ring, rim_);
        for (int i = 0; i < spokes; ++i) {
            p.save();
            p.translate(0, -197);
            p.rotate(20 * std::sin(2 * seconds + i));
            drawCutout(p, star(24, 10, 5), star_);
            p.restore();
            p.rotate(360.0 / spokes);
        }
        drawCutout(p, star(58, 30, 8), star_);
    }

  private:
    double scaleX_, scaleY_;
    QImage sky_;
    Paper rim_, spoke_, star_, post_;
};

} // namespace

std::unique_ptr<Scene> starWheel(int width, int height) {
    return std::make_unique<StarWheel>(width, height);
}

} // namespace yarngap::theatre
