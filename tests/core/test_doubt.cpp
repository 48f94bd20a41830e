// Doubt: what a made frame cannot show of itself, told by frames that are known to be true.

#include "core/synthesis/doubt.h"
#include "core/synthesis/frame_maker.h"
#include "core/synthesis/remake.h"
#include "support/drawn_shot.h"
#include "support/pictures.h"

#include <QTest>

#include <atomic>
#include <cmath>
#include <numbers>
#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 256;
constexpr int height = 128;
constexpr double wave = 64; // pixels
constexpr double strength = 60;

/// Waves from left to right, moved by `x` pixels, with a texture of their own up and down.
Image waves(double x) {
    return pictureOf(width, height, {.model = ColourModel::grey}, [=](int, int px, int py) {
        return 128 + strength * std::sin(2 * std::numbers::pi * (px - x) / wave) + 30 * std::sin(0.3 * py);
    });
}

/// A shot whose picture stands at the given places, one a frame.
std::shared_ptr<DrawnShot> shotOf(const std::vector<double>& places, const std::string& identity = "waves") {
    return std::make_shared<DrawnShot>(
        static_cast<std::int64_t>(places.size()),
        [=](std::int64_t n) { return waves(places.at(static_cast<std::size_t>(n))); }, identity);
}

/// The in-between half way from frame 1 to frame 2, or from 0 to 1 of a shot of two.
MadeFrame middleOf(const std::shared_ptr<DrawnShot>& shot, const InBetweens& settings = {}) {
    const FrameMaker maker(shot, std::make_shared<VectorStore>(), settings);
    return maker.make(halfSpeedPlan(shot->frames()).rows[shot->frames() > 2 ? 3 : 1]);
}

} // namespace

class TestDoubt : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void evenMotionIsRemadeAlmostExactly() {
        const double error = remakeError(waves(0), waves(5), waves(10), 0.5, AnalyseOn::asIs);
        QVERIFY2(error < 2, qPrintable(QString::number(error)));
        // Where it lies is known: a third of the way is no middle.
        QVERIFY(remakeError(waves(0), waves(3), waves(9), 1.0 / 3, AnalyseOn::asIs) < 2);
    }

    void motionThatChangesIsRemadeAsFarOffAsItIs() {
        // At 0, 3 and 12: the middle is remade at 6, three pixels from where it is. Two waves that far apart
        // differ by 2 A sin(π d / λ) at their crest, by half of its square in the mean. Left and right, where
        // pixels come from one side, and the halved size take little from it.
        const double crest = 2 * strength * std::sin(std::numbers::pi * 3 / wave);
        const double expected = crest * crest / 2;
        const double error = remakeError(waves(0), waves(3), waves(12), 0.5, AnalyseOn::asIs);
        QVERIFY2(std::abs(error / expected - 1) < 0.2,
                 qPrintable(QStringLiteral("%1, expected %2").arg(error).arg(expected)));
    }

    void tooSmallPicturesAreNotRemade() {
        const Image small(31, 64, {.model = ColourModel::grey});
        QCOMPARE(remakeError(small, small, small, 0.5, AnalyseOn::asIs), 0.0);
    }

    void framesBesideTellWhatTheGapDoesNot() {
        // The same two frames; what comes before and after moves on evenly, or turns back.
        const MadeFrame even = middleOf(shotOf({-6, 0, 6, 12}));
        const MadeFrame turning = middleOf(shotOf({6, 0, 6, 0}));
        const MadeFrame alone = middleOf(shotOf({0, 6}));
        QVERIFY(even.doubt && turning.doubt && alone.doubt);
        QVERIFY2(*turning.doubt > 1.5 * *even.doubt,
                 qPrintable(QStringLiteral("%1 and %2").arg(*turning.doubt).arg(*even.doubt)));
        QVERIFY2(*even.doubt < 0.2, qPrintable(QString::number(*even.doubt)));
        // One side is enough to tell.
        QVERIFY(*middleOf(shotOf({-6, 0, 6})).doubt < *middleOf(shotOf({6, 0, 6})).doubt);
        // Whether paths bend has no part in it; a draft does not look.
        InBetweens straight;
        straight.synthesis.bendPaths = false;
        QCOMPARE(*middleOf(shotOf({6, 0, 6, 0}), straight).doubt, *turning.doubt);
        const InBetweens draft = InBetweens().forDraft();
        QCOMPARE(*middleOf(shotOf({6, 0, 6, 0}), draft).doubt,
                 *middleOf(shotOf({-6, 0, 6, 12}), draft).doubt);
    }

    void aBlurredFrameLooksBesideToo() {
        const auto blurred = [](const std::vector<double>& places) {
            const auto shot = shotOf(places);
            const PlanRow row = halfSpeedPlan(4, 180).rows[3];
            const FrameMaker maker(shot, std::make_shared<VectorStore>(), InBetweens{});
            return row.open > Rational(0) ? maker.make(row).doubt.value_or(-1) : -1;
        };
        const double even = blurred({-6, 0, 6, 12});
        const double turning = blurred({6, 0, 6, 0});
        QVERIFY(even >= 0);
        QVERIFY2(turning > even + 0.1, qPrintable(QStringLiteral("%1, %2").arg(even).arg(turning)));
    }

    void framesAreRemadeOnce() {
        const auto drawn = shotOf({0, 5, 10, 15});
        DrawnShot& shot = *drawn;
        RemakeErrors errors;
        const ImagePtr frame = shot.frame(1);
        const double first = errors.of(shot, 0, 1, 2, *frame, AnalyseOn::asIs);
        const int reads = shot.reads;
        QCOMPARE(errors.of(shot, 0, 1, 2, *frame, AnalyseOn::asIs), first);
        QCOMPARE(shot.reads.load(), reads);
        // Another shot, other frames beside it or another picture to analyse are something else.
        const auto other = shotOf({0, 2, 10, 15}, "other");
        QVERIFY(errors.of(*other, 0, 1, 2, *other->frame(1), AnalyseOn::asIs) > first + 5);
        QVERIFY(errors.of(shot, 0, 1, 3, *frame, AnalyseOn::asIs) < 2); // a third of the way
        const int before = shot.reads;
        errors.of(shot, 0, 1, 2, *frame, AnalyseOn::edges);
        QCOMPARE(shot.reads.load(), before + 2);
    }

    void makersOfOtherSettingsRemakeNothingAgain() {
        const auto shot = shotOf({-6, 0, 6, 12});
        const auto store = std::make_shared<VectorStore>();
        const auto errors = std::make_shared<RemakeErrors>();
        const FramePlan plan = halfSpeedPlan(shot->frames());
        const auto readsOf = [&](const InBetweens& settings, const std::shared_ptr<RemakeErrors>& shared) {
            FrameMaker maker(shot, store, settings);
            if (shared) maker.shareRemakes(shared);
            const int before = shot->reads;
            const bool doubted = maker.make(plan.rows[3]).doubt.has_value();
            return doubted ? shot->reads - before : -1;
        };
        InBetweens straight; // lest it look beside for how paths bend
        straight.synthesis.bendPaths = false;
        InBetweens other = straight;
        other.synthesis.keepGrain = true;
        QVERIFY(readsOf(straight, errors) > 2);
        QCOMPARE(readsOf(other, errors), 2); // the frames of the gap
        QVERIFY(readsOf(other, nullptr) > 2);
    }

    void ofALargePictureAQuarterOfTheCellsTells() {
        // Two cells a frame from even grey to grain: 3 of 960ths of the width, which makes s four times as
        // large.
        constexpr int width = 640;
        constexpr int height = 40;
        const MidMotion mid{
            width, height, std::vector<MidCell>(std::size_t{width} * height, {2, 0, 0, 0}), {}};
        const std::vector<float> a(mid.cells.size(), 0.5F);
        std::vector<float> b = a;
        std::mt19937 random(3);
        std::normal_distribution<float> grain(0, 6.0F / 255);
        double squares = 0;
        for (float& value : b) {
            const float off = grain(random);
            value += off;
            squares += std::pow(255.0 * static_cast<double>(off), 2);
        }
        const double y = 4 * squares / static_cast<double>(b.size());
        const double expected = 1 - std::exp(-std::sqrt(y) / 40);
        QVERIFY(expected > 0.1);
        QVERIFY(std::abs(doubtOf(mid, a, b, 0.5) / expected - 1) < 0.03);
    }

    void doubtIsThatOfTheFormula() {
        // Nothing moves; both sides differ by 8 steps everywhere. s = 64; half way, doubt = 1 − exp(−8 / 40),
        // and with a remake error of 31, 64^0.4 × 32^0.6 = 2^2.4 × 2^3 in place of s.
        constexpr int cells = 16;
        const MidMotion mid{cells, cells, std::vector<MidCell>(std::size_t{cells} * cells), {}};
        const std::vector<float> a(std::size_t{cells} * cells, 100 / 255.0F);
        const std::vector<float> b(std::size_t{cells} * cells, 108 / 255.0F);
        QVERIFY(std::abs(doubtOf(mid, a, b, 0.5) - (1 - std::exp(-8 / 40.0))) < 1e-4);
        const double y = std::exp2(5.4);
        QVERIFY(std::abs(doubtOf(mid, a, b, 0.5, 31) - (1 - std::exp(-std::sqrt(y) / 40))) < 1e-4);
        QVERIFY(std::abs(doubtOf(mid, a, b, 0.25, 31) - (1 - std::exp(-std::sqrt(0.75 * y) / 40))) < 1e-4);
    }
};

QTEST_GUILESS_MAIN(TestDoubt)
#include "test_doubt.moc"
