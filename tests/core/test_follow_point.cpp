// A point followed through drawn film whose motion is known, and a camera measured and calmed likewise.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/error.h"
#include "core/finish/camera_path.h"
#include "core/finish/follow_point.h"

#include "support/drawn_shot.h"
#include "support/film.h"
#include "support/pictures.h"
#endif

#include <QTest>

#include <cmath>
#include <numbers>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 200;
const PixelLayout grey{.model = ColourModel::grey};

double thing(double x, double y) {
    return 120 + 55 * std::sin(x / 2.9) * std::cos(y / 3.7) + 45 * std::cos((x + y) / 5.1);
}
double ground(double x, double y) {
    return 0.7 * texture(x, y, 11, 3);
}

struct Pose {
    double x, y, turn = 0, size = 1;
};

struct Film {
    std::function<Pose(double)> pose;
    bool blurs = false; ///< a shutter of 180°
    double grain = 1;
    std::function<double(double, double)> light = [](double v, double) {
        return v;
    }; ///< of a value, at a time
    std::function<bool(double, double, double)> hides = [](double, double, double) { return false; };

    /// Value of a place at a moment; a disc of 40 pixels about its middle.
    [[nodiscard]] double at(double x, double y, double t) const {
        const Pose p = pose(t);
        const double dx = x - p.x;
        const double dy = y - p.y;
        if (std::hypot(dx, dy) > 40 * p.size) return ground(x, y);
        const double re = std::cos(p.turn) / p.size;
        const double im = std::sin(p.turn) / p.size;
        return thing(re * dx + im * dy, re * dy - im * dx);
    }
    [[nodiscard]] Image frame(std::int64_t n) const {
        const int samples = blurs ? 8 : 1;
        return pictureOf(width, height, grey, [&](int, int x, int y) {
            double sum = 0;
            for (int i = 0; i < samples; ++i)
                sum += at(x + 0.5, y + 0.5,
                          static_cast<double>(n) + (blurs ? 0.5 * ((i + 0.5) / samples - 0.5) : 0)) /
                       samples;
            if (hides(x, y, static_cast<double>(n))) sum = 25;
            const double noise = grain * 1.7 * (2 * hashed(x, y, n + 500) - 1);
            return std::clamp(light(sum, static_cast<double>(n)) + noise, 0.0, 255.0);
        });
    }
    [[nodiscard]] std::shared_ptr<DrawnShot> shot(std::int64_t frames) const {
        return std::make_shared<DrawnShot>(frames, [*this](std::int64_t n) { return frame(n); });
    }
};

Pose swinging(double t) {
    return {150 + 30 * std::sin(0.2 * t), 100 + 12 * std::cos(0.31 * t)};
}

struct Errors {
    double mean = 0, worst = 0;
};
Errors errorsOf(const FollowReport& report, const Film& film) {
    Errors out;
    for (const FollowedPoint& p : report.path) {
        const Pose pose = film.pose(static_cast<double>(p.frame));
        const double error = std::hypot(p.at.x - pose.x, p.at.y - pose.y);
        out.mean += error / static_cast<double>(report.path.size());
        out.worst = std::max(out.worst, error);
    }
    return out;
}

FollowReport followed(const Film& film, std::int64_t frames, std::int64_t from = 0,
                      std::vector<std::int64_t> cuts = {}) {
    const Pose pose = film.pose(static_cast<double>(from));
    return followPoint(
        {film.shot(frames), std::make_shared<VectorStore>(std::size_t{64} << 20), std::move(cuts)},
        {.frame = from, .at = {pose.x, pose.y}, .reach = 16, .first = 0, .last = frames - 1});
}

} // namespace

class TestFollowPoint : public QObject {
    Q_OBJECT

    static Film filmOf(const QString& name) {
        Film film;
        film.pose = swinging;
        if (name == QStringLiteral("turned and sized"))
            film.pose = [](double t) {
                Pose p = swinging(t);
                p.turn = 0.35 * std::sin(0.15 * t);
                p.size = 1 + 0.2 * std::sin(0.11 * t);
                return p;
            };
        film.blurs = name == QStringLiteral("blurred by 180 degrees");
        if (name == QStringLiteral("grain")) film.grain = 6;
        if (name == QStringLiteral("light changes"))
            film.light = [](double v, double t) {
                return v * (1 + 0.2 * std::sin(0.4 * t)) + 8 * std::cos(0.3 * t);
            };
        if (name == QStringLiteral("a fifth hidden"))
            film.hides = [](double x, double, double t) {
                const double left = swinging(t).x - 24 + std::fmod(3 * t, 42);
                return t > 0 && x >= left && x < left + 6;
            };
        return film;
    }

  private Q_SLOTS:
    void pathsAreTrueToASmallPartOfAPixel_data() {
        QTest::addColumn<double>("mean");
        QTest::addColumn<double>("worst");
        QTest::newRow("shifted") << 0.05 << 0.3;
        QTest::newRow("turned and sized") << 0.05 << 0.3;
        QTest::newRow("blurred by 180 degrees") << 0.05 << 0.3;
        QTest::newRow("grain") << 0.05 << 0.3;
        QTest::newRow("light changes") << 0.05 << 0.3;
        QTest::newRow("a fifth hidden") << 0.05 << 0.3;
    }
    void pathsAreTrueToASmallPartOfAPixel() {
        QFETCH(double, mean);
        QFETCH(double, worst);
        const Film film = filmOf(QString::fromLatin1(QTest::currentDataTag()));
        constexpr std::int64_t frames = 24;
        const FollowReport report = followed(film, frames);
        QVERIFY2(report.path.size() >= 22, report.whyAfter.c_str());
        const Errors errors = errorsOf(report, film);
        QVERIFY2(errors.mean <= mean && errors.worst <= worst,
                 qPrintable(QStringLiteral("mean %1, worst %2").arg(errors.mean).arg(errors.worst)));
    }

    void itIsFollowedBothWaysFromWhereItIsChosen() {
        const Film film = filmOf(QStringLiteral("shifted"));
        const FollowReport report = followed(film, 20, 9);
        QCOMPARE(report.path.front().frame, 0);
        QCOMPARE(report.path.back().frame, 19);
        QVERIFY(pointOf(report.path, 9)->isPut);
        QVERIFY(!pointOf(report.path, 8)->isPut);
        QVERIFY(errorsOf(report, film).worst < 0.1);
    }

    void whatVanishesIsLostAndSaid() {
        Film film = filmOf(QStringLiteral("shifted"));
        film.hides = [](double x, double y, double t) {
            const Pose p = swinging(t);
            return t >= 12 && std::abs(x - p.x) < 45 && std::abs(y - p.y) < 45;
        };
        const FollowReport report = followed(film, 30);
        QCOMPARE(report.lostAfter.value_or(-1), std::int64_t{12});
        QVERIFY(!report.whyAfter.empty());
        QCOMPARE(report.path.back().frame, 11);
        QVERIFY(errorsOf(report, film).worst < 0.1); // and nothing wrong before that
    }

    void whatIsHiddenForAMomentIsFoundAgainBehindIt() {
        Film film = filmOf(QStringLiteral("shifted"));
        film.hides = [](double x, double y, double t) {
            const Pose p = swinging(t);
            return t >= 10 && t < 13 && std::abs(x - p.x) < 45 && std::abs(y - p.y) < 45;
        };
        const FollowReport report = followed(film, 24);
        QVERIFY(!report.lostAfter);
        QVERIFY(!pointOf(report.path, 11));
        QCOMPARE(report.path.back().frame, 23);
        QVERIFY(errorsOf(report, film).worst < 0.1);
    }

    void whatLeavesThePictureIsLost() {
        Film film = filmOf(QStringLiteral("shifted"));
        film.pose = [](double t) { return Pose{60 - 4 * t, 100}; };
        const FollowReport report = followed(film, 24);
        QVERIFY(report.lostAfter && *report.lostAfter >= 12 && *report.lostAfter <= 18);
        QVERIFY(errorsOf(report, film).worst < 0.3);
    }

    void itStopsAtACut() {
        const FollowReport report = followed(filmOf(QStringLiteral("shifted")), 20, 4, {9});
        QCOMPARE(report.lostAfter.value_or(-1), std::int64_t{10});
        QCOMPARE(report.whyAfter, std::string("there is a cut"));
        QCOMPARE(report.path.back().frame, 9);
        QCOMPARE(report.path.front().frame, 0);
    }

    void thereMustBeSomethingToFollow_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("the same all around") << 0;
        QTest::newRow("an edge alone") << 1;
    }
    void thereMustBeSomethingToFollow() {
        QFETCH(int, kind);
        const auto shot = std::make_shared<DrawnShot>(4, [kind](std::int64_t) {
            return pictureOf(width, height, grey,
                             [kind](int, int x, int) { return kind == 1 && x > 160 ? 180.0 : 90.0; });
        });
        QVERIFY_THROWS_EXCEPTION(
            Error,
            static_cast<void>(followPoint(
                {shot, nullptr, {}}, {.frame = 0, .at = {160, 100}, .reach = 16, .first = 0, .last = 3})));
    }

    void stoppingStops() {
        std::stop_source stop;
        stop.request_stop();
        const Film film = filmOf(QStringLiteral("shifted"));
        QVERIFY_THROWS_EXCEPTION(
            std::exception,
            static_cast<void>(followPoint({film.shot(4), nullptr, {}},
                                          {.frame = 0, .at = {150, 112}, .reach = 16, .first = 0, .last = 3},
                                          {}, stop.get_token())));
    }

    void aDrawnShakeIsCalmed_data() {
        QTest::addColumn<double>("share"); // of the picture's width that something before it covers
        QTest::newRow("nothing before it") << 0.0;
        QTest::newRow("something passes before it") << 0.25;
    }
    void aDrawnShakeIsCalmed() {
        QFETCH(double, share);
        constexpr std::int64_t frames = 60;
        // A pan of 1.5 pixels a frame; shakes of 2 and 3 Hz, and a turn of 2.5.
        const auto swing = [](double hertz, double t) {
            return std::sin(2 * std::numbers::pi * hertz * t / 24);
        };
        const auto shakeX = [&](double t) { return 3 * swing(2, t) + 1.2 * swing(3, t + 5); };
        const auto shakeY = [&](double t) { return 2.2 * swing(2, t + 3); };
        const auto turn = [&](double t) { return 0.008 * swing(2.5, t); };
        const auto shot = std::make_shared<DrawnShot>(frames, [&](std::int64_t n) {
            const auto t = static_cast<double>(n);
            const double re = std::cos(turn(t));
            const double im = std::sin(turn(t));
            return pictureOf(width, height, grey, [&](int, int x, int y) {
                const double px = x + 0.5 - width / 2.0;
                const double py = y + 0.5 - height / 2.0;
                const double left = 210 - 3 * t;
                if (x > left && x < left + share * width && y > 60 && y < 140)
                    return texture(x - left, y, 8, 77);
                const double sx = px - shakeX(t) - 1.5 * t;
                const double sy = py - shakeY(t);
                return ground(re * sx + im * sy, re * sy - im * sx) + 20;
            });
        });
        Calm calm{.by = CalmBy::smoothing, .seconds = 0.5};
        calm.path = measuredCamera(*shot, nullptr, 0, frames - 1, {});
        QCOMPARE(calm.path.size(), static_cast<std::size_t>(frames));
        const CalmedCamera camera(calm, width, height, 1, 24);
        double before = 0;
        double after = 0;
        for (std::int64_t n = 12; n < frames - 12; ++n) {
            const auto t = static_cast<double>(n);
            // Where the scene's own middle lies, and where it comes to lie, less the pan.
            const PicturePoint at{width / 2.0 + shakeX(t) + 1.5 * t, height / 2.0 + shakeY(t)};
            const PicturePoint now = camera.at(placeOfFrame(n))(at);
            before += shakeX(t) * shakeX(t) + shakeY(t) * shakeY(t);
            after += std::pow(now.x - width / 2.0 - 1.5 * t, 2) + std::pow(now.y - height / 2.0, 2);
        }
        const double left = std::sqrt(after / before);
        QVERIFY2(left < 0.05, qPrintable(QString::number(left)));
    }

    void aTripodStandsAndAPanGoesOn() {
        Calm calm{.by = CalmBy::still};
        for (std::int64_t n = 0; n < 30; ++n)
            calm.path.push_back({n, 2.0 * static_cast<double>(n), 0, 0, 0, n == 0 || n == 20});
        const CalmedCamera still(calm, 320, 200, 1, 24);
        const PicturePoint middle{160, 100};
        // All frames of a run lie where its middle one does: run 0 to 19, and 20 to 29.
        for (const std::int64_t n : {0, 7, 19})
            QVERIFY(std::abs(still.at(placeOfFrame(n))({160 + 2.0 * static_cast<double>(n), 100}).x -
                             (160 + 20)) < 1e-9);
        QVERIFY(std::abs(still.at(placeOfFrame(24))({160 + 48, 100}).x - (160 + 50)) < 1e-9);
        // Smoothed, an even pan is left alone, at the ends too, and between two frames.
        calm.by = CalmBy::smoothing;
        for (CameraPoint& p : calm.path)
            p.begins = p.frame == 0;
        const CalmedCamera smooth(calm, 320, 200, 1, 24);
        for (const std::int64_t n : {0, 1, 15, 29}) {
            const PicturePoint moved = smooth.at(placeOfFrame(n))(middle);
            QVERIFY2(std::hypot(moved.x - 160, moved.y - 100) < 1e-6, qPrintable(QString::number(moved.x)));
        }
        const PicturePoint between = smooth.at({.first = 10, .last = 11, .phase = 0.3})(middle);
        QVERIFY(std::abs(between.x - 160) < 1e-6);
        QCOMPARE(directionOf(calm.path, 3, 9), 0.0);
        for (CameraPoint& p : calm.path)
            p = {p.frame, 0, -3.0 * static_cast<double>(p.frame), 0, 0, p.begins};
        QCOMPARE(directionOf(calm.path, 3, 9), -90.0);
    }

    void cutsAndEmptyPicturesBeginARunAnew() {
        const auto shot = std::make_shared<DrawnShot>(12, [](std::int64_t n) {
            return pictureOf(width, height, grey, [n](int, int x, int y) {
                return n == 8 ? 100.0 : ground(x - 2.0 * static_cast<double>(n), y);
            });
        });
        const CameraPath path = measuredCamera(*shot, nullptr, 0, 11, std::vector<std::int64_t>{3});
        QVERIFY(path[0].begins && !path[1].begins && path[4].begins && !path[5].begins);
        QVERIFY(path[8].begins && path[9].begins && !path[10].begins);
        QVERIFY(std::abs(path[3].x - 6) < 0.1);
        QVERIFY(std::abs(path[7].x - 6) < 0.1);
    }
};

QTEST_GUILESS_MAIN(TestFollowPoint)
#include "test_follow_point.moc"
