// The frame plan: which source frames make which output frame, and what it says of itself.

#include "core/error.h"
#include "core/shot/shot.h"
#include "core/time/frame_plan.h"
#include "core/time/map_edits.h"

#include <QTest>

#include <numeric>

using namespace yarngap;

namespace {

Timing timing(std::int64_t from, std::int64_t to, const Rational& speed, const Rate& source = Rate(24, 1),
              const Rate& output = Rate(24, 1)) {
    return {.sourceRate = source, .outputRate = output, .from = from, .to = to, .speed = speed};
}

std::vector<std::int64_t> firsts(const FramePlan& plan) {
    std::vector<std::int64_t> out;
    for (const PlanRow& row : plan.rows)
        out.push_back(row.first);
    return out;
}

SynthesisOptions& synthesisOf(Treatment& treatment) {
    return treatment.settings.everywhere().inBetweens.synthesis;
}

QString kinds(const FramePlan& plan) {
    QString out;
    for (const PlanRow& row : plan.rows)
        out += QLatin1Char("orbfh"[static_cast<int>(row.kind)]);
    return out;
}

} // namespace

class TestFramePlan : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void fullSpeedIsAllOriginals() {
        for (const Method method : {Method::sample, Method::blend, Method::flow}) {
            const FramePlan plan = makePlan(timing(3, 12, 1), method, 20);
            QCOMPARE(kinds(plan), QStringLiteral("oooooooooo"));
            QCOMPARE(plan.rows.front().first, 3);
            QCOMPARE(plan.rows.back().first, 12);
            QVERIFY(plan.tail == Tail::none);
        }
    }

    void quarterSpeedFlowAtTheEndOfTheFile() {
        const FramePlan plan = makePlan(timing(0, 2, Rational(1, 4)), Method::flow, 3);
        QCOMPARE(kinds(plan), QStringLiteral("offfofffohhh"));
        QCOMPARE(plan.rows[3].position, (Position{0, Rational(3, 4)}));
        QCOMPARE(plan.rows[3].first, 0);
        QCOMPARE(plan.rows[3].last, 1);
        QVERIFY(plan.tail == Tail::held);
        QCOMPARE(plan.tailFrames, 3);
        QVERIFY(QString::fromStdString(plan.endsSentence()).contains("3 output frames"));
    }

    void tailUsesFramesBeyondTheTrimWhereTheFileHasThem() {
        const FramePlan plan = makePlan(timing(0, 2, Rational(1, 4)), Method::flow, 10);
        QCOMPARE(kinds(plan), QStringLiteral("offfofffofff"));
        QCOMPARE(plan.rows.back().last, 3);
        QVERIFY(plan.tail == Tail::beyondTrim);
        QCOMPARE(plan.tailFrames, 3);
    }

    void samplingShowsTheNearestAndMarksTheRepeats() {
        // 50 %: positions 0, ½, 1, 1½ …; a tie goes to the earlier frame, so each is shown twice.
        const FramePlan half = makePlan(timing(0, 3, Rational(1, 2)), Method::sample, 4);
        QCOMPARE(firsts(half), (std::vector<std::int64_t>{0, 0, 1, 1, 2, 2, 3, 3}));
        QCOMPARE(kinds(half), QStringLiteral("orororor"));
        // 25 %: frame 1 is nearest from 0.75 to 1.5; the one at exactly 1 is the original.
        const FramePlan quarter = makePlan(timing(0, 2, Rational(1, 4)), Method::sample, 3);
        QCOMPARE(firsts(quarter), (std::vector<std::int64_t>{0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 2}));
        QCOMPARE(kinds(quarter), QStringLiteral("orrrorrrorrh"));
        QCOMPARE(quarter.tailFrames, 1); // 2.75 is nearer to a frame 3 that is not used
    }

    void samplingNeverLeavesTheTrim() {
        const FramePlan plan = makePlan(timing(0, 2, Rational(1, 4)), Method::sample, 100);
        for (const PlanRow& row : plan.rows)
            QVERIFY(row.last <= 2);
    }

    void rateConversionBySamplingRepeatsOneFrameInTwentyFive() {
        const FramePlan plan = makePlan(timing(0, 95, 1, Rate(24, 1), Rate(25, 1)), Method::sample, 96);
        QCOMPARE(plan.rows.size(), std::size_t{100});
        QCOMPARE(plan.count(FrameKind::original), 96);
        QCOMPARE(plan.count(FrameKind::repeat) + plan.count(FrameKind::held), 4);
    }

    void blendSharesAreTheCrossFadeBelowFullSpeed() {
        const FramePlan plan = makePlan(timing(0, 4, Rational(1, 4)), Method::blend, 6);
        const PlanRow& row = plan.rows[7]; // position 1.75
        QVERIFY(row.kind == FrameKind::blend);
        QCOMPARE(row.first, 1);
        QCOMPARE(row.last, 2);
        QCOMPARE(blendShare(row, 1), 0.25);
        QCOMPARE(blendShare(row, 2), 0.75);
        QCOMPARE(blendShare(row, 0), 0.0);
    }

    void blendCoversWhatIsPassedBackwards() {
        // By hand: from 9.5 back to 7.5 are half of the frame seen over (9, 10], all of 9 and half of 8.
        Timing t{.sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 0, .to = 95, .speed = 1};
        t.keys = {{0, Rational(19, 2), Segment::constant, std::nullopt},
                  {4, Rational(3, 2), Segment::constant, std::nullopt}};
        const FramePlan plan = makePlan(t, Method::blend, 96);
        const PlanRow& row = plan.rows[0];
        QCOMPARE(row.kind, FrameKind::blend);
        QCOMPARE(row.span, Rational(-2));
        QCOMPARE(row.first, std::int64_t{8});
        QCOMPARE(row.last, std::int64_t{10});
        QCOMPARE(blendShare(row, 10), 0.25);
        QCOMPARE(blendShare(row, 9), 0.5);
        QCOMPARE(blendShare(row, 8), 0.25);
        // Whole frames: 93 and 92, none of 94.
        t.keys = {{0, 95, Segment::constant, std::nullopt}, {47, 1, Segment::constant, std::nullopt}};
        const FramePlan whole = makePlan(t, Method::blend, 96);
        QCOMPARE(whole.rows[1].first, std::int64_t{92});
        QCOMPARE(whole.rows[1].last, std::int64_t{93});
        QCOMPARE(blendShare(whole.rows[1], 92), 0.5);
        for (const PlanRow& r : whole.rows) {
            double sum = 0;
            for (std::int64_t n = r.first; n <= r.last; ++n)
                sum += blendShare(r, n);
            QVERIFY(std::abs(sum - 1) < 1e-12 || r.kind != FrameKind::blend);
        }
    }

    void blendCoversAllFramesAboveFullSpeed() {
        // 250 %: output 1 lasts over source positions 2.5 to 5: half of frame 2, all of 3 and 4.
        const FramePlan plan = makePlan(timing(0, 9, Rational(5, 2)), Method::blend, 10);
        QCOMPARE(plan.rows.size(), std::size_t{4});
        const PlanRow& row = plan.rows[1];
        QCOMPARE(row.first, 2);
        QCOMPARE(row.last, 4);
        QCOMPARE(blendShare(row, 2), 0.5 / 2.5);
        QCOMPARE(blendShare(row, 3), 1.0 / 2.5);
        QCOMPARE(blendShare(row, 4), 1.0 / 2.5);
        // 200 %: pairs, in halves.
        const FramePlan pairs = makePlan(timing(0, 9, 2), Method::blend, 10);
        QCOMPARE(pairs.rows[1].first, 2);
        QCOMPARE(pairs.rows[1].last, 3);
        QCOMPARE(blendShare(pairs.rows[1], 3), 0.5);
    }

    void sharesAlwaysAddUpToOne() {
        for (const Rational& speed : {Rational(1, 1000), Rational(333, 1000), Rational(24, 25),
                                      Rational(107, 100), Rational(7, 3), Rational(100)})
            for (const Rate& rate : {Rate(24, 1), Rate(30000, 1001)}) {
                const FramePlan plan = makePlan(timing(2, 41, speed, Rate(24, 1), rate), Method::blend, 43);
                for (const PlanRow& row : plan.rows) {
                    QVERIFY(row.first >= 2 && row.last <= 42 && row.first <= row.last);
                    if (row.kind != FrameKind::blend) continue;
                    double sum = 0;
                    for (std::int64_t n = row.first; n <= row.last; ++n)
                        sum += blendShare(row, n);
                    QVERIFY(std::abs(sum - 1.0) < 1e-12);
                }
            }
    }

    void flowAboveFullSpeedTakesTheMomentItself() {
        const FramePlan plan = makePlan(timing(0, 9, Rational(5, 2)), Method::flow, 10);
        QCOMPARE(kinds(plan), QStringLiteral("ofof")); // 0, 2.5, 5, 7.5
    }

    void aSpeedChangeNeverMovesTheTrim() {
        for (const Rational& speed : {Rational(1, 10), Rational(1), Rational(3)}) {
            const FramePlan plan = makePlan(timing(12, 40, speed), Method::flow, 50);
            QCOMPARE(plan.rows.front().position, (Position{12, 0}));
        }
    }

    void stretchesHaveTheirOwnMethod() {
        std::vector<MethodStretch> stretches = withMethodOn({}, 10, 19, Method::blend, Method::flow);
        stretches = withMethodOn(stretches, 14, 15, Method::sample, Method::flow);
        QCOMPARE(stretches.size(), std::size_t{3});
        // The shot's own method again: nothing is left of the stretches.
        QVERIFY(withMethodOn(stretches, 10, 19, Method::flow, Method::flow).empty());
        QCOMPARE(withMethodOn(stretches, 14, 15, Method::blend, Method::flow).size(), std::size_t{1});

        Shot shot;
        shot.methodStretches = stretches;
        const SettingsInForce settings = shot.settingsInForce();
        QCOMPARE(settings.at(13).method, Method::blend);
        QCOMPARE(settings.at(14).method, Method::sample);
        QCOMPARE(settings.at(16).method, Method::blend);
        QCOMPARE(settings.at(20).method, Method::flow);
        const Timing timing{.sourceRate = Rate(24, 1),
                            .outputRate = Rate(24, 1),
                            .from = 0,
                            .to = 47,
                            .speed = Rational(1, 2)};
        const FramePlan plan = makePlan(timing, settings, 48);
        for (const PlanRow& row : plan.rows) {
            if (row.output == 95) continue; // past the last frame
            const std::int64_t gap = row.output / 2;
            const bool between = row.output % 2 == 1;
            const FrameKind kind = !between                 ? FrameKind::original
                                   : gap == 14 || gap == 15 ? FrameKind::repeat
                                   : gap >= 10 && gap <= 19 ? FrameKind::blend
                                                            : FrameKind::flow;
            QCOMPARE(row.kind, kind);
        }
    }

    void whatLiesBeforeTheShotIsSaid() {
        Timing timing{.sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 0, .to = 47, .speed = 1};
        timing.keys = shifted(timing.asKeys(), Rational(-5, 2));
        FramePlan plan = makePlan(timing, Method::flow, 48);
        QCOMPARE(plan.headFrames, 3);
        QVERIFY(plan.headHeld);
        QVERIFY2(plan.endsSentence().starts_with("The first 3 output frames hold"),
                 plan.endsSentence().c_str());
        timing.from = 10;
        timing.to = 40;
        timing.keys = shifted(
            Timing{.sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 10, .to = 40, .speed = 1}
                .asKeys(),
            Rational(-1, 2));
        plan = makePlan(timing, Method::flow, 48);
        QCOMPARE(plan.headFrames, 1);
        QVERIFY(!plan.headHeld);
        QVERIFY2(plan.endsSentence().starts_with("The first output frame uses frames outside the trim"),
                 plan.endsSentence().c_str());
    }

    void oneFrameIsHeld() {
        const FramePlan plan = makePlan(timing(0, 0, Rational(1, 4)), Method::flow, 1);
        QCOMPARE(kinds(plan), QStringLiteral("ohhh"));
    }

    void trimsOutsideTheFileAreRefused() {
        QVERIFY_THROWS_EXCEPTION(Error, makePlan(timing(0, 10, 1), Method::flow, 10));
        QVERIFY_THROWS_EXCEPTION(Error, makePlan(timing(5, 4, 1), Method::flow, 10));
        QVERIFY_THROWS_EXCEPTION(Error, makePlan(timing(-1, 4, 1), Method::flow, 10));
        QVERIFY_THROWS_EXCEPTION(
            Error, makePlan(timing(0, 99'999'999, Rational(1, 1000)), Method::flow, 100'000'000));
    }

    void nothingIsMadeAcrossACut() {
        // The cut lies between source frames 1 and 2.
        for (const Method method : {Method::flow, Method::blend}) {
            Treatment methods(method);
            methods.found.cuts = {1};
            const FramePlan plan = makePlan(timing(0, 3, Rational(1, 4)), methods, 6);
            for (const PlanRow& row : plan.rows) {
                QVERIFY2(!(row.first <= 1 && row.last >= 2), qPrintable(QString::number(row.output)));
                QCOMPARE(row.atCut, row.position.frame == 1 && row.position.phase > Rational(0));
            }
            // Up to half way the frame before, then the one after.
            QCOMPARE(plan.rows[6].first, 1);
            QCOMPARE(plan.rows[7].first, 2);
            QVERIFY(plan.rows[7].kind == FrameKind::repeat);
        }
        // A blend of many frames stays on its own side.
        Treatment fast(Method::blend);
        fast.found.cuts = {4};
        for (const PlanRow& row : makePlan(timing(0, 11, 3), fast, 12).rows)
            QVERIFY(!(row.first <= 4 && row.last >= 5));
    }

    void evenTextureLeavesNoOriginalInAFlowStretch() {
        Treatment methods(Method::flow);
        synthesisOf(methods).evenTexture = true;
        methods.settings.put(2, 2, {Method::sample});
        const FramePlan plan = makePlan(timing(0, 4, Rational(1, 2)), methods, 5);
        for (const PlanRow& row : plan.rows) {
            if (row.method != Method::flow || row.kind == FrameKind::held) continue;
            QVERIFY(row.kind == FrameKind::flow);
            QCOMPARE(row.last, row.first + 1);
            QVERIFY(row.first <= row.position.frame && row.position.frame <= row.last);
        }
        QVERIFY(plan.rows[4].kind == FrameKind::original); // frame 2, which is sampled
        QCOMPARE(plan.rows[8].first, 3);                   // the last frame takes the gap before it
        methods.found.cuts = {1};
        QVERIFY(makePlan(timing(0, 4, Rational(1, 2)), methods, 5).rows[2].first == 0); // not over the cut
    }

    void flowPassesOverRepeats() {
        // Drawn on twos: 0 0 2 2 4 4 6 6.
        Treatment methods(Method::flow);
        methods.found.repeats = {1, 3, 5, 7};
        const FramePlan plan = makePlan(timing(0, 7, Rational(1, 2)), methods, 8);
        QCOMPARE(kinds(plan), QStringLiteral("offfofffofffofoh")); // after 6 there is nothing to go on to
        for (std::size_t n = 0; n < 12; ++n) {
            const PlanRow& row = plan.rows[n];
            const auto drawing = static_cast<std::int64_t>(n) / 4 * 2;
            QCOMPARE(row.bridged, n % 4 != 0);
            if (!row.bridged) continue;
            QCOMPARE(row.first, drawing);
            QCOMPARE(row.last, drawing + 2);
            QCOMPARE(phaseOf(row), Rational(static_cast<std::int64_t>(n % 4), 4)); // evenly on
        }
        // Whole frames are whole frames.
        methods.settings.everywhere().method = Method::sample;
        for (const PlanRow& row : makePlan(timing(0, 7, 1), methods, 8).rows)
            QVERIFY(row.first == row.output && row.last == row.output);
        methods.settings.everywhere().method = Method::flow;
        // Neither a hold nor a cut is passed over.
        methods.found.repeats = {2, 3, 4, 5};
        for (const PlanRow& row : makePlan(timing(0, 7, 1), methods, 8).rows)
            QVERIFY(row.kind == FrameKind::original);
        methods.found.repeats = {3};
        methods.found.cuts = {3};
        const FramePlan cut = makePlan(timing(0, 7, 1), methods, 8);
        QVERIFY(cut.rows[3].kind == FrameKind::original);
        QVERIFY(!cut.rows[3].bridged);
    }

    void blurAndEvenTextureKeepToABridgedGap() {
        Treatment methods(Method::flow);
        methods.found.repeats = {2};
        synthesisOf(methods).shutterAngle = 360;
        const PlanRow blurred = makePlan(timing(0, 7, 1), methods, 8).rows[2];
        QVERIFY(blurred.bridged);
        QCOMPARE(blurred.first, 1);
        QCOMPARE(blurred.last, 3);
        QCOMPARE(blurred.open, Rational(1));
        synthesisOf(methods).shutterAngle = 0;
        synthesisOf(methods).evenTexture = true;
        const FramePlan even = makePlan(timing(0, 7, 1), methods, 8);
        QCOMPARE(even.rows[1].last, 3); // not mixed with its own repeat
        QCOMPARE(phaseOf(even.rows[1]), Rational(0));
        QCOMPARE(phaseOf(even.rows[2]), Rational(1, 2));
    }

    void flowRowsNameTheFramesThatTellHowPathsBend() {
        Treatment methods(Method::flow);
        methods.found.cuts = {5};
        methods.found.repeats = {9};
        const FramePlan plan = makePlan(timing(0, 11, Rational(1, 2)), methods, 12);
        const auto beside = [&](std::size_t gap) {
            const PlanRow& row = plan.rows[2 * gap + 1];
            return std::pair(row.before, row.after);
        };
        QCOMPARE(beside(0), std::pair(std::int64_t{-1}, std::int64_t{2})); // nothing before the first frame
        QCOMPARE(beside(2), std::pair(std::int64_t{1}, std::int64_t{4}));
        QCOMPARE(beside(4), std::pair(std::int64_t{3}, std::int64_t{-1})); // the cut comes next
        QCOMPARE(beside(6), std::pair(std::int64_t{-1}, std::int64_t{8}));
        QCOMPARE(beside(7), std::pair(std::int64_t{6}, std::int64_t{-1}));  // 9 repeats 8
        QCOMPARE(beside(8), std::pair(std::int64_t{-1}, std::int64_t{-1})); // passes over it
        QCOMPARE(beside(10), std::pair(std::int64_t{9}, std::int64_t{-1}));
        QCOMPARE(plan.rows[4].before, -1); // an original
        // With an open shutter, those around all it sees.
        synthesisOf(methods).shutterAngle = 360;
        const FramePlan blurred = makePlan(timing(0, 11, 1), methods, 12);
        const PlanRow& open = blurred.rows[2];
        QCOMPARE(std::pair(open.first, open.last), std::pair(std::int64_t{1}, std::int64_t{3}));
        QCOMPARE(std::pair(open.before, open.after), std::pair(std::int64_t{0}, std::int64_t{4}));
        QCOMPARE(blurred.rows[5].after, -1);  // sees up to the cut
        QCOMPARE(blurred.rows[8].before, -1); // and over a repeat
        QCOMPARE(blurred.rows[8].after, -1);
    }

    void theShutterOpensOverThePositionsAround() {
        Treatment methods(Method::flow);
        synthesisOf(methods).shutterAngle = 180;
        const FramePlan slow = makePlan(timing(0, 7, Rational(1, 4)), methods, 8);
        QCOMPARE(slow.rows[6].open,
                 Rational(1, 8)); // half of an output frame that lasts a quarter of a source frame
        QCOMPARE(slow.rows[6].first, 1);
        QCOMPARE(slow.rows[6].last, 2);
        const FramePlan fast = makePlan(timing(0, 15, 4), methods, 20);
        QCOMPARE(fast.rows[2].open, Rational(2)); // frames 7 to 9 around 8
        QCOMPARE(fast.rows[2].first, 7);
        QCOMPARE(fast.rows[2].last, 9);
        QVERIFY(fast.rows[2].kind == FrameKind::flow);
        QCOMPARE(fast.rows[0].first, 0); // nothing before the file begins
        for (const PlanRow& row : makePlan(timing(0, 15, 4), Method::blend, 20).rows)
            QCOMPARE(row.open, Rational(0));
    }
};

QTEST_APPLESS_MAIN(TestFramePlan)
#include "test_frame_plan.moc"
