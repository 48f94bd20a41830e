// A line or two of text below something whose size must not depend on them.
#pragma once

#include <QLabel>

namespace yarngap::app {

/// A label that wraps its text and has room for two lines from the start. Where a text needs more it grows,
/// and stays so: what stands beside it would change its size with every text otherwise. It begins anew where
/// its width changes and with settle().
class SteadyLabel : public QLabel {
    Q_OBJECT
  public:
    explicit SteadyLabel(QWidget* parent = nullptr);
    void tell(const QString& text);
    /// Takes no more room than the present text needs.
    void settle();

  protected:
    void resizeEvent(QResizeEvent* resized) override;
};

} // namespace yarngap::app
