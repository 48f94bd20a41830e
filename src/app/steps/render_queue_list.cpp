#include "app/steps/render_queue_list.h"

#include "app/steps/farm_parts.h"
#include "app/steps/step_layout.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QScrollArea>
#include <QTimer>

namespace yarngap::app {

namespace {

using State = QueuedRender::State;

QString stateWords(const QueuedRender& job) {
    switch (job.state) {
    case State::waiting:
        return RenderQueueList::tr("waits");
    case State::running:
        return RenderQueueList::tr("begins");
    case State::paused:
        return RenderQueueList::tr("paused");
    case State::done:
        return RenderQueueList::tr("done");
    case State::failed:
        return RenderQueueList::tr("failed");
    case State::cancelled:
        return RenderQueueList::tr("cancelled");
    }
    return {};
}

} // namespace

RenderQueueList::RenderQueueList(RenderController& render, QWidget* parent)
    : QWidget(parent)
    , render_(render)
    , title_(new QLabel(tr("Queue")))
    , clear_(button(tr("Clear"), tr("Take all that are over off the list; their files stay"),
                    "clearQueueButton"))
    , rows_(new QVBoxLayout) {
    setObjectName(QStringLiteral("renderQueue"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    title_->setStyleSheet(QStringLiteral("font-weight: 600;"));
    head->addWidget(title_, 1);
    head->addWidget(clear_);
    column->addLayout(head);
    rows_->setSpacing(6);
    column->addLayout(rows_);
    connect(clear_, &QPushButton::clicked, &render_, &RenderController::removeOver);
    connect(&render_, &RenderController::queueChanged, this, &RenderQueueList::rebuild);
    connect(&render_, &RenderController::changed, this, &RenderQueueList::showProgress);
    rebuild();
}

QPushButton* RenderQueueList::button(const QString& text, const QString& tip, const char* name) {
    auto* made = new QPushButton(text);
    made->setObjectName(QString::fromLatin1(name));
    made->setToolTip(tip);
    made->setProperty("role", "plain");
    made->setFocusPolicy(Qt::TabFocus);
    made->setStyleSheet(QStringLiteral("font-size: 11px; padding: 0 6px;"));
    made->setFixedHeight(20);
    return made;
}

QWidget* RenderQueueList::lineOf(const QueuedRender& job) {
    auto* line = new QWidget;
    line->setObjectName(QStringLiteral("queueLine"));
    auto* column = new QVBoxLayout(line);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    const QString file = QFileInfo(QString::fromStdString(job.work.targets.front().file.string())).fileName();
    auto* name = new QLabel;
    name->setText(name->fontMetrics().elidedText(file, Qt::ElideMiddle, 204));
    name->setToolTip(QString::fromStdString(job.work.targets.front().file.string()));
    column->addWidget(name);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    auto* state = faintLabel(stateWords(job));
    state->setWordWrap(false);
    state->setToolTip(QString::fromStdString(job.outcome));
    row->addWidget(state, 1);
    const std::int64_t number = job.number;
    const auto add = [&](const QString& text, const QString& tip, const char* objectName, auto action) {
        QPushButton* made = button(text, tip, objectName);
        made->setAccessibleName(tr("%1: %2").arg(text, file));
        connect(made, &QPushButton::clicked, &render_, action);
        row->addWidget(made);
    };
    RenderController* render = &render_;
    if (job.state == State::waiting)
        add(tr("Earlier"), tr("Move it one place up"), "queueEarlierButton",
            [render, number] { render->move(number, -1); });
    if (job.onFarm && (job.state == State::running || job.state == State::failed))
        add(tr("Parts"), tr("Shows how far each part is, and its log"), "queuePartsButton",
            [this, number] { showParts(number); });
    if (!job.onFarm && (job.state == State::running || job.state == State::waiting))
        add(tr("Pause"), tr("Stop it and keep the finished parts"), "queuePauseButton",
            [render, number] { render->pause(number); });
    if (job.state == State::paused || job.state == State::failed)
        add(job.state == State::failed ? tr("Try again") : tr("Go on"),
            tr("Go on from the parts that are finished"), "queueGoOnButton",
            [render, number] { render->goOn(number); });
    if (job.isOver())
        add(tr("Remove"), tr("Take it off the list; its files stay"), "queueRemoveButton",
            [render, number] { render->remove(number); });
    else
        add(tr("Cancel"), tr("Stop it and delete the finished parts"), "queueCancelButton",
            [render, number] { render->cancel(number); });
    column->addLayout(row);
    Line& shown = lines_[number];
    shown.whole = line;
    shown.state = state;
    if (job.state == State::running) {
        shown.bar = new QProgressBar;
        shown.bar->setTextVisible(false);
        shown.bar->setRange(0, 1000);
        shown.bar->setFixedHeight(4);
        shown.bar->setAccessibleName(tr("Progress of %1").arg(file));
        column->addWidget(shown.bar);
    }
    return line;
}

void RenderQueueList::rebuild() {
    lines_.clear();
    while (QLayoutItem* item = rows_->takeAt(0)) {
        item->widget()->hide();
        item->widget()->deleteLater(); // it may be the one whose button was clicked
        delete item;
    }
    bool over = false;
    for (const QueuedRender& job : render_.queue()) {
        rows_->addWidget(lineOf(job));
        over |= job.isOver();
    }
    clear_->setVisible(over);
    setVisible(!render_.queue().empty());
    showProgress();
    if (lines_.empty() || lines_.rbegin()->first <= newest_) return;
    newest_ = lines_.rbegin()->first;
    QTimer::singleShot(0, this, &RenderQueueList::bringNewestIntoView);
}

void RenderQueueList::bringNewestIntoView() const {
    const auto at = lines_.find(newest_);
    if (at == lines_.end() || !isVisible()) return;
    // Layouts settle one above the other; only then does the line have its place.
    QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest);
    QWidget* above = parentWidget();
    while (above && !qobject_cast<QScrollArea*>(above))
        above = above->parentWidget();
    constexpr int below = 4;
    if (auto* area = qobject_cast<QScrollArea*>(above)) area->ensureWidgetVisible(at->second.whole, 0, below);
}

void RenderQueueList::showFarm(std::int64_t number) {
    const auto at = lines_.find(number);
    if (at == lines_.end() || !at->second.bar) return;
    const FarmState* state = render_.farm().state(number);
    const int all = state ? static_cast<int>(state->slices.size()) : 0;
    const int ready = state ? state->count(FarmState::Slice::ready) : 0;
    at->second.bar->setValue(all > 0 ? 1000 * ready / all : 0);
    at->second.state->setText(render_.farm().isBeingCancelled(number) ? tr("being taken off the farm")
                              : !state                                ? tr("being handed over")
                              : state->join == FarmState::Join::running
                                  ? tr("the farm joins parts")
                                  : tr("farm: %1 of %2 parts").arg(ready).arg(all));
}

void RenderQueueList::showParts(std::int64_t number) {
    const QueuedRender* job = render_.find(number);
    if (!job) return;
    auto* window = new FarmParts(render_, *job, this->window());
    window->setAttribute(Qt::WA_DeleteOnClose);
    window->show();
}

void RenderQueueList::showProgress() {
    for (const QueuedRender& job : render_.queue())
        if (job.onFarm && job.state == State::running) showFarm(job.number);
    const auto number = render_.runningNumber();
    if (!number) return;
    const auto at = lines_.find(*number);
    if (at == lines_.end() || !at->second.bar) return;
    const RenderProgress& p = render_.progress();
    const std::int64_t percent = p.total > 0 ? p.done * 100 / p.total : 0;
    at->second.bar->setValue(p.total > 0 ? static_cast<int>(p.done * 1000 / p.total) : 0);
    at->second.state->setText(p.joining ? tr("joins parts") : tr("%1 %").arg(percent));
}

} // namespace yarngap::app
