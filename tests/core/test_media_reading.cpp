// Frame n, exactly: every codec and container against linear decoding by the ffmpeg program.

#include "core/error.h"
#include "core/media/frame_decoder.h"
#include "core/media/library_messages.h"
#include "support/clips.h"

#include <QTest>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <numeric>
#include <random>
#include <thread>

using namespace yarngap;
using namespace yarngap::test;

class TestMediaReading : public QObject {
    Q_OBJECT

    Clips clips_;

    static QStringList words(const char* text) {
        return QString::fromLatin1(text).split(QLatin1Char(' '), Qt::SkipEmptyParts);
    }

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void framesEqualLinearDecoding_data() {
        QTest::addColumn<QString>("clip");
        QTest::addColumn<QString>("format");
        QTest::addColumn<int>("frames"); // −1: as many as linear decoding shows
        const auto row = [&](const char* name, const char* file, const char* coding,
                             const char* format = "yuv420p", int frames = 60, const char* size = "160x120") {
            QTest::newRow(name) << clips_.moving(QString::fromLatin1(file), 60, words(coding),
                                                 QString::fromLatin1(size), QStringLiteral("24"),
                                                 QString::fromLatin1(format))
                                << QString::fromLatin1(format) << frames;
        };
        row("H.264 with B-frames", "b.mp4", "-c:v libx264 -g 12 -bf 3");
        row("H.264 open GOP", "open.mkv",
            "-c:v libx264 -x264-params open-gop=1:keyint=10:bframes=3:scenecut=0");
        row("H.264 10 bit 4:2:2", "ten.mov", "-c:v libx264 -g 15", "yuv422p10le");
        row("H.264 in a transport stream", "h.ts", "-c:v libx264 -g 12 -bf 2");
        row("H.264 elementary", "h.h264", "-c:v libx264 -g 12 -bf 2");
        row("H.264 interlaced", "i.mp4", "-c:v libx264 -g 12 -bf 2 -flags +ildct+ilme");
        row("H.264 intra only", "intra.mp4", "-c:v libx264 -g 1");
        row("H.265", "h.mkv", "-c:v libx265 -x265-params log-level=none:keyint=12:bframes=3");
        row("H.265 open GOP in MP4", "open265.mp4",
            "-c:v libx265 -x265-params log-level=none:keyint=10:open-gop=1:bframes=4 -tag:v hvc1");
        row("MPEG-2 with B-frames", "m.mpg", "-c:v mpeg2video -g 12 -bf 2 -b:v 2M");
        row("MPEG-2 in a transport stream", "m.ts", "-c:v mpeg2video -g 9 -bf 2 -b:v 2M");
        row("MPEG-4 in AVI", "m4.avi", "-c:v mpeg4 -g 12 -bf 2 -b:v 2M");
        row("VP9", "v.webm",
            "-c:v libvpx-vp9 -g 12 -deadline realtime -cpu-used 8 -auto-alt-ref 1 -lag-in-frames 10 -b:v "
            "500k");
        row("FFV1", "f.mkv", "-c:v ffv1");
        row("FFV1 RGB", "rgb.mkv", "-c:v ffv1", "gbrp10le");
        row("FFV1 16 bit", "16.mkv", "-c:v ffv1", "yuv444p16le");
        row("FFV1 with alpha", "alpha.mkv", "-c:v ffv1", "yuva420p");
        row("FFV1 grey", "grey.mkv", "-c:v ffv1", "gray");
        row("FFV1 odd size", "odd.mkv", "-c:v ffv1", "yuv420p", 60, "161x121");
        row("ProRes", "p.mov", "-c:v prores_ks", "yuv422p10le");
        row("Motion JPEG", "j.avi", "-c:v mjpeg -q:v 3", "yuvj422p");
        row("one frame", "one.mp4", "-c:v libx264 -frames:v 1", "yuv420p", 1);

        const QString base = clips_.moving(QStringLiteral("base.mp4"), 60, words("-c:v libx264 -g 12 -bf 3"));
        QTest::newRow("edit list") << clips_.make(QStringLiteral("edit.mp4"),
                                                  words("-ss 0.7") + QStringList{QStringLiteral("-i"), base} +
                                                      words("-c copy"))
                                   << QStringLiteral("yuv420p") << -1;
        QTest::newRow("negative start")
            << clips_.make(QStringLiteral("neg.mp4"),
                           QStringList{QStringLiteral("-i"), base} +
                               words("-c copy -output_ts_offset -1.5 -avoid_negative_ts disabled -movflags "
                                     "+negative_cts_offsets"))
            << QStringLiteral("yuv420p") << -1;
        QTest::newRow("late start") << clips_.make(QStringLiteral("late.ts"),
                                                   QStringList{QStringLiteral("-i"), base} +
                                                       words("-c copy -output_ts_offset 100"))
                                    << QStringLiteral("yuv420p") << 60;
        const QString mpeg =
            clips_.moving(QStringLiteral("m2.ts"), 60, words("-c:v mpeg2video -g 9 -bf 2 -b:v 2M"));
        QTest::newRow("starts inside an open GOP")
            << clips_.make(QStringLiteral("cut.ts"),
                           words("-ss 0.9") + QStringList{QStringLiteral("-i"), mpeg} + words("-c copy"))
            << QStringLiteral("yuv420p") << -1;
        QTest::newRow("varying rate")
            << clips_.make(
                   QStringLiteral("vfr.mp4"),
                   words("-f lavfi -i testsrc2=size=160x120:rate=24 -vf select='not(mod(n,5))+mod(n,2)' "
                         "-fps_mode vfr -frames:v 40 -c:v libx264 -g 12"))
            << QStringLiteral("yuv420p") << 40;
    }

    void framesEqualLinearDecoding() {
        QFETCH(QString, clip);
        QFETCH(QString, format);
        QFETCH(int, frames);
        const QByteArray linear = linearFrames(clip, format);
        const auto source = openSource(clip);
        const qsizetype frameBytes = rawSamples(*source->frame(0)).size();
        QCOMPARE(linear.size() % frameBytes, 0);
        QCOMPARE(source->frames(), static_cast<std::int64_t>(linear.size() / frameBytes));
        if (frames >= 0) QCOMPARE(source->frames(), static_cast<std::int64_t>(frames));

        // Backwards, shuffled, and with jumps: each through a decoder of its own without a cache to lean on.
        std::vector<std::int64_t> order(static_cast<std::size_t>(source->frames()));
        std::iota(order.begin(), order.end(), 0);
        std::shuffle(order.begin(), order.end(), std::mt19937(7));
        std::vector<std::int64_t> forwards(order.size());
        std::iota(forwards.begin(), forwards.end(), 0);
        std::vector<std::int64_t> backwards(forwards.rbegin(), forwards.rend());
        backwards.resize(std::min<std::size_t>(backwards.size(), 20));
        const auto index = std::make_shared<MediaIndex>(buildIndex(clip.toStdString()));
        for (const auto& sequence : {forwards, order, backwards}) {
            FrameDecoder decoder(index);
            for (const std::int64_t n : sequence) {
                const QByteArray samples = rawSamples(*decoder.decode(n).image);
                QVERIFY2(samples == linear.mid(n * frameBytes, frameBytes),
                         qPrintable(QStringLiteral("frame %1").arg(n)));
            }
        }
    }

    void ratesAreMeasuredExactly_data() {
        QTest::addColumn<QString>("rate");
        QTest::addColumn<QString>("file");
        for (const char* rate : {"24000/1001", "25", "30000/1001", "60000/1001", "50"})
            for (const char* file : {"rate.mkv", "rate.mp4", "rate.mov", "rate.ts", "rate.avi"})
                QTest::addRow("%s in %s", rate, file)
                    << QString::fromLatin1(rate) << QString::fromLatin1(file);
    }
    void ratesAreMeasuredExactly() {
        QFETCH(QString, rate);
        QFETCH(QString, file);
        const QString clip =
            clips_.moving(file, 50, words("-c:v libx264 -preset ultrafast"), QStringLiteral("64x48"), rate);
        const MediaIndex index = buildIndex(clip.toStdString());
        QCOMPARE(index.facts.rate, Rate::parse(rate.toStdString()));
        QVERIFY(index.facts.constantRate);
    }

    void varyingRatesAreNoticed() {
        const QString clip = clips_.make(QStringLiteral("phone.mp4"),
                                         words("-f lavfi -i testsrc2=size=64x48:rate=30 -vf "
                                               "select='mod(n,3)' -fps_mode vfr -frames:v 40 -c:v libx264"));
        QVERIFY(!buildIndex(clip.toStdString()).facts.constantRate);
    }

    void factsTellWhatTheFileSays() {
        const QString clip = clips_.moving(
            QStringLiteral("facts.mov"), 12,
            words("-c:v prores_ks -vf "
                  "setsar=64/45,setparams=colorspace=bt709:color_primaries=bt709:color_trc=bt709"),
            QStringLiteral("720x576"), QStringLiteral("25"), QStringLiteral("yuv422p10le"));
        const MediaFacts f = buildIndex(clip.toStdString()).facts;
        QCOMPARE(f.width, 720);
        QCOMPARE(f.height, 576);
        QCOMPARE(f.pixelAspect, Rational(64, 45));
        QCOMPARE(f.layout, (PixelLayout{.depth = 10, .chromaShiftX = 1}));
        QCOMPARE(f.colour.matrix, 1);
        QCOMPARE(f.frames, 12);
        QVERIFY(!f.colour.fullRange);
        QVERIFY(!f.hasSound);
    }

    void indexingStopsWhenAsked() {
        const QString clip = clips_.moving(QStringLiteral("stop.mkv"), 30, words("-c:v ffv1"));
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_THROWS_EXCEPTION(Cancelled, buildIndex(clip.toStdString(), {}, stop.get_token()));
    }

    void givenUpAtAnyMomentIsCancelledAndNothingElse_data() {
        QTest::addColumn<QString>("clip");
        const auto clip = [&](const char* name, const char* coding) {
            const QString made =
                clips_.moving(QString::fromLatin1(name), 12, words(coding), QStringLiteral("192x108"),
                              QStringLiteral("24"), QStringLiteral("yuv420p"));
            QTest::newRow(name) << made;
        };
        clip("given_up.mkv", "-c:v ffv1");
        clip("given_up.mp4", "-c:v libx264");
        clip("given_up.ts", "-c:v mpeg2video");
        clips_.moving(QStringLiteral("given_up_%02d.tif"), 12, {}, QStringLiteral("192x108"),
                      QStringLiteral("24"), QStringLiteral("rgb24"));
        QTest::newRow("pictures") << clips_.path(QStringLiteral("given_up_01.tif"));
    }
    void givenUpAtAnyMomentIsCancelledAndNothingElse() {
        QFETCH(QString, clip);
        const auto index = std::make_shared<MediaIndex>(buildIndex(clip.toStdString()));
        const ImagePtr whole = FrameDecoder(index).decode(5).image;
        // The moments are spread over the time that opening and decoding take, whatever that is here.
        const auto start = std::chrono::steady_clock::now();
        FrameDecoder(index).decode(5);
        const auto usual = std::chrono::steady_clock::now() - start;
        constexpr int moments = 120;
        int cancelled = 0;
        for (int i = 0; i < moments; ++i) {
            FrameDecoder decoder(index);
            std::stop_source stop;
            std::atomic<bool> begun = false;
            std::jthread stopping([&] {
                begun.wait(false);
                const auto until = std::chrono::steady_clock::now() + usual * i / moments;
                while (std::chrono::steady_clock::now() < until) {
                }
                stop.request_stop();
            });
            begun = true;
            begun.notify_all();
            try {
                QCOMPARE(*decoder.decode(5, {}, stop.get_token()).image, *whole);
            } catch (const Cancelled&) {
                ++cancelled;
            } catch (const std::exception& other) {
                QFAIL(other.what());
            }
            stopping.join();
            QCOMPARE(*decoder.decode(5).image, *whole); // and nothing of it is left behind
        }
        QVERIFY(cancelled > moments / 10);
    }

    void theSourceKeepsItsMemoryLimit() {
        const QString clip = clips_.moving(QStringLiteral("mem.mkv"), 60, words("-c:v ffv1"));
        constexpr std::size_t limit = 200'000; // about six frames
        FrameSource source(std::make_shared<MediaIndex>(buildIndex(clip.toStdString())), limit);
        for (std::int64_t n = 0; n < source.frames(); ++n) {
            source.frame(n);
            QVERIFY(source.cachedBytes() <= limit);
        }
    }

    void identityFollowsTheContent() {
        const QString a = clips_.moving(QStringLiteral("ida.mkv"), 10, words("-c:v ffv1"));
        const QString moved = clips_.path(QStringLiteral("elsewhere.mkv"));
        QVERIFY(QFile::copy(a, moved));
        const QString b = clips_.moving(QStringLiteral("idb.mkv"), 11, words("-c:v ffv1"));
        QCOMPARE(openSource(a)->identityOf(3), openSource(moved)->identityOf(3));
        QVERIFY(openSource(a)->identityOf(3) != openSource(b)->identityOf(3));
        QVERIFY(openSource(a)->identityOf(3) != openSource(a)->identityOf(4));
    }
};

QTEST_APPLESS_MAIN(TestMediaReading)
#include "test_media_reading.moc"
