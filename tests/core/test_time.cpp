// Rational, Rate, Timecode and Timing: exact arithmetic, checked against numbers worked out by hand.

#include "core/error.h"
#include "core/time/time_map.h"
#include "core/time/timecode.h"
#include "core/time/timing.h"

#include <QTest>

using namespace yarngap;

class TestTime : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void rationalsAreReducedAndExact() {
        QCOMPARE(Rational(6, -8).toString(), std::string("-3/4"));
        QCOMPARE((Rational(1, 3) + Rational(1, 6)).toString(), std::string("1/2"));
        QCOMPARE((Rational(24000, 1001) * Rational(1001, 24000)).toString(), std::string("1"));
        QVERIFY(Rational(1, 3) < Rational(334, 1000));
        QCOMPARE(Rational(-7, 2).floor(), -4);
        QCOMPARE(Rational(5, 2).round(), 3);
        QCOMPARE(Rational(-5, 2).round(), -2); // halves upwards
    }

    void decimalsAreReadExactly() {
        QCOMPARE(Rational::parse("33.333"), Rational(33333, 1000));
        QCOMPARE(Rational::parse("-0.5"), Rational(-1, 2));
        QCOMPARE(Rational::parse("24000/1001"), Rational(24000, 1001));
        QCOMPARE(Rational::parse(".25"), Rational(1, 4));
        for (const char* bad :
             {"", "-", ".", "a", "1/0", "1e3", "1.2.3", "--1", "5 5", "99999999999999999999"})
            QVERIFY_THROWS_EXCEPTION(Error, Rational::parse(bad));
    }

    void overflowIsAnErrorNotAWrongNumber() {
        const Rational large(INT64_MAX, 1);
        QVERIFY_THROWS_EXCEPTION(Error, large * large);
        QVERIFY_THROWS_EXCEPTION(Error, large + large);
        QVERIFY_THROWS_EXCEPTION(Error, Rational(1, INT64_MAX) / large);
    }

    void writtenRatesMeanTheExactOnes() {
        QCOMPARE(Rate::parse("23.976"), Rate(24000, 1001));
        QCOMPARE(Rate::parse("29.97"), Rate(30000, 1001));
        QCOMPARE(Rate::parse("59.94"), Rate(60000, 1001));
        QCOMPARE(Rate::parse("25"), Rate(25, 1));
        QCOMPARE(Rate(24000, 1001).display(), std::string("23.976"));
        QCOMPARE(Rate(25, 1).display(), std::string("25"));
        QCOMPARE(Rate::snapped(Rational(23976, 1000)), Rate(24000, 1001));
        QCOMPARE(Rate::snapped(Rational(3002, 100)), Rate(3002, 100)); // near nothing: kept
        QVERIFY_THROWS_EXCEPTION(Error, Rate(0, 1));
        QVERIFY_THROWS_EXCEPTION(Error, Rate(Rational(200000)));
    }

    void timecodeOfKnownFrames_data() {
        QTest::addColumn<QString>("rate");
        QTest::addColumn<qint64>("frames");
        QTest::addColumn<QString>("text");
        // Drop-frame values from the rule itself: 2 numbers left out each minute but every tenth.
        QTest::newRow("24") << "24" << qint64{156} << "00:00:06:12";
        QTest::newRow("23.976 counts like 24") << "24000/1001" << qint64{86400} << "01:00:00:00";
        QTest::newRow("25") << "25" << qint64{90000} << "01:00:00:00";
        QTest::newRow("df before the first gap") << "30000/1001" << qint64{1799} << "00:00:59;29";
        QTest::newRow("df after the first gap") << "30000/1001" << qint64{1800} << "00:01:00;02";
        QTest::newRow("df second minute") << "30000/1001" << qint64{3598} << "00:02:00;02";
        QTest::newRow("df tenth minute") << "30000/1001" << qint64{17982} << "00:10:00;00";
        QTest::newRow("df hour") << "30000/1001" << qint64{107892} << "01:00:00;00";
        QTest::newRow("df 59.94") << "60000/1001" << qint64{3600} << "00:01:00;04";
        QTest::newRow("negative") << "24" << qint64{-24} << "-00:00:01:00";
    }
    void timecodeOfKnownFrames() {
        QFETCH(QString, rate);
        QFETCH(qint64, frames);
        QFETCH(QString, text);
        const Timecode timecode(Rate::parse(rate.toStdString()));
        QCOMPARE(QString::fromStdString(timecode.format(frames)), text);
        if (frames >= 0) QCOMPARE(timecode.parse(text.toStdString()), std::optional<std::int64_t>(frames));
    }

    void timecodeGoesRoundForADay() {
        for (const Rate& rate : {Rate(30000, 1001), Rate(60000, 1001), Rate(25, 1)}) {
            const Timecode timecode(rate);
            std::string last;
            for (std::int64_t n = 0; n < 24 * 3600 * 30; n += 7) {
                const std::string text = timecode.format(n);
                QVERIFY2(timecode.parse(text) == n, text.c_str());
                QVERIFY(text > last); // rises with the frames
                last = text;
            }
        }
    }

    void timecodeRefusesWhatIsNone() {
        const Timecode drop(Rate(30000, 1001));
        for (const char* bad : {"", "12", "a:b", "00:01:00;00", "00:01:00;01", "00:00:00:30", "00:61:00:00",
                                "1:2:3:4:5", "::", "-1:00"})
            QVERIFY2(!drop.parse(bad), bad);
        QCOMPARE(Timecode(Rate(24, 1)).parse("2:12"), std::optional<std::int64_t>(60));
    }

    void outputCounts_data() {
        QTest::addColumn<qint64>("frames");
        QTest::addColumn<QString>("speed");
        QTest::addColumn<QString>("from");
        QTest::addColumn<QString>("to");
        QTest::addColumn<qint64>("outputs");
        const auto row = [](qint64 frames, const char* speed, const char* from, const char* to,
                            qint64 outputs) {
            QTest::newRow(qPrintable(QStringLiteral("%1 at %2 %, %3 to %4")
                                         .arg(frames)
                                         .arg(QLatin1String(speed), QLatin1String(from), QLatin1String(to))))
                << frames << speed << from << to << outputs;
        };
        row(96, "100", "24", "24", 96);
        row(96, "25", "24", "24", 384);
        row(96, "50", "24", "24", 192);
        row(96, "200", "24", "24", 48);
        row(97, "200", "24", "24", 49);   // 48.5, halves upwards
        row(96, "33.3", "24", "24", 288); // 288.288…
        row(96, "40", "60", "24", 96);    // every frame of 60 at 24
        row(100, "100", "24", "25", 104); // 104.166…
        row(100, "100", "25", "24", 96);
        row(1000, "100", "24000/1001", "24", 1001);
        row(1001, "100", "24", "24000/1001", 1000);
        row(120, "100", "30000/1001", "60000/1001", 240);
        row(240, "100", "30000/1001", "25", 200); // 200.2
        row(96, "10000", "24", "24", 1);          // 0.96
        row(10, "10000", "24", "24", 1);          // never none
        row(2, "0.1", "24", "24", 2000);
        row(1, "25", "24", "24", 4);
        row(48, "104.166667", "24", "25", 48); // 47.9999…
    }
    void outputCounts() {
        QFETCH(qint64, frames);
        QFETCH(QString, speed);
        QFETCH(QString, from);
        QFETCH(QString, to);
        QFETCH(qint64, outputs);
        const Timing t{.sourceRate = Rate::parse(from.toStdString()),
                       .outputRate = Rate::parse(to.toStdString()),
                       .from = 0,
                       .to = frames - 1,
                       .speed = parseSpeed(speed.toStdString())};
        QCOMPARE(t.outputFrames(), outputs);
    }

    void lengthsGiveExactlyTheFramesAskedFor() {
        const Timing t{
            .sourceRate = Rate(24000, 1001), .outputRate = Rate(25, 1), .from = 3, .to = 99, .speed = 1};
        for (std::int64_t n : {1, 2, 3, 7, 96, 97, 98, 101, 383, 1000, 96999})
            if (Rational(t.sourceFrames(), n) * (t.outputRate.value() / t.sourceRate.value()) <=
                Rational(100))
                QCOMPARE(withLengthFrames(t, n).outputFrames(), n);
        QCOMPARE(withLengthText(t, "8s").outputFrames(), 200);
        QCOMPARE(withLengthText(t, "192f").outputFrames(), 192);
        QCOMPARE(withLengthText(t, "00:00:08:00").outputFrames(), 200);
        QCOMPARE(withLengthFactor(withSpeed(t, 1), Rational(4)).speed, Rational(1, 4));
        for (const char* bad : {"", "8", "s", "8.5f", "0s", "-3s", "0f", "x"})
            QVERIFY_THROWS_EXCEPTION(Error, withLengthText(t, bad));
    }

    void everyFrameShowsEachOnce() {
        const Timing t{.sourceRate = Rate(60, 1), .outputRate = Rate(24, 1), .from = 0, .to = 99, .speed = 1};
        const Timing every = withEveryFrame(t);
        QCOMPARE(every.speed, Rational(2, 5));
        QCOMPARE(every.outputFrames(), 100);
        QCOMPARE(every.step(), Rational(1));
    }

    void aSpeedThatKeepsTheLength_data() {
        QTest::addColumn<QString>("speed");
        QTest::addColumn<int>("anchor");
        QTest::addColumn<int>("from");
        QTest::addColumn<int>("to");
        // Source frames 24 to 71 of 96 at 100 % are 48 output frames; half as many source frames fill them at
        // 50 %, beginning with 24, ending with 71, or with the same one (24 + 24 = 48) in the middle.
        QTest::newRow("first") << "50" << 0 << 24 << 47;
        QTest::newRow("last") << "50" << 48 << 48 << 71;
        QTest::newRow("middle") << "50" << 24 << 36 << 59;
        QTest::newRow("faster about the middle") << "150" << 24 << 12 << 83;
        QTest::newRow("between frames") << "30" << 0 << 24 << 38; // 14.4 of them
    }

    void aSpeedThatKeepsTheLength() {
        QFETCH(QString, speed);
        QFETCH(int, anchor);
        QFETCH(int, from);
        QFETCH(int, to);
        const Timing t{
            .sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 24, .to = 71, .speed = 1};
        const Timing now = withSpeedAbout(t, parseSpeed(speed.toStdString()), anchor, 96);
        QCOMPARE(now.outputFrames(), 48);
        QCOMPARE(now.from, std::int64_t{from});
        QCOMPARE(now.to, std::int64_t{to});
        QCOMPARE(now.speed, parseSpeed(speed.toStdString()));
        QVERIFY(std::abs(now.map().speedAt(10) - now.step().toDouble()) < 1e-12);
        QVERIFY(std::abs(now.map().positionAt(anchor) - t.map().positionAt(anchor)) <= 0.5);
        // And back, also from a map that ends between frames.
        const Timing back = withSpeedAbout(now, 1, anchor, 96);
        QCOMPARE(back.outputFrames(), 48);
        QVERIFY(std::abs(back.map().positionAt(anchor) - t.map().positionAt(anchor)) <= 1);
    }

    void aSpeedThatNeedsMoreThanTheFileHasIsRefused() {
        const Timing t{
            .sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 24, .to = 71, .speed = 1};
        try { // 96 frames from 24 on
            withSpeedAbout(t, 2, 0, 96);
            QFAIL("not refused");
        } catch (const Error& error) {
            QVERIFY2(QString::fromUtf8(error.what()).contains("24 source frames after the last"),
                     error.what());
        }
        QVERIFY_THROWS_EXCEPTION(Error, withSpeedAbout(t, 2, 48, 96));
        QCOMPARE(withSpeedAbout(t, 2, 24, 96).from, std::int64_t{0});
    }

    void speedsOutOfRangeAreRefusedWithTheRange() {
        const Timing t{.sourceRate = Rate(), .outputRate = Rate(), .from = 0, .to = 9, .speed = 1};
        for (const char* bad : {"0", "0.09", "-25", "10000.1"}) {
            try {
                withSpeed(t, parseSpeed(bad));
                QFAIL(bad);
            } catch (const Error& error) {
                QVERIFY(QString::fromUtf8(error.what()).contains("0.1 % to 10,000 %"));
            }
        }
        QCOMPARE(withSpeed(t, parseSpeed("0.1%")).outputFrames(), 10000);
        QCOMPARE(withSpeed(t, parseSpeed(" 10000 % ")).outputFrames(), 1);
    }

    void positionsDoNotDriftOverADay() {
        // 24 hours of 23.976 shown at 25: output n lies at n × 24000/1001/25, exactly.
        const TimeMap map(0, Rational(24000, 1001) / Rational(25));
        const std::int64_t n = 25LL * 3600 * 24;
        const Position p = map.at(n);
        // 24 h × 24000/1001 fps = 2071528 + 472/1001 frames
        QCOMPARE(p.frame, 2071528);
        QCOMPARE(p.phase, Rational(472, 1001));
        QCOMPARE(TimeMap(12, Rational(1, 4)).at(3), (Position{12, Rational(3, 4)}));
    }
};

QTEST_APPLESS_MAIN(TestTime)
#include "test_time.moc"
