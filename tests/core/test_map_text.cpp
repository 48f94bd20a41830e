// Time maps and edit decision lists as text: round trips, and errors that name their line.

#include "core/error.h"
#include "core/time/edl.h"
#include "core/time/map_text.h"

#include <QTest>

using namespace yarngap;

namespace {

Timing third() {
    return {.sourceRate = Rate(60000, 1001),
            .outputRate = Rate(24000, 1001),
            .from = 120,
            .to = 359,
            .speed = Rational(1, 3)};
}

QString why(const std::function<void()>& act) {
    try {
        act();
    } catch (const Error& error) {
        return QString::fromUtf8(error.what());
    }
    return {};
}

} // namespace

class TestMapText : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void csvComesBackExactly() {
        TimeKeys keys = withRamp({{0, 0, Segment::constant, std::nullopt},
                                  {Rational(200, 3), 96, Segment::constant, std::nullopt}},
                                 {.from = 30, .to = 50, .step = Rational(1, 7), .ease = 4});
        keys = withFreeze(keys, 40, 12);
        keys.front().speed = Rational(-3, 11);
        QCOMPARE(keysFromCsv(toCsv(keys)), keys);
    }

    void columnsComeInAnyOrder() {
        const TimeKeys keys = keysFromCsv("# made by hand\n position , output \r\n\r\n12,0\r\n 24.5,10\r\n");
        QCOMPARE(keys.size(), std::size_t{2});
        QCOMPARE(keys[1].position, Rational(49, 2));
        QCOMPARE(keys[1].output, Rational(10));
    }

    void csvErrorsNameTheLine_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QString>("says");
        QTest::newRow("no number") << QByteArray("output,position\n0,0\nten,5\n") << "Line 3";
        QTest::newRow("no heading") << QByteArray("0,0\n10,5\n") << "Line 1";
        QTest::newRow("unknown segment")
            << QByteArray("output,position,segment\n0,0,wavy\n10,5,\n") << "Line 2";
        QTest::newRow("one key") << QByteArray("output,position\n0,0\n") << "at least 2 keys";
        QTest::newRow("out of order") << QByteArray("output,position\n0,0\n10,5\n10,6\n") << "Key 3";
        QTest::newRow("nothing") << QByteArray() << "at least 2 keys";
    }
    void csvErrorsNameTheLine() {
        QFETCH(QByteArray, text);
        QFETCH(QString, says);
        const QString said = why([&] { keysFromCsv(text.toStdString()); });
        QVERIFY2(said.contains(says), qPrintable(said));
    }

    void anEditDecisionListSaysSourceRecordAndSpeed() {
        // By hand: frames 120 to 360 at a nominal 60 are 2 s to 6 s; 288 frames at 24 are 12 s; 59.94 / 3.
        const std::string text = toEdl("Autumn film", "heron_glide.mp4", third(), 86400);
        QVERIFY(text.find("FCM: NON-DROP FRAME\n") != std::string::npos);
        QVERIFY2(
            text.find("001  HERONGLI V     C        00:00:02;00 00:00:06;00 01:00:00:00 01:00:12:00\n") !=
                std::string::npos,
            text.c_str());
        QVERIFY2(text.find("M2   HERONGLI       020.0                00:00:02;00\n") != std::string::npos,
                 text.c_str());
        QVERIFY(text.find("* FROM CLIP NAME: heron_glide.mp4\n") != std::string::npos);
        QVERIFY(text.find("KEY") == std::string::npos);
    }

    void anEditDecisionListComesBack_data() {
        QTest::addColumn<qint64>("numerator");
        QTest::addColumn<qint64>("denominator");
        for (const auto& [n, d] : {std::pair{1, 3}, {1, 1}, {2, 5}, {1, 8}, {3, 1}, {1, 24}})
            QTest::addRow("%d/%d", n, d) << qint64{n} << qint64{d};
    }
    void anEditDecisionListComesBack() {
        QFETCH(qint64, numerator);
        QFETCH(qint64, denominator);
        Timing timing = third();
        timing.speed = Rational(numerator, denominator);
        const auto events = eventsFromEdl(toEdl("t", "c.mov", timing), timing.sourceRate, timing.outputRate);
        QCOMPARE(events.size(), std::size_t{1});
        QCOMPARE(events[0].clip, std::string("c.mov"));
        QCOMPARE(timingOf(events[0], timing.sourceRate, timing.outputRate), timing);
    }

    void aVaryingSpeedIsNoted() {
        Timing timing = third();
        timing.keys = withFreeze(timing.asKeys(), 200, 24);
        const std::string text = toEdl("t", "c.mov", timing);
        QVERIFY(text.find("M2") == std::string::npos);
        QVERIFY(text.find("* THE SPEED VARIES") != std::string::npos);
        QVERIFY(text.find("* KEY 0 120 constant\n") != std::string::npos);
        QCOMPARE(eventsFromEdl(text, timing.sourceRate, timing.outputRate).size(), std::size_t{1});
    }

    void backwardsAndStill() {
        const Rate rate(25, 1);
        const auto events = eventsFromEdl(
            "001 A V C 00:00:01:00 00:00:02:00 00:00:00:00 00:00:02:00\nM2 A -012.5 00:00:01:00\n"
            "002 A V C 00:00:01:00 00:00:01:01 00:00:02:00 00:00:04:00\nM2 A 000.0 00:00:01:00\n"
            "003 A A C 00:00:01:00 00:00:01:01 00:00:02:00 00:00:04:00\nM2 A 050.0 00:00:01:00\n",
            rate, rate);
        QCOMPARE(events.size(), std::size_t{2}); // sound is not ours
        const Timing back = timingOf(events[0], rate, rate);
        QCOMPARE(back.outputFrames(), std::int64_t{50});
        QCOMPARE(back.map().at(0), (Position{49, 0}));
        QCOMPARE(back.map().at(2), (Position{48, 0}));
        const Timing still = timingOf(events[1], rate, rate);
        QCOMPARE(still.outputFrames(), std::int64_t{50});
        QCOMPARE(still.map().at(49), (Position{25, 0}));
    }

    void dropFrameIsAsTheListSays() {
        const Rate rate(30000, 1001);
        const std::string event = "001 A V C 00:00:00:00 00:01:00:00 00:00:00:00 00:01:00:00\n";
        QCOMPARE(eventsFromEdl("FCM: NON-DROP FRAME\n" + event, rate, rate)[0].sourceOut, std::int64_t{1800});
        QVERIFY(why([&] {
                    eventsFromEdl("FCM: DROP FRAME\n" + event, rate, rate);
                }).contains(QStringLiteral("Line 2")));
    }

    void listErrorsNameTheLine_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QString>("says");
        QTest::newRow("short event") << QByteArray("TITLE: x\n001 A V C 00:00:00:00\n") << "Line 2";
        QTest::newRow("no timecode") << QByteArray("001 A V C 00:00:00:00 00:00:01:00 soon 00:00:01:00\n")
                                     << "\"soon\" is no timecode";
        QTest::newRow("backwards") << QByteArray(
                                          "001 A V C 00:00:01:00 00:00:00:00 00:00:00:00 00:00:01:00\n")
                                   << "no length";
        QTest::newRow("motion without speed")
            << QByteArray("001 A V C 00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\nM2 A\n") << "Line 2";
        QTest::newRow("motion in words")
            << QByteArray(
                   "001 A V C 00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\nM2 A slow 00:00:00:00\n")
            << "Line 2";
    }
    void listErrorsNameTheLine() {
        QFETCH(QByteArray, text);
        QFETCH(QString, says);
        const QString said = why([&] { eventsFromEdl(text.toStdString(), Rate(25, 1), Rate(25, 1)); });
        QVERIFY2(said.contains(says), qPrintable(said));
    }
};

QTEST_APPLESS_MAIN(TestMapText)
#include "test_map_text.moc"
