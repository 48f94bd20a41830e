// Playing: the clock keeps its pace, and frames that come late are counted.

#include "app/playing/player.h"

#include <QSignalSpy>
#include <QTest>

using namespace yarngap::app;

class TestPlayer : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void steppingStaysInside() {
        Player player;
        player.setRange(10, 24);
        player.goTo(-5);
        QCOMPARE(player.playhead(), 0);
        player.goTo(99);
        QCOMPARE(player.playhead(), 9);
        player.setRange(4, 24);
        QCOMPARE(player.playhead(), 3);
        player.setRange(0, 24);
        player.goTo(3);
        player.play(1);
        QCOMPARE(player.speed(), 0); // nothing to play
    }

    void readyFramesAreAllShownInOrder() {
        Player player;
        player.setRange(1000, 50);
        player.setIsReady([](qint64) { return true; });
        QSignalSpy moved(&player, &Player::moved);
        player.play(1);
        QTRY_VERIFY(player.playhead() >= 20);
        player.pause();
        qint64 last = 0;
        for (const auto& signal : moved) {
            QVERIFY(signal.at(0).toLongLong() > last);
            last = signal.at(0).toLongLong();
        }
        // Shown and not shown add up to what the clock went through; this machine may be busy.
        QCOMPARE(player.notShown() + moved.count(), player.playhead());
    }

    void framesThatAreNotReadyAreCountedNotHidden() {
        Player player;
        player.setRange(1000, 100);
        player.setIsReady([](qint64 frame) { return frame % 4 == 0; });
        player.play(1);
        QTRY_VERIFY(player.playhead() >= 40);
        player.pause();
        QCOMPARE(player.playhead() % 4, 0);
        QVERIFY(player.notShown() >= player.playhead() * 3 / 4 - 4);
    }

    void playingGoesRound() {
        Player player;
        player.setRange(5, 200);
        player.setIsReady([](qint64) { return true; });
        player.goTo(4);
        QSignalSpy moved(&player, &Player::moved);
        player.play(1);
        QTRY_VERIFY(moved.count() >= 6);
        for (const auto& signal : moved)
            QVERIFY(signal.at(0).toLongLong() >= 0 && signal.at(0).toLongLong() < 5);
    }

    void aLoopHoldsThePlayhead_data() {
        QTest::addColumn<bool>("thereAndBack");
        QTest::addColumn<QList<qint64>>("order");
        QTest::newRow("round") << false << QList<qint64>{3, 4, 5, 6, 3, 4, 5, 6, 3};
        QTest::newRow("there and back") << true << QList<qint64>{3, 4, 5, 6, 5, 4, 3, 4, 5};
    }
    void aLoopHoldsThePlayhead() {
        QFETCH(bool, thereAndBack);
        QFETCH(QList<qint64>, order);
        Player player;
        player.setRange(20, 100);
        player.setIsReady([](qint64) { return true; });
        player.setLoop(std::pair<qint64, qint64>(3, 6));
        player.setThereAndBack(thereAndBack);
        player.goTo(15); // outside: playing begins at the loop's first frame
        QSignalSpy moved(&player, &Player::moved);
        player.play(1);
        QTRY_VERIFY(moved.count() >= 12);
        player.pause();
        // This machine may be busy and frames may be passed over; those shown follow each other in the loop's
        // order.
        qsizetype at = 0;
        const qsizetype period = thereAndBack ? 6 : 4;
        for (const auto& signal : moved) {
            const qint64 frame = signal.at(0).toLongLong();
            qsizetype steps = 0;
            while (order.at((at + steps) % period) != frame && steps <= period)
                ++steps;
            QVERIFY2(steps < period, qPrintable(QString::number(frame)));
            at = (at + steps) % period;
        }
        player.setRange(5, 100); // what it went round in is gone
        QVERIFY(!player.loop());
    }

    void thePlaceBetweenFramesFollowsLoopsAndTurns() {
        Player player;
        player.setRange(100, 10);
        player.setLoop(std::pair<qint64, qint64>(20, 29));
        player.goTo(24);
        player.play(1);
        const auto near = [&](double seconds, double place) {
            return std::abs(player.placeAfter(seconds) - place) < 1e-9;
        };
        QVERIFY(near(0, 24));
        QVERIFY(near(0.25, 26.5));
        QVERIFY(near(0.7, 21)); // round once
        QVERIFY(near(10.05, 24.5));
        player.setThereAndBack(true); // begins anew from where it is
        const double start = static_cast<double>(player.playhead());
        QVERIFY(near(0.05, start + 0.5));
        // Frame 29 lasts from 29 to 30; the one after it is 28, heard from its end to its beginning.
        const double toEnd = (30 - start) / 10;
        QVERIFY(near(toEnd + 0.05, 28.5));
        player.setThereAndBack(false);
        player.play(-1);
        const double from = static_cast<double>(player.playhead());
        QVERIFY(near(0.05, from + 0.5)); // a frame is heard from its end
        player.pause();
    }

    void shuttleGoesFasterAndTurnsRound() {
        Player player;
        player.setRange(10000, 24);
        player.setIsReady([](qint64) { return false; });
        player.shuttle(1);
        QCOMPARE(player.speed(), 1);
        player.shuttle(1);
        QCOMPARE(player.speed(), 2);
        for (int i = 0; i < 5; ++i)
            player.shuttle(1);
        QCOMPARE(player.speed(), 8);
        player.shuttle(-1);
        QCOMPARE(player.speed(), -1);
        player.pause();
        QCOMPARE(player.speed(), 0);
        player.togglePlay();
        QCOMPARE(player.speed(), 1);
        player.goTo(50); // stepping stops playing
        QCOMPARE(player.speed(), 0);
    }
};

QTEST_GUILESS_MAIN(TestPlayer)
#include "test_player.moc"
