// Where frames that are rebuilt or put in lie between the frames around them.
#pragma once

#include "app/look/value_field.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/cleaning/cleanup.h"
#endif

#include <QLabel>
#include <QWidget>

#include <optional>
#include <vector>

namespace yarngap::app {

/// Percents of the way from the kept frame before to the one after: "33.3, 66.7". Empty for where they lie by
/// themselves. Up and Down move all of them by a percent.
class PhaseField : public QWidget {
    Q_OBJECT
  public:
    explicit PhaseField(QWidget* parent = nullptr);

    /// The decision whose phases are set; null hides the field.
    void setDecision(const CleanupDecision* decision);

  Q_SIGNALS:
    void phasesSet(const std::vector<yarngap::Rational>& phases);
    void left(); ///< the keys go back to the sheet

  private:
    void take(const QString& text);
    void step(int percents);

    QLabel* caption_;
    ValueField* edit_;
    QLabel* hint_;
    std::size_t count_ = 1;
    std::vector<Rational> phases_; ///< what the decision says
};

/// Reads "25, 50" as ¼ and ½; empty for none. Nullopt unless there are `count` of them, from 0 to 100,
/// rising.
[[nodiscard]] std::optional<std::vector<Rational>> phasesFrom(const QString& text, std::size_t count);
[[nodiscard]] QString textOfPhases(const std::vector<Rational>& phases);

} // namespace yarngap::app
