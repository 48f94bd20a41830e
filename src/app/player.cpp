#include "app/player.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace yarngap::app {

Player::Player(QObject* parent)
    : QObject(parent) {
    timer_.setTimerType(Qt::PreciseTimer);
    connect(&timer_, &QTimer::timeout, this, &Player::tick);
}

void Player::setRange(qint64 frames, double rate) {
    const bool wasPlaying = speed_ != 0 && frames > 0;
    const int speed = speed_;
    frames_ = frames;
    rate_ = rate;
    setPlayhead(std::clamp<qint64>(playhead_, 0, std::max<qint64>(0, frames - 1)));
    if (wasPlaying)
        play(speed); // the clock starts again from here
    else
        pause();
}

qint64 Player::clockFrame() const {
    if (speed_ == 0 || frames_ == 0) return playhead_;
    const qint64 frame = startFrame_ + ticked_ * (speed_ < 0 ? -1 : 1);
    return ((frame % frames_) + frames_) % frames_;
}

void Player::setPlayhead(qint64 frame) {
    if (frame == playhead_) return;
    playhead_ = frame;
    Q_EMIT moved(frame);
}

void Player::goTo(qint64 frame) {
    if (frames_ == 0) return;
    pause();
    setPlayhead(std::clamp<qint64>(frame, 0, frames_ - 1));
}

void Player::play(int speed) {
    if (frames_ == 0 || speed == 0) return;
    speed_ = speed;
    startFrame_ = playhead_;
    ticked_ = shown_ = notShown_ = windowStart_ = windowShown_ = 0;
    shownRate_ = rate_;
    clock_.start();
    timer_.start(std::max(2, static_cast<int>(500.0 / (rate_ * std::abs(speed)))));
    Q_EMIT stateChanged();
}

void Player::pause() {
    if (speed_ == 0) return;
    speed_ = 0;
    timer_.stop();
    Q_EMIT stateChanged();
}

void Player::togglePlay() {
    if (speed_ != 0)
        pause();
    else
        play(1);
}

void Player::shuttle(int direction) {
    constexpr int fastest = 8;
    const bool sameWay = speed_ * direction > 0;
    play(sameWay ? std::clamp(speed_ * 2, -fastest, fastest) : direction);
}

void Player::tick() {
    const auto due = static_cast<qint64>(
        std::floor(static_cast<double>(clock_.elapsed()) / 1000.0 * rate_ * std::abs(speed_)));
    if (due <= ticked_) return;
    const int direction = speed_ < 0 ? -1 : 1;
    const auto frameAt = [&](qint64 step) {
        const qint64 f = startFrame_ + step * direction;
        return ((f % frames_) + frames_) % frames_;
    };
    // The latest due frame that is ready; whatever was due before it was not shown in time.
    const qint64 oldest = std::max(ticked_, due - frames_);
    qint64 shownStep = -1;
    for (qint64 step = due; step > oldest; --step)
        if (!isReady_ || isReady_(frameAt(step))) {
            shownStep = step;
            break;
        }
    const qint64 passed = due - ticked_;
    const bool round = direction > 0 && (startFrame_ + due) / frames_ > (startFrame_ + ticked_) / frames_;
    ticked_ = due;
    if (shownStep >= 0) {
        ++shown_;
        ++windowShown_;
    }
    notShown_ += passed - (shownStep >= 0 ? 1 : 0);
    const qint64 now = clock_.elapsed();
    if (now - windowStart_ >= 1000) {
        shownRate_ = static_cast<double>(windowShown_) * 1000.0 / static_cast<double>(now - windowStart_);
        windowStart_ = now;
        windowShown_ = 0;
    }
    if (shownStep >= 0) setPlayhead(frameAt(shownStep));
    Q_EMIT stateChanged();
    if (round) Q_EMIT cameRound();
}

} // namespace yarngap::app
