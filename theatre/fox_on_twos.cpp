// A fox puppet that its player moves on every second frame, in front of reeds that sway on every one.

#include "theatre/landscape.h"
#include "theatre/scene.h"

#include <cmath>
#include <numbers>
#include <vector>

namespace yarngap::theatre {

namespace {

constexpr double pi = std::numbers::pi;

class FoxOnTwos final : public Scene {
  public:
    FoxOnTwos(int width, int height, bool held)
        : held_(held)
        , scaleX_(width / 960.0)
        , scaleY_(height / 540.0)
        , sky_(skySheet(960, 540, QColor(0x3C, 0x4C, 0x68), QColor(0x9A, 0x8F, 0x9C), 71))
        , moon_(QColor(0xEF, 0xE6, 0xC8), 72, 0.6)
        , coat_(QColor(0xC8, 0x69, 0x33), 73)
        , belly_(QColor(0xEE, 0xE2, 0xCB), 74, 0.6)
        , sock_(QColor(0x3A, 0x2C, 0x2A), 75)
        , rod_(QColor(0x2E, 0x29, 0x26), 76)
        , back_(cutoutLayer(960, 540, groundPath(960, 540, 342, 30, 430, 4),
                            Paper(QColor(0x4D, 0x5E, 0x63), 77), 0.4))
        , front_(cutoutLayer(960, 540, groundPath(960, 540, 478, 10, 600, 6),
                             Paper(QColor(0x2C, 0x3B, 0x38), 78), 0.5)) {
        const Paper leaf(QColor(0x5C, 0x74, 0x5F), 79);
        const Paper head(QColor(0x75, 0x50, 0x3A), 80);
        for (std::uint32_t i = 0; i < 4; ++i)
            clumps_.push_back(reedClump(200, 250, 20, leaf, head, 90 + i));
    }

    void draw(QPainter& p, double seconds) const override {
        p.scale(scaleX_, scaleY_);
        p.drawImage(0, 0, sky_);
        QRadialGradient glow(QPointF(206, 118), 210);
        glow.setColorAt(0, QColor(240, 232, 205, 110));
        glow.setColorAt(1, QColor(240, 232, 205, 0));
        p.fillRect(0, 0, 960, 540, glow);
        QPainterPath moon;
        moon.addEllipse(QPointF(206, 118), 46, 46);
        drawCutout(p, moon, moon_);
        p.drawImage(0, 0, back_);
        for (int i = 0; i < 9; ++i)
            drawSwaying(p, clumps_[static_cast<std::size_t>(i) % clumps_.size()], 20 + i * 116, 500,
                        0.16 * std::sin(2 * pi * (0.55 * seconds + 0.09 * i)));
        // The puppet stays put for two frames of 24 a second; each pose is held over both.
        drawFox(p, held_ ? std::floor(seconds * 12 + 0.25) / 12 : seconds);
        p.drawImage(0, 0, front_);
    }

  private:
    void drawLeg(QPainter& p, double x, double y, double swing, bool dark) const {
        p.save();
        p.translate(x, y);
        p.rotate(26 * swing);
        QPainterPath leg;
        leg.moveTo(-17, -16);
        leg.cubicTo(-14, 26, -10, 50, -8, 84);
        leg.lineTo(16, 86);
        leg.cubicTo(10, 50, 18, 20, 19, -16);
        leg.closeSubpath();
        drawCutout(p, leg, dark ? sock_ : coat_);
        QPainterPath paw;
        paw.moveTo(-9, 52);
        paw.lineTo(-8, 86);
        paw.lineTo(20, 88);
        paw.lineTo(9, 52);
        paw.closeSubpath();
        drawCutout(p, paw, sock_);
        p.restore();
    }

    void drawFox(QPainter& p, double pose) const {
        const double stride = 2 * pi * 1.25 * pose;
        p.save();
        p.translate(150 + 118 * pose, 372 + 5 * std::sin(2 * stride));
        p.fillRect(QRectF(-2, 30, 5, 240), rod_.brush); // the player's rod
        drawLeg(p, -78, 26, std::sin(stride + pi), true);
        drawLeg(p, 66, 28, std::sin(stride), true);
        p.save();
        p.translate(-112, -8);
        p.rotate(10 * std::sin(stride * 0.5) - 8);
        QPainterPath tail;
        tail.moveTo(12, -16);
        tail.cubicTo(-40, -52, -104, -48, -160, -12);
        tail.cubicTo(-112, 14, -50, 24, 12, 18);
        drawCutout(p, tail, coat_);
        QPainterPath tip;
        tip.moveTo(-116, -40);
        tip.cubicTo(-134, -34, -148, -22, -160, -12);
        tip.cubicTo(-146, -4, -130, 4, -112, 8);
        tip.lineTo(-122, -14);
        tip.closeSubpath();
        drawCutout(p, tip, belly_);
        p.restore();
        QPainterPath body;
        body.moveTo(-122, -18);
        body.cubicTo(-80, -52, 60, -52, 104, -30);
        body.cubicTo(120, 0, 104, 36, 76, 40);
        body.cubicTo(10, 28, -60, 34, -102, 34);
        body.cubicTo(-128, 20, -130, 0, -122, -18);
        drawCutout(p, body, coat_);
        drawLeg(p, -92, 24, std::sin(stride), false);
        drawLeg(p, 82, 24, std::sin(stride + pi), false);
        p.save();
        p.translate(108, -34);
        p.rotate(5 * std::sin(stride + 0.6));
        QPainterPath ear;
        ear.moveTo(2, -34);
        ear.lineTo(6, -78);
        ear.lineTo(34, -40);
        ear.closeSubpath();
        drawCutout(p, ear, sock_);
        drawCutout(p, ear.translated(-18, 4), coat_);
        QPainterPath head;
        head.moveTo(-28, -24);
        head.cubicTo(0, -54, 40, -46, 56, -22);
        head.lineTo(112, 2);
        head.cubicTo(90, 16, 50, 22, 22, 26);
        head.cubicTo(-14, 24, -34, 4, -28, -24);
        drawCutout(p, head, coat_);
        QPainterPath cheek;
        cheek.moveTo(108, 4);
        cheek.cubicTo(88, 15, 50, 22, 22, 26);
        cheek.cubicTo(30, 8, 62, 0, 108, 4);
        drawCutout(p, cheek, belly_);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(0x22, 0x1C, 0x1A));
        p.drawEllipse(QPointF(110, 1), 6, 5);
        p.drawEllipse(QPointF(36, -18), 4.2, 4.6);
        p.restore();
        p.restore();
    }

    bool held_; ///< each pose stands for two frames
    double scaleX_, scaleY_;
    QImage sky_;
    Paper moon_, coat_, belly_, sock_, rod_;
    QImage back_, front_;
    std::vector<QImage> clumps_;
};

} // namespace

std::unique_ptr<Scene> foxOnTwos(int width, int height) {
    return std::make_unique<FoxOnTwos>(width, height, true);
}

std::unique_ptr<Scene> foxOnOnes(int width, int height) {
    return std::make_unique<FoxOnTwos>(width, height, false);
}

} // namespace yarngap::theatre
