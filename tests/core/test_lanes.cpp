// How a render has several gaps in hand at once.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/render/channel.h"
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
        Channel<std::size_t> queue(4);
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

    void severalConsumersMissNothing() {
        constexpr std::size_t items = 400;
        Channel<std::size_t> queue(5);
        std::atomic<std::size_t> sum{0};
        std::atomic<std::size_t> taken{0};
        bool arePushed = true;
        {
            constexpr int takers = 3;
            std::vector<std::jthread> consumers;
            consumers.reserve(takers);
            for (int c = 0; c < takers; ++c)
                consumers.emplace_back([&] {
                    while (const auto item = queue.pop({})) {
                        sum += *item;
                        ++taken;
                    }
                });
            // Each pair the wrong way round, so that what is due comes behind what is not.
            for (std::size_t n = 0; n < items; n += 2) {
                arePushed &= queue.push(n + 1, n + 1, {});
                arePushed &= queue.push(n, n, {});
            }
            queue.close();
        }
        QVERIFY(arePushed);
        QCOMPARE(taken.load(), items);
        QCOMPARE(sum.load(), items * (items - 1) / 2);
    }

    void whoIsTooFarAheadWaitsUntilStopped() {
        Channel<int> queue(2);
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
        const Lanes many = lanesFor(factsOf(1920, 1080), 64, 16 * gigabyte);
        // A quarter of the memory over 250 bytes for each of 2 073 600 pixels: 8.
        QCOMPARE(many.estimating, std::size_t{8});
        QCOMPARE(many.count, std::size_t{9});
        const Lanes poor = lanesFor(factsOf(1920, 1080), 64, gigabyte);
        QCOMPARE(poor.estimating, std::size_t{1});
    }

    void neverMoreThanSeveralRendersMayTake() {
        // 8 GB over 250 bytes for each of 2 073 600 pixels: 16, whatever the machine has.
        QCOMPARE(lanesFor(factsOf(1920, 1080), 64, 512 * gigabyte).estimating, std::size_t{16});
    }

    void aJobOfSlurmKeepsToTheCoresItWasGiven_data() {
        QTest::addColumn<QByteArray>("given");
        QTest::addColumn<bool>("counts");
        QTest::newRow("one") << QByteArray("1") << true;
        QTest::newRow("none") << QByteArray("0") << false;
        QTest::newRow("no number") << QByteArray("many") << false;
        QTest::newRow("a list") << QByteArray("1(x2)") << false;
    }
    void aJobOfSlurmKeepsToTheCoresItWasGiven() {
        QFETCH(QByteArray, given);
        QFETCH(bool, counts);
        qunsetenv("SLURM_CPUS_ON_NODE");
        const std::size_t usual = lanesFor(factsOf(640, 360)).count;
        qputenv("SLURM_CPUS_ON_NODE", given);
        const std::size_t now = lanesFor(factsOf(640, 360)).count;
        qunsetenv("SLURM_CPUS_ON_NODE");
        QCOMPARE(now, counts ? std::size_t{1} : usual);
    }

    void largeFramesAreTakenFewAtOnce() {
        QCOMPARE(lanesFor(factsOf(640, 360), 2, 8 * gigabyte).framesAtOnce, std::size_t{8});
        QCOMPARE(lanesFor(factsOf(7680, 4320, 16), 2, 8 * gigabyte).framesAtOnce, std::size_t{1});
    }
};

QTEST_APPLESS_MAIN(TestLanes)
#include "test_lanes.moc"
