// What the buttons of Timing and their menu do: shapes, presets, time map files.

#include "app/steps/step_layout.h"
#include "app/steps/timing_step.h"
#include "core/error.h"
#include "core/files/input_files.h"
#include "core/files/local_file.h"
#include "core/files/new_file.h"
#include "core/files/write_failure.h"
#include "core/project/preset.h"
#include "core/time/edl.h"
#include "core/time/key_edits.h"
#include "core/time/map_text.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QSettings>

#include <cmath>

namespace yarngap::app {

namespace {

/// Group of the settings that holds the presets.
QString presets() {
    return QStringLiteral("presets");
}

} // namespace

QPushButton* TimingStep::shapeButton(const QString& words, const char* objectName, const QString& tip,
                                     void (TimingStep::*act)()) {
    auto* button = new QPushButton(words);
    button->setObjectName(QString::fromLatin1(objectName));
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, act);
    return button;
}

void TimingStep::addRamp() {
    shape(tr("add ramp"), [this](Timing t) {
        // A sixth of the shot around the playhead, eased over a twelfth on either side.
        const std::int64_t length = std::max<std::int64_t>(2, t.sourceFrames() / 6);
        const std::int64_t ease = std::max<std::int64_t>(1, length / 2);
        // Not so near the ends that its way in or out would be cut, where the shot has the room.
        const std::int64_t room = std::min((t.sourceFrames() - length) / 2, ease + 1);
        const std::int64_t middle =
            std::clamp(workspace_.sourceFrameAtPlayhead(), t.from + room + length / 2,
                       std::max(t.from + room + length / 2, t.to + 1 - room - (length + 1) / 2));
        const Rational from(middle - length / 2);
        const TimeMap map = t.map();
        const double around = map.speedAt(map.outputAt(static_cast<double>(middle)).value_or(0));
        const Rational step(std::llround(around * 1000), 4000);
        t.keys =
            withRamp(t.asKeys(), {.from = from, .to = from + Rational(length), .step = step, .ease = ease});
        return t;
    });
}

void TimingStep::freezeHere() {
    shape(tr("freeze"), [this](Timing t) {
        t.keys = withFreeze(t.asKeys(), workspace_.sourceFrameAtPlayhead(),
                            std::max<std::int64_t>(1, t.outputRate.value().round()));
        return t;
    });
}

void TimingStep::reverse() {
    shape(tr("reverse"), [](Timing t) {
        t.keys = reversed(t.asKeys(), t.from, t.to);
        return t;
    });
}

void TimingStep::turnBack() {
    shape(tr("there and back"), [](Timing t) {
        const std::int64_t ease =
            std::min<std::int64_t>(t.outputRate.value().round() / 2, t.outputFrames() / 4);
        t.keys = thereAndBack(t.asKeys(), t.to, ease);
        return t;
    });
}

void TimingStep::shape(const QString& what, const std::function<Timing(Timing)>& change) {
    apply(*speed_, what, 0, [&](const Timing& now) {
        Timing changed = change(now);
        validate(changed);
        return changed;
    });
}

void TimingStep::showMore() {
    auto* menu = new QMenu(this);
    menu->setObjectName(QStringLiteral("timingMenu"));
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto add = [&](QMenu* to, const QString& words, auto act) {
        connect(to->addAction(words), &QAction::triggered, this, act);
    };
    add(menu, tr("Slow to a stop here and go on"), [this] {
        shape(tr("slow to a stop"), [this](Timing t) {
            const std::int64_t ease = std::max<std::int64_t>(1, t.sourceFrames() / 12);
            t.keys = withFreeze(t.asKeys(), workspace_.sourceFrameAtPlayhead(),
                                std::max<std::int64_t>(1, t.outputRate.value().round()), ease);
            return t;
        });
    });
    add(menu, tr("There and back twice"), [this] {
        shape(tr("there and back twice"), [](Timing t) {
            const std::int64_t ease =
                std::min<std::int64_t>(t.outputRate.value().round() / 2, t.outputFrames() / 4);
            t.keys = thereAndBack(t.asKeys(), t.to, ease, 2);
            return t;
        });
    });
    for (const int half : {1, -1})
        add(menu,
            half > 0 ? tr("Half a frame later in the source") : tr("Half a frame earlier in the source"),
            [this, half] {
                shape(tr("shift by half a frame"), [half](Timing t) {
                    t.keys = shifted(t.asKeys(), Rational(half, 2));
                    return t;
                });
            });
    menu->addSection(tr("Reel"));
    for (const int by : {-1, 1}) {
        const auto& shots = workspace_.document.project().shots;
        const int other = workspace_.document.currentIndex() + by;
        if (other < 0 || other >= static_cast<int>(shots.size())) continue;
        const QString name = text(shots[static_cast<std::size_t>(other)].name);
        add(menu,
            by < 0 ? tr("Begin at the speed at which %1 ends").arg(name)
                   : tr("End at the speed at which %1 begins").arg(name),
            [this, other] { matchSpeed(other); });
    }
    menu->addSection(tr("Presets"));
    QSettings settings;
    settings.beginGroup(presets());
    const QStringList names = settings.childKeys();
    for (const QString& name : names)
        add(menu, tr("Apply “%1”").arg(QString(name).replace(QLatin1Char('&'), QLatin1String("&&"))),
            [this, name] { applyPreset(name); });
    add(menu, tr("Save this timing as a preset…"), [this] {
        presetName_->clear();
        presetName_->show();
        presetName_->setFocus();
    });
    if (!names.isEmpty()) {
        QMenu* forget = menu->addMenu(tr("Forget a preset"));
        for (const QString& name : names)
            add(forget, QString(name).replace(QLatin1Char('&'), QLatin1String("&&")),
                [name] { QSettings().remove(presets() + QLatin1Char('/') + name); });
    }
    menu->addSection(tr("Files"));
    add(menu, tr("Read a time map or edit decision list…"), [this] { readMap(); });
    add(menu, tr("Write the time map or an edit decision list…"), [this] { writeMap(); });
    auto* button = findChild<QPushButton*>(QStringLiteral("timingMoreButton"));
    menu->popup(button->mapToGlobal(QPoint(0, button->height())));
}

void TimingStep::matchSpeed(int other) {
    Document& document = workspace_.document;
    const Shot& shot = document.project().shots[static_cast<std::size_t>(other)];
    const auto axis = document.axisOf(shot);
    shape(tr("match the speed at the cut"), [&](Timing t) {
        if (!axis) throw Error(shot.name + " is not ready yet, or its file is missing.");
        const Timing beside = shot.timing(axis->facts().rate, axis->frames());
        const TimeMap map = beside.map();
        const bool before = other < document.currentIndex();
        const double speed = beside.speedOf(1).toDouble() *
                             map.speedAt(before ? static_cast<double>(beside.outputFrames()) - 1e-6 : 1e-6);
        const Rational step = t.stepAt(Rational(std::llround(speed * 10000), 10000));
        const Rational ease(std::max<std::int64_t>(1, t.outputRate.value().round() / 2));
        t.keys = before ? withBeginSpeed(t.asKeys(), step, ease) : withEndSpeed(t.asKeys(), step, ease);
        return t;
    });
}

void TimingStep::savePreset(const QString& name) {
    const auto now = workspace_.document.currentTiming();
    QString key = name.trimmed();
    key.replace(QLatin1Char('/'), QLatin1Char('-')).replace(QLatin1Char('\\'), QLatin1Char('-'));
    presetName_->hide();
    if (!now || key.isEmpty()) return;
    try {
        QSettings().setValue(presets() + QLatin1Char('/') + key,
                             text(presetText(presetOf(*workspace_.document.current(), *now))));
        showProblem(problem_, tr("Kept as “%1”; More applies it to other shots.").arg(key));
    } catch (const Error& error) {
        showProblem(problem_, text(error.what()));
    }
}

void TimingStep::applyPreset(const QString& name) {
    const auto now = workspace_.document.currentTiming();
    const auto facts = workspace_.document.currentFacts();
    if (!now || !facts) return;
    try {
        const QString kept = QSettings().value(presets() + QLatin1Char('/') + name).toString();
        const Preset preset = parsePreset(kept.toStdString());
        Shot shot = *workspace_.document.current();
        shot.setTiming(withPreset(preset, *now), facts->frames);
        shot.method = preset.method;
        shot.inBetweens = preset.inBetweens;
        shot.finish = finishFrom(preset, *workspace_.document.currentTiming(), shot.finish);
        workspace_.document.edit(tr("preset %1").arg(name), shot);
        showProblem(problem_, {});
    } catch (const Error& error) {
        showProblem(problem_, text(error.what()));
    }
}

void TimingStep::writeMap() {
    const auto now = workspace_.document.currentTiming();
    if (!now) return;
    const Shot shot = *workspace_.document.current();
    auto* dialog = new QFileDialog(window(), tr("Write the timing"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setAcceptMode(QFileDialog::AcceptSave);
    dialog->setNameFilters({tr("Time map (*.csv)"), tr("Edit decision list (*.edl)")});
    dialog->setDefaultSuffix(QStringLiteral("csv"));
    connect(dialog, &QFileDialog::filterSelected, dialog, [dialog](const QString& filter) {
        dialog->setDefaultSuffix(filter.contains(QLatin1String("edl")) ? QStringLiteral("edl")
                                                                       : QStringLiteral("csv"));
    });
    connect(dialog, &QFileDialog::fileSelected, this, [this, now, shot](const QString& file) {
        const bool list = file.endsWith(QLatin1String(".edl"), Qt::CaseInsensitive);
        const std::string content =
            list ? toEdl(shot.name, shot.media.filename().string(), *now) : toCsv(now->asKeys());
        files_.run([this, file, content, media = shot.media](const std::stop_token&) {
            QString told = tr("Written: %1").arg(QFileInfo(file).fileName());
            try {
                InputFiles inputs;
                inputs.add(media);
                inputs.refuse({file.toStdString()});
                writeWhole(file.toStdString(), content);
            } catch (const std::exception& error) {
                told = QString::fromStdString(sentenceOf(error));
            }
            postTo(this, [this, told] { showProblem(problem_, told); });
        });
    });
    dialog->open();
}

void TimingStep::readMap() {
    auto* dialog = new QFileDialog(window(), tr("Read a timing"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setFileMode(QFileDialog::ExistingFile);
    dialog->setNameFilters({tr("Timings (*.csv *.edl)"), tr("All files (*)")});
    connect(dialog, &QFileDialog::fileSelected, this, [this](const QString& file) {
        files_.run([this, file](const std::stop_token& stop) {
            constexpr std::int64_t most = 16 << 20;
            std::string content;
            QString refusal;
            try {
                content = contentOf(file.toStdString(), most, "timing", stop);
            } catch (const std::exception& error) {
                refusal = QString::fromStdString(sentenceOf(error));
            }
            postTo(this, [this, file, refusal, content] {
                if (!refusal.isEmpty()) {
                    showProblem(problem_, refusal);
                    return;
                }
                shape(tr("read %1").arg(QFileInfo(file).fileName()), [&](Timing t) {
                    if (!file.endsWith(QLatin1String(".edl"), Qt::CaseInsensitive)) {
                        t.keys = keysFromCsv(content);
                        return t;
                    }
                    const auto events = eventsFromEdl(content, t.sourceRate, t.outputRate);
                    if (events.empty()) throw Error("That list has no video event.");
                    Timing read = timingOf(events.front(), t.sourceRate, t.outputRate);
                    const auto facts = workspace_.document.currentFacts();
                    if (facts && read.to >= facts->frames)
                        throw Error("That list uses source frames up to " + std::to_string(read.to) +
                                    "; this shot ends at " + std::to_string(facts->frames - 1) + ".");
                    return read;
                });
            });
        });
    });
    dialog->open();
}

} // namespace yarngap::app
