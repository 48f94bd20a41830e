// The renders that run, wait or are over, in the step Render.
#pragma once

#include "app/document/render_controller.h"

#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>

#include <cstdint>
#include <map>

namespace yarngap::app {

/// A line for each render, with what can be done about it.
class RenderQueueList : public QWidget {
    Q_OBJECT
  public:
    explicit RenderQueueList(RenderController& render, QWidget* parent = nullptr);

  private:
    struct Line {
        QWidget* whole = nullptr;
        QLabel* state = nullptr;
        QProgressBar* bar = nullptr;
    };

    void rebuild();
    /// Scrolls the step so that the line added last is seen: it comes below all else.
    void bringNewestIntoView() const;
    void showProgress();
    void showFarm(std::int64_t number);
    void showParts(std::int64_t number);
    QWidget* lineOf(const QueuedRender& job);
    QPushButton* button(const QString& text, const QString& tip, const char* name);

    RenderController& render_;
    QLabel* title_;
    QPushButton* clear_;
    QVBoxLayout* rows_;
    std::map<std::int64_t, Line> lines_;
    std::int64_t newest_ = -1; ///< highest number so far
};

} // namespace yarngap::app
