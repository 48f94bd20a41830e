#include "app/playing/player.h"

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
    if (loop_ && loop_->second >= frames) setLoop(std::nullopt); // what it went round in is gone
    setPlayhead(std::clamp<qint64>(playhead_, 0, std::max<qint64>(0, frames - 1)));
    if (wasPlaying)
        play(speed); // the clock starts again from here
    else
        pause();
}

qint64 Player::clockFrame() const {
    return speed_ == 0 || frames_ == 0 ? playhead_ : frameAt(ticked_);
}

std::pair<qint64, qint64> Player::played() const {
    return loop_.value_or(std::pair<qint64, qint64>(0, std::max<qint64>(0, frames_ - 1)));
}

void Player::setLoop(std::optional<std::pair<qint64, qint64>> loop) {
    if (loop) {
        loop->first = std::clamp<qint64>(loop->first, 0, std::max<qint64>(0, frames_ - 1));
        loop->second = std::clamp<qint64>(loop->second, loop->first, std::max<qint64>(0, frames_ - 1));
    }
    if (loop == loop_) return;
    loop_ = loop;
    if (speed_ != 0) play(speed_); // the clock starts again from here
    Q_EMIT loopChanged();
}

void Player::setThereAndBack(bool on) {
    if (on == thereAndBack_) return;
    thereAndBack_ = on;
    if (speed_ != 0) play(speed_);
    Q_EMIT loopChanged();
}

qint64 Player::frameAt(qint64 step) const {
    const auto [first, last] = played();
    const qint64 count = last - first + 1;
    // Both ends are shown once on each turn.
    const qint64 period = thereAndBack_ && count > 1 ? 2 * (count - 1) : count;
    const qint64 direction = speed_ < 0 ? -1 : 1;
    const qint64 at = (((startFrame_ - first + step * direction) % period) + period) % period;
    return first + (at < count ? at : period - at);
}

double Player::placeAfter(double seconds) const {
    const auto [first, last] = played();
    const auto count = static_cast<double>(last - first + 1);
    const bool turns = thereAndBack_ && last > first;
    const double period = turns ? 2 * (count - 1) : count;
    const double begin = static_cast<double>(startFrame_ - first) + (speed_ < 0 ? 1 : 0);
    double at = std::fmod(begin + seconds * rate_ * speed_, period);
    if (at < 0) at += period;
    // Each frame lasts: on the way back from its end to its beginning.
    return static_cast<double>(first) + (at < count ? at : period + 1 - at);
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
    ++playNumber_;
    const auto [first, last] = played();
    startFrame_ = playhead_ < first || playhead_ > last ? (speed > 0 ? first : last) : playhead_;
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
    // The latest due frame that is ready; whatever was due before it was not shown in time.
    const qint64 oldest = std::max(ticked_, due - frames_);
    qint64 shownStep = -1;
    for (qint64 step = due; step > oldest; --step)
        if (!isReady_ || isReady_(frameAt(step))) {
            shownStep = step;
            break;
        }
    const qint64 passed = due - ticked_;
    const bool round = !loop_ && !thereAndBack_ && speed_ > 0 &&
                       (startFrame_ + due) / frames_ > (startFrame_ + ticked_) / frames_;
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
