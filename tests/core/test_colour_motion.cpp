// Motion that colour tells and brightness does not.

#include "core/motion/analysis_picture.h"
#include "core/motion/flow_estimator.h"
#include "core/motion/motion_choice.h"
#include "core/synthesis/cell_picture.h"
#include "core/synthesis/mid_motion.h"
#include "support/flow_by_pixels.h"
#include "support/pictures.h"

#include <opencv2/core.hpp>

#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 192;
constexpr int height = 128;
constexpr int step = 6; // pixels to the right, of all colour

constexpr PixelLayout yuv420{.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1};

/// Of blueness (1) or redness (2), about none, in pixels.
double tint(int plane, double x, double y) {
    const double turn = plane == 1 ? 0.0 : 1.3;
    return 30 * std::sin(x * 0.17 + turn + 0.5 * std::sin(y * 0.09)) + 24 * std::sin(y * 0.19 + x * 0.06);
}

/// As bright everywhere; colours lie `moved` pixels to the right.
Image evenlyBright(double moved, const PixelLayout& layout = yuv420) {
    const double most = layout.maxValue();
    return pictureOf(width, height, layout, [=](int p, int x, int y) {
        if (p == 0) return std::round(most / 2);
        return most / 255 * (128 + tint(p, (x << layout.chromaShiftX) - moved, y << layout.chromaShiftY));
    });
}

VectorField evenField(float x) {
    VectorField field{width, height, std::vector<float>(std::size_t{2} * width * height)};
    for (std::size_t i = 0; i < field.xy.size(); i += 2)
        field.xy[i] = x;
    return field;
}

/// Forward vectors (ahead, 0) and backward ones (back, 0), all sure of themselves.
Vectors evenVectors(float ahead, float back) {
    const TrustField sure{width, height, std::vector<std::uint8_t>(std::size_t{width} * height, 255)};
    return {evenField(ahead), evenField(back), sure, sure};
}

/// Mean length of what vectors are off by, in pixels, inside a margin.
double errorOf(const VectorField& field, double x) {
    constexpr int margin = 24;
    double sum = 0;
    double n = 0;
    for (int y = margin; y < height - margin; ++y)
        for (int i = margin; i < width - margin; ++i) {
            sum += std::hypot(field.row(y)[2 * i] - x, field.row(y)[2 * i + 1]);
            n += 1;
        }
    return sum / n;
}

} // namespace

class TestColourMotion : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void thoroughFollowsColour() {
        const Image a = evenlyBright(0);
        const Image b = evenlyBright(step);
        const Vectors thorough = flowByPixels(a, b, {.quality = FlowQuality::thorough});
        QVERIFY2(errorOf(thorough.forward, step) < 0.5,
                 qPrintable(QString::number(errorOf(thorough.forward, step))));
        QVERIFY2(errorOf(thorough.backward, -step) < 0.5,
                 qPrintable(QString::number(errorOf(thorough.backward, -step))));
        // Brightness knows nothing of it, so it is colour that told.
        QVERIFY(errorOf(flowByPixels(a, b, {}).forward, step) > 0.9 * step);
    }

    void edgesLeaveColourAside() {
        const FlowOptions options{.quality = FlowQuality::thorough, .analyseOn = AnalyseOn::edges};
        QVERIFY(errorOf(flowByPixels(evenlyBright(0), evenlyBright(step), options).forward, step) >
                0.9 * step);
    }

    void colourChoosesBetweenMotions() {
        const ColouredPicture a = colouredPicture(evenlyBright(0), AnalyseOn::asIs);
        const ColouredPicture b = colouredPicture(evenlyBright(step), AnalyseOn::asIs);
        const cv::Mat still(height, width, CV_32FC2, cv::Scalar(0, 0));
        const cv::Mat right(height, width, CV_32FC2, cv::Scalar(step, 0));
        const auto middle = [](const cv::Mat& flow) {
            return cv::mean(flow(cv::Rect(24, 24, width - 48, height - 48)))[0];
        };
        QCOMPARE(middle(chooseMotion(a, b, {{still, 0}, {right, 0}})), double{step});
        // Without it both fit, and the first is taken.
        QCOMPARE(middle(chooseMotion({a.luma}, {b.luma}, {{still, 0}, {right, 0}})), 0.0);
        // The other way in time as well.
        const ColouredPicture beyond = colouredPicture(evenlyBright(-step), AnalyseOn::asIs);
        const ColouredPicture unlike{b.luma, cv::Mat(b.colour.size(), CV_8UC2, cv::Scalar(0, 0))};
        QCOMPARE(middle(chooseMotion(a, unlike, {{still, 0}, {right, 0}}, {}, {}, {beyond, 0})),
                 double{step});
    }

    void colourIsTheSameReadByItself() {
        const auto isSame = [](const cv::Mat& a, const cv::Mat& b) {
            return a.size() == b.size() && a.type() == b.type() &&
                   (a.empty() || cv::norm(a, b, cv::NORM_INF) == 0);
        };
        const auto value = [](int p, int x, int y) { return 60.0 + 20 * p + x % 7 + y % 5; };
        constexpr PixelLayout rgb{.model = ColourModel::rgb, .depth = 8};
        constexpr PixelLayout grey{.model = ColourModel::grey, .depth = 8};
        for (const Image& image : {evenlyBright(step), pictureOf(width, height, rgb, value)}) {
            const cv::Mat colour = analysisColour(image, AnalyseOn::asIs);
            QCOMPARE(colour.size(), cv::Size(width, height));
            QVERIFY(isSame(colour, colouredPicture(image, AnalyseOn::asIs).colour));
            QVERIFY(analysisColour(image, AnalyseOn::edges).empty());
        }
        QVERIFY(analysisColour(pictureOf(width, height, grey, value), AnalyseOn::asIs).empty());
    }

    void aChangeOfTintHidesNoMotion() {
        const auto shot = [](double moved, double tinted) {
            return colouredPicture(pictureOf(width, height, yuv420,
                                             [=](int p, int x, int y) {
                                                 return p == 0 ? 128 + tint(1, x - moved, y) : 110 + tinted;
                                             }),
                                   AnalyseOn::asIs);
        };
        const cv::Mat still(height, width, CV_32FC2, cv::Scalar(0, 0));
        const cv::Mat right(height, width, CV_32FC2, cv::Scalar(step, 0));
        const cv::Mat chosen = chooseMotion(shot(0, 0), shot(step, 30), {{still, 0}, {right, 0}});
        QVERIFY(cv::mean(chosen(cv::Rect(24, 24, width - 48, height - 48)))[0] > 0.98 * step);
    }

    void betweenFramesTheMotionThatColourFitsWins() {
        const CellPicture a = cellPicture(evenlyBright(0));
        const CellPicture b = cellPicture(evenlyBright(step));
        // Either side alone is right.
        for (const Vectors& vectors : {evenVectors(step, step), evenVectors(-step, -step)}) {
            const MidMotion mid = projectMotion(vectors, a, b, 0.5);
            for (int y = 12; y < mid.height - 12; ++y)
                for (int x = 12; x < mid.width - 12; ++x)
                    QCOMPARE(mid.row(y)[x].vx, 0.5F * step); // in cells
        }
    }

    void contrastAddsTheColourThatVariesMost() {
        // Blueness alone varies, evenly between 100 and 160.
        const Image image = pictureOf(64, 64, {.depth = 8}, [](int p, int x, int) {
            return p == 0 ? 90 : p == 1 ? (x % 16 < 8 ? 100 : 160) : 128;
        });
        const ColouredPicture picture = colouredPicture(image, AnalyseOn::asIs);
        const std::array<cv::Mat, 2> contrasted = contrastedByColour(picture, picture);
        for (const cv::Mat& one : contrasted) {
            QCOMPARE(one.size(), picture.luma.size());
            QCOMPARE(static_cast<int>(one.at<std::uint8_t>(5, 3)), 90 - 42); // 1.4 times 30
            QCOMPARE(static_cast<int>(one.at<std::uint8_t>(5, 11)), 90 + 42);
        }
    }

    void contrastIsNoneWithoutColour() {
        const auto none = [](const Image& image, AnalyseOn on = AnalyseOn::asIs) {
            const ColouredPicture picture = colouredPicture(image, on);
            return contrastedByColour(picture, picture)[0].empty();
        };
        const auto ramp = [](int p, int x, int) { return p == 0 ? 2 * x : 127 + x % 3; };
        QVERIFY(none(pictureOf(64, 64, {.model = ColourModel::grey, .depth = 8}, ramp)));
        QVERIFY(none(pictureOf(64, 64, {.depth = 8}, ramp)));
        QVERIFY(none(evenlyBright(0), AnalyseOn::edges));
        QVERIFY(!none(evenlyBright(0)));
    }

    void colourIsReadOfEveryLayout_data() {
        QTest::addColumn<int>("depth");
        QTest::addColumn<int>("shiftX");
        QTest::addColumn<int>("shiftY");
        QTest::newRow("4:4:4") << 8 << 0 << 0;
        QTest::newRow("4:2:2, 10 bit") << 10 << 1 << 0;
        QTest::newRow("4:2:0") << 8 << 1 << 1;
        QTest::newRow("4:2:0, 16 bit") << 16 << 1 << 1;
        QTest::newRow("4:1:1") << 8 << 2 << 0;
        QTest::newRow("4:1:0") << 8 << 2 << 2;
    }
    /// Colours that rise by a step every two cells come out so, of odd pictures too.
    void colourIsReadOfEveryLayout() {
        QFETCH(int, depth);
        QFETCH(int, shiftX);
        QFETCH(int, shiftY);
        const PixelLayout layout{.depth = depth, .chromaShiftX = shiftX, .chromaShiftY = shiftY};
        const int unit = 1 << (depth - 8);
        const Image image = pictureOf(31, 21, layout, [=](int p, int x, int y) {
            return unit * (p == 0 ? 50 : p == 1 ? 100 + (x << shiftX) / 4 : 150 - (y << shiftY) / 4);
        });
        const CellPicture cells = cellPicture(image);
        QCOMPARE(cells.width, 16);
        QCOMPARE(cells.height, 11);
        QVERIFY(cells.hasColour());
        for (int y = 0; y < cells.height; ++y)
            for (int x = 0; x < cells.width; ++x) {
                const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(cells.width) +
                               static_cast<std::size_t>(x);
                QVERIFY(std::abs(cells.luma[i] - 50.0F / 255) < 0.002F);
                QVERIFY(std::abs(cells.colour[0][i] - (100 + x / 2)) <= (depth == 8 ? 0 : 1));
                QVERIFY(std::abs(cells.colour[1][i] - (150 - y / 2)) <= (depth == 8 ? 0 : 1));
            }
    }

    void colourOfRgbIsAgainstGreen() {
        const Image image = pictureOf(6, 4, {.model = ColourModel::rgb, .depth = 8}, [](int p, int, int) {
            return p == 0 ? 100 : p == 1 ? 200 : 40;
        });
        const CellPicture cells = cellPicture(image); // planes G B R
        QCOMPARE(static_cast<int>(cells.colour[0][0]), 178);
        QCOMPARE(static_cast<int>(cells.colour[1][5]), 98);
        const cv::Vec2b large = colouredPicture(image, AnalyseOn::asIs).colour.at<cv::Vec2b>(3, 5);
        QCOMPARE(static_cast<int>(large[0]), 178);
        QCOMPARE(static_cast<int>(large[1]), 98);
        QVERIFY(!cellPicture(pictureOf(6, 4, {.model = ColourModel::grey, .depth = 8}, [](int, int, int) {
                     return 9;
                 })).hasColour());
    }
};

QTEST_GUILESS_MAIN(TestColourMotion)
#include "test_colour_motion.moc"
