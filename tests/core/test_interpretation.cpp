// What an interpretation makes of a file: film from pulldown, frames from fields, even times, turned
// pictures.

#include "core/error.h"
#include "core/inspection/proposals.h"
#include "core/media/deinterlacer.h"
#include "core/media/frame_writer.h"
#include "core/media/interpreted_source.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/film.h"
#include "support/pictures.h"

#include <QTest>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 144;

Image filmFrame(const Scenery& scenery, std::int64_t t) {
    return drawFields(scenery, static_cast<double>(t), static_cast<double>(t), width, height, 2);
}

void writeClip(const QString& path, const std::vector<Image>& frames) {
    const auto writer = openWriter({.target = path.toStdString(),
                                    .format = OutputFormat::ffv1Mkv,
                                    .rate = Rate(30000, 1001),
                                    .width = frames.front().width(),
                                    .height = frames.front().height(),
                                    .layout = frames.front().layout(),
                                    .colour = {},
                                    .pixelAspect = 1});
    for (const Image& frame : frames)
        writer->write(frame);
    writer->finish();
}

struct Opened {
    std::shared_ptr<const MediaIndex> index;
    std::shared_ptr<FrameSource> coded;
    explicit Opened(const QString& path)
        : index(std::make_shared<const MediaIndex>(buildIndex(path.toStdString())))
        , coded(std::make_shared<FrameSource>(index)) {}
};

} // namespace

class TestInterpretation : public QObject {
    Q_OBJECT

    Clips clips_;

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void filmComesBackFromPulldown_data() {
        QTest::addColumn<int>("phase");
        QTest::addColumn<bool>("topFirst");
        QTest::addColumn<bool>("advanced");
        QTest::addColumn<int>("skip"); // at coded frame 35
        QTest::addColumn<int>("crf");  // 0: lossless
        QTest::newRow("plain") << 0 << true << false << 0 << 0;
        QTest::newRow("bottom first, phase 3") << 3 << false << false << 0 << 0;
        QTest::newRow("a break") << 1 << true << false << 2 << 0;
        QTest::newRow("2:3:3:2 with a break") << 2 << true << true << 3 << 0;
        QTest::newRow("crf 18, a break") << 4 << true << false << 1 << 18;
        QTest::newRow("crf 28, a break") << 0 << true << false << 3 << 28;
        QTest::newRow("crf 28, bottom first") << 2 << false << false << 2 << 28;
    }
    void filmComesBackFromPulldown() {
        QFETCH(int, phase);
        QFETCH(bool, topFirst);
        QFETCH(bool, advanced);
        QFETCH(int, skip);
        QFETCH(int, crf);
        constexpr std::int64_t edit = 35;
        constexpr std::int64_t coded = 70;
        const Scenery scenery = pan(2.5, 1.1, 6);
        const auto moments = [&](std::int64_t n) {
            const std::int64_t place = n < edit ? n : n + skip;
            return advanced ? pulldown2332(place, phase, topFirst) : pulldown32(place, phase, topFirst);
        };
        std::vector<Image> film;
        for (std::int64_t t = 0; t <= (coded + skip + phase) / 5 * 4 + 4; ++t)
            film.push_back(filmFrame(scenery, t));
        std::vector<Image> video;
        for (std::int64_t n = 0; n < coded; ++n) {
            const FieldMoments at = moments(n);
            video.push_back(
                weave(film[static_cast<std::size_t>(at.top)], film[static_cast<std::size_t>(at.bottom)]));
        }
        QString clip = clips_.path(QStringLiteral("transfer.mkv"));
        writeClip(clip, video);
        if (crf > 0)
            clip = clips_.make(QStringLiteral("transfer.mp4"),
                               {QStringLiteral("-i"), clip, QStringLiteral("-c:v"), QStringLiteral("libx264"),
                                QStringLiteral("-pix_fmt"), QStringLiteral("yuv420p"), QStringLiteral("-crf"),
                                QString::number(crf)});
        const Opened opened(clip);
        const ShotFindings findings = inspectShot(opened.index);
        const Interpretation measured = measuredInterpretation(*opened.index, findings);
        QCOMPARE(measured.fields, FieldUse::removePulldown);
        const auto shot = interpreted(opened.coded, opened.index, measured);
        QCOMPARE(shot->facts().rate, Rate(24000, 1001));

        // Film frames of which both fields are on the tape, before and after the edit, counted on their own.
        std::vector<std::int64_t> expected;
        for (const auto& [first, last] : {std::pair{std::int64_t{0}, edit}, {edit, coded}}) {
            std::map<std::int64_t, int> fields; // bit 0: a top field seen, bit 1: a bottom field
            for (std::int64_t n = skip == 0 ? 0 : first; n < (skip == 0 ? coded : last); ++n) {
                fields[static_cast<std::int64_t>(moments(n).top)] |= 1;
                fields[static_cast<std::int64_t>(moments(n).bottom)] |= 2;
            }
            for (const auto& [t, seen] : fields)
                if (seen == 3) expected.push_back(t);
            if (skip == 0) break;
        }
        std::vector<std::int64_t> got;
        for (std::int64_t n = 0; n < shot->frames(); ++n) {
            const ImagePtr made = shot->frame(n);
            std::int64_t best = -1;
            double bestPsnr = 0;
            for (std::size_t t = 0; t < film.size(); ++t)
                if (const double p = lumaPsnr(*made, film[t]); p > bestPsnr) {
                    bestPsnr = p;
                    best = static_cast<std::int64_t>(t);
                }
            got.push_back(best);
            if (crf == 0) QCOMPARE(bestPsnr, 99.0); // bit for bit
            QVERIFY2(bestPsnr > 27, qPrintable(QStringLiteral("frame %1: %2 dB").arg(n).arg(bestPsnr)));
        }
        // A film frame cut in two by the edit may be claimed by neither side.
        std::vector<std::int64_t> missing;
        std::set_difference(expected.begin(), expected.end(), got.begin(), got.end(),
                            std::back_inserter(missing));
        QVERIFY2(missing.size() <= (skip == 0 ? 0U : 1U), qPrintable(QString::number(missing.size())));
        QVERIFY(std::is_sorted(got.begin(), got.end()));
        QVERIFY(std::adjacent_find(got.begin(), got.end()) == got.end()); // none twice
    }

    void deinterlacingGivesTheMomentOfEachField_data() {
        QTest::addColumn<bool>("topFirst");
        QTest::newRow("top") << true;
        QTest::newRow("bottom") << false;
    }
    void deinterlacingGivesTheMomentOfEachField() {
        QFETCH(bool, topFirst);
        const Scenery scenery = pan(3, 0, 2);
        const auto coded = [&](std::int64_t n) {
            const auto t = static_cast<double>(n);
            return drawFields(scenery, topFirst ? t : t + 0.5, topFirst ? t + 0.5 : t, width, height);
        };
        const Image before = coded(0);
        const Image now = coded(1);
        const Image after = coded(2);
        for (const bool second : {false, true}) {
            const Image made = deinterlace(before, now, after, topFirst, second);
            const double right = second ? 1.5 : 1.0;
            const double psnr = lumaPsnr(made, drawFields(scenery, right, right, width, height));
            QVERIFY2(psnr > 30, qPrintable(QString::number(psnr)));
            for (const double wrong : {0.5, 2.0 - 0.0, second ? 1.0 : 1.5})
                QVERIFY(psnr > lumaPsnr(made, drawFields(scenery, wrong, wrong, width, height)) + 5);
        }
    }

    void fieldsDoubleTheFrames() {
        std::vector<Image> video;
        video.reserve(6);
        for (int n = 0; n < 6; ++n)
            video.push_back(drawFields(pan(2, 0), n, n + 0.5, width, height));
        const QString clip = clips_.path(QStringLiteral("fields.mkv"));
        writeClip(clip, video);
        const Opened opened(clip);
        Interpretation in;
        in.fields = FieldUse::toFields;
        const auto shot = interpreted(opened.coded, opened.index, in);
        QCOMPARE(shot->frames(), std::int64_t{12});
        QCOMPARE(shot->facts().rate, Rate(60000, 1001));
        QCOMPARE(shot->facts().scan, Scan::progressive);
        QVERIFY(shot->identityOf(3) != opened.coded->identityOf(3));
        in.fields = FieldUse::toFrames;
        QCOMPARE(interpretedFacts(*opened.index, in).frames, std::int64_t{6});
    }

    void varyingTimesBecomeEven() {
        const QString clip = clips_.varying(QStringLiteral("phone.mp4"));
        const Opened opened(clip);
        QVERIFY(!opened.index->facts.constantRate);
        const EvenTimes even = evenTimes(*opened.index);
        QCOMPARE(even.rate, Rate(25, 1));
        QCOMPARE(static_cast<int>(even.frames.size()), 50);
        QCOMPARE(even.shownTwice, std::int64_t{5});
        QCOMPARE(even.leftOut, std::int64_t{0});
        QVERIFY(std::is_sorted(even.frames.begin(), even.frames.end()));
        const Interpretation measured = measuredInterpretation(*opened.index, {});
        QVERIFY(measured.evenTimes);
        QCOMPARE(interpretedFacts(*opened.index, measured).frames, std::int64_t{50});
        QVERIFY(interpretedFacts(*opened.index, measured).constantRate);
    }

    void thePlanTellsWhatEvenTimesRepeatAndLeaveOut() {
        const Opened opened(
            clips_.varying(QStringLiteral("marked.mp4"))); // every tenth frame is missing, from 5 on
        Interpretation even;
        even.evenTimes = true;
        const auto marks = sourceMarks(*opened.index, even);
        QCOMPARE(marks.size(), std::size_t{5});
        for (std::size_t i = 0; i < marks.size(); ++i)
            QCOMPARE(marks[i], (SourceMark{static_cast<std::int64_t>(i) * 10 + 5, true, 0}));
        QVERIFY(sourceMarks(*opened.index, {}).empty());
        FramePlan plan;
        plan.marks = marks;
        QVERIFY(plan.markOf(15) && plan.markOf(15)->repeated);
        QVERIFY(!plan.markOf(16));
        QVERIFY(!plan.markOf(999));

        // Two frames in one slot: the file is faster there than even times are.
        MediaIndex index;
        index.timeBase = Rational(1, 1000);
        for (const std::int64_t pts : {0, 40, 80, 95, 120, 160, 200, 240}) {
            index.displayPacket.push_back(static_cast<std::int32_t>(index.packets.size()));
            PacketEntry entry;
            entry.pts = pts;
            index.packets.push_back(entry);
        }
        QCOMPARE(sourceMarks(index, even), (std::vector<SourceMark>{{3, false, 1}}));
    }

    void timesThatFitNoRateLeaveEveryFrameOnce() {
        MediaIndex index;
        index.facts.rate = Rate(12, 1);
        index.timeBase = Rational(1, 25);
        for (const std::int64_t pts : {0, 1, 2, 3, 1'000'000}) {
            index.displayPacket.push_back(static_cast<std::int32_t>(index.packets.size()));
            PacketEntry entry;
            entry.pts = pts;
            index.packets.push_back(entry);
        }
        const EvenTimes even = evenTimes(index); // must not throw: the window asks for it
        QCOMPARE(even.frames, (std::vector<std::int64_t>{0, 1, 2, 3, 4}));
        QCOMPARE(even.rate, Rate(12, 1));
    }

    void overridesChangeTheFacts() {
        const Opened opened(clips_.moving(QStringLiteral("plain.mp4"), 10, {}, QStringLiteral("160x90")));
        Interpretation in;
        in.rate = Rate(60, 1);
        in.pixelAspect = Rational(4, 3);
        in.fullRange = true;
        in.matrix = 9;
        in.rotation = 90;
        const MediaFacts facts = interpretedFacts(*opened.index, in);
        QCOMPARE(facts.rate, Rate(60, 1));
        QCOMPARE(facts.frames, std::int64_t{10});
        QCOMPARE(facts.width, 90);
        QCOMPARE(facts.height, 160);
        QCOMPARE(facts.pixelAspect, Rational(3, 4));
        QVERIFY(facts.colour.fullRange);
        QCOMPARE(facts.colour.matrix, 9);
        QCOMPARE(interpreted(opened.coded, opened.index, in)->frame(3)->width(), 90);
    }

    void turningIsExactAndFourTurnsAreNone() {
        const Image image = pictureOf(6, 4, {.depth = 10, .chromaShiftX = 1},
                                      [](int p, int x, int y) { return 100 * p + 10 * y + x; });
        const Image once = turned(image, 90);
        QCOMPARE(once.width(), 4);
        QCOMPARE(once.layout().chromaShiftX, 0);
        QCOMPARE(once.layout().chromaShiftY, 1);
        // Clockwise: the left column, read from below, becomes the top row.
        QCOMPARE(once.row<std::uint16_t>(0, 0)[0], std::uint16_t{30});
        QCOMPARE(once.row<std::uint16_t>(0, 0)[3], std::uint16_t{0});
        QVERIFY(turned(once, 270) == image);
        QVERIFY(turned(turned(image, 180), 180) == image);
        QVERIFY(turned(turned(once, 90), 180) == image);
    }

    void whatDoesNotSuitTheFileIsRefused_data() {
        QTest::addColumn<int>("wrong");
        for (int i = 0; i < 6; ++i)
            QTest::addRow("%d", i) << i;
    }
    void whatDoesNotSuitTheFileIsRefused() {
        QFETCH(int, wrong);
        Interpretation in;
        in.fields = FieldUse::removePulldown;
        in.pulldown = {{0, 9, PulldownRun::Kind::pulldown32, true, 0}};
        MediaIndex index;
        index.displayPacket.resize(10);
        validate(in, index);
        switch (wrong) {
        case 0:
            in.pulldown.front().last = 8;
            break;
        case 1:
            in.pulldown.front().last = 10;
            break;
        case 2:
            in.pulldown.front().phase = 5;
            break;
        case 3:
            in.rotation = 45;
            break;
        case 4: // twice the rate is more than there is
            in = {};
            in.rate = Rate(60000, 1);
            in.fields = FieldUse::toFields;
            break;
        default:
            in.pulldown.push_back({5, 9, PulldownRun::Kind::whole, true, 0});
            break;
        }
        QVERIFY_THROWS_EXCEPTION(Error, validate(in, index));
    }

    void proposalsNameBothSides() {
        MediaIndex index;
        index.facts.rate = Rate(30000, 1001);
        index.facts.scan = Scan::progressive;
        ShotFindings findings;
        findings.cadence = {{0, 99, CadenceKind::interlaced, false, 0, 80}};
        auto proposals = proposalsFor(index, findings, {});
        QCOMPARE(proposals.size(), std::size_t{2});
        QCOMPARE(QString::fromStdString(proposals[0].sentence),
                 QStringLiteral(
                     "The file says progressive, but the pictures are interlaced, bottom field first."));
        QCOMPARE(QString::fromStdString(proposals[0].action), QStringLiteral("Deinterlace to 59.94 fps"));
        QCOMPARE(proposals[0].then.topFirst, std::optional(false));
        QVERIFY(proposalsFor(index, findings, proposals[0].then).empty()); // acted upon
        findings.cadence = {{0, 99, CadenceKind::progressive, true, 0, 80}};
        QVERIFY(proposalsFor(index, findings, {}).empty()); // file and pictures agree
    }
};

QTEST_GUILESS_MAIN(TestInterpretation)
#include "test_interpretation.moc"
