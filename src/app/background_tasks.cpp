#include "app/background_tasks.h"

namespace yarngap::app {

BackgroundTasks::BackgroundTasks()
    : thread_([this](const std::stop_token& stop) { loop(stop); }) {}

BackgroundTasks::~BackgroundTasks() = default;

void BackgroundTasks::run(Task task) {
    const std::scoped_lock lock(mutex_);
    ordinary_.push_back(std::move(task));
    wake_.notify_one();
}

void BackgroundTasks::runSoon(Task urgentTask) {
    const std::scoped_lock lock(mutex_);
    urgent_.push_back(std::move(urgentTask));
    wake_.notify_one();
}

void BackgroundTasks::loop(const std::stop_token& stop) {
    while (true) {
        Task task;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, stop, [this] { return !urgent_.empty() || !ordinary_.empty(); }) ||
                stop.stop_requested())
                return;
            auto& queue = urgent_.empty() ? ordinary_ : urgent_;
            task = std::move(queue.front());
            queue.pop_front();
        }
        task(stop);
    }
}

} // namespace yarngap::app
