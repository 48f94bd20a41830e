// Output settings kept in files, and from one session to the next.
#pragma once

#include "app/document/background_tasks.h"
#include "app/steps/output_settings.h"

#include <QPushButton>
#include <QString>

namespace yarngap::app {

/// A button with a menu that saves the settings and takes them from a file.
class OutputPresets : public QPushButton {
    Q_OBJECT
  public:
    explicit OutputPresets(OutputSettings& settings, QWidget* parent = nullptr);

    /// Shows those of the last session.
    void recall();
    /// Remembers those that stand there, but for what belongs to one shot.
    void remember() const;

  Q_SIGNALS:
    void told(const QString& sentence, bool isTrouble);

  private:
    void save();
    void take();

    OutputSettings& settings_;
    BackgroundTasks tasks_; ///< last: ends before what it tells
};

} // namespace yarngap::app
