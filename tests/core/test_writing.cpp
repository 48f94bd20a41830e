// Written files: bit-exact where the format is lossless, tags kept, nothing half-written under the name.

#include "core/error.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/pictures.h"

#include <QDir>
#include <QFile>
#include <QRegularExpression>
#include <QTest>

#include <unistd.h>

using namespace yarngap;
using namespace yarngap::test;

namespace {

Image pattern(int n, int width, int height, const PixelLayout& layout) {
    return pictureOf(width, height, layout, [&](int p, int x, int y) {
        return (x * 7 + y * 13 + p * 31 + n * 17) * 97 % (layout.maxValue() + 1);
    });
}

} // namespace

class TestWriting : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void losslessIsBitExact_data() {
        QTest::addColumn<int>("model");
        QTest::addColumn<int>("depth");
        QTest::addColumn<int>("shiftX");
        QTest::addColumn<int>("shiftY");
        QTest::addColumn<bool>("alpha");
        QTest::newRow("4:2:0 8 bit") << 1 << 8 << 1 << 1 << false;
        QTest::newRow("4:2:0 10 bit") << 1 << 10 << 1 << 1 << false;
        QTest::newRow("4:2:2 10 bit") << 1 << 10 << 1 << 0 << false;
        QTest::newRow("4:4:4 16 bit") << 1 << 16 << 0 << 0 << false;
        QTest::newRow("4:1:1 8 bit") << 1 << 8 << 2 << 0 << false;
        QTest::newRow("4:4:4 with alpha") << 1 << 8 << 0 << 0 << true;
        QTest::newRow("RGB 8 bit") << 2 << 8 << 0 << 0 << false;
        QTest::newRow("RGB with alpha 8 bit") << 2 << 8 << 0 << 0 << true;
        QTest::newRow("RGB 12 bit") << 2 << 12 << 0 << 0 << false;
        QTest::newRow("RGB 16 bit") << 2 << 16 << 0 << 0 << false;
        QTest::newRow("grey 8 bit") << 0 << 8 << 0 << 0 << false;
        QTest::newRow("grey 16 bit") << 0 << 16 << 0 << 0 << false;
    }
    void losslessIsBitExact() {
        QFETCH(int, model);
        QFETCH(int, depth);
        QFETCH(int, shiftX);
        QFETCH(int, shiftY);
        QFETCH(bool, alpha);
        const PixelLayout layout{static_cast<ColourModel>(model), alpha, depth, shiftX, shiftY};
        const QTemporaryDir dir;
        const auto target = dir.filePath(QStringLiteral("out.mkv"));
        const int width = 75; // odd, and no multiple of anything
        const int height = 67;
        {
            const auto writer = openWriter({.target = target.toStdString(),
                                            .rate = Rate(24000, 1001),
                                            .width = width,
                                            .height = height,
                                            .layout = layout});
            for (int n = 0; n < 5; ++n)
                writer->write(pattern(n, width, height, layout));
            writer->finish();
            QVERIFY(writer->notes().empty());
        }
        QCOMPARE(everythingIn(dir.path()), QStringList{QStringLiteral("out.mkv")});
        const auto source = openSource(target);
        QCOMPARE(source->frames(), std::int64_t{5});
        QCOMPARE(source->facts().rate, Rate(24000, 1001));
        QCOMPARE(source->facts().layout, layout);
        for (int n = 0; n < 5; ++n)
            QVERIFY(*source->frame(n) == pattern(n, width, height, layout));
    }

    void tagsAndAspectAreKept_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<bool>("full");
        QTest::newRow("FFV1") << "out.mkv" << false;
        QTest::newRow("FFV1 full range") << "out.mkv" << true;
        QTest::newRow("H.264") << "out.mp4" << false;
        QTest::newRow("H.264 full range") << "out.mp4" << true;
        QTest::newRow("ProRes") << "out.mov" << false;
    }
    void tagsAndAspectAreKept() {
        QFETCH(QString, file);
        QFETCH(bool, full);
        const QTemporaryDir dir;
        const auto target = std::filesystem::path(dir.filePath(file).toStdString());
        const PixelLayout layout{.depth = 10, .chromaShiftX = 1};
        const ColourTags tags{
            .primaries = 9, .transfer = 16, .matrix = 9, .fullRange = full, .chromaSite = 1};
        const auto writer = openWriter({.target = target,
                                        .format = formatForTarget(target),
                                        .rate = Rate(30000, 1001),
                                        .width = 96,
                                        .height = 64,
                                        .layout = layout,
                                        .colour = tags,
                                        .pixelAspect = Rational(4, 3)});
        for (int n = 0; n < 8; ++n)
            writer->write(pattern(n, 96, 64, layout));
        writer->finish();
        const MediaFacts f = buildIndex(target).facts;
        QCOMPARE(f.frames, 8);
        QCOMPARE(f.rate, Rate(30000, 1001));
        QCOMPARE(f.layout, layout);
        QCOMPARE(f.pixelAspect, Rational(4, 3));
        QCOMPARE(f.colour.primaries, 9);
        QCOMPARE(f.colour.transfer, 16);
        QCOMPARE(f.colour.matrix, 9);
        QCOMPARE(f.colour.fullRange, full);
        QCOMPARE(static_cast<int>(f.scan), static_cast<int>(Scan::progressive));
    }

    void whatAFormatCannotHoldIsSaid() {
        const QTemporaryDir dir;
        const auto notes = [&](const char* file, int width, const PixelLayout& layout) {
            const auto target = std::filesystem::path(dir.filePath(QString::fromLatin1(file)).toStdString());
            const auto writer = openWriter({.target = target,
                                            .format = formatForTarget(target),
                                            .rate = Rate(24, 1),
                                            .width = width,
                                            .height = 64,
                                            .layout = layout});
            writer->write(pattern(0, width, 64, layout));
            QString all;
            for (const auto& note : writer->notes())
                all += QString::fromStdString(note) + QLatin1Char(' ');
            return all;
        };
        QVERIFY(notes("a.mp4", 64, {.alpha = true, .depth = 8, .chromaShiftX = 1, .chromaShiftY = 1})
                    .contains(QStringLiteral("Alpha is left out")));
        QVERIFY(notes("b.mp4", 64, {.depth = 16}).contains(QStringLiteral("from 16 to 10 bit")));
        QVERIFY(notes("c.mp4", 65, {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1})
                    .contains(QStringLiteral("odd size")));
        QVERIFY(notes("d.mov", 64, {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1}).isEmpty());
        QVERIFY(
            notes("e.mkv", 64, {.alpha = true, .depth = 8, .chromaShiftX = 1, .chromaShiftY = 1}).isEmpty());
    }

    void proresIsNearTheOriginal() {
        const QTemporaryDir dir;
        const auto target = dir.filePath(QStringLiteral("p.mov"));
        const PixelLayout layout{.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1};
        const Image soft = pictureOf(
            128, 96, layout, [](int p, int x, int y) { return p == 0 ? 40 + x + y / 2 : 118 + p * 10; });
        const auto writer = openWriter({.target = target.toStdString(),
                                        .format = OutputFormat::proresMov,
                                        .rate = Rate(24, 1),
                                        .width = 128,
                                        .height = 96,
                                        .layout = layout});
        writer->write(soft);
        writer->finish();
        const ImagePtr back = openSource(target)->frame(0);
        QCOMPARE(back->layout().depth, 10);
        for (int x = 8; x < 120; ++x)
            QVERIFY(std::abs(sampleAt(*back, 0, x, 40) - 4 * sampleAt(soft, 0, x, 40)) <= 6);
    }

    void pngSequencesAreNumberedAndCorrect() {
        const QTemporaryDir dir;
        const PixelLayout layout{.model = ColourModel::rgb, .depth = 16};
        const auto target = dir.filePath(QStringLiteral("fox_####.png"));
        {
            const auto writer = openWriter({.target = target.toStdString(),
                                            .format = OutputFormat::pngSequence,
                                            .rate = Rate(24, 1),
                                            .width = 20,
                                            .height = 10,
                                            .layout = layout});
            for (int n = 0; n < 3; ++n)
                writer->write(pattern(n, 20, 10, layout));
            QCOMPARE(everythingIn(dir.path())
                         .filter(QStringLiteral("fox_"))
                         .filter(QRegularExpression(QStringLiteral("^fox")))
                         .size(),
                     0); // not yet
            writer->finish();
        }
        QCOMPARE(everythingIn(dir.path()),
                 (QStringList{QStringLiteral("fox_0000.png"), QStringLiteral("fox_0001.png"),
                              QStringLiteral("fox_0002.png")}));
        const auto source = openSource(dir.filePath(QStringLiteral("fox_0002.png"))); // any of them opens all
        QCOMPARE(source->frames(), std::int64_t{3});
        for (int n = 0; n < 3; ++n)
            QVERIFY(*source->frame(n) == pattern(n, 20, 10, layout));
        QCOMPARE(sequenceName("a/b.png", 7), std::filesystem::path("a/b_00007.png"));
        QCOMPARE(sequenceName("##.png", 123), std::filesystem::path("123.png"));
    }

    void anUnfinishedWriterLeavesNothing() {
        for (const char* file : {"x.mkv", "x.mp4", "x.mov", "x.png"}) {
            const QTemporaryDir dir;
            const auto target = std::filesystem::path(dir.filePath(QString::fromLatin1(file)).toStdString());
            {
                const auto writer =
                    openWriter({.target = target,
                                .format = formatForTarget(target),
                                .rate = Rate(24, 1),
                                .width = 64,
                                .height = 64,
                                .layout = {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1}});
                writer->write(pattern(0, 64, 64, {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1}));
                QVERIFY(!std::filesystem::exists(target));
            }
            QCOMPARE(everythingIn(dir.path()), QStringList{});
        }
    }

    void targetsThatCannotBeWritten() {
        const QTemporaryDir dir;
        const auto refusal = [](const QString& target) {
            try {
                openWriter({.target = target.toStdString(),
                            .rate = Rate(24, 1),
                            .width = 64,
                            .height = 64,
                            .layout = {.depth = 8}});
            } catch (const Error& error) {
                return QString::fromUtf8(error.what());
            }
            return QString();
        };
        QVERIFY(refusal(dir.filePath(QStringLiteral("no/such/folder.mkv")))
                    .contains(QStringLiteral("There is no folder")));
        QVERIFY(refusal(dir.path()).contains(QStringLiteral("is a folder")));
        if (::geteuid() != 0) { // root may write anywhere
            QFile::setPermissions(dir.path(), QFileDevice::ReadOwner | QFileDevice::ExeOwner);
            QVERIFY(refusal(dir.filePath(QStringLiteral("x.mkv")))
                        .contains(QStringLiteral("cannot be written to")));
            QFile::setPermissions(dir.path(),
                                  QFileDevice::ReadOwner | QFileDevice::WriteOwner | QFileDevice::ExeOwner);
        } else {
            QVERIFY(!refusal(QStringLiteral("/proc/x.mkv")).isEmpty());
        }
        QVERIFY_THROWS_EXCEPTION(Error, formatForTarget("a.avi"));
        QVERIFY_THROWS_EXCEPTION(Error, formatForTarget("a"));
    }
};

QTEST_APPLESS_MAIN(TestWriting)
#include "test_writing.moc"
