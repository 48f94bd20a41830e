// A heron glides over the marsh while the camera pans: parallax, a wing beat, thin legs, swaying reeds.

#include "theatre/landscape.h"
#include "theatre/scene.h"

#include <cmath>
#include <numbers>
#include <vector>

namespace yarngap::theatre {

namespace {

constexpr double pi = std::numbers::pi;
constexpr double panSpeed = 92; // pixels per second of the plane the heron flies in

struct Layer {
    QImage picture;
    double parallax; // share of the camera's pan
};

class HeronGlide final : public Scene {
  public:
    HeronGlide(int width, int height)
        : scaleX_(width / 960.0)
        , scaleY_(height / 540.0)
        , sky_(skySheet(960, 540, QColor(0xD3, 0xC6, 0xA6), QColor(0xEE, 0xD6, 0xA0), 11))
        , sun_(QColor(0xE9, 0xA9, 0x55), 21, 0.8)
        , cloud_(QColor(0xEC, 0xE4, 0xD2), 22, 0.7)
        , white_(QColor(0xE8, 0xE6, 0xDF), 31, 0.6)
        , grey_(QColor(0x9D, 0xAD, 0xB8), 32, 0.9)
        , slate_(QColor(0x5E, 0x72, 0x82), 33, 0.9)
        , dark_(QColor(0x33, 0x3E, 0x49), 34, 0.8)
        , ochre_(QColor(0xD0, 0x96, 0x3A), 35, 0.7) {
        const auto hills = [&](double level, double swell, double wavelength, QColor colour, double parallax,
                               std::uint32_t seed) {
            const int w = static_cast<int>(1010 + panSpeed * 4.4 * parallax);
            layers_.push_back({cutoutLayer(w, 540, groundPath(w, 540, level, swell, wavelength, seed),
                                           Paper(colour, seed), 0.34),
                               parallax});
        };
        hills(338, 40, 380, QColor(0xC0, 0xB0, 0x7E), 0.22, 3);
        hills(382, 34, 300, QColor(0x9B, 0xA0, 0x6E), 0.45, 5);
        hills(428, 26, 420, QColor(0x72, 0x86, 0x62), 0.8, 9);
        hills(486, 12, 500, QColor(0x4E, 0x68, 0x56), 1.15, 14);
        const Paper leaf(QColor(0x39, 0x50, 0x42), 41);
        const Paper head(QColor(0x6B, 0x47, 0x31), 42);
        for (std::uint32_t i = 0; i < 4; ++i)
            clumps_.push_back(reedClump(190, 190, 17, leaf, head, 60 + i));
    }

    void draw(QPainter& p, double seconds) const override {
        p.scale(scaleX_, scaleY_);
        const double pan = panSpeed * (seconds + 0.2);
        p.drawImage(0, 0, sky_);
        drawSun(p, pan);
        drawClouds(p, pan, seconds);
        for (std::size_t i = 0; i + 1 < layers_.size(); ++i)
            p.drawImage(QPointF(-20 - pan * layers_[i].parallax, 0), layers_[i].picture);
        drawHeron(p, seconds);
        p.drawImage(QPointF(-20 - pan * layers_.back().parallax, 0), layers_.back().picture);
        drawReeds(p, pan, seconds);
    }

  private:
    void drawSun(QPainter& p, double pan) const {
        QPainterPath disc;
        disc.addEllipse(QPointF(742 - pan * 0.06, 122), 62, 62);
        QRadialGradient glow(QPointF(742 - pan * 0.06, 122), 190);
        glow.setColorAt(0, QColor(255, 226, 160, 120));
        glow.setColorAt(1, QColor(255, 226, 160, 0));
        p.setPen(Qt::NoPen);
        p.setBrush(glow);
        p.drawEllipse(QPointF(742 - pan * 0.06, 122), 190, 190);
        p.save();
        p.translate(-pan * 0.06, 0);
        drawCutout(p, disc.translated(pan * 0.06, 0), sun_);
        p.restore();
    }

    void drawClouds(QPainter& p, double pan, double seconds) const {
        for (int i = 0; i < 3; ++i) {
            p.save();
            p.translate(150 + i * 370 - pan * (0.1 + 0.03 * i) + 4 * seconds, 78 + 46 * (i % 2) + 12 * i);
            QPainterPath cloud;
            cloud.moveTo(-96, 10);
            cloud.cubicTo(-80, -16, -44, -14, -30, -8);
            cloud.cubicTo(-10, -32, 34, -26, 40, -8);
            cloud.cubicTo(66, -16, 92, -6, 100, 10);
            cloud.cubicTo(50, 18, -46, 18, -96, 10);
            drawCutout(p, cloud, cloud_);
            p.restore();
        }
    }

    void drawReeds(QPainter& p, double pan, double seconds) const {
        for (int i = 0; i < 15; ++i) {
            const double place = i * 118 + 60 * hashNoise(77, i, 1) - pan * 1.45;
            if (place < -160 || place > 1120) continue;
            const double sway = 0.07 * std::sin(2 * pi * (0.45 * seconds + 0.13 * i)) +
                                0.03 * std::sin(2 * pi * (1.1 * seconds + 0.31 * i));
            drawSwaying(p, clumps_[static_cast<std::size_t>(i) % clumps_.size()], place, 560, sway);
        }
    }

    /// A wing of two hinged pieces, root at the origin. `raise`: 1 up, −1 down.
    void drawWing(QPainter& p, double raise, double follow, const Paper& inner, const Paper& outer) const {
        const double angle = 158 - 58 * raise; // degrees from straight ahead, counter-clockwise
        p.save();
        p.rotate(-angle);
        QPainterPath arm;
        arm.moveTo(-8, 26);
        arm.cubicTo(36, 34, 72, 34, 112, 24);
        arm.lineTo(116, -34);
        for (int i = 0; i < 4; ++i) { // secondaries
            const double x = 116 - 30.0 * i;
            arm.quadTo(x - 8, -62 + 3 * i, x - 18, -58 + 3 * i);
            arm.quadTo(x - 24, -50, x - 30, -44 + 3 * i);
        }
        arm.quadTo(-16, -10, -8, 26);
        p.save();
        p.translate(106, 0);
        p.rotate(follow * 34);
        QPainterPath hand;
        hand.moveTo(-10, 22);
        hand.cubicTo(40, 26, 92, 18, 150, -14);
        for (int i = 0; i < 6; ++i) { // primaries
            const double x = 150 - 26.0 * i;
            hand.quadTo(x - 10, -26 - 4.0 * i, x - 16, -22 - 5.0 * i);
            hand.lineTo(x - 26, -16 - 5.0 * i);
        }
        hand.lineTo(-8, -34);
        hand.closeSubpath();
        drawCutout(p, hand, outer);
        p.restore();
        drawCutout(p, arm, inner);
        p.restore();
    }

    void drawHeron(QPainter& p, double seconds) const {
        const double beat = 2 * pi * 0.9 * seconds;
        const double raise = std::sin(beat);
        const double follow = -std::cos(beat) * 0.9; // the hand trails the arm
        p.save();
        p.translate(400 + 26 * seconds, 214 - 12 * std::sin(beat - 0.7) + 8 * std::sin(0.6 * seconds));
        p.scale(0.92, 0.92);
        p.rotate(-2 + 1.5 * std::sin(beat - 0.5));

        p.save();
        p.translate(14, -12);
        p.scale(0.92, 0.92);
        drawWing(p, raise * 0.94 + 0.1, follow, slate_, dark_);
        p.restore();

        QPainterPath legs;
        legs.moveTo(-96, 14);
        legs.cubicTo(-150, 22, -190, 22, -236, 16);
        legs.lineTo(-258, 22);
        legs.lineTo(-234, 22);
        legs.cubicTo(-190, 29, -150, 29, -94, 22);
        legs.closeSubpath();
        drawCutout(p, legs, ochre_);
        QPainterPath tail;
        tail.moveTo(-70, -12);
        tail.lineTo(-152, 2);
        tail.lineTo(-146, 14);
        tail.lineTo(-74, 24);
        tail.closeSubpath();
        drawCutout(p, tail, grey_);
        QPainterPath body;
        body.moveTo(-104, 6);
        body.cubicTo(-66, -30, 16, -40, 62, -22);
        body.cubicTo(88, -10, 84, 12, 56, 24);
        body.cubicTo(10, 40, -66, 30, -104, 6);
        drawCutout(p, body, white_);
        QPainterPath neck;
        neck.moveTo(44, -20);
        neck.cubicTo(82, -14, 96, 8, 116, -8);
        neck.cubicTo(126, -22, 120, -36, 146, -44);
        neck.cubicTo(164, -48, 178, -40, 182, -34);
        neck.cubicTo(168, -22, 152, -26, 146, -16);
        neck.cubicTo(136, 14, 108, 34, 54, 22);
        neck.closeSubpath();
        drawCutout(p, neck, white_);
        QPainterPath beak;
        beak.moveTo(174, -42);
        beak.lineTo(252, -24);
        beak.lineTo(176, -28);
        beak.closeSubpath();
        drawCutout(p, beak, ochre_);
        QPainterPath crest;
        crest.moveTo(166, -44);
        crest.cubicTo(146, -52, 120, -52, 92, -42);
        crest.cubicTo(120, -42, 144, -40, 164, -36);
        crest.closeSubpath();
        drawCutout(p, crest, dark_);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(0x26, 0x28, 0x2B));
        p.drawEllipse(QPointF(164, -36), 3.4, 3.4);

        p.save();
        p.translate(8, -8);
        drawWing(p, raise, follow, grey_, slate_);
        p.restore();
        p.restore();
    }

    double scaleX_, scaleY_;
    QImage sky_;
    Paper sun_, cloud_, white_, grey_, slate_, dark_, ochre_;
    std::vector<Layer> layers_;
    std::vector<QImage> clumps_;
};

} // namespace

std::unique_ptr<Scene> heronGlide(int width, int height) {
    return std::make_unique<HeronGlide>(width, height);
}

} // namespace yarngap::theatre
