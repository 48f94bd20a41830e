// Work that must not run on the interface thread.
#pragma once

#include <QObject>

#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <stop_token>
#include <thread>

namespace yarngap::app {

/// Runs tasks one after the other on a thread of its own. Urgent tasks go before ordinary ones.
/// Destroying it drops what waits, asks the running task to stop and waits for it.
class BackgroundTasks {
  public:
    using Task = std::function<void(const std::stop_token&)>;

    BackgroundTasks();
    ~BackgroundTasks();
    BackgroundTasks(const BackgroundTasks&) = delete;
    BackgroundTasks& operator=(const BackgroundTasks&) = delete;
    BackgroundTasks(BackgroundTasks&&) = delete;
    BackgroundTasks& operator=(BackgroundTasks&&) = delete;

    void run(Task task);
    void runSoon(Task urgentTask);

  private:
    void loop(const std::stop_token& stop);

    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::deque<Task> urgent_;
    std::deque<Task> ordinary_;
    std::jthread thread_;
};

/// Calls `what` on the thread that `receiver` lives on, soon; never when the receiver is gone by then.
template <typename What>
void postTo(QObject* receiver, What what) {
    QMetaObject::invokeMethod(receiver, std::move(what), Qt::QueuedConnection);
}

} // namespace yarngap::app
