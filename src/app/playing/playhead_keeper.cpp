#include "app/playing/playhead_keeper.h"

#include <cmath>

namespace yarngap::app {

PlayheadKeeper::PlayheadKeeper(Player& player, QObject* parent)
    : QObject(parent)
    , player_(player) {
    connect(&player_, &Player::moved, this, [this] {
        if (!placing_) held_.reset();
    });
}

void PlayheadKeeper::comeTo(const ShotPlace& shot, const FramePlan* before, const Timing& timing) {
    same_ = before != nullptr && shot == shown_;
    if (before && !same_) leave(before);
    shown_ = shot;
    moment_ = held_ ? *held_
              : before && !before->rows.empty()
                  ? before->rows[static_cast<std::size_t>(player_.playhead())].position.toDouble()
                  : static_cast<double>(timing.from);
}

void PlayheadKeeper::leave(const FramePlan* before) {
    if (before) left_[shown_] = player_.playhead();
    held_.reset();
}

void PlayheadKeeper::forget() {
    held_.reset();
    timing_.reset();
}

void PlayheadKeeper::put(const Timing& timing) {
    if (!same_) {
        const auto left = left_.find(shown_);
        goTo(left != left_.end() ? left->second : 0);
    } else if (timing_ && *timing_ != timing) {
        const auto output = timing.map().outputAt(moment_);
        if (output && std::llround(*output) != player_.playhead()) goTo(std::llround(*output));
        held_ = moment_;
    }
    timing_ = timing;
}

void PlayheadKeeper::goTo(qint64 output) {
    placing_ = true;
    player_.goTo(output);
    placing_ = false;
}

} // namespace yarngap::app
