// The row of decisions below the source sheet.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/cleaning/cleanup.h"
#endif

#include <QAbstractButton>
#include <QLabel>
#include <QWidget>

#include <vector>

namespace yarngap::app {

class KeyTable;
class PhaseField;

/// A button for each decision, with its key, and what other keys do.
class SourceSheetBar : public QWidget {
    Q_OBJECT
  public:
    explicit SourceSheetBar(QWidget* parent = nullptr);
    /// Tells the keys in force.
    void nameKeys(const KeyTable& keys);
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
    /// A button that names the key of its command behind `text`.
    struct Named {
        QAbstractButton* button;
        QString text;
        QString command;
    };
    std::vector<Named> named_;
    PhaseField* phases_;
    QLabel* held_; ///< tells the keys that act while they are held
};

} // namespace yarngap::app
