// A short queue between two stages of a pipeline.
#pragma once

#include <condition_variable>
#include <cstddef>
#include <map>
#include <mutex>
#include <optional>
#include <stop_token>

namespace yarngap {

/// Bounded queue that hands items over in the order of their numbers, which begin with 0 and have no gaps;
/// for any number of producers and consumers. Waiting ends at once when the stop token asks for it.
template <typename T>
class Channel {
  public:
    explicit Channel(std::size_t capacity)
        : capacity_(capacity) {}

    /// For a single producer: the next item. Waits for room; false when stopped first.
    bool push(T item, const std::stop_token& stop) { return push(next_++, std::move(item), stop); }

    /// For several, which finish in another order than they began. Waits until `number` is less than the
    /// capacity behind the one that is due; false when stopped first.
    bool push(std::size_t number, T item, const std::stop_token& stop) {
        std::unique_lock lock(mutex_);
        if (!room_.wait(lock, stop, [&] { return number < due_ + capacity_; })) return false;
        items_.emplace(number, std::move(item));
        filled_.notify_one();
        return true;
    }

    /// Waits for the item that is due; empty when the producers closed the channel and all is taken, or when
    /// stopped.
    std::optional<T> pop(const std::stop_token& stop) {
        std::unique_lock lock(mutex_);
        const auto isDue = [this] { return items_.contains(due_); };
        if (!filled_.wait(lock, stop, [&] { return isDue() || closed_; }) || !isDue()) return std::nullopt;
        auto node = items_.extract(due_++);
        room_.notify_all();
        if (isDue()) filled_.notify_one(); // another consumer may have looked in vain for it
        return std::move(node.mapped());
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
    std::map<std::size_t, T> items_;
    std::size_t next_ = 0; ///< number of the single producer's next item, touched by it alone
    std::size_t due_ = 0;
    std::size_t capacity_;
    bool closed_ = false;
};

} // namespace yarngap
