#include "app/stage/picture_overlay.h"

#include "app/look/language.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "core/image/sample_types.h"

#include <QPainterPath>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace yarngap::app {

namespace {

constexpr double pi = std::numbers::pi;

/// A picture with one pixel for each cell, coloured by colourOf(cell).
template <typename ColourOf>
QImage tint(const MidMotion& motion, ColourOf colourOf) {
    QImage out(motion.width, motion.height, QImage::Format_ARGB32);
    for (int y = 0; y < motion.height; ++y) {
        auto* line = reinterpret_cast<QRgb*>(out.scanLine(y));
        std::transform(motion.row(y), motion.row(y) + motion.width, line, colourOf);
    }
    return out;
}

QRgb seeThrough(const QColor& colour, float share) {
    return qRgba(colour.red(), colour.green(), colour.blue(),
                 static_cast<int>(std::lround(255 * std::clamp(share, 0.0F, 1.0F))));
}

QImage trustTint(const FrameInsight& frame) {
    constexpr float strongest = 0.85F;
    return tint(frame.motion, [&frame](const MidCell& cell) {
        return seeThrough(colour::madder, strongest * (1 - frame.trustOf(cell)));
    });
}

/// Before is indigo, after is plum, both is left as it is, the stand-in is flax.
QImage sourceTint(const MidMotion& motion) {
    constexpr float strongest = 0.7F;
    constexpr float clear = 0.9F; // of one side: from there on it counts as that side alone
    return tint(motion, [](const MidCell& cell) {
        if (cell.instead > 0.5F) return seeThrough(colour::flax, strongest);
        if (cell.shareB < 1 - clear) return seeThrough(colour::indigo, strongest);
        if (cell.shareB > clear) return seeThrough(colour::plum, strongest);
        return qRgba(0, 0, 0, 0);
    });
}

void drawArrow(QPainter& p, QPointF from, QPointF to, const QColor& colour) {
    const QPointF along = to - from;
    const double length = std::hypot(along.x(), along.y());
    const std::array<QPen, 2> pens{QPen(QColor(0, 0, 0, 150), 3, Qt::SolidLine, Qt::RoundCap),
                                   QPen(colour, 1.5, Qt::SolidLine, Qt::RoundCap)};
    for (const QPen& pen : pens) { // light on dark shows on every picture
        p.setPen(pen);
        if (length < 1) {
            p.drawPoint(from);
            continue;
        }
        p.drawLine(from, to);
        const double head = std::min(5.0, length / 2);
        const QPointF unit = along / length;
        const QPointF across(-unit.y(), unit.x());
        p.drawLine(to, to - unit * head + across * head * 0.6);
        p.drawLine(to, to - unit * head - across * head * 0.6);
    }
}

void drawVectors(QPainter& p, const MidMotion& motion, const QRectF& place, const QRectF& clip) {
    const double across = place.width() / motion.width; // screen pixels of a cell
    const double down = place.height() / motion.height;
    constexpr double spacing = 26;
    const int stepX = std::max(1, static_cast<int>(std::lround(spacing / across)));
    const int stepY = std::max(1, static_cast<int>(std::lround(spacing / down)));
    p.setRenderHint(QPainter::Antialiasing);
    for (int y = stepY / 2; y < motion.height; y += stepY)
        for (int x = stepX / 2; x < motion.width; x += stepX) {
            const QPointF at(place.left() + (x + 0.5) * across, place.top() + (y + 0.5) * down);
            if (!clip.contains(at)) continue;
            const MidCell& cell = motion.row(y)[x];
            const QPointF half(static_cast<double>(cell.vx) * across / 2,
                               static_cast<double>(cell.vy) * down / 2);
            drawArrow(p, at - half, at + half,
                      colourOfDirection(static_cast<double>(cell.vx), static_cast<double>(cell.vy)));
        }
    // The wheel of directions, in the corner.
    constexpr double radius = 17;
    const QRectF shown = place.intersected(clip);
    const QPointF centre(shown.right() - radius - 10, shown.bottom() - radius - 10);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(0x26, 0x28, 0x2B, 190));
    p.drawEllipse(centre, radius + 4, radius + 4);
    constexpr int spokes = 16;
    for (int i = 0; i < spokes; ++i) {
        const QPointF to(std::cos(2 * pi * i / spokes), std::sin(2 * pi * i / spokes));
        p.setPen(QPen(colourOfDirection(to.x(), to.y()), 2.5, Qt::SolidLine, Qt::RoundCap));
        p.drawLine(centre + to * radius * 0.4, centre + to * radius);
    }
}

} // namespace

QColor colourOfDirection(double x, double y) {
    if (std::hypot(x, y) < 1e-3) return {0xE8, 0xE6, 0xDF};
    // Four colours, right, down, left and up, and what lies between them.
    static constexpr std::array<std::array<int, 3>, 4> quarters{
        {{0xF0, 0xC0, 0x4A}, {0xE2, 0x7A, 0x9C}, {0x7C, 0xA6, 0xF0}, {0x86, 0xD0, 0x8A}}};
    const double turn = std::fmod(std::atan2(y, x) / (pi / 2) + 4, 4);
    const auto from = std::min<std::size_t>(3, static_cast<std::size_t>(turn));
    const double part = turn - static_cast<double>(from);
    const auto mixed = [&](std::size_t i) {
        return static_cast<int>(
            std::lround((1 - part) * quarters[from][i] + part * quarters[(from + 1) % 4][i]));
    };
    return {mixed(0), mixed(1), mixed(2)};
}

QString legendOf(Overlay overlay, const PreviewInsight& insight) {
    const bool moved = !insight.frame.motion.cells.empty();
    switch (overlay) {
    case Overlay::none:
        return {};
    case Overlay::difference:
        return translated("Difference: what neither source frame beside it shows at that place, four times");
    case Overlay::vectors:
        return moved ? translated(
                           "Vectors: from where things are in the source frame before to where they go; the "
                           "wheel "
                           "colours directions")
                     : translated("No vectors: nothing was moved for this frame");
    case Overlay::trust:
        return moved ? translated("Trust: the redder, the less the motion is to be trusted")
                     : translated("Nothing to doubt: nothing was moved for this frame");
    case Overlay::madeFrom:
        return moved
                   ? translated(
                         "Made from: blue the frame before alone, plum the frame after, yellow the stand-in, "
                         "uncoloured both")
                   : translated("Nothing was moved for this frame");
    }
    return {};
}

void drawOverlay(QPainter& p, Overlay overlay, const PreviewInsight& insight, const QRectF& place,
                 const QRectF& clip) {
    const MidMotion& motion = insight.frame.motion;
    if (overlay == Overlay::difference && !insight.difference.isNull())
        p.drawImage(place, insight.difference);
    if (motion.cells.empty()) return;
    if (overlay == Overlay::vectors) drawVectors(p, motion, place, clip);
    if (overlay == Overlay::trust) p.drawImage(place, trustTint(insight.frame));
    if (overlay == Overlay::madeFrom) p.drawImage(place, sourceTint(motion));
}

QString probeText(const FrameInsight& frame, int x, int y) {
    if (!frame.image || x < 0 || y < 0 || x >= frame.image->width() || y >= frame.image->height()) return {};
    const Image& image = *frame.image;
    static constexpr std::array<std::array<const char*, 4>, 3> names{
        {{"Y", "A", "", ""}, {"Y", "Cb", "Cr", "A"}, {"G", "B", "R", "A"}}};
    const std::size_t model = image.layout().model == ColourModel::grey  ? 0
                              : image.layout().model == ColourModel::rgb ? 2
                                                                         : 1;
    QString text = translated("x %1, y %2 ·").arg(x).arg(y);
    for (int p = 0; p < image.planeCount(); ++p) {
        const Image::Plane& plane = image.plane(p);
        const auto px = static_cast<std::size_t>(std::min(plane.width - 1, x * plane.width / image.width()));
        const int py = std::min(plane.height - 1, y * plane.height / image.height());
        withSampleType(image.layout(), [&](auto sample) {
            const auto value = image.row<decltype(sample)>(p, py)[px];
            const auto number = static_cast<double>(static_cast<float>(value));
            text += QStringLiteral(" %1 %2")
                        .arg(QLatin1String(names[model][static_cast<std::size_t>(std::min(p, 3))]))
                        .arg(number, 0, 'f', image.layout().isFloat() ? 4 : 0);
        });
    }
    const MidCell* cell = frame.cellAt(x, y);
    if (!cell) return text;
    text += translated(" · moves %1, %2 px · trust %3 · ")
                .arg(shownNumber(2 * static_cast<double>(cell->vx), 1))
                .arg(shownNumber(2 * static_cast<double>(cell->vy), 1))
                .arg(shownNumber(static_cast<double>(frame.trustOf(*cell)), 2));
    constexpr float alone = 0.001F;
    if (cell->instead > 0.5F)
        text += translated("stand-in");
    else if (cell->shareB <= alone)
        text += translated("from the frame before");
    else if (cell->shareB >= 1 - alone)
        text += translated("from the frame after");
    else
        text += translated("from both, %1 % after").arg(std::lround(100 * cell->shareB));
    return text;
}

} // namespace yarngap::app
