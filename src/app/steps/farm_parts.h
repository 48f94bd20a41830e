// How far each part of a render on the farm is, and what its log says.
#pragma once

#include "app/document/render_controller.h"

#include <QDialog>
#include <QListWidget>
#include <QPlainTextEdit>

#include <cstdint>
#include <filesystem>
#include <optional>

namespace yarngap::app {

/// A window beside the others: parts on the left, the log of the chosen one on the right.
class FarmParts : public QDialog {
    Q_OBJECT
  public:
    FarmParts(RenderController& render, const QueuedRender& job, QWidget* parent);

  private:
    void showStates();
    void readLog();
    void showLog(const QString& target, int part, const QString& text);
    /// The chosen part; -1 for the join.
    [[nodiscard]] int slice() const;

    RenderController& render_;
    std::int64_t number_;
    std::filesystem::path target_;
    QListWidget* parts_;
    QPlainTextEdit* log_;
};

} // namespace yarngap::app
