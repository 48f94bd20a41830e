// Handles: the shot goes on at the speed of its ends, and what it showed stays where it was.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over <span>
#include "core/time/handles.h"
#include "core/time/map_edits.h"
#endif

#include <QTest>

using namespace yarngap;

namespace {

constexpr std::int64_t media = 200;

Timing timingOf(std::int64_t from, std::int64_t to, const Rational& speed = 1) {
    return {.sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = from, .to = to, .speed = speed};
}

} // namespace

class TestHandles : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void framesStayWhereTheyWere_data() {
        QTest::addColumn<int>("percent");
        QTest::addColumn<bool>("backwards");
        for (const int percent : {25, 37, 100, 250})
            for (const bool backwards : {false, true})
                QTest::addRow("%d %% %s", percent, backwards ? "backwards" : "") << percent << backwards;
    }
    void framesStayWhereTheyWere() {
        QFETCH(int, percent);
        QFETCH(bool, backwards);
        Timing timing = timingOf(60, 119, Rational(percent, 100));
        if (backwards) timing.keys = reversed(timing.asKeys(), timing.from, timing.to);
        const WithHandles with = withHandles(timing, 12, 12, media);
        QCOMPARE(with.before, 12);
        QCOMPARE(with.after, 12);
        QCOMPARE(with.timing.outputFrames(), timing.outputFrames() + 24);
        const TimeMap before = timing.map();
        const TimeMap after = with.timing.map();
        for (std::int64_t n = 0; n < timing.outputFrames(); ++n)
            QCOMPARE(after.at(n + 12).toDouble(), before.at(n).toDouble());
        // Steps outside are those at the ends.
        const double step = before.at(1).toDouble() - before.at(0).toDouble();
        QVERIFY(std::abs(after.at(1).toDouble() - after.at(0).toDouble() - step) < 1e-9);
        QVERIFY(with.timing.from >= 0 && with.timing.to < media);
    }

    void theFileSetsTheLimit() {
        const WithHandles begin = withHandles(timingOf(5, 119), 12, 12, media);
        QCOMPARE(begin.before, 5);
        QCOMPARE(begin.after, 12);
        const WithHandles end = withHandles(timingOf(60, 195), 12, 12, media);
        QCOMPARE(end.before, 12);
        QCOMPARE(end.after, 4); // 196 to 199
        const WithHandles whole = withHandles(timingOf(0, media - 1), 12, 12, media);
        QCOMPARE(whole.before, 0);
        QCOMPARE(whole.after, 0);
        QCOMPARE(whole.timing, timingOf(0, media - 1));
        const WithHandles slow = withHandles(timingOf(2, 119, Rational(1, 4)), 12, 0, media);
        QCOMPARE(slow.before, 8); // two source frames at a quarter
    }

    void aFreezeGoesOnStanding() {
        Timing timing = timingOf(40, 40);
        timing.keys = {{0, 40, Segment::hold, std::nullopt}, {48, 40, Segment::constant, std::nullopt}};
        const WithHandles with = withHandles(timing, 10, 6, media);
        QCOMPARE(with.timing.outputFrames(), 64);
        for (std::int64_t n = 0; n < 64; ++n)
            QCOMPARE(with.timing.map().at(n).toDouble(), 40.0);
    }

    void anEasedEndGoesOnAtItsSpeed() {
        Timing timing = timingOf(40, 119);
        timing.keys = withRamp(
            timing.asKeys(),
            {.from = Rational(60), .to = Rational(90), .step = Rational(1, 2), .ease = Rational(10)});
        const WithHandles with = withHandles(timing, 8, 8, media);
        const TimeMap before = timing.map();
        const TimeMap after = with.timing.map();
        for (std::int64_t n = 0; n < timing.outputFrames(); ++n)
            QVERIFY(std::abs(after.at(n + with.before).toDouble() - before.at(n).toDouble()) < 1e-6);
    }
};

QTEST_APPLESS_MAIN(TestHandles)
#include "test_handles.moc"
