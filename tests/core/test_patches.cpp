// Patches: soft-edged regions, carried along by the motion, that show another version of the frame.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/error.h"
#include "core/mending/patch_pictures.h"
#include "core/mending/patched_frames.h"
#include "core/project/mends_file.h"

#include "support/drawn_shot.h"
#include "support/film.h"
#include "support/pictures.h"
#endif

#include <QTest>

#include <cmath>
#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 180;
constexpr PixelLayout layout420{.chromaShiftX = 1, .chromaShiftY = 1};

double ground(double x, double y) {
    return 40 + 0.7 * (0.7 * texture(x, y, 15, 1) + 0.3 * texture(x, y, 5, 2));
}

/// A bright disc crosses a ground that pans: 6 right and 2 down a frame, the ground 1.5 left.
struct Crossing {
    double fromX = 90, fromY = 60, radius = 24;
    double goesX = 6, goesY = 2, pan = -1.5;

    [[nodiscard]] PicturePoint middle(double time) const {
        return {fromX + goesX * time, fromY + goesY * time};
    }
    [[nodiscard]] double groundAt(int x, int y, double time) const {
        return ground(x + 0.5 - pan * time, y + 0.5);
    }
    [[nodiscard]] Image frame(double time, const PixelLayout& layout = layout420,
                              bool withDisc = true) const {
        const PicturePoint c = middle(time);
        return pictureOf(width, height, layout, [&](int p, int x, int y) {
            const double scale = std::pow(2.0, layout.depth - 8);
            if (p > 0) return scale * (128.0 + p);
            const double dx = x + 0.5 - c.x;
            const double dy = y + 0.5 - c.y;
            if (withDisc && std::hypot(dx, dy) < radius)
                return scale * (195 + 30 * std::sin(0.5 * dx) * std::cos(0.43 * dy));
            return scale * groundAt(x, y, time);
        });
    }
    /// An outline around the disc, with room.
    [[nodiscard]] std::vector<PicturePoint> outline(double time, double room = 4) const {
        const PicturePoint c = middle(time);
        std::vector<PicturePoint> points;
        constexpr int corners = 12;
        for (int i = 0; i < corners; ++i) {
            const double a = 2 * 3.14159265358979 * i / corners;
            points.push_back({c.x + (radius + room) * std::cos(a), c.y + (radius + room) * std::sin(a)});
        }
        return points;
    }
    [[nodiscard]] std::shared_ptr<DrawnShot> shot(std::int64_t frames,
                                                  const PixelLayout& layout = layout420) const {
        return std::make_shared<DrawnShot>(
            frames, [=, *this](std::int64_t n) { return frame(static_cast<double>(n), layout); });
    }
};

Patch patchOn(const Crossing& crossing, double at, PatchShows shows) {
    return {.keys = {{Rational(std::lround(at * 4), 4), crossing.outline(at)}}, .shows = shows, .feather = 6};
}

/// Half speed: output 2 n + 1 lies half way from source frame n to the next.
struct Slowed {
    std::shared_ptr<ShotFrames> source;
    std::shared_ptr<VectorStore> vectors = std::make_shared<VectorStore>();
    std::shared_ptr<const PlannedFrames> planned = plannedWith(Method::flow);

    [[nodiscard]] std::shared_ptr<const PlannedFrames> plannedWith(Method method) const {
        const Timing half{.sourceRate = Rate(24, 1),
                          .outputRate = Rate(24, 1),
                          .from = 0,
                          .to = source->frames() - 1,
                          .speed = Rational(1, 2)};
        const auto plan =
            std::make_shared<const FramePlan>(makePlan(half, Treatment(method), source->frames()));
        return std::make_shared<const PlannedFrames>(plan, FrameMaker(source, vectors, plan->settings));
    }
    [[nodiscard]] std::shared_ptr<const PatchedFrames> with(std::vector<PatchAtWork> patches) const {
        return std::make_shared<const PatchedFrames>(planned, std::move(patches),
                                                     PatchMeans{source, vectors, {}});
    }
};

double off(const std::vector<PicturePoint>& a, const std::vector<PicturePoint>& b) {
    double worst = a.size() == b.size() ? 0 : 1e9;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i)
        worst = std::max(worst, std::hypot(a[i].x - b[i].x, a[i].y - b[i].y));
    return worst;
}

/// Samples that differ inside and outside of a circle in the picture.
struct Differing {
    int inside = 0, outside = 0;
};
Differing differing(const Image& a, const Image& b, const PicturePoint& c, double radius) {
    Differing out;
    for (int p = 0; p < a.planeCount(); ++p)
        for (int y = 0; y < a.plane(p).height; ++y)
            for (int x = 0; x < a.plane(p).width; ++x) {
                if (sampleAt(a, p, x, y) == sampleAt(b, p, x, y)) continue;
                const double perX = static_cast<double>(a.width()) / a.plane(p).width;
                const double perY = static_cast<double>(a.height()) / a.plane(p).height;
                const bool isInside = std::hypot((x + 0.5) * perX - c.x, (y + 0.5) * perY - c.y) < radius;
                ++(isInside ? out.inside : out.outside);
            }
    return out;
}

} // namespace

class TestPatches : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void anOutlineIsCarriedAlong() {
        const Crossing crossing;
        const auto shot = crossing.shot(14);
        const CarriedOutlines outlines(shot, std::make_shared<VectorStore>(), {});
        const Patch patch = patchOn(crossing, 3, PatchShows::softened);
        QVERIFY(off(outlines.at(patch, 3), crossing.outline(3)) == 0);
        for (const double at : {0.0, 2.5, 3.5, 6.0, 9.75}) {
            const double missed =
                off(outlines.at(patch, Rational(std::lround(at * 4), 4)), crossing.outline(at));
            QVERIFY2(missed < 2, qPrintable(QStringLiteral("at %1 by %2 px").arg(at).arg(missed)));
        }
    }

    void anOutlineDrawnBetweenFramesLiesWhereItWasDrawn() {
        const Crossing crossing;
        const auto shot = crossing.shot(8);
        const CarriedOutlines outlines(shot, std::make_shared<VectorStore>(), {});
        const Patch patch = patchOn(crossing, 3.25, PatchShows::softened);
        QVERIFY(off(outlines.at(patch, Rational(13, 4)), crossing.outline(3.25)) == 0);
        // As near as that right beside it too: nothing leaps.
        QVERIFY(off(outlines.at(patch, Rational(1301, 400)), crossing.outline(3.2525)) < 0.1);
        QVERIFY(off(outlines.at(patch, 4), crossing.outline(4)) < 1.5);
        QVERIFY(off(outlines.at(patch, 2), crossing.outline(2)) < 1.5);
    }

    void aKeyCorrectsTheOutlineAndWhatLiesBetween() {
        const Crossing crossing;
        const auto shot = crossing.shot(10);
        const CarriedOutlines outlines(shot, std::make_shared<VectorStore>(), {});
        const Patch patch =
            withKey(patchOn(crossing, 2, PatchShows::softened), 8, crossing.outline(8, 12)); // wider by 8
        QVERIFY(off(outlines.at(patch, 2), crossing.outline(2)) == 0);
        QVERIFY(off(outlines.at(patch, 8), crossing.outline(8, 12)) == 0);
        QVERIFY(off(outlines.at(patch, 5), crossing.outline(5, 8)) < 2); // half of it, half the way
    }

    void acrossACutAnOutlineStays() {
        const Crossing crossing;
        const auto shot = crossing.shot(8);
        const CarriedOutlines outlines(shot, std::make_shared<VectorStore>(), {4});
        const Patch patch = patchOn(crossing, 4, PatchShows::softened);
        QVERIFY(off(outlines.at(patch, 5), crossing.outline(4)) == 0);
    }

    void outsideItsRegionNotASampleDiffers_data() {
        QTest::addColumn<int>("depth");
        QTest::addColumn<int>("shift");
        QTest::addColumn<int>("shows");
        for (const int depth : {8, 10})
            for (const int shift : {0, 1})
                for (const PatchShows shows :
                     {PatchShows::softened, PatchShows::nearest, PatchShows::behind, PatchShows::otherwise})
                    QTest::addRow("%d bit, chroma %d, %s", depth, shift, std::string(name(shows)).c_str())
                        << depth << shift << static_cast<int>(shows);
    }
    void outsideItsRegionNotASampleDiffers() {
        QFETCH(int, depth);
        QFETCH(int, shift);
        QFETCH(int, shows);
        const Crossing crossing;
        const Slowed slowed{crossing.shot(8, {.depth = depth, .chromaShiftX = shift, .chromaShiftY = shift})};
        const Patch patch = patchOn(crossing, 3.5, static_cast<PatchShows>(shows));
        PatchAtWork work{{3, 3}, patch};
        if (patch.shows == PatchShows::otherwise) work.otherwise = slowed.plannedWith(Method::blend);
        const auto patched = slowed.with({work});
        const Image without = *slowed.planned->make(7).image;
        const Image with = *patched->make(7).image;
        // Feather goes 6 px beyond the outline, which lies 4 px beyond the disc; a sample of chroma is 2
        // wide.
        const Differing differ = differing(without, with, crossing.middle(3.5), crossing.radius + 4 + 6 + 3);
        QVERIFY(differ.inside > 500);
        QCOMPARE(differ.outside, 0);
        // Frames of other gaps, and originals, are the same.
        for (const std::int64_t n : {3, 5, 6, 8, 9}) {
            QVERIFY(*slowed.planned->make(n).image == *patched->make(n).image);
            QCOMPARE(patched->key(n), slowed.planned->key(n));
        }
        QVERIFY(patched->key(7) != slowed.planned->key(7));
    }

    void stagesMakeTheSameFrame() {
        const Crossing crossing;
        const Slowed slowed{crossing.shot(8)};
        const auto patched = slowed.with(
            {{{3, 3}, patchOn(crossing, 3.5, PatchShows::softened)},
             {{2, 4}, patchOn(crossing, 3, PatchShows::otherwise), slowed.plannedWith(Method::blend)}});
        const auto making = patched->begin(7);
        making->read({});
        making->estimate({});
        QVERIFY(*making->finish({}).image == *patched->make(7).image);
        QVERIFY(*patched->insight(7, {}).image == *patched->make(7).image);
    }

    void whatLiesBehindIsTheGround() {
        const Crossing crossing;
        const Slowed slowed{crossing.shot(24)};
        const auto patched = slowed.with({{{9, 12}, patchOn(crossing, 10.5, PatchShows::behind)}});
        const Image with = *patched->make(21).image; // 10.5
        const Image truth = crossing.frame(10.5, layout420, false);
        const PicturePoint c = crossing.middle(10.5);
        double sum = 0;
        double count = 0;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                if (std::hypot(x + 0.5 - c.x, y + 0.5 - c.y) > crossing.radius) continue;
                sum += std::pow(sampleAt(with, 0, x, y) - sampleAt(truth, 0, x, y), 2);
                ++count;
            }
        const double steps = std::sqrt(sum / count);
        QVERIFY2(steps < 4, qPrintable(QStringLiteral("%1 steps off").arg(steps)));
    }

    void whatIsSeenMostOfTheTimeLiesBehindAnOutlineThatStays() {
        const Crossing crossing{.pan = 0};
        const Slowed slowed{crossing.shot(24)};
        // A large outline keeps to the ground, and the disc passes through it.
        Patch patch{.keys = {{Rational(21, 2), {{100, 40}, {230, 40}, {230, 140}, {100, 140}}}},
                    .shows = PatchShows::behind,
                    .feather = 4};
        const auto patched = slowed.with({{{10, 10}, patch}});
        const Image with = *patched->make(21).image;
        const Image truth = crossing.frame(10.5, layout420, false);
        const PicturePoint c = crossing.middle(10.5);
        double sum = 0;
        double count = 0;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                if (std::hypot(x + 0.5 - c.x, y + 0.5 - c.y) < crossing.radius) {
                    sum += std::pow(sampleAt(with, 0, x, y) - sampleAt(truth, 0, x, y), 2);
                    ++count;
                }
        const double steps = std::sqrt(sum / count);
        // The disc is 80 steps brighter; the camera is followed over 12 frames, true to a part of a pixel.
        QVERIFY2(steps < 8, qPrintable(QStringLiteral("%1 steps off").arg(steps)));
    }

    void theNearestFrameIsMovedAlong() {
        const Crossing crossing;
        const Slowed slowed{crossing.shot(8)};
        Patch patch = patchOn(crossing, 3, PatchShows::nearest);
        const auto patched = slowed.with({{{3, 3}, patch}});
        const Image with = *patched->make(7).image; // 3.5, from 3: a tie goes to the earlier
        const Image truth = crossing.frame(3.5);
        const PicturePoint c = crossing.middle(3.5);
        double sum = 0;
        double count = 0;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                if (std::hypot(x + 0.5 - c.x, y + 0.5 - c.y) < crossing.radius - 4) {
                    sum += std::pow(sampleAt(with, 0, x, y) - sampleAt(truth, 0, x, y), 2);
                    ++count;
                }
        const double steps = std::sqrt(sum / count);
        QVERIFY2(steps < 5, qPrintable(QStringLiteral("%1 steps off").arg(steps)));
    }

    void softeningTakesFineThingsAwayAndKeepsTheMean() {
        const Image frame = pictureOf(64, 64, {.model = ColourModel::grey},
                                      [](int, int x, int y) { return 100.0 + 50 * ((x + y) % 2); });
        const Image soft = softened(frame, {16, 16, 48, 48}, 8);
        QCOMPARE(sampleAt(soft, 0, 32, 32), 125);
        QCOMPARE(sampleAt(soft, 0, 33, 32), 125);
        QCOMPARE(sampleAt(soft, 0, 15, 32), sampleAt(frame, 0, 15, 32));
        QVERIFY(softened(frame, {16, 16, 48, 48}, 0) == frame);
    }

    void strengthAndFadesAddUp() {
        Patch patch{.keys = {}, .strength = 80, .fade = 4};
        QCOMPARE(shareAt(patch, 10, 20, 15), 0.8);
        QCOMPARE(shareAt(patch, 10, 20, 10), 0.0);
        QCOMPARE(shareAt(patch, 10, 20, 11), 0.2);
        QCOMPARE(shareAt(patch, 10, 20, Rational(39, 2)), 0.1);
        patch.fade = 0;
        QCOMPARE(shareAt(patch, 10, 20, 10), 0.8);
        // Half the strength is half way between both versions.
        Image a(8, 8, {.model = ColourModel::grey});
        Image b = pictureOf(8, 8, {.model = ColourModel::grey}, [](int, int, int) { return 200.0; });
        SoftArea all{{0, 0, 8, 8}, Image(8, 8, {.model = ColourModel::grey, .depth = 16})};
        for (int y = 0; y < 8; ++y)
            std::ranges::fill(all.coverage.row<std::uint16_t>(0, y), std::uint16_t{65535});
        lay(a, b, all, 0.5);
        QCOMPARE(sampleAt(a, 0, 4, 4), 100);
    }

    void originalsAreLeftAloneUnlessAsked() {
        const Crossing crossing;
        const Slowed slowed{crossing.shot(8)};
        Patch patch = patchOn(crossing, 4, PatchShows::softened);
        patch.onOriginals = true;
        const auto patched = slowed.with({{{3, 4}, patch}});
        QVERIFY(!(*patched->make(8).image == *slowed.planned->make(8).image));
        QVERIFY(slowed.planned->row(8).kind == FrameKind::original);
    }

    void draftsArePatchedToo() {
        const Crossing crossing;
        const Slowed slowed{crossing.shot(8)};
        const auto patched = slowed.with({{{3, 3}, patchOn(crossing, 3.5, PatchShows::softened)}});
        const auto drafts = patched->drafts();
        const Image draft = *drafts->make(7).image;
        QCOMPARE(draft.width(), slowed.planned->drafts()->facts().width);
        QVERIFY(!(draft == *slowed.planned->drafts()->make(7).image));
    }

    void regionsOffThePictureDoNoHarm() {
        const Crossing crossing;
        const Slowed slowed{crossing.shot(8)};
        for (const PicturePoint& by : {PicturePoint{-5000, 0}, {150, 90}, {-100, -70}, {0, 1e6}}) {
            Patch patch = patchOn(crossing, 3.5, PatchShows::behind);
            for (PicturePoint& p : patch.keys[0].points)
                p = {p.x + by.x, p.y + by.y};
            const auto patched = slowed.with({{{3, 3}, patch}});
            QCOMPARE(patched->make(7).image->width(), width);
        }
    }

    void aPatchSurvivesItsFileAndBadOnesAreRefused() {
        const Crossing crossing;
        Mend mend{.gaps = {3, 5}, .name = "wing"};
        mend.patch = patchOn(crossing, 3.25, PatchShows::behind);
        mend.patch->fade = 2;
        Mend guided{.gaps = {7, 7}};
        guided.changes.guide = Guide{7, 8, {{{10, 20.5}, {30, 40}}}};
        const Mending mending{.mends = {mend, guided}};
        QVERIFY(parseMends(mendsText(mending), "here") == mending);
        Mending bad = mending;
        bad.mends[0].patch->keys.push_back({Rational(1), crossing.outline(1)}); // out of order
        QVERIFY_THROWS_EXCEPTION(Error, validate(bad));
        bad = mending;
        bad.mends[0].patch->keys[0].points.resize(2);
        QVERIFY_THROWS_EXCEPTION(Error, validate(bad));
        bad = mending;
        bad.mends[1].changes.guide->first = 3;
        QVERIFY_THROWS_EXCEPTION(Error, validate(bad));
        bad = {};
        for (std::size_t i = 0; i <= Mending::mostPatchesAtOnce; ++i)
            bad.mends.push_back(mend);
        QVERIFY_THROWS_EXCEPTION(Error, validate(bad));
        bad.mends.pop_back();
        validate(bad);
    }

    void takenOutOfAGapAGuideGoesAndAPatchIsParted() {
        const Crossing crossing;
        Mend guided{.gaps = {3, 4}};
        guided.changes.guide = Guide{3, 5, {{{1, 1}, {2, 2}}}};
        Mend patched{.gaps = {2, 6}};
        patched.patch = patchOn(crossing, 3, PatchShows::softened);
        const Mending left = withoutMendAt({.mends = {guided, patched}}, 4);
        QCOMPARE(left.mends.size(), std::size_t{2});
        QCOMPARE(left.mends[0].gaps, (GapRange{2, 3}));
        QCOMPARE(left.mends[1].gaps, (GapRange{5, 6}));
        QVERIFY(left.mends[1].patch == patched.patch);
        validate(left);
    }

    void manyPatchesAreSoonSorted() {
        const Crossing crossing;
        const Slowed slowed{crossing.shot(8)};
        std::vector<PatchAtWork> patches(10'000, {{100, 200}, patchOn(crossing, 3, PatchShows::softened)});
        patches.push_back({{3, 3}, patchOn(crossing, 3.5, PatchShows::softened)});
        const auto patched = slowed.with(patches);
        QVERIFY(patched->key(7) != slowed.planned->key(7));
        QCOMPARE(patched->key(5), slowed.planned->key(5));
    }
};

QTEST_APPLESS_MAIN(TestPatches)
#include "test_patches.moc"
