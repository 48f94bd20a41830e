// Text that changes with every frame, beside things that must not move with it.
#pragma once

#include <QLabel>
#include <QString>
#include <QWidget>

namespace yarngap::app {

/// A label that keeps its size. With a usual one the window is laid out anew for every text, which takes much
/// of a frame's time, and what stands beside it changes its own size.
class SteadyLabel : public QWidget {
    Q_OBJECT
  public:
    enum class Room {
        given,   ///< a line, as wide as there is room
        widest,  ///< a line, as wide as the widest text was, until settle() or an empty text
        twoLines ///< wraps; where a text needs more it grows and stays so, until its width changes or
                 ///< settle()
    };
    /// `name` and `style` are those of the label inside.
    SteadyLabel(Room room, const QString& name, const QString& style, QWidget* parent = nullptr);
    [[nodiscard]] QLabel& label() { return *label_; }
    [[nodiscard]] QString text() const { return label_->text(); }
    void tell(const QString& text);
    /// Takes no more room than it has from the start and the present text needs.
    void settle();

  protected:
    void resizeEvent(QResizeEvent* resized) override;

  private:
    Room room_;
    QLabel* label_; ///< in no layout: it tells nobody that its text needs another size
};

} // namespace yarngap::app
