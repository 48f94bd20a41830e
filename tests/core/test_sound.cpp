// Sound along a plan: at its place to the sample, stretched at its own pitch, turned round, silent in a
// freeze.

#include "core/error.h"
#include "core/media/library_messages.h"
#include "core/sound/plan_sound.h"
#include "core/sound/sound_reader.h"
#include "core/time/map_edits.h"
#include "support/clips.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr double tone = 600;          // Hz
constexpr double burstSeconds = 0.06; // of the right channel, each half second

/// A sine on the left, a short burst each half second on the right; both are functions of the moment alone.
Sound wanted(double from, double to) {
    Sound sound(std::llround((to - from) * usualSoundRate));
    for (std::int64_t i = 0; i < sound.length(); ++i) {
        const double t = from + static_cast<double>(i) / usualSoundRate;
        sound.samples[static_cast<std::size_t>(2 * i)] =
            static_cast<float>(0.5 * std::sin(2 * std::numbers::pi * tone * t));
        const double since = t - 0.5 * std::floor(t / 0.5);
        sound.samples[static_cast<std::size_t>(2 * i + 1)] =
            since < burstSeconds ? static_cast<float>(0.8 * std::sin(2 * std::numbers::pi * 2000 * since))
                                 : 0.0F;
    }
    return sound;
}

Timing timingAt(const Rational& speed, const Rate& outputRate = Rate(24, 1)) {
    return {.sourceRate = Rate(24, 1), .outputRate = outputRate, .from = 0, .to = 95, .speed = speed};
}

Sound along(const Timing& timing) {
    const FramePlan plan = makePlan(timing, Method::sample, 96);
    return soundOf(plan, 0, static_cast<std::int64_t>(plan.rows.size()) - 1, timing.sourceRate,
                   timing.outputRate, wanted);
}

/// Rising passes through zero of the left channel in each second, between two moments.
double pitch(const Sound& sound, double from, double to) {
    int rises = 0;
    const auto first = static_cast<std::int64_t>(from * usualSoundRate);
    const auto last = static_cast<std::int64_t>(to * usualSoundRate);
    for (std::int64_t i = first + 1; i < last; ++i)
        rises += sound.samples[static_cast<std::size_t>(2 * (i - 1))] < 0 &&
                         sound.samples[static_cast<std::size_t>(2 * i)] >= 0
                     ? 1
                     : 0;
    return rises / (to - from);
}

/// Moments at which bursts begin in the right channel, in seconds.
std::vector<double> bursts(const Sound& sound) {
    std::vector<double> found;
    double last = -1; // loud
    for (std::int64_t i = 0; i < sound.length(); ++i)
        if (std::abs(sound.samples[static_cast<std::size_t>(2 * i + 1)]) > 0.3F) {
            const double t = static_cast<double>(i) / usualSoundRate;
            if (last < 0 || t - last > 0.1) found.push_back(t);
            last = t;
        }
    return found;
}

} // namespace

class TestSound : public QObject {
    Q_OBJECT

    Clips clips_;

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void atFullSpeedItIsTheShotsOwn() {
        const Sound made = along(timingAt(1));
        QCOMPARE(made.length(), std::int64_t{4} * usualSoundRate);
        const Sound own = wanted(0, 4);
        for (std::size_t i = 2000; i + 2000 < own.samples.size(); ++i) // but for the ends, which are faded
            QCOMPARE(made.samples[i], own.samples[i]);
        QCOMPARE(made.samples.front(), 0.0F);
    }

    void stretchedItKeepsItsPitchAndItsMoments_data() {
        QTest::addColumn<int>("percent");
        for (const int percent : {25, 50, 80, 150, 200})
            QTest::addRow("%d %%", percent) << percent;
    }
    void stretchedItKeepsItsPitchAndItsMoments() {
        QFETCH(int, percent);
        const Timing timing = timingAt(Rational(percent, 100));
        const Sound made = along(timing);
        const double seconds = static_cast<double>(timing.outputFrames()) / 24;
        QCOMPARE(made.length(), std::llround(seconds * usualSoundRate));
        QVERIFY2(std::abs(pitch(made, 0.3, seconds - 0.6) - tone) < 6,
                 qPrintable(QString::number(pitch(made, 0.3, seconds - 0.6))));
        int met = 0;
        const std::vector<double> heard = bursts(made);
        for (double t = 0.5; t < 3.4; t += 0.5) {
            const double at = t * 100 / percent;
            met +=
                std::any_of(heard.begin(), heard.end(), [&](double h) { return std::abs(h - at) < 1.0 / 24; })
                    ? 1
                    : 0;
        }
        QCOMPARE(met, 6);
    }

    void backwardsItIsTurnedRound() {
        Timing timing = timingAt(1);
        timing.keys = {{0, 95, Segment::constant, std::nullopt}, {95, 0, Segment::constant, std::nullopt}};
        const Sound made = along(timing);
        // Output frame 0 shows the last frame: the sound before its moment comes first.
        const std::vector<double> heard = bursts(made);
        QVERIFY(heard.size() >= 6);
        const double last = 95.0 / 24;
        for (const double h : heard) {
            const double t = last - h;
            const double end = std::round((t - burstSeconds) / 0.5) * 0.5 + burstSeconds;
            QVERIFY2(std::abs(t - end) < 0.005, qPrintable(QString::number(t)));
        }
    }

    void aFreezeIsSilentAndWhatFollowsIsInPlace() {
        Timing timing = timingAt(1);
        timing.keys = {{0, 0, Segment::constant, std::nullopt},
                       {24, 24, Segment::hold, std::nullopt},
                       {48, 24, Segment::constant, std::nullopt},
                       {119, 95, Segment::constant, std::nullopt}};
        const FramePlan plan = makePlan(timing, Method::sample, 96);
        const auto pieces =
            soundPieces(plan, 0, static_cast<std::int64_t>(plan.rows.size()) - 1, Rate(24, 1), Rate(24, 1));
        QVERIFY(pieces.size() >= 3);
        QCOMPARE(pieces[1].kind, SoundPiece::Kind::silent);
        QCOMPARE(pieces[1].first, 24);
        QCOMPARE(pieces[1].end, 48);
        const Sound made = along(timing);
        for (std::int64_t i = usualSoundRate; i < 2 * usualSoundRate; ++i)
            QCOMPARE(made.samples[static_cast<std::size_t>(2 * i)], 0.0F);
        const Sound own = wanted(1, 4);
        for (std::int64_t i = 1000; i < usualSoundRate; ++i)
            QVERIFY(std::abs(made.samples[static_cast<std::size_t>(2 * (2 * usualSoundRate + i))] -
                             own.samples[static_cast<std::size_t>(2 * i)]) < 1e-4F);
    }

    void aRampIsFollowedFrameByFrame() {
        Timing timing = timingAt(1);
        timing.keys =
            withRamp(timing.asKeys(),
                     {.from = Rational(24), .to = Rational(60), .step = Rational(1, 4), .ease = Rational(8)});
        const Sound made = along(timing);
        const TimeMap map = timing.map();
        int met = 0;
        const std::vector<double> heard = bursts(made);
        for (double t = 0.5; t < 3.6; t += 0.5) {
            const auto output = map.outputAt(t * 24);
            QVERIFY(output);
            met += std::any_of(heard.begin(), heard.end(),
                               [&](double h) { return std::abs(h - *output / 24) < 0.04; })
                       ? 1
                       : 0;
        }
        QCOMPARE(met, 7);
    }

    void soundFollowsTheMomentsAtWhichFramesWereFilmed() {
        // Two seconds of frames that were filmed at half the rate, and so last four, then even ones.
        const SourceTime uneven([](const Position& at) {
            const double frame = at.toDouble();
            return frame < 48 ? frame / 12 : 4 + (frame - 48) / 24;
        });
        const FramePlan plan = makePlan(timingAt(1), Method::sample, 96);
        const auto pieces = soundPieces(plan, 0, 95, uneven, Rate(24, 1));
        QCOMPARE(pieces.size(), std::size_t{2});
        QCOMPARE(pieces[0].kind, SoundPiece::Kind::stretched);
        QCOMPARE(pieces[0].end, std::int64_t{48});
        QCOMPARE(pieces[1].kind, SoundPiece::Kind::asItIs);
        const Sound made = soundOf(plan, 0, 95, uneven, Rate(24, 1), wanted);
        const Sound own = wanted(4, 6);
        for (std::size_t i = 2000; i + 2000 < own.samples.size(); ++i)
            QCOMPARE(made.samples[2 * 2 * static_cast<std::size_t>(usualSoundRate) + i], own.samples[i]);
    }

    void aPartIsThePartOfTheWhole() {
        const Timing timing = timingAt(1);
        const FramePlan plan = makePlan(timing, Method::sample, 96);
        const Sound part = soundOf(plan, 24, 47, Rate(24, 1), Rate(24, 1), wanted);
        QCOMPARE(part.length(), std::int64_t{usualSoundRate});
        const Sound own = wanted(1, 2);
        for (std::size_t i = 2000; i + 2000 < own.samples.size(); ++i)
            QCOMPARE(part.samples[i], own.samples[i]);
        QCOMPARE(soundOf(plan, 50, 20, Rate(24, 1), Rate(24, 1), wanted).length(), 0);
    }

    void stoppingEndsIt() {
        std::stop_source stop;
        stop.request_stop();
        const Timing timing = timingAt(Rational(1, 2));
        const FramePlan plan = makePlan(timing, Method::sample, 96);
        QVERIFY_THROWS_EXCEPTION(Cancelled, static_cast<void>(soundOf(plan, 0, 100, Rate(24, 1), Rate(24, 1),
                                                                      wanted, {}, stop.get_token())));
    }

    void theFilesSoundIsReadAtItsPlace() {
        // A tone that begins a second in, at another rate and with one channel.
        const QString clip =
            clips_.make(QStringLiteral("tone.mov"),
                        {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("testsrc2=size=64x48:rate=24:duration=3"), QStringLiteral("-f"),
                         QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("aevalsrc='if(gte(t,1),0.5*sin(2*PI*600*t),0)':s=44100:d=3"),
                         QStringLiteral("-c:v"), QStringLiteral("mjpeg"), QStringLiteral("-c:a"),
                         QStringLiteral("pcm_s16le")});
        const MediaIndex index = buildIndex(clip.toStdString());
        QVERIFY(index.facts.hasSound);
        const Sound whole = readSound(index, 0, 4);
        QCOMPARE(whole.length(), std::int64_t{4} * usualSoundRate);
        const auto strength = [](const Sound& sound, double from, double to) {
            double sum = 0;
            for (auto i = static_cast<std::size_t>(from * usualSoundRate);
                 i < static_cast<std::size_t>(to * usualSoundRate); ++i)
                sum += std::abs(sound.samples[2 * i]);
            return sum / ((to - from) * usualSoundRate);
        };
        QVERIFY(strength(whole, 0.1, 0.98) < 1e-3);
        // One channel is heard from both sides, as loud as before: at √½ each.
        QVERIFY(std::abs(strength(whole, 1.02, 2.9) - 0.5 * 2 / std::numbers::pi * std::sqrt(0.5)) < 0.01);
        QVERIFY(strength(whole, 3.1, 3.9) < 1e-6); // behind its end
        QVERIFY(std::abs(pitch(whole, 1.1, 2.9) - tone) < 2);
        // From the middle: the same samples at the same moments.
        const Sound part = readSound(index, 1.5, 2.5);
        const auto shift = static_cast<std::int64_t>(1.5 * usualSoundRate);
        double most = 0;
        for (std::int64_t i = 100; i < part.length() - 100; ++i)
            most = std::max<double>(most, std::abs(part.samples[static_cast<std::size_t>(2 * i)] -
                                                   whole.samples[static_cast<std::size_t>(2 * (i + shift))]));
        QVERIFY2(most < 0.06, qPrintable(QString::number(most))); // a sample apart at most
        QVERIFY_THROWS_EXCEPTION(Error, static_cast<void>(readSound(index, 2, 2)));
    }

    void aFileWithoutSoundSaysSo() {
        const QString clip =
            clips_.moving(QStringLiteral("silent.mkv"), 4, {QStringLiteral("-c:v"), QStringLiteral("ffv1")});
        const MediaIndex index = buildIndex(clip.toStdString());
        try {
            static_cast<void>(readSound(index, 0, 1));
            QFAIL("sound came from nowhere");
        } catch (const Error& error) {
            QVERIFY(QString::fromStdString(error.what()).contains(QStringLiteral("has no sound")));
        }
    }
};

QTEST_MAIN(TestSound)
#include "test_sound.moc"
