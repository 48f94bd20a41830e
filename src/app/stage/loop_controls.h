// Going round in a part of the result, and making it ready before it plays.
#pragma once

#include "app/playing/player.h"
#include "app/playing/preview.h"

#include <QToolButton>
#include <QWidget>

#include <functional>
#include <utility>

namespace yarngap::app {

/// Three buttons of the transport: loop, there and back, make ready then play.
class LoopControls : public QWidget {
    Q_OBJECT
  public:
    using Range = std::pair<qint64, qint64>;

    LoopControls(Player& player, Preview& preview, QWidget* parent = nullptr);

    /// `choose` gives the frames to go round in when the loop is turned on.
    void setRangeChooser(std::function<Range()> choose) { choose_ = std::move(choose); }

    void toggleLoop();
    void toggleThereAndBack();
    /// Makes the loop, or else the whole result, ready and plays it from its beginning. Where memory is too
    /// small for that, the loop is shortened to what fits from the playhead on. Asked again while it waits:
    /// no more.
    void readyThenPlay();
    /// No loop, and nothing waited for: what is played next is something else.
    void leave();
    [[nodiscard]] bool isWaiting() const { return waiting_; }
    /// "making ready, 12 of 48"; empty when nothing is waited for.
    [[nodiscard]] QString waitingText() const;

  Q_SIGNALS:
    void changed();

  private:
    void look(); ///< whether what is waited for has come
    [[nodiscard]] std::pair<qint64, qint64> countReady() const;
    void refresh();

    Player& player_;
    Preview& preview_;
    std::function<Range()> choose_;
    QToolButton* loop_;
    QToolButton* back_;
    QToolButton* ready_;
    bool waiting_ = false;
};

} // namespace yarngap::app
