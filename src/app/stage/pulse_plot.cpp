#include "app/stage/pulse_plot.h"

#include "app/look/frame_shapes.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double numbersWidth = 310;
constexpr double shapesHeight = 14;
constexpr qint64 around = 16; // frames to either side of the playhead

/// Told apart by their dashes first, by colour second.
QPen penOf(std::size_t version) {
    static const std::array<Qt::PenStyle, 4> styles{Qt::SolidLine, Qt::DashLine, Qt::DotLine,
                                                    Qt::DashDotLine};
    static const std::array<QColor, 4> colours{Qt::white, QColor(0xF0, 0xC8, 0x74), QColor(0xB9, 0xD3, 0xF2),
                                               QColor(0xE6, 0xB3, 0xD8)};
    return {colours.at(version % colours.size()), 1.6, styles.at(version % styles.size())};
}

} // namespace

PulsePlot::PulsePlot(Player& player, QWidget* parent)
    : QWidget(parent)
    , player_(player) {
    setObjectName(QStringLiteral("pulsePlot"));
    setAccessibleName(tr("Sharpness and change over the frames around the playhead"));
    setToolTip(tr("Sharpness of each frame, and its change from the one before. A sawtooth is seen as "
                  "pulsing when it plays; Even texture takes it away. A click goes there."));
    setFixedHeight(76);
    connect(&player_, &Player::moved, this, &PulsePlot::ask);
}

void PulsePlot::setVersions(std::vector<Version> versions) {
    for (const Version& version : versions_) {
        disconnect(version.preview, nullptr, this, nullptr);
        version.preview->setPage(std::nullopt);
    }
    versions_ = std::move(versions);
    for (const Version& version : versions_) {
        connect(version.preview, &Preview::pictureReady, this, qOverload<>(&QWidget::update));
        connect(version.preview, &Preview::readyReset, this, qOverload<>(&QWidget::update));
    }
    ask();
}

void PulsePlot::setPlan(std::shared_ptr<const FramePlan> plan) {
    plan_ = std::move(plan);
    ask();
}

std::optional<std::pair<qint64, qint64>> PulsePlot::range() const {
    if (!plan_ || plan_->rows.empty()) return std::nullopt;
    const auto last = static_cast<qint64>(plan_->rows.size()) - 1;
    const qint64 first =
        std::clamp<qint64>(player_.playhead() - around, 0, std::max<qint64>(0, last - 2 * around));
    return std::pair(first, std::min(last, first + 2 * around));
}

void PulsePlot::ask() {
    if (isVisible())
        for (const Version& version : versions_)
            version.preview->setPage(range());
    update();
}

void PulsePlot::showEvent(QShowEvent* shown) {
    QWidget::showEvent(shown);
    ask();
}

void PulsePlot::hideEvent(QHideEvent* hidden) {
    QWidget::hideEvent(hidden);
    for (const Version& version : versions_)
        version.preview->setPage(std::nullopt);
}

std::optional<double> PulsePlot::value(const Preview& preview, qint64 output, Measure measure) const {
    const PreviewPicturePtr made = preview.glance(output);
    if (!made) return std::nullopt;
    if (measure == Measure::sharpness) return made->look.sharpness;
    const PreviewPicturePtr before = output > 0 ? preview.glance(output - 1) : nullptr;
    if (!before) return std::nullopt;
    return changeBetween(before->look, made->look);
}

QString PulsePlot::numbersOf(std::size_t index) const {
    const Version& version = versions_.at(index);
    const auto number = [&](Measure measure) {
        const auto v = value(*version.preview, player_.playhead(), measure);
        if (v) return shownNumber(*v, 2);
        const bool first = measure == Measure::change && player_.playhead() == 0; // there is none before it
        return first ? QStringLiteral("–") : QStringLiteral("…");
    };
    return tr("%1: sharpness %2, change %3")
        .arg(version.name, number(Measure::sharpness), number(Measure::change));
}

QRectF PulsePlot::lane(Measure measure) const {
    const double high = (height() - shapesHeight) / 2.0;
    return {numbersWidth + 72, measure == Measure::sharpness ? 2 : high + 2,
            std::max(10.0, width() - numbersWidth - 72 - 24), high - 4};
}

double PulsePlot::xOf(qint64 output) const {
    const auto shown = range();
    const QRectF at = lane(Measure::sharpness);
    const double steps = std::max<double>(1, static_cast<double>(shown->second - shown->first));
    return at.left() + at.width() * static_cast<double>(output - shown->first) / steps;
}

void PulsePlot::drawLane(QPainter& p, Measure measure) const {
    const auto shown = *range();
    const QRectF at = lane(measure);
    // From the least to the greatest of all versions; a narrow band is not blown up to fill the lane.
    double least = 1e9;
    double most = 0;
    for (const Version& version : versions_)
        for (qint64 i = shown.first; i <= shown.second; ++i)
            if (const auto v = value(*version.preview, i, measure)) {
                least = std::min(least, *v);
                most = std::max(most, *v);
            }
    p.setPen(QColor(0xC9, 0xC6, 0xC0));
    p.setFont(textFont(11));
    p.drawText(QRectF(numbersWidth, at.top(), 66, at.height()), Qt::AlignVCenter | Qt::AlignRight,
               measure == Measure::sharpness ? tr("sharpness") : tr("change"));
    p.setPen(QColor(255, 255, 255, 40));
    p.drawLine(at.bottomLeft(), at.bottomRight());
    if (most < least) return; // nothing is made yet
    const double middle = (least + most) / 2;
    const double half = std::max({(most - least) / 2, middle * 0.04, 0.05});
    const auto yOf = [&](double v) { return at.center().y() - (v - middle) / half * (at.height() / 2 - 2); };
    for (std::size_t version = versions_.size(); version-- > 0;) {
        QPainterPath path;
        bool drawing = false;
        for (qint64 i = shown.first; i <= shown.second; ++i) {
            const auto v = value(*versions_[version].preview, i, measure);
            if (v && drawing)
                path.lineTo(xOf(i), yOf(*v));
            else if (v)
                path.moveTo(xOf(i), yOf(*v));
            drawing = v.has_value();
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(penOf(version));
        p.drawPath(path);
    }
}

void PulsePlot::paintEvent(QPaintEvent*) {
    const auto shown = range();
    if (!shown) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(textFont(12));
    const double line =
        std::min(18.0, (height() - 4.0) / std::max<double>(1, static_cast<double>(versions_.size())));
    for (std::size_t i = 0; i < versions_.size(); ++i) {
        const double y = 2 + line * (static_cast<double>(i) + 0.5);
        p.setPen(penOf(i));
        p.drawLine(QPointF(16, y), QPointF(38, y));
        p.setPen(Qt::white);
        p.drawText(
            QRectF(44, y - line / 2, numbersWidth - 28, line), Qt::AlignVCenter,
            p.fontMetrics().elidedText(numbersOf(i), Qt::ElideLeft, static_cast<int>(numbersWidth) - 28));
    }
    p.setPen(QPen(colour::indigo, 2));
    const double here = xOf(player_.playhead());
    p.drawLine(QPointF(here, 0), QPointF(here, height() - shapesHeight));
    drawLane(p, Measure::sharpness);
    drawLane(p, Measure::change);
    const double step = lane(Measure::sharpness).width() / (2.0 * around);
    for (qint64 i = shown->first; i <= shown->second; ++i) {
        const FrameKind kind = plan_->rows[static_cast<std::size_t>(i)].kind;
        const QPointF at(xOf(i), height() - shapesHeight / 2);
        p.setPen(Qt::NoPen);
        p.setBrush(colour::cloth);
        const double radius = std::min(5.5, step / 2);
        p.drawEllipse(at, radius, radius);
        drawFrameShape(p, kind, at, radius * 0.65);
    }
}

void PulsePlot::mousePressEvent(QMouseEvent* press) {
    const auto shown = range();
    if (!shown || press->position().x() < numbersWidth) return;
    qint64 nearest = shown->first;
    for (qint64 i = shown->first; i <= shown->second; ++i)
        if (std::abs(xOf(i) - press->position().x()) < std::abs(xOf(nearest) - press->position().x()))
            nearest = i;
    player_.goTo(nearest);
}

} // namespace yarngap::app
