// Motion that goes on from the gap beside, where one frame of a gap hides what the other shows.

#include "core/error.h"
#include "core/motion/continued_motion.h"
#include "core/motion/vector_store.h"
#include "core/synthesis/frame_maker.h"
#include "core/synthesis/warp.h"
#include "support/drawn_board.h"
#include "support/drawn_shot.h"
#include "support/flow_by_pixels.h"
#include "support/pictures.h"

#include <opencv2/core.hpp>

#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int fast = 16;
constexpr int slow = -2;
const DrawnBoard shot{.start = {40, 40, 70, 80}, .fast = fast, .slow = slow};
constexpr int width = 240;
constexpr int height = 160;

cv::Rect boardAt(double n) {
    return shot.at(n);
}
Image frame(double n) {
    return shot.frame(n);
}
ImagePtr frameAt(double n) {
    return shot.frameAt(n);
}

VectorsPtr vectorsOf(int gap) {
    return std::make_shared<const Vectors>(estimateFlow(frame(gap), frame(gap + 1), {}));
}

/// Of the gap between frames 1 and 2.
GapsBeside besideOf() {
    return {{"0", frameAt(0), vectorsOf(0)}, {"3", frameAt(3), vectorsOf(2)}};
}

/// Of the wall in frame 1, what the board hides in frame 2; of the wall in frame 2, what it hides in frame 1.
cv::Rect hiddenAhead() {
    const cv::Rect board = boardAt(1);
    return {board.br().x, board.y + 8, fast, board.height - 16};
}
cv::Rect hiddenBehind() {
    const cv::Rect board = boardAt(1);
    return {board.x + slow, board.y + 8, fast, board.height - 16};
}

/// Share of the pixels inside `where` whose vector is right to a pixel and a half.
double rightInside(const VectorField& field, const cv::Rect& where, double vx) {
    int right = 0;
    for (int y = where.y; y < where.br().y; ++y)
        for (int x = where.x; x < where.br().x; ++x)
            if (std::hypot(field.row(y)[2 * x] - vx, field.row(y)[2 * x + 1]) < 1.5) ++right;
    return static_cast<double>(right) / where.area();
}

double errorInside(const Image& made, const Image& truth, const cv::Rect& where) {
    double sum = 0;
    for (int y = where.y; y < where.br().y; ++y)
        for (int x = where.x; x < where.br().x; ++x)
            sum += std::abs(sampleAt(made, 0, x, y) - sampleAt(truth, 0, x, y));
    return sum / where.area();
}

/// Even vectors of the same trust everywhere.
Vectors evenVectors(float vx, std::uint8_t trust) {
    const std::size_t n = std::size_t{width} * height;
    VectorField there{width, height, std::vector<float>(2 * n)};
    VectorField back = there;
    for (std::size_t i = 0; i < n; ++i) {
        there.xy[2 * i] = vx;
        back.xy[2 * i] = -vx;
    }
    const TrustField trusted{width, height, std::vector<std::uint8_t>(n, trust)};
    return {there, back, trusted, trusted};
}

} // namespace

class TestContinuedMotion : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void whatIsHiddenGoesOnAsItDid() {
        const Image a = frame(1);
        const Image b = frame(2);
        const Vectors own = flowByPixels(a, b);
        const Vectors made = continueMotion(own, a, b, besideOf(), AnalyseOn::asIs);
        const double before = rightInside(own.forward, hiddenAhead(), slow);
        const double after = rightInside(made.forward, hiddenAhead(), slow);
        const double beforeBack = rightInside(own.backward, hiddenBehind(), -slow);
        const double afterBack = rightInside(made.backward, hiddenBehind(), -slow);
        const QString seen =
            QStringLiteral("%1 to %2, back %3 to %4").arg(before).arg(after).arg(beforeBack).arg(afterBack);
        QVERIFY2(after > 0.7 && before < 0.1, qPrintable(seen));
        QVERIFY2(afterBack > 0.7 && beforeBack < 0.1, qPrintable(seen));
        // What both frames show keeps the motion it has: the board to its edge, the wall above it.
        const cv::Rect board = boardAt(1);
        const cv::Rect inside(board.x + 8, board.y + 8, board.width - 16, board.height - 16);
        QVERIFY(rightInside(made.forward, inside, fast) > 0.99);
        QVERIFY(rightInside(made.forward, {16, 8, width - 32, 16}, slow) > 0.99);
    }

    void itGoesOnApartFromTheShakeOfTheCamera() {
        DrawnBoard held = shot;
        held.shaken = {0, 5, -3, 6}; // by 5, -8 and 9 from frame to frame
        const auto vectors = [&](int gap) {
            return std::make_shared<const Vectors>(flowByPixels(held.frame(gap), held.frame(gap + 1)));
        };
        const Vectors own = *vectors(1);
        const Vectors made = continueMotion(
            own, held.frame(1), held.frame(2),
            {{"0", held.frameAt(0), vectors(0)}, {"3", held.frameAt(3), vectors(2)}}, AnalyseOn::asIs);
        constexpr int jump = -8;
        const cv::Rect board = held.at(1);
        const int covered = fast - slow; // of the wall, on the way
        const cv::Rect ahead(board.br().x, board.y + 8, covered, board.height - 16);
        const cv::Rect behind(held.at(2).x - covered, board.y + 8, covered, board.height - 16);
        const double there = rightInside(made.forward, ahead, slow + jump);
        const double back = rightInside(made.backward, behind, -slow - jump);
        QVERIFY2(there > 0.7 && back > 0.7, qPrintable(QStringLiteral("%1, %2").arg(there).arg(back)));
        QVERIFY(rightInside(made.forward, {32, 8, width - 64, 16}, slow + jump) > 0.99);
    }

    void theMadeFrameIsNearerTheTrueOne() {
        const Image a = frame(1);
        const Image b = frame(2);
        const Vectors own = flowByPixels(a, b);
        const Vectors made = continueMotion(own, a, b, besideOf(), AnalyseOn::asIs);
        const Image truth = frame(1.5);
        const cv::Rect board = boardAt(1.5);
        const cv::Rect ahead(board.br().x, board.y + 8, fast / 2, board.height - 16);
        const double before = errorInside(warpBetween(a, b, own, 0.5).image, truth, ahead);
        const double after = errorInside(warpBetween(a, b, made, 0.5).image, truth, ahead);
        QVERIFY2(after < 0.7 * before, qPrintable(QStringLiteral("%1 to %2").arg(before).arg(after)));
    }

    void withTimeTurnedRoundItIsTheSame() {
        const Image a = frame(1);
        const Image b = frame(2);
        const Vectors own = flowByPixels(a, b);
        const GapsBeside beside = besideOf();
        const auto turned = [](const Vectors& v) {
            return Vectors{v.backward, v.forward, v.backwardTrust, v.forwardTrust};
        };
        const auto turnedGap = [&](const GapBeside& gap) {
            return GapBeside{gap.identity, gap.frame, std::make_shared<const Vectors>(turned(*gap.vectors))};
        };
        const Vectors made = continueMotion(own, a, b, beside, AnalyseOn::asIs);
        const Vectors back = continueMotion(
            turned(own), b, a, {turnedGap(beside.after), turnedGap(beside.before)}, AnalyseOn::asIs);
        QCOMPARE(back.forward.xy, made.backward.xy);
        QCOMPARE(back.backward.xy, made.forward.xy);
    }

    void muchMoreTrustBesideIsFollowed_data() {
        QTest::addColumn<int>("own");
        QTest::addColumn<int>("beside");
        QTest::addColumn<bool>("followed");
        QTest::newRow("half of it and more") << 20 << 160 << true;
        QTest::newRow("less") << 60 << 160 << false;
        QTest::newRow("trusted here") << 255 << 255 << false;
    }
    void muchMoreTrustBesideIsFollowed() {
        QFETCH(const int, own);
        QFETCH(const int, beside);
        QFETCH(const bool, followed);
        // Pictures that show nothing tell no motion from another.
        const ImagePtr flat = std::make_shared<Image>(pictureOf(
            width, height, {.model = ColourModel::grey, .depth = 8}, [](int, int, int) { return 100; }));
        const GapBeside gap{
            "0", flat, std::make_shared<const Vectors>(evenVectors(5, static_cast<std::uint8_t>(beside)))};
        const Vectors made = continueMotion(evenVectors(3, static_cast<std::uint8_t>(own)), *flat, *flat,
                                            {gap, {}}, AnalyseOn::asIs);
        QCOMPARE(made.forward.row(80)[2 * 120], followed ? 5.0F : 3.0F);
        QCOMPARE(made.backward.row(80)[2 * 120], -3.0F); // there is no gap after
        QCOMPARE(made.forwardTrust.row(80)[120], static_cast<std::uint8_t>(own));
    }

    void gapsOfAnotherSizeOrNoneChangeNothing() {
        const Image a = frame(1);
        const Image b = frame(2);
        const Vectors own = flowByPixels(a, b);
        QCOMPARE(continueMotion(own, a, b, {}, AnalyseOn::asIs).forward.xy, own.forward.xy);
        Vectors another = *besideOf().before.vectors; // with fewer rows than pictures of this size have
        for (VectorField* field : {&another.forward, &another.backward})
            field->height -= 4;
        for (TrustField* trust : {&another.forwardTrust, &another.backwardTrust})
            trust->height -= 4;
        const auto fewer = std::make_shared<const Vectors>(another);
        QCOMPARE(continueMotion(own, a, b, {{"0", frameAt(0), fewer}, {}}, AnalyseOn::asIs).forward.xy,
                 own.forward.xy);
    }

    void itStopsWhenTold() {
        const Image a = frame(1);
        const Image b = frame(2);
        const Vectors own = flowByPixels(a, b);
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_THROWS_EXCEPTION(Cancelled,
                                 continueMotion(own, a, b, besideOf(), AnalyseOn::asIs, stop.get_token()));
    }

    void theStoreKeepsThemApart() {
        VectorStore store;
        const Image a = frame(1);
        const Image b = frame(2);
        const FlowOptions thorough{.quality = FlowQuality::thorough};
        const VectorsPtr own = store.vectors({1, 2, "m:1:2"}, a, b, thorough);
        QVERIFY(!store.hasContinued({1, 2, "m:1:2"}, thorough, "0", "3"));
        const GapsBeside beside = besideOf();
        const VectorsPtr made = store.continued({1, 2, "m:1:2"}, a, b, thorough, beside);
        QVERIFY(store.hasContinued({1, 2, "m:1:2"}, thorough, "0", "3"));
        QVERIFY(
            !store.hasContinued({1, 2, "m:1:2"}, thorough, "0", "")); // another gap beside is other motion
        QCOMPARE(store.continued({1, 2, "m:1:2"}, a, b, thorough, beside), made);
        QCOMPARE(store.vectors({1, 2, "m:1:2"}, a, b, thorough), own);
        QVERIFY(made->forward.xy != own->forward.xy);
    }

    void thoroughFramesAreMadeSo() {
        const auto drawn =
            std::make_shared<DrawnShot>(4, [](std::int64_t n) { return frame(static_cast<double>(n)); });
        InBetweens settings;
        settings.flow.quality = FlowQuality::thorough;
        const FrameMaker thorough(drawn, std::make_shared<VectorStore>(), settings);
        const PlanRow row = halfSpeedPlan(4).rows[3];
        QCOMPARE(row.before, 0);
        QCOMPARE(row.after, 3);
        PlanRow alone = row; // as at cuts on both sides
        alone.before = alone.after = -1;
        const Image truth = frame(1.5);
        QVERIFY(!thorough.hasVectors(row));
        const double after = lumaPsnr(*thorough.make(row).image, truth, 16);
        QVERIFY(thorough.hasVectors(row));
        const double before = lumaPsnr(*thorough.make(alone).image, truth, 16);
        QVERIFY2(after > before + 0.5, qPrintable(QStringLiteral("%1, %2").arg(before).arg(after)));
    }
};

QTEST_APPLESS_MAIN(TestContinuedMotion)
#include "test_continued_motion.moc"
