// Rendering: exactly the promised frames, originals untouched, stop at once with nothing left.

#include "core/error.h"
#include "core/media/library_messages.h"
#include "core/render/channel.h"
#include "core/render/render_job.h"
#include "core/synthesis/planned_frames.h"
#include "support/clips.h"

#include <QDir>
#include <QFile>
#include <QTest>

#include <algorithm>
#include <thread>
#include <utility>

#include <sched.h>

using namespace yarngap;
using namespace yarngap::test;

namespace {

const QStringList ffv1{QStringLiteral("-c:v"), QStringLiteral("ffv1")};

struct Setting {
    std::shared_ptr<FrameSource> source;
    Timing timing;
    [[nodiscard]] OutputFramesPtr
    frames(Method method, const std::shared_ptr<VectorStore>& store = std::make_shared<VectorStore>()) const {
        const auto plan = std::make_shared<const FramePlan>(makePlan(timing, method, source->frames()));
        return std::make_shared<const PlannedFrames>(plan, FrameMaker(source, store, plan->settings));
    }
    [[nodiscard]] std::vector<RenderPart> part(Method method) const { return {{"one", frames(method)}}; }
};

Setting setting(const QString& clip, const Rational& speed) {
    const auto source = openSource(clip);
    const Rate rate = source->facts().rate;
    return {source,
            {.sourceRate = rate, .outputRate = rate, .from = 0, .to = source->frames() - 1, .speed = speed}};
}

} // namespace

class TestRender : public QObject {
    Q_OBJECT

    Clips clips_;

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void fullSpeedIsBitExact_data() {
        QTest::addColumn<QString>("format");
        for (const char* format : {"yuv420p", "yuv422p10le", "yuv444p16le", "gbrp"})
            QTest::newRow(format) << QString::fromLatin1(format);
    }
    void fullSpeedIsBitExact() {
        QFETCH(QString, format);
        const QString clip = clips_.moving(format + QStringLiteral(".mkv"), 12, ffv1, QStringLiteral("98x66"),
                                           QStringLiteral("25"), format);
        const Setting s = setting(clip, 1);
        const QString target = clips_.path(format + QStringLiteral("_out.mkv"));
        const RenderReport report =
            RenderJob(s.part(Method::sample), {target.toStdString(), OutputFormat::ffv1Mkv, Rate(25, 1)})
                .run();
        QCOMPARE(report.frames, 12);
        QCOMPARE(report.originals, 12);
        QVERIFY(linearFrames(target, format) == linearFrames(clip, format)); // by another decoder than ours
    }

    void aRenderMakesTheFramesThatThePreviewShows() {
        const QString clip = clips_.moving(QStringLiteral("shown.mkv"), 8, ffv1, QStringLiteral("160x96"));
        const Setting s = setting(clip, Rational(2, 5));
        const QString target = clips_.path(QStringLiteral("shown_out.mkv"));
        RenderJob(s.part(Method::flow), {target.toStdString(), OutputFormat::ffv1Mkv, Rate(25, 1)}).run();
        const auto written = openSource(target);
        const OutputFramesPtr shown = s.frames(Method::flow);
        QCOMPARE(written->frames(), shown->count());
        for (std::int64_t n = 0; n < shown->count(); ++n) {
            const MadeFrame made = shown->make(n, {});
            QVERIFY2(*made.image == *written->frame(n), qPrintable(QString::number(n)));
            // A render needs no doubt; the preview tells it.
            if (shown->row(n).kind == FrameKind::flow) QVERIFY(made.doubt.has_value());
        }
    }

    void theNumberOfCoresChangesNothing() {
        const QString clip = clips_.moving(QStringLiteral("cores.mkv"), 9, ffv1, QStringLiteral("160x96"));
        const auto rendered = [&](const QString& name) {
            const Setting s = setting(clip, Rational(2, 5));
            const QString target = clips_.path(name);
            const RenderReport report =
                RenderJob(s.part(Method::flow), {target.toStdString(), OutputFormat::ffv1Mkv, Rate(25, 1)})
                    .run();
            return std::pair(report.flows, linearFrames(target, QStringLiteral("yuv420p")));
        };
        const auto onAll = rendered(QStringLiteral("all.mkv"));
        cpu_set_t before;
        QCOMPARE(sched_getaffinity(0, sizeof before, &before), 0);
        cpu_set_t one;
        CPU_ZERO(&one);
        CPU_SET(sched_getcpu(), &one);
        QCOMPARE(sched_setaffinity(0, sizeof one, &one), 0);
        const auto onOne = rendered(QStringLiteral("one.mkv"));
        QCOMPARE(sched_setaffinity(0, sizeof before, &before), 0);
        QVERIFY(onAll.first > 8 && onAll.first == onOne.first);
        QVERIFY(!onAll.second.isEmpty() && onAll.second == onOne.second);
    }

    void aReelIsItsShotsInOrderWithNothingAcrossTheCut() {
        const QString first = clips_.moving(QStringLiteral("one.mkv"), 6, ffv1, QStringLiteral("98x66"));
        const QString second = clips_.make(
            QStringLiteral("two.mkv"),
            QStringList{QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                        QStringLiteral("color=c=gray:size=98x66:rate=24"), QStringLiteral("-frames:v"),
                        QStringLiteral("5"), QStringLiteral("-pix_fmt"), QStringLiteral("yuv420p")} +
                ffv1);
        const Setting a = setting(first, Rational(1, 2));
        const Setting b = setting(second, 1);
        const QString target = clips_.path(QStringLiteral("reel.mkv"));
        const RenderReport report = RenderJob(std::vector<RenderPart>{{"one", a.frames(Method::flow)},
                                                                      {"two", b.frames(Method::flow)}},
                                              {target.toStdString(), OutputFormat::ffv1Mkv, Rate(24, 1)})
                                        .run();
        QCOMPARE(report.frames, 12 + 5);
        QCOMPARE(report.held, 1); // the end of the first shot holds its last frame, whatever follows
        const QString format = QStringLiteral("yuv420p");
        const QByteArray made = linearFrames(target, format);
        const QByteArray one = linearFrames(first, format);
        const QByteArray two = linearFrames(second, format);
        const qsizetype frame = one.size() / 6;
        QCOMPARE(made.size(), 17 * frame);
        QVERIFY(made.mid(10 * frame, frame) == one.mid(5 * frame, frame));
        QVERIFY(made.mid(11 * frame, frame) == one.mid(5 * frame, frame));
        QVERIFY(made.mid(12 * frame) == two);
    }

    void aReelOfUnlikeShotsIsRefused() {
        const Setting a =
            setting(clips_.moving(QStringLiteral("a.mkv"), 4, ffv1, QStringLiteral("98x66")), 1);
        const Setting b =
            setting(clips_.moving(QStringLiteral("b.mkv"), 4, ffv1, QStringLiteral("64x48")), 1);
        const std::filesystem::path out = clips_.path(QStringLiteral("unlike.mkv")).toStdString();
        QVERIFY_THROWS_EXCEPTION(Error, RenderJob(std::vector<RenderPart>{{"a", a.frames(Method::flow)},
                                                                          {"b", b.frames(Method::flow)}},
                                                  {out, OutputFormat::ffv1Mkv, Rate(24, 1)})
                                            .run());
        QVERIFY(!std::filesystem::exists(out));
    }

    void originalsStayBitExactBetweenInBetweens() {
        const QString clip = clips_.moving(QStringLiteral("q.mkv"), 6, ffv1, QStringLiteral("98x66"),
                                           QStringLiteral("24"), QStringLiteral("yuv420p10le"));
        for (const Method method : {Method::blend, Method::flow}) {
            const Setting s = setting(clip, Rational(1, 4));
            const QString target = clips_.path(QStringLiteral("q_out.mkv"));
            const RenderReport report =
                RenderJob(s.part(method), {target.toStdString(), OutputFormat::ffv1Mkv, Rate(24, 1)}).run();
            QCOMPARE(report.frames, 24);
            QCOMPARE(report.originals, 6);
            QCOMPARE(method == Method::flow ? report.flows : report.blends, 15);
            QCOMPARE(report.held, 3);
            QVERIFY(report.seconds > 0 && report.writeSeconds > 0);
            const QByteArray in = linearFrames(clip, QStringLiteral("yuv420p10le"));
            const QByteArray out = linearFrames(target, QStringLiteral("yuv420p10le"));
            const qsizetype bytes = in.size() / 6;
            QCOMPARE(out.size(), bytes * 24);
            for (int n = 0; n < 6; ++n)
                QVERIFY(out.mid(4 * n * bytes, bytes) == in.mid(n * bytes, bytes));
        }
    }

    void everyFormatHasExactlyThePromisedFrames_data() {
        QTest::addColumn<QString>("target");
        QTest::addColumn<QString>("speed");
        QTest::addColumn<QString>("rate");
        QTest::addColumn<qint64>("frames");
        QTest::newRow("FFV1 25 %") << "a.mkv"
                                   << "25"
                                   << "24" << qint64{80};
        QTest::newRow("H.264 33.3 %") << "a.mp4"
                                      << "33.3"
                                      << "24" << qint64{60};
        QTest::newRow("ProRes to 25") << "a.mov"
                                      << "100"
                                      << "25" << qint64{21}; // 20.83
        QTest::newRow("H.264 to 59.94") << "b.mp4"
                                        << "100"
                                        << "59.94" << qint64{50}; // 49.95
        QTest::newRow("FFV1 230 %") << "b.mkv"
                                    << "230"
                                    << "24" << qint64{9}; // 8.69
    }
    void everyFormatHasExactlyThePromisedFrames() {
        QFETCH(QString, target);
        QFETCH(QString, speed);
        QFETCH(QString, rate);
        QFETCH(qint64, frames);
        Setting s = setting(clips_.moving(QStringLiteral("twenty.mkv"), 20, ffv1, QStringLiteral("96x64")),
                            parseSpeed(speed.toStdString()));
        s.timing.outputRate = Rate::parse(rate.toStdString());
        const std::filesystem::path out = clips_.path(target).toStdString();
        const RenderReport report =
            RenderJob(s.part(Method::blend), {out, formatForTarget(out), s.timing.outputRate}).run();
        QCOMPARE(report.frames, frames);
        const MediaIndex index = buildIndex(out);
        QCOMPARE(index.frames(), frames);
        QCOMPARE(index.facts.rate, s.timing.outputRate);
    }

    void progressCountsUpToTheEnd() {
        const Setting s = setting(clips_.moving(QStringLiteral("p.mkv"), 10, ffv1), Rational(1, 2));
        std::int64_t last = 0;
        RenderJob(s.part(Method::sample), {clips_.path(QStringLiteral("p_out.mkv")).toStdString(),
                                           OutputFormat::ffv1Mkv, Rate(24, 1)})
            .run([&](const RenderProgress& p) {
                QCOMPARE(p.done, last + 1);
                QCOMPARE(p.total, 20);
                last = p.done;
            });
        QCOMPARE(last, 20);
    }

    void motionThatCannotBeKeptIsToldAndTheResultIsWhole() {
        const Setting s = setting(clips_.moving(QStringLiteral("n.mkv"), 4, ffv1), Rational(1, 2));
        QFile file(clips_.path(QStringLiteral("blocked")));
        QVERIFY(file.open(QIODevice::WriteOnly)); // a file where the folder should be
        const auto folder = std::make_shared<VectorFolder>(file.fileName().toStdString() + "/vectors");
        const auto store = std::make_shared<VectorStore>(VectorStore::defaultBytes, folder);
        const QString target = clips_.path(QStringLiteral("n_out.mkv"));
        RenderJob job(std::vector<RenderPart>{{"one", s.frames(Method::flow, store)}},
                      {target.toStdString(), OutputFormat::ffv1Mkv, s.timing.outputRate});
        const RenderReport report = job.run();
        QCOMPARE(report.frames, 8);
        QVERIFY(std::any_of(report.notes.begin(), report.notes.end(), [](const std::string& note) {
            return note.find("not kept for next time") != std::string::npos &&
                   note.find("blocked") != std::string::npos;
        }));
    }

    void stoppingLeavesNothing_data() {
        QTest::addColumn<QString>("target");
        for (const char* target : {"s.mkv", "s.mp4", "s.mov", "s.png"})
            QTest::newRow(target) << QString::fromLatin1(target);
    }
    void stoppingLeavesNothing() {
        QFETCH(QString, target);
        const Setting s = setting(clips_.moving(QStringLiteral("long.mkv"), 40, ffv1), Rational(1, 4));
        const QTemporaryDir dir;
        const std::filesystem::path out = dir.filePath(target).toStdString();
        std::stop_source stop;
        RenderJob job(s.part(Method::flow), {out, formatForTarget(out), Rate(24, 1)});
        std::int64_t written = 0;
        try {
            job.run(
                [&](const RenderProgress& p) {
                    written = p.done;
                    if (p.done == 7) stop.request_stop();
                },
                stop.get_token());
            QFAIL("a stopped render must not end as done");
        } catch (const Cancelled&) {
            QCOMPARE(written, 7); // not one frame more
        }
        QVERIFY(QDir(dir.path()).isEmpty(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot));
    }

    void aRangeOfFramesIsRendered() {
        const Setting s = setting(clips_.moving(QStringLiteral("range.mkv"), 12, ffv1), Rational(1, 2));
        const OutputFramesPtr frames = s.frames(Method::flow);
        const QString target = clips_.path(QStringLiteral("range_out.mkv"));
        const RenderOptions options{target.toStdString(), OutputFormat::ffv1Mkv, Rate(24, 1)};
        const RenderReport report = RenderJob({{"one", frames, 7, 10}, {"two", frames, 2, 2}}, options).run();
        QCOMPARE(report.frames, std::int64_t{5});
        QCOMPARE(report.flows, std::int64_t{2});
        QCOMPARE(report.originals, std::int64_t{3});
        QVERIFY(report.notes.empty()); // the frames past the trim are not in it
        const auto written = openSource(target);
        QCOMPARE(written->frames(), std::int64_t{5});
        const std::vector<std::int64_t> expected{7, 8, 9, 10, 2};
        for (std::size_t i = 0; i < expected.size(); ++i)
            QVERIFY(*written->frame(static_cast<std::int64_t>(i)) == *frames->make(expected[i]).image);
        QVERIFY_THROWS_EXCEPTION(Error, RenderJob({{"one", frames, 7, frames->count()}}, options).run());
        QVERIFY_THROWS_EXCEPTION(Error, RenderJob({{"one", frames, 7, 6}}, options).run());
        QVERIFY_THROWS_EXCEPTION(Error, RenderJob({{"one", frames, -1}}, options).run());
    }

    void aRenderStoppedBeforeItStartsDoesNothing() {
        const Setting s = setting(clips_.moving(QStringLiteral("n.mkv"), 4, ffv1), 1);
        std::stop_source stop;
        stop.request_stop();
        RenderJob job(s.part(Method::sample), {clips_.path(QStringLiteral("never.mkv")).toStdString(),
                                               OutputFormat::ffv1Mkv, Rate(24, 1)});
        QVERIFY_THROWS_EXCEPTION(Cancelled, job.run({}, stop.get_token()));
        QVERIFY(!QFile::exists(clips_.path(QStringLiteral("never.mkv"))));
    }

    void theSourceIsNeverOverwritten() {
        const QString clip = clips_.moving(QStringLiteral("mine.mkv"), 4, ffv1);
        const QString link = clips_.path(QStringLiteral("link.mkv"));
        QVERIFY(QFile::link(clip, link));
        const Setting s = setting(clip, 1);
        for (const QString& target : {clip, link, clips_.path(QStringLiteral("./mine.mkv"))})
            QVERIFY_THROWS_EXCEPTION(
                Error,
                RenderJob(s.part(Method::sample), {target.toStdString(), OutputFormat::ffv1Mkv, Rate(24, 1)})
                    .run());
        QCOMPARE(openSource(clip)->frames(), std::int64_t{4});
    }

    void anEarlierResultSurvivesAFailedRender() {
        const QString clip = clips_.moving(QStringLiteral("early.mkv"), 30, ffv1);
        const QString target = clips_.path(QStringLiteral("early_out.mkv"));
        QFile earlier(target);
        QVERIFY(earlier.open(QIODevice::WriteOnly));
        earlier.write("earlier");
        earlier.close();
        const Setting s = setting(clip, Rational(1, 2));
        std::stop_source stop;
        RenderJob job(s.part(Method::sample), {target.toStdString(), OutputFormat::ffv1Mkv, Rate(24, 1)});
        QVERIFY_THROWS_EXCEPTION(
            Cancelled, job.run([&](const RenderProgress&) { stop.request_stop(); }, stop.get_token()));
        QVERIFY(earlier.open(QIODevice::ReadOnly));
        QCOMPARE(earlier.readAll(), QByteArray("earlier"));
    }

    void channelsHandOverInOrderAndStop() {
        Channel<int> channel(2);
        const std::stop_source stop;
        std::vector<int> got;
        {
            const std::jthread producer([&] {
                for (int i = 0; i < 1000; ++i)
                    channel.push(i, stop.get_token());
                channel.close();
            });
            while (auto item = channel.pop(stop.get_token()))
                got.push_back(*item);
        }
        QCOMPARE(got.size(), std::size_t{1000});
        QVERIFY(std::is_sorted(got.begin(), got.end()));

        Channel<int> full(1);
        std::stop_source end;
        QVERIFY(full.push(1, end.get_token()));
        bool pushed = true;
        std::jthread waiting([&] { pushed = full.push(2, end.get_token()); });
        end.request_stop();
        waiting.join();
        QVERIFY(!pushed);
        Channel<int> empty(1);
        QVERIFY(!empty.pop(end.get_token()));
    }
};

QTEST_APPLESS_MAIN(TestRender)
#include "test_render.moc"
