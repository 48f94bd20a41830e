// One step of the job: a line with its outcome, or open with its settings.
#pragma once

#include <QAbstractButton>
#include <QFrame>
#include <QLabel>
#include <QScrollArea>

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

/// The body of an open step: as high as the body where there is room, else it scrolls.
class StepScroll : public QScrollArea {
    Q_OBJECT
  public:
    explicit StepScroll(QWidget* body);
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;

  Q_SIGNALS:
    void bodyChanged();

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    void showBarIfNeeded();
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
    void bodyChanged(); ///< the body may need more room than it has

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    StepHeader* header_;
    StepScroll* body_;
};

/// Faint small text, wrapping.
QLabel* faintLabel(const QString& text = {}, QWidget* parent = nullptr);

} // namespace yarngap::app
