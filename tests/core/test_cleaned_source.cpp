// Frames made again: what they are made from, that they are as good as in-betweens, and what stays bit for
// bit.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/cleaning/cleaned_source.h"
#include "core/cleaning/restored_places.h"
#include "core/error.h"

#include "support/drawn_shot.h"
#endif

#include <QTemporaryDir>
#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 192;
constexpr int height = 112;

/// A texture that moves by 3 pixels a frame.
double lightAt(double x, double y, double n) {
    const double u = x - 3 * n;
    return 128 + 40 * std::sin(u / 5.3) * std::cos(y / 7.1) + 30 * std::sin(u / 17 + y / 11);
}

Image picture(double n) {
    Image image(width, height, {.chromaShiftX = 1, .chromaShiftY = 1});
    for (int p = 0; p < 3; ++p)
        for (int y = 0; y < image.plane(p).height; ++y) {
            const auto row = image.row<std::uint8_t>(p, y);
            for (int x = 0; x < image.plane(p).width; ++x)
                row[static_cast<std::size_t>(x)] = static_cast<std::uint8_t>(
                    p == 0 ? std::lround(lightAt(x, y, n))
                           : std::lround(128 + (lightAt(2 * x, 2 * y, n) - 128) / 4));
        }
    return image;
}

/// Frame 5 is grey, frame 9 has a scratch.
Image damaged(std::int64_t n) {
    Image image = picture(static_cast<double>(n));
    if (n == 5)
        for (int y = 0; y < height; ++y)
            std::ranges::fill(image.row<std::uint8_t>(0, y), std::uint8_t{128});
    if (n == 9)
        for (int y = 20; y < 90; ++y)
            image.row<std::uint8_t>(0, y)[100] = 255;
    return image;
}

double psnr(const Image& a, const Image& b, int left, int top, int w, int h) {
    double sum = 0;
    for (int y = top; y < top + h; ++y)
        for (int x = left; x < left + w; ++x) {
            const auto i = static_cast<std::size_t>(x);
            const double d = double{1} * a.row<std::uint8_t>(0, y)[i] - b.row<std::uint8_t>(0, y)[i];
            sum += d * d;
        }
    return 10 * std::log10(255.0 * 255 / std::max(1e-9, sum / (w * h)));
}

/// Without the edge, where things come into the picture.
double psnr(const Image& a, const Image& b) {
    return psnr(a, b, 24, 16, width - 48, height - 32);
}

/// Where a disc stands that moves by 4 pixels a frame.
double discAt(double moment) {
    return 40 + 4 * moment;
}

/// When the drawing was made that frame `n` shows.
double heldMoment(std::int64_t n) {
    return static_cast<double>(n - n % 2);
}

/// The disc as drawn at one moment, before the background of another.
Image discBefore(double moment, double drawn) {
    Image image = picture(moment);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const double share = std::clamp(18.5 - std::hypot(x - discAt(drawn), y - 56.0), 0.0, 1.0);
            auto& sample = image.row<std::uint8_t>(0, y)[static_cast<std::size_t>(x)];
            const double own = 190 + 40 * std::sin((x - discAt(drawn)) / 4) * std::cos((y - 56.0) / 3);
            sample = static_cast<std::uint8_t>(std::lround(sample + share * (own - sample)));
        }
    return image;
}

std::vector<MattePoint> circleAround(double x) {
    std::vector<MattePoint> points;
    constexpr int corners = 32;
    for (int i = 0; i < corners; ++i) {
        const double angle = 2 * 3.14159265358979 * i / corners;
        points.push_back({x + 0.5 + 18.5 * std::cos(angle), 56.5 + 18.5 * std::sin(angle)});
    }
    return points;
}

std::shared_ptr<DrawnShot> shot() {
    return std::make_shared<DrawnShot>(16, damaged);
}

std::shared_ptr<CleanedSource> cleaned(const std::shared_ptr<ShotFrames>& source, const Cleanup& cleanup,
                                       const CleaningMeans& means = {}) {
    return std::make_shared<CleanedSource>(source, cleanup, cleanedFrames(cleanup, source->frames()), means,
                                           std::size_t{64} << 20);
}

CleanupDecision on(std::int64_t frame, CleanupKind kind) {
    return {.frame = frame, .kind = kind};
}

CleanupDecision restore(std::int64_t frame, std::vector<DamagedPlace> places) {
    return {.frame = frame, .kind = CleanupKind::restore, .places = std::move(places)};
}

} // namespace

class TestCleanedSource : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void aRebuiltFrameIsAnInBetweenOfItsNeighbours() {
        const auto source = shot();
        const auto clean = cleaned(source, {{on(5, CleanupKind::rebuild)}});
        const ImagePtr made = clean->frame(5);
        QVERIFY2(psnr(*made, picture(5)) > 36, qPrintable(QString::number(psnr(*made, picture(5)))));
        // The very frame that flow makes between 4 and 6.
        InBetweens thorough;
        thorough.flow.quality = FlowQuality::thorough;
        PlanRow row;
        row.kind = FrameKind::flow;
        row.method = Method::flow;
        row.first = 4;
        row.last = 6;
        row.before = 2;
        row.after = 8;
        row.bridged = true;
        row.position = {5, 0};
        const FrameMaker maker(source, std::make_shared<VectorStore>(), thorough);
        QCOMPARE(*made, *maker.make(row).image);
        QCOMPARE(*clean->frame(4), damaged(4));
    }

    void thePhaseCanBeSet() {
        CleanupDecision decision = on(5, CleanupKind::rebuild);
        decision.phases = {Rational(1, 4)};
        const ImagePtr made = cleaned(shot(), {{decision}})->frame(5);
        QVERIFY2(psnr(*made, picture(4.5)) > 36, qPrintable(QString::number(psnr(*made, picture(4.5)))));
        decision.phases = {Rational(1)};
        QCOMPARE(*cleaned(shot(), {{decision}})->frame(5), damaged(6));
    }

    void framesPutInLieEvenlyBetweenTheirNeighbours() {
        const Cleanup cleanup{{{.frame = 10, .kind = CleanupKind::putIn, .count = 2}}};
        const auto clean = cleaned(shot(), cleanup);
        QCOMPARE(clean->frames(), 18);
        QVERIFY(psnr(*clean->frame(11), picture(10 + 1.0 / 3)) > 36);
        QVERIFY(psnr(*clean->frame(12), picture(10 + 2.0 / 3)) > 36);
        QCOMPARE(*clean->frame(13), damaged(11));
        QCOMPARE(clean->numberBeforeCleanup(13), 11);
    }

    void aFramePassedOverShowsTheOneBefore() {
        const auto clean = cleaned(shot(), {{on(5, CleanupKind::passOver), on(6, CleanupKind::passOver)}});
        QCOMPARE(*clean->frame(6), damaged(4));
        QCOMPARE(clean->identityOf(6), clean->identityOf(4));
        QCOMPARE(*clean->frame(7), damaged(7));
    }

    void aRestoredFrameStaysOutsideItsPlaces() {
        const DamagedPlace place{98, 18, 5, 75};
        const auto clean = cleaned(shot(), {{restore(9, {place})}});
        const ImagePtr made = clean->frame(9);
        const Image before = damaged(9);
        for (int p = 0; p < 3; ++p)
            for (int y = 0; y < before.plane(p).height; ++y)
                for (int x = 0; x < before.plane(p).width; ++x) {
                    const int scale = p == 0 ? 1 : 2;
                    const bool covers = (x + 1) * scale > place.x && x * scale < place.x + place.width &&
                                        (y + 1) * scale > place.y && y * scale < place.y + place.height;
                    const auto i = static_cast<std::size_t>(x);
                    if (!covers)
                        QCOMPARE(made->row<std::uint8_t>(p, y)[i], before.row<std::uint8_t>(p, y)[i]);
                }
        const double was = psnr(before, picture(9), 98, 20, 5, 70);
        const double is = psnr(*made, picture(9), 98, 20, 5, 70);
        QVERIFY2(is > was + 10 && is > 34, qPrintable(QStringLiteral("%1 to %2 dB").arg(was).arg(is)));
    }

    void largePlacesHaveSoftEdges() {
        Image white = picture(0);
        Image black = picture(0);
        for (int y = 0; y < height; ++y) {
            std::ranges::fill(white.row<std::uint8_t>(0, y), std::uint8_t{240});
            std::ranges::fill(black.row<std::uint8_t>(0, y), std::uint8_t{0});
        }
        const Image mixed = withPlacesFrom(black, white, {{10, 10, 20, 20}, {100, 10, 3, 20}});
        const auto at = [&](int x, int y) {
            return int{mixed.row<std::uint8_t>(0, y)[static_cast<std::size_t>(x)]};
        };
        QCOMPARE(at(9, 15), 0);
        QCOMPARE(at(10, 15), 80);
        QCOMPARE(at(11, 15), 160);
        QCOMPARE(at(12, 15), 240);
        QVERIFY2(at(100, 15) > 225, "narrow ones are taken whole, but for the light beside them");
        QCOMPARE(at(100, 15), at(101, 15));
        QCOMPARE(at(103, 15), 0);
        QCOMPARE(withPlacesFrom(black, white, {{180, 100, 1000, 1000}}).row<std::uint8_t>(0, 111)[191], 240);
    }

    void aDecisionMakesNothingElseStale() {
        const auto source = shot();
        const auto plain = cleaned(source, {{on(14, CleanupKind::keep)}});
        const auto clean = cleaned(source, {{on(5, CleanupKind::rebuild)}});
        QCOMPARE(clean->identityOf(6, 9), source->identityOf(6, 9)); // what was kept of them is found
        QVERIFY(clean->identityOf(4, 6) != plain->identityOf(4, 6));
        // Another picture of a neighbour makes a rebuilt frame another.
        const std::string before = clean->identityOf(5);
        source->otherPicture = 6;
        QVERIFY(clean->identityOf(5) != before);
        source->otherPicture = 12;
        QCOMPARE(clean->identityOf(5), before);
    }

    void nothingIsMadeAcrossACut() {
        const auto clean = cleaned(shot(), {{on(5, CleanupKind::rebuild)}}, {.cuts = {5}});
        QCOMPARE(*clean->frame(5), damaged(4)); // the nearest of its scene stands in
        const auto none = cleaned(shot(), {{on(5, CleanupKind::rebuild)}}, {.cuts = {4, 5}});
        QCOMPARE(*none->frame(5), damaged(5)); // there is nothing to make it from
    }

    void madeFramesAreKeptOnDisk() {
        const QTemporaryDir folder;
        const auto kept = std::make_shared<FrameFolder>(folder.path().toStdString());
        const Cleanup cleanup{{on(5, CleanupKind::rebuild)}};
        const ImagePtr made = cleaned(shot(), cleanup, {.finished = kept})->frame(5);
        kept->flush();
        const auto source = shot();
        QCOMPARE(*cleaned(source, cleanup, {.finished = kept})->frame(5), *made);
        QCOMPARE(source->reads.load(), 0);
    }

    void partsAreTimedApart() {
        // A disc drawn on twos, of 4 pixels a frame, before a background that moves by 3 in every frame.
        const auto source = std::make_shared<DrawnShot>(
            17, [](std::int64_t n) { return discBefore(static_cast<double>(n), heldMoment(n)); });
        Matte matte{.feather = 1};
        for (std::int64_t n = 0; n < 17; ++n)
            matte.keys.push_back({n, circleAround(discAt(heldMoment(n)))});
        Treatment treatment(Method::flow);
        for (std::int64_t n = 1; n < 17; n += 2)
            treatment.found.subjectPassedOver.push_back(n);
        const Timing timing{.sourceRate = Rate(24, 1),
                            .outputRate = Rate(24, 1),
                            .from = 0,
                            .to = 16,
                            .speed = Rational(1, 2)};
        const FramePlan plan = makePlan(timing, treatment, 17);
        const FramePlan plain = makePlan(timing, Method::flow, 17);
        QVERIFY(!plan.rows[16].subject); // both parts lie on a frame that is kept
        QCOMPARE(plan.rows[16].kind, FrameKind::original);
        const auto vectors = std::make_shared<VectorStore>();
        const FrameMaker maker(source, vectors, plan.settings, matte);
        const FrameMaker before(source, vectors, plain.settings, matte);
        for (const std::size_t n : {17, 18, 19}) {
            const PlanRow& row = plan.rows[n];
            QCOMPARE(row.subject, std::optional(std::pair<std::int64_t, std::int64_t>(8, 10)));
            QCOMPARE(subjectPhaseOf(row), Rational(static_cast<std::int64_t>(n) - 16, 4));
            const double moment = static_cast<double>(n) / 2;
            const Image truth = discBefore(moment, moment);
            const double is = psnr(*maker.make(row).image, truth);
            const double was = psnr(*before.make(plain.rows[n]).image, truth);
            QVERIFY2(is > 34 && is > was + 5,
                     qPrintable(QStringLiteral("row %1: %2 dB, was %3").arg(n).arg(is).arg(was)));
        }
        // The background of a source frame is the frame's own, bit for bit, away from the subject.
        const Image made = *maker.make(plan.rows[18]).image;
        const Image own = discBefore(9, 8);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                if (y < 30 || y > 82)
                    QCOMPARE(made.row<std::uint8_t>(0, y)[static_cast<std::size_t>(x)],
                             own.row<std::uint8_t>(0, y)[static_cast<std::size_t>(x)]);
        QVERIFY(maker.contentKey(plan.rows[17]) != maker.contentKey(plan.rows[19]));
    }

    void cancellingActs() {
        std::stop_source stop;
        stop.request_stop();
        const auto clean = cleaned(shot(), {{on(5, CleanupKind::rebuild)}});
        QVERIFY_THROWS_EXCEPTION(std::exception, clean->frame(5, stop.get_token()));
        QVERIFY(psnr(*clean->frame(5), picture(5)) > 36); // and leaves nothing half made
    }
};

QTEST_APPLESS_MAIN(TestCleanedSource)
#include "test_cleaned_source.moc"
