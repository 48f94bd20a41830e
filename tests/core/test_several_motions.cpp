// Motions that a gap may have as well, and frames that are the mean of what all of them show.

#include "core/motion/cell_vectors.h"
#include "core/motion/continued_motion.h"
#include "core/motion/semi_global_choice.h"
#include "core/synthesis/mid_motion.h"
#include "core/synthesis/warp.h"
#include "support/drawn_board.h"
#include "support/flow_by_pixels.h"
#include "support/pictures.h"
#include "support/vector_fields.h"

#include <opencv2/core.hpp>

#include <QTest>

#include <algorithm>
#include <array>
#include <cmath>
#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 61;
constexpr int height = 37;

VectorField evenField(int w, int h, float x, float y) {
    return fieldOf(w, h, [&](int, int) { return cv::Vec2f(x, y); });
}

/// Everything moves by (x, y).
Vectors evenMotion(float x, float y, int trust = 200) {
    const TrustField all{
        width, height,
        std::vector<std::uint8_t>(std::size_t{width} * height, static_cast<std::uint8_t>(trust))};
    return {evenField(width, height, x, y), evenField(width, height, -x, -y), all, all};
}

/// `vectors` as others are kept.
CellVectors asOther(const Vectors& vectors) {
    return {inCells(vectors.forward), inCells(vectors.backward)};
}

Image waves(double shift) {
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [shift](int p, int x, int y) {
        return 120 + (p == 0 ? 60 : 25) * std::sin(0.31 * (x - shift) + 0.2 * y * (p + 1));
    });
}

bool sameSamples(const Image& a, const Image& b) {
    for (int p = 0; p < a.planeCount(); ++p)
        for (int y = 0; y < a.plane(p).height; ++y)
            for (int x = 0; x < a.plane(p).width; ++x)
                if (sampleAt(a, p, x, y) != sampleAt(b, p, x, y)) return false;
    return true;
}

const DrawnBoard shot{.start = {72, 40, 72, 80}, .fast = 8, .slow = -4};

GapBeside gapTo(std::int64_t number, double from, double to) {
    return {std::to_string(number), shot.frameAt(static_cast<double>(number)),
            std::make_shared<const Vectors>(estimateFlow(shot.frame(from), shot.frame(to), {}))};
}

} // namespace

class TestSeveralMotions : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void cellsAreMeansOfTheirPixels() {
        const VectorField field = fieldOf(5, 3, [](int x, int y) {
            return cv::Vec2f(static_cast<float>(x), 10.0F * static_cast<float>(y));
        });
        const VectorField cells = inCells(field);
        QCOMPARE(cells.width, 3);
        QCOMPARE(cells.height, 2);
        QCOMPARE(cells.row(0)[2], 1.25F); // (2 + 3) / 2 pixels are 1.25 cells
        QCOMPARE(cells.row(0)[3], 2.5F);
        QCOMPARE(cells.row(1)[4], 2.0F); // the last has one pixel, at (4, 2)
        QCOMPARE(cells.row(1)[5], 10.0F);
        const TrustField trust = inCells(TrustField{3, 1, {10, 30, 250}});
        QCOMPARE(trust.width, 2);
        QCOMPARE(int{trust.row(0)[0]}, 20);
        QCOMPARE(int{trust.row(0)[1]}, 250);
    }

    void aFrameIsTheSameByCellsAndByPixels() {
        const auto picture = [](double dx) {
            return pictureOf(75, 51, {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1},
                             [dx](int p, int x, int y) {
                                 const double per = p == 0 ? 1 : 2;
                                 return 128 + 60 * std::sin((per * x - dx) * 0.4) * std::sin(per * y * 0.3);
                             });
        };
        const Image a = picture(0);
        const Image b = picture(3);
        const Vectors cells = estimateFlow(a, b, {});
        QVERIFY(areByCells(cells, a.width(), a.height()));
        QCOMPARE(cells.forward.width, 38);
        QCOMPARE(cells.backwardTrust.height, 26);
        const Vectors pixels = byPixels(cells, a.width(), a.height());
        QVERIFY(!areByCells(pixels, a.width(), a.height()));
        QCOMPARE(pixels.forward.width, 75);
        QCOMPARE(pixels.forward.row(50)[2 * 74], cells.forward.row(25)[2 * 37]);
        const WarpedFrame one = warpBetween(a, b, cells, 0.25);
        const WarpedFrame other = warpBetween(a, b, pixels, 0.25);
        QVERIFY(sameSamples(one.image, other.image));
        QCOMPARE(one.doubt, other.doubt);
    }

    void aFrameIsTheMeanOfWhatTheyShow() {
        const Image a = waves(0);
        const Image b = waves(4);
        const std::array motions{evenMotion(4, 0), evenMotion(0, 3), evenMotion(-5, 1)};
        Vectors several = motions[0];
        several.others = {asOther(motions[1]), asOther(motions[2])};
        const Image made = warpBetween(a, b, several, 0.25).image;
        std::array<Image, 3> alone;
        for (std::size_t i = 0; i < alone.size(); ++i)
            alone[i] = warpBetween(a, b, motions[i], 0.25).image;
        int differing = 0;
        for (int p = 0; p < made.planeCount(); ++p)
            for (int y = 0; y < made.plane(p).height; ++y)
                for (int x = 0; x < made.plane(p).width; ++x) {
                    double mean = 0;
                    for (const Image& one : alone)
                        mean += sampleAt(one, p, x, y) / 3.0;
                    QVERIFY(std::abs(sampleAt(made, p, x, y) - mean) <= 1); // each is rounded
                    differing += std::abs(sampleAt(alone[0], p, x, y) - mean) > 3 ? 1 : 0;
                }
        QVERIFY(differing > width * height / 2); // or it says nothing
    }

    void thoseThatAgreeChangeNothing_data() {
        QTest::addColumn<bool>("grain");
        QTest::addColumn<bool>("light");
        QTest::addColumn<int>("limit");
        QTest::addColumn<bool>("side");
        QTest::newRow("as it is") << false << false << 0 << false;
        QTest::newRow("with grain") << true << false << 0 << false;
        QTest::newRow("as light") << false << true << 0 << false;
        QTest::newRow("a blend stands in") << false << false << 90 << false;
        QTest::newRow("a side stands in") << false << false << 90 << true;
        QTest::newRow("all of it") << true << true << 60 << false;
    }
    void thoseThatAgreeChangeNothing() {
        QFETCH(bool, grain);
        QFETCH(bool, light);
        QFETCH(int, limit);
        QFETCH(bool, side);
        SynthesisOptions options;
        options.keepGrain = grain;
        options.linearLight = light;
        options.trustLimit = limit;
        if (side) options.standIn = StandIn::side;
        const Image a = waves(0);
        const Image b = waves(4);
        const Vectors one = evenMotion(4, 0, 120);
        Vectors several = one;
        several.others = {asOther(one), asOther(one)};
        QVERIFY(sameSamples(warpBetween(a, b, several, 0.25, options).image,
                            warpBetween(a, b, one, 0.25, options).image));
    }

    void whatStandsInStandsInForAllOfThem_data() {
        QTest::addColumn<bool>("side");
        QTest::newRow("a blend") << false;
        QTest::newRow("a side") << true;
    }
    void whatStandsInStandsInForAllOfThem() {
        QFETCH(bool, side);
        SynthesisOptions options;
        options.trustLimit = 100;
        if (side) options.standIn = StandIn::side;
        const Image a = waves(0);
        const Image b = waves(30); // nothing fits, so that nothing is trusted
        Vectors several = evenMotion(0, 0, 0);
        const Image before = warpBetween(a, b, several, 0.25, options).image;
        several.others = {asOther(evenMotion(0, 0.5F, 0))};
        const Image after = warpBetween(a, b, several, 0.25, options).image;
        // The blend shows neither motion; the side alone is a, by two motions a quarter pixel apart.
        for (int y = 4; y < height - 4; ++y)
            for (int x = 4; x < width - 4; ++x)
                QVERIFY(std::abs(sampleAt(before, 0, x, y) - sampleAt(after, 0, x, y)) <= (side ? 3 : 0));
    }

    void trustIsThatOfTheFirst() {
        const CellPicture a = cellPicture(waves(0));
        const CellPicture b = cellPicture(waves(4));
        Vectors several = evenMotion(4, 0);
        several.others = {asOther(evenMotion(0, 3))};
        SynthesisOptions options;
        options.trustLimit = 30;
        const std::vector<MidMotion> all = projectMotions(several, a, b, 0.5, options);
        QCOMPARE(all.size(), std::size_t{2});
        QCOMPARE(all[0].trust, projectMotion(evenMotion(4, 0), a, b, 0.5, options).trust);
        QVERIFY(all[1].trust.empty());
        QCOMPARE(all[0].row(9)[15].vx, 2.0F); // cells
        QCOMPARE(all[1].row(9)[15].vy, 1.5F);
    }

    void severalWaysAreChosenAsEachAlone() {
        constexpr int w = 9;
        constexpr int h = 7;
        std::mt19937 random(5);
        std::uniform_real_distribution<float> number(0, 20);
        CellMotions motions(w, h);
        std::vector<CellMotions::Eight> otherCost = motions.cost;
        for (std::size_t i = 0; i < motions.cost.size(); ++i)
            for (int k = 0; k < 4; ++k) {
                CellMotions::set(motions.cost[i], k, number(random));
                CellMotions::set(otherCost[i], k, number(random));
                CellMotions::set(motions.x[i], k, number(random));
                CellMotions::set(motions.y[i], k, number(random));
            }
        const ColouredPicture flat{cv::Mat(h, w, CV_8U, cv::Scalar(80)), {}};
        const std::array ways{CellCosts{motions.cost}, CellCosts{motions.cost, -6}, CellCosts{otherCost, 2}};
        const auto together = chooseSemiGlobally(motions, ways, flat);
        QCOMPARE(together.size(), ways.size());
        for (std::size_t i = 0; i < ways.size(); ++i) {
            CellMotions alone = motions;
            alone.cost = ways[i].cost;
            for (CellMotions::Eight& cost : alone.cost)
                CellMotions::set(cost, 0, CellMotions::get(cost, 0) + ways[i].first);
            QCOMPARE(together[i], chooseSemiGlobally(alone, flat));
        }
        const auto own = [&](std::size_t way) {
            return std::count(together[way].begin(), together[way].end(), 0);
        };
        QVERIFY(own(1) > own(0)); // what costs less is taken more often
    }

    void thoroughMotionHasOthersBothWays() {
        const Image a = shot.frame(1);
        const Image b = shot.frame(2);
        const Vectors own = flowByPixels(a, b);
        const Vectors made = continueMotion(own, a, b, {gapTo(0, 0, 1), gapTo(3, 2, 3)}, AnalyseOn::asIs);
        QCOMPARE(made.others.size(), std::size_t{4});
        for (const CellVectors& other : made.others) {
            QCOMPARE(other.forward.width, cellsOf(shot.width));
            QCOMPARE(other.backward.height, cellsOf(shot.height));
        }
        QCOMPARE(made.others.back().forward.xy, inCells(own.forward).xy); // as it was estimated
        QCOMPARE(made.others.back().backward.xy, inCells(own.backward).xy);
        const std::size_t withoutThem = own.byteCount();
        QVERIFY(made.byteCount() > withoutThem + withoutThem / 2); // memory counts them
        // Where what goes on tells nothing, there is one motion.
        const Vectors atCut = continueMotion(own, a, b, {gapTo(0, 0, 1), {}}, AnalyseOn::asIs);
        QCOMPARE(atCut.others.size(), std::size_t{4});
        for (const CellVectors& other : atCut.others)
            QCOMPARE(other.backward.xy, inCells(own.backward).xy);
        QVERIFY(continueMotion(own, a, b, {}, AnalyseOn::asIs).others.empty());
    }

    void theirMeanIsNearerTheTrueFrame() {
        const Image a = shot.frame(1);
        const Image b = shot.frame(2);
        const Vectors made = continueMotion(estimateFlow(a, b, {.quality = FlowQuality::thorough}), a, b,
                                            {gapTo(0, 0, 1), gapTo(3, 2, 3)}, AnalyseOn::asIs);
        const Image truth = shot.frame(1.5);
        const auto quality = [&](const Vectors& vectors) {
            return lumaPsnr(warpBetween(a, b, vectors, 0.5).image, truth, 16);
        };
        Vectors first = made;
        first.others.clear();
        Vectors estimated = estimateFlow(a, b, {});
        const double mean = quality(made);
        QVERIFY2(mean > quality(first) + 1 && mean > quality(estimated) + 1,
                 qPrintable(QStringLiteral("%1, the first %2, as estimated %3")
                                .arg(mean)
                                .arg(quality(first))
                                .arg(quality(estimated))));
    }
};

QTEST_APPLESS_MAIN(TestSeveralMotions)
#include "test_several_motions.moc"
