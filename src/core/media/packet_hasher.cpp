#include "core/media/packet_hasher.h"

#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/media/media_identity.h"

#include <span>
#include <utility>

namespace yarngap {

namespace {

constexpr int largePacket = 64 * 1024; // smaller ones are hashed sooner than handed over

std::uint64_t hashOfPacket(const AVPacket& packet) {
    return hashOf(std::as_bytes(std::span(packet.data, static_cast<std::size_t>(packet.size))));
}

} // namespace

PacketHasher::~PacketHasher() {
    end();
}

void PacketHasher::end() {
    if (!thread_.joinable()) return;
    {
        const std::scoped_lock lock(mutex_);
        ending_ = true;
    }
    changed_.notify_all();
    thread_.join();
}

void PacketHasher::add(const AVPacket& packet) {
    if (packet.size < largePacket) {
        const std::uint64_t hash = hashOfPacket(packet);
        const std::scoped_lock lock(mutex_);
        hashes_.push_back(hash);
        return;
    }
    PacketPtr kept = makePacket();
    if (av_packet_ref(kept.get(), &packet) < 0) throw Error(outOfMemory);
    if (!thread_.joinable()) thread_ = std::thread([this] { work(); });
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [this] { return waitingBytes_ < mostWaiting; });
    waitingBytes_ += packet.size;
    waiting_.push_back({hashes_.size(), std::move(kept)});
    hashes_.push_back(0);
    lock.unlock();
    changed_.notify_all();
}

std::vector<std::uint64_t> PacketHasher::finish() {
    end();
    return std::move(hashes_);
}

void PacketHasher::work() {
    std::unique_lock lock(mutex_);
    while (true) {
        changed_.wait(lock, [this] { return !waiting_.empty() || ending_; });
        if (waiting_.empty()) return;
        Waiting next = std::move(waiting_.front());
        waiting_.pop_front();
        lock.unlock();
        const std::uint64_t hash = hashOfPacket(*next.packet);
        const std::int64_t bytes = next.packet->size;
        next.packet.reset();
        lock.lock();
        hashes_[next.at] = hash;
        waitingBytes_ -= bytes;
        changed_.notify_all();
    }
}

} // namespace yarngap
