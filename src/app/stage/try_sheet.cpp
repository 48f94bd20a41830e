#include "app/stage/try_sheet.h"

#include "app/document/media_library.h"
#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "core/background_priority.h"
#include "core/image/rgb_picture.h"

#include <QApplication>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPointer>

#include <algorithm>
#include <cmath>
#include <optional>

namespace yarngap::app {

namespace {

constexpr double captionHeight = 24;
constexpr double mostZoom = 16;

} // namespace

std::array<Try, 4> triesOf(const InBetweens& now) {
    std::array<Try, 4> tries{{{TrySheet::tr("As it is"), now}, {{}, now}, {{}, now}, {{}, now}}};
    constexpr int middle = 60;
    constexpr int loose = 20;
    constexpr int stiff = 80;
    int& stiffness = tries[1].settings.flow.stiffness;
    stiffness = now.flow.stiffness < middle ? stiff : loose;
    tries[1].name = TrySheet::tr("Stiffness %1").arg(stiffness);
    AnalyseOn& on = tries[2].settings.flow.analyseOn;
    on = now.flow.analyseOn == AnalyseOn::edges ? AnalyseOn::asIs : AnalyseOn::edges;
    tries[2].name =
        on == AnalyseOn::edges ? TrySheet::tr("Analyse on edges") : TrySheet::tr("Analyse on the picture");
    int& limit = tries[3].settings.synthesis.trustLimit;
    constexpr int strict = 30;
    limit = now.synthesis.trustLimit == 0 ? strict : 0;
    tries[3].name = limit > 0 ? TrySheet::tr("Trust limit %1 %").arg(limit) : TrySheet::tr("No trust limit");
    return tries;
}

/// An output frame for the screen, at its full size up to 4096 pixels.
QImage screenPictureOf(const Image& image, const MediaFacts& facts) {
    const double most = 4096.0 / std::max({facts.width, facts.height, 4096});
    return toQImage(toScreenRgb(
        image, facts.colour, std::max(1, static_cast<int>(facts.width * facts.pixelAspect.toDouble() * most)),
        std::max(1, static_cast<int>(facts.height * most))));
}

/// A picture in grey and a few pixels; made in the background, since large ones take their time.
QImage smallOf(const QImage& picture) {
    return picture
        .scaled(picture.size().scaled(96, 96, Qt::KeepAspectRatio), Qt::IgnoreAspectRatio,
                Qt::SmoothTransformation)
        .convertToFormat(QImage::Format_Grayscale8);
}

/// The place where small grey pictures of one size differ most, 0 to 1 across and down; absent where they do
/// not, or one is missing.
std::optional<QPointF> whereTheyDiffer(const std::array<QImage, 4>& grey) {
    if (std::any_of(grey.begin(), grey.end(), [](const QImage& g) { return g.isNull(); }))
        return std::nullopt;
    const QSize small = grey.front().size();
    constexpr int noticed = 6; // steps of 8 bit; less is grain
    double sum = 0;
    QPointF middle;
    for (int y = 0; y < small.height(); ++y)
        for (int x = 0; x < small.width(); ++x) {
            int least = 255;
            int most = 0;
            for (const QImage& g : grey) {
                const int v = g.constScanLine(y)[x];
                least = std::min(least, v);
                most = std::max(most, v);
            }
            if (most - least < noticed) continue;
            const double weight = std::pow(most - least, 2);
            sum += weight;
            middle += weight * QPointF((x + 0.5) / small.width(), (y + 0.5) / small.height());
        }
    if (sum == 0) return std::nullopt;
    return middle / sum;
}

// ---- Pane

TryPane::TryPane(const QString& name, SharedView& view, QWidget* parent)
    : QAbstractButton(parent)
    , view_(view) {
    setText(name);
    setAccessibleName(name);
    setToolTip(tr("Click to use this; the wheel enlarges all four"));
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setAttribute(Qt::WA_Hover); // its frame shows the pointer
}

void TryPane::setPicture(const QImage& picture, const QImage& small, const QString& remark) {
    picture_ = picture;
    small_ = small;
    remark_ = remark;
    update();
}

QRectF TryPane::area() const {
    return QRectF(rect()).adjusted(2, 2, -2, -captionHeight);
}

QRectF TryPane::place() const {
    const QSizeF size = QSizeF(picture_.size()).scaled(area().size(), Qt::KeepAspectRatio) * view_.zoom;
    const QPointF middle = area().center();
    return {middle.x() - view_.centre.x() * size.width(), middle.y() - view_.centre.y() * size.height(),
            size.width(), size.height()};
}

void TryPane::keepInside() {
    const auto kept = [](double centre, double seen, double whole) {
        return seen >= whole ? 0.5 : std::clamp(centre, seen / whole / 2, 1 - seen / whole / 2);
    };
    const QSizeF whole = place().size();
    view_.centre = {kept(view_.centre.x(), area().width(), whole.width()),
                    kept(view_.centre.y(), area().height(), whole.height())};
    Q_EMIT viewChanged();
}

void TryPane::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setFont(textFont(13, QFont::DemiBold));
    const QRectF caption(0, height() - captionHeight + 2, width(), captionHeight - 2);
    p.setPen(Qt::white);
    p.drawText(caption, Qt::AlignCenter,
               remark_.isEmpty() ? text() : text() + QStringLiteral(" · ") + remark_);
    if (picture_.isNull()) {
        p.setFont(textFont(13));
        p.drawText(area(), Qt::AlignCenter, remark_.isEmpty() ? tr("being made…") : QString());
    } else {
        p.save();
        p.setClipRect(area());
        p.setRenderHint(QPainter::SmoothPixmapTransform, place().width() < 3 * picture_.width());
        p.drawImage(place(), picture_);
        p.restore();
    }
    const bool marked = hasFocus() || underMouse();
    p.setPen(QPen(hasFocus() ? colour::indigo : QColor(0xD8, 0xD6, 0xD1), marked ? 2 : 1));
    p.setBrush(Qt::NoBrush);
    const QRectF frame = picture_.isNull() ? area() : place().intersected(area());
    p.drawRect(frame.adjusted(-0.5, -0.5, 0.5, 0.5));
}

void TryPane::wheelEvent(QWheelEvent* wheel) {
    if (picture_.isNull() || wheel->angleDelta().y() == 0) return;
    const QRectF before = place();
    const QPointF under((wheel->position().x() - before.left()) / before.width(),
                        (wheel->position().y() - before.top()) / before.height());
    const double was = view_.zoom;
    view_.zoom = std::clamp(was * std::pow(1.25, wheel->angleDelta().y() / 120.0), 1.0, mostZoom);
    view_.centre = under + (view_.centre - under) * (was / view_.zoom);
    keepInside();
}

void TryPane::mousePressEvent(QMouseEvent* press) {
    dragFrom_ = press->position();
    dragged_ = false;
    QAbstractButton::mousePressEvent(press);
}

void TryPane::mouseMoveEvent(QMouseEvent* move) {
    if (view_.zoom <= 1 || picture_.isNull() || !move->buttons().testFlag(Qt::LeftButton)) return;
    const QPointF way = move->position() - dragFrom_;
    if (!dragged_ && way.manhattanLength() < QApplication::startDragDistance()) return;
    dragged_ = true;
    dragFrom_ = move->position();
    const QRectF now = place();
    view_.centre -= QPointF(way.x() / now.width(), way.y() / now.height());
    keepInside();
}

void TryPane::mouseReleaseEvent(QMouseEvent* release) {
    if (dragged_) {
        setDown(false); // a move of the picture is no choice
        return;
    }
    QAbstractButton::mouseReleaseEvent(release);
}

void TryPane::keyPressEvent(QKeyEvent* press) {
    if (press->key() == Qt::Key_Return || press->key() == Qt::Key_Enter)
        click();
    else
        QAbstractButton::keyPressEvent(press);
}

// ---- Sheet

TrySheet::TrySheet(std::array<Try, 4> tries, std::int64_t output, BackgroundTasks& tasks, QWidget* parent)
    : QWidget(parent)
    , tries_(std::move(tries)) {
    setObjectName(QStringLiteral("trySheet"));
    setAccessibleName(tr("Four settings to choose from"));
    setFocusPolicy(Qt::StrongFocus);
    auto* layout = new QGridLayout(this);
    layout->setContentsMargins(12, 0, 12, 0);
    layout->setSpacing(8);
    auto* hint = new QLabel(
        tr("Output %1 with four settings. Click the best one; Escape leaves all as it is.").arg(output));
    hint->setStyleSheet(QStringLiteral("color: white; font-size: 13px;"));
    hint->setAlignment(Qt::AlignCenter);
    layout->addWidget(hint, 0, 0, 1, 2);
    for (std::size_t i = 0; i < tries_.size(); ++i) {
        auto* pane = new TryPane(tries_.at(i).name, view_, this);
        pane->setObjectName(QStringLiteral("tryPane%1").arg(i));
        panes_.at(i) = pane;
        layout->addWidget(pane, 1 + static_cast<int>(i / 2), static_cast<int>(i % 2));
        connect(pane, &QAbstractButton::clicked, this,
                [this, i] { Q_EMIT chosen(static_cast<int>(i), tries_.at(i).settings); });
        connect(pane, &TryPane::viewChanged, this, [this] {
            for (TryPane* other : panes_)
                other->update();
        });
        makePicture(i, output, tasks);
    }
    layout->setRowStretch(1, 1);
    layout->setRowStretch(2, 1);
}

void TrySheet::makePicture(std::size_t i, std::int64_t output, BackgroundTasks& tasks) {
    // The answer goes to the parent, which lives as long as the tasks; the sheet may be gone by then.
    tasks.run([frames = tries_.at(i).frames, output, i, home = parentWidget(),
               sheet = QPointer<TrySheet>(this), stop = stop_.get_token()](const std::stop_token&) {
        yieldToInterface();
        QImage picture;
        QImage small;
        QString remark;
        try {
            const MadeFrame made = frames->make(output, stop);
            picture = screenPictureOf(*made.image, frames->facts());
            small = smallOf(picture);
            if (made.doubt) remark = TrySheet::tr("doubt %1").arg(shownNumber(*made.doubt, 2));
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            remark = QString::fromStdString(error.what());
        }
        postTo(home, [sheet, i, picture, small, remark] {
            if (!sheet) return;
            sheet->panes_.at(i)->setPicture(picture, small, remark);
            sheet->showDifference();
            Q_EMIT sheet->pictureMade(static_cast<int>(i));
        });
    });
}

TrySheet::~TrySheet() {
    stop_.request_stop();
}

void TrySheet::showDifference() {
    if (view_.zoom > 1) return; // the editor looks elsewhere already
    std::array<QImage, 4> grey;
    std::transform(panes_.begin(), panes_.end(), grey.begin(),
                   [](const TryPane* pane) { return pane->small(); });
    const auto place = whereTheyDiffer(grey);
    if (!place) return;
    constexpr double near = 2.5;
    view_ = {near, *place};
    panes_.front()->keepInside();
}

void TrySheet::keyPressEvent(QKeyEvent* press) {
    if (press->key() == Qt::Key_Escape)
        Q_EMIT leftAsItWas();
    else
        QWidget::keyPressEvent(press);
}

} // namespace yarngap::app
