// Doubtful gaps in a real window: found, walked through by keys, accepted, mended, and taken back.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/drawn_clip.h"
#include "support/own_settings.h"
#include "support/pictures.h"
#include "support/shot_window.h"
#endif

#include <QListWidget>
#include <QSignalSpy>
#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 180;

/// The ground glides; from frame 8 to 9 a bright square leaps far to the right.
Image leaping(int n) {
    const double left = n < 9 ? 40 + 2.0 * n : 190 + 2.0 * n;
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [=](int p, int x, int y) {
        if (p > 0) return 128.0;
        if (x >= left && x < left + 30 && y >= 70 && y < 100)
            return 200.0 + 40 * std::sin((x - left) / 3.0) * std::sin(y / 3.0);
        return 120 + 40 * std::sin((x - n) / 5.1) * std::cos(y / 6.3) +
               25 * std::sin((x - n) / 19.0 + y / 11.0);
    });
}

} // namespace

class TestMendingList : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    QString outcome() { return window_.find<StepCard>("mendStep")->outcome(); }
    MendingList& list() { return *window_.find<MendingList>("mendingList"); }
    QListView& rows() { return list().list(); }
    QString row(int n) { return rows().model()->index(n, 0).data().toString(); }
    [[nodiscard]] const Mending& mending() const { return window_->document().current()->mending; }
    QString sentence() { return window_.find<QLabel>("sentence")->text(); }
    void click(const char* button) {
        auto* found = window_.find<QAbstractButton>(button);
        QVERIFY2(found->isVisible() && found->isEnabled(), button);
        QTest::mouseClick(found, Qt::LeftButton);
    }
    /// Opens the clip at half its speed with the list shown, searched through.
    void open() {
        window_.open(clips_.path(QStringLiteral("leaping.mkv")));
        Shot shot = *window_->document().current();
        shot.speed = Rational(1, 2);
        window_->document().edit(QStringLiteral("speed"), shot);
        QTest::mouseClick(window_.find<StepCard>("mendStep")->header(), Qt::LeftButton);
        click("mendingListButton");
        window_.find<QSlider>("doubtLimitSlider")->setValue(15);
        searched();
    }
    void searched() {
        QTRY_VERIFY_WITH_TIMEOUT(!window_->doubts().isSearching() && !window_->doubts().gaps().empty(),
                                 120'000);
        QCoreApplication::processEvents();
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        drawnClip(clips_, QStringLiteral("leaping.mkv"), 18, leaping);
    }
    void cleanup() { window_.close(); }

    void theWorstGapStandsOnTopAndThePlayheadGoesAlong() {
        open();
        QVERIFY(rows().model()->rowCount() >= 1);
        QVERIFY2(row(0).startsWith(QStringLiteral("Gap 8")), qPrintable(row(0)));
        QVERIFY(row(0).contains(QStringLiteral("open")));
        QVERIFY2(outcome().contains(QStringLiteral("open of")), qPrintable(outcome()));
        QVERIFY(rows().hasFocus());
        QTest::keyClick(&rows(), Qt::Key_Down);
        QTest::keyClick(&rows(), Qt::Key_Down);
        QTest::keyClick(&rows(), Qt::Key_Up);
        while (rows().currentIndex().row() > 0)
            QTest::keyClick(&rows(), Qt::Key_Up);
        QTRY_COMPARE(window_->player().playhead(), 17); // in the middle of gap 8
        QVERIFY2(sentence().contains(QStringLiteral("doubt")), qPrintable(sentence()));
        // The lane of doubts has come to the chart.
        QVERIFY(window_->findChild<ThreadChart*>()->places().doubtHeight > 0);
        window_->player().goTo(0);
        window_->setFocus();
        QTest::keyClick(window_.operator->(), Qt::Key_BracketRight);
        QVERIFY(window_->player().playhead() > 0);
        window_->player().goTo(window_->player().frames() - 1);
        QTest::keyClick(window_.operator->(), Qt::Key_BracketLeft);
        QVERIFY(window_->player().playhead() < window_->player().frames() - 1);
    }

    void enterAcceptsAndUndoOpensAgain() {
        open();
        rows().setCurrentIndex(rows().model()->index(0, 0));
        QTest::keyClick(&rows(), Qt::Key_Return);
        QCOMPARE(mending().accepted, std::vector<std::int64_t>{8});
        searched();
        QVERIFY2(row(0).contains(QStringLiteral("accepted")), qPrintable(row(0)));
        window_.choose("mendingFilter", 3);
        QCOMPARE(rows().model()->rowCount(), 1);
        window_.choose("mendingFilter", 0);
        QTest::keyClick(window_.operator->(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(mending().accepted.empty());
        searched();
        QVERIFY(row(0).contains(QStringLiteral("open")));
    }

    void aCureIsTriedTakenAndTakenOut() {
        open();
        rows().setCurrentIndex(rows().model()->index(0, 0));
        click("tryCuresButton");
        QTRY_VERIFY_WITH_TIMEOUT(window_->doubts().cures().isDone, 120'000);
        auto* cures = window_.find<QListWidget>("cures");
        QCOMPARE(cures->count(), static_cast<int>(window_->doubts().cures().cures.size()));
        QVERIFY2(cures->item(0)->text().contains(QStringLiteral("best")), qPrintable(cures->item(0)->text()));
        int blend = 0;
        while (!cures->item(blend)->text().startsWith(QStringLiteral("blend")))
            ++blend;
        cures->setFocus();
        cures->setCurrentRow(blend);
        QTest::keyClick(cures, Qt::Key_Return);
        QCOMPARE(mending().mends.size(), std::size_t{1});
        QVERIFY(window_->plan()->rows[17].kind == FrameKind::blend);
        QVERIFY(window_->plan()->rows[17].mend.has_value());
        QVERIFY(window_->plan()->rows[15].kind == FrameKind::flow);
        window_->player().goTo(17);
        QTRY_VERIFY2(sentence().contains(QStringLiteral("mended")), qPrintable(sentence()));
        searched();
        QVERIFY2(outcome().contains(QStringLiteral("1 mended")), qPrintable(outcome()));
        int mended = 0;
        while (!row(mended).contains(QStringLiteral("mended: blend")))
            ++mended;
        rows().setCurrentIndex(rows().model()->index(mended, 0));
        QTest::keyClick(&rows(), Qt::Key_Delete);
        QVERIFY(mending().mends.empty());
        QVERIFY(window_->plan()->rows[17].kind == FrameKind::flow);
    }

    void aGapIsRunThroughAtItsOwnSpeed() {
        open();
        rows().setCurrentIndex(rows().model()->index(0, 0));
        const auto before = window_->plan()->rows.size();
        click("runThroughButton");
        QVERIFY(window_->plan()->rows.size() < before);
        for (const PlanRow& made : window_->plan()->rows)
            if (made.position.frame == 8) QVERIFY(made.kind == FrameKind::original);
        QTest::keyClick(window_.operator->(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(window_->plan()->rows.size(), before);
    }

    void mendAllIsOneStepOfUndoAndCanBeStopped() {
        open();
        click("mendAllButton");
        QVERIFY(window_->doubts().isMending());
        click("mendAllButton");
        QVERIFY(!window_->doubts().isMending());
        QVERIFY(mending().empty());
        QSignalSpy tried(&window_->doubts(), &DoubtSearch::allTried);
        click("mendAllButton");
        QTRY_COMPARE_WITH_TIMEOUT(tried.count(), 1, 180'000);
        const auto mends = static_cast<qsizetype>(mending().mends.size());
        QCOMPARE(tried[0][2].toInt(), static_cast<int>(mends));
        if (mends > 0) {
            QTest::keyClick(window_.operator->(), Qt::Key_Z, Qt::ControlModifier);
            QVERIFY(mending().mends.empty());
        }
    }

    void lookingRestsUntilThePictureIsThere() {
        open();
        DoubtSearch& doubts = window_->doubts();
        Preview& preview = window_->preview();
        QVERIFY(!doubts.isHeld());
        const QObject here;
        QVector<bool> held;
        connect(&preview, &Preview::settledChanged, &here,
                [&](bool isSettled) { held.append(doubts.isHeld() != isSettled); });
        window_->player().goTo(17);
        QTRY_VERIFY_WITH_TIMEOUT(preview.isSettled(), 120'000);
        Shot shot = *window_->document().current();
        shot.inBetweens.flow.stiffness = 25;
        window_->document().edit(QStringLiteral("stiffness"), shot);
        QVERIFY(!preview.isSettled());
        QVERIFY(doubts.isHeld());
        QVERIFY(doubts.isSearching());
        searched();
        QVERIFY(preview.isSettled() && !doubts.isHeld());
        QVERIFY(held.size() >= 2 && !held.contains(false));
        // Held in the middle of it, it is as far as it was, and comes to the same.
        const auto all = doubts.gaps();
        shot.inBetweens.flow.stiffness = 60;
        window_->document().edit(QStringLiteral("stiffness"), shot);
        QTRY_VERIFY_WITH_TIMEOUT(!doubts.isHeld(), 120'000);
        doubts.setHeld(true);
        QSignalSpy changed(&doubts, &DoubtSearch::changed);
        QVERIFY(!changed.wait(900)); // twice as long as it waits before it looks
        QVERIFY(doubts.isSearching());
        doubts.setHeld(false);
        searched();
        QCOMPARE(doubts.gaps().size(), all.size());
    }

    void anEditOfTheTimingLooksAtNothingAgain() {
        open();
        const auto before = window_->doubts().gaps();
        Shot shot = *window_->document().current();
        shot.to = 12;
        window_->document().edit(QStringLiteral("trim"), shot);
        QVERIFY(window_->findChild<ThreadChart*>()->places().doubtHeight > 0); // the lane stays meanwhile
        searched();
        QVERIFY(window_->doubts().gaps().size() < before.size());
        for (const DoubtfulGap& gap : window_->doubts().gaps()) {
            const auto was = std::ranges::find(before, gap.first, &DoubtfulGap::first);
            QVERIFY(was != before.end());
            if (gap.first < 11) QCOMPARE(was->doubt, gap.doubt);
        }
    }
};

QTEST_MAIN(TestMendingList)
#include "test_mending_list.moc"
