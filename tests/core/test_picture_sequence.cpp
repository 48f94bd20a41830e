// Numbered pictures as one shot, with what is missing or unfit among them.

#include "core/error.h"
#include "core/files/reading_thread.h"
#include "core/media/frame_source.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/media/numbered_names.h"
#include "core/media/picture_sequence.h"
#include "support/clips.h"
#include "support/pictures.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <fstream>

using namespace yarngap;
using namespace yarngap::test;

class TestPictureSequence : public QObject {
    Q_OBJECT

    Clips clips_;

    QString path(const QString& name) { return clips_.path(name); }

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void endingsTellPictures() {
        QVERIFY(isPictureFile("a/B.TIFF"));
        QVERIFY(!isPictureFile("a/b.mp4"));
        QVERIFY(!isPictureFile("a/png"));
    }

    /// Which number counts, from the names of the files that are there: `+` stands for a refusal to choose.
    void theNumberThatVariesCounts_data() {
        QTest::addColumn<QString>("files");
        QTest::addColumn<QString>("picked");
        QTest::addColumn<QString>("used");
        QTest::newRow("last") << "s2_0001 s2_0002 s2_0003"
                              << "s2_0002"
                              << "s2_0001 s2_0002 s2_0003";
        QTest::newRow("in the middle") << "s_0001_v2 s_0002_v2 s_0003_v2"
                                       << "s_0001_v2"
                                       << "s_0001_v2 s_0002_v2 s_0003_v2";
        QTest::newRow("versions beside") << "s_01_v2 s_02_v2 s_03_v2 s_04_v2 s_01_v3 s_02_v3"
                                         << "s_02_v2"
                                         << "s_01_v2 s_02_v2 s_03_v2 s_04_v2";
        QTest::newRow("versions alone") << "s_0001_v2 s_0001_v3 s_0001_v4"
                                        << "s_0001_v2"
                                        << "?";
        QTest::newRow("cameras") << "cam1_01 cam1_02 cam1_03 cam1_04 cam2_01 cam2_02"
                                 << "cam2_01"
                                 << "cam2_01 cam2_02";
        QTest::newRow("two alike") << "t01_01 t02_01 t03_01 t01_02 t01_03"
                                   << "t01_01"
                                   << "?";
        QTest::newRow("alone") << "s_0001_v2 other_0002"
                               << "s_0001_v2"
                               << "s_0001_v2";
        QTest::newRow("only versions") << "v1 v2 v3"
                                       << "v2"
                                       << "v1 v2 v3";
        QTest::newRow("no number") << "poster_a poster_b"
                                   << "poster_a"
                                   << "poster_a";
        QTest::newRow("pattern") << "s_0001_v2 s_0001_v3 s_0001_v4 s_0002_v2"
                                 << "s_0001_v#"
                                 << "s_0001_v2 s_0001_v3 s_0001_v4";
        QTest::newRow("other pattern") << "s_0001_v2 s_0001_v3 s_0001_v4 s_0002_v2"
                                       << "s_####_v2"
                                       << "s_0001_v2 s_0002_v2";
        QTest::newRow("padding") << "a_1 a_2 a_10"
                                 << "a_2"
                                 << "a_1 a_2 a_10";
    }
    void theNumberThatVariesCounts() {
        QFETCH(QString, files);
        QFETCH(QString, picked);
        QFETCH(QString, used);
        const QTemporaryDir dir;
        const auto named = [&](const QString& name) {
            return std::filesystem::path(dir.filePath(name + QStringLiteral(".png")).toStdString());
        };
        for (const QString& name : files.split(QLatin1Char(' ')))
            std::ofstream(named(name)) << 'x';
        ReadingThread reading;
        try {
            QStringList found;
            for (const auto& [number, file] : filesOf(named(picked), reading).files)
                found << QString::fromStdString(file.stem().string());
            QCOMPARE(found.join(QLatin1Char(' ')), used);
        } catch (const UnclearNumber& error) {
            QCOMPARE(used, QStringLiteral("?"));
            QVERIFY(error.patterns().size() > 1);
            for (const auto& pattern : error.patterns()) // each answer opens something
                QVERIFY(!filesOf(pattern, reading).files.empty());
        }
    }

    void noFileIsLostWithoutAWord() {
        const QTemporaryDir dir;
        clips_.make(QStringLiteral("one.png"), {QStringLiteral("-f"), QStringLiteral("lavfi"),
                                                QStringLiteral("-i"), QStringLiteral("testsrc2=size=32x32"),
                                                QStringLiteral("-frames:v"), QStringLiteral("1")});
        for (const char* name : {"a_1.png", "a_0001.png", "a_2.png"})
            QVERIFY(QFile::copy(path(QStringLiteral("one.png")), dir.filePath(QLatin1String(name))));
        const MediaIndex index = buildIndex(dir.filePath(QStringLiteral("a_1.png")).toStdString());
        QCOMPARE(index.frames(), std::int64_t{2});
        QCOMPARE(index.pictures.front().filename().string(), std::string("a_1.png"));
        QVERIFY2(index.facts.remark.find("a_0001.png") != std::string::npos, index.facts.remark.c_str());
    }

    void filesOpenedTogetherAreOneShotEach() {
        const std::vector<std::filesystem::path> files{"/a/s_0002.png", "/a/s_0001.png", "/a/clip.mov",
                                                       "/a/t_0001.png", "/b/s_0001.png", "/a/clip.mov"};
        const std::vector<std::filesystem::path> kept{"/a/s_0002.png", "/a/clip.mov", "/a/t_0001.png",
                                                      "/b/s_0001.png", "/a/clip.mov"};
        QVERIFY(oneOfEachSequence(files) == kept);
    }

    void samplesAreExact_data() {
        QTest::addColumn<int>("depth");
        QTest::addColumn<bool>("alpha");
        QTest::newRow("8 bit") << 8 << false;
        QTest::newRow("16 bit") << 16 << false;
        QTest::newRow("8 bit with alpha") << 8 << true;
        QTest::newRow("16 bit with alpha") << 16 << true;
    }
    void samplesAreExact() {
        QFETCH(int, depth);
        QFETCH(bool, alpha);
        const PixelLayout layout{.model = ColourModel::rgb, .alpha = alpha, .depth = depth};
        const auto image = [&](int n) {
            return pictureOf(33, 17, layout, [&](int p, int x, int y) {
                return ((p + 1) * 1009 + x * 37 + y * 101 + n * 7) % (layout.maxValue() + 1);
            });
        };
        const QString target = path(QStringLiteral("exact%1%2_####.png").arg(depth).arg(alpha));
        const auto writer = openWriter({.target = target.toStdString(),
                                        .format = OutputFormat::pngSequence,
                                        .rate = Rate(24, 1),
                                        .width = 33,
                                        .height = 17,
                                        .layout = layout,
                                        .colour = {.fullRange = true},
                                        .pixelAspect = 1});
        for (int n = 0; n < 4; ++n)
            writer->write(image(n));
        writer->finish();
        const auto source =
            openSource(QString::fromStdString(sequenceName(target.toStdString(), 2).string()));
        QCOMPARE(source->frames(), std::int64_t{4});
        QVERIFY(source->facts().layout == layout);
        QCOMPARE(source->facts().rate, Rate(24, 1));
        for (const int n : {3, 0, 2, 1})
            QVERIFY(*source->frame(n) == image(n));
    }

    void otherKindsAreRead_data() {
        QTest::addColumn<QString>("ending");
        QTest::addColumn<QString>("pixels");
        QTest::addColumn<int>("depth");
        QTest::newRow("TIFF") << "tif"
                              << "rgb48le" << 16;
        QTest::newRow("DPX") << "dpx"
                             << "gbrp10le" << 16;
        QTest::newRow("JPEG") << "jpg"
                              << "yuvj420p" << 8;
        QTest::newRow("grey PNG") << "png"
                                  << "gray" << 8;
    }
    void otherKindsAreRead() {
        QFETCH(QString, ending);
        QFETCH(QString, pixels);
        QFETCH(int, depth);
        const QString name = QStringLiteral("kind_%1_%03d.%2").arg(pixels, ending);
        clips_.moving(name, 9, {}, QStringLiteral("160x90"), QStringLiteral("24"), pixels);
        const auto source = openSource(path(QStringLiteral("kind_%1_001.%2").arg(pixels, ending)));
        QCOMPARE(source->frames(), std::int64_t{9});
        QCOMPARE(source->facts().layout.depth, depth);
        QCOMPARE(source->facts().width, 160);
        QVERIFY(*source->frame(0) != *source->frame(8));
    }

    void gapsAndStrangersKeepTheirPlace() {
        clips_.moving(QStringLiteral("gap_%04d.png"), 12, {}, QStringLiteral("160x90"), QStringLiteral("24"),
                      QStringLiteral("rgb24"));
        QVERIFY(QFile::remove(path(QStringLiteral("gap_0004.png"))));
        QVERIFY(QFile::remove(path(QStringLiteral("gap_0005.png"))));
        QFile broken(path(QStringLiteral("gap_0008.png")));
        QVERIFY(broken.open(QIODevice::WriteOnly));
        broken.write("not a picture");
        broken.close();
        clips_.make(QStringLiteral("gap_0010.png"),
                    {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                     QStringLiteral("testsrc2=size=32x32"), QStringLiteral("-frames:v"),
                     QStringLiteral("1")});
        const auto source = openSource(path(QStringLiteral("gap_0001.png")));
        QCOMPARE(source->frames(), std::int64_t{12});
        const QString remark = QString::fromStdString(source->facts().remark);
        QVERIFY2(remark.contains(QStringLiteral("2 pictures are missing: number 4 to 5")),
                 qPrintable(remark));
        QVERIFY2(remark.contains(QStringLiteral("number 8, 10")), qPrintable(remark));
        QVERIFY(*source->frame(0) != *source->frame(11));
        QVERIFY(*source->frame(3) == *source->frame(2)); // number 4: the nearest stands in
        QVERIFY(source->troubleOf(3));
    }

    void whatCannotBeUsedSaysWhy() {
        QFile broken(path(QStringLiteral("broken.exr")));
        QVERIFY(broken.open(QIODevice::WriteOnly));
        broken.write("v/1\x01 and nothing that follows");
        broken.close();
        for (const auto& [file, words] :
             {std::pair{QStringLiteral("broken.exr"), "cannot be read as a picture"},
              {QStringLiteral("nowhere_001.png"), "There is no file"}})
            try {
                buildIndex(path(file).toStdString());
                QFAIL("it was opened");
            } catch (const Error& error) {
                QVERIFY2(QString::fromStdString(error.what()).contains(QLatin1String(words)), error.what());
            }
    }

    void whatIsNamedAsAnotherKindIsNotOpened() {
        clips_.moving(QStringLiteral("real.gif"), 1, {});
        for (const char* name : {"gif.png", "gif.exr", "gif.tif", "gif.dpx", "gif.jpg"}) {
            QVERIFY(QFile::copy(path(QStringLiteral("real.gif")), path(QLatin1String(name))));
            QVERIFY_THROWS_EXCEPTION(Error, buildIndex(path(QLatin1String(name)).toStdString()));
        }
    }
};

QTEST_GUILESS_MAIN(TestPictureSequence)
#include "test_picture_sequence.moc"
