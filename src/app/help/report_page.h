// What developers need to know when something goes wrong, to be read and saved. Nothing is sent anywhere.
#pragma once

#include "app/document/background_tasks.h"

#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QWidget>

namespace yarngap::app {

/// Versions and machine, without anything about what is open.
[[nodiscard]] QString machineReport();

class ReportPage : public QWidget {
    Q_OBJECT
  public:
    explicit ReportPage(QWidget* parent = nullptr);

    /// `more`: settings, what was told, and the project, added behind versions and machine.
    void setReport(const QString& more);
    /// Writes the text to a file in the background, and says so or why not.
    void saveTo(const QString& file);

  private:
    QPlainTextEdit* text_;
    QPushButton* save_;
    QLabel* says_;
    BackgroundTasks tasks_; ///< last: ended before what it answers to goes
};

} // namespace yarngap::app
