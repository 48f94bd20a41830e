// Output frames finished: nothing set touches nothing, nothing is made anew for a change, paths follow
// positions there and back, and files keep it all.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/error.h"
#include "core/finish/frames_with_finish.h"
#include "core/finish/measured_finish.h"
#include "core/finish/picture_reading.h"
#include "core/media/library_messages.h"
#include "core/project/finish_file.h"
#include "core/project/preset.h"
#include "core/render/render_job.h"
#include "core/shot/ready_shot.h"
#include "core/synthesis/planned_frames.h"
#include "core/time/map_edits.h"

#include "support/clips.h"
#include "support/drawn_shot.h"
#include "support/film.h"
#include "support/pictures.h"
#endif

#include <QTemporaryDir>
#include <QTest>

#include <atomic>
#include <cmath>

using namespace yarngap;
using namespace yarngap::test;

namespace {

/// Frames below, counted.
class Counted final : public OutputFrames {
  public:
    explicit Counted(OutputFramesPtr below)
        : below_(std::move(below)) {}
    [[nodiscard]] const FramePlan& plan() const override { return below_->plan(); }
    [[nodiscard]] const MediaFacts& facts() const override { return below_->facts(); }
    [[nodiscard]] ShotFrames& source() const override { return below_->source(); }
    [[nodiscard]] std::string key(std::int64_t n) const override { return below_->key(n); }
    [[nodiscard]] std::unique_ptr<FrameInMaking> begin(std::int64_t n) const override {
        return below_->begin(n);
    }
    using OutputFrames::make;
    [[nodiscard]] MadeFrame make(std::int64_t n, const std::stop_token& stop) const override {
        ++made;
        return below_->make(n, stop);
    }
    [[nodiscard]] std::optional<MadeFrame> kept(std::int64_t n) const override { return below_->kept(n); }
    [[nodiscard]] bool isKept(std::int64_t n) const override { return below_->isKept(n); }
    [[nodiscard]] FrameInsight insight(std::int64_t n, const std::stop_token& stop) const override {
        return below_->insight(n, stop);
    }
    [[nodiscard]] OutputFramesPtr drafts() const override { return below_->drafts(); }
    [[nodiscard]] bool isDraftSooner(std::int64_t n) const override { return below_->isDraftSooner(n); }
    [[nodiscard]] std::map<std::int64_t, FrameTrouble> troublesOf(std::int64_t n) const override {
        return below_->troublesOf(n);
    }
    [[nodiscard]] std::vector<std::filesystem::path> inputFiles() const override { return {}; }
    [[nodiscard]] std::string keepingTrouble() const override { return {}; }

    mutable std::atomic<int> made = 0;

  private:
    OutputFramesPtr below_;
};

double moving(double x, double y, double t) {
    return texture(x - 3 * t, y - 1 * t, 12, 7);
}

std::shared_ptr<DrawnShot> drawnShot(const PixelLayout& layout = {.chromaShiftX = 1, .chromaShiftY = 1}) {
    return std::make_shared<DrawnShot>(12, [layout](std::int64_t n) {
        return pictureOf(160, 120, layout, [&](int p, int x, int y) {
            const double scale = std::pow(2, layout.depth - 8);
            if (layout.isChroma(p)) return scale * (100 + 3 * p + x % 9);
            return scale * moving(x + 0.5, y + 0.5, static_cast<double>(n));
        });
    });
}

std::shared_ptr<const PlannedFrames> halfSpeed(const std::shared_ptr<ShotFrames>& source) {
    return std::make_shared<const PlannedFrames>(
        std::make_shared<const FramePlan>(halfSpeedPlan(source->frames())),
        FrameMaker(source, std::make_shared<VectorStore>(std::size_t{64} << 20), InBetweens{}));
}

Finish everything() {
    Finish finish;
    finish.frame = {.size = FrameSize{200, 200},
                    .pixelAspect = Rational(12, 11),
                    .fit = FrameFit::fill,
                    .around = {1, 2, 3}};
    finish.places = {{.at = 0, .scale = 1.25, .x = 0.125, .y = -0.25, .isEased = false},
                     {.at = Rational(13, 2)}};
    finish.hideEdges = {.scale = 1.0625, .from = Rational(2), .to = Rational(9), .fade = 3};
    finish.hold = {.isOn = true,
                   .path = {{0, {40.5, 30.25}, 1, true}, {2, {46.5, 32.25}, 0.875, false}},
                   .second = {{0, {80, 30}, 1, true}},
                   .turns = false,
                   .frame = 0,
                   .reach = 12,
                   .at = HoldAt::chosen,
                   .chosen = {0.25, 0.75},
                   .share = 60};
    finish.calm = {.by = CalmBy::smoothing,
                   .seconds = 0.5,
                   .path = {{0, 0, 0, 0, 0, true}, {1, 3, 1, 0.0001, -0.0002, false}}};
    finish.tones = {{.at = 0,
                     .black = 0.0625,
                     .white = 0.9375,
                     .gamma = 1.25,
                     .saturation = 0.5,
                     .curve = {{0, 0}, {0.5, 0.625}, {1, 1}}}};
    finish.texture = {.softenRadius = 3,
                      .soften = 20,
                      .sharpenRadius = 1.5,
                      .sharpen = 40,
                      .grain = GrainKind::matched,
                      .own = {{0.01, 0.02, 0.03, 0.04}, 0.005, 0.5}};
    finish.smears = {
        {.from = 8, .to = 12, .peak = SmearPeak::end, .length = 0.25, .angle = -30, .turn = 10, .bulge = 25}};
    return finish;
}

} // namespace

class TestFinish : public QObject {
    Q_OBJECT

    Clips clips_;
    QTemporaryDir folder_;

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void nothingSetTouchesNothing_data() {
        QTest::addColumn<int>("model");
        QTest::addColumn<int>("depth");
        QTest::addColumn<int>("shiftX");
        QTest::addColumn<int>("shiftY");
        QTest::addColumn<bool>("alpha");
        QTest::newRow("4:2:0, 8 bit") << static_cast<int>(ColourModel::yuv) << 8 << 1 << 1 << false;
        QTest::newRow("4:2:2, 10 bit") << static_cast<int>(ColourModel::yuv) << 10 << 1 << 0 << false;
        QTest::newRow("4:4:4, 12 bit, alpha") << static_cast<int>(ColourModel::yuv) << 12 << 0 << 0 << true;
        QTest::newRow("4:1:1, 8 bit") << static_cast<int>(ColourModel::yuv) << 8 << 2 << 0 << false;
        QTest::newRow("RGB, 16 bit") << static_cast<int>(ColourModel::rgb) << 16 << 0 << 0 << false;
        QTest::newRow("grey, 8 bit") << static_cast<int>(ColourModel::grey) << 8 << 0 << 0 << false;
    }
    void nothingSetTouchesNothing() {
        QFETCH(int, model);
        QFETCH(int, depth);
        QFETCH(int, shiftX);
        QFETCH(int, shiftY);
        QFETCH(bool, alpha);
        const auto source = drawnShot({.model = static_cast<ColourModel>(model),
                                       .alpha = alpha,
                                       .depth = depth,
                                       .chromaShiftX = shiftX,
                                       .chromaShiftY = shiftY});
        const auto below = halfSpeed(source);
        // What is set and comes to nothing, and what is set for other frames.
        Finish finish;
        finish.places = {{.at = 0}};
        finish.tones = {{.at = 0}};
        finish.smears = {{.from = 9, .to = 11}};
        finish.hideEdges = {.scale = 1.1, .from = Rational(9), .to = Rational(10), .fade = 1};
        const FramesWithFinish finished(below, finish);
        for (const std::int64_t n : {0, 2, 3, 6}) {
            QVERIFY(*finished.make(n).image == *below->make(n).image);
            QCOMPARE(finished.key(n), below->key(n));
        }
        QVERIFY(!(*finished.make(19).image == *below->make(19).image));
        QVERIFY(Finish{}.isNothing());
    }

    void aChangeMakesNothingAnew() {
        const auto counted = std::make_shared<Counted>(halfSpeed(drawnShot()));
        const auto memory = std::make_shared<FramesWithFinish::Memory>(std::size_t{16} << 20);
        Finish finish;
        for (int i = 0; i < 5; ++i) {
            finish.places = {{.at = 0, .scale = 1.02 + 0.01 * i}};
            finish.tones = {{.at = 0, .gamma = 1 + 0.1 * i}};
            finish.texture.sharpen = 10 * i;
            (void)FramesWithFinish(counted, finish, memory).make(5);
        }
        QCOMPARE(counted->made.load(), 1);
        // Without a memory, as renders are, each time.
        (void)FramesWithFinish(counted, finish).make(5);
        QCOMPARE(counted->made.load(), 2);
    }

    void keysTellFinishesApartAndStayWhereNothingChanges() {
        const auto below = halfSpeed(drawnShot());
        const Finish all = everything();
        std::vector<std::function<void(Finish&)>> changes{
            [](Finish& f) { f.places[0].x = 0.2; },
            [](Finish& f) { f.tones[0].gamma = 1.3; },
            [](Finish& f) { f.tones[0].curve[1].y = 0.7; },
            [](Finish& f) { f.texture.soften = 21; },
            [](Finish& f) { f.texture.own.luma[0] = 0.011; },
            [](Finish& f) {
                f.frame.around = {3, 2, 1};
            },
            [](Finish& f) { f.hold.share = 61; },
            [](Finish& f) { f.calm.seconds = 0.25; },
            [](Finish& f) { f.hideEdges.scale = 1.07; },
        };
        const std::string key = FramesWithFinish(below, all).key(3);
        QCOMPARE(FramesWithFinish(below, all).key(3), key);
        for (const auto& change : changes) {
            Finish other = all;
            change(other);
            QVERIFY(FramesWithFinish(below, other).key(3) != key);
        }
        Finish later = all;
        later.smears[0].length = 0.5; // of frames that come later
        QCOMPARE(FramesWithFinish(below, later).key(3), key);
        QVERIFY(FramesWithFinish(below, later).key(21) != FramesWithFinish(below, all).key(21));
    }

    void stagesGiveWhatMakingGives() {
        const FramesWithFinish finished(halfSpeed(drawnShot()), everything());
        for (const std::int64_t n : {4, 5}) {
            const auto making = finished.begin(n);
            making->read({});
            making->estimate({});
            QVERIFY(*making->finish({}).image == *finished.make(n).image);
        }
        QCOMPARE(finished.facts().width, 200);
        QCOMPARE(finished.facts().height, 200);
        QCOMPARE(finished.facts().pixelAspect, Rational(12, 11));
        QCOMPARE(finished.make(4).image->width(), 200);
    }

    void draftsLookAlikeAtTheirSize() {
        // Large enough for drafts of half the size.
        const auto source = std::make_shared<DrawnShot>(6, [](std::int64_t n) {
            return pictureOf(400, 300, {.chromaShiftX = 1, .chromaShiftY = 1}, [&](int p, int x, int y) {
                return p > 0 ? 128.0 : texture(x - 2.0 * static_cast<double>(n), y, 40, 3);
            });
        });
        Finish finish;
        finish.frame.size = FrameSize{320, 320};
        finish.places = {{.at = 0, .scale = 1.2, .x = 0.1, .y = 0.05}};
        finish.texture = {.softenRadius = 4, .soften = 100};
        const FramesWithFinish finished(halfSpeed(source), finish);
        const OutputFramesPtr drafts = finished.drafts();
        QCOMPARE(drafts->facts().width, 160);
        QCOMPARE(drafts->facts().height, 160);
        const Image small = *drafts->make(4).image;
        const Image large = readThrough(*finished.make(4).image, {Plane::scaled(2, 2), {}}, 160, 160, {});
        QVERIFY2(lumaPsnr(small, large, 4) > 33, qPrintable(QString::number(lumaPsnr(small, large, 4))));
    }

    void thereAndBackIsHeldAsWell() {
        // The scene goes by (3, 1) a frame; held, it stands, also in made frames and on the way back.
        const auto source = drawnShot();
        Timing timing{.sourceRate = Rate(24, 1),
                      .outputRate = Rate(24, 1),
                      .from = 0,
                      .to = 11,
                      .speed = Rational(1, 2)};
        timing.keys = thereAndBack(timing.asKeys(), timing.to);
        const auto plan = std::make_shared<const FramePlan>(makePlan(timing, Treatment(Method::flow), 12));
        const auto below = std::make_shared<const PlannedFrames>(
            plan, FrameMaker(source, std::make_shared<VectorStore>(std::size_t{64} << 20), InBetweens{}));
        Finish finish;
        for (std::int64_t n = 0; n < 12; ++n)
            finish.hold.path.push_back(
                {n, {40 + 3.0 * static_cast<double>(n), 60 + 1.0 * static_cast<double>(n)}, 1, false});
        const FramesWithFinish held(below, finish);
        const Image first = *held.make(0).image;
        const auto apart = [&](const Image& image) {
            double sum = 0;
            for (int y = 45; y < 90; ++y)
                for (int x = 50; x < 90; ++x)
                    sum += std::abs(sampleAt(image, 0, x, y) - sampleAt(first, 0, x, y));
            return sum / (45 * 40);
        };
        QVERIFY(held.count() > 40);
        int back = 0;
        for (std::int64_t n = 1; n < held.count(); n += 3) {
            QVERIFY2(apart(*held.make(n).image) < 4,
                     qPrintable(QStringLiteral("%1: %2").arg(n).arg(apart(*held.make(n).image))));
            back += n > 24 && held.row(n).position.frame < 8 ? 1 : 0;
        }
        QVERIFY(back > 2);
        QVERIFY(apart(*below->make(12).image) > 12); // it does move
    }

    void whatIsNoNumberStaysWhereItIs() {
        const PixelLayout layout{.model = ColourModel::rgb, .samples = SampleKind::real};
        const auto source = std::make_shared<DrawnShot>(3, [&](std::int64_t) {
            Image image(40, 30, layout);
            for (int p = 0; p < 3; ++p)
                for (int y = 0; y < 30; ++y)
                    std::ranges::fill(image.row<float>(p, y), 0.25F);
            image.row<float>(1, 10)[10] = std::nanf("");
            image.row<float>(2, 20)[30] = INFINITY;
            return image;
        });
        Finish finish = everything();
        finish.frame = {};
        finish.hold = {};
        const FramesWithFinish finished(halfSpeed(source), finish);
        const Image moved = *finished.make(0).image;
        for (int p = 0; p < 3; ++p)
            for (int y = 0; y < moved.height(); ++y)
                for (const float v : moved.row<float>(p, y))
                    QVERIFY(std::isfinite(v));
        const Histogram histogram = histogramOf(*source->frame(0), {});
        QVERIFY(histogram.white < 0.01);
    }

    void aHostileFileShowsNothingAndBreaksNothing() {
        Finish finish;
        finish.places = {{.at = 0, .scale = PlaceKey::least}};
        finish.frame.size = FrameSize{16, 16};
        finish.calm = {.by = CalmBy::still,
                       .path = {{0, 0, 0, 0, 10, true}, {1, 1e9, -1e9, 1e9, -10, false}}};
        validate(finish);
        const FramesWithFinish finished(halfSpeed(drawnShot()), finish);
        for (const std::int64_t n : {0, 2, 5}) {
            QVERIFY(!finished.key(n).empty());
            QCOMPARE(finished.make(n).image->width(), 16);
        }
    }

    void theInsightLiesOnThePicture() {
        const auto below = halfSpeed(drawnShot());
        Finish finish;
        finish.places = {{.at = 0, .scale = 2}};
        const FramesWithFinish finished(below, finish);
        const FrameInsight plain = below->insight(5, {});
        const FrameInsight moved = finished.insight(5, {});
        // The middle stays, twice as large: so is its motion.
        const MidCell* a = plain.cellAt(80, 60);
        const MidCell* b = moved.cellAt(80, 60);
        QVERIFY(a && b);
        QVERIFY(std::abs(b->vx - 2 * a->vx) < 0.2F);
        QVERIFY(*moved.image == *finished.make(5).image);
        // A source frame is shown as the result would show it.
        QVERIFY(*finished.sourceAsShown(3, {}) == *finished.make(6).image);
    }

    void theLeastScaleIsFoundOverTheShot() {
        const auto below = halfSpeed(drawnShot());
        Finish finish;
        finish.hold.path = {{0, {80, 60}, 1, true}, {11, {88, 60}, 1, false}};
        const HiddenEdges edges = leastHidingScale(*below, finish, 0, below->count() - 1);
        QVERIFY2(edges.scale >= 80.0 / 72 - 1e-9 && edges.scale < 80.0 / 72 + 0.06,
                 qPrintable(QString::number(edges.scale)));
        QVERIFY(edges.worst > 18);
        QCOMPARE(edges.cannotBeHidden, std::int64_t{0});
        finish.hideEdges.scale = edges.scale;
        const FinishGeometry geometry(finish, below->source().facts());
        for (std::int64_t n = 0; n < below->count(); ++n)
            QVERIFY(!showsAround(geometry.at(finishPlaceOf(below->plan(), n)), 160, 120, 160, 120));
    }

    void unlikeShotsBecomeOneReel() {
        const auto source = [&](const char* name, const char* size) {
            return openSource(clips_.moving(QString::fromLatin1(name), 4,
                                            {QStringLiteral("-c:v"), QStringLiteral("ffv1")},
                                            QString::fromLatin1(size)));
        };
        Finish finish;
        finish.frame.size = FrameSize{128, 96};
        const auto part = [&](const std::shared_ptr<ShotFrames>& shot) {
            return RenderPart{"shot", std::make_shared<const FramesWithFinish>(halfSpeed(shot), finish)};
        };
        const auto target = std::filesystem::path(folder_.filePath(QStringLiteral("reel.mkv")).toStdString());
        std::vector<RenderPart> unlike{{"a", halfSpeed(source("a.mkv", "160x120"))},
                                       {"b", halfSpeed(source("b.mkv", "96x128"))}};
        QVERIFY_THROWS_EXCEPTION(
            Error, static_cast<void>(RenderJob(unlike, {.target = target, .rate = Rate(24, 1)}).run()));
        RenderJob job({part(source("c.mkv", "160x120")), part(source("d.mkv", "96x128"))},
                      {.target = target, .rate = Rate(24, 1)});
        const RenderReport report = job.run();
        QCOMPARE(report.frames, 16);
        const auto read = openSource(QString::fromStdString(target.string()));
        QCOMPARE(read->facts().width, 128);
        // The upright one has bars: 72 columns of picture, 28 on each side.
        const ImagePtr upright = read->frame(10);
        QCOMPARE(sampleAt(*upright, 0, 20, 50), 16);
        QVERIFY(sampleAt(*upright, 0, 64, 50) > 20);
    }

    void filesKeepItAll() {
        const Finish all = everything();
        QVERIFY(!all.isNothing());
        QVERIFY(parseFinish(finishText(all), "test") == all);
        Project project;
        Shot shot = shotOf("/tmp/clip.mkv");
        shot.finish = all;
        project.shots = {shot};
        const auto file =
            std::filesystem::path(folder_.filePath(QStringLiteral("kept.yarngap")).toStdString());
        saveProject(project, file);
        QVERIFY(loadProject(file).shots.front().finish == all);
        // A point a line, or long paths would outgrow what is read.
        const std::string text = projectText(project, "/tmp");
        QVERIFY(text.find("[2, 46.5, 32.25, 0.875]") != std::string::npos);
        Project large = project;
        large.shots.front().finish.hold.path.clear();
        for (std::int64_t n = 0; n < 1'000'000; ++n)
            large.shots.front().finish.hold.path.push_back({n, {1234.5678, 987.6543}, 0.987, true});
        large.shots.push_back(large.shots.front());
        QVERIFY_THROWS_EXCEPTION(Error, static_cast<void>(projectText(large, "/tmp")));
        // Nothing set is not written.
        QVERIFY(finishText({}) == "{}\n");
    }

    void filesOfOthersAreRefusedInWords_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QByteArray>("names");
        QTest::newRow("no JSON") << QByteArray("{") << QByteArray("no finish");
        QTest::newRow("another thing") << QByteArray(R"({"colour": 1})") << QByteArray("colour");
        QTest::newRow("far too large")
            << QByteArray(R"({"frame": {"size": [99999, 2]}})") << QByteArray("size");
        QTest::newRow("keys out of order")
            << QByteArray(R"({"places": [{"at": "5"}, {"at": "4"}]})") << QByteArray("order");
        QTest::newRow("a curve that folds")
            << QByteArray(R"({"tone": [{"curve": [[0, 0], [0, 1]]}]})") << QByteArray("folds");
        QTest::newRow("a path of words")
            << QByteArray(R"({"hold": {"frame": 0, "path": [["a", 1, 2, 3]]}})") << QByteArray("path");
        QTest::newRow("no number") << QByteArray(R"({"hideEdges": {"scale": "wide"}})")
                                   << QByteArray("scale");
    }
    void filesOfOthersAreRefusedInWords() {
        QFETCH(QByteArray, text);
        QFETCH(QByteArray, names);
        try {
            (void)parseFinish(text.toStdString(), "finish.json");
            QFAIL("It was read.");
        } catch (const Error& error) {
            QVERIFY2(QByteArray(error.what()).startsWith("finish.json") &&
                         QByteArray(error.what()).contains(names),
                     error.what());
        }
    }

    void toneIsReadAloneAndInAFinish() {
        QCOMPARE(parseTone(R"({"black": 0.1})", "t").front().black, 0.1);
        QCOMPARE(parseTone(R"({"tone": [{"gamma": 2}]})", "t").front().gamma, 2.0);
        QVERIFY_THROWS_EXCEPTION(Error, static_cast<void>(parseTone(R"({"dark": 0.1})", "t")));
    }

    void presetsCarryItByRelation() {
        Shot shot = shotOf("/tmp/clip.mkv");
        shot.finish = everything();
        const Timing own{
            .sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 0, .to = 19, .speed = 1};
        const Preset preset = parsePreset(presetText(presetOf(shot, own)));
        const Timing other{
            .sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 100, .to = 139, .speed = 1};
        Finish theirs;
        theirs.calm.path = {{0, 0, 0, 0, 0, true}};
        const Finish given = finishFrom(preset, other, theirs);
        // Twice as long: 13/2 of 20 becomes 13 of 40.
        QCOMPARE(given.places[1].at, Rational(113));
        QCOMPARE(given.smears[0].from, Rational(116));
        QCOMPARE(given.frame.size->width, 200);
        QVERIFY(given.hold.path.empty()); // what was followed in one shot is nowhere in another
        QVERIFY(given.calm.path == theirs.calm.path);
        QCOMPARE(given.calm.seconds, 0.5);
        QVERIFY(given.texture.own.isNothing());
    }

    void framesTakenOutTakeTheirPointsAlong() {
        const QString clip = clips_.moving(QStringLiteral("carried.mkv"), 10,
                                           {QStringLiteral("-c:v"), QStringLiteral("ffv1")});
        const auto index = std::make_shared<const MediaIndex>(buildIndex(clip.toStdString()));
        const SourceAxis before(*index, {});
        Cleanup cleanup;
        cleanup.decisions = {{.frame = 4, .kind = CleanupKind::takeOut}};
        const SourceAxis after(*index, {}, cleanup);
        Shot shot = shotOf(clip.toStdString());
        for (std::int64_t n = 0; n < 10; ++n) {
            shot.finish.hold.path.push_back({n, {10.0 * static_cast<double>(n), 0}, 1, false});
            shot.finish.calm.path.push_back({n, 2.0 * static_cast<double>(n), 0, 0, 0, n == 0 || n == 4});
        }
        shot.finish.hold.frame = 7;
        shot.finish.places = {{.at = 2}, {.at = 8, .scale = 2}};
        shot.carryOver(before, after);
        const FollowedPath& path = shot.finish.hold.path;
        QCOMPARE(path.size(), std::size_t{9});
        QVERIFY(path[3].at.x == 30 && path[4].at.x == 50 && path[4].frame == 4);
        QCOMPARE(shot.finish.hold.frame, 6);
        QCOMPARE(shot.finish.places[1].at, Rational(7));
        // The run that began at the frame that is gone begins at the next.
        QVERIFY(shot.finish.calm.path[4].begins && shot.finish.calm.path[4].x == 10);
    }
};

QTEST_GUILESS_MAIN(TestFinish)
#include "test_finish.moc"
