// The step Footage: measured beside claimed, and every way of taking a file differently.

#include "app/look/theme.h"
#include "app/steps/footage_step.h"
#include "app/window/main_window.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/own_settings.h"

#include <QApplication>
#include <QTest>

#include <memory>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestFootageStep : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    std::unique_ptr<MainWindow> window_;

    template <typename Widget = QWidget>
    Widget* find(const char* name) {
        return window_->findChild<Widget*>(QLatin1String(name));
    }
    QPushButton* button(const QString& text) {
        for (auto* b : window_->findChildren<QPushButton*>())
            if (b->isVisible() && b->text() == text) return b;
        return nullptr;
    }
    void open(const QStringList& files) {
        window_->document().openFiles(files);
        QTRY_VERIFY_WITH_TIMEOUT(window_->plan() != nullptr, 20'000);
        find<StepCard>("footageStep")->setOpen(true);
    }
    void choose(const char* name, const QString& item) {
        auto* box = find<ChoiceBox>(name);
        const int row = box->findText(item);
        QVERIFY2(row >= 0, qPrintable(item));
        box->setFocus();
        box->setCurrentIndex(row);
        Q_EMIT box->activated(row); // as a choice in the open list does
    }
    QString facts() { return find<QLabel>("footageFacts")->text(); }
    QString outcome() { return find<StepCard>("footageStep")->outcome(); }
    const Interpretation& taken() { return window_->document().current()->interpretation; }
    QStringList testPattern(int frames) {
        return {QStringLiteral("-f"),        QStringLiteral("lavfi"),
                QStringLiteral("-i"),        QStringLiteral("testsrc2=size=160x90:rate=25"),
                QStringLiteral("-frames:v"), QString::number(frames)};
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        applyTheme(*qApp);
    }
    void init() {
        window_ = std::make_unique<MainWindow>();
        window_->show();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
    }
    void cleanup() { window_.reset(); }

    void measuredStandsBesideClaimed() {
        open({clips_.moving(QStringLiteral("lark.mp4"), 24, {}, QStringLiteral("160x90"))});
        QTRY_VERIFY_WITH_TIMEOUT(facts().contains(QStringLiteral("Measured")), 20'000);
        QTRY_VERIFY_WITH_TIMEOUT(!facts().contains(QStringLiteral("seen…")), 20'000);
        QVERIFY(facts().contains(QStringLiteral("progressive")));
        QVERIFY(!find<QPushButton>("asFileButton")->isVisible());
    }

    void varyingTimesAreOfferedToBeMadeEven() {
        const QString clip = clips_.varying(QStringLiteral("phone.mp4"));
        open({clip});
        QVERIFY(facts().contains(QStringLiteral("timestamps vary")));
        QTRY_VERIFY_WITH_TIMEOUT(button(QStringLiteral("Make even, 25 fps")), 20'000);
        QCOMPARE(window_->plan()->rows.size(), std::size_t{45});
        QTest::mouseClick(button(QStringLiteral("Make even, 25 fps")), Qt::LeftButton);
        QCOMPARE(window_->plan()->rows.size(), std::size_t{50});
        QVERIFY(facts().contains(QStringLiteral("even timestamps")));
        QVERIFY(!button(QStringLiteral("Make even, 25 fps")));
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(window_->plan()->rows.size(), std::size_t{45});
    }

    void interlacedPicturesAreDeinterlaced() {
        const QString clip =
            clips_.make(QStringLiteral("tape.mkv"),
                        {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("testsrc2=size=320x240:rate=50,interlace=lowpass=off"),
                         QStringLiteral("-frames:v"), QStringLiteral("25"), QStringLiteral("-c:v"),
                         QStringLiteral("ffv1"), QStringLiteral("-field_order"), QStringLiteral("tt")});
        open({clip});
        QTRY_VERIFY_WITH_TIMEOUT(button(QStringLiteral("Deinterlace to 50 fps")), 20'000);
        QVERIFY(outcome().contains(QStringLiteral("interlaced found")));
        QTest::mouseClick(button(QStringLiteral("Deinterlace to 50 fps")), Qt::LeftButton);
        QCOMPARE(window_->plan()->rows.size(), std::size_t{50});
        QVERIFY2(outcome().contains(QStringLiteral("50 fps, deinterlaced")), qPrintable(outcome()));
        QTRY_VERIFY_WITH_TIMEOUT(!window_->gapView().stage().isStale(), 20'000);
        choose("fieldsBox", QStringLiteral("to frames"));
        QCOMPARE(window_->plan()->rows.size(), std::size_t{25});
        choose("orderBox", QStringLiteral("bottom first"));
        QCOMPARE(taken().topFirst, std::optional(false));
        QTest::mouseClick(find<QPushButton>("asFileButton"), Qt::LeftButton);
        QVERIFY(taken().isDefault());
    }

    void theHandMayTakeItAnyWay() {
        open({clips_.moving(QStringLiteral("rail.mp4"), 10, {}, QStringLiteral("160x90"))});
        choose("turnBox", QStringLiteral("90° right"));
        QCOMPARE(taken().rotation, 90);
        QCOMPARE(window_->document().currentFacts()->width, 90);
        choose("rangeBox", QStringLiteral("full"));
        choose("matrixBox", QStringLiteral("BT.2020"));
        QCOMPARE(taken().fullRange, std::optional(true));
        QCOMPARE(taken().matrix, std::optional(9));
        auto* aspect = find<ValueField>("aspectField");
        QTest::mouseClick(aspect, Qt::LeftButton);
        QTest::keyClicks(aspect, QStringLiteral("99"));
        QTest::keyClick(aspect, Qt::Key_Return);
        QVERIFY(!taken().pixelAspect); // refused, and said
        QVERIFY(aspect->toolTip().contains(QStringLiteral("0.1 and 10")));
        aspect->selectAll();
        QTest::keyClicks(aspect, QStringLiteral("16/15"));
        QTest::keyClick(aspect, Qt::Key_Return);
        QCOMPARE(taken().pixelAspect, std::optional(Rational(16, 15)));
        for (int i = 0; i < 4; ++i)
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(taken().isDefault());
    }

    void picturesOfOneSequenceAreOneShot() {
        clips_.make(QStringLiteral("still_%03d.png"), testPattern(12));
        QStringList files;
        for (int i = 1; i <= 12; ++i)
            files.append(clips_.path(QStringLiteral("still_%1.png").arg(i, 3, 10, QLatin1Char('0'))));
        open(files);
        QCOMPARE(window_->document().project().shots.size(), std::size_t{1});
        QCOMPARE(window_->plan()->rows.size(), std::size_t{12});
        QVERIFY(outcome().startsWith(QStringLiteral("24 fps")));
        auto* rate = find<ValueField>("footageRateField");
        QTest::mouseClick(rate, Qt::LeftButton);
        QTest::keyClicks(rate, QStringLiteral("12.5"));
        QTest::keyClick(rate, Qt::Key_Return);
        QCOMPARE(window_->document().currentFacts()->rate, Rate(25, 2));
        QTRY_VERIFY_WITH_TIMEOUT(!window_->gapView().stage().isStale(), 20'000);
    }

    void aFileThatIsGoneOffersToBeFound() {
        window_->document().openFiles({clips_.path(QStringLiteral("gone.mp4"))});
        QTRY_VERIFY(window_->document().current() != nullptr);
        find<StepCard>("footageStep")->setOpen(true);
        QTRY_VERIFY_WITH_TIMEOUT(find<QPushButton>("findAgainButton")->isVisible(), 20'000);
        QVERIFY(outcome().contains(QStringLiteral("cannot be read")));
    }

    void anInterpretationOfAnotherFileIsSetAside() {
        const QString clip = clips_.moving(QStringLiteral("short.mp4"), 10, {}, QStringLiteral("160x90"));
        Project project;
        project.shots = {shotOf(clip.toStdString())};
        project.shots.front().interpretation.fields = FieldUse::removePulldown;
        project.shots.front().interpretation.pulldown = {{0, 999, PulldownRun::Kind::pulldown32, true, 0}};
        const QString file = clips_.path(QStringLiteral("strange.yarngap"));
        saveProject(project, file.toStdString());
        open({file});
        QVERIFY(find<QLabel>("notice")->text().contains(QStringLiteral("does not suit its file")));
        QCOMPARE(window_->plan()->rows.size(), std::size_t{10});
    }
};

QTEST_MAIN(TestFootageStep)
#include "test_footage_step.moc"
