#include "core/files/reading_thread.h"

#include "core/error.h"

#include <condition_variable>
#include <exception>
#include <mutex>
#include <thread>
#include <utility>

namespace yarngap {

/// Shared with the thread, which may outlive its owner.
struct ReadingThread::State {
    std::mutex mutex;
    std::condition_variable wanted;
    std::condition_variable_any done;
    std::function<void()> task;
    std::exception_ptr failure;
    bool busy = false;
    bool ending = false;

    void loop() {
        std::unique_lock lock(mutex);
        while (true) {
            wanted.wait(lock, [this] { return busy || ending; });
            if (!busy) return;
            lock.unlock();
            std::exception_ptr thrown;
            try {
                task();
            } catch (...) {
                thrown = std::current_exception();
            }
            task = {};
            lock.lock();
            failure = thrown;
            busy = false;
            done.notify_all();
        }
    }
};

struct ReadingThread::Thread {
    std::thread thread;
};

ReadingThread::ReadingThread()
    : state_(std::make_shared<State>()) {}

ReadingThread::~ReadingThread() {
    if (!thread_) return;
    bool hangs = false;
    {
        const std::scoped_lock lock(state_->mutex);
        state_->ending = true;
        hangs = state_->busy;
        state_->wanted.notify_all();
    }
    if (hangs)
        thread_->thread.detach();
    else
        thread_->thread.join();
}

void ReadingThread::run(std::function<void()> task, const std::stop_token& stop) {
    if (stop.stop_requested()) throw Cancelled();
    if (!thread_)
        thread_ = std::make_unique<Thread>(Thread{std::thread([state = state_] { state->loop(); })});
    std::unique_lock lock(state_->mutex);
    const auto isIdle = [this] { return !state_->busy; };
    if (!state_->done.wait(lock, stop, isIdle)) throw Cancelled(); // one given up before may still hang
    state_->task = std::move(task);
    state_->failure = nullptr;
    state_->busy = true;
    state_->wanted.notify_all();
    if (!state_->done.wait(lock, stop, isIdle)) throw Cancelled();
    if (state_->failure) std::rethrow_exception(std::exchange(state_->failure, nullptr));
}

} // namespace yarngap
