// Files that are missing, empty, damaged or odd: a clear sentence with what, where and what to do.

#include "core/error.h"
#include "core/inspection/proposals.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/file_bytes.h"

#include <QFile>
#include <QTest>

#include <filesystem>
#include <random>

#include <sys/stat.h>

using namespace yarngap;
using namespace yarngap::test;

namespace {

QString refusal(const QString& path) {
    try {
        buildIndex(path.toStdString());
    } catch (const Error& error) {
        return QString::fromUtf8(error.what());
    }
    return {};
}

} // namespace

class TestBadInput : public QObject {
    Q_OBJECT

    Clips clips_;
    QStringList h264_{QStringLiteral("-c:v"), QStringLiteral("libx264"), QStringLiteral("-g"),
                      QStringLiteral("12")};

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void filesThatCannotBeOpened() {
        const QString missing = clips_.path(QStringLiteral("none.mkv"));
        QVERIFY(refusal(missing).contains(QStringLiteral("There is no file ") + missing));
        QVERIFY(
            refusal(QStringLiteral("http://127.0.0.1:9/a.mp4")).contains(QStringLiteral("Only local files")));
        const QString empty = clips_.path(QStringLiteral("empty.mkv"));
        putBytes(empty, {});
        QVERIFY(refusal(empty).contains(QStringLiteral("is empty")));
        QVERIFY(refusal(QFileInfo(empty).absolutePath()).contains(QStringLiteral("is a folder")));
        const QString words = clips_.path(QStringLiteral("words.mp4"));
        putBytes(words, "These are words, not pictures.\n");
        QVERIFY(refusal(words).contains(QStringLiteral("cannot be read as video")));
        const QString pipe = clips_.path(QStringLiteral("pipe.mkv"));
        QCOMPARE(::mkfifo(pipe.toUtf8().constData(), 0600), 0);
        QVERIFY(refusal(pipe).contains(QStringLiteral("not an ordinary file")));
    }

    void soundAloneHasNoPictures() {
        const QString sound = clips_.make(QStringLiteral("tone.wav"),
                                          {QStringLiteral("-f"), QStringLiteral("lavfi"),
                                           QStringLiteral("-i"), QStringLiteral("sine=duration=1")});
        QVERIFY(refusal(sound).contains(QStringLiteral("no picture stream")));
    }

    void playlistsAreNotFollowed() {
        const QString clip = clips_.moving(QStringLiteral("part.ts"), 12, h264_);
        const QString m3u = clips_.path(QStringLiteral("list.m3u8"));
        putBytes(m3u,
                 "#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:0.5,\n" + clip.toUtf8() + "\n#EXT-X-ENDLIST\n");
        QVERIFY(refusal(m3u).contains(QStringLiteral("playlist")));
        const QString concat = clips_.path(QStringLiteral("list.ffconcat"));
        putBytes(concat, "ffconcat version 1.0\nfile 'http://127.0.0.1:9/a.ts'\n");
        QVERIFY(refusal(concat).contains(QStringLiteral("playlist")));
        QVERIFY(
            refusal(QStringLiteral("concat:%1|%1").arg(clip)).contains(QStringLiteral("There is no file")));
    }

    void enormousPicturesAreRefused() {
        // The head of a PNG that claims 100,000 x 100,000 pixels.
        QByteArray png = QByteArray::fromHex("89504e470d0a1a0a0000000d49484452000186a0000186a00802000000");
        png += QByteArray(4, '\0') + QByteArray::fromHex("0000000049454e44ae426082");
        const QString path = clips_.path(QStringLiteral("huge.png"));
        putBytes(path, png);
        QVERIFY(!refusal(path).isEmpty());
    }

    void aTruncatedFileGivesWhatIsThere_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("keyEvery");
        for (const char* name : {"cut.mkv", "cut.ts", "cut.mpg", "cut.avi"})
            QTest::newRow(name) << QString::fromLatin1(name) << 12;
        // The end is decoded on from the start where no key frame lies between, and by itself otherwise.
        QTest::newRow("one key frame") << QStringLiteral("cut1.mkv") << 250;
        QTest::newRow("key frames only") << QStringLiteral("cut60.mkv") << 1;
    }
    void aTruncatedFileGivesWhatIsThere() {
        QFETCH(QString, name);
        QFETCH(int, keyEvery);
        const bool mpeg = name.endsWith(QLatin1String("mpg"));
        const QString whole =
            clips_.moving(QStringLiteral("whole_") + name, 60,
                          mpeg ? QStringList{QStringLiteral("-c:v"), QStringLiteral("mpeg2video"),
                                             QStringLiteral("-bf"), QStringLiteral("2")}
                               : QStringList{QStringLiteral("-c:v"), QStringLiteral("libx264"),
                                             QStringLiteral("-g"), QString::number(keyEvery)});
        const QByteArray bytes = bytesOf(whole);
        const QString cut = clips_.path(name);
        putBytes(cut, bytes.left(bytes.size() * 6 / 10));
        const auto source = openSource(cut);
        QVERIFY(source->frames() > 15 && source->frames() < 60);
        for (std::int64_t n = source->frames() - 1; n >= 0; --n)
            QCOMPARE(source->frame(n)->width(), 160);
        // What cannot be decoded was left out of the count; of the rest only the last in decoding order is
        // half there, which B-frames may put a few places before the end.
        for (std::int64_t n = 0; n < source->frames() - 4; ++n)
            QVERIFY2(!source->troubleOf(n), qPrintable(QString::number(n)));
    }

    void aFileCutBeforeItsTableIsRefused() {
        const QByteArray bytes = bytesOf(clips_.moving(QStringLiteral("table.mp4"), 30, h264_));
        const QString cut = clips_.path(QStringLiteral("cut.mp4"));
        putBytes(cut, bytes.left(bytes.size() / 2)); // the table stands at the end
        QVERIFY(refusal(cut).contains(QStringLiteral("cannot be read as video")));
    }

    void damageInTheMiddleIsToldAndSurvived_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QStringList>("coding");
        QTest::newRow("H.264") << QStringLiteral("d.mp4") << h264_;
        QTest::newRow("H.265") << QStringLiteral("d265.mkv")
                               << QStringList{QStringLiteral("-c:v"), QStringLiteral("libx265"),
                                              QStringLiteral("-x265-params"),
                                              QStringLiteral("log-level=none")};
        QTest::newRow("FFV1") << QStringLiteral("d1.mkv")
                              << QStringList{QStringLiteral("-c:v"),      QStringLiteral("ffv1"),
                                             QStringLiteral("-level"),    QStringLiteral("3"),
                                             QStringLiteral("-slicecrc"), QStringLiteral("1")};
        QTest::newRow("MPEG-2") << QStringLiteral("d2.mpg")
                                << QStringList{QStringLiteral("-c:v"), QStringLiteral("mpeg2video")};
        QTest::newRow("ProRes") << QStringLiteral("dp.mov")
                                << QStringList{QStringLiteral("-c:v"), QStringLiteral("prores_ks"),
                                               QStringLiteral("-pix_fmt"), QStringLiteral("yuv422p10le")};
    }
    void damageInTheMiddleIsToldAndSurvived() {
        QFETCH(QString, name);
        QFETCH(QStringList, coding);
        QByteArray bytes = bytesOf(clips_.moving(QStringLiteral("whole_") + name, 48, coding));
        std::mt19937 random(11);
        for (int i = 0; i < 60; ++i) // somewhere in the middle third, a few bytes at a time
            bytes[bytes.size() / 3 +
                  static_cast<qsizetype>(random() % static_cast<unsigned>(bytes.size() / 3))] =
                static_cast<char>(random());
        const QString damaged = clips_.path(name);
        putBytes(damaged, bytes);
        const auto source = openSource(damaged);
        // Never fewer than linear decoding shows; frames lost in between keep their place.
        const qsizetype linear =
            linearFrames(damaged, name.endsWith(QLatin1String("mov")) ? QStringLiteral("yuv422p10le")
                                                                      : QStringLiteral("yuv420p"))
                .size() /
            rawSamples(*source->frame(0)).size();
        QVERIFY2(source->frames() >= linear && source->frames() <= 48,
                 qPrintable(QStringLiteral("%1 of %2").arg(source->frames()).arg(linear)));
        for (std::int64_t n = 0; n < source->frames(); ++n)
            QVERIFY(source->frame(n) != nullptr);
        for (std::int64_t n = 0; n < source->frames(); ++n)
            if (const auto trouble = source->troubleOf(n))
                QVERIFY(
                    QString::fromStdString(trouble->sentence).contains(QStringLiteral("Frame %1").arg(n)));
    }

    void anUndecodableFrameIsNamedAndReplaced() {
        // Intra-only with checksums: wipe one packet and only that frame is lost.
        const QString whole = clips_.moving(
            QStringLiteral("wipe_whole.avi"), 10, {QStringLiteral("-c:v"), QStringLiteral("mjpeg")},
            QStringLiteral("160x120"), QStringLiteral("24"), QStringLiteral("yuvj420p"));
        const MediaIndex index = buildIndex(whole.toStdString());
        QByteArray bytes = bytesOf(whole);
        const PacketEntry& packet = index.packets.at(5);
        bytes.replace(packet.filePosition + 16, packet.size - 16, QByteArray(packet.size - 16, '\0'));
        const QString damaged = clips_.path(QStringLiteral("wipe.avi"));
        putBytes(damaged, bytes);
        const auto source = openSource(damaged);
        QCOMPARE(source->frames(), std::int64_t{10});
        FrameDecoder decoder(std::make_shared<MediaIndex>(buildIndex(damaged.toStdString())));
        try {
            decoder.decode(5);
            QFAIL("frame 5 should not decode");
        } catch (const Error& error) {
            QVERIFY(QString::fromUtf8(error.what()).contains(QStringLiteral("Frame 5 of ") + damaged));
        }
        QCOMPARE(source->frame(5), source->frame(4));
        QVERIFY(QString::fromStdString(source->troubleOf(5).value().sentence)
                    .contains(QStringLiteral("frame 4 is shown instead")));
    }

    void anotherSizeInsideTheStreamIsScaledAndTold() {
        const QStringList ts =
            h264_ + QStringList{QStringLiteral("-bsf:v"), QStringLiteral("h264_mp4toannexb")};
        QByteArray joined = bytesOf(clips_.moving(QStringLiteral("large.ts"), 20, ts));
        joined += bytesOf(clips_.moving(QStringLiteral("small.ts"), 10, ts, QStringLiteral("80x60")));
        const QString path = clips_.path(QStringLiteral("sizes.ts"));
        putBytes(path, joined);
        const auto index = std::make_shared<const MediaIndex>(buildIndex(path.toStdString()));
        FrameSource source(index);
        QCOMPARE(source.frames(), std::int64_t{30});
        QCOMPARE(source.frame(25)->width(), 160);
        QVERIFY(QString::fromStdString(source.troubleOf(25).value().sentence)
                    .contains(QStringLiteral("Frame 25 is 80 x 60")));
        source.frame(3);
        QVERIFY(!source.troubleOf(3));
        const ShotFindings findings = inspectShot(index);
        QCOMPARE(findings.otherSizes, std::int64_t{10});
        QCOMPARE(findings.firstOtherSize, std::int64_t{20});
        const auto proposals = proposalsFor(*index, findings, {});
        QVERIFY(std::any_of(proposals.begin(), proposals.end(), [](const Proposal& p) {
            return QString::fromStdString(p.sentence)
                .contains(QStringLiteral("10 frames are of another size"));
        }));
    }

    void randomBytesBehindARealHeadDoNoHarm() {
        const QByteArray bytes = bytesOf(clips_.moving(QStringLiteral("fuzz.mkv"), 12, h264_));
        std::mt19937 random(3);
        for (int round = 0; round < 40; ++round) {
            QByteArray mutated = bytes;
            for (int i = 0; i < 20; ++i)
                mutated[static_cast<qsizetype>(random() % static_cast<unsigned>(mutated.size()))] =
                    static_cast<char>(random());
            const QString path = clips_.path(QStringLiteral("fuzzed.mkv"));
            putBytes(path, mutated);
            try {
                const auto source = openSource(path);
                for (std::int64_t n = 0; n < source->frames(); ++n)
                    source->frame(n);
            } catch (const Error& error) {
                QVERIFY(QString::fromUtf8(error.what()).contains(path)); // refused, and by name
            }
        }
    }

    void aFileThatChangesUnderneathIsNoticed() {
        const QString path = clips_.moving(QStringLiteral("swap.mkv"), 24, h264_);
        const auto source = openSource(path);
        const QString other =
            clips_.moving(QStringLiteral("other.mkv"), 24,
                          {QStringLiteral("-c:v"), QStringLiteral("libx264"), QStringLiteral("-g"),
                           QStringLiteral("5"), QStringLiteral("-crf"), QStringLiteral("40")},
                          QStringLiteral("160x120"), QStringLiteral("25"));
        std::filesystem::copy_file(other.toStdString(), path.toStdString(),
                                   std::filesystem::copy_options::overwrite_existing);
        try {
            source->frame(20);
            QFAIL("a changed file must not give frames of another");
        } catch (const Error& error) {
            QVERIFY(QString::fromUtf8(error.what()).contains(QStringLiteral("changed on disk")));
        }
    }
};

QTEST_APPLESS_MAIN(TestBadInput)
#include "test_bad_input.moc"
