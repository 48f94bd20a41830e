// Playing the result at its own rate.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>

#include <functional>
#include <optional>
#include <utility>

namespace yarngap::app {

/// The playhead, and the clock that moves it.
///
/// While playing, the clock runs at the output rate whatever happens; the playhead goes to the latest frame
/// that is ready. Frames that were not ready when their time came are counted, not hidden.
class Player : public QObject {
    Q_OBJECT
  public:
    using IsReady = std::function<bool(qint64)>;

    explicit Player(QObject* parent = nullptr);

    /// `isReady` tells whether a frame can be shown at once.
    void setIsReady(IsReady isReady) { isReady_ = std::move(isReady); }
    /// Number of output frames and their rate; the playhead stays inside.
    void setRange(qint64 frames, double rate);

    /// Frames that playing goes round in, both included; none: the whole range. Held inside the range.
    void setLoop(std::optional<std::pair<qint64, qint64>> loop);
    [[nodiscard]] std::optional<std::pair<qint64, qint64>> loop() const { return loop_; }
    /// Playing turns at the ends of the loop instead of beginning anew.
    void setThereAndBack(bool on);
    [[nodiscard]] bool isThereAndBack() const { return thereAndBack_; }
    /// First and last frame that playing goes through.
    [[nodiscard]] std::pair<qint64, qint64> played() const;

    [[nodiscard]] qint64 playhead() const { return playhead_; }
    [[nodiscard]] qint64 frames() const { return frames_; }
    [[nodiscard]] double rate() const { return rate_; }
    /// 0 paused, else frames per frame time: 1 forward, −1 backward, 2 double …
    [[nodiscard]] int speed() const { return speed_; }
    /// Frame the clock is at; ahead of the playhead when frames come late.
    [[nodiscard]] qint64 clockFrame() const;
    /// Seconds since playing started; 0 when paused.
    [[nodiscard]] double secondsPlayed() const {
        return speed_ == 0 ? 0 : static_cast<double>(clock_.nsecsElapsed()) / 1e9;
    }
    /// Where on the output axis the clock is `seconds` after playing started, between frames too.
    [[nodiscard]] double placeAfter(double seconds) const;
    /// Another number each time that playing starts.
    [[nodiscard]] qint64 playNumber() const { return playNumber_; }
    /// Frames not shown in time since playing started.
    [[nodiscard]] qint64 notShown() const { return notShown_; }
    /// Frames shown in the last second of playing.
    [[nodiscard]] double shownRate() const { return shownRate_; }

    void goTo(qint64 frame);
    void play(int speed);
    void pause();
    void togglePlay();
    /// J and L: plays that way, faster when it does already.
    void shuttle(int direction);

  Q_SIGNALS:
    void moved(qint64 frame);
    void stateChanged(); ///< playing or paused, or the counts
    void loopChanged();
    void cameRound(); ///< playing forwards passed the last frame, and begins anew

  private:
    void tick();
    /// The frame `step` frames of clock after play() began.
    [[nodiscard]] qint64 frameAt(qint64 step) const;
    void setPlayhead(qint64 frame);

    IsReady isReady_;
    QTimer timer_;
    QElapsedTimer clock_;
    qint64 frames_ = 0;
    double rate_ = 24;
    qint64 playhead_ = 0;
    std::optional<std::pair<qint64, qint64>> loop_;
    bool thereAndBack_ = false;
    int speed_ = 0;
    qint64 playNumber_ = 0;
    qint64 startFrame_ = 0;
    qint64 ticked_ = 0; // clock steps dealt with since play()
    qint64 shown_ = 0;
    qint64 notShown_ = 0;
    qint64 windowStart_ = 0;
    qint64 windowShown_ = 0;
    double shownRate_ = 0;
};

} // namespace yarngap::app
