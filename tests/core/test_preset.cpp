// Presets: a treatment carried from shot to shot by relation.

#include "core/error.h"
#include "core/project/preset.h"

#include <QTest>

using namespace yarngap;

namespace {

Timing shotOfFrames(std::int64_t from, std::int64_t to, const Rate& source, const Rate& output) {
    return {.sourceRate = source, .outputRate = output, .from = from, .to = to, .speed = 1};
}

Timing ramped() {
    Timing timing = shotOfFrames(0, 95, Rate(24, 1), Rate(24, 1));
    timing.keys = withRamp(timing.asKeys(), {.from = 40, .to = 56, .step = Rational(1, 4), .ease = 8});
    return timing;
}

} // namespace

class TestPreset : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void onTheSameShotItChangesNothing() {
        const Timing timing = ramped();
        QCOMPARE(withPreset(presetOf(Shot{}, timing), shotOfFrames(0, 95, Rate(24, 1), Rate(24, 1))).keys,
                 timing.keys);
    }

    void aRampLiesAtTheSameShareOfAnotherShot() {
        // Twice as many frames at twice the rate: the same moments in seconds, the same speeds.
        const Timing timing =
            withPreset(presetOf(Shot{}, ramped()), shotOfFrames(10, 201, Rate(48, 1), Rate(24, 1)));
        QCOMPARE(timing.keys.size(), std::size_t{6});
        QCOMPARE(timing.keys[2].position, Rational(10 + 80));
        QCOMPARE(timing.keys[3].position, Rational(10 + 112));
        QCOMPARE(timing.speedOf((timing.keys[3].position - timing.keys[2].position) /
                                (timing.keys[3].output - timing.keys[2].output)),
                 Rational(1, 4));
        QCOMPARE(timing.keys.back().position, Rational(202));
        QCOMPARE(timing.from, std::int64_t{10});
    }

    void aFreezeKeepsItsSeconds() {
        Timing timing = shotOfFrames(0, 99, Rate(25, 1), Rate(25, 1));
        timing.keys = withFreeze(timing.asKeys(), 50, 50);
        const Timing other =
            withPreset(presetOf(Shot{}, timing), shotOfFrames(0, 39, Rate(50, 1), Rate(60, 1)));
        QCOMPARE(other.keys[1].position, Rational(20));
        QCOMPARE(other.keys[2].output - other.keys[1].output, Rational(120)); // two seconds at 60
    }

    void aReverseStaysOne() {
        Timing timing = shotOfFrames(0, 99, Rate(25, 1), Rate(25, 1));
        timing.keys = reversed(timing.asKeys(), 0, 99);
        const Timing other =
            withPreset(presetOf(Shot{}, timing), shotOfFrames(0, 49, Rate(25, 1), Rate(25, 1)));
        QVERIFY(other.keys.front().position > other.keys.back().position);
        QCOMPARE(other.outputFrames(), std::int64_t{50});
    }

    void textComesBack() {
        Shot shot;
        shot.method = Method::blend;
        shot.inBetweens.flow.quality = FlowQuality::thorough;
        Timing timing = ramped();
        timing.keys.front().speed = Rational(2, 3);
        const Preset preset = presetOf(shot, timing);
        QVERIFY(parsePreset(presetText(preset)) == preset);
        QVERIFY(parsePreset(presetText(Preset{})) == Preset{});
    }

    void damageAndTooShortShotsAreRefused() {
        for (const char* text :
             {"", "{", "[]", R"({"keys":1})", R"({"keys":[1],"speed":"1","method":"flow","quality":"draft"})",
              R"({"keys":[],"speed":"0/0","method":"flow","quality":"draft"})"})
            QVERIFY_THROWS_EXCEPTION(Error, parsePreset(text));
        QVERIFY_THROWS_EXCEPTION(
            Error, withPreset(presetOf(Shot{}, ramped()), shotOfFrames(0, 3, Rate(24, 1), Rate(24, 1))));
    }
};

QTEST_APPLESS_MAIN(TestPreset)
#include "test_preset.moc"
