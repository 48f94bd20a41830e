#include "app/document/demo_shots.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>

namespace yarngap::app {

DemoShots::DemoShots(QObject* parent)
    : QObject(parent)
    , folder_(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/demo")) {
    constexpr int interval = 200; // ms
    looking_.setInterval(interval);
    connect(&looking_, &QTimer::timeout, this, &DemoShots::look);
    connect(&drawing_, &QProcess::finished, this, [this](int status, QProcess::ExitStatus how) {
        end(how == QProcess::NormalExit && status == 0);
    });
    connect(&drawing_, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart) end(false);
    });
}

DemoShots::~DemoShots() {
    drawing_.disconnect(this);
    drawing_.kill(); // what was drawn stays; half a shot does not
    drawing_.waitForFinished();
}

void DemoShots::draw() {
    if (isDrawing()) return;
    isReady_ = false;
    project_ = folder_ + QStringLiteral("/saltmarsh.yarngap");
    QDir().mkpath(folder_);
    looking_.start();
    drawing_.start(QCoreApplication::applicationDirPath() + QStringLiteral("/yarngap-demo"), {folder_});
    look();
}

void DemoShots::look() {
    if (isReady_ || !QFileInfo::exists(project_)) return;
    isReady_ = true;
    looking_.stop();
    Q_EMIT ready(project_);
}

void DemoShots::end(bool well) {
    look();
    looking_.stop();
    if (well) return;
    const QString said =
        QString::fromUtf8(drawing_.readAllStandardError()).trimmed().section(QLatin1Char('\n'), -1);
    Q_EMIT failed(
        drawing_.error() == QProcess::FailedToStart
            ? tr("yarngap-demo, which draws the demo shots, is not installed. Install Yarn Gap again.")
            : tr("The demo shots could not be drawn: %1").arg(said));
}

} // namespace yarngap::app
