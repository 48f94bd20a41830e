// Paper lanterns are carried past each other behind a fence: many crossings, thin poles, light that is
// half see-through, pickets that repeat.

#include "theatre/landscape.h"
#include "theatre/scene.h"

#include <array>
#include <cmath>
#include <numbers>
#include <vector>

namespace yarngap::theatre {

namespace {

constexpr double pi = std::numbers::pi;

QImage street() {
    QImage picture = skySheet(960, 540, QColor(0x24, 0x2E, 0x4C), QColor(0x6E, 0x5F, 0x6B), 171)
                         .convertToFormat(QImage::Format_RGB32);
    QPainter p(&picture);
    p.setRenderHint(QPainter::Antialiasing);
    QPainterPath moon;
    moon.addEllipse(QPointF(806, 84), 40, 40);
    drawCutout(p, moon, Paper(QColor(0xDC, 0xD2, 0xB0), 172, 0.7));
    drawCutout(p, groundPath(960, 540, 300, 24, 330, 16), Paper(QColor(0x39, 0x40, 0x50), 173));
    const Paper wall(QColor(0x4C, 0x46, 0x4B), 174);
    const Paper roof(QColor(0x5B, 0x3D, 0x38), 175);
    const Paper lit(QColor(0xD8, 0xA6, 0x54), 176);
    for (int i = 0; i < 7; ++i) {
        const double x = 146.0 * i - 30;
        const double height = 130 + 60 * hashNoise(181, i, 1);
        const double top = 420 - height;
        QPainterPath house;
        house.addRect(x, top, 118, height);
        drawCutout(p, house, wall);
        QPainterPath cover;
        cover.moveTo(x - 10, top + 4);
        cover.lineTo(x + 59, top - 48 - 20 * hashNoise(181, i, 2));
        cover.lineTo(x + 128, top + 4);
        cover.closeSubpath();
        drawCutout(p, cover, roof);
        for (int k = 0; k < 4; ++k) {
            if (hashNoise(182, i, k) < 0.35) continue;
            QPainterPath window;
            window.addRect(x + 20 + 52.0 * (k % 2), top + 26 + 50.0 * static_cast<int>(k / 2), 26, 32);
            drawCutout(p, window, lit);
        }
    }
    drawCutout(p, groundPath(960, 540, 416, 6, 260, 17), Paper(QColor(0x3C, 0x38, 0x36), 177));
    return picture;
}

/// Pickets and two rails, see-through between them.
QImage fence() {
    QPainterPath shape;
    shape.setFillRule(Qt::WindingFill);
    for (int i = 0; i < 28; ++i) {
        const double x = 36.0 * i + 4 * hashNoise(191, i, 1);
        QPainterPath picket;
        picket.moveTo(x, 560);
        picket.lineTo(x, 446 + 8 * hashNoise(191, i, 2));
        picket.lineTo(x + 8, 434);
        picket.lineTo(x + 16, 446 + 8 * hashNoise(191, i, 3));
        picket.lineTo(x + 16, 560);
        picket.closeSubpath();
        shape.addPath(picket);
    }
    shape.addRect(-10, 466, 1000, 9);
    shape.addRect(-10, 518, 1000, 9);
    return cutoutLayer(960, 540, shape.simplified(), Paper(QColor(0x6A, 0x66, 0x5E), 192), 0.3);
}

/// People who walk one behind the other.
struct Row {
    double first;   // pixels from the left at 0 s
    double speed;   // pixels a second, to the right
    double spacing; // pixels between two of them
    double ground;
    double size;
    int count;
    int seed;
};

constexpr std::array<Row, 3> rows{
    {{930, 105, 168, 424, 0.62, 10, 3}, {120, -190, 236, 452, 0.84, 9, 5}, {640, 330, 390, 506, 1.15, 6, 7}}};

class LanternParade final : public Scene {
  public:
    LanternParade(int width, int height)
        : scaleX_(width / 960.0)
        , scaleY_(height / 540.0)
        , street_(street())
        , fence_(fence())
        , pole_(QColor(0x8A, 0x6B, 0x48), 201) {
        constexpr std::array<QRgb, 3> coats{0x5A4A5E, 0x3F5560, 0x6B4A3C};
        constexpr std::array<QRgb, 4> papers{0xD9823F, 0xD8B24C, 0xB5503F, 0x7FA07A};
        for (std::uint32_t i = 0; i < coats.size(); ++i)
            coats_.emplace_back(QColor(coats[i]), 210 + i);
        for (std::uint32_t i = 0; i < papers.size(); ++i)
            lanterns_.emplace_back(QColor(papers[i]), 220 + i, 0.8);
    }

    void draw(QPainter& p, double seconds) const override {
        p.scale(scaleX_, scaleY_);
        p.drawImage(0, 0, street_);
        for (const Row& row : rows)
            for (int i = 0; i < row.count; ++i) {
                const double place =
                    row.first + row.speed * seconds - std::copysign(row.spacing, row.speed) * i;
                if (place > -220 && place < 1180) drawCarrier(p, row, i, place, seconds);
            }
        p.drawImage(0, 0, fence_);
    }

  private:
    void drawCarrier(QPainter& p, const Row& row, int i, double place, double seconds) const {
        // A step is about half of the body's height; the body rises and falls once in each.
        const double step = pi * row.speed * seconds / (110 * row.size) + 1.7 * i + row.seed;
        p.save();
        p.translate(place, row.ground - 2.5 * row.size * (1 - std::cos(2 * step)));
        p.scale(std::copysign(row.size, row.speed), row.size);
        const auto pick = static_cast<std::size_t>(i) + static_cast<std::size_t>(row.seed);
        const Paper& coat = coats_[pick % coats_.size()];
        for (const double side : {-1.0, 1.0}) {
            p.save();
            p.translate(0, -52);
            p.rotate(26 * side * std::sin(step));
            QPainterPath leg;
            leg.addRoundedRect(-7, 0, 13, 56, 5, 5);
            drawCutout(p, leg, coat);
            p.restore();
        }
        QPainterPath body;
        body.moveTo(-22, -38);
        body.cubicTo(-24, -80, -18, -112, -4, -124);
        body.cubicTo(14, -120, 22, -84, 22, -38);
        body.closeSubpath();
        drawCutout(p, body, coat);
        QPainterPath head;
        head.addEllipse(QPointF(2, -138), 16, 18);
        drawCutout(p, head, lanterns_[(pick + 1) % lanterns_.size()]);
        drawPole(p, lanterns_[pick % lanterns_.size()], 12 * std::sin(0.5 * step + i));
        p.restore();
    }

    /// A pole over the shoulder, and the lantern that swings on it by `swing` degrees.
    void drawPole(QPainter& p, const Paper& paper, double swing) const {
        QPainterPath pole;
        pole.moveTo(-4, -76);
        pole.lineTo(54, -232);
        pole.lineTo(58, -231);
        pole.lineTo(1, -74);
        pole.closeSubpath();
        drawCutout(p, pole, pole_);
        p.translate(56, -231);
        p.rotate(swing);
        QPainterPath cord;
        cord.addRect(-1, 0, 2, 30);
        drawCutout(p, cord, pole_);
        QRadialGradient glow(QPointF(0, 60), 92);
        glow.setColorAt(0, QColor(255, 206, 128, 120));
        glow.setColorAt(1, QColor(255, 206, 128, 0));
        p.setPen(Qt::NoPen);
        p.setBrush(glow);
        p.drawEllipse(QPointF(0, 60), 92, 92);
        QPainterPath lantern;
        lantern.addRoundedRect(-25, 28, 50, 64, 18, 18);
        drawCutout(p, lantern, paper);
        p.setPen(QPen(QColor(70, 40, 24, 130), 1.6));
        for (int k = 1; k < 5; ++k)
            p.drawLine(QPointF(-23, 28 + 12.8 * k), QPointF(23, 28 + 12.8 * k));
    }

    double scaleX_, scaleY_;
    QImage street_, fence_;
    Paper pole_;
    std::vector<Paper> coats_, lanterns_;
};

} // namespace

std::unique_ptr<Scene> lanternParade(int width, int height) {
    return std::make_unique<LanternParade>(width, height);
}

} // namespace yarngap::theatre
