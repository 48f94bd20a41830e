// The row of decisions below the source sheet.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/cleaning/cleanup.h"
#endif

#include <QWidget>

#include <vector>

namespace yarngap::app {

class PhaseField;

/// A button for each decision, with its key, and what other keys do.
class SourceSheetBar : public QWidget {
    Q_OBJECT
  public:
    explicit SourceSheetBar(QWidget* parent = nullptr);
    /// The decision about the present frame whose phases can be set; null for none.
    void setTimed(const CleanupDecision* decision);

  Q_SIGNALS:
    void decisionAsked(yarngap::CleanupKind kind);
    void undecideAsked();
    void foundAsked(int direction);
    void leaveAsked();
    void phasesSet(const std::vector<yarngap::Rational>& phases);
    void phasesLeft();

  private:
    PhaseField* phases_;
};

} // namespace yarngap::app
