#include "core/motion/vector_store.h"

#include "core/error.h"

namespace yarngap {

VectorsPtr VectorStore::vectors(const std::string& media, std::int64_t a, std::int64_t b, const Image& frameA,
                                const Image& frameB, const FlowOptions& options,
                                const std::stop_token& stop) {
    const std::string key =
        media + ':' + std::to_string(a) + ':' + std::to_string(b) + ':' + std::string(name(options.quality));
    {
        std::unique_lock lock(mutex_);
        while (true) {
            if (auto hit = cache_.find(key)) return *hit;
            if (!underWay_.contains(key)) break;
            if (!finished_.wait(lock, stop, [&] { return !underWay_.contains(key); })) throw Cancelled();
        }
        underWay_.insert(key);
    }
    // Whatever happens below, others must not wait for it forever.
    struct Leave {
        VectorStore& store;
        const std::string& key;
        ~Leave() {
            const std::scoped_lock lock(store.mutex_);
            store.underWay_.erase(key);
            store.finished_.notify_all();
        }
    } const leave{*this, key};
    VectorsPtr made = std::make_shared<Vectors>(estimateFlow(frameA, frameB, options, stop));
    cache_.insert(key, made, made->byteCount());
    return made;
}

} // namespace yarngap
