// `render`, `open-edit` and `hand-back` of yarngap-cli, as their users run them.

#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"

#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QTest>

#include <csignal>

using namespace yarngap::test;

namespace {

Outcome run(const QStringList& arguments) {
    return runProgram(QStringLiteral(YARNGAP_CLI), arguments);
}

QString probed(const QString& file, const QString& stream, const QString& entries) {
    const Outcome o = runProgram(QStringLiteral("ffprobe"),
                                 {QStringLiteral("-v"), QStringLiteral("error"),
                                  QStringLiteral("-select_streams"), stream, QStringLiteral("-count_frames"),
                                  QStringLiteral("-show_entries"), QStringLiteral("stream=") + entries,
                                  QStringLiteral("-of"), QStringLiteral("default=nw=1:nk=1"), file});
    return QString::fromLatin1(o.out).simplified();
}

} // namespace

class TestCliRender : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;

    [[nodiscard]] QString path(const char* name) const { return clips_.path(QString::fromLatin1(name)); }
    /// `render` of the clip with words behind.
    [[nodiscard]] Outcome render(const QString& more, const QString& target) const {
        return run(QStringList{QStringLiteral("render"), clip_} + words(more) +
                   QStringList{QStringLiteral("-o"), target});
    }

  private Q_SLOTS:
    void initTestCase() {
        yarngap::silenceMediaLibraries();
        clip_ = clips_.make(QStringLiteral("clip.mov"),
                            {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("testsrc2=size=320x240:rate=24:d=2"), QStringLiteral("-f"),
                             QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("aevalsrc=0.4*sin(900*t):s=48000:d=2"),
                             QStringLiteral("-pix_fmt"), QStringLiteral("yuv420p"), QStringLiteral("-c:v"),
                             QStringLiteral("libx264"), QStringLiteral("-c:a"), QStringLiteral("pcm_s16le"),
                             QStringLiteral("-timecode"), QStringLiteral("10:00:00:00")});
    }

    void formatQualityAndSoundAreAsAsked() {
        const QString target = path("asked.mp4");
        const Outcome o = render(
            QStringLiteral("--method sample --format h265 --file-quality 30 --depth 10 --sound-format flac "
                           "--timecode 02:00:00:00 --range 6-29"),
            target);
        QVERIFY2(o.status == 0, o.told());
        QCOMPARE(probed(target, QStringLiteral("v:0"), QStringLiteral("codec_name,pix_fmt,nb_read_frames")),
                 QStringLiteral("hevc yuv420p10le 24"));
        QCOMPARE(probed(target, QStringLiteral("a:0"), QStringLiteral("codec_name,duration")),
                 QStringLiteral("flac 1.000000"));
        const Outcome probe = run({QStringLiteral("probe"), target, QStringLiteral("--claims-only")});
        QVERIFY2(probe.out.contains("begins at timecode 02:00:00:00"), probe.out);
        QVERIFY(render(QStringLiteral("--method sample --range 6-29"), path("source.mov")).status == 0);
        QVERIFY(run({QStringLiteral("probe"), path("source.mov"), QStringLiteral("--claims-only")})
                    .out.contains("10:00:00:06"));
    }

    void whatCannotBeMeantIsWrongUsage_data() {
        QTest::addColumn<QString>("more");
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("told");
        const auto row = [](const char* more, const char* name, const char* told) {
            QTest::newRow(told) << QString::fromLatin1(more) << QString::fromLatin1(name)
                                << QString::fromLatin1(told);
        };
        row("--format avi", "a.mkv", "is no format");
        row("--format prores", "a.mp4", "does not go into");
        row("--file-quality 99", "a.mp4", "goes from 40 to 0");
        row("--file-quality 3", "a.mkv", "is lossless");
        row("--depth 11", "a.mp4", "8 or 10");
        row("--scan top-first", "a.webm", "does not hold interlaced");
        row("--sound loud", "a.mkv", "pitch, tape, full-speed or none");
        row("--sound-format pcm", "a.webm", "Sound as pcm");
        row("--timecode soon", "a.mkv", "timecode");
        row("--range 9-4", "a.mkv", "--range reads like");
        row("--slice 2", "a.mkv", "need --slices N");
        row("--slices 4 --slice 4", "a.mkv", "goes from 0 to 3");
        row("--slices 4 --slice 1 --join", "a.mkv", "give one of them");
        row("--slices 4 --slice 1", "a_v{version}.mkv", "leave out {version}");
        row("", "{owner}.mkv", "is not known");
        row("--sound-format aac", "a.mkv", "does not go into");
    }
    void whatCannotBeMeantIsWrongUsage() {
        QFETCH(QString, more);
        QFETCH(QString, name);
        QFETCH(QString, told);
        const Outcome o = render(more, clips_.path(name));
        QVERIFY2(o.status == 2, o.told());
        QVERIFY2(o.err.contains(told), o.told());
        QVERIFY(!QFile::exists(clips_.path(name)));
    }

    void pulldownIsForItsRateAlone() {
        const Outcome o = render(QStringLiteral("--method sample --scan pulldown-32"), path("film.mkv"));
        QVERIFY2(o.isRefusal() && o.err.contains(QStringLiteral("this result has 24 fps")), o.told());
        const Outcome fit =
            render(QStringLiteral("--method sample --to-rate 29.97 --scan pulldown-32"), path("film.mkv"));
        QVERIFY2(fit.status == 0, fit.told());
        QCOMPARE(probed(path("film.mkv"), QStringLiteral("v:0"), QStringLiteral("r_frame_rate,field_order")),
                 QStringLiteral("tt 30000/1001"));
    }

    void twoFilesOfOneRender() {
        const QString second = path("second.mp4");
        const Outcome o = render(QStringLiteral("--method sample --also ") + second, path("first.mkv"));
        QVERIFY2(o.status == 0, o.told());
        QCOMPARE(
            probed(path("first.mkv"), QStringLiteral("v:0"), QStringLiteral("codec_name,nb_read_frames")),
            QStringLiteral("ffv1 48"));
        QCOMPARE(probed(second, QStringLiteral("v:0"), QStringLiteral("codec_name,nb_read_frames")),
                 QStringLiteral("h264 48"));
        QCOMPARE(render(QStringLiteral("--also ") + path("x.mkv"), path("x.mkv")).status, 2);
    }

    void slicesByHandInAnyOrder() {
        const QString whole = path("whole.mkv");
        const QString target = path("hand.mkv");
        QVERIFY(render(QStringLiteral("--method blend --speed 50%"), whole).status == 0);
        const QString how = QStringLiteral("--method blend --speed 50% --slices 3 ");
        for (const int n : {2, 0}) {
            const Outcome o = render(how + QStringLiteral("--slice %1").arg(n), target);
            QVERIFY2(o.status == 0 && o.out.contains("is ready"), o.told());
        }
        const Outcome early = render(how + QStringLiteral("--join"), target);
        QVERIFY2(early.isRefusal() && early.err.contains(QStringLiteral("Slice 1 is missing")), early.told());
        // Another wish is refused, and does no harm.
        const Outcome other =
            render(QStringLiteral("--method blend --speed 25% --slices 3 --slice 1"), target);
        QVERIFY2(other.isRefusal() && other.err.contains(QStringLiteral("begun for other shots or settings")),
                 other.told());
        QVERIFY(render(how + QStringLiteral("--slice 1"), target).status == 0);
        QVERIFY(render(how + QStringLiteral("--join"), target).status == 0);
        QVERIFY(bytesOf(whole) == bytesOf(target));
        QVERIFY(!QDir(target + QStringLiteral(".slices")).exists());
    }

    void theJobBesideAResultIsAllThatWorkersNeed() {
        const QString whole = path("job_whole.mkv");
        const QString target = path("job.mkv");
        const QString how = QStringLiteral("--method blend --speed 50%");
        QVERIFY(render(how, whole).status == 0);
        QVERIFY(render(how + QStringLiteral(" --slices 3 --prepare"), target).status == 0);
        const QString job = target + QStringLiteral(".slices/work.json");
        const auto work = [&](const QString& more) {
            return run(QStringList{QStringLiteral("render"), job, QStringLiteral("-o"), target} +
                       words(more));
        };
        const Outcome other = work(QStringLiteral("--slices 3 --slice 0 --speed 25%"));
        QVERIFY2(other.status == 2 && other.err.contains(QStringLiteral("--speed cannot be given")),
                 other.told());
        for (const char* slice : {"1", "2", "0"})
            QVERIFY(work(QStringLiteral("--slices 3 --slice ") + QString::fromLatin1(slice)).status == 0);
        const Outcome joined = work(QStringLiteral("--slices 3 --join"));
        QVERIFY2(joined.status == 0, joined.told());
        QVERIFY(bytesOf(whole) == bytesOf(target));
    }

    void killedItGoesOn() {
        const QString whole = path("kill_whole.mkv");
        const QString target = path("kill.mkv");
        const QString how = QStringLiteral("--speed 10% ");
        const QStringList own{QStringLiteral("XDG_CACHE_HOME"),
                              path("kill_caches")}; // nothing is there before
        const QStringList command = QStringList{QStringLiteral("render"), clip_} + words(how) +
                                    QStringList{QStringLiteral("--resumable"), QStringLiteral("-o"), target};
        QProcess process;
        auto environment = QProcessEnvironment::systemEnvironment();
        environment.insert(own[0], own[1]);
        process.setProcessEnvironment(environment);
        process.start(QStringLiteral(YARNGAP_CLI), command);
        QVERIFY(process.waitForStarted());
        const QString slice = target + QStringLiteral(".slices/0001.json");
        QVERIFY(QTest::qWaitFor(
            [&] { return QFile::exists(slice) || process.state() == QProcess::NotRunning; }, 120'000));
        if (process.state() == QProcess::NotRunning) QSKIP("it was done before it could be killed");
        ::kill(static_cast<pid_t>(process.processId()), SIGKILL);
        process.waitForFinished();
        QVERIFY(!QFile::exists(target));
        const Outcome o =
            runProgram(QStringLiteral(YARNGAP_CLI), command + QStringList{QStringLiteral("--json")}, own);
        QVERIFY2(o.status == 0, o.told());
        QVERIFY2(o.json()[QLatin1String("resumed")].toInt() >= 96, o.out);
        QVERIFY(render(how, whole).status == 0);
        QVERIFY(bytesOf(whole) == bytesOf(target));
        QVERIFY(everythingIn(QFileInfo(target).path()).filter(QStringLiteral(".partial")).isEmpty());
    }

    void settingsComeFromAFile() {
        const QString preset = path("delivery.json");
        putBytes(
            preset,
            "{\"yarngapRender\": 1, \"format\": {\"name\": \"h264\", \"quality\": 28}, \"sound\": \"none\"}");
        const Outcome o = render(QStringLiteral("--method sample --preset ") + preset, path("delivery.mov"));
        QVERIFY2(o.status == 0, o.told());
        QCOMPARE(probed(path("delivery.mov"), QStringLiteral("v:0"), QStringLiteral("codec_name")),
                 QStringLiteral("h264"));
        QVERIFY(probed(path("delivery.mov"), QStringLiteral("a"), QStringLiteral("codec_name")).isEmpty());
        putBytes(preset, "{\"yarngapRender\": 1, \"format\": {\"name\": \"h264\", \"quality\": 280}}");
        QCOMPARE(render(QStringLiteral("--preset ") + preset, path("no.mov")).status, 2);
    }

    void anEditGoesThereAndBack() {
        const QString list = path("edit.edl");
        putBytes(list, "TITLE: EVENING\nFCM: NON-DROP FRAME\n"
                       "001  A        V     C        10:00:00:06 10:00:00:18 01:00:00:00 01:00:00:12\n* FROM "
                       "CLIP NAME: clip.mov\n"
                       "002  A        V     C        10:00:00:12 10:00:01:00 01:00:00:12 01:00:01:12\nM2   A "
                       "       012.0   10:00:00:12\n* FROM CLIP NAME: clip.mov\n"
                       "003  B        V     C        10:00:00:12 10:00:01:00 01:00:01:12 01:00:02:00\n* FROM "
                       "CLIP NAME: lost.mov\n");
        const QString media = path("only");
        QDir().mkpath(media);
        QVERIFY(QFile::copy(clip_, media + QStringLiteral("/clip.mov")));
        const QString project = path("edit.yarngap");
        const Outcome opened =
            run({QStringLiteral("open-edit"), list, QStringLiteral("--media"), media,
                 QStringLiteral("--rate"), QStringLiteral("24"), QStringLiteral("-o"), project});
        QVERIFY2(opened.status == 0 && opened.out.contains("2 shots of 3 events"), opened.told());
        QVERIFY(opened.err.contains(
            QStringLiteral("Event 3 (lost.mov): its media is not in the folders given.")));
        const QString back = path("back.edl");
        const Outcome handed =
            run({QStringLiteral("hand-back"), project, QStringLiteral("--handles"), QStringLiteral("4"),
                 QStringLiteral("--to"), path("{shot}_{speed}.mkv"), QStringLiteral("-o"), back});
        QVERIFY2(handed.status == 0, handed.told());
        const QByteArray text = bytesOf(back);
        QVERIFY2(
            text.contains("001  A        V     C        10:00:00:06 10:00:00:18 01:00:00:00 01:00:00:12"),
            text);
        QVERIFY2(text.contains("01:00:00:12 01:00:01:12"), text);
        QVERIFY(!text.contains("M2"));
        QCOMPARE(probed(path("clip_001_100.mkv"), QStringLiteral("v:0"), QStringLiteral("nb_read_frames")),
                 QStringLiteral("20"));
        QVERIFY(run({QStringLiteral("probe"), path("clip_001_100.mkv"), QStringLiteral("--claims-only")})
                    .out.contains("10:00:00:02"));
        // Neither list nor media is written on.
        QVERIFY(run({QStringLiteral("hand-back"), project, QStringLiteral("-o"), list}).status != 0);
        QCOMPARE(run({QStringLiteral("open-edit"), project, QStringLiteral("-o"), path("x.yarngap")}).status,
                 2);
        QVERIFY(run({QStringLiteral("open-edit"), list, QStringLiteral("--media"), path("nowhere"),
                     QStringLiteral("-o"), path("x.yarngap")})
                    .isRefusal());
    }

    void nothingWasHandedToAFarm() {
        QVERIFY(run({QStringLiteral("farm"), path("nothing.mkv")}).isRefusal());
        QVERIFY(run({QStringLiteral("farm"), path("nothing.mkv"), QStringLiteral("--cancel")}).isRefusal());
    }
};

QTEST_MAIN(TestCliRender)
#include "test_cli_render.moc"
