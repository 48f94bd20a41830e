// Files, targets and surroundings that once broke the program, met from the command line.

#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"

#include <OpenImageIO/deepdata.h>
#include <OpenImageIO/imageio.h>

#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QJsonArray>
#include <QTest>

#include <csignal>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

using namespace yarngap::test;

namespace {

constexpr int quick = 20'000; // ms; a hang in a test of hangs

Outcome run(const QStringList& arguments, const QStringList& variables = {}) {
    return runProgram(QStringLiteral(YARNGAP_CLI), arguments, variables, quick);
}

/// "24" or "24000/1001".
double rateOf(const QJsonObject& probed) {
    const QStringList parts = probed[QStringLiteral("rate")].toString().split(QLatin1Char('/'));
    return parts[0].toDouble() / (parts.size() > 1 ? parts[1].toDouble() : 1);
}

/// An EXR picture of a kind that is none for us.
void writeOddExr(const QString& file, const OIIO::ImageSpec& spec, int parts = 1) {
    const std::string path = file.toStdString();
    const auto out = OIIO::ImageOutput::create(path);
    const std::vector<OIIO::ImageSpec> specs(static_cast<std::size_t>(parts), spec);
    if (!out || !(parts == 1 ? out->open(path, spec) : out->open(path, parts, specs.data())))
        qFatal("%s", OIIO::geterror().c_str());
    for (int part = 0; part < parts; ++part) {
        if (part > 0 && !out->open(path, spec, OIIO::ImageOutput::AppendSubimage)) qFatal("No next part");
        if (spec.deep) {
            OIIO::DeepData deep(spec);
            out->write_deep_image(deep);
        } else {
            const std::vector<float> pixels(spec.image_pixels() * static_cast<std::size_t>(spec.nchannels),
                                            0.5F);
            out->write_image(OIIO::TypeDesc::FLOAT, pixels.data());
        }
    }
    out->close();
}

} // namespace

class TestHardInput : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;

    /// A new empty folder.
    QString folder(const char* name) const { return emptied(clips_.path(QString::fromLatin1(name))); }
    /// `count` pictures of which the file name says `pattern` (printf).
    QStringList pictures(const QString& folder, const QString& pattern, int count) const {
        clips_.moving(QDir(clips_.path({})).relativeFilePath(QDir(folder).filePath(pattern)), count, {},
                      QStringLiteral("64x48"), QStringLiteral("24"), QStringLiteral("rgb24"));
        return everythingIn(folder);
    }
    static QStringList rendering(const QString& source, const QString& target, const QStringList& more = {}) {
        return QStringList{QStringLiteral("render"),   source,
                           QStringLiteral("-o"),       target,
                           QStringLiteral("--method"), QStringLiteral("sample")} +
               more;
    }

  private Q_SLOTS:
    void initTestCase() {
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 10,
                              {QStringLiteral("-c:v"), QStringLiteral("mpeg4")}, QStringLiteral("64x48"));
    }

    void picturesOfAnotherKindAreRefused_data() {
        QTest::addColumn<QString>("file");
        const QString in = folder("odd");
        const auto file = [&](const char* name) { return QDir(in).filePath(QString::fromLatin1(name)); };
        QProcess gunzip;
        gunzip.setStandardOutputFile(file("voxels.exr"));
        gunzip.start(QStringLiteral("gzip"), {QStringLiteral("-dc"), QStringLiteral(YARNGAP_VOXELS)});
        QVERIFY(gunzip.waitForFinished());
        QTest::newRow("a volume named .exr") << file("voxels.exr");
        OIIO::ImageSpec deep(32, 32, 3, OIIO::TypeDesc::HALF);
        deep.deep = true;
        writeOddExr(file("deep.exr"), deep);
        QTest::newRow("deep data") << file("deep.exr");
        writeOddExr(file("many.exr"), OIIO::ImageSpec(16, 16, 1100, OIIO::TypeDesc::HALF));
        QTest::newRow("1100 channels") << file("many.exr");
        clips_.make(QStringLiteral("odd/real.gif"),
                    words(QStringLiteral("-f lavfi -i testsrc=s=32x32 -frames:v 1")));
        QVERIFY(QFile::copy(file("real.gif"), file("gif.png")));
        QTest::newRow("a GIF named .png") << file("gif.png");
        clips_.make(QStringLiteral("odd/real.tif"),
                    words(QStringLiteral("-f lavfi -i testsrc=s=32x32 -frames:v 1 -compression_algo raw")));
        // Tag 256 is the width of a TIFF; its value is made 0xFFFFFFF0 wherever the tag stands.
        QByteArray wide = bytesOf(file("real.tif"));
        bool found = false;
        for (qsizetype i = 8; i + 12 <= wide.size(); ++i) {
            const QByteArray tag = QByteArray::fromHex("0001030001000000");
            if (wide.mid(i, 8) != tag && wide.mid(i, 8) != QByteArray::fromHex("0001040001000000")) continue;
            wide.replace(i, 12, QByteArray::fromHex("0001040001000000f0ffffff"));
            found = true;
        }
        QVERIFY(found);
        putBytes(file("wide.tif"), wide);
        QTest::newRow("a TIFF four thousand million pixels wide") << file("wide.tif");
        putBytes(file("cut.png"),
                 bytesOf(clips_.make(QStringLiteral("odd/whole.png"),
                                     words(QStringLiteral("-f lavfi -i testsrc=s=64x64 -frames:v 1"))))
                     .left(300));
        QTest::newRow("a PNG that breaks off") << file("cut.png");
    }
    void picturesOfAnotherKindAreRefused() {
        QFETCH(QString, file);
        for (const char* command : {"probe", "scan"}) {
            const Outcome o = run({QString::fromLatin1(command), file});
            QVERIFY2(o.isRefusal(), o.told().constData());
            QVERIFY2(o.err.contains(QFileInfo(file).fileName()) && !o.err.contains(QStringLiteral("-16")),
                     o.told().constData());
        }
    }

    void partsBehindTheFirstAreLeftAlone() {
        // What is read is one picture; the others of the file are somebody else's.
        const QString file = QDir(folder("parts")).filePath(QStringLiteral("two.exr"));
        writeOddExr(file, OIIO::ImageSpec(64, 48, 3, OIIO::TypeDesc::HALF), 2);
        const Outcome o = run({QStringLiteral("probe"), file, QStringLiteral("--json")});
        QVERIFY2(o.status == 0 || o.isRefusal(), o.told().constData());
        if (o.status == 0) QCOMPARE(o.json()[QStringLiteral("width")].toInt(), 64);
    }

    void pipesAndDevicesAreNotRead_data() {
        QTest::addColumn<QString>("file");
        const QString in = folder("pipes");
        const QString pipe = QDir(in).filePath(QStringLiteral("pipe.png"));
        QCOMPARE(::mkfifo(qPrintable(pipe), 0600), 0);
        QTest::newRow("pipe") << pipe;
        const QString zero = QDir(in).filePath(QStringLiteral("zero.exr"));
        QVERIFY(QFile::link(QStringLiteral("/dev/zero"), zero));
        QTest::newRow("link to an endless device") << zero;
        const QString movie = QDir(in).filePath(QStringLiteral("pipe.mp4"));
        QCOMPARE(::mkfifo(qPrintable(movie), 0600), 0);
        QTest::newRow("pipe, video") << movie;
    }
    void pipesAndDevicesAreNotRead() {
        QFETCH(QString, file);
        const Outcome o = run({QStringLiteral("probe"), file});
        QVERIFY2(o.isRefusal(), o.told().constData());
    }

    void aFolderThatCannotBeListedIsTold() {
        const QString in = folder("closed");
        pictures(in, QStringLiteral("p_%02d.png"), 3);
        if (::geteuid() == 0) QSKIP("An administrator can list every folder.");
        QVERIFY(QFile::setPermissions(in, QFile::ExeOwner));
        const Outcome o = run({QStringLiteral("probe"), in + QStringLiteral("/p_01.png")});
        QFile::setPermissions(in, QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner);
        QVERIFY2(o.isRefusal(), o.told().constData());
    }

    void versionsAreNoSequence() {
        const QString in = folder("versions");
        pictures(in, QStringLiteral("shot_0001_v%d.png"), 3);
        const Outcome asked = run({QStringLiteral("probe"), in + QStringLiteral("/shot_0001_v2.png")});
        QCOMPARE(asked.status, 2);
        QVERIFY2(asked.err.contains(QStringLiteral("shot_####_v2.png")), asked.told().constData());
        pictures(in, QStringLiteral("shot_0002_v%d.png"), 3);
        const QStringList choice{QStringLiteral("probe"), in + QStringLiteral("/shot_####_v2.png"),
                                 QStringLiteral("--json")};
        const Outcome told = run(choice);
        QVERIFY2(told.status == 0, told.told().constData());
        QCOMPARE(told.json()[QStringLiteral("frames")].toInt(), 2);
    }

    void manyChannelsTakeNoMemoryOfTheirOwn() {
        const QString file = QDir(folder("channels")).filePath(QStringLiteral("many.exr"));
        writeOddExr(file, OIIO::ImageSpec(256, 256, 128, OIIO::TypeDesc::HALF));
        const Outcome o = run({QStringLiteral("probe"), file, QStringLiteral("--json")});
        QVERIFY2(o.status == 0, o.told().constData());
        QCOMPARE(o.json()[QStringLiteral("width")].toInt(), 256);
    }

    void noInputIsWrittenOn_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<QString>("kept");
        const QString in = folder("kept");
        const auto file = [&](const char* name) { return QDir(in).filePath(QString::fromLatin1(name)); };
        for (const char* name : {"matte.mkv", "clip.mkv", "real.mkv"})
            clips_.moving(QStringLiteral("kept/") + QString::fromLatin1(name), 10,
                          {QStringLiteral("-c:v"), QStringLiteral("ffv1")}, QStringLiteral("64x48"));
        QTest::newRow("matte") << rendering(clip_, file("matte.mkv"),
                                            {QStringLiteral("--matte"), file("matte.mkv")})
                               << file("matte.mkv");
        for (const char* option : {"--write-edl", "--write-map"})
            QTest::newRow(option) << QStringList{QStringLiteral("plan"), file("clip.mkv"),
                                                 QString::fromLatin1(option), file("clip.mkv")}
                                  << file("clip.mkv");
        QVERIFY(QFile::link(file("real.mkv"), file("link.mkv")));
        QCOMPARE(::link(qPrintable(file("real.mkv")), qPrintable(file("second.mkv"))), 0);
        QTest::newRow("a link to the source")
            << rendering(file("real.mkv"), file("link.mkv")) << file("real.mkv");
        QTest::newRow("the source under a second name")
            << rendering(file("second.mkv"), file("real.mkv")) << file("real.mkv");
        QTest::newRow("another spelling")
            << rendering(file("real.mkv"), in + QStringLiteral("/../kept/./real.mkv")) << file("real.mkv");
        pictures(folder("kept/seq"), QStringLiteral("shot_%04d_v2.png"), 3);
        QTest::newRow("a sequence by other digits")
            << rendering(in + QStringLiteral("/seq/shot_0001_v2.png"),
                         in + QStringLiteral("/seq/shot_####_v2.png"), {QStringLiteral("--replace")})
            << in + QStringLiteral("/seq/shot_0001_v2.png");
        QVERIFY(run({QStringLiteral("vectors"), clip_, QStringLiteral("-o"), file("gaps"),
                     QStringLiteral("--to"), QStringLiteral("2")})
                    .status == 0);
        QTest::newRow("motion vectors over the one they are made of")
            << QStringList{QStringLiteral("vectors"), file("gaps/gap_000000.exr"), QStringLiteral("-o"),
                           file("gaps")}
            << file("gaps/gap_000000.exr");
        QTest::newRow("motion vectors that are used")
            << rendering(clip_, file("gaps/gap_######.exr"),
                         {QStringLiteral("--replace"), QStringLiteral("--vectors"), file("gaps"),
                          QStringLiteral("--to"), QStringLiteral("2")})
            << file("gaps/gap_000000.exr");
    }
    void noInputIsWrittenOn() {
        QFETCH(QStringList, arguments);
        QFETCH(QString, kept);
        const QByteArray before = bytesOf(kept);
        QVERIFY(!before.isEmpty());
        const Outcome o = run(arguments);
        QVERIFY2(o.isRefusal(), o.told().constData());
        QCOMPARE(bytesOf(kept), before);
    }

    void oddClocksAreWritten_data() {
        QTest::addColumn<QString>("timescale");
        QTest::newRow("microseconds") << QStringLiteral("1000000");
        QTest::newRow("90 kHz") << QStringLiteral("90000");
    }
    void oddClocksAreWritten() {
        QFETCH(QString, timescale);
        // A phone's times: no two frames are equally far apart.
        const QString source = clips_.make(
            QStringLiteral("odd_") + timescale + QStringLiteral(".mp4"),
            words(QStringLiteral(
                      "-f lavfi -i testsrc=s=32x32:r=30 -frames:v 12 -vf "
                      "settb=1/%1,setpts=PTS+mod(N*N\\,7)*331 "
                      "-vsync passthrough -enc_time_base 1:%1 -video_track_timescale %1 -c:v libx264")
                      .arg(timescale)));
        for (const char* name : {"x.mkv", "x.mp4", "x.mov"}) {
            const QString target = QDir(folder("clocks")).filePath(QString::fromLatin1(name));
            const Outcome o = run(rendering(source, target));
            QVERIFY2(o.status == 0, o.told().constData());
            const auto written = run({QStringLiteral("probe"), target, QStringLiteral("--json")}).json();
            QVERIFY(written[QStringLiteral("frames")].toInt() >= 11);
            QVERIFY(rateOf(written) > 20 && rateOf(written) < 40);
        }
    }

    void aRateThatNoFileHoldsIsRoundedOrRefused() {
        const QString target = QDir(folder("rates")).filePath(QStringLiteral("x.mkv"));
        const Outcome o = run(
            rendering(clip_, target, {QStringLiteral("--to-rate"), QStringLiteral("4294967321/178956971")}));
        if (o.status == 0) { // 24.0000000… fps
            const auto written = run({QStringLiteral("probe"), target, QStringLiteral("--json")}).json();
            QVERIFY(std::abs(rateOf(written) - 24) < 0.01);
        } else {
            QVERIFY2(o.isRefusal() || o.status == 2, o.told().constData());
            QVERIFY(!QFile::exists(target));
        }
    }

    void aFolderInTheWayOfASequenceLosesNothing() {
        const QString to = folder("way");
        for (int n = 0; n < 10; ++n)
            if (n != 6)
                putBytes(QStringLiteral("%1/a_%2.png").arg(to).arg(n, 4, 10, QLatin1Char('0')), "old");
        QVERIFY(QDir(to).mkpath(QStringLiteral("a_0006.png/held")));
        const Outcome o =
            run(rendering(clip_, to + QStringLiteral("/a_####.png"), {QStringLiteral("--replace")}));
        QVERIFY2(o.isRefusal(), o.told().constData());
        QCOMPARE(everythingIn(to).size(), 10);
        for (int n = 0; n < 10; ++n)
            if (n != 6)
                QCOMPARE(bytesOf(QStringLiteral("%1/a_%2.png").arg(to).arg(n, 4, 10, QLatin1Char('0'))),
                         QByteArray("old"));
    }

    void aShorterSequenceLeavesNoneOfTheLonger() {
        const QString to = folder("shorter");
        QVERIFY(run(rendering(clip_, to + QStringLiteral("/a_####.png"),
                              {QStringLiteral("--speed"), QStringLiteral("50%")}))
                    .status == 0);
        const qsizetype longer = everythingIn(to).size();
        const QStringList again = rendering(clip_, to + QStringLiteral("/a_####.png"));
        const Outcome asked = run(again);
        QVERIFY2(asked.isRefusal() && asked.err.contains(QStringLiteral("--replace")),
                 asked.told().constData());
        QCOMPARE(everythingIn(to).size(), longer);
        QVERIFY(run(again + QStringList{QStringLiteral("--replace")}).status == 0);
        QCOMPARE(everythingIn(to).size(), qsizetype{10});
    }

    void aHoleOfTenDaysIsNoConstantRate() {
        const QString source =
            clips_.make(QStringLiteral("hole.mkv"),
                        words(QStringLiteral("-f lavfi -i testsrc=s=32x32:r=25 -frames:v 40 -vf "
                                             "setpts=if(lt(N\\,20)\\,PTS\\,PTS+864000/TB) "
                                             "-vsync passthrough -c:v ffv1")));
        const Outcome o = run({QStringLiteral("probe"), source, QStringLiteral("--claims-only")});
        QCOMPARE(o.status, 0);
        QVERIFY2(o.out.contains("240:00:00") || o.out.contains("hole") || o.out.contains("varying") ||
                     o.out.contains("10 days"),
                 o.out.constData());
    }

    void nobodyReadsTheOutput() {
        if (!QFile::exists(QStringLiteral("/dev/full"))) QSKIP("This system has no full device.");
        QProcess process;
        process.setStandardOutputFile(QStringLiteral("/dev/full"));
        process.start(QStringLiteral(YARNGAP_CLI),
                      {QStringLiteral("probe"), clip_, QStringLiteral("--json")});
        QVERIFY(process.waitForFinished(quick));
        QCOMPARE(process.exitCode(), 1);
    }

    void longNamesAreWritten() {
        const QString to = folder("long");
        for (const QString& name : {QString(250, QLatin1Char('n')) + QStringLiteral(".mkv"),
                                    QString(245, QLatin1Char('n')) + QStringLiteral("_####.png")}) {
            const Outcome o = run(rendering(clip_, QDir(to).filePath(name)));
            QVERIFY2(o.status == 0, o.told().constData());
        }
        const Outcome longer =
            run(rendering(clip_, QDir(to).filePath(QString(260, QLatin1Char('n')) + QStringLiteral(".mkv"))));
        QVERIFY2(longer.isRefusal() && longer.err.contains(QStringLiteral("too long")),
                 longer.told().constData());
    }

    void largeProjectsAreReadInALinearTime() {
        // 480 kB of empty objects, and a map of a hundred thousand keys; both took seconds.
        const QString in = folder("large");
        QByteArray objects = "{\"yarngap\":1,\"shots\":[";
        while (objects.size() < 480'000)
            objects += "{},";
        objects.chop(1);
        putBytes(in + QStringLiteral("/objects.yarngap"), objects + "]}");
        QByteArray keys = "{\"yarngap\":1,\"shots\":[{\"name\":\"a\",\"media\":\"../clip.mp4\",\"map\":[";
        for (int i = 0; i < 100'000; ++i)
            keys +=
                (i > 0 ? ",[" : "[") + QByteArray::number(i) + "," + QByteArray::number(i) + ",\"linear\"]";
        putBytes(in + QStringLiteral("/keys.yarngap"), keys + "]}]}");
        for (const char* name : {"objects", "keys"}) {
            QElapsedTimer timer;
            timer.start();
            const Outcome o = run(
                {QStringLiteral("plan"), QStringLiteral("%1/%2.yarngap").arg(in, QString::fromLatin1(name))});
            QVERIFY2(o.status == 0 || o.status == 1 || o.status == 2, o.told().constData());
            // Quadratic they took 5 and 12 seconds of a machine that does nothing else; sanitizers slow down
            // by 5.
#ifdef YARNGAP_SANITIZED
            constexpr qint64 most = 40'000;
#else
            constexpr qint64 most = 5000;
#endif
            QVERIFY2(timer.elapsed() < most, qPrintable(QString::number(timer.elapsed())));
        }
    }

    void memoryThatRunsOutIsTold() {
#ifdef YARNGAP_SANITIZED
        QSKIP("A sanitizer needs more addresses than any limit leaves.");
#endif
        const QString big =
            clips_.moving(QStringLiteral("big.mp4"), 3, {QStringLiteral("-c:v"), QStringLiteral("mpeg4")},
                          QStringLiteral("4096x2160"));
        int told = 0;
        for (const int megabytes : {900, 1100, 1300, 1500}) {
            const Outcome o = runProgram(
                QStringLiteral("bash"),
                {QStringLiteral("-c"),
                 QStringLiteral("ulimit -v %1; exec '%2' render '%3' --speed 50% -o '%4'")
                     .arg(megabytes * 1024)
                     .arg(QStringLiteral(YARNGAP_CLI), big, clips_.path(QStringLiteral("big.mkv")))});
            if (o.status == 0 || o.status == 127) continue; // enough, or not even enough to begin
            QVERIFY2(!o.err.contains(QStringLiteral("Check the disk")) &&
                         !o.err.contains(QStringLiteral("bad_alloc")) &&
                         !o.err.contains(QStringLiteral("OpenCV")),
                     o.told().constData());
            told += o.err.contains(QStringLiteral("memory")) ? 1 : 0;
        }
        QVERIFY2(told > 0, "No limit was met.");
    }
};

QTEST_GUILESS_MAIN(TestHardInput)
#include "test_hard_input.moc"
