// Every in-between setting changes what it says it changes, on footage whose answer is known.

#include "core/image/light_curve.h"
#include "core/image/light_mean.h"
#include "core/motion/flow_estimator.h"
#include "core/synthesis/plane_cells.h"
#include "core/synthesis/shutter.h"
#include "core/synthesis/stand_in.h"
#include "core/synthesis/warp.h"
#include "support/pictures.h"

#include <QTest>

#include <array>
#include <cmath>
#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr PixelLayout grey8{.model = ColourModel::grey, .depth = 8};
constexpr int width = 160;
constexpr int height = 96;

Image flat(int value) {
    return pictureOf(width, height, grey8, [=](int, int, int) { return value; });
}

/// Vectors chosen per pixel: `motion(x, y)` on the pixels of the first frame and `back` on those of the
/// second.
Vectors vectorsOf(const std::function<std::pair<float, float>(int, int)>& motion,
                  const std::function<std::pair<float, float>(int, int)>& back) {
    const std::size_t n = std::size_t{width} * height;
    Vectors v{{width, height, std::vector<float>(2 * n)},
              {width, height, std::vector<float>(2 * n)},
              {width, height, std::vector<std::uint8_t>(n, 255)},
              {width, height, std::vector<std::uint8_t>(n, 255)}};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            std::tie(v.forward.row(y)[2 * x], v.forward.row(y)[2 * x + 1]) = motion(x, y);
            std::tie(v.backward.row(y)[2 * x], v.backward.row(y)[2 * x + 1]) = back(x, y);
        }
    return v;
}
Vectors evenMotion(float vx, float vy) {
    return vectorsOf([=](int, int) { return std::pair(vx, vy); },
                     [=](int, int) { return std::pair(-vx, -vy); });
}

/// Grain of standard deviation `sigma` about 128; another `seed` is another frame's.
Image grain(double sigma, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(128, sigma);
    return pictureOf(width, height, grey8,
                     [&](int, int, int) { return std::clamp(noise(random), 0.0, 255.0); });
}

double deviation(const Image& image) {
    double sum = 0;
    double squares = 0;
    double n = 0;
    for (int y = 8; y < height - 8; ++y)
        for (int x = 8; x < width - 8; ++x, ++n) {
            const double v = sampleAt(image, 0, x, y);
            sum += v;
            squares += v * v;
        }
    return std::sqrt(squares / n - sum / n * (sum / n));
}

/// A bright square that moves right over a darker one that moves left, both over mid grey; crossing at x = 80
/// half way.
struct Crossing {
    static constexpr float fast = 24; // of the bright square
    static constexpr float slow = -8;
    static bool inBright(double x, double y, double at) {
        return std::abs(x - at) < 12 && std::abs(y - 48) < 12;
    }
    static bool inDark(double x, double y, double at) {
        return std::abs(x - at) < 20 && std::abs(y - 48) < 20;
    }
    /// As seen at `t`, with one or the other on top.
    static Image at(double t, bool brightOnTop) {
        const double bright = 80 - fast / 2 + fast * t;
        const double dark = 80 - slow / 2 + slow * t;
        return pictureOf(width, height, grey8, [=](int, int x, int y) {
            const bool b = inBright(x, y, bright);
            const bool d = inDark(x, y, dark);
            if (b && (brightOnTop || !d)) return 220;
            return d ? 40 : 128;
        });
    }
    /// As an estimator that saw through both would give them: each square's own pixels move with it. At the
    /// ends the squares lie apart far enough for the centre of each to be seen.
    static Vectors vectors() {
        const auto motionAt = [](int x, int y, double t) -> std::pair<float, float> {
            if (inBright(x, y, 80 - fast / 2 + fast * t)) return {fast, 0};
            if (inDark(x, y, 80 - slow / 2 + slow * t)) return {slow, 0};
            return {0, 0};
        };
        return vectorsOf([=](int x, int y) { return motionAt(x, y, 0); },
                         [=](int x, int y) {
                             const auto [vx, vy] = motionAt(x, y, 1);
                             return std::pair(-vx, -vy);
                         });
    }
};

} // namespace

class TestInBetweens : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void inFrontSaysWhichSquareCoversTheOther() {
        const Image a = Crossing::at(0, true);
        const Image b = Crossing::at(1, true);
        const Vectors v = Crossing::vectors();
        SynthesisOptions options;
        options.inFront = InFront::faster;
        QVERIFY(sampleAt(warpBetween(a, b, v, 0.5, options).image, 0, 80, 48) > 200); // the bright one
        options.inFront = InFront::slower;
        QVERIFY(sampleAt(warpBetween(a, b, v, 0.5, options).image, 0, 80, 48) < 140); // not the fast one
    }

    void oneSideShowsNothingOfTheOther_data() {
        QTest::addColumn<int>("sides");
        QTest::addColumn<int>("value");
        QTest::newRow("before") << static_cast<int>(Sides::before) << 90;
        QTest::newRow("after") << static_cast<int>(Sides::after) << 170;
        QTest::newRow("both") << static_cast<int>(Sides::both) << 130;
    }
    void oneSideShowsNothingOfTheOther() {
        QFETCH(int, sides);
        QFETCH(int, value);
        const WarpedFrame made =
            warpBetween(flat(90), flat(170), evenMotion(6, 0), 0.5, {.sides = static_cast<Sides>(sides)});
        for (const int x : {10, 80, 150})
            QCOMPARE(sampleAt(made.image, 0, x, 50), value);
    }

    void belowTheTrustLimitTheStandInShows() {
        // Texture that moves by 6, told as moving by 20: both sides disagree wherever there is texture, on
        // the left.
        const auto picture = [](double dx) {
            return pictureOf(width, height, grey8, [=](int, int x, int y) {
                return x < width / 2 ? 128 + 60 * std::sin((x - dx) * 0.7) * std::sin(y * 0.5) : 128;
            });
        };
        const Image a = picture(0);
        const Image b = picture(6);
        const Vectors wrong = evenMotion(20, 0);
        SynthesisOptions options;
        const Image plain = warpBetween(a, b, wrong, 0.25, options).image;
        options.trustLimit = 50;
        const Image blend = warpBetween(a, b, wrong, 0.25, options).image;
        options.standIn = StandIn::repeat;
        const Image repeat = warpBetween(a, b, wrong, 0.25, options).image;
        options.standIn = StandIn::side;
        const Image side = warpBetween(a, b, wrong, 0.25, options).image;
        options = {.sides = Sides::before};
        const Image before = warpBetween(a, b, wrong, 0.25, options).image;
        int moved = 0;
        for (int y = 20; y < 76; ++y)
            for (int x = 20; x < 56; ++x) {
                const int mixed =
                    static_cast<int>(std::lround(0.75 * sampleAt(a, 0, x, y) + 0.25 * sampleAt(b, 0, x, y)));
                QVERIFY(std::abs(sampleAt(blend, 0, x, y) - mixed) <= 12);
                QVERIFY(std::abs(sampleAt(repeat, 0, x, y) - sampleAt(a, 0, x, y)) <= 12);
                QVERIFY(std::abs(sampleAt(side, 0, x, y) - sampleAt(before, 0, x, y)) <= 12);
                moved += std::abs(sampleAt(plain, 0, x, y) - mixed) > 24 ? 1 : 0;
            }
        QVERIFY(moved > 500); // without a limit it shows something else
    }

    void pathsBendWhereMotionDoes() {
        // Everything is at 9 t² + 3 t: 6 pixels back before, 12 on in this gap, 30 in the next.
        const auto at = [](double time) {
            const double x0 = 9 * time * time + 3 * time;
            return pictureOf(width, height, grey8, [=](int, int x, int y) {
                return 128 + 60 * std::sin(0.21 * (x - x0)) * std::cos(0.17 * y) +
                       30 * std::sin(0.09 * (x - x0) + 0.3 * y);
            });
        };
        const Image a = at(0);
        const Image b = at(1);
        const Beside beside{.motion = {std::make_shared<Vectors>(evenMotion(6 - 12, 0)),
                                       std::make_shared<Vectors>(evenMotion(30, 0))}};
        for (const double phase : {0.25, 0.5, 0.75}) {
            const Image truth = at(phase);
            const Vectors motion = evenMotion(12, 0);
            const double straight = lumaPsnr(warpBetween(a, b, motion, phase).image, truth, 32);
            const double bent = lumaPsnr(warpBetween(a, b, motion, phase, {}, {}, beside).image, truth, 32);
            QVERIFY2(bent > 40 && bent > straight + 10,
                     qPrintable(QStringLiteral("%1 dB bent, %2 straight").arg(bent).arg(straight)));
        }
        // One neighbour is not enough to tell, and even motion is straight.
        const Vectors motion = evenMotion(12, 0);
        const Image straight = warpBetween(a, b, motion, 0.5).image;
        QVERIFY(warpBetween(a, b, motion, 0.5, {}, {}, {{beside.motion.before, nullptr}}).image == straight);
        const auto even = std::make_shared<Vectors>(motion);
        QVERIFY(warpBetween(a, b, motion, 0.5, {}, {}, {{even, even}}).image == straight);
        // Jerks to and fro are no curve: what would bend one way before and the other after is left straight.
        const Beside jerk{.motion = {std::make_shared<Vectors>(evenMotion(0, 0)),
                                     std::make_shared<Vectors>(evenMotion(0, 0))}};
        QVERIFY(warpBetween(a, b, motion, 0.5, {}, {}, jerk).image == straight);
    }

    void theScaleThatHidesBareCornersIsFound() {
        // Moving right and up: half way, ten pixels square are bare at the upper left and the lower right.
        const Image a = flat(90);
        QVERIFY(std::abs(warpBetween(a, a, evenMotion(20, -20), 0.5).edgeScale - 160.0 / 140) < 1e-3);
        // At a quarter of the way a lacks six columns at the left and six rows below, b eighteen rows above
        // and as many columns at the right: six columns are to go at the upper left, six rows at the lower
        // right.
        QVERIFY(std::abs(warpBetween(a, a, evenMotion(24, -24), 0.25).edgeScale - 96.0 / 84) < 1e-3);
        // Straight motion leaves nothing bare: what a lacks b has.
        QCOMPARE(warpBetween(a, a, evenMotion(20, 0), 0.5).edgeScale, 1.0);
        QCOMPARE(warpBetween(a, a, evenMotion(0, 0), 0.5).edgeScale, 1.0);
    }

    void cellsAreReadAtEachPlanesOwnPlaces() {
        // Motion that grows by a step per cell, across and down: linear interpolation must find it
        // everywhere.
        const int across = cellsOf(13);
        const int down = cellsOf(9);
        MidMotion mid{across, down, {}, {}};
        for (int y = 0; y < down; ++y)
            for (int x = 0; x < across; ++x)
                mid.cells.push_back({static_cast<float>(x), static_cast<float>(y), 0.25F, 0.5F});
        for (const auto& [shiftX, shiftY] :
             {std::pair(1, 1), std::pair(1, 0), std::pair(0, 0), std::pair(2, 0)}) {
            const Image picture(13, 9, {.chromaShiftX = shiftX, .chromaShiftY = shiftY});
            for (int p = 0; p < 2; ++p) {
                const int sx = p == 0 ? 0 : shiftX;
                const int sy = p == 0 ? 0 : shiftY;
                const PlaneCells cells(mid, picture, p);
                std::vector<MidCell> line;
                for (int y = 0; y < picture.plane(p).height; ++y) {
                    cells.row(y, line);
                    QCOMPARE(line.size(), static_cast<std::size_t>(picture.plane(p).width));
                    for (int x = 0; x < picture.plane(p).width; ++x) {
                        const auto place = [](int sample, int shift, int count) {
                            return std::clamp((sample + 0.5) * (1 << shift) / 2 - 0.5, 0.0, count - 1.0);
                        };
                        const MidCell& cell = line[static_cast<std::size_t>(x)];
                        QVERIFY(std::abs(cell.vx - place(x, sx, across) * 2 / (1 << sx)) < 1e-4);
                        QVERIFY(std::abs(cell.vy - place(y, sy, down) * 2 / (1 << sy)) < 1e-4);
                        QVERIFY(cell.shareB == 0.25F && cell.instead == 0.5F);
                    }
                }
            }
        }
    }

    void theStandInComesSoftlyInSpaceAndTime() {
        // Trust that falls from 1 to 0 across one column, and the column moving by a pixel.
        const auto weights = [](int column) {
            MidMotion mid{width, height, {}, {}};
            for (int y = 0; y < height; ++y)
                for (int x = 0; x < width; ++x)
                    mid.trust.push_back(x < column ? 1.0F : 0.0F);
            return standInWeights(mid, 50);
        };
        const std::vector<float> now = weights(80);
        const std::vector<float> next = weights(81);
        QCOMPARE(now[std::size_t{40} * width + 40], 0.0F);
        QCOMPARE(now[std::size_t{40} * width + 120], 1.0F);
        // Two means over 9 cells make a triangle of 17, whose part before the column is trusted; the weight
        // goes from 35 to 65 % of trust along 3s² − 2s³.
        const auto expected = [](int x, int column) {
            double trust = 0;
            for (int d = -8; d <= 8; ++d)
                trust += x + d < column ? (9.0 - std::abs(d)) / 81 : 0.0;
            const double s = std::clamp((trust - 0.35) / 0.3, 0.0, 1.0);
            return 1 - s * s * (3 - 2 * s);
        };
        for (int x = 20; x < width - 20; ++x) {
            const std::size_t i = std::size_t{40} * width + static_cast<std::size_t>(x);
            QVERIFY2(std::abs(now[i] - expected(x, 80)) < 1e-4, qPrintable(QString::number(x)));
            QVERIFY2(std::abs(next[i] - expected(x, 81)) < 1e-4, qPrintable(QString::number(x)));
        }
        // No pixel alone decides: one wrong one in a trusted field changes nothing.
        MidMotion lone{width, height, {}, std::vector<float>(std::size_t{width} * height, 1.0F)};
        lone.trust[std::size_t{40} * width + 40] = 0;
        for (const float w : standInWeights(lone, 50))
            QCOMPARE(w, 0.0F);
    }

    void mixingWeakensGrainUnlessItIsKept() {
        const Image a = grain(10, 1);
        const Image b = grain(10, 2);
        const Vectors still = evenMotion(0, 0);
        // √(½² + ½²) of it is left of uncorrelated grain.
        QVERIFY(std::abs(deviation(warpBetween(a, b, still, 0.5).image) / deviation(a) - std::sqrt(0.5)) <
                0.05);
        const double kept =
            deviation(warpBetween(a, b, still, 0.5, {.keepGrain = true}).image) / deviation(a);
        QVERIFY2(kept > 0.9 && kept < 1.1, qPrintable(QString::number(kept)));
        const double late =
            deviation(warpBetween(a, b, still, 0.75, {.keepGrain = true}).image) / deviation(a);
        QVERIFY2(late > 0.9 && late < 1.1, qPrintable(QString::number(late)));
    }

    void keptGrainMendsNoDisagreement() {
        // Pictures that differ by far more than their grain: a ghost must not come back whole.
        Image b = grain(4, 2);
        for (int y = 40; y < 56; ++y)
            for (int x = 70; x < 90; ++x)
                b.row<std::uint8_t>(0, y)[static_cast<std::size_t>(x)] = 230;
        const WarpedFrame made = warpBetween(grain(4, 1), b, evenMotion(0, 0), 0.25, {.keepGrain = true});
        QVERIFY(std::abs(sampleAt(made.image, 0, 80, 48) - (0.75 * 128 + 0.25 * 230)) < 15);
    }

    void evenTextureMixesOriginalsLikeTheOthers() {
        const Image a = grain(10, 1);
        const Image b = grain(10, 2);
        const Vectors still = evenMotion(0, 0);
        const SynthesisOptions even{.evenTexture = true};
        std::vector<double> strengths;
        for (const double phase : {0.0, 0.25, 0.5, 0.75, 1.0})
            strengths.push_back(deviation(warpBetween(a, b, still, phase, even).image));
        const auto [least, most] = std::minmax_element(strengths.begin(), strengths.end());
        QVERIFY2(*most / *least < 1.02, qPrintable(QString::number(*most / *least)));
        // Without it, a quarter of the way keeps √(¾² + ¼²).
        QVERIFY(deviation(warpBetween(a, b, still, 0.25).image) / *most > 1.08);
    }

    void lightIsMixedAsLight() {
        const SynthesisOptions light{.linearLight = true};
        const Vectors still = evenMotion(0, 0);
        const ColourTags srgb{.transfer = 13, .fullRange = true};
        // Half the light of white, encoded: 1.055 · 0.5^(1/2.4) − 0.055 = 0.7354.
        QCOMPARE(sampleAt(warpBetween(flat(0), flat(255), still, 0.5, light, srgb).image, 0, 80, 48), 188);
        QCOMPARE(sampleAt(warpBetween(flat(0), flat(255), still, 0.5).image, 0, 80, 48), 128);
        // It takes no kept grain away.
        const double grainy = deviation(warpBetween(grain(10, 1), grain(10, 2), still, 0.5,
                                                    {.keepGrain = true, .linearLight = true}, srgb)
                                            .image);
        QVERIFY2(grainy > 9 && grainy < 11, qPrintable(QString::number(grainy)));
        // What both agree on stays bit for bit.
        const Image same = grain(20, 3);
        QVERIFY(warpBetween(same, same, still, 0.5, light, srgb).image == same);
    }

    void lightOfColouredPicturesKeepsTheirColour() {
        // Two greens of one hue in 4:2:0: the mean lies between them, chroma included, and agreement changes
        // nothing.
        const PixelLayout yuv{.depth = 10, .chromaShiftX = 1, .chromaShiftY = 1};
        const auto colour = [&](int y, int u, int v) {
            return pictureOf(33, 17, yuv, [=](int p, int, int) { return p == 0 ? y : p == 1 ? u : v; });
        };
        const Image dark = colour(300, 460, 440);
        const Image bright = colour(700, 350, 300);
        const auto meanOf = [](const Image& a, const Image& b, const Image& mixed) {
            LightMean light(a, {.transfer = 1, .matrix = 1});
            light.add(a, std::array{0.5F});
            light.add(b, std::array{0.5F});
            return light.of(mixed);
        };
        QVERIFY(meanOf(dark, dark, dark) == dark);
        const Image mean = meanOf(dark, bright, colour(500, 405, 370));
        QVERIFY(sampleAt(mean, 0, 16, 8) > 530 && sampleAt(mean, 0, 16, 8) < 700);
        QVERIFY(sampleAt(mean, 1, 8, 4) < 405 && sampleAt(mean, 1, 8, 4) > 350);
    }

    void transferCurves_data() {
        QTest::addColumn<int>("transfer");
        QTest::addColumn<double>("encoded");
        QTest::addColumn<double>("light");
        QTest::newRow("sRGB") << 13 << 0.5 << 0.2140411;
        QTest::newRow("PQ: 92.2 cd/m²") << 16 << 0.5 << 0.0092246;
        QTest::newRow("HLG") << 18 << 0.5 << 1.0 / 12;
        QTest::newRow("BT.1886") << 1 << 0.5 << 0.1894646;
        QTest::newRow("gamma 2.2") << 4 << 0.5 << 0.2176376;
        QTest::newRow("linear") << 8 << 0.5 << 0.5;
        QTest::newRow("white") << 16 << 1.0 << 1.0;
    }
    void transferCurves() {
        QFETCH(int, transfer);
        QFETCH(double, encoded);
        QFETCH(double, light);
        QVERIFY(std::abs(lightOf(transfer, encoded) - light) < 1e-6);
        QVERIFY(std::abs(encodedOf(transfer, light) - encoded) < 1e-4);
        const LightTable table(transfer);
        for (const int step : {1, 5, 20, 90, 200, 255}) {
            const double e = step / 255.0;
            const auto there = table.light(static_cast<float>(e));
            QVERIFY2(std::abs(table.encoded(there) - e) < 0.25 / 255, qPrintable(QString::number(e)));
        }
    }

    void shutterMomentsCoverTheOpening() {
        const auto moments = shutterMoments(evenMotion(8, 0), 10.25, 0.5, 8, 12);
        QCOMPARE(moments.size(), std::size_t{3}); // 8 px × 0.5 in steps of at most 1.5
        double share = 0;
        double mean = 0;
        for (const ShutterMoment& m : moments) {
            share += m.share;
            mean += m.share * (static_cast<double>(m.frame) + m.phase);
            QVERIFY(m.phase >= 0 && m.phase < 1);
        }
        QVERIFY(std::abs(share - 1) < 1e-9);
        QVERIFY(std::abs(mean - 10.25) < 1e-9);
        QCOMPARE(shutterMoments(evenMotion(30, 0), 10.25, 0.5, 8, 12).size(), std::size_t{10});
        // At the end of what may be used the last frame stands for the rest.
        const auto end = shutterMoments(evenMotion(8, 0), 12, 2, 8, 12);
        QCOMPARE(end.back().frame, 12);
        QVERIFY(end.back().share > 0.49);
    }

    void reversedTimeGivesTheSamePicture() {
        const auto picture = [](double dx) {
            return pictureOf(width, height, grey8, [=](int, int x, int y) {
                return 128 + 50 * std::sin((x - dx) * 0.3) * std::sin(y * 0.21) +
                       30 * std::sin((x - dx) * 0.11);
            });
        };
        const Image a = picture(0);
        const Image b = picture(5);
        const Vectors v = estimateFlow(a, b, {});
        const Vectors back{v.backward, v.forward, v.backwardTrust, v.forwardTrust};
        const Image there = warpBetween(a, b, v, 0.25).image;
        const Image again = warpBetween(b, a, back, 0.75).image;
        int most = 0;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                most = std::max(most, std::abs(sampleAt(there, 0, x, y) - sampleAt(again, 0, x, y)));
        QVERIFY2(most <= 1, qPrintable(QString::number(most)));
    }

    void whatStandsStillStays() {
        const Image a = grain(20, 5);
        for (const FlowQuality quality : {FlowQuality::draft, FlowQuality::standard, FlowQuality::thorough})
            QVERIFY(lumaPsnr(warpBetween(a, a, estimateFlow(a, a, {.quality = quality}), 0.5).image, a) > 60);
    }
};

QTEST_APPLESS_MAIN(TestInBetweens)
#include "test_in_betweens.moc"
