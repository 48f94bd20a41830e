// The theatre bell swings on its rope: fast, with long shutter blur, over boards that must not move.

#include "theatre/landscape.h"
#include "theatre/scene.h"

#include <cmath>
#include <numbers>

namespace yarngap::theatre {

namespace {

constexpr double pi = std::numbers::pi;

QImage boards() {
    QImage wall(960, 540, QImage::Format_RGB32);
    QPainter p(&wall);
    p.setRenderHint(QPainter::Antialiasing);
    for (int i = 0; i < 9; ++i) {
        const int tone = static_cast<int>(14 * hashNoise(5, i, 2));
        const Paper board(QColor(0x86 + tone, 0x62 + tone, 0x45 + tone), 120 + static_cast<std::uint32_t>(i));
        p.save();
        p.translate(i * 112 - 20, 0);
        p.rotate(90);
        p.fillRect(QRectF(0, -110, 560, 110), board.brush);
        p.restore();
        p.fillRect(QRectF(i * 112 - 22, 0, 3, 540), QColor(0x3A, 0x29, 0x1E));
        for (const int y : {46, 492}) { // nails
            p.setPen(Qt::NoPen);
            p.setBrush(QColor(0x4A, 0x3A, 0x30));
            p.drawEllipse(QPointF(i * 112 + 34, y), 3, 3);
        }
    }
    QPainterPath frame;
    frame.addRoundedRect(676, 96, 204, 252, 10, 10);
    QPainterPath pane;
    pane.addRoundedRect(692, 112, 172, 220, 6, 6);
    p.drawImage(0, 0, cutoutLayer(960, 540, frame, Paper(QColor(0x5B, 0x41, 0x30), 140), 0.6));
    p.save();
    p.setClipPath(pane);
    p.drawImage(QPointF(692, 112),
                skySheet(172, 220, QColor(0xB9, 0xC3, 0xC0), QColor(0xEC, 0xD7, 0xAA), 141));
    p.translate(692, 112);
    drawCutout(p, groundPath(172, 220, 150, 12, 90, 4), Paper(QColor(0x8F, 0x9B, 0x6C), 142));
    drawCutout(p, groundPath(172, 220, 184, 8, 120, 8), Paper(QColor(0x5A, 0x74, 0x5C), 143));
    p.restore();
    p.setPen(QPen(QColor(0x5B, 0x41, 0x30), 9));
    p.drawLine(778, 112, 778, 332);
    p.drawLine(692, 216, 864, 216);

    QRadialGradient lamp(QPointF(400, 60), 620);
    lamp.setColorAt(0, QColor(255, 232, 176, 88));
    lamp.setColorAt(0.55, QColor(40, 26, 20, 30));
    lamp.setColorAt(1, QColor(20, 12, 10, 150));
    p.fillRect(0, 0, 960, 540, lamp);
    return wall;
}

class BellSwing final : public Scene {
  public:
    BellSwing(int width, int height)
        : scaleX_(width / 960.0)
        , scaleY_(height / 540.0)
        , wall_(boards())
        , brass_(QColor(0xC9, 0x9A, 0x3E), 151)
        , rim_(QColor(0xA4, 0x76, 0x28), 152)
        , rope_(QColor(0xC4, 0xB3, 0x8C), 153)
        , iron_(QColor(0x3B, 0x38, 0x38), 154)
        , beam_(cutoutLayer(960, 540, beamPath(), Paper(QColor(0x4C, 0x37, 0x29), 155), 0.6)) {}

    void draw(QPainter& p, double seconds) const override {
        p.scale(scaleX_, scaleY_);
        p.drawImage(0, 0, wall_);
        const double swing = 38 * std::sin(2 * pi * seconds / 1.25);
        const double clapper = 30 * std::sin(2 * pi * seconds / 1.25 - 0.9);
        p.save();
        p.translate(392, 42);
        p.rotate(swing);
        p.save(); // shadow on the boards, lamp above left
        p.translate(26, 30);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(20, 12, 8, 70));
        p.drawPath(bellPath());
        p.restore();
        QPainterPath rope;
        rope.addRect(-5, -40, 10, 190);
        drawCutout(p, rope, rope_);
        p.save();
        p.translate(0, 180);
        p.rotate(clapper - swing * 0.4);
        QPainterPath tongue;
        tongue.addRect(-4, 0, 8, 140);
        tongue.addEllipse(QPointF(0, 146), 17, 17);
        tongue.setFillRule(Qt::WindingFill);
        drawCutout(p, tongue.simplified(), iron_);
        p.restore();
        drawCutout(p, bellPath(), brass_);
        QPainterPath shine;
        shine.moveTo(-34, 176);
        shine.cubicTo(-46, 214, -50, 246, -64, 270);
        shine.lineTo(-48, 272);
        shine.cubicTo(-36, 244, -32, 212, -22, 174);
        shine.closeSubpath();
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(255, 238, 190, 120));
        p.drawPath(shine);
        QPainterPath band;
        band.moveTo(-95, 282);
        band.quadTo(0, 306, 95, 282);
        band.lineTo(104, 298);
        band.quadTo(0, 324, -104, 298);
        band.closeSubpath();
        drawCutout(p, band, rim_);
        p.restore();
        p.drawImage(0, 0, beam_);
    }

  private:
    static QPainterPath bellPath() {
        QPainterPath bell;
        bell.moveTo(-16, 132);
        bell.cubicTo(-18, 118, 18, 118, 16, 132);
        bell.cubicTo(60, 142, 58, 190, 66, 226);
        bell.cubicTo(72, 256, 86, 274, 106, 296);
        bell.quadTo(0, 326, -106, 296);
        bell.cubicTo(-86, 274, -72, 256, -66, 226);
        bell.cubicTo(-58, 190, -60, 142, -16, 132);
        return bell;
    }
    static QPainterPath beamPath() {
        QPainterPath beam;
        beam.moveTo(-10, -10);
        beam.lineTo(970, -10);
        beam.lineTo(970, 50);
        beam.lineTo(-10, 62);
        beam.closeSubpath();
        return beam;
    }

    double scaleX_, scaleY_;
    QImage wall_;
    Paper brass_, rim_, rope_, iron_;
    QImage beam_;
};

} // namespace

std::unique_ptr<Scene> bellSwing(int width, int height) {
    return std::make_unique<BellSwing>(width, height);
}

} // namespace yarngap::theatre
