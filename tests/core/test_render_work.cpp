// A render as a value: what is kept in files comes back the same, and what is not trusted is refused.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over <span>
#include "core/error.h"
#include "core/media/library_messages.h"
#include "core/project/project.h"
#include "core/project/queue_file.h"
#include "core/project/work_file.h"
#include "core/render/file_names.h"
#include "core/render/render_job.h"
#endif
#include "support/clips.h"
#include "support/file_bytes.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;
namespace fs = std::filesystem;

namespace {

const QStringList ffv1{QStringLiteral("-c:v"), QStringLiteral("ffv1")};

} // namespace

class TestRenderWork : public QObject {
    Q_OBJECT

    Clips clips_;

    [[nodiscard]] RenderWork work() const {
        RenderWork work;
        work.name = "slow";
        work.asked = "17";
        WorkShot of{.shot = shotOf("/films/heron.mp4"),
                    .timing = {.sourceRate = Rate(24000, 1001),
                               .outputRate = Rate(25, 1),
                               .from = 3,
                               .to = 90,
                               .speed = Rational(1, 3)}};
        of.shot.speed = Rational(1, 3);
        of.shot.edit = EditPlace{.list = "/films/list.edl",
                                 .title = "T",
                                 .track = "V",
                                 .event = 4,
                                 .rate = Rate(25, 1),
                                 .recordIn = 90000,
                                 .recordOut = 90100,
                                 .reel = "A1"};
        of.found = GapFindings{.cuts = {4, 9}, .repeats = {5}, .shakes = {{7, 0.5F, -1.25F, 3, 4, 0.75F}}};
        of.uncleanedCuts = {4};
        of.first = 2;
        of.last = 60;
        work.shots.push_back(of);
        FormatChoice exr(OutputFormat::exrSequence);
        exr.depth = FormatChoice::half;
        exr.compression = ExrCompression::piz;
        FormatChoice h265(OutputFormat::h265Mp4);
        h265.quality = 20;
        h265.chroma = Chroma::c422;
        h265.soundCodec = SoundCodec::aac;
        work.targets = {{"/out/a_####.exr", exr, true}, {"/out/a.mp4", h265, false}};
        work.settings.format = exr;
        work.settings.sound = SoundUse::tape;
        work.settings.usualSoundRate = true;
        work.settings.timecode = TimecodeUse::fromStart;
        work.settings.start = "01:02:03:04";
        work.settings.reel = "R2";
        work.settings.firstNumber = 1001;
        work.settings.whenUndecodable = WhenUndecodable::hold;
        work.spared = {"/films/autumn.yarngap"};
        return work;
    }

    /// All of a clip at full speed.
    [[nodiscard]] RenderWork workOf(const QString& clip, const char* target) const {
        const MediaIndex index = buildIndex(clip.toStdString());
        RenderWork of;
        of.shots.push_back({.shot = shotOf(clip.toStdString()), .timing = {}});
        of.shots[0].timing = of.shots[0].shot.timing(index.facts.rate, index.frames());
        of.targets.push_back({clips_.path(QString::fromLatin1(target)).toStdString(), OutputFormat::ffv1Mkv});
        return of;
    }
    static WorkMeans means() {
        return {.vectors = std::make_shared<VectorStore>(), .known = std::make_shared<KnownMedia>()};
    }

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void aWorkComesBackTheSame() {
        const RenderWork before = work();
        const std::string text = workText(before, "/jobs/one");
        RenderWork after;
        try {
            after = parseWork(text, "/jobs/one", "job");
        } catch (const Error& error) {
            QFAIL(error.what());
        }
        QVERIFY(after == before);
        QCOMPARE(workText(after, "/jobs/one"), text);
    }

    void settingsComeBackTheSame() {
        const RenderSettings before = work().settings;
        QVERIFY(parseRenderSettings(renderSettingsText(before), "preset") == before);
        RenderSettings fields;
        fields.scan = OutputScan::pulldown2332;
        QVERIFY(parseRenderSettings(renderSettingsText(fields), "preset") == fields);
        fields.format = OutputFormat::av1Mp4; // which has none
        QVERIFY_THROWS_EXCEPTION(Error, parseRenderSettings(renderSettingsText(fields), "preset"));
    }

    void damagedTextsAreRefusedWithThePlace() {
        const std::string text = workText(work(), "/");
        const auto refused = [&](const std::string& from, const std::string& to) {
            std::string changed = text;
            const auto at = changed.find(from);
            if (at == std::string::npos) return std::string("not there: ") + from;
            changed.replace(at, from.size(), to);
            try {
                static_cast<void>(parseWork(changed, "/", "job"));
            } catch (const Error& error) {
                return std::string(error.what());
            }
            return std::string();
        };
        QVERIFY(refused("\"yarngapWork\": 1", "\"yarngapWork\": 9").find("another version") !=
                std::string::npos);
        QVERIFY(refused("\"depth\": -16", "\"depth\": 9").find("bit") != std::string::npos);
        QVERIFY(refused("\"name\": \"exr\"", "\"name\": \"avi\"").find("format: name") != std::string::npos);
        QVERIFY(refused("\"sound\": \"tape\"", "\"sound\": \"loud\"").find("sound") != std::string::npos);
        QVERIFY(refused("\"first\": 2", "\"first\": -2").find("first") != std::string::npos);
        QVERIFY(refused("\"start\": \"01:02:03:04\"", "\"start\": \"soon\"").find("timecode") !=
                std::string::npos);
        for (std::size_t cut = 0; cut < text.size(); cut += 97)
            QVERIFY_THROWS_EXCEPTION(Error, parseWork(text.substr(0, cut), "/", "job"));
    }

    void aQueueComesBackTheSame() {
        const fs::path file = clips_.path(QStringLiteral("state/queue.json")).toStdString();
        QVERIFY(loadQueue(file).empty());
        std::vector<QueuedRender> queue{
            {.number = 3, .work = work(), .state = QueuedRender::State::paused, .outcome = "Paused."},
            {.number = 7, .work = work(), .outcome = {}}};
        saveQueue(queue, file);
        QVERIFY(loadQueue(file) == queue);
        putBytes(QString::fromStdString(file.string()), "{}");
        QVERIFY_THROWS_EXCEPTION(Error, loadQueue(file));
    }

    void aShotKeepsItsPlaceInTheEdit() {
        Project project;
        project.shots.push_back(work().shots.front().shot);
        const Project back = parseProject(projectText(project, "/films"), "/films", "project");
        QVERIFY(back.shots.front().edit == project.shots.front().edit);
        project.shots.front().edit->list.clear();
        QVERIFY(parseProject(projectText(project, "/films"), "/films", "project").shots.front().edit ==
                project.shots.front().edit);
    }

    void namesAreFilledIn() {
        Shot shot = shotOf("/films/heron.mp4");
        Timing timing = work().shots.front().timing;
        timing.speed = Rational(1, 4);
        const std::string folder = clips_.path(QString()).toStdString();
        QCOMPARE(fileNamed("{shot}_{method}_{speed}_{rate}.mkv", shot, timing),
                 fs::path("heron_flow_25_25.mkv"));
        QCOMPARE(fileNamed("{shot}_{frame:4}.png", shot, timing), fs::path("heron_####.png"));
        timing.speed = Rational(1, 3);
        QCOMPARE(fileNamed("{speed}.mkv", shot, timing), fs::path("33.3.mkv"));
        shot.name = "a/b#c";
        QCOMPARE(fileNamed("{shot}.mkv", shot, timing), fs::path("a-b-c.mkv"));
        const std::string pattern = folder + "/x_v{version:3}.mkv";
        QCOMPARE(fileNamed(pattern, shot, timing).filename(), fs::path("x_v001.mkv"));
        putBytes(clips_.path(QStringLiteral("x_v001.mkv")), "1");
        putBytes(clips_.path(QStringLiteral("x_v002.mkv")), "2");
        QCOMPARE(fileNamed(pattern, shot, timing).filename(), fs::path("x_v003.mkv"));
        QVERIFY_THROWS_EXCEPTION(Error, fileNamed("{owner}.mkv", shot, timing));
        QVERIFY_THROWS_EXCEPTION(Error, fileNamed("{frame:99}.png", shot, timing));
        QVERIFY(namesShots("{shot}.mkv") && !namesShots("all.mkv"));
    }

    void namesKeepApart() {
        const Shot shot = shotOf("/films/heron.mp4");
        const Timing timing = work().shots.front().timing;
        const std::string pattern = clips_.path(QStringLiteral("apart_v{version}.mkv")).toStdString();
        // A version that another render is going to write is passed over.
        std::set<fs::path> taken;
        QCOMPARE(fileApart(pattern, shot, timing, taken).filename(), fs::path("apart_v1.mkv"));
        QCOMPARE(fileApart(pattern, shot, timing, taken).filename(), fs::path("apart_v2.mkv"));
        putBytes(clips_.path(QStringLiteral("apart_v3.mkv")), "there");
        QCOMPARE(fileApart(pattern, shot, timing, taken).filename(), fs::path("apart_v4.mkv"));
        // Without versions a number is put behind.
        QCOMPARE(fileApart("/out/{shot}.mkv", shot, timing, taken), fs::path("/out/heron.mkv"));
        QCOMPARE(fileApart("/out/{shot}.mkv", shot, timing, taken), fs::path("/out/heron_2.mkv"));
        QCOMPARE(taken.size(), std::size_t{5});
    }

    void pulldownNeedsItsRate() {
        refuseScanAt(OutputScan::pulldown32, Rate(30000, 1001));
        refuseScanAt(OutputScan::topFirst, Rate(25, 1));
        QVERIFY_THROWS_EXCEPTION(Error, refuseScanAt(OutputScan::pulldown32, Rate(24, 1)));
        QVERIFY_THROWS_EXCEPTION(Error, refuseScanAt(OutputScan::pulldown2332, Rate(24000, 1001)));
    }

    void aChangedFileIsNotTakenForTheOneMeant() {
        const QString clip = clips_.moving(QStringLiteral("wren.mkv"), 6, ffv1, QStringLiteral("64x48"));
        const RenderWork of = workOf(clip, "wren_out.mkv");
        const RenderWork ready = prepared(of, means(), {});
        QVERIFY(ready.shots[0].found.has_value());
        QCOMPARE(ready.shots[0].shot.identity, buildIndex(clip.toStdString()).identity);
        QCOMPARE(partsOf(ready, means(), {}).size(), std::size_t{1});
        clips_.moving(QStringLiteral("wren.mkv"), 6, ffv1, QStringLiteral("80x48"));
        QVERIFY_THROWS_EXCEPTION(Error, partsOf(ready, means(), {}));
        QVERIFY_THROWS_EXCEPTION(Error, prepared(ready, means(), {})); // one that waited in a queue
        QVERIFY(prepared(of, means(), {}).shots[0].shot.identity != ready.shots[0].shot.identity);
    }

    void fieldsAreMadeAtTwiceTheRate() {
        const QString clip = clips_.moving(QStringLiteral("kite.mkv"), 12, ffv1, QStringLiteral("64x48"));
        RenderWork of = workOf(clip, "kite_out.mkv");
        of.shots[0].shot.method = Method::blend;
        of.shots[0].timing.speed = of.shots[0].shot.speed = Rational(1, 2);
        of.settings.scan = OutputScan::topFirst;
        const RenderWork ready = prepared(of, means(), {});
        const auto parts = partsOf(ready, means(), {});
        QCOMPARE(parts.front().count(), 48);
        QCOMPARE(RenderJob(parts, optionsOf(ready, parts)).run().frames, 24);
        RenderWork some = ready;
        some.shots[0].first = 4;
        some.shots[0].last = 9;
        const auto part = partsOf(some, means(), {}).front();
        QCOMPARE(part.first, 8);
        QCOMPARE(part.count(), 12);
    }
};

QTEST_MAIN(TestRenderWork)
#include "test_render_work.moc"
