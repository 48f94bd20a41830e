// Which frames play, and which are meant by what is selected.

#include "app/window/main_window.h"

#include <algorithm>
#include <cmath>

namespace yarngap::app {

std::pair<qint64, qint64> MainWindow::loopRange() const {
    if (const auto stretch = chart_->selection(); stretch && stretch->last > stretch->first)
        return {stretch->first, stretch->last};
    const auto second = static_cast<qint64>(std::lround(player_.rate()));
    const qint64 last = std::max<qint64>(0, player_.frames() - 1);
    const qint64 first =
        std::clamp<qint64>(player_.playhead() - second / 2, 0, std::max<qint64>(0, last - second + 1));
    return {first, std::min(last, first + second - 1)};
}

void MainWindow::goOnWithNextShot() {
    const auto count = static_cast<int>(document_.project().shots.size());
    if (!playOn_->isChecked() || count < 2) return;
    document_.setCurrent((document_.currentIndex() + 1) % count);
    if (!plan()) return; // its card tells why
    player_.goTo(0);
    player_.play(1);
}

std::int64_t MainWindow::sourceFrameAtPlayhead() const {
    if (!plan() || plan()->rows.empty()) return 0;
    return plan()->rows[static_cast<std::size_t>(player_.playhead())].position.frame;
}

std::optional<std::pair<std::int64_t, std::int64_t>> MainWindow::selectedGaps() const {
    const auto stretch = plan() && chart_ ? chart_->selection() : std::nullopt;
    if (!stretch) return std::nullopt;
    std::optional<std::pair<std::int64_t, std::int64_t>> gaps;
    for (std::int64_t n = stretch->first; n <= stretch->last; ++n) {
        const Position& at = plan()->rows[static_cast<std::size_t>(n)].position;
        // An original at the end belongs to the gap before it.
        if (n == stretch->last && gaps && at.phase == Rational(0)) break;
        if (!gaps) gaps = std::pair{at.frame, at.frame};
        gaps = std::pair{std::min(gaps->first, at.frame), std::max(gaps->second, at.frame)};
    }
    return gaps;
}

} // namespace yarngap::app
