// Motions that regions share, and which of them each cell takes.

#include "core/motion/continued_motion.h"
#include "core/motion/difference_along.h"
#include "core/motion/local_motions.h"
#include "core/motion/region_motion.h"
#include "core/motion/semi_global_choice.h"
#include "core/progress.h"
#include "core/synthesis/mid_motion.h"
#include "core/synthesis/warp.h"
#include "support/drawn_board.h"
#include "support/pictures.h"
#include "support/vector_fields.h"

#include <opencv2/core.hpp>

#include <QTest>

#include <cmath>
#include <functional>
#include <limits>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 240;
constexpr int height = 160;

using MotionAt = std::function<cv::Vec2f(int, int)>;

VectorField fieldOf(const MotionAt& motion) {
    return test::fieldOf(width, height, motion);
}

TrustField trustOf(const std::function<int(int, int)>& trust) {
    TrustField out{width, height, std::vector<std::uint8_t>(std::size_t{width} * height)};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            out.row(y)[x] = static_cast<std::uint8_t>(trust(x, y));
    return out;
}

TrustField fullTrust() {
    return trustOf([](int, int) { return 255; });
}

double apart(const cv::Vec2f& a, const cv::Vec2f& b) {
    return cv::norm(a - b);
}

constexpr int fast = 8;
constexpr int slow = -4;
const DrawnBoard shot{.start = {72, 40, 72, 80}, .fast = fast, .slow = slow};

cv::Rect boardAt(double n) {
    return shot.at(n);
}
Image frame(double n) {
    return shot.frame(n);
}

ThreePictures pictures() {
    return {colouredPicture(frame(1), AnalyseOn::asIs), colouredPicture(frame(2), AnalyseOn::asIs),
            colouredPicture(frame(0), AnalyseOn::asIs)};
}

cv::Vec2f trueMotion(int x, int y) {
    return {static_cast<float>(boardAt(1).contains({x, y}) ? fast : slow), 0};
}

/// Within 10 pixels of the outline of the board.
bool nearOutline(int x, int y) {
    const cv::Rect board = boardAt(1);
    const cv::Rect around(board.x - 10, board.y - 10, board.width + 20, board.height + 20);
    const cv::Rect inside(board.x + 10, board.y + 10, board.width - 20, board.height - 20);
    return around.contains({x, y}) && !inside.contains({x, y});
}

/// As an estimate has it that changes slowly from one motion to the other: a mean, which nothing confirms.
VectorField blurred() {
    return fieldOf([](int x, int y) {
        return nearOutline(x, y) ? cv::Vec2f((fast + slow) / 2.0F, 0) : trueMotion(x, y);
    });
}
TrustField trustInBlurred() {
    return trustOf([](int x, int y) { return nearOutline(x, y) ? 0 : 255; });
}

double rightNearOutline(const VectorField& field) {
    int right = 0;
    int all = 0;
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            if (!nearOutline(x, y)) continue;
            ++all;
            if (apart({field.row(y)[2 * x], field.row(y)[2 * x + 1]}, trueMotion(x, y)) < 0.5) ++right;
        }
    return static_cast<double>(right) / all;
}

/// Numbers that look like chance, 0 to 1.
class Chance {
  public:
    float operator()() {
        state_ = state_ * 1664525U + 1013904223U;
        return static_cast<float>(state_ >> 8U) / static_cast<float>(1U << 24U);
    }

  private:
    unsigned state_ = 7;
};

/// A flat picture of cells.
ColouredPicture flat(int w, int h) {
    return {cv::Mat(h, w, CV_8U, cv::Scalar(100)), {}};
}

/// Cells with two motions, `apart` pixels from each other, of given costs.
CellMotions twoMotions(int w, int h, float apart, const std::function<cv::Vec2f(int, int)>& costs) {
    CellMotions out(w, h);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const std::size_t i =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(w) + static_cast<std::size_t>(x);
            for (int k = 0; k < 2; ++k)
                CellMotions::set(out.cost[i], k, costs(x, y)[k]);
            CellMotions::set(out.x[i], 1, apart);
        }
    return out;
}

} // namespace

class TestRegionMotion : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void differencesAreThoseOfLumaAndColour_data() {
        QTest::addColumn<int>("luma");
        QTest::addColumn<float>("colourPart");
        QTest::addColumn<float>("vx");
        QTest::addColumn<float>("difference");
        QTest::newRow("both") << 110 << 1.0F << 0.0F << 20.0F;
        QTest::newRow("colour counts half") << 110 << 0.5F << 0.0F << 15.0F;
        QTest::newRow("luma is cut off") << 200 << 0.5F << 0.0F << 45.0F;
        QTest::newRow("outside") << 110 << 1.0F << 30.0F << 20.0F;
    }
    void differencesAreThoseOfLumaAndColour() {
        QFETCH(const int, luma);
        QFETCH(const float, colourPart);
        QFETCH(const float, vx);
        QFETCH(const float, difference);
        const auto picture = [](int y, int u, int v) {
            return ColouredPicture{cv::Mat(8, 8, CV_8U, cv::Scalar(y)),
                                   cv::Mat(8, 8, CV_8UC2, cv::Scalar(u, v))};
        };
        const cv::Mat flow(8, 8, CV_32FC2, cv::Scalar(vx, 0));
        const cv::Mat seen =
            differenceAlong(picture(100, 128, 128), picture(luma, 134, 124), flow, {}, 1, colourPart);
        QCOMPARE(seen.at<float>(4, 4), difference);
    }

    void aTileHasTheMotionsAroundIt() {
        const cv::Vec2f left(5, 0);
        const cv::Vec2f right(-2.25F, 3);
        const LocalMotions motions(fieldOf([&](int x, int) { return x < 100 ? left : right; }), fullTrust());
        QCOMPARE(motions.countAt(8, 80), 1); // 40 pixels away there is no other
        QVERIFY(apart(motions.at(0, 8, 80), left) < 0.01);
        // From column 64 on there are 36 columns of one, up to 144 there are 44 of the other.
        QCOMPARE(motions.countAt(104, 80), 2);
        QVERIFY(apart(motions.at(0, 104, 80), right) < 0.01);
        QVERIFY(apart(motions.at(1, 104, 80), left) < 0.01);
    }

    void motionThatChangesEvenlyIsFollowed() {
        // Turns about the middle by 0.02.
        const auto turning = [](int x, int y) {
            return cv::Vec2f(-0.02F * static_cast<float>(y - 80), 0.02F * static_cast<float>(x - 120));
        };
        const LocalMotions motions(fieldOf(turning), fullTrust());
        for (const cv::Point& at : {cv::Point(5, 5), {117, 83}, {200, 20}, {239, 159}})
            QVERIFY2(apart(motions.at(0, at.x, at.y), turning(at.x, at.y)) < 0.15,
                     qPrintable(QString::number(apart(motions.at(0, at.x, at.y), turning(at.x, at.y)))));
    }

    void trustDecidesWhichIsMostCommon() {
        const auto mixed = [](int x, int y) {
            return (x / 3 + y / 3) % 3 == 0 ? cv::Vec2f(7, 1) : cv::Vec2f(0, 0);
        };
        const auto doubtful = [&](int x, int y) { return mixed(x, y)[0] > 0 ? 255 : 20; };
        const LocalMotions even(fieldOf(mixed), fullTrust());
        const LocalMotions judged(fieldOf(mixed), trustOf(doubtful));
        QVERIFY(apart(even.at(0, 120, 80), {0, 0}) < 0.01);
        QVERIFY(apart(judged.at(0, 120, 80), {7, 1}) < 0.01);
        QVERIFY(apart(judged.at(1, 120, 80), {0, 0}) < 0.01);
    }

    void whatIsNoMotionDoesNotCount() {
        constexpr float none = std::numeric_limits<float>::quiet_NaN();
        const LocalMotions motions(
            fieldOf([](int x, int) { return x < 120 ? cv::Vec2f(none, 0) : cv::Vec2f(1e30F, 0); }),
            fullTrust());
        QCOMPARE(motions.countAt(100, 80), 0);
    }

    void aCellAloneFollowsItsNeighbours_data() {
        QTest::addColumn<float>("gain");
        QTest::addColumn<int>("chosen");
        // Changing there and back along a row and along a column costs up to 4 x 24.
        QTest::newRow("for little") << 20.0F << 0;
        QTest::newRow("not for much") << 300.0F << 1;
    }
    void aCellAloneFollowsItsNeighbours() {
        QFETCH(const float, gain);
        QFETCH(const int, chosen);
        const CellMotions motions = twoMotions(9, 9, 20, [&](int x, int y) {
            return x == 4 && y == 4 ? cv::Vec2f(gain, 0) : cv::Vec2f(0, gain);
        });
        const std::vector<std::uint8_t> choice = chooseSemiGlobally(motions, flat(9, 9));
        QCOMPARE(static_cast<int>(choice[4 * 9 + 4]), chosen);
        QCOMPARE(static_cast<int>(choice[0]), 0);
    }

    void motionChangesAtAnOutline_data() {
        QTest::addColumn<int>("outline");
        QTest::newRow("left") << 9;
        QTest::newRow("right") << 14;
    }
    void motionChangesAtAnOutline() {
        QFETCH(const int, outline);
        constexpr int w = 24;
        constexpr int h = 6;
        // Between columns 8 and 15 nothing tells the two apart.
        const CellMotions motions = twoMotions(w, h, 6, [](int x, int) {
            return x < 8 ? cv::Vec2f(0, 20) : x > 15 ? cv::Vec2f(20, 0) : cv::Vec2f(5, 5);
        });
        ColouredPicture picture = flat(w, h);
        picture.luma.colRange(outline, w).setTo(160);
        const std::vector<std::uint8_t> choice = chooseSemiGlobally(motions, picture);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x)
                QCOMPARE(
                    static_cast<int>(choice[static_cast<std::size_t>(y) * w + static_cast<std::size_t>(x)]),
                    x < outline ? 0 : 1);
    }

    void aRowIsChosenByItsCheapestChains() {
        constexpr int n = 6;
        constexpr int kinds = 3;
        Chance chance;
        for (int round = 0; round < 40; ++round) {
            CellMotions motions(n, 1);
            std::array<std::array<float, kinds>, n> cost;
            std::array<std::array<float, kinds>, n> x;
            for (std::size_t i = 0; i < n; ++i)
                for (std::size_t k = 0; k < kinds; ++k) {
                    cost[i][k] = 20 * chance();
                    x[i][k] = 12 * chance();
                    CellMotions::set(motions.cost[i], static_cast<int>(k), cost[i][k]);
                    CellMotions::set(motions.x[i], static_cast<int>(k), x[i][k]);
                }
            const std::vector<std::uint8_t> choice = chooseSemiGlobally(motions, flat(n, 1));
            // The cheapest chain from cell `i` with motion k to cell `end`, all chains tried.
            const std::function<double(std::size_t, std::size_t, std::size_t)> cheapest =
                [&](std::size_t i, std::size_t k, std::size_t end) -> double {
                double rest = 0;
                if (i != end) {
                    rest = 1e9;
                    const std::size_t next = end > i ? i + 1 : i - 1;
                    for (std::size_t m = 0; m < kinds; ++m)
                        rest = std::min(rest, std::min(24.0, 3.0 * std::abs(x[i][k] - x[next][m])) +
                                                  cheapest(next, m, end));
                }
                return cost[i][k] + rest;
            };
            for (std::size_t i = 0; i < n; ++i) {
                const auto sum = [&](std::size_t k) { // a column is one cell, there and back
                    return cheapest(i, k, 0) + cheapest(i, k, n - 1) + 2.0 * cost[i][k];
                };
                const auto chosen = static_cast<std::size_t>(choice[i]);
                for (std::size_t k = 0; k < kinds; ++k)
                    QVERIFY(sum(chosen) <= sum(k) + 1e-3);
            }
        }
    }

    void aMeanOfTwoMotionsBecomesOneOfThem() {
        const VectorField own = blurred();
        const VectorField made = regionMotion({own, trustInBlurred(), own}, pictures()).chosen;
        const double before = rightNearOutline(own);
        const double after = rightNearOutline(made);
        QVERIFY2(before == 0 && after > 0.9, qPrintable(QString::number(after)));
    }

    void whatIsHiddenIsFoundInTheFrameBeyond() {
        // Of the wall, what the board hides in the next frame, away from its corners.
        const cv::Rect board = boardAt(1);
        const cv::Rect hidden(board.br().x, board.y + 12, fast - slow, board.height - 24);
        const auto right = [&](const ThreePictures& seen) {
            const VectorField own = blurred();
            const VectorField made = regionMotion({own, trustInBlurred(), own}, seen).chosen;
            int count = 0;
            for (int y = hidden.y; y < hidden.br().y; ++y)
                for (int x = hidden.x; x < hidden.br().x; ++x)
                    count += apart({made.row(y)[2 * x], made.row(y)[2 * x + 1]}, trueMotion(x, y)) < 0.5;
            return static_cast<double>(count) / hidden.area();
        };
        ThreePictures blind = pictures();
        blind.beyond = {cv::Mat(height, width, CV_8U, cv::Scalar(0)), {}};
        const double with = right(pictures());
        const double without = right(blind);
        QVERIFY2(with > 0.85 && without < 0.5,
                 qPrintable(QStringLiteral("%1, without %2").arg(with).arg(without)));
    }

    void continuedMotionGoesOnToRegions() {
        const VectorField own = blurred();
        const auto beside = std::make_shared<Vectors>();
        beside->forward = beside->backward =
            fieldOf([](int, int) { return cv::Vec2f(90, 90); }); // of no help
        beside->forwardTrust = beside->backwardTrust = trustOf([](int, int) { return 0; });
        const Vectors made = continueMotion({own, own, trustInBlurred(), trustInBlurred()}, frame(1),
                                            frame(2), {{"0", shot.frameAt(0), beside}, {}}, AnalyseOn::asIs);
        const double after = rightNearOutline(made.forward);
        QVERIFY2(after > 0.9, qPrintable(QString::number(after)));
        QCOMPARE(made.backward.xy, own.xy); // no gap after, no frame beyond
    }

    void theFrameThatIsTrustedMoreIsSeenMore() {
        // Both say the same motion, so that coverage is whole: 0.5 (0.4 + 1) to 0.5 (0.4 + 0).
        const VectorField still = fieldOf([](int, int) { return cv::Vec2f(0, 0); });
        const Vectors vectors{still, still, trustOf([](int, int) { return 0; }), fullTrust()};
        const CellPicture cells = cellPicture(frame(0));
        const MidMotion mid = projectMotion(vectors, cells, cells, 0.5);
        QVERIFY(std::abs(mid.row(40)[60].shareB - 1.4F / 1.8F) < 1e-4F);
    }

    void whatFitsIsLeftAsItIs() {
        const VectorField own = fieldOf(trueMotion);
        const VectorField made = regionMotion({own, fullTrust(), own}, pictures()).chosen;
        std::size_t same = 0;
        for (std::size_t i = 0; i < own.xy.size(); ++i)
            same += own.xy[i] == made.xy[i] ? 1U : 0U;
        QVERIFY2(static_cast<double>(same) > 0.995 * static_cast<double>(own.xy.size()),
                 qPrintable(QString::number(same)));
    }

    void theMadeFrameIsNearerTheTrueOne() {
        const Image a = frame(1);
        const Image b = frame(2);
        // Of b, with time turned round.
        const auto behind = [](int x, int y) {
            return nearOutline(x - fast, y) ? cv::Vec2f(-(fast + slow) / 2.0F, 0) : -trueMotion(x - fast, y);
        };
        const VectorField there = blurred();
        const VectorField back = fieldOf(behind);
        const TrustField trustBack = trustOf([](int x, int y) { return nearOutline(x - fast, y) ? 0 : 255; });
        const Vectors own{there, back, trustInBlurred(), trustBack};
        const ThreePictures turned{colouredPicture(b, AnalyseOn::asIs), colouredPicture(a, AnalyseOn::asIs),
                                   colouredPicture(frame(3), AnalyseOn::asIs)};
        const Vectors made{regionMotion({there, own.forwardTrust, there}, pictures()).chosen,
                           regionMotion({back, trustBack, back}, turned).chosen, own.forwardTrust, trustBack};
        const Image truth = frame(1.5);
        const auto error = [&](const Vectors& vectors) {
            const Image image = warpBetween(a, b, vectors, 0.5).image;
            double sum = 0;
            for (int y = 20; y < height - 20; ++y)
                for (int x = 50; x < 180; ++x)
                    sum += std::abs(sampleAt(image, 0, x, y) - sampleAt(truth, 0, x, y));
            return sum / (130 * (height - 40));
        };
        const double before = error(own);
        const double after = error(made);
        QVERIFY2(after < 0.4 * before, qPrintable(QStringLiteral("%1 to %2").arg(before).arg(after)));
    }

    void nothingToSeeChangesNothing() {
        const VectorField own = fieldOf([](int x, int) { return cv::Vec2f(x < 120 ? 3.0F : 6.0F, 0); });
        const VectorField other = fieldOf([](int, int) { return cv::Vec2f(0, 0); });
        const ColouredPicture same{cv::Mat(height, width, CV_8U, cv::Scalar(90)), {}};
        const VectorField made = regionMotion({own, fullTrust(), other}, {same, same, same}).chosen;
        for (int y = 0; y < height; ++y)
            for (int x = 20; x < width - 20; ++x) // nearer to an edge, motion leads outside
                QCOMPARE(made.row(y)[2 * x], own.row(y)[2 * x]);
    }

    void oddSizesWork() {
        for (const cv::Size& size : {cv::Size(17, 16), cv::Size(16, 33), cv::Size(45, 31)}) {
            const auto n = static_cast<std::size_t>(size.area());
            const VectorField own{size.width, size.height, std::vector<float>(2 * n, 1.0F)};
            const TrustField trust{size.width, size.height, std::vector<std::uint8_t>(n, 200)};
            const ColouredPicture grey{cv::Mat(size, CV_8U, cv::Scalar(90)), {}};
            QCOMPARE(regionMotion({own, trust, own}, {grey, grey, grey}).chosen.xy, own.xy);
        }
    }

    void itStopsWhenTold() {
        std::stop_source source;
        source.request_stop();
        const VectorField own = blurred();
        QVERIFY_THROWS_EXCEPTION(Cancelled,
                                 regionMotion({own, trustInBlurred(), own}, pictures(), source.get_token()));
    }
};

QTEST_GUILESS_MAIN(TestRegionMotion)
#include "test_region_motion.moc"
