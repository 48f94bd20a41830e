// Cells beside others that move otherwise: what meets there is kept apart.

#include "core/synthesis/plane_cells.h"
#include "core/synthesis/uneven_cells.h"
#include "core/synthesis/warp.h"
#include "support/drawn_board.h"
#include "support/pictures.h"

#include <QTest>

#include <algorithm>
#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 12;
constexpr int height = 8;

/// What is left of column `edge` moves by `fast` cells, the rest stands still.
MidMotion halves(float fast, int edge = 6) {
    MidMotion mid{width, height, std::vector<MidCell>(std::size_t{width} * height), {}};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < edge; ++x)
            mid.row(y)[x].vx = fast;
    return mid;
}

std::vector<float> sharesOf(float left, float right, int edge = 6) {
    std::vector<float> shares(std::size_t{width} * height, right);
    for (int y = 0; y < height; ++y)
        std::fill_n(shares.begin() + std::ptrdiff_t{y} * width, edge, left);
    return shares;
}

std::size_t placeOf(int x, int y) {
    return static_cast<std::size_t>(y) * width + static_cast<std::size_t>(x);
}
float at(const std::vector<float>& plane, int x, int y) {
    return plane[placeOf(x, y)];
}

/// Vectors as they truly are of frames 0 and 1 of a board before a wall; what is hidden has no trust.
Vectors trueVectors(const DrawnBoard& shot) {
    const std::size_t n = static_cast<std::size_t>(shot.width) * static_cast<std::size_t>(shot.height);
    const auto side = [&](const cv::Rect& board, const cv::Rect& other, int sign, VectorField& field,
                          TrustField& trust) {
        field = {shot.width, shot.height, std::vector<float>(2 * n)};
        trust = {shot.width, shot.height, std::vector<std::uint8_t>(n, 255)};
        for (int y = 0; y < shot.height; ++y)
            for (int x = 0; x < shot.width; ++x) {
                const bool isBoard = board.contains({x, y});
                const int v = sign * (isBoard ? shot.fast : shot.slow);
                field.row(y)[2 * x] = static_cast<float>(v);
                if (!isBoard && other.contains({x + v, y})) trust.row(y)[x] = 0;
            }
    };
    Vectors out;
    side(shot.at(0), shot.at(1), 1, out.forward, out.forwardTrust);
    side(shot.at(1), shot.at(0), -1, out.backward, out.backwardTrust);
    return out;
}

} // namespace

class TestUnevenCells : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void seamsLieWhereMotionDiffersByTwoPixels() {
        MidMotion apart = halves(1.1F);
        markSeams(apart);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                QCOMPARE(int{apart.seams[placeOf(x, y)]}, x == 5 ? int{MidMotion::seamAfter} : 0);
        MidMotion turned = halves(0);
        for (int x = 0; x < width; ++x)
            turned.row(2)[x].vy = -3;
        markSeams(turned);
        QCOMPARE(int{turned.seams[width + 4]}, int{MidMotion::seamBelow});
        QCOMPARE(int{turned.seams[2 * width + 4]}, int{MidMotion::seamBelow});
        QCOMPARE(int{turned.seams[3 * width + 4]}, 0);
        MidMotion alike = halves(0.9F);
        markSeams(alike);
        QVERIFY(std::all_of(alike.seams.begin(), alike.seams.end(), [](int seam) { return seam == 0; }));
    }

    void sharesAreNotMixedAcrossSeams() {
        MidMotion apart = halves(8);
        markSeams(apart);
        std::vector<float> shares = sharesOf(0, 1);
        softenShares(shares, apart);
        QVERIFY(std::abs(at(shares, 5, 3) - 0.3F / 6.3F) < 1e-6F); // what one side alone sees hardly changes
        QVERIFY(std::abs(at(shares, 6, 3) - 6 / 6.3F) < 1e-6F);
        QCOMPARE(at(shares, 4, 3), 0.0F);
        MidMotion alike = halves(0.5F);
        markSeams(alike);
        shares = sharesOf(0, 1);
        softenShares(shares, alike);
        QVERIFY(std::abs(at(shares, 5, 3) - 1 / 3.0F) < 1e-6F); // no hard change from one side to the other
        QVERIFY(std::abs(at(shares, 6, 3) - 2 / 3.0F) < 1e-6F);
        QCOMPARE(at(shares, 2, 3), 0.0F);
    }

    void acrossACornerHardlyAnythingIsMixedEither() {
        MidMotion mid = halves(0);
        std::vector<float> shares = sharesOf(0, 0);
        for (int y = 4; y < height; ++y)
            for (int x = 6; x < width; ++x) {
                mid.row(y)[x].vx = 5;
                shares[placeOf(x, y)] = 1;
            }
        markSeams(mid);
        softenShares(shares, mid);
        QVERIFY(std::abs(at(shares, 5, 3) - 0.1F / 8.1F) < 1e-6F); // it touches the other only at its corner
        QVERIFY(std::abs(at(shares, 6, 4) - 4 / 4.5F) < 1e-6F);
    }

    void aLoneCellJoinsThoseBesideIt() {
        MidMotion mid = halves(0);
        mid.row(3)[4] = {9, -4, 0, 0};
        std::vector<float> shares = sharesOf(0.25F, 0.75F, 4);
        shares[3 * width + 4] = 1;
        markSeams(mid);
        joinLoneCells(mid, shares);
        QCOMPARE(mid.row(3)[4].vx, 0.0F);
        QCOMPARE(mid.row(3)[4].vy, 0.0F);
        QCOMPARE(at(shares, 4, 3), 0.5F); // between those on either side
        QVERIFY(std::all_of(mid.seams.begin(), mid.seams.end(), [](int seam) { return seam == 0; }));
    }

    void whatIsNotAloneStays() {
        MidMotion mid = halves(0);
        for (int y = 0; y < height; ++y)
            mid.row(y)[7].vx = 9; // a thin thing, a cell wide
        for (const int x : {2, 3})
            mid.row(5)[x].vx = -6; // a small one
        const MidMotion was = mid;
        std::vector<float> shares = sharesOf(0, 1);
        markSeams(mid);
        joinLoneCells(mid, shares);
        for (int y = 1; y + 1 < height; ++y)
            QCOMPARE(mid.row(y)[7].vx, was.row(y)[7].vx);
        QCOMPARE(shares, sharesOf(0, 1));
    }

    void tooSmallForNeighboursIsNoTrouble() {
        for (const auto& [w, h] : {std::pair(1, 1), std::pair(1, 5), std::pair(5, 1), std::pair(2, 2)}) {
            const std::size_t n = static_cast<std::size_t>(w) * static_cast<std::size_t>(h);
            MidMotion mid{w, h, std::vector<MidCell>(n), {}};
            mid.cells.back().vx = 7;
            std::vector<float> shares(n, 0.5F);
            markSeams(mid);
            joinLoneCells(mid, shares);
            softenShares(shares, mid);
            QCOMPARE(shares, std::vector<float>(n, 0.5F));
        }
    }

    void noSampleMovesByAMeanOfTwoMotions() {
        const Image like(2 * width, 2 * height, {.model = ColourModel::grey, .depth = 8});
        MidMotion mid = halves(8);
        for (int x = 0; x < width; ++x)
            for (int y = 5; y < height; ++y)
                mid.row(y)[x].vx = -8;
        const auto motions = [&](const MidMotion& of) {
            std::vector<float> seen;
            std::vector<MidCell> line;
            const PlaneCells cells(of, like, 0);
            for (int y = 0; y < like.height(); ++y) {
                cells.row(y, line);
                for (const MidCell& cell : line)
                    seen.push_back(cell.vx);
            }
            return seen;
        };
        const std::vector<float> smooth = motions(mid);
        QVERIFY(std::count(smooth.begin(), smooth.end(), 12.0F) > 0); // without seams, a quarter of the way
        markSeams(mid);
        for (const float v : motions(mid))
            QVERIFY2(v == 16 || v == 0 || v == -16, qPrintable(QString::number(static_cast<double>(v))));
        MidMotion slow = halves(0.8F); // what differs less still changes smoothly
        markSeams(slow);
        const std::vector<float> between = motions(slow);
        QVERIFY(std::any_of(between.begin(), between.end(), [](float v) { return v > 0.1F && v < 1.5F; }));
    }

    void chromaHasItsCellsAsTheyAre() {
        // Of 4:2:0 each sample lies on a cell, which no seam and no neighbour changes. Its samples are as far
        // apart as cells.
        MidMotion mid = halves(8);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                mid.row(y)[x] = {static_cast<float>(x % 5) * 3.7F, static_cast<float>(y) * -1.3F,
                                 static_cast<float>(x % 3) * 0.3F, static_cast<float>(y % 2)};
        markSeams(mid);
        QVERIFY(std::any_of(mid.seams.begin(), mid.seams.end(), [](int seam) { return seam != 0; }));
        const Image like(2 * width, 2 * height, {.chromaShiftX = 1, .chromaShiftY = 1});
        std::vector<MidCell> line;
        for (const int p : {1, 2}) {
            const PlaneCells cells(mid, like, p);
            for (int y = 0; y < height; ++y) {
                cells.row(y, line);
                QCOMPARE(line.size(), static_cast<std::size_t>(width));
                for (int x = 0; x < width; ++x) {
                    const MidCell& is = line[static_cast<std::size_t>(x)];
                    const MidCell& was = mid.row(y)[x];
                    QVERIFY(is.vx == was.vx && is.vy == was.vy && is.shareB == was.shareB &&
                            is.instead == was.instead);
                }
            }
        }
    }

    void nothingOfTheBoardIsLeftOnTheWall() {
        const DrawnBoard shot{.start = {60, 40, 70, 80}, .fast = 24, .slow = -2};
        const Image made =
            warpBetween(shot.frame(0), shot.frame(1), trueVectors(shot), 0.5, SynthesisOptions{}).image;
        const Image truth = shot.frame(0.5);
        const cv::Rect board = shot.at(0.5);
        // The wall directly beside the board, which one frame hides.
        double sum = 0;
        int count = 0;
        for (int y = board.y + 4; y < board.br().y - 4; ++y)
            for (const int x : {board.x - 2, board.x - 1, board.br().x, board.br().x + 1}) {
                sum += std::abs(sampleAt(made, 0, x, y) - sampleAt(truth, 0, x, y));
                ++count;
            }
        QVERIFY2(sum / count < 4, qPrintable(QString::number(sum / count)));
    }
};

QTEST_APPLESS_MAIN(TestUnevenCells)
#include "test_uneven_cells.moc"
