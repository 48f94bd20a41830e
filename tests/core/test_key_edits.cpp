// Edits by keys: dragging moments, easing jumps, landing on frames, stretches copied and run again.

#include "core/error.h"
#include "core/time/frame_plan.h"
#include "core/time/key_edits.h"
#include "support/steps.h"
#include "support/timings.h"

#include <QTest>

#include <cmath>
#include <numeric>
#include <random>
#include <vector>

using namespace yarngap;
using test::steps;
using test::timingOf;

namespace {

constexpr auto constant = Segment::constant;
constexpr auto eased = Segment::eased;

/// 100 % to frame 20, 25 % to frame 40, 100 % to frame 96, at equal rates.
TimeKeys jumps() {
    return {{0, 0, constant, std::nullopt},
            {20, 20, constant, std::nullopt},
            {100, 40, constant, std::nullopt},
            {156, 96, constant, std::nullopt}};
}

/// The same with eases of 8 source frames before 20 and after 40.
TimeKeys ramp() {
    return withRamp({{0, 0, constant, std::nullopt}, {96, 96, constant, std::nullopt}},
                    {.from = 20, .to = 40, .step = Rational(1, 4), .ease = 8});
}

/// first, first + 1 … last.
std::vector<std::size_t> numbers(std::size_t first, std::size_t last) {
    std::vector<std::size_t> all(last - first + 1);
    std::iota(all.begin(), all.end(), first);
    return all;
}

double stepOf(const TimeKeys& keys, std::size_t i) {
    return ((keys[i + 1].position - keys[i].position) / (keys[i + 1].output - keys[i].output)).toDouble();
}

/// Random keys that go forwards: constant and eased segments in turn, so that each eased one has its speeds.
TimeKeys randomRamps(std::mt19937& random) {
    std::uniform_int_distribution<std::int64_t> by(4, 40);
    TimeKeys keys{{0, 0, constant, std::nullopt}};
    for (int i = 0; i < 9; ++i) {
        keys.back().after = i % 2 == 0 ? constant : eased;
        const TimeKey key{keys.back().output + Rational(by(random)),
                          keys.back().position + Rational(by(random)), constant, std::nullopt};
        keys.push_back(key);
    }
    return keys;
}

} // namespace

class TestKeyEdits : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void aRampLandsOnRealFrames() {
        // By hand: eases of 8 frames at a mean of 62.5 % take 12.8 frames, to the nearest whole 13.
        const TimeKeys keys = ramp();
        QCOMPARE(keys.size(), std::size_t{6});
        QCOMPARE(keys[1].output, Rational(12));
        QCOMPARE(keys[2].output, Rational(25));
        QCOMPARE(keys[3].output, Rational(105));
        QCOMPARE(keys[4].output, Rational(118));
        QCOMPARE(keys[5].output, Rational(166));
        const FramePlan plan = makePlan(timingOf(keys, 96), Method::flow, 96);
        for (const PlanRow& row : plan.rows) {
            const bool hundred = row.output <= 12 || row.output >= 118;
            const bool fourth = row.output >= 25 && row.output <= 105 && (row.output - 25) % 4 == 0;
            if (hundred || fourth) QCOMPARE(row.kind, FrameKind::original);
        }
    }

    void movedMomentsLeaveOtherMomentsAndSpeedsAlone() {
        std::mt19937 random(11);
        int moved = 0;
        for (int round = 0; round < 400; ++round) {
            const TimeKeys keys = randomRamps(random);
            const auto first = 1 + random() % (keys.size() - 2);
            const auto last = first + random() % (keys.size() - 1 - first);
            const Rational by(static_cast<std::int64_t>(random() % 7) - 3);
            TimeKeys out;
            try {
                out = withMomentsMoved(keys, numbers(first, last), by, Keeping::speeds);
            } catch (const Error&) {
                continue; // a key would have passed another
            }
            ++moved;
            QCOMPARE(out.size(), keys.size());
            for (std::size_t k = 0; k < keys.size(); ++k)
                QCOMPARE(out[k].position, k >= first && k <= last ? keys[k].position + by : keys[k].position);
            for (std::size_t k = 0; k + 1 < keys.size(); ++k)
                if (keys[k].after == constant) QVERIFY(std::abs(stepOf(out, k) - stepOf(keys, k)) < 1e-12);
        }
        QVERIFY(moved > 200);
    }

    void aMovedRampKeepsItsTotal() {
        // The whole ramp ten frames later: as much at 100 % before it as is lost after it.
        const TimeKeys keys = ramp();
        const TimeKeys out = withMomentsMoved(keys, numbers(1, 4), 10, Keeping::speeds);
        for (std::size_t k = 1; k <= 4; ++k)
            QCOMPARE(out[k].output, keys[k].output + Rational(10));
        QCOMPARE(out.back().output, keys.back().output);
    }

    void keysApartMoveTogether() {
        // By hand, of jumps(): 25 frames at 100 %, 20 at 25 % (80 output frames), 51 at 100 %.
        const std::vector<std::size_t> both{1, 2};
        const TimeKeys out = withMomentsMoved(jumps(), both, 5, Keeping::speeds);
        QCOMPARE(out[1].output, Rational(25));
        QCOMPARE(out[2].output, Rational(105));
        QCOMPARE(out[3].output, Rational(156));
        // Only the later one, with the length kept: 20 source frames become 25 over the same 80.
        const std::vector<std::size_t> later{2};
        const TimeKeys kept = withMomentsMoved(jumps(), later, 5, Keeping::length);
        QCOMPARE(kept[2].output, Rational(100));
        QCOMPARE(kept[2].position, Rational(45));
        QCOMPARE(kept[3].output, Rational(156));
    }

    void keysAreScaledAboutOne() {
        const std::vector<std::size_t> both{1, 2};
        const TimeKeys out = withMomentsScaled(jumps(), both, 1, 2, Keeping::speeds);
        QCOMPARE(out[1].position, Rational(20));
        QCOMPARE(out[2].position, Rational(60));
        QCOMPARE(out[2].output, Rational(20 + 160));      // 40 frames at 25 %
        QCOMPARE(out[3].output, Rational(20 + 160 + 36)); // 36 at 100 %
        QCOMPARE(withMomentsScaled(out, both, 1, Rational(1, 2), Keeping::speeds), jumps());
        QVERIFY_THROWS_EXCEPTION(Error, withMomentsScaled(jumps(), both, 1, 0, Keeping::speeds));
        QVERIFY_THROWS_EXCEPTION(Error,
                                 withMomentsScaled(jumps(), both, 1, 4, Keeping::speeds)); // past the end
    }

    void whatStaysWhileASpeedChanges_data() {
        QTest::addColumn<int>("anchor");
        QTest::addColumn<int>("begin");
        QTest::addColumn<int>("end");
        // 20 source frames at 50 % take 40 output frames instead of those from 20 to 100.
        QTest::newRow("first") << 20 << 20 << 60;
        QTest::newRow("last") << 100 << 60 << 100;
        QTest::newRow("middle") << 60 << 40 << 80;
        QTest::newRow("a quarter") << 40 << 30 << 70;
    }

    void whatStaysWhileASpeedChanges() {
        QFETCH(int, anchor);
        QFETCH(int, begin);
        QFETCH(int, end);
        const TimeKeys out = withSegmentSpeedAbout(jumps(), 1, Rational(1, 2), anchor);
        QCOMPARE(out[1].output, Rational(begin));
        QCOMPARE(out[2].output, Rational(end));
        QCOMPARE(out[3].output, Rational(156));
        // What shows at the anchor is the same.
        QCOMPARE(TimeMap(out).positionAt(anchor), TimeMap(jumps()).positionAt(anchor));
        for (std::size_t k = 0; k < out.size(); ++k)
            QCOMPARE(out[k].position, jumps()[k].position);
    }

    void nothingStaysWhereThereIsNoRoom() {
        QVERIFY_THROWS_EXCEPTION(Error, withSegmentSpeedAbout(jumps(), 1, Rational(1, 2), 101));
        QVERIFY_THROWS_EXCEPTION(Error, withSegmentSpeedAbout(jumps(), 0, Rational(1, 2), 20));
        QVERIFY_THROWS_EXCEPTION(Error, withSegmentSpeedAbout(jumps(), 1, Rational(1, 10), 60));
    }

    void keysDoNotPass() {
        QVERIFY_THROWS_EXCEPTION(Error, withMomentsMoved(jumps(), numbers(1, 1), 20, Keeping::speeds));
        QVERIFY_THROWS_EXCEPTION(Error, withMomentsMoved(jumps(), numbers(1, 1), -20, Keeping::speeds));
        QVERIFY_THROWS_EXCEPTION(Error, withMomentsMoved(jumps(), numbers(0, 0), 1, Keeping::speeds));
        QVERIFY_THROWS_EXCEPTION(Error, withMomentsMoved(jumps(), numbers(3, 3), 1, Keeping::speeds));
    }

    void bothKeysOfAFreezeMove() {
        const TimeKeys frozen =
            withFreeze({{0, 0, constant, std::nullopt}, {96, 96, constant, std::nullopt}}, 30, 24);
        const TimeKeys out = withMomentsMoved(frozen, numbers(1, 1), 5, Keeping::speeds);
        QCOMPARE(out[1].position, Rational(35));
        QCOMPARE(out[2].position, Rational(35));
        QCOMPARE(out[2].output - out[1].output, Rational(24));
        QCOMPARE(out.back().output, frozen.back().output);
    }

    void anEaseMovesNothingElse() {
        const TimeKeys keys = jumps();
        const TimeKeys out = withEase(keys, 1, 6, 10);
        QCOMPARE(out.size(), keys.size() + 1);
        QCOMPARE(out[1].position, Rational(14));    // six frames earlier at 100 %
        QCOMPARE(out[2].position, Rational(45, 2)); // ten later at 25 %
        QCOMPARE(out.back().output, keys.back().output);
        const TimeMap before(keys);
        const TimeMap after(out);
        for (std::int64_t n = 0; n < 156; ++n)
            if (n <= 14 || n >= 30) QCOMPARE(after.at(n), before.at(n));
        // Speed goes from one to the other without a jump and without leaving their range.
        for (const double o : steps(14.01, 30, 0.01)) {
            QVERIFY(after.speedAt(o) <= 1 + 1e-9);
            QVERIFY(after.speedAt(o) >= 0.25 - 1e-9);
            QVERIFY(std::abs(after.speedAt(o) - after.speedAt(o - 0.01)) < 0.002);
        }
        QVERIFY_THROWS_EXCEPTION(Error, withEase(keys, 1, 30, 1));
        QVERIFY_THROWS_EXCEPTION(Error, withEase(out, 1, 2, 2)); // no jump there any more
        QVERIFY_THROWS_EXCEPTION(Error, withEase(keys, 1, 0, 0));
    }

    void anEaseCanReachToTheNextKey() {
        const TimeKeys keys = jumps();
        const TimeKeys out = withEase(keys, 1, 20, 80);
        QCOMPARE(out.size(), std::size_t{3});
        const TimeMap map(out);
        QVERIFY(std::abs(map.speedAt(0) - 1) < 1e-9);
        QVERIFY(std::abs(map.speedAt(99.9999) - 0.25) < 1e-3);
        QCOMPARE(out.back().output, keys.back().output);
    }

    void theSpeedOfAKeyActsInItsEases() {
        const TimeKeys keys{
            {0, 0, eased, std::nullopt}, {20, 20, eased, std::nullopt}, {60, 40, constant, std::nullopt}};
        const TimeKeys out = withKeySpeed(keys, 1, Rational(1, 10));
        QVERIFY(std::abs(TimeMap(out).speedAt(20) - 0.1) < 1e-12);
        QVERIFY(std::abs(TimeMap(out).positionAt(20) - 20) < 1e-12);
        QVERIFY_THROWS_EXCEPTION(Error, withKeySpeed(jumps(), 1, Rational(1, 2)));
    }

    void aKeyLandsOnFrames() {
        TimeKeys keys = withSegmentSpeed(jumps(), 1, Rational(3, 10)); // 66.67 output frames
        QCOMPARE(keys[2].output, Rational(260, 3));
        keys = withKeyLanded(keys, 2);
        QCOMPARE(keys[2].output, Rational(87));
        QCOMPARE(keys[2].position, Rational(40));
        QCOMPARE(keys[3].output, Rational(428, 3)); // the end stays
    }

    void aSpeedBetweenTwoPlaces() {
        const TimeKeys keys{{0, 0, constant, std::nullopt}, {96, 96, constant, std::nullopt}};
        const TimeKeys out = withSpeedBetween(keys, 24, 48, Rational(1, 2));
        QCOMPARE(out.size(), std::size_t{4});
        QCOMPARE(out[1].output, Rational(24));
        QCOMPARE(out[2].output, Rational(72)); // 24 source frames at half speed
        QCOMPARE(out[2].position, Rational(48));
        QCOMPARE(out[3].output, Rational(120));
        const TimeKeys kept = withSpeedBetween(keys, 24, 48, Rational(1, 2), Rational(24));
        QCOMPARE(kept.back().output, Rational(96));
        QCOMPARE(kept[2].output, Rational(72));
        // With its end in its place: 24 source frames at three quarters last 32, from 16 on.
        const TimeKeys ended = withSpeedBetween(keys, 24, 48, Rational(3, 4), Rational(48));
        QCOMPARE(ended[1].output, Rational(16));
        QCOMPARE(ended[2].output, Rational(48));
        QCOMPARE(ended.back().output, Rational(96));
        // Over a ramp: the keys inside go, the source moments at its ends stay.
        const TimeKeys flat = withSpeedBetween(ramp(), 6, 130, 1);
        QCOMPARE(flat.size(), std::size_t{4});
        QCOMPARE(flat.back().output, Rational(96));
        QVERIFY_THROWS_EXCEPTION(Error, withSpeedBetween(keys, 48, 24, 1));
    }

    void aRewindShowsTheStretchThreeTimes() {
        const TimeKeys keys{{0, 0, constant, std::nullopt}, {96, 96, constant, std::nullopt}};
        const TimeKeys out = withRewind(keys, 24, 48);
        const TimeMap map(out);
        QCOMPARE(out.back().output, Rational(96 + 48));
        QCOMPARE(map.at(48).frame, std::int64_t{48});
        QCOMPARE(map.at(60).frame, std::int64_t{36});
        QCOMPARE(map.at(72).frame, std::int64_t{24});
        QCOMPARE(map.at(84).frame, std::int64_t{36});
        QCOMPARE(map.at(143).frame, std::int64_t{95});
        const TimeMap whole(withRewind(ramp(), 6, 130));
        const TimeMap once(ramp());
        for (const double o : steps(6, 130, 0.5))
            QVERIFY(std::abs(whole.positionAt(130 + (130 - o)) - once.positionAt(o)) < 1e-6);
    }

    void speedsMatchAtACut() {
        const TimeKeys plain{{0, 0, constant, std::nullopt}, {96, 96, constant, std::nullopt}};
        const TimeKeys begun = withBeginSpeed(plain, Rational(1, 4), 12);
        QCOMPARE(begun[1].position, Rational(12));
        QCOMPARE(begun[1].output, Rational(19)); // 12 frames at a mean of 62.5 % are 19.2
        const TimeMap map(begun);
        QVERIFY(std::abs(map.speedAt(0) - 0.25) < 1e-9);
        QVERIFY(std::abs(map.speedAt(18.9999) - 1) < 1e-3);
        QCOMPARE(begun.back().position, Rational(96));
        const TimeKeys ended = withEndSpeed(plain, 2, 12);
        QVERIFY(std::abs(TimeMap(ended).speedAt(ended.back().output.toDouble() - 1e-6) - 2) < 1e-3);
        QCOMPARE(ended[1].position, Rational(84));
        QCOMPARE(ended.back().output, Rational(92));
        QVERIFY_THROWS_EXCEPTION(Error, withBeginSpeed(plain, -2, 12));
        QVERIFY_THROWS_EXCEPTION(Error, withBeginSpeed(begun, Rational(1, 2), 12));
    }

    void whatIsCopiedIsPastedByMoment() {
        const TimeKeys copied = excerpt(ramp(), 12, 118); // 8 in, 20 slow, 8 out
        QCOMPARE(copied.back().position - copied.front().position, Rational(36));
        const TimeKeys plain{{0, 0, constant, std::nullopt}, {96, 96, constant, std::nullopt}};
        const TimeKeys out = withExcerpt(plain, copied, 50);
        const TimeMap from(ramp());
        const TimeMap to(out);
        QCOMPARE(out.back().output, Rational(96 - 36 + 106));
        for (const double o : steps(0, 106 + 1e-9, 0.5))
            QVERIFY(std::abs(to.positionAt(50 + o) - (from.positionAt(12 + o) - 12 + 50)) < 1e-6);
        for (const double o : steps(0, 50, 1))
            QCOMPARE(to.positionAt(o), o);
        QVERIFY_THROWS_EXCEPTION(Error, withExcerpt(plain, copied, 70)); // no room
        QVERIFY_THROWS_EXCEPTION(Error, withExcerpt(reversed(plain, 0, 95), copied, 10));
    }

    void copyingAndPastingInPlaceChangesNothing() {
        std::mt19937 random(12);
        for (int round = 0; round < 200; ++round) {
            const TimeKeys keys = randomRamps(random);
            const TimeMap before(keys);
            const std::size_t first = random() % 4;
            const std::size_t last = first + 1 + random() % 4;
            const TimeKeys out =
                withExcerpt(keys, excerpt(keys, keys[first].output, keys[last].output), keys[first].position);
            const TimeMap after(out);
            for (const double o : steps(0, keys.back().output.toDouble() + 1e-9, 0.7))
                QVERIFY(std::abs(after.positionAt(o) - before.positionAt(o)) < 1e-6);
        }
    }
};

QTEST_APPLESS_MAIN(TestKeyEdits)
#include "test_key_edits.moc"
