// Pictures, blends, fitting, and the cache with a byte limit.

#include "core/error.h"
#include "core/image/rgb_picture.h"
#include "core/media/lru_cache.h"
#include "core/synthesis/blend.h"
#include "support/pictures.h"

#include <QTest>

#include <array>

using namespace yarngap;
using namespace yarngap::test;

namespace {

double noise(int seed, int p, int x, int y, int limit) {
    const unsigned h = static_cast<unsigned>(seed) * 2654435761U ^
                       static_cast<unsigned>(p * 977 + x * 131 + y * 7919) * 2246822519U;
    return (h >> 8) % (static_cast<unsigned>(limit) + 1);
}

} // namespace

class TestImage : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void oddSizesKeepAllChroma() {
        const Image image(7, 5, {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1});
        QCOMPARE(image.plane(0).width, 7);
        QCOMPARE(image.plane(1).width, 4);
        QCOMPARE(image.plane(2).height, 3);
        QVERIFY_THROWS_EXCEPTION(Error, Image(0, 5, {}));
        QVERIFY_THROWS_EXCEPTION(Error, Image(100000, 100000, {}));
    }

    void blendIsTheMeanOfTheSamples_data() {
        QTest::addColumn<int>("depth");
        for (const int depth : {8, 10, 16})
            QTest::addRow("%d bit", depth) << depth;
    }
    void blendIsTheMeanOfTheSamples() {
        QFETCH(int, depth);
        const PixelLayout layout{.depth = depth, .chromaShiftX = 1, .chromaShiftY = 1};
        const int limit = layout.maxValue();
        std::array<ImagePtr, 3> frames;
        for (int i = 0; i < 3; ++i)
            frames.at(static_cast<std::size_t>(i)) = std::make_shared<Image>(
                pictureOf(33, 17, layout, [&](int p, int x, int y) { return noise(i, p, x, y, limit); }));
        const std::array<double, 3> shares{0.25, 0.5, 0.25};
        const Image mean = blendFrames(frames, shares);
        for (int p = 0; p < mean.planeCount(); ++p)
            for (int y = 0; y < mean.plane(p).height; ++y)
                for (int x = 0; x < mean.plane(p).width; ++x) {
                    // In quarters, in whole numbers: (a + 2 b + c) / 4, halves upwards.
                    const long sum = static_cast<long>(noise(0, p, x, y, limit)) +
                                     2 * static_cast<long>(noise(1, p, x, y, limit)) +
                                     static_cast<long>(noise(2, p, x, y, limit));
                    QCOMPARE(sampleAt(mean, p, x, y), static_cast<int>((sum + 2) / 4));
                }
    }

    void aThousandFramesBlendWithoutLoss() {
        BlendSum sum;
        const Image white = pictureOf(4, 4, {.depth = 8}, [](int, int, int) { return 255; });
        for (int i = 0; i < 1000; ++i)
            sum.add(white, 1.0 / 1000);
        QCOMPARE(sampleAt(sum.mean(), 0, 2, 2), 255);
    }

    void framesOfAnotherKindAreNotBlended() {
        BlendSum sum;
        sum.add(Image(8, 8, {.depth = 8}), 0.5);
        QVERIFY_THROWS_EXCEPTION(Error, sum.add(Image(8, 8, {.depth = 10}), 0.5));
        QVERIFY_THROWS_EXCEPTION(Error, sum.add(Image(6, 8, {.depth = 8}), 0.5));
    }

    void screenColoursFollowMatrixAndRange() {
        // Limited-range BT.709: Y 235, neutral chroma is white; Y 16 is black. Full range: Y 16 is dark grey.
        const auto grey = [](int luma) {
            return pictureOf(16, 16, {.depth = 8}, [=](int p, int, int) { return p == 0 ? luma : 128; });
        };
        const auto shown = [](const Image& image, bool full) {
            const RgbPicture rgb = toScreenRgb(image, {.matrix = 1, .fullRange = full}, 16, 16);
            return static_cast<int>(rgb.bgra[8 * rgb.stride + 8 * 4]);
        };
        QVERIFY(std::abs(shown(grey(235), false) - 255) <= 1);
        QVERIFY(std::abs(shown(grey(16), false)) <= 1);
        QVERIFY(std::abs(shown(grey(16), true) - 16) <= 1);
        // BT.709 red: R 255 G 0 B 0 is Y 63, Cb 102, Cr 240.
        const Image red = pictureOf(16, 16, {.depth = 8}, [](int p, int, int) {
            return p == 0 ? 63 : p == 1 ? 102 : 240;
        });
        const RgbPicture rgb = toScreenRgb(red, {.matrix = 1}, 16, 16);
        const auto* px = rgb.bgra.data() + 8 * rgb.stride + 8 * 4;
        QVERIFY(px[0] <= 3 && px[1] <= 3 && px[2] >= 252);
    }

    void picturesFitTheirBox() {
        QCOMPARE(fitted(1920, 1080, 1.0, {128, 128}), (Size{128, 72}));
        QCOMPARE(fitted(720, 576, 64.0 / 45, {1024, 576}), (Size{1024, 576}));
        QCOMPARE(fitted(1, 5000, 1.0, {100, 100}), (Size{1, 100}));
    }

    void theCacheKeepsItsLimit() {
        LruCache<int, int> cache(1000);
        for (int i = 0; i < 100; ++i) {
            cache.insert(i, i, 90);
            QVERIFY(cache.bytes() <= 1000);
        }
        QCOMPARE(cache.bytes(), std::size_t{990});
        QVERIFY(!cache.find(88));
        QCOMPARE(cache.find(89), std::optional<int>(89)); // oldest kept; now the most recent
        cache.insert(200, 200, 90);
        QVERIFY(cache.contains(89));
        QVERIFY(!cache.contains(90));
        cache.insert(300, 300, 2000); // larger than all: not kept, nothing pushed out
        QVERIFY(!cache.contains(300));
        QCOMPARE(cache.bytes(), std::size_t{990});
        cache.insert(200, 1, 50); // replaced, not counted twice
        QCOMPARE(cache.bytes(), std::size_t{950});
    }
};

QTEST_APPLESS_MAIN(TestImage)
#include "test_image.moc"
