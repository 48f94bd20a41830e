#include "cli/interrupt.h"

#include <csignal>
#include <cstdlib>
#include <ctime>

namespace yarngap::cli {

namespace {

sigset_t interruptSignals() {
    sigset_t signals;
    sigemptyset(&signals);
    sigaddset(&signals, SIGINT);
    sigaddset(&signals, SIGTERM);
    sigaddset(&signals, SIGHUP); // the terminal was closed
    return signals;
}

} // namespace

Interrupt::Interrupt() {
    const sigset_t signals = interruptSignals();
    pthread_sigmask(SIG_BLOCK, &signals, nullptr);
    waiter_ = std::jthread([source = source_](const std::stop_token& end) mutable {
        const sigset_t waited = interruptSignals();
        const timespec pause{0, 20'000'000}; // how soon the end of the program is noticed
        while (!end.stop_requested()) {
            if (sigtimedwait(&waited, nullptr, &pause) <= 0) continue;
            constexpr int cancelled = 130;
            // Whoever asks twice wants no waiting. What is left half-written goes with the next start.
            if (source.stop_requested()) std::_Exit(cancelled);
            source.request_stop();
        }
    });
}

} // namespace yarngap::cli
