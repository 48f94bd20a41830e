// The demo's damaged shots are what they are meant to be.

#include "core/inspection/proposals.h"
#include "core/inspection/suitability.h"
#include "core/media/interpreted_source.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "theatre/exposure.h"
#include "theatre/old_reel.h"
#include "theatre/phone_clip.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;
using namespace yarngap::theatre;

class TestDemoShots : public QObject {
    Q_OBJECT

    Clips clips_;

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void thePhoneMissesFramesAndIsHeldUpright() {
        const QString clip = clips_.path(QStringLiteral("phone.mp4"));
        makePhoneClip(clip.toStdString());
        const auto index = std::make_shared<const MediaIndex>(buildIndex(clip.toStdString()));
        QVERIFY(!index->facts.constantRate);
        QCOMPARE(index->facts.rotation, 90);
        const auto times = phoneTimes(static_cast<int>(index->frames()));

        const ShotFindings nothing; // the file's own word is enough here
        const Interpretation measured = measuredInterpretation(*index, nothing);
        QVERIFY(measured.evenTimes);
        QCOMPARE(measured.rotation, 90);
        // At 30 fps a slot is 8 ticks long; the frame that is missed in it is repeated from a neighbour.
        const auto marks = sourceMarks(*index, measured);
        std::size_t missed = 0;
        for (std::size_t n = 1; n < times.size(); ++n)
            missed += times[n] - times[n - 1] == 16 ? 1U : 0U;
        QCOMPARE(missed, std::size_t{6});
        QCOMPARE(marks.size(), missed);
        for (const SourceMark& mark : marks)
            QVERIFY(mark.repeated);
        const MediaFacts facts = interpretedFacts(*index, measured);
        QCOMPARE(facts.rate, Rate(30, 1));
        QCOMPARE(facts.frames, index->frames() + 6);
        QCOMPARE(facts.width, 540);
        QCOMPARE(facts.height, 960);
    }

    void theOldReelFlickersIsGrainyAndLosesTwoFrames() {
        const auto scene = oldReel(480, 270);
        const Camera camera{.width = 480,
                            .height = 270,
                            .rate = Rate(oldReelRate, 1),
                            .shutterSeconds = 1.0 / 96,
                            .samples = 1,
                            .grain = 4.2,
                            .seed = 9};
        FrameMeter meter;
        std::vector<FrameMetrics> metrics;
        for (int n = 36; n < 64; ++n)
            metrics.push_back(meter.measure(expose(*scene, camera, n)));
        const ShotFindings findings = findingsFrom(metrics);
        QCOMPARE(findings.kind(), CadenceKind::progressive);
        QVERIFY(findings.cuts.empty());
        QVERIFY2(findings.flicker > 1, qPrintable(QString::number(findings.flicker)));
        const PictureQuality quality = measureQuality(expose(*scene, camera, 40), false);
        // The print is darker than the grain was laid over, so that some of it is lost.
        QVERIFY2(quality.noise > 2.5 && quality.noise < 5.5, qPrintable(QString::number(quality.noise)));
    }
};

QTEST_GUILESS_MAIN(TestDemoShots)
#include "test_demo_shots.moc"
