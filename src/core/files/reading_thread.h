// A thread for what may hang.
#pragma once

#include <functional>
#include <memory>
#include <stop_token>

namespace yarngap {

/// Runs one task at a time on a thread of its own, so that whoever waits for it can give up: reading from a
/// network disk that has gone away returns when the disk does, if ever, and no signal ends it sooner.
///
/// A task that was given up goes on, and the next one waits for it. So a task owns all that it uses. Not
/// thread-safe.
///
///     ReadingThread thread;
///     auto answer = std::make_shared<Answer>();
///     thread.run([answer, path] { *answer = look(path); }, stop);
class ReadingThread {
  public:
    ReadingThread();
    /// Joins the thread, unless it hangs; then it ends by itself, once it can.
    ~ReadingThread();
    ReadingThread(const ReadingThread&) = delete;
    ReadingThread& operator=(const ReadingThread&) = delete;
    ReadingThread(ReadingThread&&) = delete;
    ReadingThread& operator=(ReadingThread&&) = delete;

    /// Returns when `task` is done, and throws what it throws; throws Cancelled when stopped first.
    void run(std::function<void()> task, const std::stop_token& stop = {});

  private:
    struct State;
    std::shared_ptr<State> state_;
    struct Thread;
    std::unique_ptr<Thread> thread_; ///< started with the first task
};

} // namespace yarngap
