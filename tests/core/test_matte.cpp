// Mattes: their outlines, the layers they cut, and what moving those apart is worth where motion is known.

#include "core/error.h"
#include "core/motion/cell_vectors.h"
#include "core/motion/flow_estimator.h"
#include "core/synthesis/frame_maker.h"
#include "core/synthesis/layers.h"
#include "core/synthesis/matte.h"
#include "core/synthesis/matte_frames.h"
#include "support/pictures.h"

#include <QTest>

#include <cmath>
#include <numeric>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr PixelLayout grey8{.model = ColourModel::grey, .depth = 8};
constexpr int width = 240;
constexpr int height = 160;

/// Paper of its own for each layer: sums of waves, so that it is the same at every place between pixels.
double paper(double x, double y, double seed) {
    return 26 * std::sin(0.31 * x + seed) * std::cos(0.23 * y + 2 * seed) +
           18 * std::sin(0.11 * x - 0.17 * y + 3 * seed);
}

/// A square that moves right by 14 pixels a frame over a background that moves left by 4; both textured.
struct Scene {
    static constexpr double half = 28;
    static double middle(double time) { return 96 + 14 * time; }
    static bool inSquare(double x, double y, double time) {
        return std::abs(x - middle(time)) < half && std::abs(y - 80) < half;
    }
    static double square(double x, double y, double time) { return 170 + paper(x - 14 * time, y, 1.7); }
    static double ground(double x, double y, double time) { return 80 + paper(x + 4 * time, y, 0.4); }
    static Image at(double time) {
        return pictureOf(width, height, grey8, [=](int, int px, int py) {
            // Four samples a pixel, for edges between pixels.
            double sum = 0;
            for (const double dx : {0.25, 0.75})
                for (const double dy : {0.25, 0.75}) {
                    const double x = px + dx;
                    const double y = py + dy;
                    sum += inSquare(x, y, time) ? square(x, y, time) : ground(x, y, time);
                }
            return sum / 4;
        });
    }
    static MatteKey key(std::int64_t frame) {
        const double m = middle(static_cast<double>(frame));
        return {frame,
                {{m - half, 80 - half}, {m + half, 80 - half}, {m + half, 80 + half}, {m - half, 80 + half}}};
    }
    static Matte matte() { return {.keys = {key(0), key(1)}, .pictures = {}, .feather = 1}; }
};

/// Mean of squared differences within 20 pixels of the square, half way between frames 0 and 1.
double errorAround(const Image& made, const Image& truth) {
    double sum = 0;
    double n = 0;
    for (int y = 80 - 48; y < 80 + 48; ++y)
        for (int x = 103 - 48; x < 103 + 48; ++x, ++n) {
            const double d = sampleAt(made, 0, x, y) - sampleAt(truth, 0, x, y);
            sum += d * d;
        }
    return sum / n;
}

FrameLayers layersAt(const Matte& matte, std::int64_t frame) {
    return layersOf(Scene::at(static_cast<double>(frame)),
                    coverageOf(outlineAt(matte, frame), matte.feather, width, height));
}

LayerVectors vectorsOf(const FrameLayers& a, const FrameLayers& b) {
    return {std::make_shared<Vectors>(estimateFlow(a.background, b.background, {})),
            std::make_shared<Vectors>(estimateFlow(a.subject, b.subject, {}))};
}

} // namespace

class TestMatte : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void anOutlineMovesEvenlyFromKeyToKey() {
        const Matte matte{.keys = {{10, {{0, 0}, {8, 0}, {8, 8}}}, {14, {{4, 0}, {12, 0}, {12, 16}}}}};
        QVERIFY(outlineAt(matte, 3) == matte.keys[0].points);
        QVERIFY(outlineAt(matte, 99) == matte.keys[1].points);
        const auto between = outlineAt(matte, 11);
        QVERIFY(between[0] == (MattePoint{1, 0}));
        QVERIFY(between[2] == (MattePoint{9, 10}));
        QVERIFY(outlineAt(Matte{}, 5).empty());
    }

    void keysAndPointsAreAddedAndTakenAway() {
        Matte matte = withKey({}, 20, {{0, 0}, {10, 0}, {10, 10}});
        matte = withKey(matte, 5, {{1, 1}, {11, 1}, {11, 11}});
        QCOMPARE(matte.keys.front().frame, 5);
        matte = withPoint(matte, 2); // between the last and the first
        QCOMPARE(matte.keys[1].points.size(), std::size_t{4});
        QVERIFY(matte.keys[1].points[3] == (MattePoint{5, 5}));
        QVERIFY(withoutPoint(matte, 3) ==
                withKey(withKey({}, 20, {{0, 0}, {10, 0}, {10, 10}}), 5, {{1, 1}, {11, 1}, {11, 11}}));
        QVERIFY(withoutPoint(withoutPoint(matte, 0), 0).keys[0].points.size() == 3); // a triangle stays
        QVERIFY(withoutKey(withoutKey(matte, 5), 20).empty());
        QVERIFY_THROWS_EXCEPTION(Error, withKey(matte, 7, {{0, 0}, {1, 0}, {1, 1}})); // one point too few
        QVERIFY_THROWS_EXCEPTION(Error, validate(Matte{.keys = {{0, {{0, 0}, {1, 1}}}}}));
        QVERIFY_THROWS_EXCEPTION(Error, validate(Matte{.feather = Matte::softest + 1}));
        const double nan = std::nan("");
        QVERIFY_THROWS_EXCEPTION(Error, validate(Matte{.keys = {{0, {{0, 0}, {nan, 0}, {1, 1}}}}}));
    }

    void coverageIsTheAreaInsideTheOutline() {
        const std::vector<MattePoint> square{{20, 30}, {60.5, 30}, {60.5, 50}, {20, 50}};
        for (const int feather : {0, 8}) {
            const Image cover = coverageOf(square, feather, 100, 80);
            double sum = 0;
            for (int y = 0; y < 80; ++y)
                for (const std::uint16_t v : cover.row<std::uint16_t>(0, y))
                    sum += v / 65535.0;
            QVERIFY2(std::abs(sum - 40.5 * 20) < 0.04 * 40.5 * 20, qPrintable(QString::number(sum)));
            QCOMPARE(int{cover.row<std::uint16_t>(0, 40)[40]}, 65535);
            QCOMPARE(int{cover.row<std::uint16_t>(0, 10)[40]}, 0);
            QCOMPARE(cover.row<std::uint16_t>(0, 40)[17] > 0, feather > 0); // soft, or not
        }
    }

    void aLayerIsItselfWhereItIsSeenAndGoesOnBeyond() {
        const Image frame = Scene::at(0);
        const FrameLayers layers = layersAt(Scene::matte(), 0);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const double own = sampleAt(frame, 0, x, y);
                const double dx = std::abs(x + 0.5 - Scene::middle(0));
                const double dy = std::abs(y + 0.5 - 80);
                const double beyond = std::max(dx, dy) - Scene::half;
                if (beyond < -3) {
                    QCOMPARE(sampleAt(layers.subject, 0, x, y), own);
                    // The square is at 126 to 214; what was filled in must look like the ground around.
                    QVERIFY(sampleAt(layers.background, 0, x, y) < 125);
                }
                if (beyond > 3) QCOMPARE(sampleAt(layers.background, 0, x, y), own);
            }
    }

    void aSmallSubjectGoesOnInItsOwnColourFarAway() {
        const Image frame = pictureOf(900, 60, grey8, [](int, int x, int y) {
            return x >= 4 && x < 12 && y >= 20 && y < 28 ? 200 : 40;
        });
        const FrameLayers layers =
            layersOf(frame, coverageOf({{4, 20}, {12, 20}, {12, 28}, {4, 28}}, 0, 900, 60));
        for (const int x : {8, 100, 450, 890})
            QVERIFY2(std::abs(sampleAt(layers.subject, 0, x, 24) - 200) <= 1, qPrintable(QString::number(x)));
        QVERIFY(std::abs(sampleAt(layers.background, 0, 8, 24) - 40) <= 1);
    }

    void subjectAndBackgroundAreSeparated() {
        const FrameLayers a = layersAt(Scene::matte(), 0);
        const FrameLayers b = layersAt(Scene::matte(), 1);
        const LayerVectors vectors = vectorsOf(a, b);
        const Image truth = Scene::at(0.5);
        const Image apart = warpLayers(a, b, vectors, 0.5, true).image;
        const Image frameA = Scene::at(0);
        const Image frameB = Scene::at(1);
        const Image together = warpBetween(frameA, frameB, estimateFlow(frameA, frameB, {}), 0.5).image;
        const double with = errorAround(apart, truth);
        const double without = errorAround(together, truth);
        qInfo("mean squared error around the square: %.1f with a matte, %.1f without", with, without);
        QVERIFY(with < 60);
        QVERIFY(with < without / 2);
        // Away from the square nothing but the background was moved.
        QVERIFY(std::abs(sampleAt(apart, 0, 210, 30) - sampleAt(truth, 0, 210, 30)) < 6);
    }

    void theSubjectGoesBelowWhereAsked() {
        // A dark square that jumps over a bright post: on top it hides the post, below it is hidden.
        const auto scene = [](double x0) {
            return pictureOf(width, height, grey8, [=](int, int x, int y) {
                if (x >= 110 && x < 130) return 240.0 + 6 * std::sin(y * 0.7);
                if (x >= x0 && x < x0 + 50 && y >= 50 && y < 100) return 30.0 + 8 * std::sin((x - x0) * 0.6);
                return 128.0 + 20 * std::sin(x * 0.4) * std::cos(y * 0.3);
            });
        };
        // Frame a has it left of the post, b right of it; half way it is at the post.
        const auto layers = [&](double x0) {
            const std::vector<MattePoint> outline{{x0, 50}, {x0 + 50, 50}, {x0 + 50, 100}, {x0, 100}};
            return layersOf(scene(x0), coverageOf(outline, 0, width, height));
        };
        const FrameLayers a = layers(50);
        const FrameLayers b = layers(140);
        // The motion is given: what is tested is the order.
        Vectors still = estimateFlow(a.background, a.background, {});
        Vectors moves = still;
        for (std::size_t i = 0; i < moves.forward.xy.size(); i += 2) {
            moves.forward.xy[i] = 90;
            moves.backward.xy[i] = -90;
            still.forward.xy[i] = still.backward.xy[i] = 0;
            for (VectorField* field : {&moves.forward, &moves.backward, &still.forward, &still.backward})
                field->xy[i + 1] = 0;
        }
        const LayerVectors vectors{std::make_shared<Vectors>(still), std::make_shared<Vectors>(moves)};
        const Image above = warpLayers(a, b, vectors, 0.5, true).image;
        const Image below = warpLayers(a, b, vectors, 0.5, false).image;
        QVERIFY(sampleAt(above, 0, 120, 75) < 60);  // the square
        QVERIFY(sampleAt(below, 0, 120, 75) > 220); // the post
        QVERIFY(sampleAt(below, 0, 120, 120) > 220);
    }

    void theMotionToldIsThatOfTheLayerThatShows() {
        const FrameLayers a = layersAt(Scene::matte(), 0);
        const FrameLayers b = layersAt(Scene::matte(), 1);
        const MidMotion motion = motionOfLayers(a, b, vectorsOf(a, b), 0.5, true);
        QCOMPARE(motion.width, width / 2);
        const auto vx = [&](double x, double y) {
            return 2 *
                   motion.row(static_cast<int>(y) / 2)[static_cast<int>(x) / 2].vx; // cells are two pixels
        };
        QVERIFY2(std::abs(vx(Scene::middle(0.5), 80) - 14) < 0.5, qPrintable(QString::number(vx(103, 80))));
        QVERIFY2(std::abs(vx(Scene::middle(0.5) + Scene::half + 12, 80) + 4) < 0.7,
                 qPrintable(QString::number(vx(143, 80))));
        QVERIFY2(std::abs(vx(200, 30) + 4) < 0.5, qPrintable(QString::number(vx(200, 30))));
        QCOMPARE(motion.trust.size(), motion.cells.size());
    }

    void layersAreTheSameByCellsAndByPixels() {
        const FrameLayers a = layersAt(Scene::matte(), 0);
        const FrameLayers b = layersAt(Scene::matte(), 1);
        const LayerVectors cells = vectorsOf(a, b);
        const auto pixels = [](const VectorsPtr& of) {
            return std::make_shared<const Vectors>(byPixels(*of, width, height));
        };
        const Image one = warpLayers(a, b, cells, 0.5, true).image;
        const Image other =
            warpLayers(a, b, {pixels(cells.background), pixels(cells.subject)}, 0.5, true).image;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                QCOMPARE(sampleAt(one, 0, x, y), sampleAt(other, 0, x, y));
    }

    void aMatteThatShowsNothingChangesNothing() {
        const MatteFrames matte({.keys = {{0, {{-50, -50}, {-20, -50}, {-20, -20}}}}}, width, height);
        QVERIFY(matte.layers(0, Scene::at(0))->identity.empty());
        const MatteFrames seen(Scene::matte(), width, height);
        QVERIFY(!seen.layers(0, Scene::at(0))->identity.empty());
        QVERIFY(seen.key(0) != seen.key(1));
        QVERIFY(seen.key(1) == seen.key(2)); // after the last key it stays
        // A change of one key touches the frames beside it alone.
        Matte matted = withKey(Scene::matte(), 8, Scene::key(3).points);
        const MatteFrames now(matted, width, height);
        matted = withKey(matted, 8, Scene::key(4).points);
        const MatteFrames later(matted, width, height);
        for (const std::int64_t n : {0, 1})
            QVERIFY(now.key(n) == later.key(n));
        for (const std::int64_t n : {2, 7, 8, 20})
            QVERIFY(now.key(n) != later.key(n));
        QVERIFY(now.key(2) != now.key(3));
    }

    void missingPicturesAreSaid() {
        const MatteFrames matte({.pictures = "/nowhere/matte_0001.png"}, width, height);
        try {
            (void)matte.coverage(0);
            QFAIL("no error");
        } catch (const Error& error) {
            QVERIFY2(std::string(error.what()).starts_with("The matte's pictures cannot be read."),
                     error.what());
        }
    }
};

QTEST_APPLESS_MAIN(TestMatte)
#include "test_matte.moc"
