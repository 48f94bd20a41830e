#include "theatre/landscape.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yarngap::theatre {

QPainterPath groundPath(double width, double height, double level, double swell, double wavelength,
                        std::uint32_t seed) {
    QPainterPath path;
    path.moveTo(-20, height + 20);
    for (int step = 0; step * 3.0 <= width + 40; ++step) {
        const double x = step * 3.0 - 20;
        const double u = x / wavelength;
        const double wave = std::sin(2 * std::numbers::pi * u + seed) * 0.6 +
                            (paintNoise(seed, u * 2 + 50, 0.5, 64) - 0.5) * 1.6;
        const double tear =
            (hashNoise(seed + 3, static_cast<int>(x), 0) - 0.5) * 1.2; // scissors are not exact
        path.lineTo(x, level - swell * wave + tear);
    }
    path.lineTo(width + 20, height + 20);
    path.closeSubpath();
    return path;
}

QImage reedClump(int width, int height, int blades, const Paper& leaf, const Paper& head,
                 std::uint32_t seed) {
    QImage clump(width, height, QImage::Format_ARGB32_Premultiplied);
    clump.fill(Qt::transparent);
    QPainter p(&clump);
    p.setRenderHint(QPainter::Antialiasing);
    for (int i = 0; i < blades; ++i) {
        const auto noise = [&](int k) { return hashNoise(seed + 17, i, k); };
        const double x = width * (0.06 + 0.88 * noise(0));
        const double tall = height * (0.45 + 0.52 * noise(1));
        const double lean = (noise(2) - 0.5) * width * 0.35;
        const double thick = 2.2 + 2.6 * noise(3);
        QPainterPath blade(QPointF(x - thick, height));
        blade.quadTo(x - thick * 0.6, height - tall * 0.6, x + lean, height - tall);
        blade.quadTo(x + thick * 0.9, height - tall * 0.55, x + thick, height);
        blade.closeSubpath();
        drawCutout(p, blade, leaf);
        if (noise(4) > 0.62) {
            p.save();
            p.translate(x + lean * 0.85, height - tall * 0.93);
            p.rotate(lean / height * 50);
            QPainterPath rush;
            rush.addRoundedRect(-4, -17, 8, 34, 4, 4);
            drawCutout(p, rush, head);
            p.restore();
        }
    }
    return clump;
}

void drawSwaying(QPainter& painter, const QImage& clump, double x, double bottom, double sway) {
    painter.save();
    painter.translate(x, bottom);
    painter.shear(-sway, 0);
    painter.drawImage(QPointF(-clump.width() / 2.0, -clump.height()), clump);
    painter.restore();
}

QImage skySheet(int width, int height, const QColor& top, const QColor& horizon, std::uint32_t seed) {
    const QImage grain = paperSheet(QColor(128, 128, 128), seed, 0.8);
    QImage sky(width, height, QImage::Format_RGB32);
    for (int y = 0; y < height; ++y) {
        const double wash = static_cast<double>(y) / height;
        for (int x = 0; x < width; ++x) {
            const double s =
                std::clamp(wash + 0.25 * (paintNoise(seed + 5, x / 160.0, y / 60.0, 64) - 0.5), 0.0, 1.0);
            const QRgb g = grain.pixel(x % 256, y % 256);
            const auto mix = [&](int a, int b, int n) {
                return std::clamp(static_cast<int>(a + (b - a) * s) + n - 128, 0, 255);
            };
            sky.setPixel(x, y,
                         qRgb(mix(top.red(), horizon.red(), qRed(g)),
                              mix(top.green(), horizon.green(), qGreen(g)),
                              mix(top.blue(), horizon.blue(), qBlue(g))));
        }
    }
    return sky;
}

} // namespace yarngap::theatre
