// Work that must not run on the interface thread.
#pragma once

#include <QObject>
#include <QString>

#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <stop_token>
#include <thread>

namespace yarngap::app {

/// Runs tasks one after the other on a thread of its own.
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

    /// Tasks of the preferred subject come first, then those of lower `rank`, then the older ones.
    void run(Task task, int rank = 0, const QString& subject = {});
    /// Moves what waits for `subject` to the front, until another one is preferred.
    void prefer(const QString& subject);

  private:
    struct Waiting {
        Task task;
        int rank = 0;
        QString subject;
    };

    void loop(const std::stop_token& stop);
    Task takeNext();

    std::mutex mutex_;
    std::condition_variable_any wake_;
    std::deque<Waiting> waiting_;
    QString preferred_;
    std::jthread thread_;
};

/// Calls `what` on the thread that `receiver` lives on, soon; never when the receiver is gone by then.
template <typename What>
void postTo(QObject* receiver, What what) {
    QMetaObject::invokeMethod(receiver, std::move(what), Qt::QueuedConnection);
}

} // namespace yarngap::app
