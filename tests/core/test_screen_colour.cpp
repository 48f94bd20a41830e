// Colours on the screen, against patches worked out from the standards' own numbers.

#include "core/image/rgb_picture.h"
#include "core/image/screen_colour.h"
#include "support/pictures.h"

#include <QTest>

#include <array>

using namespace yarngap;
using namespace yarngap::test;

namespace {

using Triple = std::array<double, 3>;
using Matrix = std::array<Triple, 3>;

constexpr PixelLayout rgb16{.model = ColourModel::rgb, .depth = 16};
constexpr PixelLayout yuv10{.depth = 10, .chromaShiftX = 1, .chromaShiftY = 1};

/// R, G and B, 0 to 255, of the middle of a picture on the screen.
Triple shown(const Image& image, const ColourTags& tags) {
    const RgbPicture picture = toScreenRgb(image, tags, image.width(), image.height());
    const auto* pixel = picture.bgra.data() + picture.stride * static_cast<std::size_t>(image.height() / 2) +
                        static_cast<std::size_t>(image.width() / 2) * 4;
    return {static_cast<double>(pixel[2]), static_cast<double>(pixel[1]), static_cast<double>(pixel[0])};
}

/// An even picture of encoded R, G and B, 0 to 1; planes are G, B, R.
Image evenRgb(const Triple& value) {
    return pictureOf(16, 16, rgb16, [&](int plane, int, int) {
        return 65535 * value.at((static_cast<std::size_t>(plane) + 1) % 3);
    });
}

bool isNear(const Triple& a, const Triple& b) {
    for (std::size_t i = 0; i < 3; ++i)
        if (std::abs(a.at(i) - b.at(i)) > 1) return false;
    return true;
}

QByteArray told(const Triple& a, const Triple& b) {
    return QStringLiteral("%1 %2 %3, not %4 %5 %6")
        .arg(a[0])
        .arg(a[1])
        .arg(a[2])
        .arg(b[0])
        .arg(b[1])
        .arg(b[2])
        .toUtf8();
}

/// Through light of a gamma and a matrix, in double precision.
Triple through(const Matrix& matrix, double gamma, const Triple& encoded) {
    Triple out{};
    for (std::size_t i = 0; i < 3; ++i) {
        double light = 0;
        for (std::size_t k = 0; k < 3; ++k)
            light += matrix.at(i).at(k) * std::pow(encoded.at(k), gamma);
        out.at(i) = 255 * std::pow(std::clamp(light, 0.0, 1.0), 1 / gamma);
    }
    return out;
}

const std::array<Triple, 6> patches{
    {{1, 1, 1}, {0.5, 0.5, 0.5}, {0.75, 0.4, 0.3}, {0.3, 0.6, 0.35}, {0.2, 0.3, 0.7}, {0, 0, 0}}};

} // namespace

class TestScreenColour : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void primariesAreBroughtToThoseOfTheScreen_data() {
        QTest::addColumn<int>("primaries");
        QTest::addColumn<int>("row");
        QTest::newRow("BT.2020, by ITU-R BT.2087-0") << 9 << 0;
        QTest::newRow("Display P3, by CSS Color 4") << 12 << 1;
        QTest::newRow("BT.601 with 525 lines, by SMPTE RP 177") << 6 << 2;
        QTest::newRow("BT.709 stays") << 1 << 3;
        QTest::newRow("untagged stays") << 2 << 3;
    }
    void primariesAreBroughtToThoseOfTheScreen() {
        QFETCH(int, primaries);
        QFETCH(int, row);
        static const std::array<Matrix, 4> published{{
            {{{1.6605, -0.5876, -0.0728}, {-0.1246, 1.1329, -0.0083}, {-0.0182, -0.1006, 1.1187}}},
            {{{1.2249402, -0.2249402, 0}, {-0.0420570, 1.0420570, 0}, {-0.0196376, -0.0786360, 1.0982736}}},
            {{{0.9395421, 0.0501814, 0.0102765},
              {0.0177722, 0.9657929, 0.0164349},
              {-0.0016216, -0.0043697, 1.0059913}}},
            {{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}},
        }};
        for (const Triple& patch : patches) {
            const Triple found = shown(evenRgb(patch), {.primaries = primaries, .transfer = 1});
            const Triple right = through(published.at(static_cast<std::size_t>(row)), 2.4, patch);
            QVERIFY2(isNear(found, right), told(found, right));
        }
    }

    void whiteOfTheCinemaIsWhite() {
        QVERIFY(isNear(shown(evenRgb({1, 1, 1}), {.primaries = 11, .transfer = 1}), {255, 255, 255}));
        const Triple grey = shown(evenRgb({0.5, 0.5, 0.5}), {.primaries = 11, .transfer = 1});
        QVERIFY2(isNear(grey, {127.5, 127.5, 127.5}), told(grey, grey));
    }

    // 8-bit values of grey, worked out apart from the program (in Python, from BT.2100, BT.2390 and BT.2408).
    void hdrGreysFollowTheCurveOfBt2390_data() {
        QTest::addColumn<int>("transfer");
        QTest::addColumn<int>("code"); // 10 bit, limited range
        QTest::addColumn<double>("right");
        const std::array<std::pair<int, double>, 8> pq{{{64, 0},
                                                        {200, 29.09},
                                                        {300, 61.68},
                                                        {400, 110.11},
                                                        {509, 189.28},
                                                        {572, 230.02},
                                                        {636, 250.07},
                                                        {940, 255}}};
        for (const auto& [code, right] : pq)
            QTest::addRow("PQ %d", code) << 16 << code << right;
        const std::array<std::pair<int, double>, 6> hlg{
            {{64, 0}, {283, 71.53}, {502, 143.05}, {721, 230.38}, {885, 254.55}, {940, 255}}};
        for (const auto& [code, right] : hlg)
            QTest::addRow("HLG %d", code) << 18 << code << right;
    }
    void hdrGreysFollowTheCurveOfBt2390() {
        QFETCH(int, transfer);
        QFETCH(int, code);
        QFETCH(double, right);
        const Image grey =
            pictureOf(16, 16, yuv10, [&](int plane, int, int) { return plane == 0 ? code : 512; });
        const ColourTags tags{.primaries = 9, .transfer = transfer, .matrix = 9};
        QVERIFY(isToneMapped(tags));
        const Triple found = shown(grey, tags);
        QVERIFY2(isNear(found, {right, right, right}), told(found, {right, right, right}));
    }

    // Likewise worked out apart: brightness along the curve by luminance, then BT.2087-0's matrix.
    void hdrColoursKeepTheirHue_data() {
        QTest::addColumn<QList<double>>("encoded");
        QTest::addColumn<QList<double>>("right");
        QTest::newRow("warm") << QList<double>{0.5, 0.4, 0.3} << QList<double>{214.1, 106.9, 60.0};
        QTest::newRow("out of the screen's reach")
            << QList<double>{0.3, 0.5, 0.45} << QList<double>{0, 192.0, 145.1};
        QTest::newRow("bright") << QList<double>{0.75, 0.7, 0.5} << QList<double>{255, 237.6, 61.8};
    }
    void hdrColoursKeepTheirHue() {
        QFETCH(QList<double>, encoded);
        QFETCH(QList<double>, right);
        const Triple found =
            shown(evenRgb({encoded[0], encoded[1], encoded[2]}), {.primaries = 9, .transfer = 16});
        const Triple wanted{right[0], right[1], right[2]};
        QVERIFY2(isNear(found, wanted), told(found, wanted));
    }

    void matricesOfVideoAreTheirOwn_data() {
        QTest::addColumn<int>("matrix");
        QTest::addColumn<double>("kr");
        QTest::addColumn<double>("kb");
        QTest::newRow("BT.709") << 1 << 0.2126 << 0.0722;
        QTest::newRow("BT.601") << 6 << 0.299 << 0.114;
        QTest::newRow("BT.2020") << 9 << 0.2627 << 0.0593;
    }
    void matricesOfVideoAreTheirOwn() {
        QFETCH(int, matrix);
        QFETCH(double, kr);
        QFETCH(double, kb);
        for (const Triple& patch : patches) {
            const double y = kr * patch[0] + (1 - kr - kb) * patch[1] + kb * patch[2];
            const double cb = (patch[2] - y) / (2 * (1 - kb));
            const double cr = (patch[0] - y) / (2 * (1 - kr));
            const Image coded = pictureOf(16, 16, yuv10, [&](int plane, int, int) {
                return plane == 0 ? 64 + 876 * y : 512 + 896 * (plane == 1 ? cb : cr);
            });
            const Triple found = shown(coded, {.matrix = matrix});
            const Triple right{255 * patch[0], 255 * patch[1], 255 * patch[2]};
            QVERIFY2(isNear(found, right), told(found, right));
        }
    }
};

QTEST_GUILESS_MAIN(TestScreenColour)
#include "test_screen_colour.moc"
