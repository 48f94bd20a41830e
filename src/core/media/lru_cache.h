// Recently used frames in memory, never above a stated number of bytes.
#pragma once

#include "core/image/image.h"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <list>
#include <mutex>
#include <optional>
#include <unordered_map>

namespace yarngap {

/// Thread-safe cache that drops the least recently used entries first.
///
/// `Value` is cheap to copy (a shared pointer). An entry above the limit on its own is not kept.
template <typename Key, typename Value, typename Hash = std::hash<Key>>
class LruCache {
  public:
    explicit LruCache(std::size_t byteLimit)
        : limit_(byteLimit) {}

    [[nodiscard]] std::optional<Value> find(const Key& key) {
        const std::scoped_lock lock(mutex_);
        const auto it = map_.find(key);
        if (it == map_.end()) return std::nullopt;
        entries_.splice(entries_.begin(), entries_, it->second);
        return it->second->value;
    }

    /// As find(), but does not count as a use.
    [[nodiscard]] std::optional<Value> peek(const Key& key) const {
        const std::scoped_lock lock(mutex_);
        const auto it = map_.find(key);
        if (it == map_.end()) return std::nullopt;
        return it->second->value;
    }

    [[nodiscard]] bool contains(const Key& key) const {
        const std::scoped_lock lock(mutex_);
        return map_.contains(key);
    }

    void insert(const Key& key, Value value, std::size_t bytes) {
        Entries dropped; // freed after the lock is given back: large values take their time
        const std::scoped_lock lock(mutex_);
        if (const auto it = map_.find(key); it != map_.end()) erase(it, dropped);
        if (bytes > limit_) return;
        while (used_ + bytes > limit_)
            erase(map_.find(entries_.back().key), dropped);
        entries_.push_front({key, std::move(value), bytes});
        map_[key] = entries_.begin();
        used_ += bytes;
    }

    void clear() {
        const std::scoped_lock lock(mutex_);
        map_.clear();
        entries_.clear();
        used_ = 0;
    }

    [[nodiscard]] std::size_t bytes() const {
        const std::scoped_lock lock(mutex_);
        return used_;
    }
    [[nodiscard]] std::size_t byteLimit() const {
        const std::scoped_lock lock(mutex_);
        return limit_;
    }
    /// Drops what is above the new limit at once.
    void setByteLimit(std::size_t byteLimit) {
        Entries dropped;
        const std::scoped_lock lock(mutex_);
        limit_ = byteLimit;
        while (used_ > limit_)
            erase(map_.find(entries_.back().key), dropped);
    }

  private:
    struct Entry {
        Key key;
        Value value;
        std::size_t bytes;
    };
    using Entries = std::list<Entry>;
    using Map = std::unordered_map<Key, typename Entries::iterator, Hash>;

    void erase(typename Map::iterator it, Entries& dropped) {
        used_ -= it->second->bytes;
        dropped.splice(dropped.end(), entries_, it->second);
        map_.erase(it);
    }

    mutable std::mutex mutex_;
    std::size_t limit_;
    std::size_t used_ = 0;
    Entries entries_;
    Map map_;
};

} // namespace yarngap
