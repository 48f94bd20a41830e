// Grain, sharpness, exposure and repeating texture of drawn frames, against what was drawn.

#include "core/inspection/picture_quality.h"
#include "support/film.h"

#include <QTest>

#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

Image drawn(int width, int height, const std::function<double(double, double)>& luma, double deviation = 0) {
    std::mt19937 random(7);
    std::normal_distribution<double> grain(0, std::max(1e-9, deviation));
    Image image(width, height, {.model = ColourModel::grey});
    for (int y = 0; y < height; ++y) {
        auto row = image.row<std::uint8_t>(0, y);
        for (int x = 0; x < width; ++x)
            row[static_cast<std::size_t>(x)] =
                static_cast<std::uint8_t>(std::clamp(luma(x, y) + grain(random) + 0.5, 0.0, 255.0));
    }
    return image;
}

} // namespace

class TestPictureQuality : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void grainIsMeasured_data() {
        QTest::addColumn<double>("deviation");
        for (const double deviation : {1.0, 2.0, 4.0, 8.0})
            QTest::addRow("%.0f steps", deviation) << deviation;
    }
    void grainIsMeasured() {
        QFETCH(double, deviation);
        const auto smooth = [](double x, double y) { return texture(x, y, 60, 2) * 0.6 + 50; };
        const double measured = measureQuality(drawn(640, 360, smooth, deviation), true).noise;
        // Rounding to whole steps adds 1/12 of variance.
        const double expected = std::sqrt(deviation * deviation + 1.0 / 12);
        QVERIFY2(std::abs(measured - expected) < 0.12 * expected, qPrintable(QString::number(measured)));
    }

    void widthOfBlurredEdgesFollowsTheFormula_data() {
        QTest::addColumn<double>("deviation");
        for (const double deviation : {2.0, 3.0, 5.0})
            QTest::addRow("Gaussian of %.0f", deviation) << deviation;
    }
    void widthOfBlurredEdgesFollowsTheFormula() {
        QFETCH(double, deviation);
        // Upright steps 80 pixels apart, each blurred: the integral of a Gaussian.
        const auto bars = [&](double x, double) {
            const double within = std::fmod(x, 160.0);
            const auto step = [&](double at) {
                return 0.5 * (1 + std::erf((within - at) / (deviation * std::sqrt(2.0))));
            };
            return 50 + 150 * (step(40) - step(120));
        };
        const double measured = measureQuality(drawn(640, 360, bars), true).edgeWidth;
        const double expected = deviation * std::sqrt(2 * 3.14159265);
        QVERIFY2(std::abs(measured - expected) < 0.12 * expected, qPrintable(QString::number(measured)));
    }

    void clippingCountsBothEndsOfTheRange() {
        const auto halves = [](double x, double y) { return x < 64 ? 255.0 : x < 128 ? 0.0 : 60 + y / 4; };
        QVERIFY(std::abs(measureQuality(drawn(640, 360, halves), true).clipped - 0.2) < 0.001);
        const auto limited = [](double x, double y) { return x < 64 ? 235.0 : x < 128 ? 16.0 : 60 + y / 4; };
        QVERIFY(std::abs(measureQuality(drawn(640, 360, limited), false).clipped - 0.2) < 0.001);
        QCOMPARE(measureQuality(drawn(640, 360, limited), true).clipped, 0.0);
    }

    void repeatingTextureIsFoundWithItsStep() {
        const auto tiles = [](double x, double y) {
            return texture(std::fmod(x, 16.0) + 3, std::fmod(y, 16.0) + 3, 4, 5);
        };
        const PictureQuality repeating = measureQuality(drawn(640, 384, tiles), true);
        QVERIFY(repeating.repeating > 0.9);
        QVERIFY2(std::abs(repeating.repeatStep - 16) < 1, qPrintable(QString::number(repeating.repeatStep)));
        // Twice the size: the step is in pixels of the full picture.
        const auto large = [&](double x, double y) { return tiles(std::floor(x / 2), std::floor(y / 2)); };
        QVERIFY(std::abs(measureQuality(drawn(1280, 768, large), true).repeatStep - 32) < 2);
        const auto once = [](double x, double y) { return texture(x, y, 9, 5); };
        QVERIFY(measureQuality(drawn(640, 384, once), true).repeating < 0.05); // by chance, here and there
    }

    void motionOfTheWholeIsFound() {
        const auto at = [](double shiftX, double shiftY) {
            return drawn(320, 180,
                         [=](double x, double y) { return texture(x - shiftX, y - shiftY, 11, 3); });
        };
        const WholeMotion motion = wholeMotion(at(0, 0), at(5, -3));
        QVERIFY(std::abs(motion.x - 5) < 0.3);
        QVERIFY(std::abs(motion.y + 3) < 0.3);
    }

    void tinyPicturesAreNoTrouble() {
        const auto flat = [](double, double) { return 128.0; };
        for (const auto& [w, h] : {std::pair{1, 1}, std::pair{3, 200}, std::pair{200, 2}}) {
            const PictureQuality q = measureQuality(drawn(w, h, flat), true);
            QCOMPARE(q.noise, 0.0);
            QCOMPARE(q.edgeWidth, 0.0);
            QCOMPARE(wholeMotion(drawn(w, h, flat), drawn(w, h, flat)).x, 0.0);
        }
    }
};

QTEST_APPLESS_MAIN(TestPictureQuality)
#include "test_picture_quality.moc"
