#include "app/steps/calm_row.h"

#include "app/look/theme.h"
#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QLocale>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap::app {

namespace {
constexpr std::array<CalmBy, 3> ways{CalmBy::nothing, CalmBy::smoothing, CalmBy::still};
} // namespace

PathPlot::PathPlot(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("cameraPath"));
    setAccessibleName(tr("Path of the camera: thin as measured, bold as calmed"));
    setFixedHeight(76);
}

void PathPlot::setPaths(std::vector<PicturePoint> measured, std::vector<PicturePoint> calmed) {
    measured_ = std::move(measured);
    calmed_ = std::move(calmed);
    double most = 0;
    for (std::size_t i = 0; i < std::min(measured_.size(), calmed_.size()); ++i)
        most = std::max(most, std::hypot(measured_[i].x - calmed_[i].x, measured_[i].y - calmed_[i].y));
    setAccessibleDescription(
        tr("The picture is moved by up to %1 pixels.").arg(QLocale().toString(most, 'f', 1)));
    update();
}

void PathPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(shades().seam, 1));
    p.setBrush(shades().paper);
    p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    if (measured_.size() < 2) return;
    for (int axis = 0; axis < 2; ++axis) {
        const auto valueOf = [axis](const PicturePoint& point) { return axis == 0 ? point.x : point.y; };
        const QRectF half(4, 3 + axis * 36, width() - 8, 34);
        double least = valueOf(measured_.front());
        double most = least;
        for (const auto* path : {&measured_, &calmed_})
            for (const PicturePoint& point : *path) {
                least = std::min(least, valueOf(point));
                most = std::max(most, valueOf(point));
            }
        const double height = std::max(1.0, most - least);
        const auto draw = [&](const std::vector<PicturePoint>& path, const QPen& pen) {
            QPainterPath line;
            const double step = half.width() / static_cast<double>(path.size() - 1);
            for (std::size_t i = 0; i < path.size(); ++i) {
                const QPointF at(half.left() + step * static_cast<double>(i),
                                 half.top() + half.height() * (valueOf(path[i]) - least) / height);
                if (i == 0)
                    line.moveTo(at);
                else
                    line.lineTo(at);
            }
            p.setPen(pen);
            p.setBrush(Qt::NoBrush);
            p.drawPath(line);
        };
        draw(measured_, QPen(shades().slate, 1));
        if (calmed_.size() > 1) draw(calmed_, QPen(shades().indigo, 2));
    }
}

CalmRow::CalmRow(Workspace& workspace, FinishWork& work)
    : FinishRow(workspace, tr("Calm"), "calmRow")
    , work_(work)
    , by_(choice("calmBy", tr("How the camera is calmed"),
                 {tr("As filmed"), tr("Smooth"), tr("Still, as on a tripod")}))
    , measure_(button(tr("Measure again"), "measureCamera", tr("Measure the camera over the present trim")))
    , plot_(new PathPlot) {
    seconds_ = number(tr("Over"), tr("Time to calm the camera over"), "calmSeconds",
                      {tr("s"), 2, 0.05, Calm::shortest, Calm::longest},
                      [](Finish& f, double v) { f.calm.seconds = v; });
    seconds_->setToolTip(tr("Shakes that take this long, or less, are taken away; seconds of the source"));
    QGridLayout* grid = addGrid();
    grid->addWidget(captioned(tr("Camera"), by_), 0, 0);
    grid->addWidget(seconds_, 0, 1);
    body()->addWidget(plot_);
    words_ = addWords();
    body()->addWidget(measure_);
    connect(by_, &QComboBox::activated, this, [this](int at) {
        const CalmBy by = ways[static_cast<std::size_t>(at)];
        edit(tr("calm the camera"), [by](Finish& f) { f.calm.by = by; });
        if (by != CalmBy::nothing && finish() && finish()->calm.path.empty()) measure();
    });
    connect(measure_, &QPushButton::clicked, this, &CalmRow::measure);
}

void CalmRow::measure() {
    work_.measureCamera([this](const CameraPath& path) {
        edit(tr("path of the camera"), [&](Finish& f) { f.calm.path = path; });
    });
}

void CalmRow::showPath(const Calm& calm, const MediaFacts& facts) {
    if (calm == plotted_) return;
    plotted_ = calm;
    if (calm.path.empty()) return plot_->setPaths({}, {});
    const CalmedCamera camera(calm, facts.width, facts.height, facts.pixelAspect.toDouble(),
                              facts.rate.toDouble());
    const PicturePoint middle{facts.width * facts.pixelAspect.toDouble() / 2, facts.height / 2.0};
    std::vector<PicturePoint> measured;
    std::vector<PicturePoint> calmed;
    // No more than can be drawn.
    constexpr std::size_t most = 1000;
    const std::size_t step = std::max<std::size_t>(1, calm.path.size() / most);
    for (std::size_t i = 0; i < calm.path.size(); i += step) {
        const std::int64_t frame = calm.path[i].frame;
        const PicturePoint at = camera.way(frame)(middle);
        measured.push_back(at);
        if (calm.isCalming()) calmed.push_back(camera.at(placeOfFrame(frame))(at));
    }
    plot_->setPaths(std::move(measured), std::move(calmed));
}

QString CalmRow::show(const Finish& finish, const MediaFacts& facts) {
    const Calm& calm = finish.calm;
    by_->setCurrentIndex(static_cast<int>(std::ranges::find(ways, calm.by) - ways.begin()));
    seconds_->setNumber(calm.seconds);
    seconds_->setVisible(calm.by != CalmBy::still);
    showPath(calm, facts);
    plot_->setVisible(!calm.path.empty());
    const auto& subject = work_.subject();
    const bool isCovered = !calm.path.empty() && calm.path.front().frame <= subject.first &&
                           calm.path.back().frame >= subject.last;
    measure_->setVisible(calm.by != CalmBy::nothing && !isCovered);
    measure_->setText(calm.path.empty() ? tr("Measure") : tr("Measure again"));
    QString words;
    if (calm.by != CalmBy::nothing && calm.path.empty())
        words = tr("The camera is not measured yet; nothing is calmed.");
    else if (calm.by != CalmBy::nothing && !isCovered)
        words = tr("Measured from source %1 to %2 only.")
                    .arg(calm.path.front().frame)
                    .arg(calm.path.back().frame);
    else if (calm.by != CalmBy::nothing)
        words =
            tr("Hide edges covers the borders that this lays bare. Distortion by a rolling shutter stays.");
    words_->setText(words);
    words_->setVisible(!words.isEmpty());
    if (calm.by == CalmBy::nothing) return {};
    if (calm.path.empty()) return tr("not measured yet");
    return calm.by == CalmBy::still ? tr("still")
                                    : tr("over %1 s").arg(QLocale().toString(calm.seconds, 'g', 3));
}

} // namespace yarngap::app
