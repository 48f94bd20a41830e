// What the editor sets for the program as a whole, put to work.

#include "app/window/main_window.h"

#include "app/look/theme.h"
#include "app/window/preferences_panel.h"
#include "core/memory_shares.h"

#include <QApplication>
#include <QAudioDevice>
#include <QMediaDevices>

namespace yarngap::app {

void MainWindow::showPreferences() {
    auto* panel = new PreferencesPanel(preferences_, shown_.finished(), shown_.vectors()->folder(), this);
    connect(panel, &PreferencesPanel::changed, this, [this](const Preferences& changed) {
        const bool memory = changed.memoryBytes != preferences_.memoryBytes;
        savePreferences(changed);
        applyPreferences(changed);
        if (!memory) return;
        shown_.reopen(); // what decoded frames take is set when a source is opened
        rebuild();
    });
    panel->adjustSize();
    const QPushButton& button = topBar_->settingsButton();
    panel->move(button.mapToGlobal(QPoint(button.width() - panel->width(), button.height())));
    panel->show();
}

void MainWindow::applyPreferences(const Preferences& preferences) {
    preferences_ = preferences;
    const MemoryShares shares = sharesOf(preferences.memoryBytes);
    shown_.setPreferences(preferences);
    preview_.setMemory(shares.pictures, shares.insights);
    gapView_->setOtherMemory(shares.otherVersions);
    sound_.setWanted(preferences.sound);
    refreshSound();
    applyLook();
}

void MainWindow::applyLook() {
    const bool dark =
        preferences_.look == Look::dark || (preferences_.look == Look::desktop && desktopLook_.isDark());
    if (dark == isDark()) return;
    applyTheme(*qApp, dark);
    topBar_->renewIcons();
}

void MainWindow::connectSound() {
    connect(&desktopLook_, &DesktopLook::changed, this, &MainWindow::applyLook);
    connect(&sound_, &SoundPlayback::stateChanged, this, &MainWindow::refreshSound);
    connect(&gapView_->soundButton(), &QToolButton::toggled, this, [this](bool on) {
        if (on == preferences_.sound) return;
        Preferences changed = preferences_;
        changed.sound = on;
        savePreferences(changed);
        applyPreferences(changed);
    });
}

void MainWindow::refreshSound() {
    QToolButton& button = gapView_->soundButton();
    button.setVisible(sound_.hasSound());
    button.setChecked(preferences_.sound);
    const QString tip = !preferences_.sound                               ? tr("Hear the shot's sound")
                        : sound_.state() == SoundPlayback::State::making  ? tr("Sound is being made…")
                        : sound_.state() == SoundPlayback::State::trouble ? sound_.trouble()
                        : QMediaDevices::defaultAudioOutput().isNull()
                            ? tr("Sound is on, but this machine has no sound device")
                            : tr("Sound is on: at 100 % the shot's own, else stretched at its own pitch");
    button.setToolTip(tip);
    button.setAccessibleDescription(tip);
}

} // namespace yarngap::app
