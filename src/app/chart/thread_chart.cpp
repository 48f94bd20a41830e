#include "app/chart/thread_chart.h"

#include "app/look/frame_shapes.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"
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

void ThreadChart::setDoubts(std::vector<DoubtBar> doubts, double limit, bool isSearching) {
    const bool lane = !doubts.empty() || (isSearching && hasDoubtLane_);
    const bool comesOrGoes = lane != hasDoubtLane_;
    doubts_ = std::move(doubts);
    doubtLimit_ = limit;
    hasDoubtLane_ = lane;
    if (comesOrGoes) {
        at_ = placesIn(height(), hasDoubtLane_);
        placeButtons();
    }
    redraw();
}

void ThreadChart::setThumbnails(SourceThumbnails& thumbnails) {
    thumbnails_ = &thumbnails;
    connect(thumbnails_, &SourceThumbnails::ready, this, qOverload<>(&QWidget::update));
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

void ThreadChart::keepPlayheadInView(qint64 frame) {
    const double x = xOf(static_cast<double>(frame));
    if (!fitted_ && (x < gutter || x > width() - rightMargin))
        scrollTo(static_cast<double>(frame) - laneWidth() / scale_ * 0.1);
    update();
    if (plan_ && !plan_->rows.empty()) tellPartValue(*this, 0);
}

void ThreadChart::resizeEvent(QResizeEvent* resize) {
    QWidget::resizeEvent(resize);
    lasting_ = {};
    size_ = size();
    at_ = placesIn(height(), hasDoubtLane_);
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
    if (lasting_.isNull()) {
        lasting_ = QPixmap(size() * devicePixelRatioF());
        lasting_.setDevicePixelRatio(devicePixelRatioF());
        QPainter lasting(&lasting_);
        drawLasting(lasting);
    }
    QPainter p(this);
    p.drawPixmap(0, 0, lasting_);
    if (hasFocus()) drawFocus(p, rect());
    if (!plan_ || plan_->rows.empty()) return;
    drawThumbnails(p, visible());
    p.setClipRect(lanes());
    drawStitchLine(p, visible());
    p.setRenderHint(QPainter::Antialiasing);
    drawPlayhead(p, player_.playhead(), player_.loop());
    drawDragWords(p);
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
                                   .arg(shownNumber(row.position.toDouble(), 2))
                                   .arg(QString::fromUtf8(kind.data(), static_cast<qsizetype>(kind.size()))),
                               this);
            return true;
        }
    }
    return QWidget::event(happened);
}

} // namespace yarngap::app
