// Renders in parts: joined they are the render in one go, whatever happened on the way.

#include "core/error.h"
#include "core/inspection/shot_findings.h"
#include "core/media/library_messages.h"
#include "core/render/render_job.h"
#include "core/render/slice_folder.h"
#include "core/synthesis/planned_frames.h"
#include "support/clips.h"
#include "support/file_bytes.h"

#include <QDir>
#include <QTest>

#include <algorithm>
#include <fstream>

using namespace yarngap;
using namespace yarngap::test;
namespace fs = std::filesystem;

class TestSlices : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;

    /// Some frames of the clip at 50 %.
    [[nodiscard]] RenderPart part(const SettingsInForce& settings = GapSettings{Method::blend}) const {
        const auto source = openSource(clip_);
        const Timing timing{.sourceRate = Rate(24, 1),
                            .outputRate = Rate(24, 1),
                            .from = 0,
                            .to = 19,
                            .speed = Rational(1, 2)};
        const auto plan = std::make_shared<const FramePlan>(makePlan(timing, Treatment(settings), 20));
        RenderPart part{"clip",
                        std::make_shared<const PlannedFrames>(
                            plan, FrameMaker(source, std::make_shared<VectorStore>(), plan->settings))};
        part.index = std::make_shared<const MediaIndex>(buildIndex(clip_.toStdString()));
        part.axis = std::make_shared<const SourceAxis>(*part.index, Interpretation());
        return part;
    }
    [[nodiscard]] fs::path path(const char* name) const {
        return clips_.path(QString::fromLatin1(name)).toStdString();
    }
    [[nodiscard]] static RenderOptions into(const fs::path& target, std::optional<SliceUse> slices = {}) {
        RenderOptions options{target, formatForTarget(target), Rate(24, 1)};
        options.timecode = "01:00:00:00";
        options.reel = "A004";
        options.slices = std::move(slices);
        if (options.slices) options.slices->folder = SliceFolder::beside(target);
        return options;
    }
    static QByteArray bytesOf(const fs::path& file) {
        return test::bytesOf(QString::fromStdString(file.string()));
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        clip_ = clips_.make(QStringLiteral("clip.mkv"),
                            {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("testsrc2=size=320x240:rate=24:d=1"), QStringLiteral("-f"),
                             QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("aevalsrc=0.5*sin(900*t):s=48000:d=1"), QStringLiteral("-c:v"),
                             QStringLiteral("ffv1"), QStringLiteral("-c:a"), QStringLiteral("pcm_s16le")});
    }

    void slicesCoverAllFramesOnceAndBreakNoPattern() {
        for (const OutputScan scan : {OutputScan::progressive, OutputScan::topFirst, OutputScan::pulldown32})
            for (const std::int64_t total : {1, 7, 40, 1001})
                for (const int count : {1, 3, 64, 5000}) {
                    const auto slices = slicesOf(total, count, scan);
                    QVERIFY(!slices.empty() && std::ssize(slices) <= count);
                    std::int64_t next = 0;
                    for (const Slice& slice : slices) {
                        QCOMPARE(slice.first, next);
                        QVERIFY(slice.frames() > 0);
                        QCOMPARE(slice.first % framesOfPattern(scan), 0);
                        next = slice.end;
                    }
                    QCOMPARE(next, total);
                }
    }

    void joinedTheyAreTheRenderInOneGo_data() {
        QTest::addColumn<QString>("name");
        for (const char* name : {"whole.mkv", "whole.mov", "whole.mxf"})
            QTest::newRow(name) << QString::fromLatin1(name);
    }
    void joinedTheyAreTheRenderInOneGo() {
        QFETCH(QString, name);
        const fs::path whole = path(qPrintable(name));
        const fs::path sliced = path(qPrintable(QStringLiteral("sliced_") + name));
        RenderJob({part()}, into(whole)).run();
        const RenderReport report =
            RenderJob({part()}, into(sliced, SliceUse{.folder = {}, .count = 4, .only = {}})).run();
        QCOMPARE(report.frames, 40);
        QCOMPARE(report.resumed, 0);
        QCOMPARE(report.originals, 20);
        QVERIFY(bytesOf(whole).size() > 1000);
        QVERIFY(bytesOf(whole) == bytesOf(sliced));
        QVERIFY(!fs::exists(SliceFolder::beside(sliced)));
    }

    void pictureSequencesAreTheSameFiles() {
        for (const char* ending : {"png", "exr", "dpx"}) {
            const auto target = [&](const char* kind) {
                fs::create_directory(path(kind)); // DPX headers hold the name of their file
                return path(kind) / (std::string(ending) + "_###." + ending);
            };
            RenderJob({part()}, into(target("whole"))).run();
            RenderJob({part()}, into(target("sliced"), SliceUse{.folder = {}, .count = 3, .only = {}})).run();
            for (int n = 0; n < 40; ++n)
                QVERIFY(bytesOf(sequenceName(target("whole"), n)) ==
                        bytesOf(sequenceName(target("sliced"), n)));
            QVERIFY(bytesOf(soundBeside(target("whole"))) == bytesOf(soundBeside(target("sliced"))));
        }
    }

    void slicesAreMadeInAnyOrderByAnybody() {
        const fs::path whole = path("order_whole.mkv");
        const fs::path target = path("order.mkv");
        RenderJob({part()}, into(whole)).run();
        for (const int n : {2, 0, 3, 1}) {
            const RenderReport report =
                RenderJob({part()}, into(target, SliceUse{.folder = {}, .count = 4, .only = n})).run();
            QVERIFY(!fs::exists(target));
            QCOMPARE(report.resumed, 0);
        }
        // What is there is not made again.
        QCOMPARE(
            RenderJob({part()}, into(target, SliceUse{.folder = {}, .count = 4, .only = 1})).run().resumed,
            10);
        RenderJob({part()}, into(target, SliceUse{.folder = {}, .count = 4, .only = {}, .joinsOnly = true}))
            .run();
        QVERIFY(bytesOf(whole) == bytesOf(target));
    }

    void aMissingOrDamagedSliceIsNamed() {
        const fs::path target = path("broken.mkv");
        const SliceUse join{.folder = {}, .count = 4, .only = {}, .joinsOnly = true};
        const auto refusal = [&]() -> QString {
            try {
                RenderJob({part()}, into(target, join)).run();
            } catch (const Error& error) {
                return QString::fromStdString(error.what());
            }
            return {};
        };
        for (const int n : {0, 1, 3})
            RenderJob({part()}, into(target, SliceUse{.folder = {}, .count = 4, .only = n})).run();
        QVERIFY2(refusal().startsWith(QStringLiteral("Slice 2 is missing")), qPrintable(refusal()));
        RenderJob({part()}, into(target, SliceUse{.folder = {}, .count = 4, .only = 2})).run();
        // A byte in the middle of another.
        const fs::path slice = SliceFolder::beside(target) / "0003.mkv";
        {
            std::fstream file(slice, std::ios::in | std::ios::out | std::ios::binary);
            file.seekp(static_cast<std::streamoff>(fs::file_size(slice) / 2));
            const char before = static_cast<char>(file.peek());
            file.put(static_cast<char>(~before));
        }
        QVERIFY2(refusal().startsWith(QStringLiteral("Slice 3 is damaged")), qPrintable(refusal()));
        QVERIFY(!fs::exists(target));
        // Cut short it counts as missing.
        fs::resize_file(slice, 100);
        QVERIFY(refusal().startsWith(QStringLiteral("Slice 3 is missing")));
    }

    void afterACancelItGoesOnFromTheLastFinishedSlice() {
        const fs::path whole = path("resume_whole.mkv");
        const fs::path target = path("resume.mkv");
        RenderJob({part()}, into(whole)).run();
        const auto options = [&] { return into(target, SliceUse{.folder = {}, .count = 5, .only = {}}); };
        std::stop_source stop;
        RenderJob job({part()}, options());
        QVERIFY_THROWS_EXCEPTION(Cancelled, job.run(
                                                [&](const RenderProgress& p) {
                                                    if (p.done == 19) stop.request_stop();
                                                },
                                                stop.get_token()));
        QVERIFY(!fs::exists(target));
        const RenderReport report = RenderJob({part()}, options()).run();
        QVERIFY2(report.resumed >= 16, qPrintable(QString::number(report.resumed)));
        QVERIFY(report.resumed < 40);
        QCOMPARE(report.originals, 20);
        QCOMPARE(report.blends + report.held, 20);
        QVERIFY(bytesOf(whole) == bytesOf(target));
    }

    void onlyWhatChangedIsMadeAnew() {
        const fs::path target = path("changed.mkv");
        const fs::path whole = path("changed_whole.mkv");
        const auto parted = [&](std::optional<int> only) {
            return into(target, SliceUse{.folder = {}, .count = 4, .only = only});
        };
        for (int n = 0; n < 4; ++n)
            RenderJob({part()}, parted(n)).run();
        // Gap 12 is made otherwise: one frame of the third slice.
        SettingsInForce settings(GapSettings{Method::blend});
        settings.put(12, 12, {Method::sample});
        const RenderReport changed = RenderJob({part(settings)}, parted({})).run();
        QCOMPARE(changed.resumed, 30);
        QCOMPARE(changed.originals, 20);
        QCOMPARE(changed.repeats, 1);
        RenderJob({part(settings)}, into(whole)).run();
        QVERIFY(bytesOf(whole) == bytesOf(target));
        // All of it otherwise: nothing is left to use.
        for (int n = 0; n < 4; ++n)
            RenderJob({part()}, parted(n)).run();
        const RenderReport other = RenderJob({part(GapSettings{Method::sample})}, parted({})).run();
        QCOMPARE(other.resumed, 0);
        QCOMPARE(other.repeats, 20);
    }

    void othersAreEncodedOnceAtTheEnd() {
        const fs::path whole = path("inter_whole.mp4");
        const fs::path target = path("inter.mp4");
        // Without loss, since encoders of several threads need not write the same twice.
        const auto lossless = [](RenderOptions options) {
            options.format.quality = 0;
            return options;
        };
        RenderJob({part()}, lossless(into(whole))).run();
        RenderJob({part()}, lossless(into(target, SliceUse{.folder = {}, .count = 4, .only = {}}))).run();
        QVERIFY(linearFrames(QString::fromStdString(whole.string()), QStringLiteral("yuv420p")) ==
                linearFrames(QString::fromStdString(target.string()), QStringLiteral("yuv420p")));
    }

    void framesForFieldsAreWovenAcrossSlices() {
        const fs::path whole = path("fields_whole.mkv");
        const fs::path target = path("fields.mkv");
        for (const OutputScan scan : {OutputScan::topFirst, OutputScan::pulldown32}) {
            RenderOptions straight = into(whole);
            straight.scan = scan;
            RenderOptions parted = into(target, SliceUse{.folder = {}, .count = 3, .only = {}});
            parted.scan = scan;
            const RenderReport report = RenderJob({part()}, straight).run();
            QCOMPARE(report.frames, scan == OutputScan::topFirst ? 20 : 50);
            RenderJob({part()}, parted).run();
            QVERIFY(bytesOf(whole) == bytesOf(target));
        }
    }

    void pulldownKeepsItsPhaseOverAReel() {
        // Of 17 and of 40 frames: the second shot begins in the middle of the pattern.
        const fs::path target = path("film.mkv");
        RenderOptions options = into(target, SliceUse{.folder = {}, .count = 3, .only = {}});
        options.rate = Rate(30000, 1001);
        options.scan = OutputScan::pulldown32;
        RenderPart first = part();
        first.last = 16;
        QCOMPARE(RenderJob({std::move(first), part()}, options).run().frames, 72);
        const ShotFindings seen = inspectShot(std::make_shared<const MediaIndex>(buildIndex(target)));
        QVERIFY2(seen.kind() == CadenceKind::pulldown32 && seen.topFirst() && seen.breaks().empty(),
                 seen.describe().c_str());
    }

    void twoFormatsAreMadeOfOneSetOfFrames() {
        const fs::path video = path("both.mkv");
        const fs::path pictures = path("both_###.png");
        for (const bool sliced : {false, true}) {
            fs::remove(video);
            RenderOptions options = into(
                video, sliced ? std::optional(SliceUse{.folder = {}, .count = 3, .only = {}}) : std::nullopt);
            options.also.push_back({pictures, OutputFormat::pngSequence, true});
            QCOMPARE(RenderJob({part()}, options).run().frames, 40);
            QCOMPARE(buildIndex(video).frames(), 40);
            QCOMPARE(std::ssize(picturesThere(pictures)), 40);
        }
    }

    void theFolderIsLeftAloneWhereOthersHavePutSomething() {
        const fs::path target = path("guest.mkv");
        const fs::path folder = SliceFolder::beside(target);
        fs::create_directory(folder);
        std::ofstream(folder / "notes.txt") << "mine";
        RenderJob({part()}, into(target, SliceUse{.folder = {}, .count = 2, .only = {}})).run();
        QVERIFY(fs::exists(folder / "notes.txt"));
        QCOMPARE(std::distance(fs::directory_iterator(folder), fs::directory_iterator()), 1);
    }
};

QTEST_MAIN(TestSlices)
#include "test_slices.moc"
