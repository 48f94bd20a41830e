// The vector store: made once, kept within its limit, never stale, shared between threads.

#include "core/error.h"
#include "core/motion/vector_store.h"
#include "support/pictures.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <thread>
#include <vector>

using namespace yarngap;
using namespace yarngap::test;

namespace {

Image frame(int n) {
    return pictureOf(64, 48, {.model = ColourModel::grey, .depth = 8}, [=](int, int x, int y) {
        return 128 + 60 * std::sin((x - 2 * n) * 0.4) * std::sin(y * 0.3);
    });
}

/// Whether four threads that ask at once are given the same vectors, not equal ones.
template <typename Ask>
bool isSharedByFour(const Ask& ask) {
    std::vector<VectorsPtr> results(4);
    {
        std::vector<std::jthread> threads;
        threads.reserve(results.size());
        for (auto& result : results)
            threads.emplace_back([&] { result = ask(); });
    }
    return std::ranges::all_of(results, [&](const VectorsPtr& result) { return result == results.front(); });
}

} // namespace

class TestVectorStore : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void theSameWorkIsNotDoneTwice() {
        VectorStore store;
        const auto first = store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {});
        QCOMPARE(store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {}), first);
    }

    void otherMediaFramesOrSettingsAreOtherVectors() {
        VectorStore store;
        const auto first = store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {});
        QVERIFY(store.vectors({0, 1, "n:0:1"}, frame(0), frame(1), {}) != first);
        QVERIFY(store.vectors({0, 2, "m:0:2"}, frame(0), frame(2), {}) != first);
        QVERIFY(store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {.quality = FlowQuality::draft}) != first);
    }

    void theLimitHolds() {
        const std::size_t one = estimateFlow(frame(0), frame(1), {}).byteCount();
        VectorStore store(one * 3 + 100);
        for (int n = 0; n < 10; ++n) {
            store.vectors({n, n + 1, "m:" + std::to_string(n)}, frame(n), frame(n + 1), {});
            QVERIFY(store.bytes() <= store.byteLimit());
        }
        QCOMPARE(store.bytes(), one * 3);
    }

    void threadsShareOneEstimation() {
        VectorStore store;
        QVERIFY(isSharedByFour([&] { return store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {}); }));
    }

    void threadsShareOneCoarseEstimationToo() {
        VectorStore store;
        const auto coarse = [&] {
            return store.coarse({0, 1, "m:0:1"}, frame(0), frame(1), AnalyseOn::asIs);
        };
        QVERIFY(isSharedByFour(coarse));
        // Not what vectors() would give, nor what another picture to look at gives.
        QVERIFY(store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {}) != coarse());
        QVERIFY(store.coarse({0, 1, "m:0:1"}, frame(0), frame(1), AnalyseOn::edges) != coarse());
    }

    void thoroughGoesOnFromWhatStandardFound() {
        VectorStore store;
        const FramePair pair{0, 1, "m:0:1"};
        const FlowOptions thorough{.quality = FlowQuality::thorough};
        const auto finest = store.vectors(pair, frame(0), frame(1), thorough);
        QCOMPARE(store.estimations(), 2);
        store.vectors(pair, frame(0), frame(1), {}); // the gaps beside ask for it
        QCOMPARE(store.estimations(), 2);
        QCOMPARE(finest->forward.xy, estimateFlow(frame(0), frame(1), thorough).forward.xy);
    }

    void stoppedWorkLeavesNothingBehind() {
        VectorStore store;
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_THROWS_EXCEPTION(Cancelled,
                                 store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {}, stop.get_token()));
        QCOMPARE(store.bytes(), std::size_t{0});
        QVERIFY(store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {}) != nullptr); // and blocks nobody
    }
};

QTEST_APPLESS_MAIN(TestVectorStore)
#include "test_vector_store.moc"
