#include "app/document/recovery_keeper.h"

#include "core/files/new_file.h"
#include "core/files/write_failure.h"

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QStandardPaths>
#include <QUuid>

namespace yarngap::app {

namespace {

QString originFile(const QString& copy) {
    return copy + QStringLiteral(".origin");
}

QString lockFile(const QString& copy) {
    return copy + QStringLiteral(".lock");
}

void removeCopy(const QString& copy) {
    QFile::remove(copy);
    QFile::remove(originFile(copy));
}

} // namespace

QString RecoveryKeeper::defaultFolder() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/recovery");
}

RecoveryKeeper::RecoveryKeeper(Document& document, const QString& folder, QObject* parent)
    : QObject(parent)
    , document_(document)
    , folder_(folder)
    , file_(folder + QLatin1Char('/') + QUuid::createUuid().toString(QUuid::WithoutBraces) +
            QStringLiteral(".yarngap")) {
    timer_.setSingleShot(true);
    timer_.setInterval(delayMs);
    connect(&timer_, &QTimer::timeout, this, &RecoveryKeeper::write);
    connect(&document_.undoStack(), &QUndoStack::indexChanged, this, &RecoveryKeeper::noteChange);
    connect(&document_, &Document::fileChanged, this, &RecoveryKeeper::noteChange);
}

void RecoveryKeeper::noteChange() {
    if (!document_.hasUnsavedChanges()) {
        finish();
        return;
    }
    // Not started anew by further changes, so that a long drag is kept too.
    if (!timer_.isActive()) timer_.start();
}

void RecoveryKeeper::write() {
    if (!document_.hasUnsavedChanges()) return;
    if (!lock_) {
        QDir().mkpath(folder_);
        lock_ = std::make_unique<QLockFile>(lockFile(file_));
        lock_->setStaleLockTime(0); // it is stale when its program has ended, however old it is
        lock_->tryLock(0);
    }
    *wanted_ = true;
    tasks_.run([this, project = document_.project(), origin = document_.file(), file = file_,
                wanted = wanted_, replaced = recovered_](const std::stop_token&) {
        QString failure;
        try {
            if (!*wanted) return;
            writeWhole(originFile(file).toStdString(), origin.toStdString());
            saveProject(project, file.toStdString());
            for (const QString& copy : replaced)
                removeCopy(copy);
            if (!*wanted) removeCopy(file); // given up meanwhile
        } catch (const std::exception& error) {
            failure = QString::fromStdString(sentenceOf(error));
        }
        postTo(this, [this, failure] { noteWritten(failure); });
    });
    recovered_.clear();
}

void RecoveryKeeper::noteWritten(const QString& failure) {
    const bool news = !failure.isEmpty() && !toldOfFailure_;
    toldOfFailure_ = !failure.isEmpty();
    if (news)
        Q_EMIT failed(
            tr("If Yarn Gap ended now, unsaved work would be lost, because no copy of it can be kept. %1")
                .arg(failure));
}

void RecoveryKeeper::finish() {
    timer_.stop();
    *wanted_ = false;
    removeCopy(file_);
    for (const QString& copy : recovered_)
        removeCopy(copy);
    recovered_.clear();
}

std::vector<LeftBehind> RecoveryKeeper::leftBehind() const {
    std::vector<LeftBehind> found;
    const QDir dir(folder_);
    for (const QFileInfo& info : dir.entryInfoList({QStringLiteral("*.yarngap")}, QDir::Files, QDir::Time)) {
        if (info.absoluteFilePath() == QFileInfo(file_).absoluteFilePath()) continue;
        QLockFile lock(lockFile(info.absoluteFilePath()));
        lock.setStaleLockTime(0);
        if (!lock.tryLock(0)) continue; // its program is running
        QFile from(originFile(info.absoluteFilePath()));
        const QString origin = from.open(QIODevice::ReadOnly) ? QString::fromUtf8(from.readAll()) : QString();
        found.push_back({info.absoluteFilePath(), origin, info.lastModified()});
    }
    return found;
}

void RecoveryKeeper::recover(const LeftBehind& copy) {
    connect(
        &document_, &Document::recovered, this,
        [this](const QString& file) {
            recovered_.append(file);
            timer_.start();
        },
        Qt::SingleShotConnection);
    document_.recoverProject(copy.file, copy.origin);
}

void RecoveryKeeper::discard(const LeftBehind& copy) const {
    removeCopy(copy.file);
}

} // namespace yarngap::app
