// The frame of the result and all that moves the picture in it: where everything lies, by numbers worked out
// by hand, and that one reading of the picture shows it.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/error.h"
#include "core/finish/finish_geometry.h"
#include "core/finish/picture_reading.h"

#include "support/film.h"
#include "support/pictures.h"
#endif

#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

MediaFacts factsOf(int width, int height, const Rational& aspect = 1,
                   const PixelLayout& layout = {.chromaShiftX = 1, .chromaShiftY = 1}) {
    MediaFacts facts;
    facts.width = width;
    facts.height = height;
    facts.pixelAspect = aspect;
    facts.layout = layout;
    facts.rate = Rate(24, 1);
    facts.frames = 100;
    return facts;
}

FinishPlace at(std::int64_t frame) {
    return {Rational(frame), placeOfFrame(frame)};
}

/// Where a pixel of the source comes to lie.
PicturePoint resultOf(const Finish& finish, const MediaFacts& facts, const PicturePoint& p,
                      std::int64_t frame = 0) {
    return FinishGeometry(finish, facts)
        .toResult(at(frame), hidingScaleAt(finish.hideEdges, Rational(frame)))(p);
}

bool isNear(const PicturePoint& a, const PicturePoint& b, double reach = 1e-6) {
    return std::hypot(a.x - b.x, a.y - b.y) < reach;
}

FollowedPath pathOf(std::initializer_list<PicturePoint> points) {
    FollowedPath path;
    for (const PicturePoint& p : points)
        path.push_back({static_cast<std::int64_t>(path.size()), p, 1, false});
    return path;
}

} // namespace

class TestFinishGeometry : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void picturesAreFittedIntoEveryStandard_data() {
        QTest::addColumn<int>("width");
        QTest::addColumn<int>("height");
        QTest::addColumn<double>("left"); // of the picture's corners in the result
        QTest::addColumn<double>("top");
        QTest::addColumn<double>("right");
        QTest::addColumn<double>("bottom");
        // A source of 1440 x 1080 square pixels, 4:3, worked out by hand.
        QTest::newRow("1920x1080") << 1920 << 1080 << 240.0 << 0.0 << 1680.0 << 1080.0;
        QTest::newRow("3840x2160") << 3840 << 2160 << 480.0 << 0.0 << 3360.0 << 2160.0;
        QTest::newRow("2048x1080") << 2048 << 1080 << 304.0 << 0.0 << 1744.0 << 1080.0;
        QTest::newRow("4096x2160") << 4096 << 2160 << 608.0 << 0.0 << 3488.0 << 2160.0;
        QTest::newRow("1280x720") << 1280 << 720 << 160.0 << 0.0 << 1120.0 << 720.0;
        // 720 pixels of 12/11 are 785.4545 wide: 768 of them show 4:3, 704 pixels.
        QTest::newRow("720x576") << 720 << 576 << 8.0 << 0.0 << 712.0 << 576.0;
        // 720 pixels of 10/11 are 654.5454 wide: 648 of them show 4:3, 712.8 pixels.
        QTest::newRow("720x486") << 720 << 486 << 3.6 << 0.0 << 716.4 << 486.0;
        QTest::newRow("1080x1920") << 1080 << 1920 << 0.0 << 555.0 << 1080.0 << 1365.0;
        QTest::newRow("1080x1080") << 1080 << 1080 << 0.0 << 135.0 << 1080.0 << 945.0;
    }
    void picturesAreFittedIntoEveryStandard() {
        QFETCH(int, width);
        QFETCH(int, height);
        QFETCH(double, left);
        QFETCH(double, top);
        QFETCH(double, right);
        QFETCH(double, bottom);
        const auto standards = frameStandards();
        const auto standard = std::ranges::find(standards, FrameSize{width, height}, &FrameStandard::size);
        QVERIFY(standard != standards.end());
        Finish finish;
        finish.frame.size = standard->size;
        finish.frame.pixelAspect = standard->pixelAspect;
        const MediaFacts facts = factsOf(1440, 1080);
        QVERIFY(isNear(resultOf(finish, facts, {0, 0}), {left, top}));
        QVERIFY(isNear(resultOf(finish, facts, {1440, 1080}), {right, bottom}));
    }

    void otherFitsDoWhatTheySay() {
        const MediaFacts facts = factsOf(1440, 1080);
        const auto corner = [&](FrameFit fit, const PicturePoint& p) {
            Finish finish;
            finish.frame.size = FrameSize{1920, 1080};
            finish.frame.fit = fit;
            return resultOf(finish, facts, p);
        };
        // 1920 / 1440 = 4/3: 1440 lines, 180 cut off at the top.
        QVERIFY(isNear(corner(FrameFit::fill, {0, 0}), {0, -180}));
        QVERIFY(isNear(corner(FrameFit::width, {1440, 1080}), {1920, 1260}));
        QVERIFY(isNear(corner(FrameFit::height, {0, 0}), {240, 0}));
        QVERIFY(isNear(corner(FrameFit::byHand, {0, 0}), {240, 0}));
        // Anamorphic pixels: 720 x 576 of 64/45 are 1024 wide, 16:9.
        Finish square;
        square.frame.size = FrameSize{1920, 1080};
        QVERIFY(isNear(resultOf(square, factsOf(720, 576, Rational(64, 45)), {720, 576}), {1920, 1080}));
        QVERIFY(isNear(resultOf(square, factsOf(720, 576, Rational(64, 45)), {360, 0}), {960, 0}));
    }

    void sizesThatCannotBeAreRoundedAndSaid() {
        const ResultFrame even = resultFrame({.size = FrameSize{1919, 1079}}, factsOf(960, 540));
        QCOMPARE(even.size.width, 1920);
        QCOMPARE(even.size.height, 1080);
        QVERIFY(even.isRounded);
        const PixelLayout full{};
        const ResultFrame odd = resultFrame({.size = FrameSize{1919, 1079}}, factsOf(960, 540, 1, full));
        QCOMPARE(odd.size.width, 1919);
        QVERIFY(!odd.isRounded);
        // Of the source's own size nothing changes, odd as it may be.
        const ResultFrame own = resultFrame({}, factsOf(961, 541, Rational(16, 15)));
        QCOMPARE(own.size.width, 961);
        QCOMPARE(own.pixelAspect, Rational(16, 15));
    }

    void keysOfPlaceGoEvenlyOrEased() {
        const std::vector<PlaceKey> keys{{.at = 10, .scale = 1, .x = 0, .isEased = false},
                                         {.at = 20, .scale = 4, .x = 0.5, .isEased = true},
                                         {.at = 30, .scale = 1, .x = 0}};
        QCOMPARE(placeAt(keys, 5).scale, 1.0);
        QVERIFY(std::abs(placeAt(keys, 15).scale - 2) < 1e-12); // by ratio: √4
        QVERIFY(std::abs(placeAt(keys, 15).x - 0.25) < 1e-12);
        // Eased: u = 1/4 is 3/16 − 2/64 = 10/64 of the way.
        QVERIFY(std::abs(placeAt(keys, Rational(45, 2)).x - 0.5 * (1 - 10.0 / 64)) < 1e-12);
        QCOMPARE(placeAt(keys, 99).scale, 1.0);
        const auto more = withPlaceKey(keys, {.at = 20, .scale = 3});
        QCOMPARE(more.size(), std::size_t{3});
        QCOMPARE(more[1].scale, 3.0);
        QCOMPARE(withPlaceKey(keys, {.at = 25}).size(), std::size_t{4});
    }

    void onePointIsHeldWhereItWas() {
        const MediaFacts facts = factsOf(960, 540);
        Finish finish;
        finish.hold.path = pathOf({{100, 80}, {110, 85}, {130, 90}});
        QVERIFY(isNear(resultOf(finish, facts, {130, 90}, 2), {100, 80}));
        QVERIFY(isNear(resultOf(finish, facts, {110, 85}, 1), {100, 80}));
        finish.hold.frame = 2;
        QVERIFY(isNear(resultOf(finish, facts, {100, 80}, 0), {130, 90}));
        finish.hold.at = HoldAt::middle;
        for (std::int64_t n = 0; n < 3; ++n)
            QVERIFY(isNear(resultOf(finish, facts, finish.hold.path[static_cast<std::size_t>(n)].at, n),
                           {480, 270}));
        finish.hold.at = HoldAt::chosen;
        finish.hold.chosen = {0.25, 0.5};
        QVERIFY(isNear(resultOf(finish, facts, {110, 85}, 1), {240, 270}));
        // Held by half, half of its motion is left.
        finish.hold.at = HoldAt::own;
        finish.hold.frame = 0;
        finish.hold.share = 50;
        QVERIFY(isNear(resultOf(finish, facts, {130, 90}, 2), {115, 85}));
    }

    void aSecondPointHoldsTurnAndSize() {
        const MediaFacts facts = factsOf(960, 540);
        Finish finish;
        // A thing turns by 90 degrees and doubles about its first point, which goes by (50, 20).
        finish.hold.path = pathOf({{200, 200}, {250, 220}});
        finish.hold.second = pathOf({{240, 200}, {250, 300}});
        QVERIFY(isNear(resultOf(finish, facts, {250, 220}, 1), {200, 200}));
        QVERIFY(isNear(resultOf(finish, facts, {250, 300}, 1), {240, 200}));
        // A third point of it, which was at (200, 230): half the size, turned back.
        QVERIFY(isNear(resultOf(finish, facts, {190, 220}, 1), {200, 230}));
        finish.hold.turns = false;
        QVERIFY(isNear(resultOf(finish, facts, {250, 300}, 1), {200, 280}));
        // The same of pixels that are not square.
        const MediaFacts wide = factsOf(960, 540, Rational(2, 1));
        Finish flat;
        flat.hold.path = pathOf({{100, 100}, {100, 100}});
        flat.hold.second = pathOf({{120, 100}, {100, 140}}); // 40 square pixels right, then 40 down
        QVERIFY(isNear(resultOf(flat, wide, {100, 140}, 1), {120, 100}));
    }

    void pathsFollowPositions() {
        const FollowedPath path = pathOf({{0, 0}, {10, 0}, {20, 0}, {30, 40}});
        PathPlace half{.first = 1, .last = 2, .phase = 0.5};
        QVERIFY(isNear(pointAt(path, half), {15, 0}));
        // Of even motion a bent path is straight, of one that turns it is not.
        half.bends = true;
        half.before = 0;
        half.after = 3;
        const PicturePoint bent = pointAt(path, half);
        QVERIFY(bent.y < -0.1 && std::abs(bent.x - 15) < 1e-9);
        // There and back the same: the mirror image of the way.
        const PathPlace back{.first = 1, .last = 2, .phase = 0.25};
        QVERIFY(isNear(pointAt(path, back), {12.5, 0}));
        // Beyond its ends it stays; missing frames are bridged.
        QVERIFY(isNear(pointAt(path, placeOfFrame(9)), {30, 40}));
        FollowedPath gappy = pathOf({{0, 0}, {10, 0}, {20, 0}, {30, 0}, {40, 0}, {50, 0}});
        gappy.erase(gappy.begin() + 2, gappy.begin() + 4);
        QVERIFY(isNear(pointAt(gappy, placeOfFrame(2)), {20, 0}));
    }

    void badPointsAreBridged() {
        FollowedPath path = pathOf({{0, 0}, {1, 0}, {2, 0}, {3, 0}});
        path[1].quality = 0.5;
        path[2].quality = 0.5;
        path[2].isPut = true;
        path[3].quality = 0.1;
        const FollowedPath less = bridged(path, 0.9);
        QCOMPARE(less.size(), std::size_t{3}); // what was put stays, and both ends
        QCOMPARE(less[1].frame, 2);
    }

    void edgesAreHiddenByTheLeastScale() {
        const MediaFacts facts = factsOf(1000, 500);
        Finish finish;
        finish.hold.path = pathOf({{500, 250}, {550, 250}, {500, 230}});
        const FinishGeometry geometry(finish, facts);
        QVERIFY(std::abs(*geometry.scaleThatHides(at(0)) - 1) < 1e-9);
        // Moved left by 50 of 500: 500 / 450. Moved down by 20 of 250: 250 / 230.
        QVERIFY(std::abs(*geometry.scaleThatHides(at(1)) - 500.0 / 450) < 1e-9);
        QVERIFY(std::abs(*geometry.scaleThatHides(at(2)) - 250.0 / 230) < 1e-9);
        // What the made frame itself lacks counts as well.
        QVERIFY(std::abs(*geometry.scaleThatHides(at(0), 1.05) - 1.05) < 1e-9);
        // At that scale no corner shows what lies outside, a little below it one does.
        for (const auto& [scale, isBare] :
             {std::pair{500.0 / 450, false}, std::pair{500.0 / 450 - 0.002, true}}) {
            Finish hidden = finish;
            hidden.hideEdges.scale = scale;
            const Mapping mapping = FinishGeometry(hidden, facts).at(at(1));
            QCOMPARE(showsAround(mapping, 1000, 500, 1000, 500), isBare);
        }
        // Bars of a fitted picture are no edges.
        Finish boxed;
        boxed.frame.size = FrameSize{1000, 1000};
        QVERIFY(std::abs(*FinishGeometry(boxed, facts).scaleThatHides(at(0)) - 1) < 1e-9);
        // What is moved out altogether cannot be hidden.
        Finish far;
        far.hold.path = pathOf({{100, 100}, {900, 100}});
        QVERIFY(!FinishGeometry(far, facts).scaleThatHides(at(1)));
    }

    void hidingComesAndGoesAroundItsStretch() {
        HideEdges hide{.scale = 1.2, .from = Rational(40), .to = Rational(60), .fade = 10};
        QCOMPARE(hidingScaleAt(hide, 50), 1.2);
        QCOMPARE(hidingScaleAt(hide, 40), 1.2);
        QVERIFY(std::abs(hidingScaleAt(hide, 35) - 1.1) < 1e-12); // half way of an ease
        QCOMPARE(hidingScaleAt(hide, 30), 1.0);
        QCOMPARE(hidingScaleAt(hide, 70), 1.0);
        hide.fade = 0;
        QCOMPARE(hidingScaleAt(hide, 39), 1.0);
    }

    void onlyBordersAreCovered() {
        // A picture of 64 x 48 in a frame of 100 x 60: 10 columns and no line too many.
        const MediaFacts facts = factsOf(64, 48, 1, {});
        Finish finish;
        finish.frame.size = FrameSize{100, 60};
        finish.frame.around = {255, 255, 255};
        const Mapping mapping = FinishGeometry(finish, facts).at(at(0));
        const Image grey = pictureOf(64, 48, {}, [](int p, int, int) { return p == 0 ? 100 : 128; });
        Image out = readThrough(grey, mapping, 100, 60, {});
        coverAround(out, mapping, 64, 48, finish.frame.around, {});
        for (int y = 0; y < 60; ++y)
            for (int x = 0; x < 100; ++x) {
                const bool isPicture = x >= 10 && x < 90;
                QCOMPARE(sampleAt(out, 0, x, y), isPicture ? 100 : 235);
                QCOMPARE(sampleAt(out, 1, x, y), 128);
            }
    }

    void onePixelIsSharedByPictureAndBorder() {
        const MediaFacts facts = factsOf(64, 48, 1, {});
        Finish finish;
        finish.places = {{.at = 0, .scale = 1, .x = 10.25 / 64}};
        finish.frame.around = {0, 0, 0};
        const Mapping mapping = FinishGeometry(finish, facts).at(at(0));
        const Image grey = pictureOf(64, 48, {}, [](int p, int, int) { return p == 0 ? 216 : 128; });
        Image out = readThrough(grey, mapping, 64, 48, {});
        coverAround(out, mapping, 64, 48, finish.frame.around, {});
        QCOMPARE(sampleAt(out, 0, 9, 20), 16);
        QCOMPARE(sampleAt(out, 0, 10, 20), 16 + 150); // three quarters of 200
        QCOMPARE(sampleAt(out, 0, 11, 20), 216);
    }

    void oneMappingIsThePartsOneByOne() {
        // Smooth, so that reading five times loses little that reading once does not.
        const auto smooth = [](double x, double y) {
            return 128 + 50 * std::sin(x / 17) + 40 * std::cos(y / 13 + x / 29);
        };
        const Image picture = pictureOf(320, 240, {.depth = 16}, [&](int p, int x, int y) {
            return p == 0 ? 256 * smooth(x, y) : 32768;
        });
        const std::array<Plane, 4> parts{
            Plane::scaledAbout({160, 120}, 1.07), Plane::shift(3.3, -2.1),
            Plane::shift(160, 120).after(Plane::turned(0.03, 0.98)).after(Plane::shift(-160, -120)),
            Plane::shift(-1.6, 0.7)};
        Image byParts = picture;
        Plane whole;
        for (const Plane& part : parts) {
            byParts = readThrough(byParts, {part, {}}, 320, 240, {});
            whole = whole.after(part);
        }
        const Image atOnce = readThrough(picture, {whole, {}}, 320, 240, {});
        double worst = 0;
        for (int y = 40; y < 200; ++y)
            for (int x = 40; x < 280; ++x)
                worst =
                    std::max(worst, std::abs(sampleAt(byParts, 0, x, y) - sampleAt(atOnce, 0, x, y)) / 256.0);
        QVERIFY2(worst < 0.05, qPrintable(QString::number(worst)));
        // And it is the picture where it should be.
        for (const auto& [x, y] : {std::pair{100, 90}, std::pair{200, 150}}) {
            const PicturePoint from = whole({x + 0.5, y + 0.5});
            QVERIFY(std::abs(sampleAt(atOnce, 0, x, y) / 256.0 - smooth(from.x - 0.5, from.y - 0.5)) < 0.05);
        }
    }

    void chromaLiesWhereLumaLies_data() {
        QTest::addColumn<int>("site");
        QTest::newRow("left") << 1;
        QTest::newRow("centre") << 2;
        QTest::newRow("top left") << 3;
    }
    void chromaLiesWhereLumaLies() {
        QFETCH(int, site);
        ColourTags colour;
        colour.chromaSite = site;
        const PixelLayout layout{.depth = 16, .chromaShiftX = 1, .chromaShiftY = 1};
        // The same slope in luma and chroma, sampled where each has its samples.
        const auto slope = [](double x, double y) { return 20000 + 37 * x + 23 * y; };
        const double ox = site == 2 ? 1 : 0.5; // from the corner, in pixels
        const double oy = site == 3 ? 0.5 : 1;
        const Image picture = pictureOf(128, 96, layout, [&](int p, int x, int y) {
            return p == 0 ? slope(x + 0.5, y + 0.5) : slope(2 * x + ox, 2 * y + oy);
        });
        const Plane plane = Plane::scaledAbout({64, 48}, 0.9).after(Plane::shift(2.7, 1.9));
        const Image out = readThrough(picture, {plane, {}}, 128, 96, colour);
        for (const auto& [x, y] : {std::pair{20, 20}, std::pair{40, 30}}) {
            const PicturePoint from = plane({2 * x + ox, 2 * y + oy});
            QVERIFY(std::abs(sampleAt(out, 1, x, y) - slope(from.x, from.y)) < 1.5);
            const PicturePoint luma = plane({x + 0.5, y + 0.5});
            QVERIFY(std::abs(sampleAt(out, 0, x, y) - slope(luma.x, luma.y)) < 1.5);
        }
    }

    void wholePixelsAreMovedBitForBit() {
        const PixelLayout layout{.depth = 10, .chromaShiftX = 1, .chromaShiftY = 1};
        const Image picture =
            pictureOf(128, 96, layout, [](int p, int x, int y) { return 1023 * hashed(x, y, p); });
        const Image moved = readThrough(picture, {Plane::shift(10, 6), {}}, 100, 80, {});
        for (int p = 0; p < 3; ++p)
            for (int y = 0; y < moved.plane(p).height; ++y)
                for (int x = 0; x < moved.plane(p).width; ++x)
                    QCOMPARE(sampleAt(moved, p, x, y),
                             sampleAt(picture, p, x + (p ? 5 : 10), y + (p ? 3 : 6)));
    }

    void smallerPicturesShowNoFalsePattern() {
        // Stripes a pixel wide become grey, not broad stripes.
        const Image stripes = pictureOf(400, 300, {.model = ColourModel::grey},
                                        [](int, int x, int) { return x % 2 ? 255 : 0; });
        const Image small = readThrough(stripes, {Plane::scaled(3.1, 3.1), {}}, 129, 96, {});
        for (int x = 4; x < 124; ++x)
            QVERIFY(std::abs(sampleAt(small, 0, x, 40) - 127.5) < 40);
    }

    void aLensBulgesTheMiddleAndKeepsCorners() {
        const Lens lens{.centre = {100, 50}, .radius = std::hypot(100, 50), .amount = 0.4};
        QVERIFY(isNear(lens({100, 50}), {100, 50}));
        QVERIFY(isNear(lens({0, 0}), {0, 0}));
        const PicturePoint half = lens({150, 50}); // r² = 2500 / 12500: 1 − 0.4 × 0.8 = 0.68
        QVERIFY(isNear(half, {100 + 0.68 * 50, 50}));
    }

    void whatCannotBeIsRefused() {
        const auto refused = [](const std::function<void(Finish&)>& change) {
            Finish finish;
            change(finish);
            try {
                validate(finish);
            } catch (const Error& error) {
                return std::string(error.what());
            }
            return std::string();
        };
        QVERIFY(refused([](Finish&) {}).empty());
        QVERIFY(refused([](Finish& f) {
                    f.frame.size = FrameSize{20000, 100};
                }).find("16384") != std::string::npos);
        QVERIFY(!refused([](Finish& f) { f.frame.size = FrameSize{0, 100}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.places = {{.scale = 0}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.places = {{.scale = 1e9}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.places = {{.scale = std::nan("")}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.places = {{.at = 3}, {.at = 3}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.hideEdges.scale = 0.5; }).empty());
        QVERIFY(!refused([](Finish& f) { f.hold.path = {{5, {0, 0}}, {5, {1, 1}}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.hold.path = {{5, {std::nan(""), 0}}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.calm.seconds = 0; }).empty());
        QVERIFY(!refused([](Finish& f) { f.smears = {{.from = 5, .to = 4}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.texture.softenRadius = 1e9; }).empty());
        QVERIFY(refused([](Finish& f) {
                    f.tones = {{.curve = {{0, 0}, {0.6, 0.7}, {0.5, 0.8}}}};
                }).find("folds") != std::string::npos);
        QVERIFY(!refused([](Finish& f) { f.tones = {{.curve = {{0, 0.5}, {1, 0.2}}}}; }).empty());
        QVERIFY(!refused([](Finish& f) { f.tones = {{.black = 0.5, .white = 0.5}}; }).empty());
    }
};

QTEST_GUILESS_MAIN(TestFinishGeometry)
#include "test_finish_geometry.moc"
