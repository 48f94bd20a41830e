// Estimated motion against known motion, and what its settings do.

#include "core/motion/dominant_motion.h"
#include "core/motion/flow_estimator.h"
#include "support/drawn_board.h"
#include "support/flow_by_pixels.h"
#include "support/pictures.h"

#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr PixelLayout grey8{.model = ColourModel::grey, .depth = 8};
constexpr int width = 240;
constexpr int height = 160;

/// Texture turned by `degrees` and enlarged about the middle.
Image turned(double degrees, double scale = 1) {
    const double c = std::cos(degrees * M_PI / 180) / scale;
    const double s = std::sin(degrees * M_PI / 180) / scale;
    return pictureOf(width, height, grey8, [=](int, int x, int y) {
        const double dx = x - width / 2.0;
        const double dy = y - height / 2.0;
        return texture(c * dx + s * dy + 500, -s * dx + c * dy + 500);
    });
}

Image moved(double dx, double dy, double gain = 1) {
    return pictureOf(width, height, grey8, [=](int, int x, int y) { return gain * texture(x - dx, y - dy); });
}

/// Mean distance of the forward vectors from what `expected(x, y)` gives, away from the edges.
double errorOf(const Vectors& v, const std::function<std::pair<double, double>(int, int)>& expected) {
    double sum = 0;
    double n = 0;
    for (int y = 24; y < height - 24; ++y)
        for (int x = 24; x < width - 24; ++x, ++n) {
            const auto [ex, ey] = expected(x, y);
            sum += std::hypot(v.forward.row(y)[2 * x] - ex, v.forward.row(y)[2 * x + 1] - ey);
        }
    return sum / n;
}

/// How much neighbouring vectors differ, on average.
double roughness(const VectorField& field) {
    double sum = 0;
    for (int y = 1; y < field.height; ++y)
        for (int x = 2; x < 2 * field.width; ++x)
            sum += std::abs(field.row(y)[x] - field.row(y)[x - 2]) +
                   std::abs(field.row(y)[x] - field.row(y - 1)[x]);
    return sum;
}

} // namespace

class TestMotion : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void rotationIsFound_data() {
        QTest::addColumn<int>("quality");
        QTest::addColumn<double>("bound");
        QTest::newRow("draft") << static_cast<int>(FlowQuality::draft) << 0.8;
        QTest::newRow("standard") << static_cast<int>(FlowQuality::standard) << 0.2;
        QTest::newRow("thorough") << static_cast<int>(FlowQuality::thorough) << 0.2;
    }
    void rotationIsFound() {
        QFETCH(int, quality);
        QFETCH(double, bound);
        const double angle = 3 * M_PI / 180;
        const Vectors v = flowByPixels(turned(0), turned(3), {.quality = static_cast<FlowQuality>(quality)});
        const double error = errorOf(v, [&](int x, int y) {
            const double dx = x - width / 2.0;
            const double dy = y - height / 2.0;
            return std::pair(std::cos(angle) * dx - std::sin(angle) * dy - dx,
                             std::sin(angle) * dx + std::cos(angle) * dy - dy);
        });
        QVERIFY2(error < bound, qPrintable(QString::number(error)));
    }

    void stiffVectorsAreSmootherThanLooseOnes() {
        // Cloth: a wave that runs through the texture.
        const auto cloth = [](double t) {
            return pictureOf(width, height, grey8,
                             [=](int, int x, int y) { return texture(x + 4 * t * std::sin(y * 0.3), y); });
        };
        const auto at = [&](int stiffness) {
            return flowByPixels(cloth(0), cloth(1), {.stiffness = stiffness});
        };
        const double loose = roughness(at(0).forward);
        const double middle = roughness(at(40).forward);
        const double stiff = roughness(at(100).forward);
        QVERIFY2(stiff < 0.8 * middle && middle < loose,
                 qPrintable(QStringLiteral("%1 %2 %3").arg(loose).arg(middle).arg(stiff)));
    }

    void aStiffGroundDoesNotFollowTheSubject() {
        // A still ground that is flat beside a moving square: its vectors there come from nothing but
        // smoothness.
        const auto scene = [](double left) {
            return pictureOf(width, height, grey8, [=](int, int x, int y) {
                if (x >= left && x < left + 50 && y >= 50 && y < 110)
                    return 70 + 0.3 * texture((x - left) * 3, y * 3);
                return y < 40 || y > 120 ? texture(x, y) : 128;
            });
        };
        const auto swims = [&](int stiffness) {
            const Vectors v = flowByPixels(scene(80), scene(92), {.stiffness = stiffness});
            double sum = 0;
            for (int y = 60; y < 100; ++y)
                for (int x = 50; x < 72; ++x)
                    sum += std::abs(v.forward.row(y)[2 * x]);
            return sum / (40 * 22);
        };
        const double loose = swims(40);
        const double stiff = swims(90);
        QVERIFY2(stiff < 0.1 && stiff < 0.5 * loose,
                 qPrintable(QStringLiteral("%1 %2").arg(loose).arg(stiff)));
    }

    void aSmallThingIsFoundFarAway() {
        // A square of 32 goes 72 to the right and 12 down before still ground: farther than it is wide.
        const auto size = 32;
        const auto scene = [](int left, int top) {
            return pictureOf(480, 320, grey8, [=](int, int x, int y) {
                const bool inside = x >= left && x < left + size && y >= top && y < top + size;
                return inside ? 255 - texture(2 * (x - left), 2 * (y - top)) : texture(x, y);
            });
        };
        const Image a = scene(150, 120);
        const Image b = scene(222, 132);
        const Vectors v = flowByPixels(a, b, {});
        const Vectors mirrored = flowByPixels(b, a, {});
        int found = 0;
        int back = 0;
        int still = 0;
        for (int y = 4; y < size - 4; ++y)
            for (int x = 4; x < size - 4; ++x) {
                const float* there = v.forward.row(120 + y) + 2 * std::size_t(150 + x);
                const float* home = v.backward.row(132 + y) + 2 * std::size_t(222 + x);
                const float* ground = v.forward.row(20 + y) + 2 * std::size_t(20 + x);
                found += std::hypot(there[0] - 72, there[1] - 12) < 0.5;
                back += std::hypot(home[0] + 72, home[1] + 12) < 0.5;
                still += std::hypot(ground[0], ground[1]) < 0.1;
            }
        const int all = (size - 8) * (size - 8);
        QVERIFY2(found > 0.95 * all && back > 0.95 * all && still == all,
                 qPrintable(QStringLiteral("%1 %2 %3 of %4").arg(found).arg(back).arg(still).arg(all)));
        // The same either way round, and nothing of it in the quick look.
        QCOMPARE(mirrored.backward.xy, v.forward.xy);
        QCOMPARE(mirrored.forward.xy, v.backward.xy);
        const Vectors quick = flowByPixels(a, b, {.quality = FlowQuality::draft});
        QVERIFY(std::abs(quick.forward.row(136)[2 * 166] - 72) > 20);
    }

    void edgesSeeThroughFlicker() {
        // The light falls to 70 % within the gap while everything moves by 5.
        const Image a = moved(0, 0);
        const Image b = moved(5, 2, 0.7);
        const auto straight = [](int, int) { return std::pair(5.0, 2.0); };
        const double picture = errorOf(flowByPixels(a, b, {}), straight);
        const double edges = errorOf(flowByPixels(a, b, {.analyseOn = AnalyseOn::edges}), straight);
        const double contrast = errorOf(flowByPixels(a, b, {.analyseOn = AnalyseOn::contrast}), straight);
        const QString all =
            QStringLiteral("picture %1, edges %2, contrast %3").arg(picture).arg(edges).arg(contrast);
        QVERIFY2(edges < picture, qPrintable(all));
        QVERIFY2(edges < 0.5, qPrintable(all));
        QVERIFY2(contrast != picture, qPrintable(all));
    }

    void theCamerasMotionIsFoundBehindASubject() {
        // Ground enlarged by 2 % about the middle; a third of the picture moves otherwise.
        const cv::Size size(width, height);
        cv::Mat flow(size, CV_32FC2);
        cv::Mat back(size, CV_32FC2);
        cv::Mat picture(size, CV_8U);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const bool subject = x < width / 3;
                const cv::Vec2f v = subject ? cv::Vec2f(14, -3)
                                            : cv::Vec2f(0.02F * (static_cast<float>(x) - width / 2.0F),
                                                        0.02F * (static_cast<float>(y) - height / 2.0F));
                flow.at<cv::Vec2f>(y, x) = v;
                back.at<cv::Vec2f>(y, x) = -v;
                picture.at<std::uint8_t>(y, x) = static_cast<std::uint8_t>(texture(x * 2, y * 2));
            }
        const auto motions = dominantMotions(flow, back, picture, 2);
        QCOMPARE(motions.size(), std::size_t{2});
        for (const auto& [x, y] : {std::pair(200, 30), std::pair(120, 80), std::pair(230, 150)}) {
            const cv::Vec2f v = motions[0].at(x, y);
            QVERIFY(std::abs(v[0] - 0.02 * (x - width / 2.0)) < 0.05);
            QVERIFY(std::abs(v[1] - 0.02 * (y - height / 2.0)) < 0.05);
        }
        QVERIFY(std::abs(motions[1].at(40, 80)[0] - 14) < 0.1);
        QVERIFY(motions[0].support > motions[1].support);
    }

    void everyOptionHasAKeyOfItsOwn() {
        const std::vector<FlowOptions> options{{},
                                               {.quality = FlowQuality::draft},
                                               {.stiffness = 41},
                                               {.analyseOn = AnalyseOn::contrast},
                                               {.analyseOn = AnalyseOn::edges}};
        for (std::size_t i = 0; i < options.size(); ++i)
            for (std::size_t j = 0; j < i; ++j)
                QVERIFY(keyOf(options[i]) != keyOf(options[j]));
    }
};

QTEST_APPLESS_MAIN(TestMotion)
#include "test_motion.moc"
