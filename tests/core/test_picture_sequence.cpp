// Numbered pictures as one shot, with what is missing or unfit among them.

#include "core/error.h"
#include "core/media/frame_source.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/media/picture_sequence.h"
#include "core/render/render_job.h"
#include "support/clips.h"
#include "support/pictures.h"

#include <QFile>
#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

class TestPictureSequence : public QObject {
    Q_OBJECT

    Clips clips_;

    QString path(const QString& name) { return clips_.path(name); }

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void patternsAreTheNameAroundTheLastNumber() {
        QCOMPARE(sequencePattern("/a/shot2_0012.png"), std::string("/a/shot2_#.png"));
        QCOMPARE(sequencePattern("/a/shot2_0013.png"), sequencePattern("/a/shot2_0012.png"));
        QVERIFY(sequencePattern("/a/shot2_0012.tif") != sequencePattern("/a/shot2_0012.png"));
        QCOMPARE(sequencePattern("/a/poster.png"), std::string("/a/poster.png"));
        QVERIFY(isPictureFile("a/B.TIFF"));
        QVERIFY(!isPictureFile("a/b.mp4"));
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
        QVERIFY(source->troubles().contains(3));
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

    void aSequenceIsNeverRenderedOntoItself() {
        const auto source = path(QStringLiteral("gap_0001.png")).toStdString();
        QVERIFY_THROWS_EXCEPTION(
            Error, refuseSourceAsTarget(source, path(QStringLiteral("gap_####.png")).toStdString()));
        QVERIFY_THROWS_EXCEPTION(Error,
                                 refuseSourceAsTarget(source, path(QStringLiteral("gap.png")).toStdString()));
        refuseSourceAsTarget(source, path(QStringLiteral("slow.png")).toStdString());
        refuseSourceAsTarget(source, path(QStringLiteral("gap.mkv")).toStdString());
    }
};

QTEST_GUILESS_MAIN(TestPictureSequence)
#include "test_picture_sequence.moc"
