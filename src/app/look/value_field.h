// A number that can be typed, dragged and stepped.
#pragma once

#include <QLineEdit>

namespace yarngap::app {

/// Field for one value with its unit.
///
/// Typing and Enter (or leaving the field) gives `typed`; Up and Down, the wheel on a focused field, or
/// dragging sideways over an unfocused one give `stepped`. Escape puts the last value back. The owner
/// answers by calling `setShown` with the value as it became, or `refuse` with a sentence.
class ValueField : public QLineEdit {
    Q_OBJECT
  public:
    explicit ValueField(const QString& accessibleName, QWidget* parent = nullptr);

    void setShown(const QString& text);
    /// Marks what was typed as impossible and says why.
    void refuse(const QString& sentence);

  Q_SIGNALS:
    void typed(const QString& text);
    /// `steps` single steps up or down; `dragging` while the mouse is down.
    void stepped(int steps, bool dragging);
    void refused(const QString& sentence); ///< empty when fine again

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    void commit();
    void setWrong(bool wrong);

    QString shown_;
    bool dragPossible_ = false;
    bool dragging_ = false;
    int dragX_ = 0;
};

} // namespace yarngap::app
