// Ctrl+C as a stop request.
#pragma once

#include <stop_token>
#include <thread>

namespace yarngap::cli {

/// While it lives, SIGINT, SIGTERM and SIGHUP request a stop instead of ending the process; the second one
/// ends it at once. Create it before any other thread, since threads inherit the blocked signals.
class Interrupt {
  public:
    Interrupt();
    [[nodiscard]] std::stop_token token() const { return source_.get_token(); }

  private:
    std::stop_source source_;
    std::jthread waiter_;
};

} // namespace yarngap::cli
