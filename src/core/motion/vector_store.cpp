#include "core/motion/vector_store.h"

#include "core/error.h"
#include "core/motion/vector_file.h"
#include "core/motion/vector_generation.h"

namespace yarngap {

namespace {

std::string keyOfGap(const FramePair& pair, const FlowOptions& options) {
    return std::to_string(vectorGeneration) + ':' + pair.identity + ':' + keyOf(options);
}

std::string keyOfContinued(const FramePair& pair, const FlowOptions& options, const std::string& before,
                           const std::string& after) {
    return keyOfGap(pair, options) + ":beside:" + before + ':' + after;
}

} // namespace

FramePair pairOf(const ShotFrames& source, std::int64_t a, std::int64_t b) {
    return {a, b, source.identityOf(a) + '>' + source.identityOf(b)};
}

std::string gapFileName(std::int64_t gap) {
    constexpr std::size_t digits = 6;
    const std::string number = std::to_string(gap);
    return "gap_" + std::string(number.size() < digits ? digits - number.size() : 0, '0') + number + ".exr";
}

std::filesystem::path VectorStore::fileOf(std::int64_t a, std::int64_t b) const {
    std::error_code ec;
    if (files_.empty() || b != a + 1) return {};
    std::filesystem::path file = files_ / gapFileName(a);
    return std::filesystem::exists(file, ec) ? file : std::filesystem::path();
}

std::vector<std::filesystem::path> VectorStore::givenFiles() const {
    std::vector<std::filesystem::path> files;
    if (files_.empty()) return files;
    std::error_code ec;
    for (std::filesystem::directory_iterator entry(files_, ec), end; !ec && entry != end; entry.increment(ec))
        files.push_back(entry->path());
    return files;
}

VectorsPtr VectorStore::given(std::int64_t a, std::int64_t b, const Image& frame) const {
    const std::filesystem::path file = fileOf(a, b);
    if (file.empty()) return nullptr;
    KeyedVectors read = readVectors(file, frame.width(), frame.height());
    return std::make_shared<Vectors>(std::move(read.vectors));
}

bool VectorStore::has(const FramePair& pair, const FlowOptions& options) const {
    return cache_.contains(keyOfGap(pair, options));
}

bool VectorStore::hasContinued(const FramePair& pair, const FlowOptions& options, const std::string& before,
                               const std::string& after) const {
    if (!fileOf(pair.a, pair.b).empty()) return has(pair, options);
    return cache_.contains(keyOfContinued(pair, options, before, after));
}

template <typename Make>
VectorsPtr VectorStore::once(Cache& cache, const std::string& key, Make make, const std::stop_token& stop) {
    {
        std::unique_lock lock(mutex_);
        while (true) {
            if (auto hit = cache.find(key)) return *hit;
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
    VectorsPtr made = make();
    cache.insert(key, made, made->byteCount());
    return made;
}

Vectors VectorStore::estimated(const FramePair& pair, const Image& frameA, const Image& frameB,
                               const FlowOptions& options, const std::stop_token& stop) {
    if (options.quality != FlowQuality::thorough) return estimateFlow(frameA, frameB, options, stop);
    const VectorsPtr standard = vectors(pair, frameA, frameB, standardFor(options), stop);
    return estimateThoroughFlow(frameA, frameB, options, *standard, stop);
}

VectorsPtr VectorStore::vectors(const FramePair& pair, const Image& frameA, const Image& frameB,
                                const FlowOptions& options, const std::stop_token& stop) {
    const std::string key = keyOfGap(pair, options);
    const auto make = [&]() -> VectorsPtr {
        if (VectorsPtr file = given(pair.a, pair.b, frameA)) return file;
        const bool onDisk = folder_ && options.quality != FlowQuality::draft;
        VectorsPtr made = onDisk ? folder_->find(key, frameA.width(), frameA.height()) : nullptr;
        if (made) return made;
        made = std::make_shared<Vectors>(estimated(pair, frameA, frameB, options, stop));
        ++estimations_;
        if (onDisk) folder_->keep(key, made);
        return made;
    };
    return once(cache_, key, make, stop);
}

VectorsPtr VectorStore::continued(const FramePair& pair, const Image& frameA, const Image& frameB,
                                  const FlowOptions& options, const GapsBeside& beside,
                                  const std::stop_token& stop) {
    const auto own = [&] { return vectors(pair, frameA, frameB, options, stop); };
    if (!fileOf(pair.a, pair.b).empty()) return own();
    const auto make = [&]() -> VectorsPtr {
        return std::make_shared<Vectors>(
            continueMotion(*own(), frameA, frameB, beside, options.analyseOn, stop));
    };
    return once(cache_, keyOfContinued(pair, options, beside.before.identity, beside.after.identity), make,
                stop);
}

VectorsPtr VectorStore::coarse(const FramePair& pair, const Image& frameA, const Image& frameB,
                               AnalyseOn analyseOn, const std::stop_token& stop) {
    const std::string key = "coarse:" + pair.identity + ':' + std::string(name(analyseOn));
    return once(
        coarse_, key,
        [&] { return std::make_shared<const Vectors>(estimateCoarseFlow(frameA, frameB, analyseOn, stop)); },
        stop);
}

} // namespace yarngap
