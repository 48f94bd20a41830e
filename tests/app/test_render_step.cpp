// The step Render and its queue, driven as an editor drives them.

#ifndef Q_MOC_RUN
#include "app/steps/step_card.h"
#include "core/inspection/known_media.h"
#include "core/media/library_messages.h"
#include "core/project/queue_file.h"
#include "core/render/slice_folder.h"
#endif
#include "app/look/theme.h"
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/own_settings.h"
#include "support/program.h"
#include "support/shot_window.h"

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QSignalSpy>
#include <QSlider>
#include <QTest>

#include <algorithm>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;
namespace fs = std::filesystem;

namespace {

/// A render of a clip at 25 %, as the window would ask for it.
RenderWork workOf(const QString& clip, const fs::path& target, Method method = Method::flow) {
    const MediaIndex index = buildIndex(clip.toStdString());
    RenderWork work;
    work.name = "clip";
    WorkShot of{.shot = shotOf(clip.toStdString()), .timing = {}};
    of.shot.method = method;
    of.shot.speed = Rational(1, 4);
    of.timing = of.shot.timing(index.facts.rate, index.frames());
    work.shots.push_back(of);
    work.targets.push_back({target, formatForTarget(target), false});
    work.settings.format = formatForTarget(target);
    return work;
}

} // namespace

class TestRenderStep : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;
    QString clip_;

    void openStep() const {
        auto* card = window_.find<StepCard>("renderStep");
        if (!card->isOpen()) QTest::mouseClick(card->header(), Qt::LeftButton);
    }
    void click(const char* name) const {
        auto* button = window_.find<QPushButton>(name);
        QTRY_VERIFY(button->isVisible() && button->height() > 0);
        QTest::mouseClick(button, Qt::LeftButton);
    }
    void typeTarget(const QString& target) const {
        auto* field = window_.find<QLineEdit>("targetField");
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, target);
    }
    /// The words of a visible label.
    QString words(const char* label) const {
        const auto* found = window_.find<QLabel>(label);
        return found->isVisible() ? found->text() : QString();
    }
    static WorkMeans means() {
        return {.vectors = std::make_shared<VectorStore>(), .known = std::make_shared<KnownMedia>()};
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        QSettings().remove(QStringLiteral("render/settings"));
        clip_ = clips_.make(QStringLiteral("wren.mov"),
                            {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("testsrc2=size=96x64:rate=24:d=1"), QStringLiteral("-f"),
                             QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("aevalsrc=0.4*sin(900*t):s=48000:d=1"), QStringLiteral("-c:v"),
                             QStringLiteral("ffv1"), QStringLiteral("-strict"), QStringLiteral("-2"),
                             QStringLiteral("-c:a"), QStringLiteral("pcm_s16le"), QStringLiteral("-timecode"),
                             QStringLiteral("10:00:00:00")});
    }
    void cleanup() {
        window_.close();
        QSettings().remove(QStringLiteral("render/settings"));
    }

    void theSourceTimecodeIsShown() {
        window_.open(clip_);
        const auto told = [this] { return words("sourceTimecodeLabel"); };
        QTRY_COMPARE(told(), QStringLiteral("source 10:00:00:00"));
        for (int n = 0; n < 9; ++n) // at 25 %: between source frames 2 and 3
            QTest::keyClick(window_->window(), Qt::Key_Right);
        QTRY_COMPARE(told(), QStringLiteral("source 10:00:00:02"));
    }

    void whatWillBeMadeIsSaidBefore() {
        window_.open(clip_);
        openStep();
        QTRY_VERIFY2(
            words("forecastLabel").startsWith(QStringLiteral("96 frames: 24 original, 3 held, 69 to make")),
            qPrintable(words("forecastLabel")));
        QVERIFY(words("forecastLabel").contains(QStringLiteral("About ")));
        typeTarget(clips_.path(QStringLiteral("{shot}_{speed}_v{version:2}.mkv")));
        QTRY_VERIFY2(words("forecastLabel").startsWith(QStringLiteral("Writes wren_25_v01.mkv.")),
                     qPrintable(words("forecastLabel")));
        putBytes(clips_.path(QStringLiteral("wren_25_v01.mkv")), "there");
        typeTarget(clips_.path(QStringLiteral("{shot}_{speed}_v{version:2}.mov")));
        typeTarget(clips_.path(QStringLiteral("{shot}_{speed}_v{version:2}.mkv")));
        QTRY_VERIFY2(words("forecastLabel").startsWith(QStringLiteral("Writes wren_25_v02.mkv.")),
                     qPrintable(words("forecastLabel")));
        QVERIFY(words("replacesLabel").isEmpty());
    }

    void formatAndNameFollowEachOther() {
        window_.open(clip_);
        openStep();
        const auto* format = window_.find<QComboBox>("formatBox");
        typeTarget(clips_.path(QStringLiteral("a.webm")));
        QCOMPARE(format->currentText(), QStringLiteral("VP9 / WebM"));
        window_.choose("formatBox", format->findText(QStringLiteral("DNxHR / MOV")));
        QCOMPARE(window_.find<QLineEdit>("targetField")->text(), clips_.path(QStringLiteral("a.mov")));
        QCOMPARE(words("qualityWords"), QStringLiteral("as the frames need it (HQ)"));
        window_.find<QSlider>("qualitySlider")->setValue(4);
        QCOMPARE(words("qualityWords"), QStringLiteral("444"));
        // Another ending of the same format leaves the format alone.
        typeTarget(clips_.path(QStringLiteral("a.mxf")));
        QCOMPARE(format->currentText(), QStringLiteral("DNxHR / MOV"));
        window_.choose("formatBox", format->findText(QStringLiteral("PNG sequence")));
        QVERIFY(!window_.find<QSlider>("qualitySlider")->isVisible());
    }

    void theResultHasSoundAndTimecode() {
        window_.open(clip_);
        openStep();
        const QString target = clips_.path(QStringLiteral("sound.mov"));
        typeTarget(target);
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        click("renderButton");
        QVERIFY(finished.wait(60'000));
        QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        const MediaFacts facts = buildIndex(target.toStdString()).facts;
        QVERIFY(facts.hasSound);
        QCOMPARE(facts.timecode, std::string("10:00:00:00"));
        QCOMPARE(facts.codec, std::string("prores"));
    }

    void severalWaitForTheirTurn() {
        window_.open(clip_);
        openStep();
        const QSize before = window_->size();
        window_->resize(1100, 640); // all of the step has no room
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        for (const char* name : {"q1.mkv", "q2.mkv", "q3.mkv"}) {
            typeTarget(clips_.path(QString::fromLatin1(name)));
            click("renderButton");
        }
        QCOMPARE(window_->render().queue().size(), std::size_t{3});
        QCOMPARE(window_.find<QPushButton>("renderButton")->text(), QStringLiteral("Add to queue"));
        // What was added last is seen as a whole, however low the window is.
        const auto isNewestSeen = [&] {
            const auto lines =
                window_.find<QWidget>("renderQueue")->findChildren<QWidget*>(QStringLiteral("queueLine"));
            const auto newest = std::ranges::max_element(
                lines, {}, [](const QWidget* line) { return line->isVisible() ? line->y() : -1; });
            const bool isLaidOut =
                (*newest)->y() > 0 && (*newest)->height() >= (*newest)->sizeHint().height();
            return isLaidOut && (*newest)->visibleRegion().boundingRect().height() == (*newest)->height();
        };
        QTRY_VERIFY(isNewestSeen());
        window_->resize(before);
        // The last one is moved before the second, which is taken out.
        const std::int64_t second = window_->render().queue()[1].number;
        window_->render().move(window_->render().queue()[2].number, -1);
        QCOMPARE(window_->render().queue()[2].number, second);
        window_->render().cancel(second);
        while (finished.size() < 2)
            QVERIFY(finished.wait(60'000));
        QVERIFY(QFile::exists(clips_.path(QStringLiteral("q1.mkv"))));
        QVERIFY(!QFile::exists(clips_.path(QStringLiteral("q2.mkv"))));
        QVERIFY(QFile::exists(clips_.path(QStringLiteral("q3.mkv"))));
        QTRY_VERIFY(!window_->render().running());
        click("clearQueueButton");
        QVERIFY(window_->render().queue().empty());
        QVERIFY(!window_.find<QWidget>("renderQueue")->isVisible());
    }

    void twoFormatsAreWrittenAtOnce() {
        window_.open(clip_);
        openStep();
        typeTarget(clips_.path(QStringLiteral("pair.mkv")));
        auto* also = window_.find<QComboBox>("alsoBox");
        window_.choose("alsoBox", also->findText(QStringLiteral("H.264 / MP4")));
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        click("renderButton");
        QVERIFY(finished.wait(60'000));
        QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        QCOMPARE(openSource(clips_.path(QStringLiteral("pair.mkv")))->frames(), 96);
        QCOMPARE(openSource(clips_.path(QStringLiteral("pair.mp4")))->frames(), 96);
    }

    void namesThatWaitAreNotTakenTwice() {
        window_.open(clip_);
        openStep();
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        typeTarget(clips_.path(QStringLiteral("once.mkv")));
        click("renderButton");
        click("renderButton");
        QCOMPARE(window_->render().queue().size(), std::size_t{1});
        typeTarget(clips_.path(QStringLiteral("many_v{version}.mkv")));
        click("renderButton");
        QTRY_COMPARE(window_->render().queue().size(), std::size_t{2});
        click("renderButton");
        QTRY_COMPARE(window_->render().queue().size(), std::size_t{3});
        while (finished.size() < 3)
            QVERIFY(finished.wait(60'000));
        QVERIFY(QFile::exists(clips_.path(QStringLiteral("many_v1.mkv"))));
        QVERIFY(QFile::exists(clips_.path(QStringLiteral("many_v2.mkv"))));
        // With the queue empty the refusal would be another; a second format that is there is told as well.
        putBytes(clips_.path(QStringLiteral("beside.mp4")), "there");
        auto* also = window_.find<QComboBox>("alsoBox");
        typeTarget(clips_.path(QStringLiteral("beside.mkv")));
        window_.choose("alsoBox", also->findText(QStringLiteral("H.264 / MP4")));
        QTRY_VERIFY2(words("replacesLabel").contains(QStringLiteral("exists")),
                     qPrintable(words("replacesLabel")));
    }

    void whatIsSaidLooksLikeTroubleOnlyWhereItIs() {
        window_.open(clip_);
        openStep();
        const auto* status = window_.find<QLabel>("renderStatus");
        typeTarget(clips_.path(QStringLiteral("{owner}.mkv")));
        click("renderButton");
        QTRY_VERIFY(words("renderStatus").contains(QStringLiteral("is not known")));
        QVERIFY(status->styleSheet().contains(shades().madder.name()));
        typeTarget(clips_.path(QStringLiteral("fine.mkv")));
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        click("renderButton");
        QVERIFY(finished.wait(60'000));
        QVERIFY(words("renderStatus").contains(QStringLiteral("96 frames written")));
        QVERIFY(!status->styleSheet().contains(shades().madder.name()));
    }

    void theLoopAloneCanBeRendered() {
        window_.open(clip_);
        openStep();
        window_->player().setLoop(std::pair<qint64, qint64>{10, 29});
        QTRY_VERIFY(window_.find<QComboBox>("scopeBox")->isVisible());
        window_.choose("scopeBox", 3);
        const QString target = clips_.path(QStringLiteral("loop.mkv"));
        typeTarget(target);
        QTRY_VERIFY(words("forecastLabel").startsWith(QStringLiteral("20 frames:")));
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        click("renderButton");
        QVERIFY(finished.wait(60'000));
        QCOMPARE(openSource(target)->frames(), 20);
    }

    void anEditComesInAndGoesBack() {
        const QString folder = clips_.path(QStringLiteral("edit"));
        QDir().mkpath(folder);
        QVERIFY(QFile::copy(clip_, folder + QStringLiteral("/wren.mov")));
        const QString list = folder + QStringLiteral("/evening.edl");
        putBytes(
            list,
            "TITLE: EVENING\n"
            "001  A  V  C  10:00:00:02 10:00:00:14 01:00:00:00 01:00:00:12\n* FROM CLIP NAME: wren.mov\n"
            "002  A  V  C  10:00:00:06 10:00:00:12 01:00:00:12 01:00:01:00\nM2 A 012.0 10:00:00:06\n"
            "* FROM CLIP NAME: wren.mov\n"
            "003  B  V  C  10:00:00:06 10:00:00:12 01:00:01:00 01:00:01:06\n* FROM CLIP NAME: gull.mov\n");
        window_.open(clip_);
        window_->document().openFiles({list});
        // An EDL does not say its rate; the notice asks.
        const auto answer = [&](const QString& words) -> QPushButton* {
            for (QPushButton* button : window_->findChildren<QPushButton*>())
                if (button->isVisible() && button->text() == words) return button;
            return nullptr;
        };
        QTRY_VERIFY(answer(QStringLiteral("24")) && answer(QStringLiteral("24"))->height() > 0);
        QTest::mouseClick(answer(QStringLiteral("24")), Qt::LeftButton);
        QTRY_COMPARE(window_->document().project().shots.size(), std::size_t{3}); // that of before, and two
        QTRY_VERIFY(answer(QStringLiteral("Look in another folder…")));           // for event 3
        QCOMPARE(window_->document().project().shots[2].speed, Rational(1, 2));
        QTRY_VERIFY(window_->plan() != nullptr);
        openStep();
        QTRY_VERIFY(window_.find<QComboBox>("scopeBox")->isVisible());
        window_.choose("scopeBox", 4);
        QTRY_VERIFY(window_.find<QComboBox>("handlesBox")->isVisible());
        window_.choose("handlesBox", 0);
        typeTarget(folder + QStringLiteral("/{shot}_{speed}.mkv"));
        window_->document().undoStack().undo();
        QCOMPARE(window_->document().project().shots.size(), std::size_t{1});
        window_->document().undoStack().redo();
        QTRY_VERIFY(window_->plan() != nullptr);
        window_.choose("scopeBox", 4);
        typeTarget(folder + QStringLiteral("/{shot}_{speed}.mkv"));
        // A list that is there stays.
        const QString mine = folder + QStringLiteral("/evening back.edl");
        putBytes(mine, "mine");
        click("renderButton");
        const QString back = folder + QStringLiteral("/evening back 2.edl");
        QVERIFY2(words("forecastLabel").contains(QStringLiteral("evening back")),
                 qPrintable(words("forecastLabel")));
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(back), 60'000);
        QCOMPARE(bytesOf(mine), QByteArray("mine"));
        const QByteArray text = bytesOf(back);
        QVERIFY2(text.contains("10:00:00:02 10:00:00:14 01:00:00:00 01:00:00:12"), text);
        QVERIFY2(text.contains("10:00:00:06 10:00:00:18 01:00:00:12 01:00:01:00") && !text.contains("M2"),
                 text);
        QCOMPARE(openSource(folder + QStringLiteral("/wren_001_100.mkv"))->frames(), 12);
        QCOMPARE(openSource(folder + QStringLiteral("/wren_002_50.mkv"))->frames(), 12);
    }

    void settingsAreKeptForTheNextTime() {
        window_.open(clip_);
        openStep();
        auto* format = window_.find<QComboBox>("formatBox");
        window_.choose("formatBox", format->findText(QStringLiteral("H.265 / MP4")));
        window_.find<QSlider>("qualitySlider")->setValue(20);
        const QString told = words("qualityWords");
        window_.close();
        window_.open(clip_);
        openStep();
        QCOMPARE(window_.find<QComboBox>("formatBox")->currentText(), QStringLiteral("H.265 / MP4"));
        QCOMPARE(words("qualityWords"), told);
    }

    void aPausedRenderGoesOnFromItsParts() {
        RenderController queue;
        queue.setMeans(means());
        const fs::path target = clips_.path(QStringLiteral("paused.mkv")).toStdString();
        const std::int64_t number = queue.add(workOf(clip_, target));
        QTRY_VERIFY_WITH_TIMEOUT(queue.progress().done >= 60 || !queue.running(), 60'000);
        QSignalSpy finished(&queue, &RenderController::finished);
        if (queue.running()) {
            queue.pause(number);
            QVERIFY(finished.wait(30'000));
        }
        if (queue.find(number)->state == QueuedRender::State::done)
            QSKIP("it was done before it could be paused");
        QCOMPARE(queue.find(number)->state, QueuedRender::State::paused);
        QVERIFY(fs::exists(SliceFolder::beside(target)));
        QVERIFY(!fs::exists(target));
        queue.goOn(number);
        QVERIFY(finished.wait(60'000));
        QCOMPARE(queue.find(number)->state, QueuedRender::State::done);
        QVERIFY(queue.report()->resumed >= 48);
        QCOMPARE(buildIndex(target).frames(), 96);
        QVERIFY(!fs::exists(SliceFolder::beside(target)));
    }

    void theQueueOutlivesTheProgram() {
        const QString file = clips_.path(QStringLiteral("state/queue.json"));
        const fs::path target = clips_.path(QStringLiteral("outlived.mkv")).toStdString();
        {
            RenderController queue;
            queue.setMeans(means());
            queue.keepIn(file);
            queue.add(workOf(clip_, target));
            queue.add(workOf(clip_, clips_.path(QStringLiteral("second.mkv")).toStdString(), Method::sample));
            QTRY_VERIFY(QFile::exists(file) && loadQueue(file.toStdString()).size() == 2);
            QTRY_VERIFY_WITH_TIMEOUT(queue.progress().done >= 60 || !queue.running(), 60'000);
            // Another program meanwhile neither reads nor writes it.
            RenderController second;
            QSignalSpy refused(&second, &RenderController::notKept);
            second.keepIn(file);
            QVERIFY(refused.wait());
            QVERIFY(second.queue().empty());
        }
        // What the program left behind when it ended.
        const bool hadParts = fs::exists(SliceFolder::beside(target) / "0000.json");
        RenderController queue;
        queue.setMeans(means());
        QSignalSpy read(&queue, &RenderController::queueChanged);
        queue.keepIn(file);
        QVERIFY(read.wait());
        QCOMPARE(queue.queue().size(), std::size_t{2});
        QVERIFY(!queue.running()); // nothing heavy begins unasked
        QSignalSpy finished(&queue, &RenderController::finished);
        std::int64_t resumed = 0;
        connect(&queue, &RenderController::finished, this, [&] {
            if (queue.report()) resumed = std::max(resumed, queue.report()->resumed);
        });
        for (const QueuedRender& job : std::vector<QueuedRender>(queue.queue())) {
            QCOMPARE(job.state, QueuedRender::State::paused);
            queue.goOn(job.number);
        }
        while (finished.size() < 2)
            QVERIFY(finished.wait(60'000));
        if (hadParts) QVERIFY(resumed >= 48);
        QCOMPARE(buildIndex(target).frames(), 96);
        QCOMPARE(buildIndex(clips_.path(QStringLiteral("second.mkv")).toStdString()).frames(), 96);
    }

    void aDamagedQueueIsToldAndWorkGoesOn() {
        const QString file = clips_.path(QStringLiteral("bad.json"));
        putBytes(file, "{\"yarngapQueue\": 1, \"jobs\": [{\"number\": -4}]}");
        RenderController queue;
        queue.setMeans(means());
        QSignalSpy read(&queue, &RenderController::queueChanged);
        queue.keepIn(file);
        QVERIFY(read.wait());
        QVERIFY(queue.queue().empty());
        QVERIFY(queue.outcome().contains(QStringLiteral("bad.json")));
        QSignalSpy finished(&queue, &RenderController::finished);
        queue.add(workOf(clip_, clips_.path(QStringLiteral("after.mkv")).toStdString(), Method::sample));
        QVERIFY(finished.wait(60'000));
        QVERIFY(!queue.failed());
    }

    void anUnwritableTargetFailsAndCanBeTriedAgain() {
        RenderController queue;
        queue.setMeans(means());
        QSignalSpy finished(&queue, &RenderController::finished);
        const QString folder = clips_.path(QStringLiteral("later"));
        const std::int64_t number =
            queue.add(workOf(clip_, (folder + QStringLiteral("/x.mkv")).toStdString(), Method::sample));
        QVERIFY(finished.wait(60'000));
        QCOMPARE(queue.find(number)->state, QueuedRender::State::failed);
        QVERIFY(queue.outcome().contains(QStringLiteral("no folder")));
        QDir().mkpath(folder);
        queue.goOn(number);
        QVERIFY(finished.wait(60'000));
        QCOMPARE(queue.find(number)->state, QueuedRender::State::done);
    }
};

QTEST_MAIN(TestRenderStep)
#include "test_render_step.moc"
