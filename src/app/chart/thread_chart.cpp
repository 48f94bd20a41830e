#include "app/chart/thread_chart.h"

#include "app/look/frame_shapes.h"
#include "app/look/theme.h"
#include "app/chart/thread_chart_places.h"
#include "core/time/timecode.h"

#include <QEvent>
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

using namespace chart;

namespace {

QToolButton* chartButton(const QString& label, const QString& tip, QWidget* parent) {
    auto* button = new QToolButton(parent);
    button->setText(label);
    button->setToolTip(tip);
    button->setAccessibleName(tip);
    button->setProperty("role", "plain");
    button->setFocusPolicy(Qt::TabFocus);
    return button;
}

} // namespace

ThreadChart::ThreadChart(Player& player, QWidget* parent)
    : QWidget(parent)
    , player_(player)
    , curveButton_(chartButton(tr("Position"), tr("Show the position curve instead of the speed"), this))
    , keepLength_(chartButton(tr("Keep length"),
                              tr("Later frames stay where they are; otherwise they move along"), this))
    , anchorButton_(chartButton({}, tr("What stays in its place when a speed changes"), this))
    , unitButton_(chartButton(tr("Frames"), tr("Count in frames, seconds or timecode"), this))
    , speedEditor_(new QLineEdit(this))
    , fitButton_(chartButton(tr("Fit"), tr("Show all output frames"), this))
    , inButton_(chartButton(QStringLiteral("+"), tr("Zoom in"), this))
    , outButton_(chartButton(QStringLiteral("−"), tr("Zoom out"), this)) {
    setObjectName(QStringLiteral("threadChart"));
    setAccessibleName(tr("Thread chart"));
    setFocusPolicy(Qt::StrongFocus); // its keys are edited by keyboard too
    setMouseTracking(true);
    connect(fitButton_, &QToolButton::clicked, this, &ThreadChart::fit);
    curveButton_->setObjectName(QStringLiteral("curveButton"));
    curveButton_->setCheckable(true);
    keepLength_->setObjectName(QStringLiteral("keepLengthButton"));
    keepLength_->setCheckable(true);
    anchorButton_->setObjectName(QStringLiteral("anchorButton"));
    connect(keepLength_, &QToolButton::toggled, this, &ThreadChart::placeButtons);
    connect(anchorButton_, &QToolButton::clicked, this, &ThreadChart::chooseAnchor);
    unitButton_->setObjectName(QStringLiteral("unitButton"));
    speedEditor_->setObjectName(QStringLiteral("laneSpeedField"));
    speedEditor_->setAccessibleName(tr("Speed in percent"));
    speedEditor_->hide();
    connect(curveButton_, &QToolButton::toggled, this, [this](bool positions) {
        showsPositions_ = positions;
        redraw();
    });
    connect(unitButton_, &QToolButton::clicked, this, &ThreadChart::chooseUnit);
    connect(speedEditor_, &QLineEdit::returnPressed, this, [this] {
        const auto typed = std::exchange(typed_, nullptr);
        speedEditor_->hide();
        setFocus();
        if (typed) typed(speedEditor_->text());
    });
    connect(speedEditor_, &QLineEdit::editingFinished, speedEditor_, &QWidget::hide);
    const auto zoomAtPlayhead = [this](double factor) {
        zoom(factor, xOf(static_cast<double>(player_.playhead())));
    };
    connect(inButton_, &QToolButton::clicked, this, [zoomAtPlayhead] { zoomAtPlayhead(1.5); });
    connect(outButton_, &QToolButton::clicked, this, [zoomAtPlayhead] { zoomAtPlayhead(1 / 1.5); });
    connect(&player_, &Player::moved, this, &ThreadChart::keepPlayheadInView);
}

void ThreadChart::setPlan(std::shared_ptr<const FramePlan> plan, const Timing& timing) {
    const std::size_t keysBefore = timing_.asKeys().size();
    const bool other = !plan_ || !plan || plan_->rows.size() != plan->rows.size();
    plan_ = std::move(plan);
    timing_ = timing;
    map_.reset();
    if (selection_ && (!plan_ || selection_->last >= static_cast<std::int64_t>(plan_->rows.size())))
        selection_.reset();
    const std::size_t keysNow = timing_.asKeys().size();
    if (keysNow != keysBefore && !drag_) chosen_.clear(); // their numbers mean others now
    std::erase_if(chosen_, [keysNow](int key) { return static_cast<std::size_t>(key) + 1 >= keysNow; });
    hovered_.reset();
    if (plan_) map_ = TimeMap(timing_.asKeys());
    if (!drag_) fitSpeeds();
    before_.assign(plan_ ? plan_->rows.size() + 1 : 0, {});
    for (std::size_t n = 0; plan_ && n < plan_->rows.size(); ++n) {
        before_[n + 1] = before_[n];
        ++before_[n + 1][static_cast<std::size_t>(plan_->rows[n].kind)];
    }
    if (other && fitted_ && !drag_) // under the hand the scale stays
        fit();
    else
        scrollTo(start_);
    redraw();
}

void ThreadChart::letGo() {
    drag_.reset();
    dragWords_.clear();
    selection_.reset();
    chosen_.clear();
    speedEditor_->hide();
}

void ThreadChart::setFindings(std::vector<std::int64_t> duplicates, std::vector<std::int64_t> cuts) {
    if (duplicates == duplicates_ && cuts == cuts_) return;
    duplicates_ = std::move(duplicates);
    cuts_ = std::move(cuts);
    redraw();
}

void ThreadChart::setThumbnails(SourceThumbnails& thumbnails) {
    thumbnails_ = &thumbnails;
    connect(thumbnails_, &SourceThumbnails::ready, this, qOverload<>(&QWidget::update));
}

double ThreadChart::laneWidth() const {
    return std::max(50.0, width() - gutter - rightMargin);
}

void ThreadChart::fit() {
    const double frames = plan_ ? static_cast<double>(plan_->rows.size()) : 1;
    scale_ = std::min(largestScale, laneWidth() / std::max(1.0, frames));
    start_ = -0.5;
    fitted_ = true;
    redraw();
}

void ThreadChart::zoom(double factor, double atX) {
    if (!plan_) return;
    const double under = outputAt(atX);
    const double smallest = std::min(
        largestScale, laneWidth() / static_cast<double>(std::max<std::size_t>(1, plan_->rows.size())));
    scale_ = std::clamp(scale_ * factor, smallest, largestScale);
    fitted_ = scale_ <= smallest;
    scrollTo(under - (atX - gutter) / scale_);
}

void ThreadChart::scrollTo(double start) {
    const double frames = plan_ ? static_cast<double>(plan_->rows.size()) : 1;
    start_ = std::clamp(start, -0.5, std::max(-0.5, frames - 0.5 - laneWidth() / scale_));
    redraw();
}

double ThreadChart::xOf(double output) const {
    return gutter + (output - start_) * scale_;
}
double ThreadChart::outputAt(double x) const {
    return start_ + (x - gutter) / scale_;
}

double ThreadChart::sourceX(double position) const {
    // The source rail runs evenly over the positions that the visible output frames lie at.
    if (timing_.varies()) {
        const double left = xOf(std::max(start_, 0.0));
        const double right =
            std::min(static_cast<double>(width()) - rightMargin, xOf(map_->length().toDouble()));
        return left + (position - railFrom_) / (railTo_ - railFrom_) * (right - left);
    }
    const double step = timing_.step().toDouble();
    return xOf((position - static_cast<double>(timing_.from)) / step);
}

ThreadChart::Visible ThreadChart::visible() const {
    const auto total = static_cast<std::int64_t>(plan_->rows.size());
    const auto first = static_cast<std::int64_t>(std::floor(start_)) - 1;
    const auto last = static_cast<std::int64_t>(std::ceil(outputAt(width()))) + 1;
    return {std::clamp<std::int64_t>(first, 0, total - 1), std::clamp<std::int64_t>(last, 0, total - 1)};
}

void ThreadChart::keepPlayheadInView(qint64 frame) {
    const double x = xOf(static_cast<double>(frame));
    if (!fitted_ && (x < gutter || x > width() - rightMargin))
        scrollTo(static_cast<double>(frame) - laneWidth() / scale_ * 0.1);
    update();
}

void ThreadChart::resizeEvent(QResizeEvent* resize) {
    QWidget::resizeEvent(resize);
    lasting_ = {};
    at_ = placesIn(height());
    placeButtons();
    if (fitted_)
        fit();
    else
        scrollTo(start_);
}

void ThreadChart::redraw() {
    lasting_ = {};
    update();
}

void ThreadChart::paintEvent(QPaintEvent*) {
    // Playhead and stitches change all the time, the rest only with plan and zoom: it is kept as a picture.
    if (lasting_.isNull()) drawLasting();
    QPainter p(this);
    p.drawPixmap(0, 0, lasting_);
    if (!plan_ || plan_->rows.empty()) return;
    drawThumbnails(p, visible());
    p.setClipRect(lanes());
    drawStitchLine(p, visible());
    p.setRenderHint(QPainter::Antialiasing);
    drawPlayhead(p);
    drawDragWords(p);
}

QRectF ThreadChart::lanes() const {
    return {gutter - 10, 30, width() - gutter + 10 - rightMargin / 2, height() - 30.0};
}

void ThreadChart::drawLasting() {
    lasting_ = QPixmap(size() * devicePixelRatioF());
    lasting_.setDevicePixelRatio(devicePixelRatioF());
    QPainter p(&lasting_);
    p.fillRect(rect(), colour::cloth);
    p.fillRect(0, 0, width(), 1, colour::seam);
    p.setRenderHint(QPainter::Antialiasing);
    drawHeader(p);
    if (!plan_ || plan_->rows.empty()) return;

    p.setFont(textFont(12));
    p.setPen(colour::faint);
    for (const auto& [name, y] :
         {std::pair{showsPositions_ ? tr("position") : tr("speed"), (speedTop + at_.speedBottom) / 2},
          {tr("source"), at_.sourceY},
          {tr("output"), at_.outputY},
          {tr("ready"), at_.readyY}})
        p.drawText(QRectF(16, y - 10, gutter - 24, 20), Qt::AlignVCenter | Qt::AlignLeft, name);

    const Visible v = visible();
    fitRail(v);
    p.setClipRect(lanes());
    drawSelection(p);
    if (showsPositions_)
        drawPositionLane(p, v);
    else
        drawSpeedLane(p, v);
    drawKeys(p, v);
    if (scale_ >= threadScale)
        drawThreads(p, v);
    else
        drawRibbons(p, v);
    drawSourceRail(p, v);
    drawCuts(p);
    drawOutputRail(p, v);
    // The stitch line is dashed as a whole; solid stitches go over what is ready.
    const double end = std::min(xOf(static_cast<double>(v.last)), static_cast<double>(width()));
    const auto stitches = static_cast<int>((end - xOf(static_cast<double>(v.first))) / 8);
    for (int i = 0; i <= stitches; ++i)
        p.fillRect(QRectF(xOf(static_cast<double>(v.first)) + i * 8, at_.readyY - 1.5, 3, 3), colour::seam);
}

void ThreadChart::fitRail(const Visible& v) {
    if (!timing_.varies()) return;
    railFrom_ = 1e300;
    railTo_ = -1e300;
    for (std::int64_t i = v.first; i <= v.last; ++i) {
        const double position = plan_->rows[static_cast<std::size_t>(i)].position.toDouble();
        railFrom_ = std::min(railFrom_, position);
        railTo_ = std::max(railTo_, position);
    }
    railTo_ = std::max(railTo_, railFrom_ + 1);
}

void ThreadChart::drawStitchLine(QPainter& p, const Visible& v) const {
    const auto at = [this](std::int64_t i) {
        return ready_ && i < static_cast<std::int64_t>(ready_->size())
                   ? (*ready_)[static_cast<std::size_t>(i)]
                   : Readiness::toMake;
    };
    for (std::int64_t i = v.first; i <= v.last;) {
        const Readiness readiness = at(i);
        std::int64_t end = i + 1;
        while (end <= v.last && at(end) == readiness)
            ++end;
        const QRectF place(QPointF(xOf(static_cast<double>(i) - 0.5) + 0.5, at_.readyY - 1.5),
                           QPointF(xOf(static_cast<double>(end) - 0.5) - 0.5, at_.readyY + 1.5));
        // Shape first: ready is a whole line, a draft a thin one, what failed stands up.
        if (readiness == Readiness::ready) p.fillRect(place, colour::slate);
        if (readiness == Readiness::draft) p.fillRect(place.adjusted(0, 1, 0, -1), colour::slate);
        if (readiness == Readiness::failed) p.fillRect(place.adjusted(0, -3, 0, 3), colour::madder);
        i = end;
    }
}

void ThreadChart::drawPlayhead(QPainter& p) const {
    if (const auto loop = player_.loop()) { // a bracket below what it holds
        const QRectF place(QPointF(xOf(static_cast<double>(loop->first) - 0.5), at_.readyY + 5),
                           QPointF(xOf(static_cast<double>(loop->second) + 0.5), at_.readyY + 7));
        p.fillRect(place, colour::indigo);
        p.fillRect(QRectF(place.left(), place.top() - 4, 2, 6), colour::indigo);
        p.fillRect(QRectF(place.right() - 2, place.top() - 4, 2, 6), colour::indigo);
    }
    const double x = xOf(static_cast<double>(player_.playhead()));
    p.setPen(QPen(colour::indigo, 2));
    p.drawLine(QPointF(x, 34), QPointF(x, at_.readyY + 8));
    p.setPen(Qt::NoPen);
    p.setBrush(colour::indigo);
    QPainterPath handle;
    handle.moveTo(x - 6, 30);
    handle.lineTo(x + 6, 30);
    handle.lineTo(x, 39);
    handle.closeSubpath();
    p.drawPath(handle);
}

void ThreadChart::scrub(double x) {
    player_.goTo(std::llround(outputAt(x)));
}

void ThreadChart::wheelEvent(QWheelEvent* wheel) {
    const QPoint delta = wheel->angleDelta();
    const bool sideways =
        wheel->modifiers().testFlag(Qt::ShiftModifier) || std::abs(delta.x()) > std::abs(delta.y());
    if (sideways)
        scrollTo(start_ - (delta.x() != 0 ? delta.x() : delta.y()) * 0.5 / scale_);
    else
        zoom(std::pow(1.2, delta.y() / 120.0), wheel->position().x());
    wheel->accept();
}

bool ThreadChart::event(QEvent* happened) {
    if (happened->type() == QEvent::ToolTip && plan_ && !plan_->rows.empty()) {
        const auto* help = static_cast<QHelpEvent*>(happened);
        const auto i = std::llround(outputAt(help->pos().x()));
        if (help->pos().y() > at_.speedBottom && help->pos().x() > gutter && i >= 0 &&
            i < static_cast<std::int64_t>(plan_->rows.size())) {
            const PlanRow& row = plan_->rows[static_cast<std::size_t>(i)];
            const auto kind = name(row.kind);
            QToolTip::showText(help->globalPos(),
                               tr("Output %1 · position %2 · %3")
                                   .arg(i)
                                   .arg(row.position.toDouble(), 0, 'f', 2)
                                   .arg(QString::fromUtf8(kind.data(), static_cast<qsizetype>(kind.size()))),
                               this);
            return true;
        }
    }
    return QWidget::event(happened);
}

} // namespace yarngap::app
