// A short queue between two stages of a pipeline.
#pragma once

#include <condition_variable>
#include <cstddef>
#include <deque>
#include <mutex>
#include <optional>
#include <stop_token>

namespace yarngap {

/// Bounded queue for one producer; several consumers share it. Waiting ends at once when the stop token asks
/// for it.
template <typename T>
class Channel {
  public:
    explicit Channel(std::size_t capacity)
        : capacity_(capacity) {}

    /// Waits for room; false when stopped first.
    bool push(T item, const std::stop_token& stop) {
        std::unique_lock lock(mutex_);
        if (!room_.wait(lock, stop, [this] { return items_.size() < capacity_; })) return false;
        items_.push_back(std::move(item));
        filled_.notify_one();
        return true;
    }

    /// Waits for an item; empty when the producer closed the channel and all is taken, or when stopped.
    std::optional<T> pop(const std::stop_token& stop) {
        std::unique_lock lock(mutex_);
        if (!filled_.wait(lock, stop, [this] { return !items_.empty() || closed_; }) || items_.empty())
            return std::nullopt;
        T item = std::move(items_.front());
        items_.pop_front();
        room_.notify_one();
        return item;
    }

    void close() {
        const std::scoped_lock lock(mutex_);
        closed_ = true;
        filled_.notify_all();
    }

  private:
    std::mutex mutex_;
    std::condition_variable_any room_;
    std::condition_variable_any filled_;
    std::deque<T> items_;
    std::size_t capacity_;
    bool closed_ = false;
};

} // namespace yarngap
