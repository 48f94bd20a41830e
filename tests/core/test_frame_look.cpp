// Sharpness and change of frames, halved frames, frames of another file: against numbers worked out by hand.

#include "core/inspection/frame_look.h"
#include "core/media/halved_frames.h"
#include "core/memory_shares.h"
#include "core/time/true_frames.h"
#include "support/pictures.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

class TestFrameLook : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void theSharpnessOfACheckerboard() {
        for (const int depth : {8, 10}) {
            const int one = 1 << (depth - 8);
            const Image board = pictureOf(322, 180, {.model = ColourModel::grey, .depth = depth},
                                          [&](int, int x, int y) { return (x + y) % 2 ? 100 * one : 0; });
            // Across 200 everywhere; down 200, but in the first and last row 100.
            const double down = (178 * 200.0 + 2 * 100.0) / 180;
            QVERIFY(std::abs(lookOf(board).sharpness - (200 + down) / 2) < 1e-9);
        }
        const Image flat = pictureOf(64, 36, {.model = ColourModel::grey}, [](int, int, int) { return 77; });
        QCOMPARE(lookOf(flat).sharpness, 0.0);
    }

    void theChangeOfFrames() {
        const auto picture = [](int brighter) {
            return lookOf(
                pictureOf(640, 360, {.chromaShiftX = 1, .chromaShiftY = 1}, [&](int p, int x, int y) {
                    return p ? 128 : 40 + (x / 16 + y / 16) % 7 + (x < 320 ? brighter : 0);
                }));
        };
        const FrameLook plain = picture(0);
        QCOMPARE(changeBetween(plain, picture(0)), 0.0);  // a repeat
        QCOMPARE(changeBetween(plain, picture(12)), 6.0); // of half the picture
        const FrameLook other =
            lookOf(pictureOf(30, 20, {.model = ColourModel::grey}, [](int, int, int) { return 9; }));
        QCOMPARE(changeBetween(plain, other), 0.0); // cannot be told
    }

    void halvedFramesAreMeansOfFour() {
        const Image image =
            pictureOf(5, 3, {.model = ColourModel::grey}, [](int, int x, int y) { return 10 * x + 50 * y; });
        const Image half = halved(image);
        QCOMPARE(half.width(), 3);
        QCOMPARE(half.height(), 2);
        QCOMPARE(sampleAt(half, 0, 0, 0), (0 + 10 + 50 + 60 + 2) / 4);
        QCOMPARE(sampleAt(half, 0, 2, 0), (40 + 40 + 90 + 90) / 4);     // the last column counts double
        QCOMPARE(sampleAt(half, 0, 1, 1), (120 + 130 + 120 + 130) / 4); // and so does the last row
    }

    void trueFramesLieAtTheSameMoments() {
        const Timing timing{.sourceRate = Rate(24, 1),
                            .outputRate = Rate(24, 1),
                            .from = 2,
                            .to = 9,
                            .speed = Rational(1, 8)};
        const FramePlan plan = makePlan(timing, Method::flow, 12);
        const FramePlan there = planOfTrueFrames(plan, Rate(24, 1), Rate(96, 1), 48);
        QCOMPARE(there.rows.size(), plan.rows.size());
        QCOMPARE(there.rows[0].first, 8); // source frame 2, four times as fast
        QCOMPARE(there.rows[2].first, 9); // a quarter on
        QCOMPARE(there.rows[2].kind, FrameKind::original);
        QCOMPARE(there.rows[3].kind, FrameKind::repeat); // three eighths: there is none at that moment
        for (const PlanRow& row : planOfTrueFrames(plan, Rate(24, 1), Rate(96, 1), 10).rows)
            QVERIFY(row.first <= 9); // the file ends early
    }

    void theSharesOfMemoryStayInside() {
        for (const std::size_t bytes : {std::size_t{0}, leastMemory, std::size_t{6} << 30}) {
            const MemoryShares s = sharesOf(bytes);
            const std::size_t sum = s.pictures + s.otherVersions + s.insights + s.vectors + s.sourceFrames;
            QVERIFY(sum <= std::max(bytes, leastMemory));
            QVERIFY(sum > std::max(bytes, leastMemory) / 10 * 9);
        }
        QVERIFY(machineMemory() > std::size_t{256} << 20);
    }
};

QTEST_MAIN(TestFrameLook)
#include "test_frame_look.moc"
