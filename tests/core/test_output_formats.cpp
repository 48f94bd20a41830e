// What is written in each format, as other programs read it.

#include "core/error.h"
#include "core/inspection/shot_findings.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/media/output_scan.h"
#include "core/media/written_check.h"
#include "core/shot/shot_timecode.h"
#include "core/time/timecode.h"
#include "support/clips.h"
#include "support/program.h"

#include <QRegularExpression>
#include <QTest>

#include <cmath>

using namespace yarngap;
using namespace yarngap::test;
namespace fs = std::filesystem;

namespace {

QString probed(const QString& file, const QString& entries) {
    const Outcome o =
        runProgram(QStringLiteral("ffprobe"),
                   {QStringLiteral("-v"), QStringLiteral("error"), QStringLiteral("-select_streams"),
                    QStringLiteral("v:0"), QStringLiteral("-count_frames"), QStringLiteral("-show_entries"),
                    QStringLiteral("stream=") + entries, QStringLiteral("-of"),
                    QStringLiteral("default=nw=1:nk=1"), file});
    return QString::fromLatin1(o.out).trimmed().replace(QLatin1Char('\n'), QLatin1Char(' '));
}

/// Mean difference of samples, of full scale.
double difference(const Image& a, const Image& b) {
    double sum = 0;
    std::int64_t count = 0;
    for (int y = 0; y < a.height(); ++y) {
        const auto at = [y](const Image& image, std::size_t x) {
            return image.layout().depth > 8 ? static_cast<double>(image.row<std::uint16_t>(0, y)[x])
                                            : image.row<std::uint8_t>(0, y)[x];
        };
        for (std::size_t x = 0; x < static_cast<std::size_t>(a.width()); ++x, ++count)
            sum += std::abs(at(a, x) / a.layout().maxValue() - at(b, x) / b.layout().maxValue());
    }
    return sum / static_cast<double>(count);
}

} // namespace

class TestOutputFormats : public QObject {
    Q_OBJECT

    Clips clips_;
    std::shared_ptr<FrameSource> source_;

    [[nodiscard]] WriterOptions optionsFor(const QString& target, const FormatChoice& format) const {
        const MediaFacts& facts = source_->facts();
        return {.target = target.toStdString(),
                .format = format,
                .rate = Rate(24, 1),
                .width = facts.width,
                .height = facts.height,
                .layout = facts.layout,
                .colour = {.primaries = 1, .transfer = 1, .matrix = 1}};
    }
    void write(const WriterOptions& options, std::int64_t frames = 8) const {
        const auto writer = openWriter(options);
        for (std::int64_t n = 0; n < frames; ++n)
            writer->write(*source_->frame(n));
        writer->finish();
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        source_ = openSource(clips_.make(
            QStringLiteral("source.mkv"),
            words(QStringLiteral(
                "-f lavfi -i testsrc2=size=320x240:rate=24:d=2 -pix_fmt yuv422p10le -c:v ffv1"))));
    }

    void everyFormatIsWhatItSays_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("format");
        QTest::addColumn<QString>("told"); // codec and pixel format by ffprobe
        QTest::addColumn<double>("least"); // difference that coding may make
        const auto row = [](const char* file, OutputFormat format, const char* told, double most) {
            QTest::newRow(file) << QString::fromLatin1(file) << static_cast<int>(format)
                                << QString::fromLatin1(told) << most;
        };
        row("a.mkv", OutputFormat::ffv1Mkv, "ffv1 320 240 yuv422p10le 8", 0);
        row("b.mp4", OutputFormat::h264Mp4, "h264 320 240 yuv422p10le 8", 0.01);
        row("b.mov", OutputFormat::h264Mp4, "h264 320 240 yuv422p10le 8", 0.01);
        row("c.mp4", OutputFormat::h265Mp4, "hevc 320 240 yuv422p10le 8", 0.01);
        row("d.mp4", OutputFormat::av1Mp4, "av1 320 240 yuv420p10le 8", 0.02);
        row("e.mov", OutputFormat::proresMov, "prores 320 240 yuv422p10le 8", 0.01);
        row("f.mov", OutputFormat::dnxhrMov, "dnxhd 320 240 yuv422p10le 8", 0.01);
        row("f.mxf", OutputFormat::dnxhrMov, "dnxhd 320 240 yuv422p10le 8", 0.01);
        row("g.webm", OutputFormat::webm, "vp9 320 240 yuv422p10le 8", 0.02);
    }
    void everyFormatIsWhatItSays() {
        QFETCH(QString, file);
        QFETCH(int, format);
        QFETCH(QString, told);
        QFETCH(double, least);
        const QString target = clips_.path(file);
        const WriterOptions options = optionsFor(target, static_cast<OutputFormat>(format));
        write(options);
        QCOMPARE(probed(target, QStringLiteral("codec_name,width,height,pix_fmt,nb_read_frames")), told);
        const auto back = openSource(target);
        QCOMPARE(back->frames(), 8);
        for (const std::int64_t n : {0, 3, 7}) {
            const double off = difference(*source_->frame(n), *back->frame(n));
            QVERIFY2(off <= least, qPrintable(QString::number(off)));
        }
        for (const std::string& note : differencesOfWritten(options))
            QFAIL(note.c_str());
    }

    void theGradesOfProResAndDnxhrAreWritten_data() {
        QTest::addColumn<int>("format");
        QTest::addColumn<int>("grade");
        QTest::addColumn<QString>("told");
        const std::initializer_list<std::pair<int, const char*>> prores{
            {0, "Proxy"}, {1, "LT"}, {2, "Standard"}, {3, "HQ"}, {4, "4444"}, {5, "XQ"}};
        for (const auto& [grade, told] : prores)
            QTest::addRow("ProRes %s", told)
                << static_cast<int>(OutputFormat::proresMov) << grade << QString::fromLatin1(told);
        const std::initializer_list<std::pair<int, const char*>> dnxhr{
            {0, "DNXHR LB"}, {1, "DNXHR SQ"}, {2, "DNXHR HQ"}, {3, "DNXHR HQX"}, {4, "DNXHR 444"}};
        for (const auto& [grade, told] : dnxhr)
            QTest::addRow("%s", told)
                << static_cast<int>(OutputFormat::dnxhrMov) << grade << QString::fromLatin1(told);
    }
    void theGradesOfProResAndDnxhrAreWritten() {
        QFETCH(int, format);
        QFETCH(int, grade);
        QFETCH(QString, told);
        FormatChoice choice(static_cast<OutputFormat>(format));
        choice.quality = grade;
        const QString target = clips_.path(QStringLiteral("grade.mov"));
        write(optionsFor(target, choice), 2);
        QCOMPARE(probed(target, QStringLiteral("profile")), told);
    }

    void losslessIsLossless_data() {
        QTest::addColumn<int>("format");
        QTest::newRow("H.264") << static_cast<int>(OutputFormat::h264Mp4);
        QTest::newRow("H.265") << static_cast<int>(OutputFormat::h265Mp4);
        QTest::newRow("VP9") << static_cast<int>(OutputFormat::webm);
    }
    void losslessIsLossless() {
        QFETCH(int, format);
        FormatChoice choice(static_cast<OutputFormat>(format));
        choice.quality = 0;
        const QString target =
            clips_.path(QStringLiteral("lossless") + QLatin1String(extension(choice.format).data()));
        write(optionsFor(target, choice), 4);
        const QString pixels = probed(target, QStringLiteral("pix_fmt"));
        QCOMPARE(pixels, QStringLiteral("yuv422p10le"));
        const QByteArray frames = linearFrames(target, pixels);
        QByteArray wanted;
        for (std::int64_t n = 0; n < 4; ++n)
            wanted += rawSamples(*source_->frame(n));
        QVERIFY(frames == wanted);
    }

    void depthAndSubsamplingAreAsChosen() {
        FormatChoice choice(OutputFormat::h265Mp4);
        choice.depth = 8;
        choice.chroma = Chroma::c420;
        const QString target = clips_.path(QStringLiteral("chosen.mp4"));
        write(optionsFor(target, choice), 2);
        QCOMPARE(probed(target, QStringLiteral("pix_fmt")), QStringLiteral("yuv420p"));
    }

    void pictureFormatsKeepTheirDepth_data() {
        QTest::addColumn<QString>("ending");
        QTest::addColumn<int>("format");
        QTest::addColumn<int>("depth");
        QTest::addColumn<QString>("pixels");
        const auto row = [](const char* ending, OutputFormat format, int depth, const char* pixels) {
            QTest::addRow("%s %d", ending, depth) << QString::fromLatin1(ending) << static_cast<int>(format)
                                                  << depth << QString::fromLatin1(pixels);
        };
        row("png", OutputFormat::pngSequence, 8, "rgb24");
        row("png", OutputFormat::pngSequence, 16, "rgb48be");
        row("tif", OutputFormat::tiffSequence, 8, "rgb24");
        row("tif", OutputFormat::tiffSequence, 16, "rgb48le");
        row("dpx", OutputFormat::dpxSequence, 10, "gbrp10le");
        row("dpx", OutputFormat::dpxSequence, 16, "rgb48le");
        row("exr", OutputFormat::exrSequence, FormatChoice::half, "gbrpf32le");
        row("exr", OutputFormat::exrSequence, FormatChoice::real, "gbrpf32le");
    }
    void pictureFormatsKeepTheirDepth() {
        QFETCH(QString, ending);
        QFETCH(int, format);
        QFETCH(int, depth);
        QFETCH(QString, pixels);
        FormatChoice choice(static_cast<OutputFormat>(format));
        choice.depth = depth;
        const QString target = clips_.path(QStringLiteral("p%1_##.").arg(std::abs(depth)) + ending);
        write(optionsFor(target, choice), 2);
        const QString first = QString::fromStdString(sequenceName(target.toStdString(), 0).string());
        QVERIFY2(probed(first, QStringLiteral("pix_fmt")) == pixels,
                 qPrintable(probed(first, QStringLiteral("pix_fmt"))));
        const auto back = openSource(first);
        QCOMPARE(back->frames(), 2);
        QCOMPARE(back->facts().width, 320);
    }

    void jpegPicturesComeOutAlike() {
        FormatChoice choice(OutputFormat::jpegSequence);
        choice.chroma = Chroma::c420;
        const QString target = clips_.path(QStringLiteral("photo_##.jpg"));
        write(optionsFor(target, choice), 1);
        const QString first = QString::fromStdString(sequenceName(target.toStdString(), 0).string());
        QCOMPARE(probed(first, QStringLiteral("codec_name,pix_fmt")), QStringLiteral("mjpeg yuvj420p"));
    }

    void whatCannotBeIsRefusedInWords() {
        const auto refused = [](FormatChoice choice, auto change) {
            change(choice);
            try {
                validate(choice);
            } catch (const Error& error) {
                return QString::fromStdString(error.what());
            }
            return QString();
        };
        QVERIFY(refused(OutputFormat::ffv1Mkv, [](FormatChoice& c) {
                    c.quality = 3;
                }).contains(QStringLiteral("lossless")));
        QVERIFY(refused(OutputFormat::proresMov, [](FormatChoice& c) {
                    c.quality = 6;
                }).contains(QStringLiteral("0 to 5")));
        QVERIFY(refused(OutputFormat::av1Mp4, [](FormatChoice& c) {
                    c.depth = 12;
                }).contains(QStringLiteral("8 or 10")));
        QVERIFY(refused(OutputFormat::proresMov, [](FormatChoice& c) {
                    c.depth = 8;
                }).contains(QStringLiteral("no choice of depth")));
        QVERIFY(refused(OutputFormat::av1Mp4, [](FormatChoice& c) {
                    c.chroma = Chroma::c444;
                }).contains(QStringLiteral("no choice of chroma")));
        QVERIFY_THROWS_EXCEPTION(Error, refuseEnding("a.mp4", OutputFormat::proresMov));
        QVERIFY_THROWS_EXCEPTION(Error, parseOutputFormat("avi"));
        WriterOptions fields = optionsFor(clips_.path(QStringLiteral("fields.mp4")), OutputFormat::av1Mp4);
        fields.scan = Scan::topFieldFirst;
        QVERIFY_THROWS_EXCEPTION(Error, write(fields));
    }

    void qualityHasWordsAndANumber() {
        QCOMPARE(QString::fromStdString(qualityWords(OutputFormat::h264Mp4, 12)),
                 QStringLiteral("CRF 12, near-transparent"));
        QCOMPARE(QString::fromStdString(qualityWords(OutputFormat::h264Mp4, 0)),
                 QStringLiteral("CRF 0, lossless"));
        QCOMPARE(QString::fromStdString(qualityWords(OutputFormat::proresMov, 3)), QStringLiteral("422 HQ"));
        for (const OutputFormat format : outputFormats()) {
            QCOMPARE(parseOutputFormat(shortName(format)), format);
            if (const auto scale = qualityScale(format))
                for (int q = std::min(scale->smallest, scale->best);
                     q <= std::max(scale->smallest, scale->best); ++q)
                    QVERIFY(!qualityWords(format, q).empty());
        }
    }

    void theEstimateOfSizeIsOfTheRightOrder() {
        // Of formats whose size hardly depends on what is seen.
        for (const OutputFormat format :
             {OutputFormat::proresMov, OutputFormat::dnxhrMov, OutputFormat::dpxSequence}) {
            const fs::path target =
                clips_.path(QStringLiteral("size")).toStdString() + std::string(extension(format));
            write(optionsFor(QString::fromStdString(target.string()), format), 24);
            FormatChoice choice(format);
            if (format == OutputFormat::dnxhrMov) choice.quality = 3;
            std::uintmax_t bytes = 0;
            for (int n = 0; n < (isSequence(format) ? 24 : 1); ++n)
                bytes += fs::file_size(isSequence(format) ? sequenceName(target, n) : target);
            const double told = 24 * bytesPerFrame(choice, 320, 240, source_->facts().layout);
            const double ratio = told / static_cast<double>(bytes);
            QVERIFY2(
                ratio > 0.5 && ratio < 2,
                qPrintable(QStringLiteral("%1 %2").arg(QString::fromLatin1(name(format).data())).arg(ratio)));
        }
    }

    void timecodeAndReelComeBack_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<bool>("reel");
        for (const char* file : {"t.mov", "t.mp4", "t_##.exr", "t_##.dpx"})
            QTest::newRow(file) << QString::fromLatin1(file) << !QByteArray(file).endsWith("mp4");
        QTest::newRow("t.mkv") << QStringLiteral("t.mkv") << false;
        QTest::newRow("t.mxf") << QStringLiteral("t.mxf") << false;
    }
    void timecodeAndReelComeBack() {
        QFETCH(QString, file);
        QFETCH(bool, reel);
        const QString target = clips_.path(file);
        WriterOptions options = optionsFor(target, formatForTarget(target.toStdString()));
        options.timecode = "10:20:30:21";
        options.reel = "B012";
        write(options, 6);
        const bool sequence = isSequence(options.format.format);
        const fs::path first = sequence ? sequenceName(options.target, 0) : options.target;
        const MediaFacts facts = buildIndex(first).facts;
        QCOMPARE(QString::fromStdString(facts.timecode), QStringLiteral("10:20:30:21"));
        if (reel) QCOMPARE(QString::fromStdString(facts.reel), QStringLiteral("B012"));
        QVERIFY(differencesOfWritten(options).empty());
        // The fourth picture of a sequence says its own.
        if (!sequence) return;
        fs::create_directory(first.parent_path() / "alone");
        const fs::path alone = first.parent_path() / "alone" / sequenceName(options.target, 4).filename();
        fs::copy_file(sequenceName(options.target, 4), alone, fs::copy_options::overwrite_existing);
        QCOMPARE(QString::fromStdString(buildIndex(alone).facts.timecode), QStringLiteral("10:20:31:01"));
        fs::remove_all(first.parent_path() / "alone");
    }

    void timecodeOfAnotherRateNamesTheSameMoment() {
        QCOMPARE(timecodeAt("01:00:00:12", Rate(24, 1), Rate(30, 1)), std::string("01:00:00:15"));
        QCOMPARE(timecodeAt("01:00:00:12", Rate(24, 1), Rate(24, 1)), std::string("01:00:00:12"));
        QCOMPARE(timecodeAt("10:00:10:29", Rate(30, 1), Rate(25, 1)), std::string("10:00:10:24"));
        QCOMPARE(timecodeAt("", Rate(24, 1), Rate(25, 1)), std::string());
        QCOMPARE(tidyTimecode("01:02:03;04"), std::string("01:02:03;04"));
        QCOMPARE(tidyTimecode("01:02:03.04xyz"), std::string("01:02:03;04"));
        QVERIFY(tidyTimecode("1:2:3:4").empty());
        QVERIFY(tidyTimecode("aa:bb:cc:dd").empty());
    }

    void fieldsAreWovenFromTheirOwnMoments() {
        const Image a = *source_->frame(0);
        const Image b = *source_->frame(20);
        const Image both = woven(a, b);
        for (int p = 0; p < a.planeCount(); ++p)
            for (int y = 0; y < a.plane(p).height; ++y) {
                const auto row = both.row<std::uint16_t>(p, y);
                QVERIFY(std::ranges::equal(row, (y % 2 == 0 ? a : b).row<std::uint16_t>(p, y)));
            }
    }

    void interlacedFilesAreTaggedAndLookIt_data() {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("scan");
        for (const char* file : {"i.mkv", "i.mov", "i.mp4"})
            for (const OutputScan scan : {OutputScan::topFirst, OutputScan::bottomFirst})
                QTest::addRow("%s %s", file, name(scan).data())
                    << QString::fromLatin1(file) << static_cast<int>(scan);
    }
    void interlacedFilesAreTaggedAndLookIt() {
        QFETCH(QString, file);
        QFETCH(int, scan);
        const QString target = clips_.path(file);
        WriterOptions options = optionsFor(target, formatForTarget(target.toStdString()));
        options.scan = scanOf(static_cast<OutputScan>(scan));
        {
            const auto writer = weavingInto(openWriter(options), static_cast<OutputScan>(scan));
            for (std::int64_t n = 0; n < 47; ++n) // an odd one: its second field repeats the first
                writer->write(*source_->frame(n));
            writer->finish();
        }
        const MediaFacts facts = buildIndex(options.target).facts;
        QCOMPARE(facts.frames, 24);
        QCOMPARE(facts.scan, options.scan);
        // FFmpeg's own detector, which looks at the pictures.
        const Outcome idet =
            runProgram(QStringLiteral("ffmpeg"),
                       {QStringLiteral("-i"), target, QStringLiteral("-vf"), QStringLiteral("idet"),
                        QStringLiteral("-f"), QStringLiteral("null"), QStringLiteral("-")});
        const auto found =
            QRegularExpression(
                QStringLiteral("Multi frame detection: TFF:\\s*(\\d+) BFF:\\s*(\\d+) Progressive:\\s*(\\d+)"))
                .match(idet.err);
        QVERIFY(found.hasMatch());
        const int own = found.captured(static_cast<OutputScan>(scan) == OutputScan::topFirst ? 1 : 2).toInt();
        const int other =
            found.captured(static_cast<OutputScan>(scan) == OutputScan::topFirst ? 2 : 1).toInt();
        QVERIFY2(own >= 20 && other == 0, qPrintable(found.captured()));
        // And what the step Footage finds.
        const ShotFindings seen = inspectShot(std::make_shared<const MediaIndex>(buildIndex(options.target)));
        QVERIFY2(seen.decided() && seen.kind() == CadenceKind::interlaced, seen.describe().c_str());
        QCOMPARE(seen.topFirst(), static_cast<OutputScan>(scan) == OutputScan::topFirst);
    }

    void pulldownHasItsFieldsInTheirOrder() {
        QCOMPARE(rateWritten(OutputScan::pulldown32, Rate(24000, 1001)), Rate(30000, 1001));
        QCOMPARE(rateToMake(OutputScan::pulldown32, Rate(30000, 1001)), Rate(24000, 1001));
        QCOMPARE(framesWritten(OutputScan::pulldown2332, 8), 10);
        QCOMPARE(framesWritten(OutputScan::pulldown32, 9), 12);
        const QString target = clips_.path(QStringLiteral("film.mkv"));
        for (const OutputScan scan : {OutputScan::pulldown32, OutputScan::pulldown2332}) {
            WriterOptions options = optionsFor(target, OutputFormat::ffv1Mkv);
            options.rate = Rate(30000, 1001);
            options.scan = Scan::topFieldFirst;
            const auto writer = weavingInto(openWriter(options), scan);
            for (std::int64_t n = 0; n < 24; ++n)
                writer->write(*source_->frame(n));
            writer->finish();
            const auto index = std::make_shared<const MediaIndex>(buildIndex(options.target));
            QCOMPARE(index->frames(), 30);
            const ShotFindings seen = inspectShot(index);
            QVERIFY2(seen.kind() == (scan == OutputScan::pulldown32 ? CadenceKind::pulldown32
                                                                    : CadenceKind::pulldown2332) &&
                         seen.topFirst() && seen.breaks().empty(),
                     seen.describe().c_str());
            // Which film frames the upper and lower lines of the five frames are.
            const std::vector<std::pair<int, int>> wanted =
                scan == OutputScan::pulldown32
                    ? std::vector<std::pair<int, int>>{{0, 0}, {1, 1}, {1, 2}, {2, 3}, {3, 3}}
                    : std::vector<std::pair<int, int>>{{0, 0}, {1, 1}, {1, 2}, {2, 2}, {3, 3}};
            FrameSource back(index, std::size_t{8} << 20);
            for (int n = 0; n < 30; ++n) {
                const auto [upper, lower] = wanted[static_cast<std::size_t>(n % 5)];
                const Image expected =
                    woven(*source_->frame(n / 5 * 4 + upper), *source_->frame(n / 5 * 4 + lower));
                QVERIFY(rawSamples(*back.frame(n)) == rawSamples(expected));
            }
        }
    }
};

QTEST_MAIN(TestOutputFormats)
#include "test_output_formats.moc"
