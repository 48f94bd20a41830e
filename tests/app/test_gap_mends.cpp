// A gap mended by hand in a real window: a guide drawn on both source frames, a patch drawn on the picture,
// other methods, timing, and the frame seen without.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/drawn_clip.h"
#include "support/film.h"
#include "support/own_settings.h"
#include "support/pictures.h"
#include "support/shot_window.h"
#endif

#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPointer>
#include <QSignalSpy>
#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 180;
constexpr int half = 34; ///< the output frame half way in gap 8, at 25 %

/// Where the bright square is at a moment; from frame 8 to 9 it leaps far.
double leftAt(double time) {
    return time <= 8 ? 40 + 2 * time : time >= 9 ? 190 + 2 * time : 56 + (time - 8) * 152;
}

Image leaping(double time) {
    const double left = leftAt(time);
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [=](int p, int x, int y) {
        if (p > 0) return 128.0;
        if (x >= left && x < left + 30 && y >= 70 && y < 100)
            return 200.0 + 40 * std::sin((x - left) / 3.0) * std::sin(y / 3.0);
        return 30 + 0.5 * texture(x - time, y, 12, 5);
    });
}

} // namespace

class TestGapMends : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    [[nodiscard]] const Mending& mending() const { return window_->document().current()->mending; }
    GapView& view() { return window_->gapView(); }
    void click(const char* button) {
        auto* found = window_.find<QAbstractButton>(button);
        QVERIFY2(found->isEnabled(), button);
        QTest::mouseClick(found, Qt::LeftButton);
    }
    void ready() {
        QTRY_VERIFY_WITH_TIMEOUT(
            [&] {
                const auto picture = window_->preview().picture(window_->player().playhead());
                return picture && !picture->draft;
            }(),
            60'000);
    }
    QImage shown() {
        ready();
        return window_->preview().picture(window_->player().playhead())->image;
    }
    /// Mean brightness of the picture on screen in a part of it, in pixels of the shot.
    double brightness(const QRectF& part) {
        const QImage image = shown();
        const double sx = static_cast<double>(image.width()) / width;
        const double sy = static_cast<double>(image.height()) / height;
        double sum = 0;
        int count = 0;
        for (int y = static_cast<int>(part.top() * sy); y < part.bottom() * sy; ++y)
            for (int x = static_cast<int>(part.left() * sx); x < part.right() * sx; ++x, ++count)
                sum += qGray(image.pixel(x, y));
        return sum / count;
    }
    void pointAt(GuideEnd end, double x, double y) {
        GuidePane& pane = view().guideSheet()->pane(end);
        QTest::mouseClick(&pane, Qt::LeftButton, {}, pane.toScreen({x, y}).toPoint());
    }
    QPoint onStage(double x, double y) {
        const QRectF picture = view().stage().placeOfPicture();
        return QPointF(picture.left() + x / width * picture.width(),
                       picture.top() + y / height * picture.height())
            .toPoint();
    }
    OutlineOverlay* overlay() { return window_.find<OutlineOverlay>("patchOverlay"); }
    void drawPatch(const QRectF& around) {
        click("patchButton");
        for (const QPointF& p :
             {around.topLeft(), around.topRight(), around.bottomRight(), around.bottomLeft()})
            QTest::mouseClick(overlay(), Qt::LeftButton, {}, onStage(p.x(), p.y()));
        QTest::keyClick(overlay(), Qt::Key_Return);
    }
    void trigger(const char* button, const QString& words) {
        for (QAction* action : window_.find<QPushButton>(button)->menu()->actions())
            if (action->text() == words) return action->trigger();
        QFAIL(qPrintable(words));
    }
    void undo() { QTest::keyClick(window_.operator->(), Qt::Key_Z, Qt::ControlModifier); }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        drawnClip(clips_, QStringLiteral("leaping.mkv"), 18, leaping);
    }
    void init() {
        window_.open(clips_.path(QStringLiteral("leaping.mkv")));
        QTest::mouseClick(window_.find<StepCard>("mendStep")->header(), Qt::LeftButton);
        window_->player().goTo(half);
        ready();
    }
    void cleanup() { window_.close(); }

    void theStepSaysWhichGapItIs() {
        QCOMPARE(window_.find<QLabel>("gapHead")->text(), QStringLiteral("Gap 8"));
        window_->player().goTo(4 * 12 + 1);
        QCOMPARE(window_.find<QLabel>("gapHead")->text(), QStringLiteral("Gap 12"));
    }

    void aGuideDrawnByMouseBringsTheSquareHalfWay() {
        const QRectF middle(leftAt(8.5) + 4, 74, 22, 22);
        const double before = brightness(middle);
        QVERIFY2(before < 130, "the square is found without a guide");
        click("guideButton");
        GuideSheet* sheet = view().guideSheet();
        QVERIFY(sheet && sheet->isVisible() && !view().stage().isVisible());
        QTRY_VERIFY_WITH_TIMEOUT(
            sheet->pane(GuideEnd::from).hasPicture() && sheet->pane(GuideEnd::to).hasPicture(), 30'000);
        QVERIFY2(sheet->hint().startsWith(QStringLiteral("Click a point on source frame 8")),
                 qPrintable(sheet->hint()));
        pointAt(GuideEnd::to, 100, 100); // the left one comes first
        QVERIFY(mending().mends.empty());
        pointAt(GuideEnd::from, leftAt(8) + 6, 76);
        QVERIFY(sheet->hint().startsWith(QStringLiteral("Now click")));
        pointAt(GuideEnd::to, leftAt(9) + 6, 76);
        pointAt(GuideEnd::from, leftAt(8) + 24, 94);
        pointAt(GuideEnd::to, leftAt(9) + 24, 94);
        QCOMPARE(mending().mends.size(), std::size_t{1});
        const Guide guide = *mending().mends[0].changes.guide;
        QCOMPARE(guide.first, 8);
        QCOMPARE(guide.last, 9);
        QCOMPARE(guide.pairs.size(), std::size_t{2});
        QVERIFY(std::hypot(guide.pairs[1].to.x - leftAt(9) - 24, guide.pairs[1].to.y - 94) < 1.5);
        QTest::keyClick(sheet, Qt::Key_Escape);
        QVERIFY(!view().guideSheet() && view().stage().isVisible());
        const double after = brightness(middle);
        QVERIFY2(after > 185, qPrintable(QStringLiteral("%1, then %2").arg(before).arg(after)));
        // The other frames of the gap too, and no frame of another.
        QCOMPARE(window_->plan()->rows[half].mend, std::size_t{0});
        QVERIFY(!window_->plan()->rows[half + 4].mend);
        undo();
        QCOMPARE(mending().mends[0].changes.guide->pairs.size(), std::size_t{1});
        undo();
        QVERIFY(mending().mends.empty());
        QVERIFY(brightness(middle) < 130);
    }

    void aGuideIsDrawnByKeysAlone() {
        click("guideButton");
        GuideSheet* sheet = view().guideSheet();
        QTest::keyClick(sheet, Qt::Key_Insert);
        QCOMPARE(mending().mends.size(), std::size_t{1});
        const auto pair = [&] { return mending().mends[0].changes.guide->pairs[0]; };
        QVERIFY((pair().from == PicturePoint{160, 90}));
        QTest::keyClick(sheet, Qt::Key_Right, Qt::ControlModifier);
        QTest::keyClick(sheet, Qt::Key_Up, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY((pair().from == PicturePoint{161, 80}));
        QTest::keyClick(sheet, Qt::Key_PageDown);
        QTest::keyClick(sheet, Qt::Key_Left, Qt::ControlModifier);
        QVERIFY((pair().to == PicturePoint{159, 90}));
        QTest::keyClick(sheet, Qt::Key_Delete);
        QVERIFY(mending().mends.empty()); // a guide without pairs is none
        QTest::keyClick(sheet, Qt::Key_Return);
        QVERIFY(!view().guideSheet());
    }

    void pairsThatContradictAreTold() {
        click("guideButton");
        GuideSheet* sheet = view().guideSheet();
        QTRY_VERIFY_WITH_TIMEOUT(sheet->pane(GuideEnd::from).hasPicture(), 30'000);
        pointAt(GuideEnd::from, leftAt(8) + 10, 80);
        pointAt(GuideEnd::to, leftAt(9) + 10, 80);
        pointAt(GuideEnd::from, leftAt(8) + 18, 86);
        pointAt(GuideEnd::to, 20, 160);
        QTRY_VERIFY2_WITH_TIMEOUT(sheet->hint().startsWith(QStringLiteral("Pair 2 contradicts")),
                                  qPrintable(sheet->hint()), 30'000);
    }

    void leavingTheGapLeavesTheGuide() {
        click("guideButton");
        QVERIFY(view().guideSheet());
        window_->player().goTo(half + 1);
        QVERIFY(view().guideSheet()); // another phase of the same gap
        window_->player().goTo(half + 8);
        QVERIFY(!view().guideSheet());
        QVERIFY(!window_.find<QPushButton>("guideButton")->isChecked());
    }

    void aPatchDrawnByMouseChangesItsPlaceAlone() {
        const QImage before = shown();
        drawPatch({200, 60, 60, 50});
        QCOMPARE(mending().mends.size(), std::size_t{1});
        const Patch patch = *mending().mends[0].patch;
        QCOMPARE(patch.keys.size(), std::size_t{1});
        QCOMPARE(patch.keys[0].at, Rational(17, 2));
        QCOMPARE(patch.keys[0].points.size(), std::size_t{4});
        QVERIFY(std::hypot(patch.keys[0].points[2].x - 260, patch.keys[0].points[2].y - 110) < 1.5);
        window_.type("patchFeather", QStringLiteral("4 px"));
        QCOMPARE(mending().mends[0].patch->feather, 4);
        window_.type("patchBlur", QStringLiteral("40"));
        QCOMPARE(mending().mends[0].patch->blur, 40);
        const QImage after = shown();
        QCOMPARE(after.size(), before.size());
        const double sx = static_cast<double>(after.width()) / width;
        int inside = 0;
        for (int y = 0; y < after.height(); ++y)
            for (int x = 0; x < after.width(); ++x) {
                if (after.pixel(x, y) == before.pixel(x, y)) continue;
                // 4 px of feather, and what scaling to the screen spreads.
                QVERIFY(QRectF(200, 60, 60, 50).adjusted(-8, -8, 8, 8).contains(x / sx, y / sx));
                ++inside;
            }
        QVERIFY(inside > 300);
        // Off and on again.
        auto* list = window_.find<QListWidget>("gapMends");
        list->item(0)->setCheckState(Qt::Unchecked);
        QVERIFY(!mending().mends[0].isOn);
        QVERIFY(shown() == before);
        list->item(0)->setCheckState(Qt::Checked);
        QVERIFY(shown() == after);
    }

    void theOutlineGoesAlongAndIsCorrected() {
        drawPatch({leftAt(8.5) - 10, 60, 50, 50});
        window_.type("mendLast", QStringLiteral("10"));
        QCOMPARE(mending().mends[0].gaps.last, 10);
        QVERIFY(view().editsPatch());
        window_->player().goTo(half + 4);
        QTRY_VERIFY_WITH_TIMEOUT(!overlay()->outline().empty(), 60'000);
        QVERIFY(overlay()->hint().startsWith(QStringLiteral("Outline carried to source 9.5")));
        overlay()->setFocus();
        QTest::keyClick(overlay(), Qt::Key_Right, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(mending().mends[0].patch->keys.size(), std::size_t{2});
        QCOMPARE(mending().mends[0].patch->keys[1].at, Rational(19, 2));
        QTest::keyClick(overlay(), Qt::Key_Insert);
        for (const PatchKey& key : mending().mends[0].patch->keys)
            QCOMPARE(key.points.size(), std::size_t{5});
        undo();
        undo();
        QCOMPARE(mending().mends[0].patch->keys.size(), std::size_t{1});
        QTest::keyClick(overlay(), Qt::Key_Escape);
        QVERIFY(!view().editsPatch());
        // Undone while its outline is edited, it is left.
        click("patchOutline");
        QVERIFY(view().editsPatch());
        undo(); // the gaps
        undo(); // the patch itself
        QVERIFY(mending().mends.empty());
        QVERIFY(!view().editsPatch());
    }

    void whatAPatchShowsIsChosen() {
        drawPatch({120, 60, 60, 50});
        window_.choose("patchShows", 2);
        QVERIFY(mending().mends[0].patch->shows == PatchShows::behind);
        window_.choose("patchShows", 3);
        QVERIFY(mending().mends[0].patch->shows == PatchShows::otherwise);
        QVERIFY(mending().mends[0].changes.method == Method::blend);
        window_.choose("patchShows", 1);
        QVERIFY(mending().mends[0].changes == MendChanges());
        // A sentence for what cannot be.
        window_.type("patchFeather", QStringLiteral("900"));
        QCOMPARE(mending().mends[0].patch->feather, Patch().feather);
    }

    void otherWaysAreOneClickAway() {
        trigger("otherMethod", QStringLiteral("Blend"));
        QVERIFY(window_->plan()->rows[half].kind == FrameKind::blend);
        trigger("oneSide", QStringLiteral("From before only")); // in place of it
        QCOMPARE(mending().mends.size(), std::size_t{1});
        QVERIFY(mending().mends[0].changes.sides == Sides::before);
        QVERIFY(window_->plan()->rows[half].kind == FrameKind::flow);
        auto* list = window_.find<QListWidget>("gapMends");
        QCOMPARE(list->item(0)->text(), QStringLiteral("from before only"));
        list->item(0)->setText(QStringLiteral("wing"));
        QCOMPARE(mending().mends[0].name, std::string("wing"));
        click("takeMendOut");
        QVERIFY(mending().mends.empty());
    }

    void aNameBeingTypedIsLeftAlone() {
        trigger("otherMethod", QStringLiteral("Blend"));
        auto* list = window_.find<QListWidget>("gapMends");
        list->editItem(list->item(0));
        const QPointer<QLineEdit> editor = list->viewport()->findChild<QLineEdit*>();
        QVERIFY(editor);
        editor->setText(QStringLiteral("fast wi"));
        Q_EMIT window_->doubts().changed(); // as it is told while gaps are looked at
        QCoreApplication::processEvents();
        QVERIFY(editor);
        QCOMPARE(editor->text(), QStringLiteral("fast wi"));
        QTest::keyClicks(editor, QStringLiteral("ng"));
        QTest::keyClick(editor, Qt::Key_Return);
        QTRY_COMPARE(mending().mends[0].name, std::string("fast wing"));
    }

    void theListShowsThePatch() {
        QTRY_VERIFY_WITH_TIMEOUT(!window_->doubts().isSearching() && !window_->doubts().gaps().empty(),
                                 120'000);
        const auto pictureOfGap = [&] {
            const auto gap = std::ranges::find(window_->doubts().gaps(), 8, &DoubtfulGap::first);
            if (gap != window_->doubts().gaps().end()) window_->doubts().wantPictures({*gap});
            return window_->doubts().picture(8);
        };
        QTRY_VERIFY_WITH_TIMEOUT(!pictureOfGap().isNull(), 60'000);
        const QImage before = pictureOfGap();
        drawPatch({10, 10, 300, 160});
        window_.type("patchBlur", QStringLiteral("60"));
        QTRY_VERIFY_WITH_TIMEOUT(!pictureOfGap().isNull() && pictureOfGap() != before, 60'000);
    }

    void theGapRunsThroughAndTheLengthIsKept() {
        const std::size_t rows = window_->plan()->rows.size();
        click("keepLengthOfMend");
        click("stepRunThrough");
        QCOMPARE(window_->plan()->rows.size(), rows);
        for (const PlanRow& row : window_->plan()->rows)
            QVERIFY(row.position.frame != 8 || row.kind == FrameKind::original);
        undo();
        click("keepLengthOfMend");
        click("stepRunThrough");
        QVERIFY(window_->plan()->rows.size() < rows);
    }

    void fromATornShotToABetterRenderByKeysAlone() {
        const auto render = [&](const char* name) {
            auto* card = window_.find<StepCard>("renderStep");
            card->header()->setFocus();
            if (!card->isOpen()) QTest::keyClick(card->header(), Qt::Key_Space);
            auto* target = window_.find<QLineEdit>("targetField");
            target->setFocus();
            target->selectAll();
            QTest::keyClicks(target, clips_.path(QString::fromLatin1(name)));
            auto* button = window_.find<QPushButton>("renderButton");
            QTRY_COMPARE(button->text(), QStringLiteral("Render"));
            button->setFocus();
            QSignalSpy finished(&window_->render(), &RenderController::finished);
            QTest::keyClick(button, Qt::Key_Return);
            QVERIFY(finished.wait(160'000));
            QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        };
        const auto psnrOf = [&](const char* name) {
            const auto index = std::make_shared<const MediaIndex>(
                buildIndex(clips_.path(QString::fromLatin1(name)).toStdString()));
            FrameSource result(index);
            return lumaPsnr(*result.frame(half), leaping(8.5));
        };
        render("torn.mkv");
        // To the doubtful gap, as its own key goes there.
        window_.find<StepCard>("mendStep")->header()->setFocus();
        QTest::keyClick(window_.find<StepCard>("mendStep")->header(), Qt::Key_Space);
        QTRY_VERIFY_WITH_TIMEOUT(!window_->doubts().isSearching(), 120'000);
        window_.find<QSlider>("doubtLimitSlider")->setValue(15);
        window_->player().goTo(0);
        window_->setFocus();
        while (window_->plan()->rows[static_cast<std::size_t>(window_->player().playhead())].first != 8) {
            const qint64 before = window_->player().playhead();
            QTest::keyClick(window_.operator->(), Qt::Key_BracketRight);
            QVERIFY(window_->player().playhead() > before);
        }
        auto* guide = window_.find<QPushButton>("guideButton");
        guide->setFocus();
        QTest::keyClick(guide, Qt::Key_Return);
        GuideSheet* sheet = view().guideSheet();
        QVERIFY(sheet);
        const auto moveTo = [&](double x, double y) { // from the middle, where Insert puts a point
            const auto press = [&](int key, double by) {
                for (int i = 0; i < static_cast<int>(by / 10); ++i)
                    QTest::keyClick(sheet, Qt::Key(key), Qt::ControlModifier | Qt::ShiftModifier);
                for (int i = 0; i < static_cast<int>(by) % 10; ++i)
                    QTest::keyClick(sheet, Qt::Key(key), Qt::ControlModifier);
            };
            press(x > 160 ? Qt::Key_Right : Qt::Key_Left, std::abs(x - 160));
            press(y > 90 ? Qt::Key_Down : Qt::Key_Up, std::abs(y - 90));
        };
        for (const double corner : {6.0, 24.0}) {
            QTest::keyClick(sheet, Qt::Key_Insert);
            moveTo(leftAt(8) + corner, 70 + corner);
            QTest::keyClick(sheet, Qt::Key_PageDown);
            moveTo(leftAt(9) + corner, 70 + corner);
        }
        QTest::keyClick(sheet, Qt::Key_Escape);
        render("mended.mkv");
        const double before = psnrOf("torn.mkv");
        const double after = psnrOf("mended.mkv");
        QVERIFY2(after > before + 3, qPrintable(QStringLiteral("%1, then %2 dB").arg(before).arg(after)));
    }

    void holdingAKeyShowsTheFrameWithout() {
        const QImage before = shown();
        trigger("otherMethod", QStringLiteral("Repeat the nearer"));
        const QImage after = shown();
        QVERIFY(before != after);
        window_->setFocus();
        QTest::keyPress(window_.operator->(), Qt::Key_B);
        QTRY_VERIFY_WITH_TIMEOUT((view().stage().grab(), view().stage().showsInstead()), 30'000);
        QTest::keyRelease(window_.operator->(), Qt::Key_B);
        view().stage().grab();
        QVERIFY(!view().stage().showsInstead());
    }
};

QTEST_MAIN(TestGapMends)
#include "test_gap_mends.moc"
