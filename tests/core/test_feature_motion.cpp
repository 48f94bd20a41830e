// Motion that goes farther than any search from coarse to fine follows, told by features.

#include "core/motion/feature_motion.h"
#include "core/motion/flow_estimator.h"
#include "support/flow_by_pixels.h"
#include "support/pictures.h"

#include <opencv2/imgproc.hpp>

#include <QTest>

#include <cmath>
#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 480;
constexpr int height = 270;

/// Rectangles all over, none like the other: a plane of which pictures see a part. `seed` is another one.
cv::Mat plane(unsigned seed) {
    std::mt19937 random(seed);
    const auto below = [&](unsigned n) { return static_cast<int>(random() % n); };
    cv::Mat out(3 * height, 3 * width, CV_8U, cv::Scalar(90));
    for (int i = 0; i < 1500; ++i) {
        const cv::Rect at(below(3 * width), below(3 * height), 8 + below(40), 8 + below(40));
        out(at & cv::Rect({0, 0}, out.size())) = cv::Scalar(40 + below(160));
    }
    cv::GaussianBlur(out, out, {}, 1.2);
    return out;
}

/// What is seen at (x, y) of the plane, turned and enlarged about that place, which is the middle.
cv::Mat view(const cv::Mat& from, double x, double y, double degrees = 0, double zoom = 1) {
    const double c = std::cos(degrees * M_PI / 180) / zoom;
    const double s = std::sin(degrees * M_PI / 180) / zoom;
    // Leads from the picture to the plane.
    const cv::Matx23d map(c, -s, x - c * width / 2 + s * height / 2, s, c,
                          y - s * width / 2 - c * height / 2);
    cv::Mat out;
    cv::warpAffine(from, out, map, {width, height}, cv::INTER_CUBIC | cv::WARP_INVERSE_MAP);
    return out;
}

Image imageOf(const cv::Mat& picture, double gain = 1) {
    return pictureOf(picture.cols, picture.rows, {.model = ColourModel::grey},
                     [&](int, int x, int y) { return gain * picture.at<std::uint8_t>(y, x); });
}

cv::Mat still() {
    return cv::Mat::zeros(height, width, CV_32FC2);
}

} // namespace

class TestFeatureMotion : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void aWhipPanIsFollowed_data() {
        QTest::addColumn<int>("pan");
        QTest::addColumn<double>("gain");
        QTest::newRow("three tenths of the width") << 144 << 1.0;
        QTest::newRow("a half of it") << 240 << 1.0;
        QTest::newRow("a half of it to the left, darker") << -240 << 0.85;
    }
    void aWhipPanIsFollowed() {
        QFETCH(const int, pan);
        QFETCH(const double, gain);
        const cv::Mat scene = plane(3);
        const Image a = imageOf(view(scene, 700, 400));
        const Image b = imageOf(view(scene, 700 + pan, 410), gain);
        const Vectors vectors = flowByPixels(a, b, {});
        // Things go the other way than the camera. Of what both frames see, nine tenths and more are right.
        const auto rightOf = [](const VectorField& field, int vx, int vy) {
            const cv::Rect seen = cv::Rect(-vx, -vy, width, height) & cv::Rect(0, 0, width, height);
            constexpr int edge = 16;
            int right = 0;
            int all = 0;
            for (int y = seen.y + edge; y < seen.br().y - edge; ++y)
                for (int x = seen.x + edge; x < seen.br().x - edge; ++x, ++all)
                    if (std::hypot(field.row(y)[2 * x] - vx, field.row(y)[2 * x + 1] - vy) < 1) ++right;
            return static_cast<double>(right) / all;
        };
        const double there = rightOf(vectors.forward, -pan, -10);
        const double back = rightOf(vectors.backward, pan, 10);
        QVERIFY2(there > 0.9 && back > 0.9, qPrintable(QStringLiteral("%1, %2").arg(there).arg(back)));
    }

    void aRollWithAZoomIsTold() {
        const cv::Mat scene = plane(4);
        constexpr double degrees = 10;
        constexpr double zoom = 1.12;
        const cv::Mat a = view(scene, 700, 400);
        const cv::Mat b = view(scene, 640, 380, degrees, zoom);
        const auto found = featureMotions(a, b, still());
        QCOMPARE(found.size(), std::size_t{1});
        // A place of the plane at (x, y) from the first middle is at (x + 60, y + 20) from the second, turned
        // back by the roll and enlarged.
        const double c = zoom * std::cos(degrees * M_PI / 180);
        const double s = zoom * std::sin(degrees * M_PI / 180);
        for (const cv::Point2d at : {cv::Point2d(60, 60), cv::Point2d(240, 135), cv::Point2d(400, 220)}) {
            const cv::Point2d p(at.x - width / 2.0 + 60, at.y - height / 2.0 + 20);
            const cv::Point2d to(c * p.x + s * p.y + width / 2.0, -s * p.x + c * p.y + height / 2.0);
            const cv::Vec2f v = found[0].there.at(at.x, at.y);
            QVERIFY2(std::hypot(at.x + v[0] - to.x, at.y + v[1] - to.y) < 1,
                     qPrintable(QStringLiteral("%1 %2").arg(v[0]).arg(v[1])));
            const cv::Vec2f w = found[0].back.at(at.x + v[0], at.y + v[1]);
            QVERIFY(std::hypot(v[0] + w[0], v[1] + w[1]) < 0.01);
        }
    }

    void twoMotionsAreTwo() {
        // The upper two thirds pan one way, what is below the other way.
        const cv::Mat scene = plane(5);
        const cv::Rect upper(0, 0, width, 180);
        const cv::Rect lower(0, 180, width, 90);
        cv::Mat a = view(scene, 700, 400);
        cv::Mat b = view(scene, 860, 400);
        view(scene, 600, 650)(lower).copyTo(a(lower));
        view(scene, 480, 650)(lower).copyTo(b(lower));
        const auto found = featureMotions(a, b, still());
        QCOMPARE(found.size(), std::size_t{2});
        QVERIFY(cv::norm(found[0].there.at(300, 60) - cv::Vec2f(-160, 0)) < 1.5);
        QVERIFY(cv::norm(found[1].there.at(200, 220) - cv::Vec2f(120, 0)) < 1.5);
    }

    void nothingIsLookedForWithoutNeed() {
        const cv::Mat scene = plane(6);
        const cv::Mat a = view(scene, 700, 400);
        const cv::Mat b = view(scene, 860, 400);
        QCOMPARE(featureMotions(a, b, cv::Mat(height, width, CV_32FC2, cv::Scalar(-160, 0))).size(),
                 std::size_t{0});
        // The same pictures with motion that explains nothing.
        QCOMPARE(featureMotions(a, b, still()).size(), std::size_t{1});
    }

    void whatHasNothingInCommonHasNoMotion() {
        QCOMPARE(featureMotions(view(plane(7), 700, 400), view(plane(8), 700, 400), still()).size(),
                 std::size_t{0});
        const cv::Mat flat(height, width, CV_8U, cv::Scalar(100));
        QCOMPARE(featureMotions(flat, flat, still()).size(), std::size_t{0});
        const cv::Mat small(100, 100, CV_8U, cv::Scalar(100));
        QCOMPARE(featureMotions(small, small, cv::Mat::zeros(100, 100, CV_32FC2)).size(), std::size_t{0});
    }

    void everyTimeTheSame() {
        const cv::Mat scene = plane(9);
        const cv::Mat a = view(scene, 700, 400);
        const cv::Mat b = view(scene, 860, 420, 3);
        const auto once = featureMotions(a, b, still());
        const auto again = featureMotions(a, b, still());
        QCOMPARE(once.size(), std::size_t{1});
        QCOMPARE(again.size(), std::size_t{1});
        QVERIFY(once[0].there.h == again[0].there.h);
    }
};

QTEST_GUILESS_MAIN(TestFeatureMotion)
#include "test_feature_motion.moc"
