#include "theatre/paper.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace yarngap::theatre {

namespace {

double smooth(double t) {
    return t * t * (3 - 2 * t);
}

double valueNoise(std::uint32_t seed, double x, double y, int period) {
    const double fx = std::floor(x);
    const double fy = std::floor(y);
    const auto cell = [&](double cx, double cy) {
        const auto wrap = [period](double v) { return ((static_cast<int>(v) % period) + period) % period; };
        return hashNoise(seed, wrap(cx), wrap(cy));
    };
    const double sx = smooth(x - fx);
    const double sy = smooth(y - fy);
    const double top = cell(fx, fy) * (1 - sx) + cell(fx + 1, fy) * sx;
    const double bottom = cell(fx, fy + 1) * (1 - sx) + cell(fx + 1, fy + 1) * sx;
    return top * (1 - sy) + bottom * sy;
}

int channel(double v) {
    return static_cast<int>(std::lround(std::clamp(v, 0.0, 255.0)));
}

/// Three passes of a running mean over the alpha plane come close to a Gaussian.
void blurAlpha(std::vector<float>& a, int w, int h, int radius) {
    std::vector<float> line(static_cast<std::size_t>(std::max(w, h)));
    const auto pass = [&](float* start, int count, std::ptrdiff_t step) {
        double sum = 0;
        const auto get = [&](int i) { return start[std::clamp(i, 0, count - 1) * step]; };
        for (int i = -radius; i <= radius; ++i)
            sum += get(i);
        for (int i = 0; i < count; ++i) {
            line[static_cast<std::size_t>(i)] = static_cast<float>(sum / (2 * radius + 1));
            sum += get(i + radius + 1) - get(i - radius);
        }
        for (int i = 0; i < count; ++i)
            start[i * step] = line[static_cast<std::size_t>(i)];
    };
    for (int round = 0; round < 3; ++round) {
        for (int y = 0; y < h; ++y)
            pass(a.data() + static_cast<std::ptrdiff_t>(y) * w, w, 1);
        for (int x = 0; x < w; ++x)
            pass(a.data() + x, h, w);
    }
}

} // namespace

double hashNoise(std::uint32_t seed, int x, int y) {
    std::uint32_t h = seed * 0x9E3779B1U ^ static_cast<std::uint32_t>(x) * 0x85EBCA77U ^
                      static_cast<std::uint32_t>(y) * 0xC2B2AE3DU;
    h ^= h >> 15;
    h *= 0x2C1B3C6DU;
    h ^= h >> 12;
    h *= 0x297A2D39U;
    h ^= h >> 15;
    return h / 4294967295.0;
}

double paintNoise(std::uint32_t seed, double x, double y, int period) {
    double sum = 0;
    double weight = 0.5;
    for (std::uint32_t octave = 0; octave < 4; ++octave) {
        sum += weight * valueNoise(seed + octave * 101, x, y, period);
        x *= 2;
        y *= 2;
        period *= 2;
        weight *= 0.5;
    }
    return sum / 0.9375;
}

QImage paperSheet(const QColor& colour, std::uint32_t seed, double contrast) {
    constexpr int size = 256;
    QImage sheet(size, size, QImage::Format_RGB32);
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x) {
            const double wash = paintNoise(seed, x / 32.0, y / 32.0, 8) - 0.5; // pooled paint
            const double stroke =
                paintNoise(seed + 7, x / 64.0, y / 4.0, 4 * 16) - 0.5; // dry brush, sideways
            const double fibre = hashNoise(seed + 13, x, y) - 0.5;
            const double light = contrast * (38 * wash + 20 * stroke + 9 * fibre);
            const double warm = contrast * 10 * (paintNoise(seed + 29, x / 64.0, y / 64.0, 4) - 0.5);
            sheet.setPixel(x, y,
                           qRgb(channel(colour.red() + light + warm), channel(colour.green() + light),
                                channel(colour.blue() + light - warm)));
        }
    return sheet;
}

Paper::Paper(const QColor& colour, std::uint32_t seed, double contrast)
    : brush(paperSheet(colour, seed, contrast))
    , edge(colour.lighter(122)) {}

void drawCutout(QPainter& painter, const QPainterPath& shape, const Paper& paper) {
    painter.setPen(QPen(paper.edge, 1.3, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(paper.brush);
    painter.drawPath(shape);
}

QImage cutoutLayer(int width, int height, const QPainterPath& shape, const Paper& paper, double shadow) {
    QImage mask(width, height, QImage::Format_Alpha8);
    mask.fill(0);
    {
        QPainter p(&mask);
        p.setRenderHint(QPainter::Antialiasing);
        p.fillPath(shape.translated(-3, -6), Qt::black);
    }
    std::vector<float> alpha(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            alpha[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                  static_cast<std::size_t>(x)] = mask.constScanLine(y)[x];
    blurAlpha(alpha, width, height, 5);
    QImage layer(width, height, QImage::Format_ARGB32_Premultiplied);
    for (int y = 0; y < height; ++y) {
        auto* row = reinterpret_cast<QRgb*>(layer.scanLine(y));
        for (int x = 0; x < width; ++x)
            row[x] = qPremultiply(
                qRgba(24, 26, 22,
                      channel(shadow * alpha[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                                             static_cast<std::size_t>(x)])));
    }
    QPainter p(&layer);
    p.setRenderHint(QPainter::Antialiasing);
    drawCutout(p, shape, paper);
    return layer;
}

} // namespace yarngap::theatre
