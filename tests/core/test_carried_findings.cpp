// Cuts, repeats and shakes of coded frames, on the frames that an interpretation makes of them.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/library_messages.h"
#include "core/shot/source_axis.h"
#endif
#include "support/clips.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

namespace {

ShotFindings cutBefore(std::int64_t field) {
    ShotFindings findings;
    findings.cutFields = {field};
    findings.cuts = {(field + 1) / 2};
    return findings;
}

} // namespace

class TestCarriedFindings : public QObject {
    Q_OBJECT

    Clips clips_;
    MediaIndex even_; // 20 frames

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        even_ = buildIndex(clips_.moving(QStringLiteral("even.mkv"), 20, {}).toStdString());
        QCOMPARE(even_.frames(), 20);
    }

    void framesAsTheyAreKeepTheirNumbers() {
        ShotFindings findings = cutBefore(24);
        findings.repeats.frames = {5, 9};
        const GapFindings carried = SourceAxis(even_, {}).findings(findings);
        QCOMPARE(carried.cuts, (std::vector<std::int64_t>{11}));
        QCOMPARE(carried.repeats, (std::vector<std::int64_t>{5, 9}));
    }

    void slotsAreCountedWhereTimesWereMadeEven() {
        // Of 50 frames those of number 5, 15, 25, 35 and 45 are missing. Coded frame 20 is number 22.
        const MediaIndex varying = buildIndex(clips_.varying(QStringLiteral("varying.mkv")).toStdString());
        Interpretation taken;
        taken.evenTimes = true;
        ShotFindings findings = cutBefore(40);
        findings.repeats.frames = {30}; // number 33
        const GapFindings carried = SourceAxis(varying, taken).findings(findings);
        QCOMPARE(carried.cuts, (std::vector<std::int64_t>{21}));
        QVERIFY(std::find(carried.repeats.begin(), carried.repeats.end(), 33) != carried.repeats.end());
        QVERIFY(std::find(carried.repeats.begin(), carried.repeats.end(), 30) == carried.repeats.end());
    }

    void deinterlacedFramesKeepTheirCuts() {
        // The cut lies between both fields of frame 10.
        Interpretation taken;
        taken.fields = FieldUse::toFrames;
        QCOMPARE(SourceAxis(even_, taken).findings(cutBefore(21)).cuts, (std::vector<std::int64_t>{10}));
        taken.fields = FieldUse::toFields; // frame 20 shows field 20
        QCOMPARE(SourceAxis(even_, taken).findings(cutBefore(21)).cuts, (std::vector<std::int64_t>{20}));
    }

    void filmKeepsItsCuts() {
        // AA BB BC CD DD: C is the bottom field of frame 2 and the top field of frame 3, D is frame 4.
        Interpretation taken;
        taken.fields = FieldUse::removePulldown;
        taken.topFirst = true;
        taken.pulldown = {{.first = 0, .last = 19, .kind = PulldownRun::Kind::pulldown32}};
        QCOMPARE(recipesFor(even_, taken).size(), std::size_t{16});
        QCOMPARE(SourceAxis(even_, taken).findings(cutBefore(5)).cuts,
                 (std::vector<std::int64_t>{1})); // B | C
        QCOMPARE(SourceAxis(even_, taken).findings(cutBefore(7)).cuts,
                 (std::vector<std::int64_t>{2})); // C | D
        QCOMPARE(SourceAxis(even_, taken).findings(cutBefore(10)).cuts,
                 (std::vector<std::int64_t>{3})); // D | A
    }

    void shakesTurnWithThePicture() {
        ShotFindings findings;
        findings.camera.gaps = {{.gap = 4, .firstX = 1, .firstY = 2, .lastX = 3, .lastY = 5}};
        Interpretation taken;
        taken.rotation = 90; // what went right goes down, what went down goes left
        const Shake turned = SourceAxis(even_, taken).findings(findings).shakes.at(0);
        QCOMPARE(turned, (Shake{.gap = 4, .firstX = -2, .firstY = 1, .lastX = -5, .lastY = 3}));
        taken.rotation = 180;
        QCOMPARE(SourceAxis(even_, taken).findings(findings).shakes.at(0).firstX, -1.0F);
    }
};

QTEST_GUILESS_MAIN(TestCarriedFindings)
#include "test_carried_findings.moc"
