// The step In-betweens with mouse and keys: settings typed and chosen, tried beside each other, undone.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/stage/try_sheet.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"
#endif

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QTest>

#include <algorithm>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestInBetweensStep : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    ShotWindow window_;

    template <typename T>
    T* find(const char* name) {
        return window_.find<T>(name);
    }
    [[nodiscard]] const InBetweens& settings() const { return window_->document().current()->inBetweens; }
    void type(const char* field, const QString& words) { window_.type(field, words); }
    void choose(const char* box, int index) { window_.choose(box, index); }
    QString sentence() { return find<QLabel>("sentence")->text(); }
    bool sentenceSays(const char* words) {
        return QTest::qWaitFor([&] { return sentence().contains(QString::fromLatin1(words)); }, 30'000);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 8, {}, QStringLiteral("320x180"));
    }
    void init() { window_.open(clip_); }
    void cleanup() { window_.close(); }

    void stiffnessIsTypedSteppedAndUndone() {
        type("stiffnessField", QStringLiteral("70"));
        QCOMPARE(settings().flow.stiffness, 70);
        auto* field = find<ValueField>("stiffnessField");
        QTest::keyClick(field, Qt::Key_Up);
        QTest::keyClick(field, Qt::Key_Up);
        QCOMPARE(settings().flow.stiffness, 80);
        QCOMPARE(field->text(), QStringLiteral("80"));
        QVERIFY(find<StepCard>("inBetweensStep")->outcome().contains(QStringLiteral("stiff 80")));
        window_->document().undoStack().undo(); // both steps are one
        QCOMPARE(settings().flow.stiffness, 70);
        type("stiffnessField", QStringLiteral("180"));
        QCOMPARE(settings().flow.stiffness, 70);
        // The field says what goes, below it.
        const auto labels = find<StepCard>("inBetweensStep")->findChildren<QLabel*>();
        QVERIFY(std::any_of(labels.begin(), labels.end(), [](const QLabel* label) {
            return label->isVisible() && label->text().contains(QStringLiteral("from 0 to 100"));
        }));
    }

    void moreSettingsAreBehindMore() {
        auto* limit = find<ValueField>("trustLimitField");
        QVERIFY(!limit->isVisible());
        QTest::mouseClick(find<QToolButton>("moreInBetweens"), Qt::LeftButton);
        QVERIFY(limit->isVisible());
        const auto header = [&] { return find<QToolButton>("moreInBetweens")->text(); };
        QCOMPARE(header(), QStringLiteral("More"));
        type("trustLimitField", QStringLiteral("25 %"));
        QCOMPARE(header(), QStringLiteral("More (changed)")); // which shows while it is closed too
        type("shutterField", QStringLiteral("180"));
        choose("analyseOnBox", 2);
        choose("inFrontBox", 1);
        choose("sidesBox", 1);
        choose("standInBox", 2);
        for (const char* box :
             {"evenTextureBox", "bridgeRepeatsBox", "bendPathsBox", "keepGrainBox", "linearLightBox"})
            find<QCheckBox>(box)->click();
        const InBetweens wanted{.flow = {.analyseOn = AnalyseOn::edges},
                                .finalQuality = FlowQuality::standard,
                                .synthesis = {.inFront = InFront::slower,
                                              .sides = Sides::before,
                                              .trustLimit = 25,
                                              .standIn = StandIn::side,
                                              .evenTexture = true,
                                              .bridgeRepeats = false,
                                              .bendPaths = false,
                                              .keepGrain = true,
                                              .linearLight = true,
                                              .shutterAngle = 180}};
        QVERIFY(settings() == wanted);
        // What goes through synthesis is no original any more, and the chart's plan says so.
        QCOMPARE(window_->plan()->count(FrameKind::original), 0);
        window_->document().undoStack().setIndex(2); // the shot and its speed
        QVERIFY(settings() == InBetweens());
        QCOMPARE(header(), QStringLiteral("More"));
        QVERIFY(!find<QCheckBox>("keepGrainBox")->isChecked());
    }

    void theRenderIsNoWorseThanWhatWasLookedAt() {
        const auto qualities = [&] { return std::pair(settings().flow.quality, settings().finalQuality); };
        choose("qualityBox", 2);
        QCOMPARE(qualities(), std::pair(FlowQuality::thorough, FlowQuality::thorough));
        QCOMPARE(find<ChoiceBox>("finalQualityBox")->currentText(), QStringLiteral("thorough"));
        window_->document().undoStack().undo(); // both at once
        QCOMPARE(qualities(), std::pair(FlowQuality::standard, FlowQuality::standard));
        choose("qualityBox", 0);
        QCOMPARE(qualities(), std::pair(FlowQuality::draft, FlowQuality::standard));
        choose("finalQualityBox", 0); // if that is wanted
        QCOMPARE(qualities(), std::pair(FlowQuality::draft, FlowQuality::draft));
    }

    void aQuickLookComesBeforeTheBetterOne() {
        // Large enough for the better one to take its time.
        window_.open(clips_.moving(QStringLiteral("large.mp4"), 8, {}, QStringLiteral("1280x720")));
        choose("qualityBox", 2); // thorough
        auto* label = find<QLabel>("sentence");
        auto& stage = window_->findChild<GapView*>()->stage();
        bool draft = false;
        connect(&stage, &PictureStage::shown, label, [&] { draft |= stage.isDraft() && !stage.isStale(); });
        window_->player().goTo(22);
        QVERIFY(QTest::qWaitFor([&] { return !stage.isStale() && !stage.isDraft(); }, 60'000));
        QVERIFY(draft);
        QVERIFY(sentenceSays("doubt"));
        QVERIFY(!sentence().contains(QStringLiteral("draft")));
    }

    void fourSettingsAreTriedAndOneIsTaken() {
        window_->player().goTo(2);
        QVERIFY(sentenceSays("doubt"));
        QTest::mouseClick(find<QPushButton>("tryButton"), Qt::LeftButton);
        auto* sheet = find<TrySheet>("trySheet");
        QVERIFY(!window_->findChild<GapView*>()->stage().isVisible());
        for (std::size_t i = 0; i < 4; ++i)
            QVERIFY(QTest::qWaitFor([&] { return sheet->pane(i)->hasPicture(); }, 60'000));
        QVERIFY(sheet->pane(0)->picture() != sheet->pane(1)->picture());
        const auto tries = triesOf(settings());
        QTest::mouseClick(sheet->pane(2), Qt::LeftButton);
        QVERIFY(settings() == tries[2].settings);
        QVERIFY(settings().flow.analyseOn == AnalyseOn::edges);
        QVERIFY(window_->findChild<GapView*>()->stage().isVisible());
        // The keys are the transport's again: no button has them, and Space plays.
        QVERIFY(QApplication::focusWidget() && !qobject_cast<QAbstractButton*>(QApplication::focusWidget()));
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Space);
        QCOMPARE(window_->player().speed(), 1);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Space);
        QCOMPARE(window_->player().speed(), 0);
        window_->document().undoStack().undo();
        QVERIFY(settings() == InBetweens());
    }

    void escapeAndMovingOnLeaveTheSettings() {
        window_->player().goTo(2);
        QTest::mouseClick(find<QPushButton>("tryButton"), Qt::LeftButton);
        QTest::keyClick(find<TrySheet>("trySheet"), Qt::Key_Escape);
        QVERIFY(window_->findChild<GapView*>()->stage().isVisible());
        QTest::mouseClick(find<QPushButton>("tryButton"), Qt::LeftButton);
        window_->player().goTo(3);
        QVERIFY(window_->findChild<GapView*>()->stage().isVisible());
        QVERIFY(settings() == InBetweens());
        window_->player().goTo(4); // an original
        QTest::mouseClick(find<QPushButton>("tryButton"), Qt::LeftButton);
        QVERIFY(window_->findChild<GapView*>()->stage().isVisible());
    }
};

QTEST_MAIN(TestInBetweensStep)
#include "test_in_betweens_step.moc"
