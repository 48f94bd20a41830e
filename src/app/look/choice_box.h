// A combo box that shows that it opens.
#pragma once

#include <QComboBox>

namespace yarngap::app {

/// QComboBox with a small arrow of our own, which style sheets without picture files cannot draw. The wheel
/// does nothing unless it has the focus, so that scrolling past it changes no setting. A choice made with the
/// mouse gives the focus back, so that the keys of the transport work at once. A text that has no room ends
/// in ….
class ChoiceBox : public QComboBox {
    Q_OBJECT
  public:
    explicit ChoiceBox(QWidget* parent = nullptr);

    /// Where the text stands.
    [[nodiscard]] QRect textPlace() const;

  protected:
    void paintEvent(QPaintEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    bool byMouse_ = false;
};

} // namespace yarngap::app
