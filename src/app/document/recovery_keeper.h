// A copy of unsaved work that survives a crash.
#pragma once

#include "app/document/background_tasks.h"
#include "app/document/document.h"

#include <QDateTime>
#include <QLockFile>
#include <QObject>
#include <QString>
#include <QTimer>

#include <atomic>
#include <memory>
#include <vector>

namespace yarngap::app {

/// Work that a program which is no longer running left unsaved.
struct LeftBehind {
    QString file;      ///< the copy
    QString origin;    ///< the project file it was opened from; empty when it had none
    QDateTime changed; ///< when it was written last
};

/// Writes the project into a file of its own within `delayMs` of every change, and removes it when the work
/// is saved or the window closes. Several programs may run at once; each holds a lock on its own copy.
class RecoveryKeeper : public QObject {
    Q_OBJECT
  public:
    static constexpr int delayMs = 700;

    /// The folder is made when first needed.
    RecoveryKeeper(Document& document, const QString& folder, QObject* parent = nullptr);

    /// Copies in the folder whose program has ended, newest first.
    [[nodiscard]] std::vector<LeftBehind> leftBehind() const;
    /// Opens the copy as unsaved work and removes it once this work has a copy of its own.
    void recover(const LeftBehind& copy);
    void discard(const LeftBehind& copy) const;
    /// The work is safe or given up: no copy is needed.
    void finish();

    [[nodiscard]] static QString defaultFolder();

  Q_SIGNALS:
    /// The copy could not be written. Told once, until one could be.
    void failed(const QString& sentence);

  private:
    void noteChange();
    void write();
    void noteWritten(const QString& failure);

    Document& document_;
    QString folder_;
    QString file_;
    QTimer timer_;
    std::unique_ptr<QLockFile> lock_;
    bool toldOfFailure_ = false;
    QStringList recovered_; // copies that this work began as; kept until it has a copy of its own
    std::shared_ptr<std::atomic<bool>> wanted_ = std::make_shared<std::atomic<bool>>(false);
    BackgroundTasks tasks_;
};

} // namespace yarngap::app
