// The window as its users drive it: mouse and keys on the real thing, judged by what is on screen and on
// disk.

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/film.h"
#include "support/own_settings.h"

#include <QApplication>
#include <QComboBox>
#include <QDropEvent>
#include <QLineEdit>
#include <QMimeData>
#include <QSignalSpy>
#include <QSplitter>
#include <QTest>

#include <array>
#include <memory>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestWindow : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    std::unique_ptr<MainWindow> window_;

    template <typename T>
    T* find(const char* name) {
        auto* found = window_->findChild<T*>(QString::fromLatin1(name));
        if (!found) qFatal("There is no %s in the window", name);
        return found;
    }
    void click(QWidget* widget) { QTest::mouseClick(widget, Qt::LeftButton); }
    void openStep(const char* name) {
        auto* card = find<StepCard>(name);
        if (!card->isOpen()) click(card->header());
        QVERIFY(card->isOpen());
    }
    void typeInto(const char* name, const QString& text) {
        auto* field = find<QLineEdit>(name);
        click(field);
        field->selectAll();
        QTest::keyClicks(field, text);
        QTest::keyClick(field, Qt::Key_Return);
    }
    QString shown(const char* name) { return find<QLineEdit>(name)->text(); }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : window_.get(), key,
                        modifiers);
    }
    QString sentence() { return window_->gapView().sentence(); }
    void open(const QString& file) {
        window_->document().openFiles({file});
        QTRY_VERIFY_WITH_TIMEOUT(window_->plan() != nullptr, 20'000);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        applyTheme(*qApp);
        clip_ = clips_.moving(
            QStringLiteral("swallow.mp4"), 24,
            {QStringLiteral("-c:v"), QStringLiteral("libx264"), QStringLiteral("-g"), QStringLiteral("12")},
            QStringLiteral("320x180"));
    }
    void init() {
        window_ = std::make_unique<MainWindow>();
        window_->show();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
    }
    void cleanup() { window_.reset(); }

    void anEmptyWindowTellsWhatToDo() {
        QVERIFY(window_->plan() == nullptr);
        QVERIFY(!find<StepCard>("timingStep")->isVisible());
        QVERIFY(find<QPushButton>("openButton")->isVisible());
        QVERIFY(!find<QPushButton>("saveButton")->isEnabled());
        window_->setFocus();
        key(Qt::Key_Space); // harmless
        key(Qt::Key_I);
        QCOMPARE(window_->player().speed(), 0);
    }

    void slowDownLookAndRender() {
        open(clip_);
        // 25 %
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("25"));
        QCOMPARE(shown("speedField"), QStringLiteral("25 %"));
        QCOMPARE(shown("framesField"), QStringLiteral("96 f"));
        QCOMPARE(shown("secondsField"), QStringLiteral("4.000 s"));
        QCOMPARE(shown("timecodeField"), QStringLiteral("00:00:04:00"));
        QCOMPARE(shown("factorField"), QStringLiteral("× 4.00"));
        // Enter gives the keys back to the transport.
        QTest::keyClick(window_.get(), Qt::Key_Right);
        QCOMPARE(window_->player().playhead(), 1);
        // Optical flow
        openStep("inBetweensStep");
        click(find<QPushButton>("methodBlend"));
        click(find<QPushButton>("methodFlow"));
        QVERIFY(find<StepCard>("inBetweensStep")->outcome().startsWith(QStringLiteral("flow, standard")));
        // Step: original, in-between, in-between
        window_->setFocus();
        key(Qt::Key_Home);
        QTRY_VERIFY(sentence().contains(QStringLiteral("original source frame 0")));
        key(Qt::Key_Right);
        QTRY_VERIFY_WITH_TIMEOUT(
            sentence().contains(QStringLiteral("a quarter from 0 to 1 · optical flow · doubt")), 20'000);
        QCOMPARE(window_->gapView().stage().shownOutput(), 1);
        QVERIFY(!window_->gapView().stage().isStale());
        key(Qt::Key_Right, Qt::ShiftModifier);
        QTRY_VERIFY(
            sentence().contains(QStringLiteral("Output 4 · position 1.00 · original source frame 1")));
        key(Qt::Key_End);
        QTRY_VERIFY(sentence().contains(QStringLiteral("held")));
        // Render
        openStep("renderStep");
        const QString target = clips_.path(QStringLiteral("slow.mkv"));
        auto* field = find<QLineEdit>("targetField");
        click(field);
        field->selectAll();
        QTest::keyClicks(field, target);
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        click(find<QPushButton>("renderButton"));
        QVERIFY(window_->render().running());
        key(Qt::Key_Left); // the window stays usable
        QVERIFY(finished.wait(240'000));
        QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        QVERIFY(find<QLabel>("renderStatus")->text().contains(QStringLiteral("96 frames written")));
        QVERIFY(find<QPushButton>("openFolderButton")->isVisible());
        QCOMPARE(openSource(target)->frames(), std::int64_t{96}); // four times the 24
    }

    void everyValueOfTheTimingLeadsToTheOthers() {
        open(clip_);
        openStep("timingStep");
        typeInto("framesField", QStringLiteral("48"));
        QCOMPARE(shown("speedField"), QStringLiteral("50 %"));
        typeInto("secondsField", QStringLiteral("8 s"));
        QCOMPARE(shown("speedField"), QStringLiteral("12.5 %"));
        typeInto("timecodeField", QStringLiteral("00:00:02:00"));
        QCOMPARE(shown("framesField"), QStringLiteral("48 f"));
        typeInto("factorField", QStringLiteral("x 10"));
        QCOMPARE(shown("speedField"), QStringLiteral("10 %"));
        click(find<QPushButton>("sameLengthButton"));
        QCOMPARE(shown("speedField"), QStringLiteral("100 %"));
        auto* rate = find<QComboBox>("rateBox");
        rate->setFocus();
        rate->lineEdit()->selectAll();
        QTest::keyClicks(rate->lineEdit(), QStringLiteral("48"));
        QTest::keyClick(rate->lineEdit(), Qt::Key_Return);
        QCOMPARE(shown("framesField"), QStringLiteral("48 f")); // the same length at twice the rate
        click(find<QPushButton>("everyFrameButton"));
        QCOMPARE(shown("speedField"), QStringLiteral("200 %"));
        QCOMPARE(shown("framesField"), QStringLiteral("24 f"));
    }

    void impossibleValuesAreRefusedInWords() {
        open(clip_);
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("0"));
        bool told = false;
        for (const auto* label : find<StepCard>("timingStep")->findChildren<QLabel*>())
            told |= label->isVisible() && label->text().contains(QStringLiteral("0.1 % to 10,000 %"));
        QVERIFY(told);
        QCOMPARE(window_->document().current()->speed, Rational(1)); // nothing changed
        QTest::keyClick(find<QLineEdit>("speedField"), Qt::Key_Escape);
        QCOMPARE(shown("speedField"), QStringLiteral("100 %"));
    }

    void everythingCanBeUndone() {
        open(clip_);
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("25"));
        window_->setFocus();
        key(Qt::Key_1);
        key(Qt::Key_Right);
        key(Qt::Key_Right);
        key(Qt::Key_Right);
        key(Qt::Key_Right);
        key(Qt::Key_I);
        const Shot* shot = window_->document().current();
        QCOMPARE(shot->from, std::optional<std::int64_t>(1));
        QVERIFY(shot->method == Method::sample);
        auto* undo = find<QPushButton>("undoButton");
        QVERIFY(undo->toolTip().contains(QStringLiteral("in point")));
        click(undo);
        QCOMPARE(window_->document().current()->from, std::nullopt);
        key(Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(window_->document().current()->method == Method::flow);
        click(undo);
        QCOMPARE(shown("speedField"), QStringLiteral("100 %"));
        click(undo); // the shot itself
        QVERIFY(window_->document().current() == nullptr);
        for (int i = 0; i < 4; ++i)
            click(find<QPushButton>("redoButton"));
        QTRY_VERIFY(window_->plan() != nullptr);
        QCOMPARE(window_->document().current()->from, std::optional<std::int64_t>(1));
    }

    void trimMarksAtThePlayhead() {
        open(clip_);
        window_->setFocus();
        for (int i = 0; i < 6; ++i)
            key(Qt::Key_Right);
        key(Qt::Key_I);
        QCOMPARE(window_->plan()->rows.front().first, 6);
        QCOMPARE(window_->player().playhead(), 0); // still on source frame 6
        for (int i = 0; i < 5; ++i)
            key(Qt::Key_Right);
        key(Qt::Key_O);
        QCOMPARE(window_->plan()->rows.back().first, 11);
        QVERIFY(find<StepCard>("trimStep")->outcome().contains(QStringLiteral("6 to 11, 6 frames")));
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("50")); // a change of speed never moves them
        QCOMPARE(window_->document().current()->from, std::optional<std::int64_t>(6));
        QCOMPARE(window_->document().current()->to, std::optional<std::int64_t>(11));
    }

    void playingRunsAndStops() {
        open(clip_);
        window_->setFocus();
        key(Qt::Key_1);
        key(Qt::Key_Space);
        QCOMPARE(window_->player().speed(), 1);
        QTRY_VERIFY(window_->player().playhead() > 3);
        QVERIFY(find<QLabel>("playState")->text().contains(QStringLiteral("fps")));
        key(Qt::Key_K);
        QCOMPARE(window_->player().speed(), 0);
        key(Qt::Key_J);
        QCOMPARE(window_->player().speed(), -1);
        key(Qt::Key_L);
        QCOMPARE(window_->player().speed(), 1);
        click(find<QToolButton>("playButton"));
        QCOMPARE(window_->player().speed(), 0);
    }

    void aPictureOfOtherSettingsIsNeverPassedOffAsThisOne() {
        open(clip_);
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("25"));
        window_->setFocus();
        key(Qt::Key_2);
        window_->player().goTo(2);
        QTRY_VERIFY_WITH_TIMEOUT(!window_->gapView().stage().isStale(), 20'000);
        key(Qt::Key_3);
        if (window_->gapView().stage().isStale()) QVERIFY(sentence().contains(QStringLiteral("being made")));
        QTRY_VERIFY_WITH_TIMEOUT(!window_->gapView().stage().isStale(), 20'000);
        QVERIFY(sentence().contains(QStringLiteral("optical flow · doubt")));
    }

    void aCancelledRenderLeavesNothing() {
        open(clip_);
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("1"));
        openStep("renderStep");
        const QString target = clips_.path(QStringLiteral("never.mkv"));
        auto* field = find<QLineEdit>("targetField");
        click(field);
        field->selectAll();
        QTest::keyClicks(field, target);
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        click(find<QPushButton>("renderButton"));
        QTRY_VERIFY_WITH_TIMEOUT(window_->render().progress().done > 0, 20'000);
        QVERIFY(find<QLabel>("renderText")->text().startsWith(QStringLiteral("Rendering swallow")));
        click(find<QPushButton>("cancelButton"));
        QVERIFY(finished.wait(20'000));
        QVERIFY(
            find<QLabel>("renderStatus")->text().contains(QStringLiteral("Cancelled; nothing was written")));
        QVERIFY(!QFile::exists(target));
    }

    void aRenderOntoTheSourceIsRefused() {
        open(clip_);
        openStep("renderStep");
        auto* field = find<QLineEdit>("targetField");
        click(field);
        field->selectAll();
        QTest::keyClicks(field, clip_);
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        click(find<QPushButton>("renderButton"));
        QVERIFY(finished.wait(20'000));
        QVERIFY(find<QLabel>("renderStatus")->text().contains(QStringLiteral("overwrite its own source")));
    }

    void unreadableFilesAreToldOnTheirCard() {
        const QString words = clips_.path(QStringLiteral("words.mp4"));
        QFile file(words);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("not a film");
        file.close();
        window_->document().openFiles({words, clips_.path(QStringLiteral("missing.mov"))});
        QTRY_COMPARE_WITH_TIMEOUT(window_->document().media().state(words.toStdString()).stage,
                                  MediaState::Stage::failed, 20'000);
        openStep("footageStep");
        QTRY_VERIFY(find<StepCard>("footageStep")->outcome().contains(QStringLiteral("cannot be read")));
        QVERIFY(window_->plan() == nullptr);
        open(clip_); // and work goes on
    }

    void damagedProjectsAreToldInTheNotice() {
        const QString project = clips_.path(QStringLiteral("bad.yarngap"));
        QFile file(project);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("{");
        file.close();
        open(clip_);
        window_->document().openFiles({project});
        QTRY_VERIFY(find<QLabel>("notice")->isVisible());
        QVERIFY(find<QLabel>("notice")->text().contains(QStringLiteral("damaged")));
        QVERIFY(window_->plan() != nullptr); // nothing was lost
    }

    void droppedFilesBecomeShots() {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(clip_)});
        QDragEnterEvent enter(QPoint(600, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(window_.get(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(600, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(window_.get(), &drop);
        QTRY_VERIFY_WITH_TIMEOUT(window_->plan() != nullptr, 20'000);
        QVERIFY(find<QLabel>("shotName")->text().startsWith(QStringLiteral("swallow")));
    }

    void projectsAreSavedAndOpened() {
        open(clip_);
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("40"));
        const QString file = clips_.path(QStringLiteral("film.yarngap"));
        window_->document().save(file);
        QTRY_VERIFY(!window_->document().hasUnsavedChanges());
        QTRY_VERIFY(find<QLabel>("shotName")->text().endsWith(QStringLiteral("saved")));
        cleanup();
        init();
        open(file);
        QCOMPARE(window_->document().current()->speed, Rational(2, 5));
        QTRY_COMPARE(shown("framesField"), QStringLiteral("60 f"));
    }

    void unsavedWorkIsNotLostByClosing() {
        open(clip_);
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("40"));
        QVERIFY(!window_->close());
        QVERIFY(find<QLabel>("notice")->text().contains(QStringLiteral("not saved")));
        const auto answer = [this](const QString& text) -> QPushButton* {
            for (auto* button : window_->findChildren<QPushButton*>())
                if (button->isVisible() && button->text() == text) return button;
            return nullptr;
        };
        QVERIFY(answer(QStringLiteral("Save and close")));
        click(answer(QStringLiteral("Dismiss")));
        QVERIFY(window_->isVisible());
        const QString file = clips_.path(QStringLiteral("closing.yarngap"));
        window_->document().save(file);
        QTRY_VERIFY(!window_->document().hasUnsavedChanges());
        typeInto("speedField", QStringLiteral("30"));
        QVERIFY(!window_->close());
        click(answer(QStringLiteral("Save and close")));
        QTRY_VERIFY(!window_->isVisible());
        QCOMPARE(loadProject(file.toStdString()).shots.front().speed, Rational(3, 10));
    }

    void unsavedWorkIsNotLostByOpeningAProject() {
        open(clip_);
        const QString file = clips_.path(QStringLiteral("other.yarngap"));
        Project other;
        other.shots = {shotOf(clip_.toStdString()), shotOf(clip_.toStdString())};
        saveProject(other, file.toStdString());
        window_->document().openFiles({file});
        QTRY_VERIFY(find<QLabel>("notice")->isVisible());
        QVERIFY(find<QLabel>("notice")->text().contains(QStringLiteral("would lose them")));
        QCOMPARE(window_->document().project().shots.size(), std::size_t{1});
        for (auto* button : window_->findChildren<QPushButton*>())
            if (button->isVisible() && button->text() == QStringLiteral("Open without saving")) {
                click(button);
                break;
            }
        QTRY_COMPARE(window_->document().project().shots.size(), std::size_t{2});
        QCOMPARE(window_->document().file(), file);
    }

    void pulldownIsFoundAndRemovedWithOneButton() {
        const QString clip = clips_.path(QStringLiteral("transfer.mkv"));
        const auto writer = openWriter({.target = clip.toStdString(),
                                        .format = OutputFormat::ffv1Mkv,
                                        .rate = Rate(30000, 1001),
                                        .width = 320,
                                        .height = 144,
                                        .layout = {.model = ColourModel::grey},
                                        .colour = {},
                                        .pixelAspect = 1});
        for (std::int64_t n = 0; n < 40; ++n) {
            const FieldMoments at = pulldown32(n, 0, true);
            writer->write(drawFields(pan(3, 1), at.top, at.bottom, 320, 144));
        }
        writer->finish();
        open(clip);
        openStep("footageStep");
        const auto offered = [this]() -> QPushButton* {
            for (auto* button : window_->findChildren<QPushButton*>())
                if (button->isVisible() && button->text() == QStringLiteral("Remove pulldown")) return button;
            return nullptr;
        };
        QTRY_VERIFY_WITH_TIMEOUT(offered() != nullptr, 20'000);
        QVERIFY(
            find<QLabel>("footageFacts")->text().contains(QStringLiteral("3:2 pulldown, top field first")));
        QCOMPARE(window_->plan()->rows.size(), std::size_t{40});
        click(offered());
        QCOMPARE(window_->plan()->rows.size(), std::size_t{32}); // four film frames of five
        QVERIFY(find<StepCard>("footageStep")
                    ->outcome()
                    .contains(QStringLiteral("23.976 fps, pulldown removed")));
        QVERIFY(offered() == nullptr);
        QTRY_VERIFY_WITH_TIMEOUT(!window_->gapView().stage().isStale(), 20'000);
        openStep("timingStep");
        QCOMPARE(shown("framesField"), QStringLiteral("32 f"));
        window_->setFocus();
        key(Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(window_->plan()->rows.size(), std::size_t{40});
        // By hand, too: the same frames at another rate.
        openStep("footageStep");
        typeInto("footageRateField", QStringLiteral("25"));
        QVERIFY(find<StepCard>("footageStep")->outcome().startsWith(QStringLiteral("25 fps")));
        click(find<QPushButton>("asFileButton"));
        QVERIFY(find<StepCard>("footageStep")->outcome().startsWith(QStringLiteral("29.97 fps")));
        QVERIFY(!find<QPushButton>("asFileButton")->isVisible());
    }

    void zoomShowsTheShotsOwnPixels() {
        open(clip_);
        QTRY_VERIFY_WITH_TIMEOUT(!window_->gapView().stage().isStale(), 20'000);
        click(find<QToolButton>("zoomButton"));
        QCOMPARE(std::lround(window_->gapView().stage().zoomPercent()), 100);
        click(find<QToolButton>("zoomButton"));
        QVERIFY(std::lround(window_->gapView().stage().zoomPercent()) != 100);
    }

    void everyHeaderIsInViewWhateverIsOpen() {
        open(clip_);
        const std::array steps{"footageStep", "trimStep", "timingStep", "inBetweensStep", "renderStep"};
        for (const QSize size : {QSize(1280, 760), QSize(1024, 700), QSize(960, 600)}) {
            window_->resize(size);
            for (const char* opened : steps) {
                openStep(opened);
                auto* body = find<StepCard>(opened)->findChild<StepScroll*>();
                QTRY_VERIFY(body->height() >= body->minimumSizeHint().height());
                for (const char* step : steps) {
                    const StepHeader* header = find<StepCard>(step)->header();
                    QTRY_VERIFY2(header->visibleRegion().boundingRect() == header->rect(),
                                 qPrintable(QStringLiteral("%1 while %2 is open at %3 px")
                                                .arg(QLatin1String(step), QLatin1String(opened))
                                                .arg(size.height())));
                    QVERIFY(!header->outcome().isEmpty());
                }
                // What does not fit scrolls; what fits has no bar.
                const bool fits = body->height() >= body->widget()->heightForWidth(body->width());
                QTRY_COMPARE(body->verticalScrollBarPolicy() == Qt::ScrollBarAlwaysOff, fits);
            }
        }
        const auto* column = find<QWidget>("leftColumn");
        QCOMPARE(column->mapTo(window_.get(), column->rect().bottomLeft()).y(), window_->height() - 1);
    }

    void nothingInTheStepsIsCutAtTheRight() {
        open(clip_);
        Shot shot = *window_->document().current();
        shot.inBetweens.synthesis.trustLimit = 25; // so that More says that something is changed
        window_->document().edit(QStringLiteral("trust limit"), shot);
        openStep("inBetweensStep");
        click(find<QToolButton>("moreInBetweens"));
        for (const char* step : {"inBetweensStep", "footageStep", "trimStep", "timingStep", "renderStep"}) {
            openStep(step);
            const auto* body = find<StepCard>(step)->findChild<StepScroll*>();
            QTRY_COMPARE(body->widget()->width(), body->viewport()->width());
        }
    }

    void theColumnFoldsAndGivesItsRoomToTheStage() {
        open(clip_);
        auto* column = find<QWidget>("leftColumn");
        const int before = window_->gapView().width();
        click(find<QToolButton>("foldColumnButton"));
        QVERIFY(!column->isVisible());
        QTRY_COMPARE(window_->gapView().width(), window_->width());
        key(Qt::Key_L, Qt::ControlModifier);
        QTRY_VERIFY(column->isVisible());
        QTRY_COMPARE(window_->gapView().width(), before);
        // Its seam can be dragged.
        auto* sides = find<QSplitter>("sides");
        QWidget* seam = sides->handle(1);
        const QPoint middle = seam->rect().center();
        QTest::mousePress(seam, Qt::LeftButton, {}, middle);
        QTest::mouseMove(seam, middle + QPoint(60, 0));
        QTest::mouseRelease(seam, Qt::LeftButton, {}, middle + QPoint(60, 0));
        QTRY_VERIFY(window_->gapView().width() < before - 30);
    }

    void noValueOfTheTimingIsCut() {
        open(clip_);
        openStep("timingStep");
        typeInto("speedField", QStringLiteral("0.123"));
        QVERIFY(shown("secondsField").size() > 8); // hundreds of seconds
        for (const char* name :
             {"speedField", "factorField", "framesField", "secondsField", "timecodeField"}) {
            const auto* field = find<QLineEdit>(name);
            constexpr int cursorAndPadding = 16;
            QVERIFY2(field->fontMetrics().horizontalAdvance(field->text()) + cursorAndPadding <=
                         field->width(),
                     qPrintable(field->text()));
        }
    }

    void aMissingFileIsOpenedWhenItComes() {
        const QString late = clips_.path(QStringLiteral("late.mp4"));
        QVERIFY(!find<QToolButton>("playOnButton")->isVisible()); // there is nothing to play on with
        open(clip_);
        QVERIFY(!shown("framesField").isEmpty());
        Project project;
        project.shots = {shotOf(late.toStdString()), shotOf(clip_.toStdString())};
        const QString file = clips_.path(QStringLiteral("waiting.yarngap"));
        saveProject(project, file.toStdString());
        window_->document().openProject(file, true);
        const auto state = [&] { return window_->document().media().state(late.toStdString()); };
        QTRY_VERIFY_WITH_TIMEOUT(state().stage == MediaState::Stage::failed, 20'000);
        QVERIFY(state().trouble.endsWith(QStringLiteral("it opens by itself.")));
        QVERIFY(window_->plan() == nullptr);
        QTRY_VERIFY(find<QToolButton>("playOnButton")->isVisible());
        for (const char* field : {"speedField", "framesField", "secondsField", "timecodeField", "inField"})
            QVERIFY2(shown(field).isEmpty(), field); // what the shot before had is not this one's
        QVERIFY(QFile::copy(clip_, late + QStringLiteral(".half"))); // as a file appears whole
        QVERIFY(QFile::rename(late + QStringLiteral(".half"), late));
        QTRY_VERIFY_WITH_TIMEOUT(window_->plan() != nullptr, 20'000);
        QVERIFY(!window_->document().hasUnsavedChanges());
        QVERIFY(QFile::remove(late));
    }

    void undoBringsBackEachListOfShots() {
        // Adding, duplicating, moving, editing and removing, all the way back and forth again.
        open(clip_);
        Document& document = window_->document();
        std::vector<std::vector<Shot>> lists{document.project().shots};
        const auto note = [&] { lists.push_back(document.project().shots); };
        document.duplicateCurrent();
        note();
        document.renameCurrent(QStringLiteral("second"));
        note();
        document.moveCurrent(-1);
        note();
        document.duplicateCurrent();
        note();
        Shot edited = *document.current();
        edited.speed = Rational(1, 2);
        document.edit(QStringLiteral("speed"), edited);
        note();
        document.setCurrent(0);
        document.removeCurrent();
        note();
        for (std::size_t i = lists.size() - 1; i > 0; --i) {
            QVERIFY(document.project().shots == lists[i]);
            document.undoStack().undo();
        }
        QVERIFY(document.project().shots == lists.front());
        for (std::size_t i = 1; i < lists.size(); ++i) {
            document.undoStack().redo();
            QVERIFY(document.project().shots == lists[i]);
        }
    }

    void everythingIsNamedForScreenReaders() {
        open(clip_);
        for (const char* step : {"footageStep", "trimStep", "timingStep", "inBetweensStep", "renderStep"}) {
            openStep(step);
            for (const auto* widget : window_->findChildren<QWidget*>()) {
                if (!widget->isVisible() || widget->focusPolicy() == Qt::NoFocus) continue;
                const auto* button = qobject_cast<const QAbstractButton*>(widget);
                const bool named = !widget->accessibleName().isEmpty() ||
                                   (button && !button->text().isEmpty()) ||
                                   qobject_cast<const QComboBox*>(widget->parentWidget()) ||
                                   qobject_cast<const QScrollArea*>(widget);
                QVERIFY2(named,
                         qPrintable(QStringLiteral("%1 %2").arg(
                             QString::fromLatin1(widget->metaObject()->className()), widget->objectName())));
            }
        }
    }
};

QTEST_MAIN(TestWindow)
#include "test_window.moc"
