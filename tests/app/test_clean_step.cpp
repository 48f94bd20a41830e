// The source put right in a real window: holds passed over, damage restored, frames rebuilt and put in, by
// keys and mouse, down to plan and pixels.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/shot/ready_shot.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/pictures.h"
#include "support/shot_window.h"
#include "theatre/exposure.h"
#endif

#include <QCheckBox>
#include <QSignalSpy>
#include <QTest>

#include <QPainter>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

namespace {

constexpr int width = 480;
constexpr int height = 270;

/// Writes frames 0 to `count` − 1 as FFV1.
void writeClip(const QString& file, int count, const std::function<Image(int)>& frame) {
    const auto writer = openWriter({.target = file.toStdString(),
                                    .rate = Rate(24, 1),
                                    .width = width,
                                    .height = height,
                                    .layout = frame(0).layout()});
    for (int n = 0; n < count; ++n)
        writer->write(frame(n));
    writer->finish();
}

theatre::Camera camera() {
    return {.width = width,
            .height = height,
            .rate = Rate(24, 1),
            .shutterSeconds = 1.0 / 96,
            .samples = 1,
            .grain = 0.6,
            .seed = 5};
}

/// A picture that glides by 2 pixels a frame.
Image gliding(int n) {
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [n](int p, int x, int y) {
        if (p > 0) return 128.0;
        const double u = x - 2.0 * n;
        return 120 + 45 * std::sin(u / 6.1) * std::cos(y / 7.3) + 25 * std::sin(u / 23 + y / 13.0);
    });
}

/// The same with a speck in frame 10 and a grey frame 20.
Image damaged(int n) {
    Image image = gliding(n);
    for (int y = 0; y < height; ++y) {
        auto row = image.row<std::uint8_t>(0, y);
        if (n == 20) std::fill(row.begin(), row.end(), std::uint8_t{126});
        if (n == 10 && y >= 90 && y < 102) std::fill(row.begin() + 230, row.begin() + 240, std::uint8_t{250});
    }
    return image;
}

} // namespace

class TestCleanStep : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    [[nodiscard]] const Cleanup& decisions() const { return window_->document().current()->cleanup; }
    SourceSheet& sheet() { return window_->findChild<GapView*>()->sourceSheet(); }
    [[nodiscard]] bool showsSheet() const { return window_->findChild<GapView*>()->showsSourceSheet(); }
    QString outcome() { return window_.find<StepCard>("cleanStep")->outcome(); }
    void key(Qt::Key k, Qt::KeyboardModifiers with = Qt::NoModifier) {
        QWidget* focus = QApplication::focusWidget();
        QTest::keyClick(focus ? focus : window_.operator->(), k, with);
    }
    /// Opens a clip at 100 % with the step Clean open, and waits until it has been searched.
    void open(const QString& clip) {
        window_.open(clip);
        Shot shot = *window_->document().current();
        shot.speed = 1;
        window_->document().edit(QStringLiteral("speed"), shot);
        QTest::mouseClick(window_.find<StepCard>("cleanStep")->header(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!outcome().contains(QStringLiteral("searching")), 60'000);
    }
    void click(const char* button) {
        auto* found = window_.find<QAbstractButton>(button);
        QVERIFY2(found->isVisible() && found->isEnabled(), button);
        QTest::mouseClick(found, Qt::LeftButton);
    }
    /// The picture of an output frame, made as a render makes it.
    Image rendered(std::int64_t output) {
        Document& document = window_->document();
        const auto vectors = std::make_shared<VectorStore>();
        constexpr std::size_t room = std::size_t{64} << 20;
        const Footage footage = footageOf(document.currentMedia(), document.currentAxis(),
                                          std::make_shared<FrameSource>(document.currentMedia(), room), room,
                                          {.vectors = vectors});
        const Shot& shot = *document.current();
        const ReadyShot ready =
            readyShot(shot, footage, document.gapFindingsOf(shot).value(), {.vectors = vectors});
        return *ready.frames->make(output).image;
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        const auto fox = theatre::foxOnTwos(width, height);
        writeClip(clips_.path(QStringLiteral("fox.mkv")), 48,
                  [&](int n) { return theatre::expose(*fox, camera(), n); });
        writeClip(clips_.path(QStringLiteral("damaged.mkv")), 30, damaged);
    }
    void cleanup() { window_.close(); }

    void holdsOfAFigureArePassedOverByKeyboard() {
        open(clips_.path(QStringLiteral("fox.mkv")));
        QCOMPARE(outcome(), QStringLiteral("holds of the figure found"));
        window_.choose("lookAtBox", 1);
        QTRY_COMPARE(outcome(), QStringLiteral("24 repeats found"));
        window_->setFocus();
        key(Qt::Key_S);
        QVERIFY(showsSheet());
        // From finding to finding, each decided by a key.
        key(Qt::Key_Home);
        for (int i = 0; i < 24; ++i) {
            key(Qt::Key_BracketRight);
            QCOMPARE(sheet().at(), 2 * i + 1);
            QVERIFY2(sheet().captionOf(sheet().at()).contains(QStringLiteral("repeat")),
                     qPrintable(sheet().captionOf(sheet().at())));
            key(Qt::Key_P);
        }
        QCOMPARE(outcome(), QStringLiteral("24 passed over"));
        QCOMPARE(sheet().decisionOn(47), QStringLiteral("passed over"));
        key(Qt::Key_Escape);
        QVERIFY(!showsSheet());
        // Slowed to 25 %, in-betweens go on evenly from a drawing to the next.
        Shot shot = *window_->document().current();
        shot.speed = Rational(1, 4);
        window_->document().edit(QStringLiteral("speed"), shot);
        const auto plan = window_->plan();
        QCOMPARE(plan->rows.size(), std::size_t{192});
        for (std::size_t n = 0; n < 180; ++n) {
            const PlanRow& row = plan->rows[n];
            if (n % 8 == 0) {
                QCOMPARE(row.kind, FrameKind::original);
                continue;
            }
            QCOMPARE(row.first, static_cast<std::int64_t>(n / 8 * 2));
            QCOMPARE(row.last, row.first + 2);
            QCOMPARE(phaseOf(row), Rational(static_cast<std::int64_t>(n % 8), 8));
        }
        // Neighbouring frames differ about evenly, where the held ones alone would stand still.
        const Image a = rendered(11);
        const Image b = rendered(12);
        const Image c = rendered(13);
        QVERIFY2(std::abs(lumaPsnr(a, b) - lumaPsnr(b, c)) < 3,
                 qPrintable(QStringLiteral("%1 and %2 dB").arg(lumaPsnr(a, b)).arg(lumaPsnr(b, c))));
        window_->document().undoStack().undo();
        for (int i = 0; i < 24; ++i)
            window_->document().undoStack().undo();
        QVERIFY(decisions().empty());
    }

    void takenOutHoldsKeepTheLength() {
        open(clips_.path(QStringLiteral("fox.mkv")));
        window_.choose("lookAtBox", 1);
        QTRY_COMPARE(outcome(), QStringLiteral("24 repeats found"));
        window_.find<QCheckBox>("keepLengthBox")->click();
        click("takeOutAllButton");
        QCOMPARE(outcome(), QStringLiteral("24 taken out"));
        QCOMPARE(window_->document().current()->speed, Rational(1, 2));
        QCOMPARE(window_->plan()->rows.size(), std::size_t{48});
        const QString notes = window_.find<QLabel>("cleanNotes")->text();
        QVERIFY2(notes.contains(QStringLiteral("48 → 24 source frames")), qPrintable(notes));
        window_->document().undoStack().undo();
        QCOMPARE(window_->document().current()->speed, Rational(1));
        QVERIFY(decisions().empty());
    }

    void theSubjectOfAMatteIsPassedOverAlone() {
        open(clips_.path(QStringLiteral("fox.mkv")));
        window_.choose("lookAtBox", 2);
        QTRY_VERIFY2(window_.find<QLabel>("cleanState")->text().contains(QStringLiteral("no matte")),
                     qPrintable(window_.find<QLabel>("cleanState")->text()));
        Shot shot = *window_->document().current();
        shot.matte.keys = {{0, {{0, 100}, {width, 100}, {width, 220}, {0, 220}}}};
        window_->document().edit(QStringLiteral("matte"), shot);
        QTRY_VERIFY(window_.find<QAbstractButton>("passOverAllButton")->isEnabled());
        click("passOverAllButton");
        QCOMPARE(outcome(), QStringLiteral("24 passed over"));
        QCOMPARE(sheet().decisionOn(5), QStringLiteral("subject passed over"));
        const PlanRow& row = window_->plan()->rows[5];
        QCOMPARE(row.subject, std::optional(std::pair<std::int64_t, std::int64_t>(4, 6)));
        QCOMPARE(row.position.frame, 5);
        window_->player().goTo(5);
        QTRY_VERIFY2(
            window_.find<QLabel>("sentence")->text().contains(QStringLiteral("subject half way from 4 to 6")),
            qPrintable(window_.find<QLabel>("sentence")->text()));
        QTRY_VERIFY_WITH_TIMEOUT(window_->preview().picture(5) && !window_->preview().picture(5)->draft,
                                 60'000);
        QVERIFY2(window_->preview().picture(5)->trouble.isEmpty(),
                 qPrintable(window_->preview().picture(5)->trouble));
    }

    void damageIsRestoredAndABadFrameRebuilt() {
        open(clips_.path(QStringLiteral("damaged.mkv")));
        QCOMPARE(outcome(), QStringLiteral("2 faults found"));
        click("restoreAllButton");
        click("rebuildAllButton");
        QCOMPARE(outcome(), QStringLiteral("1 rebuilt, 1 restored"));
        QTRY_VERIFY_WITH_TIMEOUT(window_->plan() != nullptr, 10'000);
        const Image restored = rendered(10);
        const Image was = damaged(10);
        const DamagedPlace place = decisions().about(10)->places.at(0);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                if (x < place.x || y < place.y || x >= place.x + place.width || y >= place.y + place.height)
                    QCOMPARE(sampleAt(restored, 0, x, y), sampleAt(was, 0, x, y));
        QVERIFY2(lumaPsnr(restored, gliding(10), 24) > lumaPsnr(was, gliding(10), 24) + 10,
                 qPrintable(QString::number(lumaPsnr(restored, gliding(10), 24))));
        QVERIFY2(lumaPsnr(rendered(20), gliding(20), 24) > 36,
                 qPrintable(QString::number(lumaPsnr(rendered(20), gliding(20), 24))));
        // The sentence says so.
        window_->player().goTo(20);
        QTRY_VERIFY2(
            window_.find<QLabel>("sentence")->text().contains(QStringLiteral("source frame 20 is rebuilt")),
            qPrintable(window_.find<QLabel>("sentence")->text()));
    }

    void placesAreDrawnAndErasedWithTheMouse() {
        open(clips_.path(QStringLiteral("damaged.mkv")));
        window_->setFocus();
        key(Qt::Key_S);
        sheet().goTo(5);
        key(Qt::Key_E); // there is no place to restore yet: it is to be drawn
        QVERIFY(decisions().empty());
        QVERIFY(sheet().isLarge());
        QCoreApplication::processEvents(); // it is laid out now
        const QPoint middle = sheet().rect().center();
        const auto drag = [&](Qt::MouseButton button, QPoint from, QPoint to) {
            QTest::mousePress(&sheet(), button, {}, from);
            QTest::mouseMove(&sheet(), (from + to) / 2);
            QTest::mouseMove(&sheet(), to);
            QTest::mouseRelease(&sheet(), button, {}, to);
        };
        drag(Qt::LeftButton, middle - QPoint(60, 40), middle + QPoint(60, 40));
        QCOMPARE(decisions().about(5)->kind, CleanupKind::restore);
        QCOMPARE(decisions().about(5)->places.size(), std::size_t{1});
        const DamagedPlace whole = decisions().about(5)->places[0];
        QVERIFY2(std::abs(whole.x + whole.width / 2 - width / 2) <= 2,
                 qPrintable(QStringLiteral("%1, %2 wide").arg(whole.x).arg(whole.width)));
        // The right half of it is erased again.
        drag(Qt::RightButton, middle - QPoint(0, 80), middle + QPoint(100, 80));
        QCOMPARE(decisions().about(5)->places.size(), std::size_t{1});
        QVERIFY(std::abs(decisions().about(5)->places[0].width - whole.width / 2) <= 2);
        key(Qt::Key_Escape);
        QVERIFY(!sheet().isLarge() && showsSheet());
        key(Qt::Key_Backspace);
        QVERIFY(!decisions().about(5));
    }

    void aHeldKeyShowsTheFrameBesideAndTheFrameAsMade() {
        open(clips_.path(QStringLiteral("damaged.mkv")));
        window_->setFocus();
        key(Qt::Key_S);
        sheet().goTo(20);
        key(Qt::Key_R);
        QTRY_VERIFY(!sheet().shownPicture().isNull());
        const QImage bad = sheet().shownPicture();
        QTest::keyPress(&sheet(), Qt::Key_B);
        QTRY_VERIFY_WITH_TIMEOUT(!sheet().shownPicture().isNull(), 60'000);
        QVERIFY(sheet().shownPicture() != bad);
        QTest::keyRelease(&sheet(), Qt::Key_B);
        QCOMPARE(sheet().shownPicture(), bad);
        QTest::keyPress(&sheet(), Qt::Key_Comma);
        QTRY_VERIFY(!sheet().shownPicture().isNull());
        QVERIFY(sheet().shownPicture() != bad);
        QTest::keyRelease(&sheet(), Qt::Key_Comma);
        QCOMPARE(sheet().at(), 20);
    }

    void aRunIsSelectedAndDecidedAtOnce() {
        open(clips_.path(QStringLiteral("damaged.mkv")));
        window_->setFocus();
        key(Qt::Key_S);
        QTest::mouseClick(&sheet(), Qt::LeftButton, {}, sheet().placeOf(2).center().toPoint());
        QTest::mouseClick(&sheet(), Qt::LeftButton, Qt::ShiftModifier, sheet().placeOf(4).center().toPoint());
        key(Qt::Key_X);
        QCOMPARE(outcome(), QStringLiteral("3 taken out"));
        QCOMPARE(window_->plan()->rows.size(), std::size_t{27});
        sheet().goTo(8);
        key(Qt::Key_N);
        key(Qt::Key_N);
        QCOMPARE(decisions().behind(8)->count, 2);
        QCOMPARE(window_->plan()->rows.size(), std::size_t{29});
        click("sheetUndecideButton");
        QVERIFY(!decisions().behind(8));
        click("clearCleanupButton");
        QVERIFY(decisions().empty());
        QCOMPARE(window_->plan()->rows.size(), std::size_t{30});
    }

    void whereFramesLieCanBeTyped() {
        open(clips_.path(QStringLiteral("damaged.mkv")));
        window_->setFocus();
        key(Qt::Key_S);
        sheet().goTo(8);
        auto* field = window_.find<ValueField>("sheetPhasesField");
        QVERIFY(!field->isVisible());
        key(Qt::Key_N);
        key(Qt::Key_N);
        QVERIFY(field->isVisible());
        const auto type = [&](const char* text) {
            QTest::mouseClick(field, Qt::LeftButton);
            field->selectAll();
            QTest::keyClick(field, Qt::Key_Delete);
            QTest::keyClicks(field, QString::fromLatin1(text));
            QTest::keyClick(field, Qt::Key_Return);
        };
        type("20, 55.5");
        QCOMPARE(decisions().behind(8)->phases, (std::vector{Rational(1, 5), Rational(111, 200)}));
        type("60, 40"); // they do not rise
        QCOMPARE(decisions().behind(8)->phases, (std::vector{Rational(1, 5), Rational(111, 200)}));
        QVERIFY(window_.find<QLabel>("sheetPhasesHint")->text().contains(QStringLiteral("rising")));
        type("");
        QVERIFY(decisions().behind(8)->phases.empty());
        sheet().setFocus();
        sheet().goTo(20);
        QVERIFY(!field->isVisible());
        key(Qt::Key_R);
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClick(field, Qt::Key_Up); // from the middle of the way
        QCOMPARE(decisions().about(20)->phases, (std::vector{Rational(51, 100)}));
        QTest::keyClick(window_.operator->(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(decisions().about(20)->phases.empty());
        QVERIFY(field->text().isEmpty());
    }

    void allFramesCannotBeTakenOut() {
        open(clips_.path(QStringLiteral("damaged.mkv")));
        window_->setFocus();
        key(Qt::Key_S);
        key(Qt::Key_Home);
        key(Qt::Key_End, Qt::ShiftModifier);
        key(Qt::Key_X);
        QVERIFY(decisions().empty());
        auto* notice = window_.find<QLabel>("notice");
        QTRY_VERIFY(notice->isVisible() && notice->text().contains(QStringLiteral("Keep at least one")));
    }

    void aDecisionWithoutEffectIsTold() {
        open(clips_.path(QStringLiteral("damaged.mkv")));
        window_->setFocus();
        key(Qt::Key_S);
        key(Qt::Key_Home);
        key(Qt::Key_P);
        const QString notes = window_.find<QLabel>("cleanNotes")->text();
        QVERIFY2(notes.contains(QStringLiteral("frame 0 has no effect")), qPrintable(notes));
    }
};

QTEST_MAIN(TestCleanStep)
#include "test_clean_step.moc"
