#include "app/document/background_tasks.h"

#include <algorithm>
#include <utility>

namespace yarngap::app {

BackgroundTasks::BackgroundTasks()
    : thread_([this](const std::stop_token& stop) { loop(stop); }) {}

BackgroundTasks::~BackgroundTasks() = default;

void BackgroundTasks::run(Task task, int rank, const QString& subject) {
    const std::scoped_lock lock(mutex_);
    waiting_.push_back({std::move(task), rank, subject});
    wake_.notify_one();
}

void BackgroundTasks::prefer(const QString& subject) {
    const std::scoped_lock lock(mutex_);
    preferred_ = subject;
}

BackgroundTasks::Task BackgroundTasks::takeNext() {
    const auto place = [this](const Waiting& w) { return std::pair(w.subject != preferred_, w.rank); };
    const auto next =
        std::min_element(waiting_.begin(), waiting_.end(),
                         [&](const Waiting& a, const Waiting& b) { return place(a) < place(b); });
    Task task = std::move(next->task);
    waiting_.erase(next);
    return task;
}

void BackgroundTasks::loop(const std::stop_token& stop) {
    while (true) {
        Task task;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, stop, [this] { return !waiting_.empty(); }) || stop.stop_requested())
                return;
            task = takeNext();
        }
        task(stop);
    }
}

} // namespace yarngap::app
