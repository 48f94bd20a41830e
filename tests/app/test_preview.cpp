// What the preview shows is what a render would write, and never a picture of other settings.

#include "app/document/media_library.h"
#include "app/playing/preview.h"
#include "core/media/library_messages.h"
#include "core/synthesis/planned_frames.h"
#include "support/clips.h"

#include <QElapsedTimer>
#include <QRandomGenerator>
#include <QSignalSpy>
#include <QTest>

#include <algorithm>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestPreview : public QObject {
    Q_OBJECT

    Clips clips_;
    std::shared_ptr<FrameSource> source_;
    std::shared_ptr<VectorStore> store_ = std::make_shared<VectorStore>();
    static constexpr Size size{160, 90};

    OutputFramesPtr made(const Rational& speed, Method method) const {
        Timing timing;
        timing.sourceRate = timing.outputRate = source_->facts().rate;
        timing.to = source_->frames() - 1;
        timing.speed = speed;
        return std::make_shared<const PlannedFrames>(
            std::make_shared<const FramePlan>(makePlan(timing, method, source_->frames())),
            FrameMaker(source_, store_, InBetweens().forDraft()));
    }
    QImage rendered(const OutputFramesPtr& m, std::int64_t output) const {
        const MadeFrame frame = m->make(output);
        return toQImage(toScreenRgb(*frame.image, source_->facts().colour, size.width, size.height));
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        source_ = openSource(clips_.moving(QStringLiteral("swift.mp4"), 12, {}, QStringLiteral("160x90")));
    }

    void theWantedFrameComesFirst() {
        Preview preview;
        preview.setSizes(size, {32, 18});
        const OutputFramesPtr m = made(Rational(1, 4), Method::blend);
        preview.want(17, 1);
        QSignalSpy ready(&preview, &Preview::pictureReady);
        preview.setShot(m);
        QVERIFY(ready.wait(20'000));
        QCOMPARE(ready.front().front().toLongLong(), 17);
        QVERIFY(preview.picture(17));
        QCOMPARE(preview.picture(17)->image, rendered(m, 17));
    }

    void framesBesideItFollow() {
        Preview preview;
        preview.setSizes(size, {32, 18});
        const OutputFramesPtr m = made(Rational(1, 4), Method::blend);
        QSignalSpy beside(&preview, &Preview::sourceReady);
        preview.want(17, 1); // between source frames 4 and 5
        preview.setShot(m);
        QTRY_VERIFY_WITH_TIMEOUT(preview.sourcePicture(4) && preview.sourcePicture(5), 20'000);
        QCOMPARE(preview.sourcePicture(4)->image.size(), QSize(32, 18));
        QVERIFY(!preview.sourcePicture(9));
    }

    void flanksOfOriginalsAndInBetweens() {
        PlanRow row;
        row.first = row.last = 3;
        QCOMPARE(flanksOf(row, 10).before, std::optional<std::int64_t>(2));
        QCOMPARE(flanksOf(row, 10).after, std::optional<std::int64_t>(4));
        QCOMPARE(flanksOf(row, 4).after, std::nullopt);
        row.first = row.last = 0;
        QCOMPARE(flanksOf(row, 10).before, std::nullopt);
        row.last = 1;
        QCOMPARE(flanksOf(row, 10).before, std::optional<std::int64_t>(0));
        QCOMPARE(flanksOf(row, 10).after, std::optional<std::int64_t>(1));
    }

    void whatIsShownIsAlwaysTheRenderOfThePresentPlan() {
        Preview preview;
        preview.setSizes(size, {32, 18});
        QRandomGenerator random(7); // the same storm every time
        constexpr std::array methods{Method::sample, Method::blend, Method::flow};
        for (int change = 0; change < 30; ++change) {
            const OutputFramesPtr m = made(Rational(1, 1 + random.bounded(5)),
                                           methods[static_cast<std::size_t>(random.bounded(3))]);
            preview.setShot(m);
            const auto total = static_cast<int>(m->plan().rows.size());
            const std::int64_t output = random.bounded(total);
            for (int scrub = 0; scrub < 20; ++scrub)
                preview.want(random.bounded(total), random.bounded(2) ? 1 : -1);
            preview.want(output, 1);
            if (const auto early = preview.picture(output)) QCOMPARE(early->image, rendered(m, output));
            QTRY_VERIFY_WITH_TIMEOUT(preview.picture(output), 20'000);
            QCOMPARE(preview.picture(output)->image, rendered(m, output));
        }
    }

    void framesThatShowTheSameAreReadyTogether() {
        Preview preview;
        preview.setSizes(size, {32, 18});
        const OutputFramesPtr m = made(Rational(1, 4), Method::sample);
        const auto total = static_cast<std::int64_t>(m->plan().rows.size());
        preview.setShot(m);
        preview.want(0, 1);
        // Each source frame is made once, and all the rows that show it know.
        const auto all = [&] {
            return std::all_of(preview.ready().begin(), preview.ready().end(),
                               [](Readiness r) { return r == Readiness::ready; });
        };
        QTRY_VERIFY_WITH_TIMEOUT(all(), 20'000);
        QCOMPARE(static_cast<std::int64_t>(preview.ready().size()), total);
    }

    void whatAnotherPlanAskedForIsFoundByThePresentOne() {
        // Whenever the plan changes, some picture of the one before is just being finished.
        Preview preview;
        preview.setSizes(size, {32, 18});
        const OutputFramesPtr whole = made(1, Method::blend);
        const OutputFramesPtr slow = made(Rational(1, 4), Method::blend);
        for (int round = 0; round < 12; ++round) {
            preview.setMemory(0, 0); // nothing is left of the round before
            preview.setMemory(Preview::defaultPictureBytes, 0);
            preview.setShot(whole);
            preview.want(round % 12, 1);
            QSignalSpy one(&preview, &Preview::pictureReady);
            QVERIFY(one.wait(20'000));
            preview.setShot(slow);
            const auto all = [&] {
                return std::all_of(preview.ready().begin(), preview.ready().end(),
                                   [](Readiness r) { return r == Readiness::ready; });
            };
            QTRY_VERIFY_WITH_TIMEOUT(all(), 20'000);
        }
    }

    void aStormOfCancelsSettles() {
        QRandomGenerator random(13);
        Preview preview;
        const OutputFramesPtr flow = made(Rational(1, 4), Method::flow);
        const OutputFramesPtr blend = made(Rational(1, 3), Method::blend);
        std::int64_t output = 0;
        Size last = size;
        const OutputFramesPtr* shown = &flow;
        for (int i = 0; i < 400; ++i) {
            switch (random.bounded(7)) {
            case 0:
                shown = random.bounded(2) ? &flow : &blend;
                preview.setShot(*shown);
                break;
            case 1:
                last = random.bounded(2) ? size : Size{80, 45};
                preview.setSizes(last, {32, 18});
                break;
            case 2:
                preview.setLoop(std::pair<std::int64_t, std::int64_t>(2, 9));
                break;
            case 3:
                preview.setPage(std::pair<std::int64_t, std::int64_t>(0, random.bounded(30)));
                break;
            case 4:
                preview.wantInsight(random.bounded(2) == 1);
                break;
            case 5:
                preview.setMemory(std::size_t{1} << (16 + random.bounded(10)), 1 << 20);
                break;
            default:
                output = random.bounded(30);
                preview.want(output, random.bounded(2) ? 1 : -1);
            }
            if (i % 16 == 0) QCoreApplication::processEvents();
        }
        preview.setMemory(Preview::defaultPictureBytes, Preview::defaultInsightBytes);
        last = size;
        preview.setSizes(last, {32, 18});
        preview.setShot(*shown);
        preview.want(output, 1);
        QTRY_VERIFY_WITH_TIMEOUT(preview.glance(output), 30'000);
        QCOMPARE(preview.glance(output)->image, rendered(*shown, output));
    }

    void goingBackFindsTheEarlierPictures() {
        Preview preview;
        preview.setSizes(size, {32, 18});
        const OutputFramesPtr slow = made(Rational(1, 4), Method::blend);
        const OutputFramesPtr other = made(Rational(1, 2), Method::sample);
        preview.setShot(slow);
        preview.want(5, 1);
        QTRY_VERIFY_WITH_TIMEOUT(preview.picture(5), 20'000);
        preview.setShot(other);
        preview.setShot(slow);
        QVERIFY(preview.picture(5)); // at once
        QCOMPARE(preview.ready()[5], Readiness::ready);
    }

    void whatIsMadeWhileThingsChangeIsToldOf() {
        // A picture that is done just as the shot is set anew, with the same content, is not made again.
        Preview preview;
        QSignalSpy told(&preview, &Preview::pictureReady);
        preview.want(5, 1);
        const OutputFramesPtr m = made(Rational(1, 4), Method::blend);
        for (int round = 0; round < 80; ++round) {
            const Size other{size.width + 2 * round, size.height};
            preview.setSizes(other, {32, 18});
            preview.setShot(m);
            told.clear();
            QElapsedTimer spent; // somewhere while it is being made, elsewhere each time
            spent.start();
            while (spent.nsecsElapsed() < qint64{37'000} * round)
                continue;
            preview.setShot(m);
            if (preview.picture(5)) continue; // it was there when the shot was set
            const auto isTold = [&] {
                return std::any_of(told.begin(), told.end(),
                                   [](const auto& signal) { return signal.front().toLongLong() == 5; });
            };
            QVERIFY2(QTest::qWaitFor(isTold, 20'000), qPrintable(QString::number(round)));
            QVERIFY(preview.picture(5));
        }
    }

    void itIsSettledWhileThePictureAskedForIsThere() {
        Preview preview;
        preview.setSizes(size, {32, 18});
        QVERIFY(preview.isSettled()); // nothing is asked for
        QSignalSpy told(&preview, &Preview::settledChanged);
        preview.want(17, 1);
        const OutputFramesPtr m = made(Rational(1, 4), Method::blend);
        preview.setShot(m);
        QVERIFY(!preview.isSettled());
        QTRY_VERIFY_WITH_TIMEOUT(preview.isSettled(), 20'000);
        QVERIFY(preview.picture(17));
        QCOMPARE(told, (QList<QVariantList>{{false}, {true}}));
        QTRY_VERIFY_WITH_TIMEOUT(preview.picture(18), 20'000);
        preview.want(18, 1); // it was made ahead
        QVERIFY(preview.isSettled());
        preview.want(17, 1);
        QVERIFY(preview.isSettled());
        preview.setShot(made(Rational(1, 2), Method::flow)); // half way, and by another method
        QVERIFY(!preview.isSettled());
        preview.setShot(m); // what was made is found again
        QVERIFY(preview.isSettled());
        QCOMPARE(told.size(), 4);
        preview.setShot(nullptr);
        QVERIFY(preview.isSettled());
    }

    void aLoopIsSettledWithItsLastFrame() {
        Preview preview;
        preview.setSizes(size, {32, 18});
        preview.want(17, 1);
        preview.setLoop(std::pair<std::int64_t, std::int64_t>(12, 22));
        preview.setShot(made(Rational(1, 4), Method::blend));
        QVERIFY(!preview.isSettled());
        QTRY_VERIFY_WITH_TIMEOUT(preview.isSettled(), 20'000);
        for (std::int64_t i = 12; i <= 22; ++i)
            QVERIFY(preview.picture(i));
        // One that has no room is never all there, and nothing waits for it.
        preview.setMemory(12 * size.width * size.height * 4, Preview::defaultInsightBytes);
        preview.setLoop(std::pair<std::int64_t, std::int64_t>(0, 40));
        QTRY_VERIFY_WITH_TIMEOUT(preview.isSettled(), 20'000);
    }

    void noShotNoPictures() {
        Preview preview;
        QVERIFY(!preview.picture(0));
        QVERIFY(!preview.sourcePicture(0));
        preview.setShot(nullptr);
        preview.want(3, 1);
        QVERIFY(!preview.picture(3));
        const OutputFramesPtr m = made(1, Method::sample);
        preview.setShot(m);
        QVERIFY(!preview.picture(-1));
        QVERIFY(!preview.picture(100));
    }
};

QTEST_GUILESS_MAIN(TestPreview)
#include "test_preview.moc"
