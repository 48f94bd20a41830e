// How an editor has arranged the window: kept, and there again at the next start.
#pragma once

#include <QObject>
#include <QSplitter>
#include <QWidget>

#include <vector>

namespace yarngap::app {

/// Keeps where seams were dragged to and what is folded, when that happens, and the window's place when it is
/// closed. What was never changed follows the program's own arrangement.
class WindowLayout : public QObject {
    Q_OBJECT
  public:
    explicit WindowLayout(QWidget& window, QObject* parent = nullptr);

    /// A seam, kept under its object name; puts it where it was left. True when it had been dragged.
    bool follow(QSplitter& seam);
    /// Whether a panel was shown when it was last folded or unfolded; `usually` when it never was.
    [[nodiscard]] static bool wasShown(const char* panel, bool usually);
    static void keepShown(const char* panel, bool shown);

    /// The window where it was when it was last closed, if screens still reach there.
    void restorePlace();
    void keepPlace() const;

  private:
    QWidget& window_;
};

} // namespace yarngap::app
