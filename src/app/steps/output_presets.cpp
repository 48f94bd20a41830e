#include "app/steps/output_presets.h"

#include "core/error.h"
#include "core/files/new_file.h"
#include "core/project/work_file.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QSettings>

namespace yarngap::app {

namespace {

const QString settingsKey = QStringLiteral("render/settings");

QString presetFiles() {
    return OutputPresets::tr("Output settings (*.json)");
}

} // namespace

OutputPresets::OutputPresets(OutputSettings& settings, QWidget* parent)
    : QPushButton(tr("Presets"), parent)
    , settings_(settings) {
    setObjectName(QStringLiteral("outputPresetsButton"));
    auto* menu = new QMenu(this);
    menu->addAction(tr("Save these settings…"), this, &OutputPresets::save);
    menu->addAction(tr("Take settings from a file…"), this, &OutputPresets::take);
    setMenu(menu);
}

void OutputPresets::recall() {
    const QString kept = QSettings().value(settingsKey).toString();
    if (kept.isEmpty()) return;
    try {
        settings_.setSettings(parseRenderSettings(kept.toStdString(), "settings"));
    } catch (const Error&) {
        // Of another version; the usual ones are as good.
    }
}

void OutputPresets::remember() const {
    RenderSettings settings = settings_.settings();
    settings.start.clear();
    settings.reel.clear();
    if (settings.timecode == TimecodeUse::fromStart) settings.timecode = TimecodeUse::ofSource;
    QSettings().setValue(settingsKey, QString::fromStdString(renderSettingsText(settings)));
}

void OutputPresets::save() {
    const QString file = QFileDialog::getSaveFileName(this, tr("Save output settings"), {}, presetFiles());
    if (file.isEmpty()) return;
    tasks_.run([this, file, content = renderSettingsText(settings_.settings())](const std::stop_token&) {
        QString trouble;
        try {
            writeWhole(file.toStdString(), content);
        } catch (const Error& error) {
            trouble = QString::fromStdString(error.what());
        }
        postTo(this, [this, trouble, file] {
            const QString saved = tr("Saved as %1.").arg(QFileInfo(file).fileName());
            Q_EMIT told(trouble.isEmpty() ? saved : trouble, !trouble.isEmpty());
        });
    });
}

void OutputPresets::take() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Take output settings"), {}, presetFiles());
    if (file.isEmpty()) return;
    tasks_.run([this, file](const std::stop_token&) {
        try {
            const RenderSettings settings = loadRenderSettings(file.toStdString());
            postTo(this, [this, settings] {
                settings_.setSettings(settings);
                Q_EMIT settings_.changed();
            });
        } catch (const Error& error) {
            postTo(this,
                   [this, sentence = QString::fromStdString(error.what())] { Q_EMIT told(sentence, true); });
        }
    });
}

} // namespace yarngap::app
