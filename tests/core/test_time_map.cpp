// Time maps with keys: what they promise, on random maps and on cases worked out by hand.

#include "core/error.h"
#include "core/time/frame_plan.h"
#include "core/time/map_edits.h"
#include "support/steps.h"
#include "support/timings.h"

#include <QTest>

#include <random>

using namespace yarngap;
using test::steps;
using test::timingOf;

namespace {

TimeKeys line(std::int64_t frames, const Rational& step) {
    return {{0, 0, Segment::constant, std::nullopt},
            {Rational(frames) / step, frames, Segment::constant, std::nullopt}};
}

/// Random keys that only go forwards, some segments eased.
TimeKeys randomForwards(std::mt19937& random, int count) {
    std::uniform_int_distribution<std::int64_t> outputs(1, 40);
    std::uniform_int_distribution<std::int64_t> positions(0, 60);
    TimeKeys keys{{0, 0, Segment::constant, std::nullopt}};
    for (int i = 1; i < count; ++i) {
        const std::int64_t by = positions(random);
        TimeKey& before = keys.back();
        before.after = by == 0 ? Segment::hold : random() % 2 == 0 ? Segment::eased : Segment::constant;
        const TimeKey key{before.output + Rational(outputs(random), 2), before.position + Rational(by, 3),
                          Segment::constant, std::nullopt};
        keys.push_back(key);
    }
    return keys;
}

std::vector<double> stepsOf(const TimeKeys& keys) {
    std::vector<double> found;
    for (std::size_t i = 0; i + 1 < keys.size(); ++i)
        found.push_back(
            ((keys[i + 1].position - keys[i].position) / (keys[i + 1].output - keys[i].output)).toDouble());
    return found;
}

} // namespace

class TestTimeMap : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void theOutputOfAMomentIsFoundAtAnyDistance_data() {
        QTest::addColumn<int>("percent");
        for (const int percent : {10, 25, 40, 100, 250})
            QTest::addRow("%d %%", percent) << percent;
    }
    void theOutputOfAMomentIsFoundAtAnyDistance() {
        QFETCH(int, percent);
        const TimeMap map(12, Rational(percent, 100));
        for (const double output : {0.0, 0.5, 1.0, 7.25, 188.0, 5000.0}) {
            const auto found = map.outputAt(12 + output * percent / 100);
            QVERIFY(found.has_value());
            QVERIFY2(std::abs(*found - output) < 1e-6, qPrintable(QString::number(*found)));
        }
        QVERIFY(!map.outputAt(11.9)); // before the first frame
    }

    void keysAreMetExactly() {
        std::mt19937 random(5);
        for (int round = 0; round < 200; ++round) {
            const TimeKeys keys = randomForwards(random, 12);
            const TimeMap map(keys);
            for (const TimeKey& key : keys)
                if (key.output.den() == 1) {
                    const Position at = map.at(key.output.num());
                    QCOMPARE(Rational(at.frame) + at.phase, key.position);
                }
        }
    }

    void forwardsStaysForwardsAndContinuous() {
        std::mt19937 random(6);
        for (int round = 0; round < 200; ++round) {
            const TimeKeys keys = randomForwards(random, 12);
            const TimeMap map(keys);
            const double end = keys.back().output.toDouble();
            double before = map.positionAt(0);
            for (const double o : steps(0.01, end + 1e-9, 0.01)) {
                const double now = map.positionAt(o);
                QVERIFY2(now >= before - 1e-9, qPrintable(QString::number(o)));
                QVERIFY(now - before < 0.01 * 500); // no jump
                before = now;
            }
            // No overshoot: every segment stays between its keys.
            for (std::size_t i = 0; i + 1 < keys.size(); ++i)
                for (const double u : steps(0, 1, 0.05)) {
                    const double o =
                        keys[i].output.toDouble() + u * (keys[i + 1].output - keys[i].output).toDouble();
                    QVERIFY(map.positionAt(o) >= keys[i].position.toDouble() - 1e-6);
                    QVERIFY(map.positionAt(o) <= keys[i + 1].position.toDouble() + 1e-6);
                }
        }
    }

    void speedIsTheDerivativeAndContinuousThroughAnEasedKey() {
        const TimeKeys keys{
            {0, 0, Segment::constant, std::nullopt},   {20, 20, Segment::eased, std::nullopt},
            {40, 28, Segment::eased, std::nullopt},    {60, 30, Segment::eased, std::nullopt},
            {70, 35, Segment::constant, std::nullopt}, {80, 45, Segment::constant, std::nullopt}};
        const TimeMap map(keys);
        for (const double o : steps(0.5, 80, 0.37)) {
            const double slope = (map.positionAt(o + 1e-5) - map.positionAt(o - 1e-5)) / 2e-5;
            QVERIFY2(std::abs(slope - map.speedAt(o)) < 1e-3, qPrintable(QString::number(o)));
        }
        for (const double key : {20.0, 40.0, 60.0, 70.0})
            QVERIFY2(std::abs(map.speedAt(key - 1e-7) - map.speedAt(key + 1e-7)) < 1e-5,
                     qPrintable(QString::number(key)));
        QCOMPARE(map.speedAt(20), 1.0); // that of the constant segment before
        QCOMPARE(map.speedAt(70), 1.0);
    }

    void aNarrowEaseNeverTurnsAround() {
        // From 100 % to 20 % in 100 output frames over 10 source frames only: 0.1 on the mean.
        const TimeMap map({{0, 0, Segment::constant, std::nullopt},
                           {10, 10, Segment::eased, std::nullopt},
                           {110, 20, Segment::constant, std::nullopt},
                           {160, 30, Segment::constant, std::nullopt}});
        QVERIFY(std::abs(map.speedAt(10) - 1) < 1e-9);
        QVERIFY(std::abs(map.speedAt(110 - 1e-6) - 0.2) < 1e-4);
        for (const double o : steps(10, 110, 0.1))
            QVERIFY(map.speedAt(o) >= 0);
        QVERIFY(std::abs(map.positionAt(110) - 20) < 1e-9);
    }

    void nothingDriftsOverADay() {
        // 24 hours of 59.94 from 23.976 material: two fifths of a frame each.
        const TimeMap map(7, Rational(24000, 1001) / Rational(60000, 1001));
        const std::int64_t day = std::int64_t{24} * 3600 * 60000 / 1001;
        QCOMPARE(map.at(day).frame, 7 + day * 2 / 5);
        QCOMPARE(map.at(day).phase, Rational(day * 2 % 5, 5));
    }

    void wrongKeysAreRefusedByNumber_data() {
        QTest::addColumn<int>("wrong");
        for (int i = 0; i < 7; ++i)
            QTest::addRow("%d", i) << i;
    }
    void wrongKeysAreRefusedByNumber() {
        QFETCH(int, wrong);
        TimeKeys keys{{0, 0, Segment::constant, std::nullopt},
                      {10, 5, Segment::constant, std::nullopt},
                      {20, 9, Segment::constant, std::nullopt}};
        validateKeys(keys);
        QString number = QStringLiteral("Key 2");
        switch (wrong) {
        case 0:
            keys[1].output = 0; // on top of the first
            break;
        case 1:
            keys[1].output = 25;
            number = QStringLiteral("Key 3");
            break;
        case 2:
            keys[0].after = Segment::hold;
            break;
        case 3:
            keys[0].output = 1;
            number = QStringLiteral("Key 1");
            break;
        case 4:
            keys[1].position = 2000;
            break;
        case 5:
            keys[2].speed = 101;
            number = QStringLiteral("Key 3");
            break;
        default:
            keys.resize(1);
            number = QStringLiteral("at least 2 keys");
        }
        try {
            const TimeMap map(keys);
            QFAIL("accepted");
        } catch (const Error& error) {
            QVERIFY2(QString::fromStdString(error.what()).contains(number), error.what());
        }
    }

    void rippleLeavesOtherSpeedsAlone() {
        std::mt19937 random(8);
        for (int round = 0; round < 100; ++round) {
            const TimeKeys keys = randomForwards(random, 10);
            const auto i = random() % (keys.size() - 1);
            if (keys[i].after == Segment::hold) continue;
            const Rational step(static_cast<std::int64_t>(random() % 40) + 1, 20);
            const TimeKeys edited = withSegmentSpeed(keys, i, step);
            const auto before = stepsOf(keys);
            const auto after = stepsOf(edited);
            for (std::size_t k = 0; k < before.size(); ++k)
                QCOMPARE(after[k], k == i ? step.toDouble() : before[k]);
            for (std::size_t k = 0; k < keys.size(); ++k)
                QCOMPARE(edited[k].position, keys[k].position);
        }
    }

    void keepingTheLengthKeepsIt() {
        const TimeKeys keys{{0, 0, Segment::constant, std::nullopt},
                            {40, 40, Segment::constant, std::nullopt},
                            {90, 50, Segment::constant, std::nullopt},
                            {120, 80, Segment::constant, std::nullopt}};
        const TimeKeys middle = withSegmentSpeedAbout(keys, 1, Rational(1, 4), 40);
        QCOMPARE(middle[2].output, Rational(80)); // ten frames at a quarter last 40
        QCOMPARE(middle.back().output, Rational(120));
        QCOMPARE(middle[1].output, Rational(40));
        const TimeKeys last = withSegmentSpeedAbout(keys, 2, Rational(3, 2), 120);
        QCOMPARE(last.back().output, Rational(120));
        QCOMPARE(last[2].output, Rational(100)); // the stretch before takes it up
        QVERIFY_THROWS_EXCEPTION(Error, withSegmentSpeedAbout(keys, 1, Rational(1, 8), 40));
        QVERIFY_THROWS_EXCEPTION(Error, withSegmentSpeedAbout(line(10, 1), 0, Rational(1, 2), 0));
        QVERIFY_THROWS_EXCEPTION(Error, withSegmentSpeed(keys, 1, 0));
        QVERIFY_THROWS_EXCEPTION(Error, withSegmentSpeed(keys, 1, Rational(-1)));
    }

    void aKeyPutOnAndTakenOffChangesNothing() {
        std::mt19937 random(9);
        for (int round = 0; round < 100; ++round) {
            const TimeKeys keys = randomForwards(random, 8);
            const Rational place(static_cast<std::int64_t>(random() % 1000), 37);
            if (place <= Rational(0) || place >= keys.back().output) continue;
            TimeKeys with;
            try {
                with = withKeyAt(keys, place);
            } catch (const Error&) {
                continue; // there is a key
            }
            const TimeMap a(keys);
            const TimeMap b(with);
            const auto put =
                std::find_if(with.begin(), with.end(), [&](const TimeKey& k) { return k.output == place; });
            const bool eased = put->after == Segment::eased;
            for (const double o : steps(0, keys.back().output.toDouble(), 0.7))
                if (!eased) QVERIFY(std::abs(a.positionAt(o) - b.positionAt(o)) < 1e-9);
            if (eased) continue;
            QVERIFY(withoutKey(with, static_cast<std::size_t>(put - with.begin())) == keys);
        }
    }

    void aRampKeepsTheSpeedAround() {
        // 100 source frames; frames 40 to 60 at a quarter, eased over 10 on either side.
        const TimeKeys keys =
            withRamp(line(100, 1), {.from = 40, .to = 60, .step = Rational(1, 4), .ease = 10});
        QCOMPARE(keys.size(), std::size_t{6});
        const TimeMap map(keys);
        // 30 at 100 %, 10 at 62.5 % on the mean (16), 20 at 25 % (80), 16, 30.
        QCOMPARE(keys.back().output, Rational(172));
        QCOMPARE(map.speedAt(10), 1.0);
        QCOMPARE(map.speedAt(100), 0.25);
        QCOMPARE(map.speedAt(170), 1.0);
        QVERIFY(std::abs(map.speedAt(38) - 0.625) < 1e-9); // half way through the ease
        QCOMPARE(map.at(46).frame, 40);
        QCOMPARE(map.at(46).phase, Rational(0));
        // No room before: the ease is cut, the slow stretch is not.
        const TimeKeys atStart =
            withRamp(line(100, 1), {.from = 0, .to = 10, .step = Rational(1, 2), .ease = 10});
        QCOMPARE(TimeMap(atStart).speedAt(5), 0.5);
        QVERIFY_THROWS_EXCEPTION(Error,
                                 withRamp(keys, {.from = 35, .to = 65, .step = Rational(1, 2), .ease = 0}));
    }

    void aFreezeStandsStillForItsLength() {
        const TimeKeys keys = withFreeze(line(100, Rational(1, 2)), 30, 48);
        QCOMPARE(keys.back().output, Rational(248));
        const TimeMap map(keys);
        for (const std::int64_t n : {60, 61, 90, 108})
            QCOMPARE(map.at(n), (Position{30, 0}));
        QCOMPARE(map.at(59), (Position{29, Rational(1, 2)}));
        QCOMPARE(map.at(109), (Position{30, Rational(1, 2)}));
        QVERIFY_THROWS_EXCEPTION(Error, withFreeze(keys, 500, 10));
        QVERIFY_THROWS_EXCEPTION(Error, withFreeze(keys, 50, 0));
    }

    void aStopCanBeEased() {
        const TimeKeys keys = withFreeze(line(100, 1), 50, 20, 8);
        const TimeMap map(keys);
        // 42 at full speed, 8 frames slowing to rest in 16, 20 still, 16 back to speed, 42.
        QCOMPARE(keys.back().output, Rational(136));
        QCOMPARE(map.at(58), (Position{50, 0}));
        QCOMPARE(map.at(78), (Position{50, 0}));
        QVERIFY(std::abs(map.speedAt(42.001) - 1) < 0.001);
        QVERIFY(std::abs(map.speedAt(57.999)) < 0.001);
        QVERIFY(std::abs(map.speedAt(50) - 0.5) < 1e-9);
    }

    void reversingTwiceIsNothing() {
        std::mt19937 random(10);
        const TimeKeys keys = randomForwards(random, 9);
        QVERIFY(reversed(reversed(keys, 3, 90), 3, 90) == keys);
        const TimeMap back(reversed(line(96, Rational(1, 4)), 0, 95));
        QCOMPARE(back.at(0), (Position{95, 0}));
        QCOMPARE(back.at(4), (Position{94, 0}));
        QCOMPARE(back.at(1), (Position{94, Rational(3, 4)}));
    }

    void thereAndBackComesBack() {
        const TimeKeys keys = thereAndBack(line(50, 1), 49);
        QCOMPARE(keys.back().output, Rational(99)); // the first frame is shown at the end too
        const TimeMap map(keys);
        for (std::int64_t n = 0; n <= 98; ++n)
            QCOMPARE(map.at(n), (Position{n <= 49 ? n : 98 - n, 0}));
        const TimeMap eased(thereAndBack(line(50, 1), 49, 10));
        QCOMPARE(eased.at(59), (Position{49, 0})); // ten frames take twenty to come to rest
        QVERIFY(std::abs(eased.speedAt(59)) < 1e-9);
        for (const double d : steps(0.5, 59, 0.5))
            QVERIFY(std::abs(eased.positionAt(59 - d) - eased.positionAt(59 + d)) < 1e-9);
        QCOMPARE(thereAndBack(line(50, 1), 49, 0, 2).back().output, Rational(197));
        QVERIFY_THROWS_EXCEPTION(Error, thereAndBack(line(50, 1), 60));
    }

    void outputsAreFoundAgain() {
        std::mt19937 random(12);
        for (int round = 0; round < 50; ++round) {
            const TimeKeys keys = randomForwards(random, 10);
            const TimeMap map(keys);
            for (const double o : steps(0, keys.back().output.toDouble(), 3.3)) {
                const auto found = map.outputAt(map.positionAt(o));
                QVERIFY(found.has_value());
                QVERIFY(std::abs(map.positionAt(*found) - map.positionAt(o)) < 1e-6);
            }
        }
        QVERIFY(!TimeMap(line(10, 1)).outputAt(11));
    }

    void allPositionsAtOnceAreTheSame() {
        std::mt19937 random(13);
        const TimeKeys keys = randomForwards(random, 40);
        const TimeMap map(keys);
        const auto all = map.positions(keys.back().output.floor());
        for (std::size_t n = 0; n < all.size(); ++n) {
            QCOMPARE(all[n], map.positionAt(static_cast<double>(n)));
            QVERIFY(std::abs(all[n] - map.at(static_cast<std::int64_t>(n)).toDouble()) < 1e-6);
        }
    }

    void aConstantSpeedAsKeysGivesTheSamePlan() {
        for (const Method method : {Method::sample, Method::blend, Method::flow})
            for (const Rational& speed : {Rational(1, 4), Rational(1, 3), Rational(1), Rational(3)}) {
                Timing constant = timingOf({}, 96);
                constant.speed = speed;
                Timing keyed = constant;
                keyed.keys = constant.asKeys();
                QVERIFY(makePlan(keyed, method, 100).rows == makePlan(constant, method, 100).rows);
            }
    }

    void plansOfFreezesReversalsAndTurns() {
        const FramePlan freeze = makePlan(timingOf(withFreeze(line(20, 1), 10, 5), 20), Method::flow, 20);
        QCOMPARE(freeze.rows.size(), std::size_t{25});
        QCOMPARE(freeze.count(FrameKind::original), std::int64_t{20});
        QCOMPARE(freeze.count(FrameKind::repeat), std::int64_t{5});
        QCOMPARE(freeze.rows[10].kind, FrameKind::original);
        QCOMPARE(freeze.rows[15].first, std::int64_t{10});

        const FramePlan back =
            makePlan(timingOf(reversed(line(20, Rational(1, 2)), 0, 19), 20), Method::flow, 20);
        QCOMPARE(back.rows.size(), std::size_t{40});
        QCOMPARE(back.rows[0].first, std::int64_t{19});
        QCOMPARE(back.rows[1].kind, FrameKind::flow);
        QCOMPARE(back.rows[1].first, std::int64_t{18});
        QCOMPARE(back.rows[1].last, std::int64_t{19});
        QCOMPARE(back.rows[38].first, std::int64_t{0});
        QCOMPARE(back.rows[39].kind, FrameKind::held); // half a frame before the first
        QCOMPARE(back.rows[39].first, std::int64_t{0});

        const FramePlan turn = makePlan(timingOf(thereAndBack(line(20, 1), 19), 20), Method::sample, 20);
        QCOMPARE(turn.rows[19].first, std::int64_t{19});
        QCOMPARE(turn.rows[20].first, std::int64_t{18});
        QCOMPARE(turn.count(FrameKind::held), std::int64_t{0});
    }

    void mapsThatLeaveTheFileStayAtItsEnds() {
        const TimeKeys keys{{0, -30, Segment::constant, std::nullopt},
                            {60, 60, Segment::constant, std::nullopt}};
        for (const Method method : {Method::sample, Method::blend, Method::flow}) {
            const FramePlan plan = makePlan(timingOf(keys, 20), method, 20);
            for (const PlanRow& row : plan.rows)
                QVERIFY(row.first >= 0 && row.last <= 19 && row.first <= row.last);
            QCOMPARE(plan.rows.front().kind, FrameKind::held);
            QCOMPARE(plan.rows.back().kind, FrameKind::held);
        }
    }

    void lengthsStretchAMapThatVaries() {
        Timing timing =
            timingOf(withRamp(line(100, 1), {.from = 40, .to = 60, .step = Rational(1, 4), .ease = 10}), 100);
        QCOMPARE(timing.outputFrames(), std::int64_t{172});
        const Timing twice = withLengthFrames(timing, 344);
        QCOMPARE(twice.outputFrames(), std::int64_t{344});
        QCOMPARE(TimeMap(twice.keys).speedAt(200), 0.125);
        QCOMPARE(withLengthSeconds(timing, 10).outputFrames(), std::int64_t{240});
        QVERIFY(withSpeed(twice, Rational(1, 2)).keys.empty());
    }
};

QTEST_APPLESS_MAIN(TestTimeMap)
#include "test_time_map.moc"
