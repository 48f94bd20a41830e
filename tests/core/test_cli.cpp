// yarngap-cli as its users run it: output, messages, exit status.

#include "core/media/library_messages.h"
#include "core/motion/kept_vectors.h"
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QProcessEnvironment>
#include <QTest>
#include <QtEndian>

#include <csignal>

using namespace yarngap::test;

namespace {

Outcome run(const QStringList& arguments) {
    return runProgram(QStringLiteral(YARNGAP_CLI), arguments);
}

} // namespace

class TestCli : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;

  private Q_SLOTS:
    void initTestCase() {
        yarngap::silenceMediaLibraries();
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 48, words(QStringLiteral("-c:v libx264 -g 12")));
    }

    void probeTellsTheFacts() {
        const Outcome o = run({QStringLiteral("probe"), clip_, QStringLiteral("--json")});
        QCOMPARE(o.status, 0);
        QVERIFY(o.err.isEmpty());
        const QJsonObject json = o.json();
        QCOMPARE(json[QLatin1String("frames")].toInt(), 48);
        QCOMPARE(json[QLatin1String("rate")].toString(), QStringLiteral("24"));
        QCOMPARE(json[QLatin1String("codec")].toString(), QStringLiteral("h264"));
        QCOMPARE(json[QLatin1String("width")].toInt(), 160);
        QVERIFY(run({QStringLiteral("probe"), clip_}).out.contains("48 frames at 24 fps"));
    }

    void theVersionIsThatOfTheChangeLog() {
        QFile changes(QStringLiteral(YARNGAP_SOURCES "/CHANGELOG.md"));
        QVERIFY(changes.open(QIODevice::ReadOnly));
        const QString text = QString::fromUtf8(changes.readAll());
        const QString newest = text.section(QStringLiteral("\n## "), 1, 1).section(QLatin1Char(' '), 0, 0);
        const Outcome o = run({QStringLiteral("--version")});
        QCOMPARE(o.status, 0);
        QCOMPARE(o.out.trimmed(), QStringLiteral("yarngap-cli ") + newest);
    }

    void scanTellsWhatThePicturesShow() {
        const QString tape =
            clips_.make(QStringLiteral("tape.mkv"),
                        {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("testsrc2=size=320x240:rate=24,telecine=first_field=top:pattern=23"),
                         QStringLiteral("-frames:v"), QStringLiteral("50"), QStringLiteral("-c:v"),
                         QStringLiteral("ffv1")});
        const Outcome o = run({QStringLiteral("scan"), tape, QStringLiteral("--json")});
        QCOMPARE(o.status, 0);
        const QJsonObject json = o.json();
        QVERIFY2(json[QLatin1String("summary")].toString().startsWith(
                     QStringLiteral("3:2 pulldown, top field first")),
                 qPrintable(json[QLatin1String("summary")].toString()));
        QCOMPARE(json[QLatin1String("frames")].toInt(), 50);
        QVERIFY(run({QStringLiteral("probe"), tape}).out.contains("Measured: 3:2 pulldown"));
        QVERIFY(
            !run({QStringLiteral("probe"), tape, QStringLiteral("--claims-only")}).out.contains("Measured"));
        const QString film = clips_.path(QStringLiteral("film.mkv"));
        QCOMPARE(
            run({QStringLiteral("render"), tape, QStringLiteral("--as-measured"), QStringLiteral("-o"), film})
                .status,
            0);
        const auto source = openSource(film);
        QCOMPARE(source->frames(), std::int64_t{40}); // four of five
        QVERIFY(source->facts().rate == yarngap::Rate(24, 1));
    }

    void planIsTheArithmetic() {
        const Outcome o = run({QStringLiteral("plan"), clip_, QStringLiteral("--from"), QStringLiteral("4"),
                               QStringLiteral("--to"), QStringLiteral("11"), QStringLiteral("--speed"),
                               QStringLiteral("25%"), QStringLiteral("--json")});
        QCOMPARE(o.status, 0);
        const QJsonObject json = o.json();
        QCOMPARE(json[QLatin1String("output")].toObject()[QLatin1String("frames")].toInt(), 32);
        const QJsonArray rows = json[QLatin1String("rows")].toArray();
        QCOMPARE(rows.size(), 32);
        const QJsonObject row = rows[7].toObject();
        QCOMPARE(row[QLatin1String("frame")].toInt(), 5);
        QCOMPARE(row[QLatin1String("phase")].toString(), QStringLiteral("3/4"));
        QCOMPARE(row[QLatin1String("kind")].toString(), QStringLiteral("flow"));
        QCOMPARE(json[QLatin1String("tail")].toObject()[QLatin1String("kind")].toString(),
                 QStringLiteral("beyond-trim"));
    }

    void timingOptions_data() {
        QTest::addColumn<QString>("options");
        QTest::addColumn<int>("frames");
        QTest::newRow("speed") << "--speed 50%" << 96;
        QTest::newRow("seconds") << "--length 8s" << 192;
        QTest::newRow("frames") << "--length 100f" << 100;
        QTest::newRow("timecode") << "--length 00:00:03:00" << 72;
        QTest::newRow("every frame") << "--every-frame --to-rate 60" << 48;
        QTest::newRow("same length") << "--same-length --to-rate 25" << 50;
        QTest::newRow("rate") << "--to-rate 24000/1001" << 48;
        QTest::newRow("trim") << "--from 10 --to 19 --speed 10" << 100;
    }
    void timingOptions() {
        QFETCH(QString, options);
        QFETCH(int, frames);
        const Outcome o =
            run(QStringList{QStringLiteral("plan"), clip_, QStringLiteral("--json")} + words(options));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QCOMPARE(o.json()[QLatin1String("output")].toObject()[QLatin1String("frames")].toInt(), frames);
    }

    void mapsGoOutAndComeBack_data() {
        QTest::addColumn<QString>("file");
        QTest::newRow("csv") << "map.csv";
        QTest::newRow("json") << "map.json";
    }
    void mapsGoOutAndComeBack() {
        QFETCH(QString, file);
        const QString path = clips_.path(file);
        const Outcome out =
            run(words(QStringLiteral("plan %1 --ramp 10-20:25%:6 --write-map %2 --json").arg(clip_, path)));
        QVERIFY2(out.status == 0, qPrintable(out.err));
        const Outcome in = run(words(QStringLiteral("plan %1 --map %2 --json").arg(clip_, path)));
        QVERIFY2(in.status == 0, qPrintable(in.err));
        QVERIFY(in.json()[QLatin1String("timeMap")].toArray().size() == 6);
        QCOMPARE(in.out, out.out);
    }

    void aConstantSpeedGoesThroughAnEditDecisionList() {
        const QString path = clips_.path(QStringLiteral("cut.edl"));
        const Outcome out = run(words(
            QStringLiteral("plan %1 --from 6 --to 29 --speed 33.333% --to-rate 29.97 --write-edl %2 --json")
                .arg(clip_, path)));
        QVERIFY2(out.status == 0, qPrintable(out.err));
        const Outcome in =
            run(words(QStringLiteral("plan %1 --to-rate 29.97 --edl %2 --json").arg(clip_, path)));
        QVERIFY2(in.status == 0, qPrintable(in.err));
        const QJsonObject a = out.json();
        const QJsonObject b = in.json();
        for (const char* part : {"source", "output"})
            QCOMPARE(b[QLatin1String(part)], a[QLatin1String(part)]);
        QVERIFY(std::abs(b[QLatin1String("speedPercent")].toDouble() - 33.333) < 0.3); // a frame of 90
        QCOMPARE(run(words(QStringLiteral("plan %1 --edl %2:7").arg(clip_, path))).status, 2);
    }

    void methodsOfStretchesAreKept() {
        const Outcome o = run(
            words(QStringLiteral("plan %1 --speed 50% --method-at 10-19:blend --method-at 15:sample --json")
                      .arg(clip_)));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        const QJsonObject counts = o.json()[QLatin1String("counts")].toObject();
        QCOMPARE(counts[QLatin1String("blend")].toInt(), 9);
        QCOMPARE(counts[QLatin1String("repeat")].toInt(), 1);
        QCOMPARE(counts[QLatin1String("flow")].toInt(), 37);
    }

    void wrongUsageIsTwo_data() {
        QTest::addColumn<QString>("arguments");
        QTest::addColumn<QString>("says");
        QTest::newRow("nothing") << ""
                                 << "";
        QTest::newRow("unknown command") << "transmogrify"
                                         << "";
        QTest::newRow("unknown option") << "plan CLIP --sideways"
                                        << "";
        QTest::newRow("speed of 0") << "plan CLIP --speed 0"
                                    << "0.1 % to 10,000 %";
        QTest::newRow("too fast") << "plan CLIP --speed 10001%"
                                  << "0.1 % to 10,000 %";
        QTest::newRow("no number") << "plan CLIP --speed fast"
                                   << "is not a number";
        QTest::newRow("two lengths") << "plan CLIP --speed 50 --length 8s"
                                     << "";
        QTest::newRow("frame outside") << "plan CLIP --to 48"
                                       << "frames 0 to 47";
        QTest::newRow("trim upside down") << "plan CLIP --from 9 --to 3"
                                          << "must not come after";
        QTest::newRow("unknown method") << "render CLIP --method magic -o x.mkv"
                                        << "sample, blend or flow";
        QTest::newRow("no such map") << "plan CLIP --map none.csv"
                                     << "cannot be read";
        QTest::newRow("no such list of decisions") << "plan CLIP --clean none.json"
                                                   << "There is no file";
        QTest::newRow("no certainty") << "plan CLIP --clean found:2"
                                      << "from 0 to 1";
        QTest::newRow("a folder for a map") << "plan CLIP --map /tmp"
                                            << "cannot be read";
        QTest::newRow("no file for a list") << "plan CLIP --edl /dev/zero"
                                            << "cannot be read";
        QTest::newRow("half a ramp") << "plan CLIP --ramp 10-20"
                                     << "reads like 40-60:25%";
        QTest::newRow("ramp outside") << "plan CLIP --ramp 40-60:25%"
                                      << "one speed";
        QTest::newRow("half a freeze") << "plan CLIP --freeze 10"
                                       << "reads like 50:48";
        QTest::newRow("method upside down") << "plan CLIP --method-at 9-3:blend"
                                            << "reads like 40-60:blend";
        QTest::newRow("no size") << "render CLIP --size wide -o x.mkv"
                                 << "reads like 1920x1080";
        QTest::newRow("no size at all") << "render CLIP --size 0x0 -o x.mkv"
                                        << "16 to 16384";
        QTest::newRow("no fit") << "render CLIP --fit stretched -o x.mkv"
                                << "letterbox";
        QTest::newRow("calmed over nothing") << "render CLIP --calm 0s -o x.mkv"
                                             << "reads like 0.5s";
        QTest::newRow("half a point") << "render CLIP --hold 12@4 -o x.mkv"
                                      << "reads like 960,540@12";
        QTest::newRow("a point outside") << "render CLIP --hold 5000,10@4 -o x.mkv"
                                         << "outside the picture";
        QTest::newRow("a frame beyond the end") << "render CLIP --hold 10,10@4000 -o x.mkv"
                                                << "frames 0 to 47";
        QTest::newRow("a finish that is not there") << "render CLIP --finish /none.json -o x.mkv"
                                                    << "There is no file";
        QTest::newRow("no output") << "render CLIP"
                                   << "";
        QTest::newRow("unknown format") << "render CLIP -o x.wmv"
                                        << ".mkv";
    }
    void wrongUsageIsTwo() {
        QFETCH(QString, arguments);
        QFETCH(QString, says);
        const Outcome o = run(words(QString(arguments).replace(QLatin1String("CLIP"), clip_)));
        QCOMPARE(o.status, 2);
        QVERIFY(o.out.isEmpty());
        QVERIFY(!o.err.isEmpty());
        QVERIFY2(o.err.contains(says), qPrintable(o.err));
    }

    void failuresAreOneWithASentence() {
        const QString target = clips_.path(QStringLiteral("f.mkv"));
        const Outcome missing = run({QStringLiteral("render"), clips_.path(QStringLiteral("none.mp4")),
                                     QStringLiteral("-o"), target});
        QCOMPARE(missing.status, 1);
        QVERIFY(missing.err.contains(QStringLiteral("There is no file")));
        const Outcome self = run({QStringLiteral("render"), clip_, QStringLiteral("--method"),
                                  QStringLiteral("sample"), QStringLiteral("-o"), clip_});
        QCOMPARE(self.status, 1);
        QVERIFY(self.err.contains(QStringLiteral("overwrite its own source")));
        const Outcome folder = run(
            {QStringLiteral("render"), clip_, QStringLiteral("-o"), clips_.path(QStringLiteral("no/f.mkv"))});
        QCOMPARE(folder.status, 1);
        QVERIFY(folder.err.contains(QStringLiteral("There is no folder")));
    }

    /// Pictures are read by a part of its own, which lies beside the program; all else works without it.
    void aMissingPartIsNamed() {
        const QString alone = clips_.path(QStringLiteral("alone/yarngap-cli"));
        QVERIFY(QDir().mkpath(QFileInfo(alone).path()));
        QVERIFY(QFile::copy(QStringLiteral(YARNGAP_CLI), alone));
        const QString picture =
            clips_.make(QStringLiteral("one.png"), words(QStringLiteral("-f lavfi -i testsrc2 -frames:v 1")));
        QCOMPARE(run({QStringLiteral("probe"), picture}).status, 0);
        QCOMPARE(runProgram(alone, {QStringLiteral("probe"), clip_}).status, 0);
        const Outcome o = runProgram(alone, {QStringLiteral("probe"), picture});
        QCOMPARE(o.status, 1);
        QVERIFY2(o.err.contains(QStringLiteral("yarngap-pictures.so")), qPrintable(o.err));
        QVERIFY2(o.err.contains(QStringLiteral("Install Yarn Gap again.")), qPrintable(o.err));
    }

    void renderWritesTheFramesPromised() {
        const QString target = clips_.path(QStringLiteral("slow.mkv"));
        const Outcome o = run({QStringLiteral("render"), clip_, QStringLiteral("--from"), QStringLiteral("0"),
                               QStringLiteral("--to"), QStringLiteral("9"), QStringLiteral("--speed"),
                               QStringLiteral("25%"), QStringLiteral("--method"), QStringLiteral("flow"),
                               QStringLiteral("--quality"), QStringLiteral("draft"), QStringLiteral("-o"),
                               target, QStringLiteral("--json")});
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QCOMPARE(o.json()[QLatin1String("frames")].toInt(), 40);
        QCOMPARE(o.json()[QLatin1String("counts")].toObject()[QLatin1String("original")].toInt(), 10);
        QCOMPARE(openSource(target)->frames(), std::int64_t{40});
        QVERIFY(o.err.isEmpty()); // no progress when standard error is no terminal
    }

    void settingsReachThePixels() {
        const auto rendered = [&](const QString& name, const QString& more) {
            const QString target = clips_.path(name + QStringLiteral(".mkv"));
            const Outcome o =
                run(QStringList{QStringLiteral("render"), clip_, QStringLiteral("-o"), target} +
                    words(QStringLiteral("--from 0 --to 3 --speed 50% --quality draft ") + more));
            if (o.status != 0) qFatal("%s", qPrintable(o.err));
            return linearFrames(target, QStringLiteral("yuv420p"));
        };
        const QByteArray plain = rendered(QStringLiteral("plain"), {});
        QVERIFY(rendered(QStringLiteral("again"), {}) == plain);
        for (const QString& option :
             {QStringLiteral("--stiffness 100"), QStringLiteral("--analyse-on edges"),
              QStringLiteral("--sides before"), QStringLiteral("--trust-limit 90 --stand-in repeat"),
              QStringLiteral("--even-texture"), QStringLiteral("--keep-grain"),
              QStringLiteral("--linear-light"), QStringLiteral("--shutter 360"), QStringLiteral("--cuts 2")})
            QVERIFY2(rendered(QStringLiteral("other"), option) != plain, qPrintable(option));
    }

    void thePlanTellsCutsAndOpenShutters() {
        const Outcome o = run(QStringList{QStringLiteral("plan"), clip_, QStringLiteral("--json")} +
                              words(QStringLiteral("--from 0 --to 3 --speed 50% --cuts 2 --shutter 180")));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        const QJsonArray rows = o.json()[QLatin1String("rows")].toArray();
        QCOMPARE(rows[3].toObject()[QLatin1String("atCut")].toBool(), true); // half way from 1 to 2
        QVERIFY(!rows[2].toObject().contains(QLatin1String("atCut")));
        QCOMPARE(rows[1].toObject()[QLatin1String("open")].toString(), QStringLiteral("1/4"));
    }

    void pathsBendUnlessTheyAreToBeStraight() {
        const QString clip =
            clips_.make(QStringLiteral("faster.mkv"),
                        {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("mandelbrot=s=320x120:end_scale=0.3:start_scale=0.3:r=24,loop=8:1:0,"
                                        "crop=160:120:x='2*n*n':y=0,trim=end_frame=8"),
                         QStringLiteral("-c:v"), QStringLiteral("ffv1"), QStringLiteral("-pix_fmt"),
                         QStringLiteral("yuv420p")});
        const auto rendered = [&](const QString& more) {
            const QString target = clips_.path(QStringLiteral("b.mkv"));
            const Outcome o =
                run(QStringList{QStringLiteral("render"), clip, QStringLiteral("-o"), target} +
                    words(QStringLiteral("--from 3 --to 4 --speed 50% --cuts none --repeats none ") + more));
            if (o.status != 0) qFatal("%s", qPrintable(o.err));
            return linearFrames(target, QStringLiteral("yuv420p"));
        };
        QVERIFY(rendered({}) != rendered(QStringLiteral("--straight-paths")));
        QVERIFY(rendered(QStringLiteral("--quality draft")) ==
                rendered(QStringLiteral("--quality draft --straight-paths"))); // a draft does not look beside
    }

    void thePlanTellsWhatIsPassedOver() {
        const auto rows = [&](const QString& more) {
            const Outcome o = run(QStringList{QStringLiteral("plan"), clip_, QStringLiteral("--json")} +
                                  words(QStringLiteral("--from 0 --to 7 --cuts none --repeats 3 ") + more));
            if (o.status != 0) qFatal("%s", qPrintable(o.err));
            return o.json()[QLatin1String("rows")].toArray();
        };
        const QJsonObject bridged = rows({})[3].toObject();
        QCOMPARE(bridged[QLatin1String("bridged")].toBool(), true);
        QCOMPARE(bridged[QLatin1String("first")].toInt(), 2);
        QCOMPARE(bridged[QLatin1String("last")].toInt(), 4);
        QCOMPARE(rows(QStringLiteral("--keep-repeats"))[3].toObject()[QLatin1String("kind")].toString(),
                 QStringLiteral("original"));
    }

    void decisionsAboutSourceFramesAreObeyed() {
        const QString list = clips_.path(QStringLiteral("decisions.json"));
        putBytes(list, R"({"decisions": [{"frame": 3, "do": "take-out"}, {"frame": 4, "do": "take-out"},
                          {"frame": 9, "do": "put-in", "count": 3}, {"frame": 20, "do": "pass-over"}]})");
        const QStringList clean{QStringLiteral("--clean"), list};
        const Outcome plan = run(QStringList{QStringLiteral("plan"), clip_, QStringLiteral("--json"),
                                             QStringLiteral("--repeats"), QStringLiteral("none"),
                                             QStringLiteral("--cuts"), QStringLiteral("none")} +
                                 clean);
        QCOMPARE(plan.status, 0);
        QVERIFY2(plan.err.isEmpty(), qPrintable(plan.err));
        QCOMPARE(plan.json()[QLatin1String("output")].toObject()[QLatin1String("frames")].toInt(), 49);
        const QJsonObject bridged = plan.json()[QLatin1String("rows")].toArray()[21].toObject();
        QVERIFY(bridged[QLatin1String("bridged")].toBool());
        const QString target = clips_.path(QStringLiteral("cleaned.mkv"));
        const Outcome render = run(QStringList{QStringLiteral("render"), clip_, QStringLiteral("-o"), target,
                                               QStringLiteral("--method"), QStringLiteral("sample")} +
                                   clean);
        QVERIFY2(render.status == 0, qPrintable(render.err));
        const auto result = openSource(target);
        const auto source = openSource(clip_);
        QCOMPARE(result->frames(), std::int64_t{49});
        QCOMPARE(*result->frame(2), *source->frame(2));
        QCOMPARE(*result->frame(3), *source->frame(5));   // later ones have closed up
        QCOMPARE(*result->frame(11), *source->frame(10)); // behind the three that were put in
        QVERIFY(*result->frame(8) != *source->frame(9));
        QCOMPARE(*result->frame(21), *source->frame(19)); // a sample of one passed over shows the one before
    }

    void whatWasFoundIsWrittenToBeLookedThrough() {
        // Every picture is shown twice.
        const QString twice =
            clips_.make(QStringLiteral("twice.mkv"),
                        {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("testsrc2=size=320x240:rate=12,fps=24"), QStringLiteral("-frames:v"),
                         QStringLiteral("40"), QStringLiteral("-c:v"), QStringLiteral("libx264")});
        const QString list = clips_.path(QStringLiteral("found.json"));
        const Outcome o = run({QStringLiteral("clean"), twice, QStringLiteral("-o"), list});
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QCOMPARE(o.out.trimmed(), QStringLiteral("20 passed over"));
        const QJsonArray decisions =
            QJsonDocument::fromJson(bytesOf(list))[QLatin1String("decisions")].toArray();
        QCOMPARE(decisions.size(), 20);
        QCOMPARE(decisions[4].toObject()[QLatin1String("frame")].toInt(), 9);
        QCOMPARE(decisions[4].toObject()[QLatin1String("do")].toString(), QStringLiteral("pass-over"));
        const Outcome plan =
            run({QStringLiteral("plan"), twice, QStringLiteral("--json"), QStringLiteral("--clean"),
                 QStringLiteral("found:0.9"), QStringLiteral("--speed"), QStringLiteral("50%")});
        // Behind the last repeat there is nothing to go on to.
        QCOMPARE(plan.json()[QLatin1String("counts")].toObject()[QLatin1String("original")].toInt(), 21);
        QVERIFY(run({QStringLiteral("scan"), twice}).out.contains("Repeats: 1 ("));
    }

    void decisionsThatCannotBeAreTold_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<int>("status");
        QTest::addColumn<QByteArray>("says");
        QTest::newRow("beyond the end") << QByteArray(R"({"decisions": [{"frame": 48, "do": "keep"}]})") << 2
                                        << QByteArray("frame 48 lies beyond the end");
        QTest::newRow("twice")
            << QByteArray(R"({"decisions": [{"frame": 4, "do": "keep"}, {"frame": 4, "do": "rebuild"}]})")
            << 2 << QByteArray("twice");
        QByteArray all = "{\"decisions\": [";
        for (int n = 0; n < 48; ++n)
            all += (n > 0 ? ", " : "") + QByteArray("{\"frame\": ") + QByteArray::number(n) +
                   ", \"do\": \"take-out\"}";
        QTest::newRow("all taken out") << all + "]}" << 2 << QByteArray("Keep at least one");
        QTest::newRow("no list") << QByteArray("{}") << 2 << QByteArray("holds no decisions");
        QTest::newRow("cut off") << QByteArray("{\"decisions\": [{\"fra") << 2
                                 << QByteArray("holds no decisions");
        QTest::newRow("without effect") << QByteArray(R"({"decisions": [{"frame": 0, "do": "pass-over"}]})")
                                        << 0 << QByteArray("has no effect");
    }
    void decisionsThatCannotBeAreTold() {
        QFETCH(QByteArray, content);
        QFETCH(int, status);
        QFETCH(QByteArray, says);
        const QString list = clips_.path(QStringLiteral("bad.json"));
        putBytes(list, content);
        const QString target = clips_.path(QStringLiteral("bad.mkv"));
        const Outcome o =
            run({QStringLiteral("render"), clip_, QStringLiteral("-o"), target, QStringLiteral("--method"),
                 QStringLiteral("sample"), QStringLiteral("--clean"), list});
        QCOMPARE(o.status, status);
        QVERIFY2(o.err.contains(QString::fromLatin1(says)), qPrintable(o.err));
        QCOMPARE(QFile::exists(target), status == 0);
        QFile::remove(target);
        // And the list is no place to write on.
        QCOMPARE(run({QStringLiteral("render"), clip_, QStringLiteral("--clean"), list, QStringLiteral("-o"),
                      list})
                     .status,
                 2);
        QCOMPARE(bytesOf(list), content);
    }

    void aMatteOfPicturesMovesTheSubjectApart() {
        const QString matte = clips_.make(
            QStringLiteral("matte.mkv"),
            {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
             QStringLiteral("color=black:s=160x120:r=24:d=2,drawbox=x=40:y=30:w=60:h=50:color=white:t=fill"),
             QStringLiteral("-c:v"), QStringLiteral("ffv1")});
        const auto rendered = [&](const QStringList& more) {
            const QString target = clips_.path(QStringLiteral("m.mkv"));
            const Outcome o = run(QStringList{QStringLiteral("render"), clip_, QStringLiteral("-o"), target} +
                                  words(QStringLiteral("--from 2 --to 3 --speed 50% --cuts none")) + more);
            if (o.status != 0) qFatal("%s", qPrintable(o.err));
            return linearFrames(target, QStringLiteral("yuv420p"));
        };
        const QByteArray plain = rendered({});
        const QByteArray apart = rendered({QStringLiteral("--matte"), matte});
        QCOMPARE(apart.size(), plain.size());
        QVERIFY(apart != plain);
        const qsizetype frame = 160 * 120 * 3 / 2;
        QVERIFY(apart.left(frame) == plain.left(frame)); // an original stays one
        QVERIFY(rendered({QStringLiteral("--matte"), matte, QStringLiteral("--subject-below")}) != apart);
        const Outcome missing = run(QStringList{
            QStringLiteral("render"), clip_, QStringLiteral("-o"), clips_.path(QStringLiteral("m.mkv")),
            QStringLiteral("--matte"), QStringLiteral("/nowhere/matte.png")});
        QCOMPARE(missing.status, 2);
        QVERIFY(missing.err.contains(QStringLiteral("The matte /nowhere/matte.png cannot be read")));
    }

    void vectorsAndDoubtAreSharedOut() {
        const auto gapsOf = [&](const QString& folder, const QString& more) {
            const Outcome o =
                run(QStringList{QStringLiteral("vectors"), clip_, QStringLiteral("-o"), clips_.path(folder)} +
                    words(QStringLiteral("--from 1 --to 5 --quality draft ") + more));
            if (o.status != 0) qFatal("%s", qPrintable(o.err));
            return QDir(clips_.path(folder)).entryList(QDir::Files);
        };
        const QStringList whole = gapsOf(QStringLiteral("whole_vectors"), QString());
        QCOMPARE(whole.size(), 5);
        const QStringList half =
            gapsOf(QStringLiteral("shared_vectors"), QStringLiteral("--slices 2 --slice 1"));
        QCOMPARE(half, whole.mid(2));
        QCOMPARE(gapsOf(QStringLiteral("shared_vectors"), QStringLiteral("--slices 2 --slice 0")), whole);
        const auto undated = [&](const QString& file) { // OpenEXR files say when they were written
            QByteArray bytes = bytesOf(clips_.path(file));
            constexpr int length = 23; // of a size and "2026:11:30 12:36:56"
            const char* attribute = "capDate\0string";
            return bytes.remove(bytes.indexOf(QByteArray(attribute, 14)) + 15, length);
        };
        for (const QString& gap : whole)
            QVERIFY(undated(QStringLiteral("shared_vectors/") + gap) ==
                    undated(QStringLiteral("whole_vectors/") + gap));

        const auto doubt = [&](const QString& more) {
            return run(QStringList{QStringLiteral("doubt"), clip_} +
                       words(QStringLiteral("--from 1 --to 6 --speed 50% --quality draft ") + more));
        };
        const QString folder = QStringLiteral(" -o ") + clips_.path(QStringLiteral("doubts"));
        for (const int slice : {2, 0})
            QCOMPARE(doubt(QStringLiteral("--slices 3 --slice %1").arg(slice) + folder).status, 0);
        const Outcome early = doubt(QStringLiteral("--slices 3 --join") + folder);
        QVERIFY2(early.isRefusal() && early.err.contains(QStringLiteral("Slice 1 is missing")), early.told());
        QCOMPARE(doubt(QStringLiteral("--slices 3 --slice 1") + folder).status, 0);
        const Outcome joined = doubt(QStringLiteral("--slices 3 --join") + folder);
        QVERIFY2(joined.status == 0, joined.told());
        QVERIFY(joined.out.count('\n') >= 4);
        QCOMPARE(joined.out, doubt(QString()).out);
        // Of slices made with other settings nothing is told.
        const Outcome other = run(QStringList{QStringLiteral("doubt"), clip_} +
                                  words(QStringLiteral("--from 1 --to 6 --speed 50% --quality standard "
                                                       "--slices 3 --join") +
                                        folder));
        QVERIFY2(other.isRefusal() && other.err.contains(QStringLiteral("other settings")), other.told());
        putBytes(clips_.path(QStringLiteral("doubts/0001.doubts")), "damaged");
        const Outcome damaged = doubt(QStringLiteral("--slices 3 --join") + folder);
        QVERIFY2(damaged.isRefusal() && damaged.err.contains(QStringLiteral("Slice 1 is damaged")),
                 damaged.told());
        QCOMPARE(doubt(QStringLiteral("--slices 3 --slice 1")).status, 2);
        QCOMPARE(doubt(QStringLiteral("--slices 3 --slice 3") + folder).status, 2);
    }

    void vectorsAreWrittenAndTakenBack() {
        const QString folder = clips_.path(QStringLiteral("vectors"));
        const Outcome o = run(QStringList{QStringLiteral("vectors"), clip_, QStringLiteral("-o"), folder} +
                              words(QStringLiteral("--from 2 --to 5 --quality draft")));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        // The last in-betweens of a slowed trim lie after its last frame.
        QCOMPARE(QDir(folder).entryList(QDir::Files),
                 (QStringList{QStringLiteral("gap_000002.exr"), QStringLiteral("gap_000003.exr"),
                              QStringLiteral("gap_000004.exr"), QStringLiteral("gap_000005.exr")}));
        const auto rendered = [&](const QString& more) {
            const QString target = clips_.path(QStringLiteral("v.mkv"));
            const Outcome r = run(QStringList{QStringLiteral("render"), clip_, QStringLiteral("-o"), target} +
                                  words(QStringLiteral("--from 2 --to 4 --speed 50% ") + more));
            if (r.status != 0) qFatal("%s", qPrintable(r.err));
            return linearFrames(target, QStringLiteral("yuv420p"));
        };
        // With draft vectors from files a standard render is the draft one.
        QVERIFY(rendered(QStringLiteral("--quality standard --straight-paths --vectors ") + folder) ==
                rendered(QStringLiteral("--quality draft")));
        QVERIFY(rendered(QStringLiteral("--quality standard")) !=
                rendered(QStringLiteral("--quality draft")));
        // Thorough ones have looked at the gaps beside, as those in a render have.
        const QString thorough = clips_.path(QStringLiteral("thorough"));
        const Outcome t = run(QStringList{QStringLiteral("vectors"), clip_, QStringLiteral("-o"), thorough} +
                              words(QStringLiteral("--from 2 --to 5 --quality thorough")));
        QVERIFY2(t.status == 0, qPrintable(t.err));
        const QString alone = clips_.path(QStringLiteral("alone")); // with cuts on both sides of gap 3
        const Outcome c = run(QStringList{QStringLiteral("vectors"), clip_, QStringLiteral("-o"), alone} +
                              words(QStringLiteral("--from 3 --to 4 --quality thorough --cuts 3,5")));
        QVERIFY2(c.status == 0, qPrintable(c.err));
        const auto bytesOf = [](const QString& gaps) {
            QFile file(gaps + QStringLiteral("/gap_000003.exr"));
            if (!file.open(QIODevice::ReadOnly)) qFatal("not written");
            return file.readAll();
        };
        QVERIFY(bytesOf(thorough) != bytesOf(alone));
        // They hold one motion, and a render shows the mean of several where the choice was a close one.
        const QString standard = clips_.path(QStringLiteral("standard"));
        const Outcome s = run(QStringList{QStringLiteral("vectors"), clip_, QStringLiteral("-o"), standard} +
                              words(QStringLiteral("--from 2 --to 5 --quality standard")));
        QVERIFY2(s.status == 0, qPrintable(s.err));
        const QString render = QStringLiteral("--quality thorough --straight-paths");
        const QByteArray own = rendered(render);
        const auto apart = [&](const QString& from) { // mean difference from the render, in steps
            const QByteArray other = rendered(render + QStringLiteral(" --vectors ") + from);
            if (other.size() != own.size()) qFatal("of another size");
            double sum = 0;
            for (qsizetype i = 0; i < own.size(); ++i)
                sum += std::abs(static_cast<int>(static_cast<unsigned char>(own[i])) -
                                static_cast<int>(static_cast<unsigned char>(other[i])));
            return sum / static_cast<double>(own.size());
        };
        const double byThorough = apart(thorough);
        const double byStandard = apart(standard);
        QVERIFY2(byThorough < 0.75 * byStandard,
                 qPrintable(QStringLiteral("%1, %2").arg(byThorough).arg(byStandard)));
    }

    void noVectorsAreWrittenAcrossACut() {
        const QString folder = clips_.path(QStringLiteral("cut_vectors"));
        const Outcome o =
            run(QStringList{QStringLiteral("vectors"), clip_, QStringLiteral("-o"), folder} +
                words(QStringLiteral("--from 2 --to 5 --quality draft --cuts 4 --repeats none")));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QCOMPARE(QDir(folder).entryList(QDir::Files),
                 (QStringList{QStringLiteral("gap_000002.exr"), QStringLiteral("gap_000004.exr"),
                              QStringLiteral("gap_000005.exr")}));
        QVERIFY(o.out.contains("3 gaps"));
    }

    void aKilledProgramHarmsNoVectors() {
        const QString cache = clips_.path(QStringLiteral("cache"));
        QVERIFY(QDir().mkpath(cache));
        auto environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("XDG_CACHE_HOME"), cache);
        QProcess process;
        process.setProcessEnvironment(environment);
        const QDir kept(cache + QStringLiteral("/yarngap/vectors"));
        process.start(QStringLiteral(YARNGAP_CLI), {QStringLiteral("vectors"), clip_, QStringLiteral("-o"),
                                                    clips_.path(QStringLiteral("k"))});
        QVERIFY(QTest::qWaitFor([&] { return !kept.entryList(QDir::Files).isEmpty(); }, 60'000));
        process.kill();
        QVERIFY(process.waitForFinished());
        // Every file under a final name is whole, and the next run goes on from there.
        for (const QString& file : kept.entryList({QStringLiteral("*.vectors")}, QDir::Files)) {
            const QByteArray bytes = bytesOf(kept.filePath(file));
            constexpr qsizetype magic = 18;
            const auto length = static_cast<qsizetype>(qFromLittleEndian<quint32>(bytes.constData() + magic));
            const QByteArray key = bytes.mid(magic + 4, length);
            const char* sizes = bytes.constData() + magic + 4 + length;
            QVERIFY(yarngap::readKeptVectors(kept.filePath(file).toStdString(), key.toStdString(),
                                             static_cast<int>(qFromLittleEndian<quint32>(sizes)),
                                             static_cast<int>(qFromLittleEndian<quint32>(sizes + 4))));
        }
        process.start();
        QVERIFY(process.waitForFinished(120'000));
        QCOMPARE(process.exitCode(), 0);
        QVERIFY(kept.entryList({QStringLiteral("*.partial-*")}, QDir::Files).isEmpty());
    }

    void settingsOutOfRangeAreWrongUsage() {
        for (const QString& option : {QStringLiteral("--stiffness 101"), QStringLiteral("--trust-limit -1"),
                                      QStringLiteral("--shutter 721"), QStringLiteral("--in-front behind"),
                                      QStringLiteral("--stand-in nothing"), QStringLiteral("--cuts 0"),
                                      QStringLiteral("--cuts a,b")}) {
            const Outcome o = run(QStringList{QStringLiteral("render"), clip_, QStringLiteral("-o"),
                                              clips_.path(QStringLiteral("w.mkv"))} +
                                  words(option));
            QVERIFY2(o.status == 2, qPrintable(option + QStringLiteral(": ") + o.err));
            QVERIFY(!o.err.isEmpty());
        }
    }

    void projectsRenderTheirShots() {
        const QString project = clips_.path(QStringLiteral("film.yarngap"));
        QFile file(project);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(
            R"({"yarngap":1,"name":"f","shots":[{"media":"clip.mp4","name":"one","speed":"1/2","method":"sample"},{"media":"clip.mp4","name":"two","to":11,"method":"blend"}]})");
        file.close();
        const Outcome ambiguous = run({QStringLiteral("plan"), project});
        QCOMPARE(ambiguous.status, 2);
        QVERIFY(ambiguous.err.contains(QStringLiteral("one, two")));
        const QString target = clips_.path(QStringLiteral("two.mov"));
        const Outcome o = run({QStringLiteral("render"), project, QStringLiteral("--shot"),
                               QStringLiteral("two"), QStringLiteral("-o"), target});
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QCOMPARE(openSource(target)->frames(), std::int64_t{12});
    }

    void aReelIsOneFile() {
        const QString project = clips_.path(QStringLiteral("reel.yarngap"));
        QFile file(project);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(
            QStringLiteral(
                R"({"yarngap":1,"name":"n","shots":[{"media":"%1","speed":"1/2","to":9},{"media":"%1","from":20,"to":29,"outputRate":"48"}]})")
                .arg(clip_)
                .toUtf8());
        file.close();
        const QString target = clips_.path(QStringLiteral("reel_out.mkv"));
        const Outcome o =
            run({QStringLiteral("render"), project, QStringLiteral("--reel"), QStringLiteral("--method"),
                 QStringLiteral("sample"), QStringLiteral("--json"), QStringLiteral("-o"), target});
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QCOMPARE(o.json()[QLatin1String("frames")].toInt(), 20 + 10); // at the first one's 24
        QCOMPARE(run({QStringLiteral("render"), project, QStringLiteral("--reel"), QStringLiteral("--speed"),
                      QStringLiteral("50"), QStringLiteral("-o"), target})
                     .status,
                 2);
        QCOMPARE(
            run({QStringLiteral("render"), clip_, QStringLiteral("--reel"), QStringLiteral("-o"), target})
                .status,
            2);
    }

    void framesAreFinished() {
        const QString target = clips_.path(QStringLiteral("finished.mkv"));
        const auto render = [&](const QString& options) {
            return run(
                words(QStringLiteral("render %1 --to 9 --method sample --repeats none --cuts none %2 -o %3")
                          .arg(clip_, options, target)));
        };
        Outcome o = render(QStringLiteral("--size 321x240 --fit letterbox"));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QVERIFY2(o.err.contains(QStringLiteral("it is made 322x240")), qPrintable(o.err));
        QCOMPARE(openSource(target)->facts().width, 322);
        QCOMPARE(openSource(target)->facts().height, 240);
        // A finish and a tone from files, which no result is written on.
        const QString finish = clips_.path(QStringLiteral("finish.json"));
        QFile file(finish);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(
            R"({"frame": {"size": [200, 100], "fit": "fill"}, "tone": [{"black": 0.1, "saturation": 0}]})");
        file.close();
        o = render(QStringLiteral("--finish ") + finish);
        QVERIFY2(o.status == 0, qPrintable(o.err));
        const auto read = openSource(target);
        QCOMPARE(read->facts().width, 200);
        QCOMPARE(int{read->frame(3)->row<std::uint8_t>(1, 20)[30]}, 128); // no colour is left
        QCOMPARE(run(words(QStringLiteral("render %1 --finish %2 -o %2").arg(clip_, finish))).status,
                 2); // no format
        // A point that cannot be followed is said; nothing is written.
        QVERIFY(QFile::remove(target));
        o = render(QStringLiteral("--tone ") + finish + QStringLiteral(" --calm still --hide-edges"));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QVERIFY(QFile::exists(target));
    }

    void aReelOfUnlikeShotsGetsOneFrame() {
        const QString other =
            clips_.moving(QStringLiteral("tall.mkv"), 6, {QStringLiteral("-c:v"), QStringLiteral("ffv1")},
                          QStringLiteral("96x128"));
        const QString project = clips_.path(QStringLiteral("unlike.yarngap"));
        QFile file(project);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(
            QStringLiteral(
                R"({"yarngap":2,"name":"n","shots":[{"media":"%1","to":5,"method":"sample"},{"media":"%2","method":"sample"}]})")
                .arg(clip_, other)
                .toUtf8());
        file.close();
        const QString target = clips_.path(QStringLiteral("unlike.mkv"));
        QCOMPARE(run(words(QStringLiteral("render %1 --reel -o %2").arg(project, target))).status, 1);
        const Outcome o = run(words(
            QStringLiteral("render %1 --reel --size 192x108 --fit letterbox -o %2").arg(project, target)));
        QVERIFY2(o.status == 0, qPrintable(o.err));
        QCOMPARE(openSource(target)->frames(), std::int64_t{12});
        QCOMPARE(openSource(target)->facts().width, 192);
        QCOMPARE(
            run(words(QStringLiteral("render %1 --reel --hold 5,5@1 -o %2").arg(project, target))).status, 2);
    }

    void interruptedRendersLeaveNothing() {
        const QTemporaryDir dir;
        QProcess process;
        process.start(QStringLiteral(YARNGAP_CLI),
                      {QStringLiteral("render"), clip_, QStringLiteral("--speed"), QStringLiteral("1%"),
                       QStringLiteral("-o"), dir.filePath(QStringLiteral("x.mkv"))});
        QVERIFY(process.waitForStarted());
        QTRY_VERIFY_WITH_TIMEOUT(!QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).isEmpty(),
                                 20'000); // writing
        ::kill(static_cast<pid_t>(process.processId()), SIGINT);
        QVERIFY(process.waitForFinished(20'000));
        QCOMPARE(process.exitCode(), 130);
        QVERIFY(process.readAllStandardError().contains("Cancelled"));
        QVERIFY(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
    }

    void aFullDiskIsToldAndLeavesNothing() {
        // A file size limit meets the same path as a full disk: the write fails half way.
        const QTemporaryDir dir;
        QProcess process;
        process.start(QStringLiteral("bash"),
                      {QStringLiteral("-c"),
                       QStringLiteral("ulimit -f 40; exec '%1' render '%2' --method sample -o '%3'")
                           .arg(QStringLiteral(YARNGAP_CLI), clip_, dir.filePath(QStringLiteral("x.mkv")))});
        QVERIFY(process.waitForFinished(60'000));
        QCOMPARE(process.exitStatus(), QProcess::NormalExit);
        QCOMPARE(process.exitCode(), 1);
        QVERIFY(process.readAllStandardError().contains("grew larger than"));
        QVERIFY(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
        if (QFile::exists(QStringLiteral("/dev/full"))) {
            QVERIFY(QFile::link(QStringLiteral("/dev/full"),
                                dir.filePath(QStringLiteral("full.mkv")))); // neither replaced nor written to
            const Outcome o =
                run({QStringLiteral("render"), clip_, QStringLiteral("--method"), QStringLiteral("sample"),
                     QStringLiteral("-o"), dir.filePath(QStringLiteral("full.mkv"))});
            QCOMPARE(o.status, 1);
            QVERIFY(o.err.contains(QStringLiteral("not an ordinary file")));
            QVERIFY(QFileInfo(QStringLiteral("/dev/full")).exists());
        }
    }
};

QTEST_GUILESS_MAIN(TestCli)
#include "test_cli.moc"
