// Guides: pairs of points that the estimate of a gap follows.

#include "core/error.h"
#include "core/motion/flow_estimator.h"
#include "core/motion/guided_motion.h"
#include "core/synthesis/warp.h"
#include "support/film.h"
#include "support/flow_by_pixels.h"
#include "support/pictures.h"

#include <opencv2/core.hpp>

#include <QTest>

#include <array>
#include <cmath>
#include <vector>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 640;
constexpr int height = 360;

/// A subject that turns and goes far over a background that pans.
struct Thrown {
    double radiusX = 44, radiusY = 34;
    double fromX = 150, fromY = 150;
    double goesX = 0.3 * width, goesY = 36; // 30 % of the width
    double turn = 0;                        // radians
    double pan = 3;
    bool flat = false; ///< one colour with a rim and a mark, as drawn figures are

    /// A place on the subject, from its middle, at time 0 or 1, in the picture.
    [[nodiscard]] PicturePoint place(double u, double v, double time) const {
        const double c = std::cos(turn * time);
        const double s = std::sin(turn * time);
        return {fromX + goesX * time + c * u - s * v, fromY + goesY * time + s * u + c * v};
    }
    /// The place on the subject that is seen at a place of the picture.
    [[nodiscard]] PicturePoint onSubject(double x, double y, double time) const {
        const double c = std::cos(turn * time);
        const double s = std::sin(turn * time);
        const double dx = x - fromX - goesX * time;
        const double dy = y - fromY - goesY * time;
        return {c * dx + s * dy, -s * dx + c * dy};
    }
    [[nodiscard]] bool isOn(const PicturePoint& p) const {
        return p.x * p.x / (radiusX * radiusX) + p.y * p.y / (radiusY * radiusY) < 1;
    }
    [[nodiscard]] Image frame(double time) const {
        return pictureOf(width, height, {.model = ColourModel::grey}, [&](int, int x, int y) {
            const PicturePoint p = onSubject(x + 0.5, y + 0.5, time);
            if (!isOn(p)) return 40 + 0.5 * texture(x - pan * time, y, 12, 1);
            if (!flat) return 70 + 0.75 * texture(p.x, p.y, 6, 7);
            const double r = p.x * p.x / (radiusX * radiusX) + p.y * p.y / (radiusY * radiusY);
            if (r > 0.85) return 60.0;
            return std::hypot(p.x - 18, p.y + 8) < 5 ? 40.0 : 225.0;
        });
    }
    /// Whether the subject is on one of the pixels of the cell at (x, y).
    [[nodiscard]] bool isInCell(int x, int y, double frame) const {
        return isOn(onSubject(x, y, frame)) || isOn(onSubject(x + 1, y, frame)) ||
               isOn(onSubject(x, y + 1, frame)) || isOn(onSubject(x + 1, y + 1, frame));
    }
    [[nodiscard]] GuidePair pair(double u, double v) const { return {place(u, v, 0), place(u, v, 1)}; }
    /// Share of the subject's pixels that go within a pixel of where they truly go.
    [[nodiscard]] double shareRight(const Vectors& vectors) const {
        int all = 0;
        int right = 0;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const PicturePoint p = onSubject(x + 0.5, y + 0.5, 0);
                if (!isOn(p)) continue;
                const PicturePoint there = place(p.x, p.y, 1);
                const float* v = vectors.forward.row(y) + 2 * static_cast<std::ptrdiff_t>(x);
                ++all;
                if (std::hypot(x + 0.5 + v[0] - there.x, y + 0.5 + v[1] - there.y) <= 1) ++right;
            }
        return static_cast<double>(right) / all;
    }
};

} // namespace

class TestGuidedMotion : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void pairsTellOneMotion() {
        // Turned by 90° about (100, 100) and twice as large: too much for one thing, so the nearest counts.
        const std::array<GuidePair, 2> turned{GuidePair{{100, 100}, {100, 100}}, {{140, 100}, {100, 140}}};
        const cv::Mat field = motionOfPairs(turned, {width, height});
        // (120, 130) lies 20 right and 30 down of the middle; turned clockwise it lies 30 left and 20 down.
        const auto& at = field.at<cv::Vec2f>(130, 120);
        QVERIFY(std::abs(at[0] - (-0.5 - 30 - 20)) < 1);
        QVERIFY(std::abs(at[1] - (20.5 - 30)) < 1);
        const std::array<GuidePair, 2> grown{GuidePair{{100, 100}, {100, 100}}, {{140, 100}, {200, 100}}};
        const cv::Mat each = motionOfPairs(grown, {width, height});
        QCOMPARE(each.at<cv::Vec2f>(100, 101), cv::Vec2f(0, 0));
        QCOMPARE(each.at<cv::Vec2f>(100, 139), cv::Vec2f(60, 0));
    }

    void aGuideBendsTheField_data() {
        QTest::addColumn<double>("turn");
        QTest::addColumn<bool>("flat");
        QTest::addColumn<bool>("thorough");
        QTest::addColumn<bool>("clumsy");
        for (const bool clumsy : {false, true})
            for (const bool thorough : {false, true})
                for (const bool flat : {false, true})
                    // A textured subject that goes straight is found without a guide.
                    for (const double turn : flat ? std::vector{0.0, 0.7} : std::vector{0.7, -1.1})
                        QTest::addRow("%s, %s, %s, %s", clumsy ? "clumsy" : "exact",
                                      thorough ? "thorough" : "standard", flat ? "flat" : "textured",
                                      turn > 0   ? "turned"
                                      : turn < 0 ? "turned back"
                                                 : "straight")
                            << turn << flat << thorough << clumsy;
    }
    void aGuideBendsTheField() {
        QFETCH(double, turn);
        QFETCH(bool, flat);
        QFETCH(bool, thorough);
        QFETCH(bool, clumsy);
        const Thrown thrown{.turn = turn, .flat = flat};
        const Image a = thrown.frame(0);
        const Image b = thrown.frame(1);
        FlowOptions options{.quality = thorough ? FlowQuality::thorough : FlowQuality::standard};
        const double without = thrown.shareRight(flowByPixels(a, b, options));
        options.guide = {thrown.pair(-20, 5), thrown.pair(22, -6)};
        if (clumsy) { // by a hand that hits within two pixels
            options.guide[0].from.x += 1.5;
            options.guide[0].to.y -= 1.5;
            options.guide[1].from.y += 2;
            options.guide[1].to.x += 1;
        }
        const double with = thrown.shareRight(flowByPixels(a, b, options));
        qInfo("%.3f without, %.3f with", without, with);
        QVERIFY2(without < 0.5, "the search finds it without a guide");
        // A flat thing that turns tells of its motion by its rim and a mark alone.
        QVERIFY(with >= (flat && turn != 0 ? 0.93 : 0.95));
    }

    void ofTwoThatContradictTheBetterFittingIsKept() {
        const Thrown thrown;
        const Image a = thrown.frame(0);
        const Image b = thrown.frame(1);
        GuidePair wrong = thrown.pair(-18, 7);
        wrong.to = {60, 300};
        const std::vector<GuidePair> pairs{wrong, thrown.pair(-20, 5), thrown.pair(22, -6)};
        QCOMPARE(contradictingPairs(a, b, pairs), (std::vector<std::size_t>{0}));
        FlowOptions options;
        options.guide = pairs;
        QVERIFY(thrown.shareRight(flowByPixels(a, b, options)) >= 0.95);
        // Pairs on one subject do not.
        QVERIFY(contradictingPairs(a, b, std::vector{thrown.pair(-20, 5), thrown.pair(-15, 8)}).empty());
    }

    void theBackgroundStaysAsItWas() {
        const Thrown thrown;
        const Image a = thrown.frame(0);
        const Image b = thrown.frame(1);
        FlowOptions options;
        const Vectors without = byPixels(estimateFlow(a, b, options), width, height);
        options.guide = {thrown.pair(-20, 5), thrown.pair(22, -6)};
        const Vectors with = estimateFlow(a, b, options); // by pixels as it is
        const auto wrongOn = [&](const Vectors& vectors) {
            int wrong = 0;
            for (int y = 0; y < height; y += 2)
                for (int x = 0; x < width - 8; x += 2) {
                    // What the subject comes to lie on cannot be seen in b; a cell of 2 x 2 pixels has one
                    // motion.
                    if (thrown.isInCell(x, y, 0) || thrown.isInCell(x + 3, y, 1)) continue;
                    const float* v = vectors.forward.row(y) + 2 * static_cast<std::ptrdiff_t>(x);
                    wrong += std::hypot(v[0] - thrown.pan, v[1]) > 1 ? 1 : 0;
                }
            return wrong;
        };
        const int before = wrongOn(without); // of 54,000
        const int after = wrongOn(with);
        QVERIFY2(before < 1100 && after < before + 540,
                 qPrintable(QStringLiteral("%1, then %2").arg(before).arg(after)));
    }

    void pointsOffThePictureDoNoHarm() {
        const Thrown thrown;
        FlowOptions options;
        options.guide = {{{-500, 20}, {900, 5000}}, {{10, 10}, {-40, 3}}};
        const Vectors vectors = flowByPixels(thrown.frame(0), thrown.frame(1), options);
        QCOMPARE(vectors.forward.width, width);
        for (const float v : vectors.forward.xy)
            QVERIFY(std::isfinite(v));
    }

    void aGuideIsRefusedThatSaysNothing() {
        QVERIFY_THROWS_EXCEPTION(Error, validate(Guide{5, 5, {{{1, 1}, {2, 2}}}}));
        QVERIFY_THROWS_EXCEPTION(Error, validate(Guide{5, 6, {}}));
        QVERIFY_THROWS_EXCEPTION(Error, validate(Guide{5, 6, {{{std::nan(""), 1}, {2, 2}}}}));
        validate(Guide{5, 6, {{{1, 1}, {2, 2}}}});
    }
};

QTEST_APPLESS_MAIN(TestGuidedMotion)
#include "test_guided_motion.moc"
