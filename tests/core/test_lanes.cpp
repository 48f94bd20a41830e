// How a render has several gaps in hand at once.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/render/in_order.h"
#include "core/render/lanes.h"
#endif
#include "support/one_worker.h"

#include <QTest>

#include <atomic>
#include <cstddef>
#include <thread>
#include <vector>

using namespace yarngap;

namespace {

MediaFacts factsOf(int width, int height, int depth = 8) {
    MediaFacts facts;
    facts.width = width;
    facts.height = height;
    facts.layout.depth = depth;
    return facts;
}

constexpr std::size_t gigabyte = std::size_t{1} << 30;

} // namespace

class TestLanes : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void itemsComeInTheOrderOfTheirNumbers() {
        constexpr std::size_t items = 300;
        constexpr std::size_t producers = 3;
        InOrder<std::size_t> queue(4);
        std::atomic<std::size_t> next{0};
        std::atomic<std::size_t> left{producers};
        std::vector<std::jthread> threads;
        for (std::size_t p = 0; p < producers; ++p)
            threads.emplace_back([&] {
                for (std::size_t n = next++; n < items; n = next++)
                    if (!queue.push(n, n * n, {})) return;
                if (--left == 0) queue.close();
            });
        for (std::size_t n = 0; n < items; ++n) {
            const auto item = queue.pop({});
            QVERIFY(item);
            QCOMPARE(*item, n * n);
        }
        QVERIFY(!queue.pop({}));
    }

    void whoIsTooFarAheadWaitsUntilStopped() {
        InOrder<int> queue(2);
        std::stop_source stop;
        QVERIFY(queue.push(1, 10, stop.get_token()));
        std::atomic<bool> pushed{true};
        {
            const std::jthread ahead([&] { pushed = queue.push(2, 20, stop.get_token()); });
            stop.request_stop();
        }
        QVERIFY(!pushed);
        QVERIFY(!queue.pop(stop.get_token())); // 0 is due and will not come
    }

    void asManyAsMemoryAllows() {
        const Lanes small = lanesFor(factsOf(1280, 720), 2, 8 * gigabyte);
        QCOMPARE(small.count, std::size_t{2});
        QCOMPARE(small.estimating, std::size_t{2});
        const Lanes one = lanesFor(factsOf(1280, 720), 1, 8 * gigabyte);
        QCOMPARE(one.count, std::size_t{1});
        const Lanes large = lanesFor(factsOf(3840, 2160), 2, 8 * gigabyte);
        QCOMPARE(large.estimating, std::size_t{1});
        QCOMPARE(large.count, std::size_t{2}); // the other makes frames meanwhile
        const Lanes many = lanesFor(factsOf(1920, 1080), 64, 64 * gigabyte);
        // A quarter of the memory over 250 bytes for each of 2 073 600 pixels: 33.
        QCOMPARE(many.estimating, std::size_t{33});
        QCOMPARE(many.count, std::size_t{34});
        const Lanes poor = lanesFor(factsOf(1920, 1080), 64, gigabyte);
        QCOMPARE(poor.estimating, std::size_t{1});
    }

    void largeFramesAreTakenFewAtOnce() {
        QCOMPARE(lanesFor(factsOf(640, 360), 2, 8 * gigabyte).framesAtOnce, std::size_t{8});
        QCOMPARE(lanesFor(factsOf(7680, 4320, 16), 2, 8 * gigabyte).framesAtOnce, std::size_t{1});
    }
};

QTEST_APPLESS_MAIN(TestLanes)
#include "test_lanes.moc"
