// Reading between samples: exact on them, exact on cubics, closer than Catmull-Rom on fine texture.

#include "core/synthesis/plane_pair.h"
#include "core/synthesis/spline_plane.h"
#include "support/pictures.h"

#include <QTest>

#include <array>
#include <cmath>
#include <vector>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr PixelLayout grey16{.model = ColourModel::grey, .depth = 16};

/// Fine texture: a wave of 3.2 samples.
double wave(double x) {
    return 32000 + 20000 * std::sin(x * 2 * M_PI / 3.2);
}

/// Catmull-Rom's value at `x` of the wave's samples (Keys 1981, a = −1/2).
double catmullRom(double x) {
    const double i = std::floor(x);
    const double f = x - i;
    const std::array<double, 4> weights{((2 - f) * f - 1) * f / 2, ((3 * f - 5) * f * f + 2) / 2,
                                        ((4 - 3 * f) * f + 1) * f / 2, (f - 1) * f * f / 2};
    double sum = 0;
    for (std::size_t k = 0; k < 4; ++k)
        sum += weights[k] * std::lround(wave(i - 1 + static_cast<double>(k)));
    return sum;
}

} // namespace

class TestSplinePlane : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void samplesAreThemselves_data() {
        QTest::addColumn<int>("width");
        QTest::addColumn<int>("height");
        for (const auto& [w, h] : {std::pair{64, 48}, {1, 1}, {2, 5}, {7, 1}, {3, 3}, {17, 40}})
            QTest::addRow("%d x %d", w, h) << w << h;
    }
    void samplesAreThemselves() {
        QFETCH(int, width);
        QFETCH(int, height);
        const Image image = pictureOf(width, height, grey16, [](int, int x, int y) {
            return (x * 7919 + y * 104729 + x * y * 31) % 65536; // as rough as it gets
        });
        const SplinePlane plane(image, 0);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const float read = plane(static_cast<float>(x), static_cast<float>(y));
                QVERIFY2(std::abs(read - static_cast<float>(sampleAt(image, 0, x, y))) < 0.3F,
                         qPrintable(QStringLiteral("%1 at %2, %3").arg(read).arg(x).arg(y)));
            }
    }

    void cubicsAreExact() {
        const auto cubic = [](double x, double y) {
            const double u = x - 30;
            const double v = y - 25;
            return 32000 + 0.6 * u * u * u - 0.4 * v * v * v + 9 * u * v;
        };
        const Image image = pictureOf(60, 50, grey16, [&](int, int x, int y) { return cubic(x, y); });
        const SplinePlane plane(image, 0);
        // Far enough from the edges, where the mirrored samples are no cubic.
        for (const double x : {20.25, 30.5, 39.9})
            for (const double y : {18.1, 25.5, 31.75})
                QVERIFY(std::abs(plane(static_cast<float>(x), static_cast<float>(y)) - cubic(x, y)) < 1.5);
    }

    void aPairReadsAsEitherPlaneDoes() {
        constexpr int w = 41;
        constexpr int h = 23;
        const auto rough = [](int seed) {
            return pictureOf(w, h, grey16, [seed](int, int x, int y) {
                return (x * 7919 + y * 104729 + x * y * seed) % 65536;
            });
        };
        const Image a = rough(31);
        const Image b = rough(57);
        constexpr float phase = 0.25F;
        const PlanePair pair(a, b, phase, 0);
        const SplinePlane ofA(a, 0);
        const SplinePlane ofB(b, 0);
        std::vector<MidCell> cells(w); // what leads outside among them
        for (int x = 0; x < w; ++x)
            cells[static_cast<std::size_t>(x)] = {static_cast<float>(x) * 0.37F - 8,
                                                  static_cast<float>(x % 9) - 3, static_cast<float>(x) / w,
                                                  0};
        std::vector<MidCell> bends(w, {0.4F, -0.3F, 0, 0});
        std::vector<PlanePair::Places> places(w);
        std::vector<float> shares, mixed(w), one(w), other(w);
        for (const MidCell& cell : cells)
            shares.push_back(cell.shareB);
        for (const bool bent : {false, true}) {
            constexpr int y = 12;
            pair.follow(cells, bent ? bends : std::vector<MidCell>(), 0, y, places.data());
            pair.readMixed(places.data(), shares.data(), w, mixed.data());
            pair.readBoth(places.data(), w, one.data(), other.data());
            for (std::size_t x = 0; x < w; ++x) {
                const float px = static_cast<float>(x) - (bent ? 0.4F : 0);
                const float py = y + (bent ? 0.3F : 0);
                const float inA = ofA(px - phase * cells[x].vx, py - phase * cells[x].vy);
                const float inB = ofB(px + (1 - phase) * cells[x].vx, py + (1 - phase) * cells[x].vy);
                QVERIFY2(std::abs(one[x] - inA) < 40,
                         qPrintable(QString::number(one[x] - inA))); // a place rounded
                QVERIFY(std::abs(other[x] - inB) < 40);
                QVERIFY(std::abs(mixed[x] - (one[x] + shares[x] * (other[x] - one[x]))) < 0.05F);
            }
        }
    }

    void fineTextureIsKept() {
        const Image image = pictureOf(120, 4, grey16, [](int, int x, int) { return wave(x); });
        const SplinePlane plane(image, 0);
        double ours = 0;
        double theirs = 0;
        for (int i = 0; i < 320; ++i) {
            const double x = 20 + i * 0.25;
            ours += std::pow(plane(static_cast<float>(x), 1.5F) - wave(x), 2);
            theirs += std::pow(catmullRom(x) - wave(x), 2);
        }
        QVERIFY2(ours < theirs / 4, qPrintable(QStringLiteral("%1 of %2").arg(ours).arg(theirs)));
    }

    void edgesAreMirrored() {
        const Image image =
            pictureOf(20, 9, grey16, [](int, int x, int y) { return (x * 3001 + y * 977) % 65536; });
        const Image flipped =
            pictureOf(20, 9, grey16, [&](int, int x, int y) { return sampleAt(image, 0, 19 - x, 8 - y); });
        const SplinePlane plane(image, 0);
        const SplinePlane back(flipped, 0);
        for (const float x : {0.3F, 0.9F, 10.5F, 18.7F})
            for (const float y : {0.2F, 4.5F, 7.9F})
                QVERIFY(std::abs(plane(x, y) - back(19 - x, 8 - y)) < 0.5F);
        QCOMPARE(plane(-5, 3), plane(0, 3)); // outside is the edge
        QCOMPARE(plane(40, 20), plane(19, 8));
    }
};

QTEST_APPLESS_MAIN(TestSplinePlane)
#include "test_spline_plane.moc"
