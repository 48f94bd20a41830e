// Pictures and videos with bytes changed, cut out and put in: each is read, or refused in a sentence, within
// limits of time and memory.

#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/media/frame_source.h"
#include "core/media/library_messages.h"
#include "core/media/picture_sequence.h"
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"

#include <QElapsedTimer>
#include <QFile>
#include <QTest>

#include <random>
#include <sys/resource.h>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr std::array<const char*, 7> endings{".exr", ".tif", ".tiff", ".png", ".dpx", ".jpg", ".jpeg"};
constexpr int longest = 20'000; // ms for one file, also with sanitizers

int times(int usual) {
    const int asked = qEnvironmentVariableIntValue("YARNGAP_MUTATIONS");
    return asked > 0 ? asked : usual;
}

class Mutator {
  public:
    explicit Mutator(unsigned seed)
        : random_(seed) {}
    /// Most changes lie in the first `head` bytes, where sizes and offsets are told.
    QByteArray operator()(QByteArray bytes, int head) {
        for (int changes = 1 + below(5); changes > 0; --changes) {
            const int end = static_cast<int>(bytes.size());
            if (end < 8) return bytes;
            const int at = below(below(4) > 0 ? std::min(head, end) : end);
            switch (below(6)) {
            case 0:
                bytes[at] = static_cast<char>(below(256));
                break;
            case 1:
                bytes[at] = static_cast<char>(static_cast<unsigned char>(bytes[at]) ^ (1U << below(8)));
                break;
            case 2: // a large or negative number
                bytes.replace(at, 4, QByteArray::fromHex(below(2) > 0 ? "ffffff7f" : "f0ffffff"));
                break;
            case 3:
                bytes.replace(at, 4, QByteArray(4, '\0'));
                break;
            case 4:
                bytes.truncate(at + 1);
                break;
            default:
                bytes.insert(at, bytes.mid(below(static_cast<int>(bytes.size())), below(40)));
            }
        }
        return bytes;
    }

  private:
    int below(int end) { return std::uniform_int_distribution<int>(0, std::max(0, end - 1))(random_); }
    std::mt19937 random_;
};

/// Opens a file and reads its frames, as far as it goes. What it says, empty when all went well.
std::string read(const QString& file) {
    try {
        const auto index = std::make_shared<const MediaIndex>(buildIndex(file.toStdString()));
        FrameSource source(index);
        for (std::int64_t n = 0; n < std::min<std::int64_t>(index->frames(), 12); ++n)
            source.frame(n);
        return {};
    } catch (const std::exception& error) {
        return sentenceOf(error);
    }
}

} // namespace

class TestMutations : public QObject {
    Q_OBJECT

    Clips clips_;
    int tried_ = 0;

    void tryEach(const QByteArray& content, const QStringList& names, int head, int count, unsigned seed) {
        Mutator mutate(seed);
        for (int i = 0; i < count; ++i) {
            const QByteArray changed = mutate(content, head);
            for (const QString& name : names) {
                const QString path = clips_.path(name);
                QFile file(path);
                QVERIFY(file.open(QIODevice::WriteOnly));
                QCOMPARE(file.write(changed), changed.size());
                file.close();
                QElapsedTimer timer;
                timer.start();
                const std::string told = read(path);
                const QByteArray where = QByteArray::number(i) + " " + name.toUtf8() + ": " + told.c_str();
                QVERIFY2(told.empty() || told.back() == '.', where.constData());
                QVERIFY2(told.find("inside Yarn Gap") == std::string::npos, where.constData());
                QVERIFY2(timer.elapsed() < longest, where.constData());
                QVERIFY(QFile::remove(path));
                ++tried_;
            }
        }
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
#ifndef YARNGAP_SANITIZED
        // All that is mapped, libraries and threads' stacks included. Sanitizers map far more than they use.
        const rlimit limit{std::uint64_t{6} << 30, std::uint64_t{6} << 30};
        QCOMPARE(::setrlimit(RLIMIT_AS, &limit), 0);
#endif
    }

    void picturesUnderEveryEnding_data() {
        QTest::addColumn<QString>("made");
        for (const char* made : {"a.exr", "a.tif", "a.png", "a.dpx", "a.jpg"})
            QTest::newRow(made) << QString::fromLatin1(made);
    }
    void picturesUnderEveryEnding() {
        QFETCH(QString, made);
        const QString file =
            clips_.make(made, words(QStringLiteral("-f lavfi -i testsrc=s=48x32 -frames:v 1")));
        QVERIFY2(read(file).empty(), read(file).c_str());
        const QByteArray content = bytesOf(file);
        QVERIFY(QFile::remove(file));
        QStringList names;
        for (const char* ending : endings)
            names << QStringLiteral("m") + QString::fromLatin1(ending);
        tryEach(content, names, 400, times(60), 7);
    }

    void videos_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("coding");
        QTest::newRow("FFV1 in Matroska") << QStringLiteral("v.mkv") << QStringLiteral("-c:v ffv1");
        QTest::newRow("H.264 in MP4") << QStringLiteral("v.mp4") << QStringLiteral("-c:v libx264 -g 6");
        QTest::newRow("H.265 in MP4")
            << QStringLiteral("h.mp4") << QStringLiteral("-c:v libx265 -x265-params log-level=none");
        QTest::newRow("ProRes in QuickTime") << QStringLiteral("v.mov") << QStringLiteral("-c:v prores_ks");
        QTest::newRow("motion JPEG in AVI") << QStringLiteral("v.avi") << QStringLiteral("-c:v mjpeg");
        QTest::newRow("raw in AVI") << QStringLiteral("r.avi") << QStringLiteral("-c:v rawvideo");
        QTest::newRow("MPEG-2 in a programme stream")
            << QStringLiteral("v.mpg") << QStringLiteral("-r 25 -c:v mpeg2video");
        QTest::newRow("H.264 in a transport stream")
            << QStringLiteral("v.ts") << QStringLiteral("-c:v libx264 -g 6");
        QTest::newRow("VP9 in WebM") << QStringLiteral("v.webm")
                                     << QStringLiteral("-c:v libvpx-vp9 -deadline realtime");
        QTest::newRow("Theora in Ogg") << QStringLiteral("v.ogv") << QStringLiteral("-c:v libtheora");
        QTest::newRow("MPEG-2 in MXF") << QStringLiteral("v.mxf") << QStringLiteral("-r 25 -c:v mpeg2video");
        QTest::newRow("GIF") << QStringLiteral("v.gif") << QStringLiteral("-pix_fmt rgb8");
    }
    void videos() {
        QFETCH(QString, name);
        QFETCH(QString, coding);
        const QString file = clips_.make(
            name, words(QStringLiteral("-f lavfi -i testsrc=s=64x48:r=24 -frames:v 8 ") +
                        (coding.contains(QStringLiteral("pix_fmt")) ? QString()
                                                                    : QStringLiteral("-pix_fmt yuv420p ")) +
                        coding));
        QVERIFY2(read(file).empty(), read(file).c_str());
        const QByteArray content = bytesOf(file);
        QVERIFY(QFile::remove(file));
        tryEach(content, {name}, 1500, times(100), 11);
    }

    void cleanupTestCase() {
        qInfo("%d files tried", tried_);
    }
};

QTEST_GUILESS_MAIN(TestMutations)
#include "test_mutations.moc"
