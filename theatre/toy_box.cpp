// A toy box on the shelf: its lid flies open, faster than motion is found, and a mouse looks out.

#include "theatre/landscape.h"
#include "theatre/scene.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yarngap::theatre {

namespace {

constexpr double shelfY = 430;
constexpr QRectF box(300, 250, 250, 180);
constexpr double opensAt = 1.5; // seconds

double eased(double from, double to, double t) {
    const double s = std::clamp((t - from) / (to - from), 0.0, 1.0);
    return s * s * (3 - 2 * s);
}

/// Degrees by which the lid is open. It rattles, then flies: all of the way in six frames of film, up to 49
/// in one of them.
double lidAngle(double seconds) {
    if (seconds < opensAt) {
        const double rattle = std::max(0.0, std::sin(2 * std::numbers::pi * 4 * seconds));
        return 5 * rattle * eased(0.4, 1.3, seconds);
    }
    const double since = seconds - opensAt;
    const double swings = 10 * std::exp(-since / 0.3) * std::sin(2 * std::numbers::pi * 3.2 * since);
    return 196 * eased(0, 0.25, since) + swings * eased(0.2, 0.4, since);
}

QImage shelf() {
    QImage wall(960, 540, QImage::Format_RGB32);
    QPainter p(&wall);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(0, 0, 960, 540, Paper(QColor(0x9A, 0xA8, 0x9F), 201).brush);
    for (int i = 0; i < 14; ++i) { // a papered wall with sprigs, no two alike
        for (int j = 0; j < 7; ++j) {
            const double x = 36 + i * 71 + (j % 2) * 34 + 9 * hashNoise(i, j, 31);
            const double y = 24 + j * 62 + 9 * hashNoise(i, j, 32);
            p.save();
            p.translate(x, y);
            p.rotate(70 * hashNoise(i, j, 33) - 35);
            QPainterPath sprig;
            sprig.addEllipse(QPointF(0, -9), 4, 9);
            sprig.addEllipse(QPointF(8, 3), 8, 3.5);
            sprig.addEllipse(QPointF(-8, 3), 8, 3.5);
            p.setPen(Qt::NoPen);
            p.setBrush(QColor(0x6F, 0x86, 0x78, 150));
            p.drawPath(sprig);
            p.restore();
        }
    }
    QPainterPath board;
    board.addRect(-10, shelfY, 980, 120);
    p.drawImage(0, 0, cutoutLayer(960, 540, board, Paper(QColor(0x7A, 0x58, 0x3C), 202), 0.6));
    for (int i = 0; i < 5; ++i) { // books beside the box
        QPainterPath book;
        book.addRect(700 + i * 34, shelfY - 130 - 24 * hashNoise(i, 3, 34), 30, 200);
        const int tone = static_cast<int>(60 * hashNoise(i, 4, 35));
        p.save();
        p.setClipRect(0, 0, 960, static_cast<int>(shelfY));
        drawCutout(p, book,
                   Paper(QColor(0x70 + tone, 0x48, 0x3E + tone / 2), 210U + static_cast<unsigned>(i)));
        p.restore();
    }
    return wall;
}

class ToyBox final : public Scene {
  public:
    ToyBox(int width, int height)
        : scaleX_(width / 960.0)
        , scaleY_(height / 540.0)
        , wall_(shelf())
        , wood_(QColor(0xB5, 0x4E, 0x3B), 221)
        , stripe_(QColor(0xE3, 0xC3, 0x7A), 222)
        , lid_(QColor(0x3F, 0x6B, 0x78), 223)
        , fur_(QColor(0x8C, 0x86, 0x82), 224)
        , ear_(QColor(0xD9, 0xA5, 0x9A), 225) {}

    void draw(QPainter& p, double seconds) const override {
        p.scale(scaleX_, scaleY_);
        p.drawImage(0, 0, wall_);
        const double up = 118 * eased(opensAt + 0.2, opensAt + 1.1, seconds);
        if (up > 0) drawMouse(p, up);
        drawBox(p);
        p.save();
        p.translate(box.left(), box.top());
        p.rotate(-lidAngle(seconds));
        drawLid(p);
        p.restore();
    }

  private:
    void drawMouse(QPainter& p, double up) const {
        p.save();
        p.translate(box.center().x() + 20, box.top() + 70 - up);
        for (const double side : {-1.0, 1.0}) {
            QPainterPath round;
            round.addEllipse(QPointF(side * 38, -34), 24, 26);
            drawCutout(p, round, fur_);
            QPainterPath inner;
            inner.addEllipse(QPointF(side * 38, -32), 14, 16);
            drawCutout(p, inner, ear_);
        }
        QPainterPath head;
        head.addEllipse(QPointF(0, 0), 50, 44);
        head.addRect(-30, 20, 60, 120);
        head.setFillRule(Qt::WindingFill);
        drawCutout(p, head.simplified(), fur_);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(0x26, 0x22, 0x22));
        for (const double side : {-1.0, 1.0})
            p.drawEllipse(QPointF(side * 17, -6), 5, 6);
        p.drawEllipse(QPointF(0, 14), 6, 4.5);
        p.restore();
    }
    void drawBox(QPainter& p) const {
        QPainterPath front;
        front.addRect(box);
        drawCutout(p, front, wood_);
        for (int i = 0; i < 3; ++i) {
            QPainterPath band;
            band.addRect(box.left() + 24 + i * 82, box.top() + 2, 26, box.height() - 4);
            drawCutout(p, band, stripe_);
        }
    }
    /// Its hinge at (0, 0), lying shut along x.
    void drawLid(QPainter& p) const {
        QPainterPath path;
        path.addRoundedRect(-6, -30, box.width() + 14, 30, 6, 6);
        drawCutout(p, path, lid_);
        for (int i = 0; i < 4; ++i) { // studs, so that it can be seen which part is which
            QPainterPath stud;
            stud.addEllipse(QPointF(28 + i * 62, -15), 7, 7);
            drawCutout(p, stud, stripe_);
        }
        QPainterPath knob;
        knob.addEllipse(QPointF(box.width() + 8, -14), 12, 12);
        drawCutout(p, knob, wood_);
    }

    double scaleX_, scaleY_;
    QImage wall_;
    Paper wood_, stripe_, lid_, fur_, ear_;
};

} // namespace

std::unique_ptr<Scene> toyBox(int width, int height) {
    return std::make_unique<ToyBox>(width, height);
}

} // namespace yarngap::theatre
