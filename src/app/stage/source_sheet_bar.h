// The row of decisions below the source sheet.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/cleaning/cleanup.h"
#endif

#include <QWidget>

namespace yarngap::app {

/// A button for each decision, with its key, and what other keys do.
class SourceSheetBar : public QWidget {
    Q_OBJECT
  public:
    explicit SourceSheetBar(QWidget* parent = nullptr);

  Q_SIGNALS:
    void decisionAsked(yarngap::CleanupKind kind);
    void undecideAsked();
    void foundAsked(int direction);
    void leaveAsked();
};

} // namespace yarngap::app
