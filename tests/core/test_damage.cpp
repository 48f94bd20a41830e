// Damage drawn into frames with known motion: what is found, where exactly, and what is left alone; and
// narrow places filled from their sides.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/cleaning/cleaned_frames.h"
#include "core/cleaning/filled_frames.h"
#include "core/inspection/damage.h"

#include "support/pictures.h"
#endif

#include <QTest>

#include <cmath>
#include <memory>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 480;
constexpr int height = 270;
constexpr double pan = 2; // pixels a frame

double lightAt(double x, double y) {
    return 120 + 40 * std::sin(x / 6.1) * std::cos(y / 7.3) + 25 * std::sin(x / 23 + y / 13.0);
}

/// The picture glides by `by` pixels a frame.
Image gliding(int n, double by = pan) {
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1},
                     [=](int p, int x, int y) { return p > 0 ? 128.0 : lightAt(x - by * n, y); });
}

/// A light line from top to bottom, three pixels wide, leaning by four.
void drawLine(Image& image, double top) {
    for (int y = 0; y < height; ++y) {
        const auto x = static_cast<std::size_t>(std::lround(top + 4.0 * y / height));
        for (std::size_t i = x - 1; i <= x + 1; ++i) {
            auto& sample = image.row<std::uint8_t>(0, y)[i];
            sample = static_cast<std::uint8_t>(std::min(255, sample + (i == x ? 90 : 45)));
        }
    }
}

/// Pushes lines `top` to before `bottom` aside by `by` pixels.
void tear(Image& image, int top, int bottom, int by) {
    for (int y = top; y < bottom; ++y) {
        auto row = image.row<std::uint8_t>(0, y);
        std::rotate(row.begin(), row.end() - by, row.end());
    }
}

std::vector<FoundDamage> searched(int count, double by, const std::function<Image(int)>& frame) {
    DamageMeter meter;
    for (int n = 0; n < count; ++n)
        meter.measure(std::make_shared<Image>(frame(n)), {.known = true, .x = n == 0 ? 0 : by}, 0);
    return meter.found({});
}

/// Where a scratch that wanders is at the top of frame n.
double wandering(int n) {
    return 200 + 9 * std::sin(0.3 * n);
}

} // namespace

class TestDamage : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aScratchThatWandersIsFoundInEachFrame() {
        constexpr int count = 24;
        const auto found = searched(count, pan, [](int n) {
            Image image = gliding(n);
            drawLine(image, wandering(n));
            return image;
        });
        QCOMPARE(found.size(), std::size_t{count});
        double widths = 0;
        double places = 0;
        for (const FoundDamage& damage : found) {
            QVERIFY(damage.certainty > 0.8);
            const double top = wandering(static_cast<int>(damage.frame));
            int covered = 0;
            for (int y = 0; y < height; ++y) {
                const auto x = static_cast<int>(std::lround(top + 4.0 * y / height));
                const auto holds = [&](const DamagedPlace& p) {
                    return p.y <= y && y < p.y + p.height && p.x <= x - 1 && x + 1 < p.x + p.width;
                };
                covered += std::ranges::any_of(damage.places, holds) ? 1 : 0;
            }
            QCOMPARE(covered, height);
            for (const DamagedPlace& p : damage.places) {
                widths += p.width;
                ++places;
            }
        }
        QVERIFY2(widths / places < 8, qPrintable(QString::number(widths / places)));
    }

    void aScratchThatStaysWhileTheCameraMovesIsFound() {
        const auto found = searched(20, pan, [](int n) {
            Image image = gliding(n);
            drawLine(image, 200);
            return image;
        });
        QCOMPARE(found.size(), std::size_t{20});
    }

    void aMastThatMovesWithThePictureIsLeftAlone() {
        QVERIFY(searched(24, pan, [](int n) {
                    Image image = gliding(n);
                    drawLine(image, 150 + pan * n);
                    return image;
                }).empty());
    }

    void aLineThatStandsStillWithTheCameraIsLeftAlone() {
        QVERIFY(searched(24, 0, [](int n) {
                    Image image = gliding(n, 0);
                    drawLine(image, 200);
                    return image;
                }).empty());
    }

    void tornLinesAreFoundToTheLine() {
        const auto found = searched(20, pan, [](int n) {
            Image image = gliding(n);
            if (n == 9) tear(image, 101, 131, 37);
            return image;
        });
        QCOMPARE(found.size(), std::size_t{1});
        QCOMPARE(found[0].frame, std::int64_t{9});
        QCOMPARE(found[0].places.size(), std::size_t{1});
        const DamagedPlace& place = found[0].places[0];
        QCOMPARE(place.x, 0);
        QCOMPARE(place.width, width);
        // With two lines more at each side.
        QVERIFY2(std::abs(place.y + 2 - 101) <= 1, qPrintable(QString::number(place.y)));
        QVERIFY(std::abs(place.y + place.height - 2 - 131) <= 1);
    }

    void aDropoutAcrossSomethingThatMovesIsFound() {
        const auto found = searched(20, pan, [](int n) {
            Image image = gliding(n);
            for (int y = 60; y < 200; ++y) { // a dark thing that goes its own way
                auto row = image.row<std::uint8_t>(0, y);
                std::fill_n(row.begin() + 40 + 11 * n, 50, std::uint8_t{30});
            }
            if (n == 10)
                for (int y = 120; y < 123; ++y)
                    std::fill_n(image.row<std::uint8_t>(0, y).begin() + 60, 220, std::uint8_t{245});
            return image;
        });
        QCOMPARE(found.size(), std::size_t{1});
        QCOMPARE(found[0].frame, std::int64_t{10});
        QVERIFY(std::ranges::any_of(found[0].places, [](const DamagedPlace& p) {
            return p.x <= 62 && p.x + p.width >= 278 && p.y <= 120 && p.y + p.height >= 123;
        }));
    }

    void narrowPlacesAreFilledFromTheirSides() {
        // Light rises by 2 to the right and by 1 downwards, so that what belongs there is known.
        const auto plain = [](int p, int x, int y) { return p > 0 ? 100.0 + x : 20.0 + 2 * x + y; };
        const Image truth = pictureOf(64, 48, {.chromaShiftX = 1, .chromaShiftY = 1}, plain);
        Image scratched = truth;
        for (int y = 0; y < 48; ++y)
            std::fill_n(scratched.row<std::uint8_t>(0, y).begin() + 30, 4, std::uint8_t{255});
        const Image filled = withPlacesFilled(scratched, {{30, 0, 4, 48}});
        for (int y = 0; y < 48; ++y)
            for (int x = 0; x < 64; ++x) {
                const int off = std::abs(sampleAt(filled, 0, x, y) - sampleAt(truth, 0, x, y));
                QVERIFY2(off <= (x >= 30 && x < 34 ? 2 : 0),
                         qPrintable(QStringLiteral("%1, %2").arg(x).arg(y)));
            }
        for (int y = 0; y < 24; ++y)
            for (int x = 0; x < 32; ++x)
                if (x < 15 || x > 16) QCOMPARE(sampleAt(filled, 1, x, y), sampleAt(truth, 1, x, y));
    }

    void placesAtTheEdgeAndBeyondItAreFilledAsFarAsTheyCan() {
        const Image grey =
            pictureOf(32, 32, {.chromaShiftX = 1, .chromaShiftY = 1}, [](int, int, int) { return 77.0; });
        Image marked = grey;
        for (int y = 0; y < 32; ++y)
            std::fill_n(marked.row<std::uint8_t>(0, y).begin(), 3, std::uint8_t{200});
        const Image filled = withPlacesFilled(marked, {{0, 0, 3, 32}, {-5, 40, 9, 9}, {31, 31, 900, 900}});
        for (int y = 0; y < 32; ++y)
            for (int x = 0; x < 32; ++x)
                QCOMPARE(sampleAt(filled, 0, x, y), 77);
        const Image whole = withPlacesFilled(marked, {{0, 0, 32, 32}}); // nothing lies beside it
        QCOMPARE(sampleAt(whole, 0, 1, 1), 200);
    }
};

QTEST_APPLESS_MAIN(TestDamage)
#include "test_damage.moc"
