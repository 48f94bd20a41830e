// What the step Render says: before it begins, while it goes on, and at its end.

#include "app/steps/render_step.h"

#include "app/look/numbers.h"
#include "app/look/theme.h"
#include <QFileInfo>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

QString duration(double seconds) {
    const auto s = static_cast<int>(std::lround(seconds));
    return s < 60 ? RenderStep::tr("%1 s").arg(s) : RenderStep::tr("%1 min %2 s").arg(s / 60).arg(s % 60);
}

} // namespace

QString RenderStep::ahead() {
    QString words;
    if (target_->text().contains(QLatin1Char('{')) && !fileName_.isEmpty())
        words = tr("Writes %1.").arg(fileName_) + QLatin1Char(' ');
    if (scope() == RenderScope::edit) {
        const auto& shots = workspace_.document.project().shots;
        const auto back =
            std::ranges::count_if(shots, [](const Shot& shot) { return shot.edit.has_value(); });
        return tr("%n shots go back to the edit, with the list that replaces them: %1", nullptr,
                  static_cast<int>(back))
            .arg(QFileInfo(listName()).fileName());
    }
    if (scope() == RenderScope::reel || scope() == RenderScope::each) return words + severalWords_;
    const auto plan = workspace_.plan();
    const auto axis = workspace_.document.currentAxis();
    if (!plan || !axis) return words;
    std::int64_t first = 0;
    std::int64_t end = static_cast<std::int64_t>(plan->rows.size());
    if (const auto loop = workspace_.player.loop(); loop && scope() == RenderScope::loop) {
        first = std::min<std::int64_t>(loop->first, end);
        end = std::min<std::int64_t>(loop->second + 1, end);
    }
    const std::int64_t ready = workspace_.readyFrames ? workspace_.readyFrames(first, end) : 0;
    return words + forecast_.words(plan, first, end, ready, axis->facts(), output_->settings());
}

QString RenderStep::outcomeWords() const {
    const RenderController& render = workspace_.render;
    QString told = render.outcome();
    const auto& r = render.report();
    if (!r) return told;
    QStringList counts;
    const std::initializer_list<std::pair<std::int64_t, QString>> kinds{
        {r->originals, tr("original")}, {r->repeats, tr("repeat")}, {r->blends, tr("blend")},
        {r->flows, tr("flow")},         {r->held, tr("held")},      {r->standIns, tr("with a stand-in")}};
    for (const auto& [n, kind] : kinds)
        if (n > 0) counts << tr("%1 %2").arg(n).arg(kind);
    told += QLatin1Char(' ') + tr("%1, in %2.").arg(counts.join(QStringLiteral(", ")), duration(r->seconds));
    for (const std::string& note : r->notes)
        told += QLatin1Char('\n') + QString::fromStdString(note);
    return told;
}

void RenderStep::showState() {
    const RenderController& render = workspace_.render;
    const bool running = render.running();
    // What was just rendered is no surprise there.
    const bool again = render.report() && lookedAt_ == renderedTarget_;
    replaces_->setVisible(!whatIsThere_.isEmpty() && !again);
    replaces_->setText(whatIsThere_);
    forecastLabel_->setText(ahead());
    forecastLabel_->setVisible(!forecastLabel_->text().isEmpty());
    start_->setEnabled(workspace_.plan() != nullptr && !target_->text().isEmpty());
    const bool onFarm = where_->currentData().toBool();
    start_->setText(onFarm                         ? tr("Hand to the farm")
                    : scope() == RenderScope::edit ? tr("Hand back")
                    : running                      ? tr("Add to queue")
                    : again                        ? tr("Render again")
                    : whatIsThere_.isEmpty()       ? tr("Render")
                                                   : tr("Render and replace"));
    cancel_->setVisible(running);
    progress_->setVisible(running);
    openFolder_->setVisible(!running && render.report().has_value());
    const RenderProgress& p = render.progress();
    if (running) {
        progress_->setRange(0, 1000);
        progress_->setValue(p.total > 0 ? static_cast<int>(p.done * 1000 / p.total) : 0);
        QString told = (p.joining ? tr("%1: joining, frame %2 of %3") : tr("%1: frame %2 of %3"))
                           .arg(render.shotName())
                           .arg(p.done)
                           .arg(p.total);
        if (render.framesPerSecond() > 0)
            told += tr(", %1 fps").arg(shownNumber(render.framesPerSecond(), 1));
        if (p.secondsLeft >= 0) told += tr(", %1 left").arg(duration(p.secondsLeft));
        constexpr double megabyte = 1e6;
        if (p.bytes > megabyte)
            told += tr(", %1 MB so far").arg(std::lround(static_cast<double>(p.bytes) / megabyte));
        status_->setText(told);
    } else {
        status_->setText(told_.isEmpty() ? outcomeWords() : told_);
    }
    status_->setVisible(!status_->text().isEmpty());
    const bool isTrouble = (told_.isEmpty() ? render.failed() : isTrouble_) || render.hasStandIns();
    status_->setStyleSheet(isTrouble ? QStringLiteral("color: %1;").arg(shades().madder.name()) : QString());
}

} // namespace yarngap::app
