// The core's inner loops: against plain ones written for the test, and with and without wide instructions.

#include "core/image/sample_types.h"
#include "core/kernel_calls.h"
#include "core/motion/half_floats.h"
#include "core/plain_kernels.h"
#include "support/one_worker.h"

#include <QTest>

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <limits>
#include <random>

using namespace yarngap;

namespace {

constexpr int odd = 1234;

/// Blots of several sizes, moved.
cv::Mat blots(int width, int height, double dx, double dy) {
    cv::Mat out(height, width, CV_8U);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const double u = x - dx;
            const double v = y - dy;
            out.at<std::uint8_t>(y, x) = static_cast<std::uint8_t>(std::lround(
                128 + 50 * std::sin(u * 0.21 + 0.4 * std::sin(v * 0.13)) +
                40 * std::sin(v * 0.17 + u * 0.05) + 20 * std::sin(u * 0.55) * std::sin(v * 0.47)));
        }
    return out;
}

cv::Mat noise(int width, int height, int seed) {
    cv::Mat out(height, width, CV_8U);
    std::mt19937 random(static_cast<unsigned>(seed));
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            out.at<std::uint8_t>(y, x) = static_cast<std::uint8_t>(random() % 256);
    return out;
}

cv::Mat vectorsAbout(int width, int height, float dx, float dy, int seed) {
    cv::Mat out(height, width, CV_32FC2);
    std::mt19937 random(static_cast<unsigned>(seed));
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            out.at<cv::Vec2f>(y, x) = {dx + static_cast<float>(random() % 100) * 0.02F,
                                       dy - static_cast<float>(random() % 100) * 0.02F};
    return out;
}

bool isSame(const cv::Mat& a, const cv::Mat& b) {
    return a.size() == b.size() && a.type() == b.type() && cv::norm(a, b, cv::NORM_INF) == 0;
}

int mirrored(int i, int n) {
    return i < 0 ? -1 - i : i >= n ? 2 * n - 1 - i : i;
}

/// Sum of cut-off differences over the window about (x, y) of what both pictures have when moved by (dx, dy).
int plainCost(const cv::Mat& a, const cv::Mat& b, int x, int y, int dx, int dy) {
    const cv::Rect in(std::max(0, -dx), std::max(0, -dy), a.cols - std::abs(dx), a.rows - std::abs(dy));
    int sum = 0;
    for (int j = -2; j <= 2; ++j)
        for (int i = -2; i <= 2; ++i) {
            const int px = in.x + mirrored(x + i - in.x, in.width);
            const int py = in.y + mirrored(y + j - in.y, in.height);
            sum += std::min(mostCellDifference,
                            std::abs(a.at<std::uint8_t>(py, px) - b.at<std::uint8_t>(py + dy, px + dx)));
        }
    return sum;
}

/// As bestDisplacements() has it of one cell, way there or back.
std::pair<int, int> plainBest(const cv::Mat& a, const cv::Mat& b, int x, int y,
                              const DisplacementReach& reach) {
    std::pair best(std::numeric_limits<int>::max(), 0);
    for (int dy = -reach.y; dy <= reach.y; ++dy)
        for (int dx = -reach.x; dx <= reach.x; ++dx) {
            if (x + dx < 0 || y + dy < 0 || x + dx >= a.cols || y + dy >= a.rows) continue;
            best = std::min(best, std::pair(plainCost(a, b, x, y, dx, dy), reach.numberOf(dx, dy)));
        }
    return best;
}

} // namespace

class TestKernels : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void everyDisplacementIsTried_data() {
        QTest::addColumn<int>("levels");
        QTest::newRow("noise") << 256;
        QTest::newRow("many alike") << 2; // ties are common
    }
    void everyDisplacementIsTried() {
        QFETCH(int, levels);
        constexpr int w = 37;
        constexpr int h = 23;
        cv::Mat a = noise(w, h, 1);
        cv::Mat b = noise(w, h, 2);
        for (cv::Mat* m : {&a, &b})
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x)
                    m->at<std::uint8_t>(y, x) =
                        static_cast<std::uint8_t>(m->at<std::uint8_t>(y, x) * levels / 256 * (256 / levels));
        const DisplacementReach reach{7, 4};
        const DisplacementsBothWays found = bestDisplacements(a, b, reach);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                const auto there = plainBest(a, b, x, y, reach);
                QCOMPARE(found.there.costAt(x, y), there.first);
                QCOMPARE(found.there.placeAt(x, y), there.second);
                const auto back = plainBest(b, a, x, y, reach);
                QCOMPARE(found.back.costAt(x, y), back.first);
                QCOMPARE(found.back.placeAt(x, y), back.second);
            }
    }

    void theGuidedFilterIsThatOfItsFormula() {
        const cv::Mat picture = blots(150, 97, 0, 0);
        cv::Mat plane;
        noise(150, 97, 3).convertTo(plane, CV_32F);
        cv::Mat guide;
        picture.convertTo(guide, CV_64F);
        cv::Mat values;
        plane.convertTo(values, CV_64F);
        const auto box = [](const cv::Mat& m) {
            cv::Mat out;
            cv::boxFilter(m, out, CV_64F, {13, 13}, {-1, -1}, true, cv::BORDER_REFLECT);
            return out;
        };
        const cv::Mat mean = box(guide);
        const cv::Mat slope =
            (box(guide.mul(values)) - mean.mul(box(values))) / (box(guide.mul(guide)) - mean.mul(mean) + 30);
        const cv::Mat truth = box(slope).mul(guide) + box(box(values) - slope.mul(mean));
        cv::Mat made;
        filtered(picture, plane).convertTo(made, CV_64F);
        const double off = cv::norm(made, truth, cv::NORM_INF);
        QVERIFY2(off < 0.01, qPrintable(QString::number(off)));
    }

    void trustIsThatOfItsFormula() {
        constexpr int w = 40;
        constexpr int h = 20;
        const cv::Mat grey(h, w, CV_8U, cv::Scalar(100));
        const cv::Mat lighter(h, w, CV_8U, cv::Scalar(112));
        const cv::Mat there(h, w, CV_32FC2, cv::Scalar(4, -3));
        const cv::Mat back(h, w, CV_32FC2, cv::Scalar(-4, 3.5));
        const TrustBothWays same = trustOf(there, back, grey, lighter);
        // Off by half a pixel, |v| is 5, s is 0.75; brightness is off by half of 24.
        const double e = std::exp(-(0.5 / 0.75) * (0.5 / 0.75)) * std::exp(-0.25);
        QVERIFY(std::abs(same.forward.row(10)[10] - 255 * e) < 1.5);
        QCOMPARE(int{same.forward.row(10)[w - 3]}, 0); // leads outside to the right,
        QCOMPARE(int{same.forward.row(2)[10]}, 0);     // and above
        const TrustBothWays full = trustOf(there, -there, grey, grey);
        QCOMPARE(int{full.forward.row(10)[10]}, 255);
        QCOMPARE(int{full.backward.row(10)[10]}, 255);
    }

    void differencesAreCutOffAndNoneIsTakenFromOutside() {
        constexpr int w = 48;
        constexpr int h = 30;
        const ColouredPicture from{cv::Mat(h, w, CV_8U, cv::Scalar(100)),
                                   cv::Mat(h, w, CV_8UC2, cv::Scalar(120, 90))};
        const ColouredPicture near{cv::Mat(h, w, CV_8U, cv::Scalar(113)),
                                   cv::Mat(h, w, CV_8UC2, cv::Scalar(126, 80))};
        const ColouredPicture far{cv::Mat(h, w, CV_8U, cv::Scalar(200)),
                                  cv::Mat(h, w, CV_8UC2, cv::Scalar(250, 10))};
        const cv::Mat flow(h - 6, w - 14, CV_32FC2,
                           cv::Scalar(10, 0)); // to the left, since its sign is turned round
        const cv::Mat little = difference(from, near, flow);
        QCOMPARE(little.at<float>(10, 20), 13.0F + 0.5F * (6 + 10));
        QCOMPARE(little.at<float>(10, 0), 20.0F); // from 7, it leads to −3
        QCOMPARE(little.at<float>(10, 3), little.at<float>(10, 20));
        const cv::Mat much = difference(from, far, flow);
        QCOMPARE(much.at<float>(10, 20), 80.0F);
        const cv::Mat ofLuma = differenceAlong({from.luma, {}}, near, cv::Mat::zeros(h, w, CV_32FC2));
        QCOMPARE(ofLuma.at<float>(h - 1, w - 1), 13.0F);
    }

    void whatIsNoNumberBecomesAHalfOfZero() {
        QCOMPARE(roundedToHalf(std::numeric_limits<float>::quiet_NaN()), 0.0F);
        QCOMPARE(roundedToHalf(-std::numeric_limits<float>::infinity()), -65504.0F);
        QCOMPARE(roundedToHalf(65519.0F), 65504.0F);
        QVERIFY(!std::signbit(roundedToHalf(-1e-9F)));
    }

    void aPictureAlongAMotionIsTheLibrarys() {
        constexpr int w = 53;
        constexpr int h = 37;
        const cv::Mat grey = noise(w, h, 1);
        cv::Mat colour;
        cv::merge(std::vector{noise(w, h, 2), noise(w, h, 3)}, colour);
        const cv::Rect part(5, 4, 40, 30);
        cv::Mat flow(part.size(), CV_32FC2); // far outside on all sides, and by 32nds of a sample
        std::mt19937 random(7);
        for (int y = 0; y < flow.rows; ++y)
            for (int x = 0; x < flow.cols; ++x)
                flow.at<cv::Vec2f>(y, x) = {static_cast<float>(random() % 4000) / 32 - 60,
                                            static_cast<float>(random() % 3000) / 32 - 45};
        for (const float sign : {1.0F, -1.0F}) {
            cv::Mat map(flow.size(), CV_32FC2);
            for (int y = 0; y < map.rows; ++y)
                for (int x = 0; x < map.cols; ++x)
                    map.at<cv::Vec2f>(y, x) =
                        sign * flow.at<cv::Vec2f>(y, x) +
                        cv::Vec2f(static_cast<float>(part.x + x), static_cast<float>(part.y + y));
            for (const cv::Mat& picture : {grey, colour}) {
                cv::Mat theirs;
                cv::remap(picture, theirs, map, {}, cv::INTER_LINEAR, cv::BORDER_REPLICATE);
                QVERIFY(isSame(pictureAlong(picture, flow, part.tl(), sign), theirs));
            }
        }
    }

    void rowsOfValuesAreRoundedAsOneIs() {
        std::vector<float> values;
        for (int i = -40; i < 2100; ++i)
            values.push_back(static_cast<float>(i) * 0.125F); // below 0, halves, above what eight bits hold
        std::vector<std::uint8_t> bytes(values.size());
        putSamples(values.data(), values.size(), 255, bytes.data());
        std::vector<std::uint16_t> words(values.size());
        putSamples(values.data(), values.size(), 200, words.data());
        std::vector<float> floats(values.size());
        putSamples(values.data(), values.size(), 255, floats.data());
        QVERIFY(floats == values);
        for (std::size_t i = 0; i < values.size(); ++i) {
            QCOMPARE(int(bytes[i]), int(sampleOf<std::uint8_t>(values[i], 255)));
            QCOMPARE(int(words[i]), int(sampleOf<std::uint16_t>(values[i], 200)));
        }
        QCOMPARE(int(bytes[0]), 0);
        QCOMPARE(int(bytes[40 + 8 * 7 + 4]), 8); // 7.5
        QCOMPARE(int(bytes.back()), 255);
        QCOMPARE(int(words.back()), 200);
    }

    void aThinPictureAlongAMotionIsItsOwnEdge() {
        const cv::Mat one(1, 1, CV_8U, cv::Scalar(77));
        const cv::Mat flow = vectorsAbout(9, 5, -3, 2, 5);
        const cv::Mat moved = pictureAlong(one, flow, {}, 1);
        QVERIFY(isSame(moved, cv::Mat(5, 9, CV_8U, cv::Scalar(77))));
        const cv::Mat line = noise(1, 8, 3);
        cv::Mat still(8, 1, CV_32FC2, cv::Scalar(0, 0));
        QVERIFY(isSame(pictureAlong(line, still, {}, 1), line));
    }

    void wideInstructionsGiveTheSameBits() {
        constexpr int w = 331; // no multiple of anything
        constexpr int h = 187;
        const cv::Mat a = blots(w, h, 0, 0);
        const cv::Mat b = blots(w, h, 5.3, -2.7);
        const cv::Mat flow = search(a, b);
        QVERIFY(isSame(flow, plain_kernels::search(a, b)));
        const cv::Mat forward = vectorsAbout(w, h, 5, -3, odd);
        const cv::Mat backward = vectorsAbout(w, h, -6, 4, odd + 1);
        QVERIFY(trust(forward, backward, a, b) == plain_kernels::trust(forward, backward, a, b));
        QVERIFY(displacements(a, b, 11, 6) == plain_kernels::displacements(a, b, 11, 6));
        cv::Mat colourA;
        cv::Mat colourB;
        cv::merge(std::vector{noise(w, h, 5), noise(w, h, 6)}, colourA);
        cv::merge(std::vector{noise(w, h, 7), noise(w, h, 8)}, colourB);
        const cv::Mat inside = forward(cv::Rect(0, 0, w - 20, h - 9)).clone();
        QVERIFY(isSame(difference({a, colourA}, {b, colourB}, inside),
                       plain_kernels::difference(a, colourA, b, colourB, inside)));
        cv::Mat plane;
        noise(w, h, 4).convertTo(plane, CV_32F);
        QVERIFY(isSame(filtered(a, plane), plain_kernels::filtered(a, plane)));
        const cv::Mat cells = vectorsAbout((w + 1) / 2, (h + 1) / 2, 2.5F, -1.5F, odd + 2);
        QVERIFY(moved(a, b, cells, 0.3F) == plain_kernels::moved(a, b, cells, 0.3F));
        const std::array planes{noise(w, 6 * h, 9), noise(w, 6 * h, 10), noise(w, 6 * h, 11)};
        const std::vector<std::uint8_t> chosen = choice(planes[0], planes[1], planes[2], a);
        QVERIFY(chosen == plain_kernels::choice(planes[0], planes[1], planes[2], a));
        QVERIFY(*std::max_element(chosen.begin(), chosen.end()) == 5);
        // And they find what moved.
        const cv::Scalar mean = cv::mean(flow(cv::Rect(60, 60, w - 120, h - 120)));
        QVERIFY2(std::abs(mean[0] - 5.3) < 0.2 && std::abs(mean[1] + 2.7) < 0.2,
                 qPrintable(QString::number(mean[0])));
    }
};

QTEST_APPLESS_MAIN(TestKernels)
#include "test_kernels.moc"
