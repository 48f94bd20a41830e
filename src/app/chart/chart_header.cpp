// The line over the lanes of the thread chart: what it counts, and its buttons.

#include "app/look/frame_shapes.h"
#include "app/look/theme.h"
#include "app/chart/thread_chart.h"
#include "core/time/timecode.h"

#include <QPainter>

namespace yarngap::app {

using namespace chart;

void ThreadChart::drawHeader(QPainter& p) const {
    p.setFont(textFont(11, QFont::DemiBold));
    p.setPen(colour::faint);
    p.drawText(QRectF(16, 4, 200, 24), Qt::AlignVCenter | Qt::AlignLeft, tr("THREAD CHART"));
    if (!plan_ || plan_->rows.empty()) {
        p.setFont(textFont(12));
        p.drawText(QRectF(0, 30, width(), height() - 30), Qt::AlignCenter,
                   tr("Source frames, output frames and the threads between them appear here."));
        return;
    }
    p.setFont(textFont(12));
    const Timecode timecode(timing_.outputRate);
    const auto str = [](const std::string& s) { return QString::fromStdString(s); };
    const double right = curveButton_->x() - 12;
    const Visible v = visible();
    const QString range = tr("%1 → %2 fps · %3 to %4")
                              .arg(str(timing_.sourceRate.display()), str(timing_.outputRate.display()),
                                   str(timecode.format(v.first)), str(timecode.format(v.last)));
    p.drawText(QRectF(0, 4, right, 24), Qt::AlignVCenter | Qt::AlignRight, range);
    drawLegend(p, right - p.fontMetrics().horizontalAdvance(range) - 32);
}

void ThreadChart::drawLegend(QPainter& p, double right) const {
    double x = 130;
    for (const FrameKind kind :
         {FrameKind::original, FrameKind::repeat, FrameKind::blend, FrameKind::flow, FrameKind::held}) {
        const std::int64_t n = before_.back()[static_cast<std::size_t>(kind)];
        if (n == 0) continue;
        const QString label = tr("%1 %2").arg(n).arg(
            QString::fromUtf8(name(kind).data(), static_cast<qsizetype>(name(kind).size())));
        const double w = p.fontMetrics().horizontalAdvance(label);
        if (x + w + 14 > right) return;
        drawFrameShape(p, kind, {x, 16}, 4.5);
        p.setPen(colour::ink);
        p.drawText(QRectF(x + 10, 4, w + 4, 24), Qt::AlignVCenter | Qt::AlignLeft, label);
        x += w + 28;
    }
}

QString ThreadChart::unitText(std::int64_t output) const {
    switch (unit_) {
    case Unit::frames:
        break;
    case Unit::seconds:
        return tr("%1 s").arg(static_cast<double>(output) / timing_.outputRate.toDouble(), 0, 'f', 2);
    case Unit::timecode:
        return QString::fromStdString(Timecode(timing_.outputRate).format(output));
    }
    return QString::number(output);
}

void ThreadChart::chooseUnit() {
    unit_ = static_cast<Unit>((static_cast<int>(unit_) + 1) % 3);
    unitButton_->setText(unit_ == Unit::frames    ? tr("Frames")
                         : unit_ == Unit::seconds ? tr("Seconds")
                                                  : tr("Timecode"));
    placeButtons();
}

void ThreadChart::chooseAnchor() {
    anchor_ = static_cast<Anchor>((static_cast<int>(anchor_) + 1) % 3);
    placeButtons();
}

LaneKeeping ThreadChart::keeping() const {
    return {.keeping = keepLength_->isChecked() ? Keeping::length : Keeping::speeds,
            .anchor = anchor_,
            .playhead = Rational(player_.playhead()),
            .mediaFrames = plan_ ? plan_->mediaFrames : 0};
}

void ThreadChart::placeButtons() {
    anchorButton_->setVisible(keepLength_->isChecked());
    anchorButton_->setText(anchor_ == Anchor::first      ? tr("First stays")
                           : anchor_ == Anchor::playhead ? tr("Playhead stays")
                                                         : tr("Last stays"));
    int x = width() - static_cast<int>(rightMargin);
    for (QToolButton* button :
         {fitButton_, inButton_, outButton_, unitButton_, anchorButton_, keepLength_, curveButton_}) {
        if (button == anchorButton_ && !keepLength_->isChecked()) continue;
        button->adjustSize();
        x -= button->width();
        button->move(x, 3);
        x -= 4;
    }
    redraw();
}

} // namespace yarngap::app
