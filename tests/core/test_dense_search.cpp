// The search for motion, and its refinement, against known motion.

#include "core/error.h"
#include "core/motion/dense_search.h"
#include "core/motion/variational_refinement.h"
#include "support/one_worker.h"

#include <QTest>

#include <opencv2/imgproc.hpp>

#include <tbb/global_control.h>

#include <cmath>
#include <functional>
#include <future>
#include <thread>

using namespace yarngap;

namespace {

constexpr int width = 320;
constexpr int height = 200;
constexpr int border = SearchPicture::border;

/// Waves of many lengths, so that no place looks like another.
double texture(double x, double y) {
    return 128 + 34 * std::sin(x * 0.037 + y * 0.011 + 1) + 26 * std::sin(y * 0.053 - x * 0.017) +
           18 * std::sin(x * 0.31 + 0.4 * std::sin(y * 0.17)) + 16 * std::sin(y * 0.23 + x * 0.05) +
           12 * std::sin((x + 2 * y) * 0.13) + 10 * std::sin(x * 0.45) * std::sin(y * 0.35);
}

cv::Mat pictureOf(const std::function<double(int, int)>& value) {
    cv::Mat out(height, width, CV_8U);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            out.at<std::uint8_t>(y, x) = static_cast<std::uint8_t>(std::lround(value(x, y)));
    return out;
}

cv::Mat moved(double dx, double dy) {
    return pictureOf([=](int x, int y) { return texture(x - dx, y - dy); });
}

cv::Mat search(const cv::Mat& from, const cv::Mat& to, const SearchOptions& options = {}) {
    constexpr int finest = 1;
    return denseSearch(SearchPicture(from, finest), SearchPicture(to, finest), options);
}

/// Mean distance of `flow` from (dx, dy) inside `where`.
double errorOf(const cv::Mat& flow, double dx, double dy, const cv::Rect& where) {
    double sum = 0;
    for (int y = where.y; y < where.br().y; ++y)
        for (int x = where.x; x < where.br().x; ++x) {
            const auto& v = flow.at<cv::Vec2f>(y, x);
            sum += std::hypot(v[0] - dx, v[1] - dy);
        }
    return sum / where.area();
}

const cv::Rect inner(24, 24, width - 48, height - 48);

/// CV_32F with the border that searches give their pictures.
cv::Mat bordered(const cv::Mat& picture) {
    cv::Mat out;
    cv::copyMakeBorder(picture, out, border, border, border, border, cv::BORDER_REPLICATE);
    out.convertTo(out, CV_32F);
    return out;
}

/// What so many rounds of refinement leave of a motion that wavers about the true one.
double errorAfter(int rounds) {
    cv::Mat flow(height, width, CV_32FC2);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            flow.at<cv::Vec2f>(y, x) = {2.4F + 0.5F * static_cast<float>(std::sin(x * 0.8 + y * 0.3)),
                                        -1.3F + 0.5F * static_cast<float>(std::cos(x * 0.5 - y * 0.7))};
    refineMotion(bordered(moved(0, 0)), bordered(moved(2.4, -1.3)), border, flow, {.rounds = rounds});
    return errorOf(flow, 2.4, -1.3, inner);
}

} // namespace

class TestDenseSearch : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void translationIsFound_data() {
        QTest::addColumn<double>("dx");
        QTest::addColumn<double>("dy");
        QTest::addColumn<int>("patch");
        QTest::newRow("none") << 0.0 << 0.0 << 8;
        QTest::newRow("less than a pixel") << 0.3 << -0.6 << 8;
        QTest::newRow("a few") << -5.4 << 3.2 << 8;
        QTest::newRow("farther than a patch") << 19.0 << -12.5 << 8;
        QTest::newRow("large patches") << 19.0 << -12.5 << 12;
    }
    void translationIsFound() {
        QFETCH(double, dx);
        QFETCH(double, dy);
        QFETCH(int, patch);
        const cv::Mat flow = search(moved(0, 0), moved(dx, dy), {.patch = patch, .stride = (patch + 1) / 3});
        QCOMPARE(flow.size(), cv::Size(width, height));
        QVERIFY2(errorOf(flow, dx, dy, inner) < 0.06,
                 qPrintable(QString::number(errorOf(flow, dx, dy, inner))));
    }

    void lightThatChangesDoesNotMislead() {
        const cv::Mat darker = pictureOf([](int x, int y) { return texture(x - 4, y + 2) - 20; });
        const cv::Mat flow = search(moved(0, 0), darker);
        QVERIFY(errorOf(flow, 4, -2, inner) < 0.1);
    }

    void partsThatMoveApartAreToldApart() {
        // A square that goes right before a ground that goes left.
        const auto scene = [](double square, double ground) {
            return pictureOf([=](int x, int y) {
                const double px = x - square;
                return px >= 120 && px < 200 && y >= 60 && y < 140 ? texture(3 * px + 77, 2.5 * y)
                                                                   : texture(x - ground, y);
            });
        };
        const cv::Mat flow = search(scene(0, 0), scene(7, -3));
        const double square = errorOf(flow, 7, 0, {130, 70, 60, 60});
        const double ground = errorOf(flow, -3, 0, {24, 24, 80, 150});
        QVERIFY2(square < 0.5, qPrintable(QString::number(square)));
        QVERIFY2(ground < 0.15, qPrintable(QString::number(ground)));
    }

    void everySizeOfPictureWorks_data() {
        QTest::addColumn<int>("w");
        QTest::addColumn<int>("h");
        QTest::newRow("smallest") << 16 << 16;
        QTest::newRow("odd") << 37 << 23;
        QTest::newRow("flat and wide") << 301 << 17;
        QTest::newRow("tall") << 19 << 240;
    }
    void everySizeOfPictureWorks() {
        QFETCH(int, w);
        QFETCH(int, h);
        const cv::Rect part(0, 0, std::min(w, width), std::min(h, height));
        cv::Mat a;
        cv::Mat b;
        cv::resize(moved(0, 0)(part), a, {w, h});
        cv::resize(moved(1, 0)(part), b, {w, h});
        for (const int patch : {8, 12}) {
            const cv::Mat flow = search(a, b, {.patch = patch, .stride = (patch + 1) / 3});
            QCOMPARE(flow.size(), cv::Size(w, h));
            QVERIFY(cv::checkRange(flow, true, nullptr, -40, 40));
        }
    }

    void theNumberOfCoresChangesNothing() {
        const cv::Mat a = moved(0, 0);
        const cv::Mat b = moved(6.5, -3);
        const cv::Mat several = search(a, b);
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        QCOMPARE(cv::norm(several, search(a, b), cv::NORM_INF), 0.0);
    }

    void whatIsNotWantedStops() {
        const SearchPicture a(moved(0, 0), 1);
        const SearchPicture b(moved(6.5, -3), 1);
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_THROWS_EXCEPTION(Cancelled, (void)denseSearch(a, b, {}, stop.get_token()));
        cv::Mat flow = cv::Mat::zeros(height, width, CV_32FC2);
        const cv::Mat picture = bordered(moved(0, 0));
        QVERIFY_THROWS_EXCEPTION(Cancelled,
                                 refineMotion(picture, picture, border, flow, {}, stop.get_token()));
    }

    void whatIsNoLongerWantedStopsOnItsWay() {
        cv::Mat a;
        cv::Mat b;
        cv::resize(moved(0, 0), a, {}, 8, 8, cv::INTER_LINEAR);
        cv::resize(moved(6.5, -3), b, {}, 8, 8, cv::INTER_LINEAR);
        const SearchPicture from(a, 0); // some seconds of work
        const SearchPicture to(b, 0);
        std::promise<void> begun;
        bool cancelled = false;
        {
            std::jthread work([&](const std::stop_token& stop) {
                begun.set_value();
                try {
                    (void)denseSearch(from, to, {}, stop);
                } catch (const Cancelled&) {
                    cancelled = true;
                }
            });
            begun.get_future().wait();
        } // which asks it to stop and waits for its end
        QVERIFY(cancelled);
    }

    void refinementFindsThePartOfAPixel() {
        const double before = errorAfter(0);
        const double after = errorAfter(5);
        QVERIFY(before > 0.4);
        QVERIFY2(after < before / 3, qPrintable(QString("%1 -> %2").arg(before).arg(after)));
    }

    void moreRoundsComeNearer() {
        const double one = errorAfter(1);
        const double three = errorAfter(3);
        const double five = errorAfter(5);
        QVERIFY2(five < three && three < one,
                 qPrintable(QStringLiteral("%1, %2, %3").arg(one).arg(three).arg(five)));
    }

    void refinementLeavesWhatIsRight() {
        cv::Mat flow(height, width, CV_32FC2, cv::Scalar(0, 0));
        const cv::Mat picture = bordered(moved(0, 0));
        refineMotion(picture, picture, border, flow, {});
        QCOMPARE(cv::norm(flow, cv::NORM_INF), 0.0);
    }

    void smootherMeansSmoother() {
        // Grain that differs between the pictures leads every pixel elsewhere.
        cv::RNG random(7);
        const auto grainy = [&](double dx) {
            cv::Mat grain(height, width, CV_32F);
            random.fill(grain, cv::RNG::NORMAL, 0, 6);
            cv::Mat picture;
            moved(dx, 0).convertTo(picture, CV_32F);
            picture += grain;
            cv::copyMakeBorder(picture, picture, border, border, border, border, cv::BORDER_REPLICATE);
            return picture;
        };
        const cv::Mat from = grainy(0);
        const cv::Mat to = grainy(1);
        const auto roughness = [&](float smoothness) {
            cv::Mat flow(height, width, CV_32FC2, cv::Scalar(1, 0));
            refineMotion(from, to, border, flow, {.smoothness = smoothness});
            cv::Mat mean;
            cv::Mat deviation;
            cv::meanStdDev(flow, mean, deviation);
            return deviation.at<double>(0) + deviation.at<double>(1);
        };
        const double loose = roughness(5);
        const double stiff = roughness(80);
        QVERIFY(stiff > 0);
        QVERIFY2(stiff < 0.5 * loose, qPrintable(QString("%1 %2").arg(stiff).arg(loose)));
    }

    void aMotionOfNoLengthStaysFinite() {
        // Nothing to see at all: no gradients to divide by.
        const cv::Mat flat(height, width, CV_8U, cv::Scalar(90));
        const cv::Mat flow = search(flat, flat);
        QCOMPARE(cv::norm(flow, cv::NORM_INF), 0.0);
    }
};

QTEST_APPLESS_MAIN(TestDenseSearch)
#include "test_dense_search.moc"
