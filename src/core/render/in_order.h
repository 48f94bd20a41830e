// Where what several threads make side by side is put back in order.
#pragma once

#include <condition_variable>
#include <cstddef>
#include <map>
#include <mutex>
#include <optional>
#include <stop_token>

namespace yarngap {

/// Takes numbered items from several producers and gives them to one consumer in the order of their numbers,
/// which begin with 0 and have no gaps. Waiting ends at once when the stop token asks for it.
template <typename T>
class InOrder {
  public:
    /// No item is taken that is `ahead` or more behind the one that is due.
    explicit InOrder(std::size_t ahead)
        : ahead_(ahead) {}

    /// Waits until `number` is near enough; false when stopped first.
    bool push(std::size_t number, T item, const std::stop_token& stop) {
        std::unique_lock lock(mutex_);
        if (!room_.wait(lock, stop, [&] { return number < due_ + ahead_; })) return false;
        items_.emplace(number, std::move(item));
        filled_.notify_one();
        return true;
    }

    /// Waits for the item that is due; empty when all is taken and the producers have closed this, or when
    /// stopped.
    std::optional<T> pop(const std::stop_token& stop) {
        std::unique_lock lock(mutex_);
        if (!filled_.wait(lock, stop, [this] { return items_.contains(due_) || closed_; }) ||
            !items_.contains(due_))
            return std::nullopt;
        auto node = items_.extract(due_++);
        room_.notify_all();
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
    std::size_t due_ = 0;
    std::size_t ahead_;
    bool closed_ = false;
};

} // namespace yarngap
