// Hashes of packets, taken beside reading them.
#pragma once

#include "core/media/demuxer.h"

#include <condition_variable>
#include <cstdint>
#include <deque>
#include <mutex>
#include <thread>
#include <vector>

namespace yarngap {

/// Hashes packets in their order, large ones on a thread of its own, so that the next is read meanwhile. At
/// most `mostWaiting` bytes of packets wait.
///
///     PacketHasher hasher;
///     while (demuxer.next(*packet)) hasher.add(*packet);
///     const std::vector<std::uint64_t> hashes = hasher.finish();
class PacketHasher {
  public:
    static constexpr std::int64_t mostWaiting = std::int64_t{64} << 20;

    PacketHasher() = default;
    ~PacketHasher();
    PacketHasher(const PacketHasher&) = delete;
    PacketHasher& operator=(const PacketHasher&) = delete;
    PacketHasher(PacketHasher&&) = delete;
    PacketHasher& operator=(PacketHasher&&) = delete;

    /// Throws Error when there is no memory for it.
    void add(const AVPacket& packet);
    /// The hashes of all that were added. Nothing may be added afterwards.
    std::vector<std::uint64_t> finish();

  private:
    struct Waiting {
        std::size_t at = 0;
        PacketPtr packet;
    };
    void work();
    void end();

    std::vector<std::uint64_t> hashes_; // of large packets written by the thread, under the mutex
    std::deque<Waiting> waiting_;
    std::int64_t waitingBytes_ = 0;
    bool ending_ = false;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::thread thread_;
};

} // namespace yarngap
