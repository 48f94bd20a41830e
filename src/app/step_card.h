// One step of the job: a line with its outcome, or open with its settings.
#pragma once

#include <QAbstractButton>
#include <QFrame>
#include <QLabel>

namespace yarngap::app {

/// The line of a step: its name and what it came to.
class StepHeader : public QAbstractButton {
    Q_OBJECT
  public:
    StepHeader(const QString& title, QWidget* parent);
    void setOutcome(const QString& outcome);
    [[nodiscard]] const QString& outcome() const { return outcome_; }
    [[nodiscard]] QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QString outcome_;
};

/// A step card. Clicking the header opens or closes it.
class StepCard : public QFrame {
    Q_OBJECT
  public:
    /// `body` becomes the card's own.
    StepCard(const QString& title, QWidget* body, QWidget* parent = nullptr);

    void setOutcome(const QString& outcome) { header_->setOutcome(outcome); }
    [[nodiscard]] QString outcome() const { return header_->outcome(); }
    void setOpen(bool open);
    [[nodiscard]] bool isOpen() const { return header_->isChecked(); }
    [[nodiscard]] StepHeader* header() const { return header_; }

  Q_SIGNALS:
    void opened();

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    StepHeader* header_;
    QWidget* body_;
};

/// Faint small text, wrapping.
QLabel* faintLabel(const QString& text = {}, QWidget* parent = nullptr);

} // namespace yarngap::app
