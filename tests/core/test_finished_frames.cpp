// Finished frames on disk: the same samples come back, damaged files go, and the render uses what is there.

#include "core/error.h"
#include "core/media/library_messages.h"
#include "core/render/render_job.h"
#include "core/synthesis/planned_frames.h"
#include "support/clips.h"
#include "support/pictures.h"

#include <QDir>
#include <QFile>
#include <QTest>

#include <csignal>
#include <cstring>
#include <sys/resource.h>

using namespace yarngap;
using namespace yarngap::test;

namespace fs = std::filesystem;

class TestFinishedFrames : public QObject {
    Q_OBJECT

    Clips clips_;
    std::shared_ptr<FrameSource> source_;

    fs::path path(const char* name) { return clips_.path(QString::fromLatin1(name)).toStdString(); }
    static QStringList filesIn(const fs::path& folder) {
        return QDir(QString::fromStdString(folder.string())).entryList(QDir::Files);
    }
    static MadeFrame madeOf(const PixelLayout& layout) {
        return {std::make_shared<Image>(pictureOf(37, 23, layout,
                                                  [&](int p, int x, int y) {
                                                      return (31 * p + 7 * x + 13 * y) %
                                                             (layout.maxValue() + 1);
                                                  })),
                0.25, 1.5};
    }
    FramePlan plan(const Rational& speed) const {
        const Rate rate = source_->facts().rate;
        const Timing timing{
            .sourceRate = rate, .outputRate = rate, .to = source_->frames() - 1, .speed = speed};
        return makePlan(timing, Method::flow, source_->frames());
    }
    FrameMaker maker(const std::shared_ptr<FrameFolder>& folder, const std::shared_ptr<VectorStore>& store,
                     const InBetweens& settings = {}) const {
        FrameMaker made(source_, store, settings);
        made.keepFinishedIn(folder);
        return made;
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        source_ = openSource(
            clips_.moving(QStringLiteral("clip.mkv"), 6, {QStringLiteral("-c:v"), QStringLiteral("ffv1")}));
    }

    void theSameSamplesComeBack_data() {
        QTest::addColumn<int>("depth");
        QTest::addColumn<int>("shift");
        QTest::addColumn<int>("model");
        QTest::addColumn<bool>("alpha");
        QTest::newRow("4:2:0, 8 bit") << 8 << 1 << static_cast<int>(ColourModel::yuv) << false;
        QTest::newRow("4:4:4, 10 bit, alpha") << 10 << 0 << static_cast<int>(ColourModel::yuv) << true;
        QTest::newRow("RGB, 16 bit") << 16 << 0 << static_cast<int>(ColourModel::rgb) << false;
        QTest::newRow("grey") << 8 << 0 << static_cast<int>(ColourModel::grey) << false;
    }
    void theSameSamplesComeBack() {
        QFETCH(int, depth);
        QFETCH(int, shift);
        QFETCH(int, model);
        QFETCH(bool, alpha);
        const MadeFrame made = madeOf({.model = static_cast<ColourModel>(model),
                                       .alpha = alpha,
                                       .depth = depth,
                                       .chromaShiftX = shift,
                                       .chromaShiftY = shift});
        const fs::path file = path("same.frame");
        writeFrame(file, made, "the key");
        const KeyedFrame read = readFrame(file);
        QCOMPARE(read.key, std::string("the key"));
        QVERIFY(read.frame.image->layout() == made.image->layout());
        QVERIFY(rawSamples(*read.frame.image) == rawSamples(*made.image));
        QCOMPARE(read.frame.doubt, made.doubt);
        QCOMPARE(read.frame.edgeScale, made.edgeScale);
    }

    void lightOfASceneComesBack() {
        Image image(5, 4, {.model = ColourModel::rgb, .samples = SampleKind::half});
        for (int p = 0; p < 3; ++p)
            for (int y = 0; y < 4; ++y)
                for (std::size_t x = 0; x < 5; ++x)
                    image.row<float>(p, y)[x] = static_cast<float>(p) - 0.5F + 8.0F * static_cast<float>(x);
        const fs::path file = path("light.frame");
        writeFrame(file, {std::make_shared<Image>(image), std::nullopt, 1}, "k");
        const KeyedFrame read = readFrame(file);
        QVERIFY(rawSamples(*read.frame.image) == rawSamples(image));
        QVERIFY(!read.frame.doubt);
    }

    void whatIsCutOffOrForeignIsRefused() {
        const fs::path file = path("cut.frame");
        writeFrame(file, madeOf({.chromaShiftX = 1, .chromaShiftY = 1}), "k");
        const auto whole = static_cast<qint64>(fs::file_size(file));
        for (const qint64 size : {whole - 1, whole / 2, qint64{40}, qint64{18}, qint64{3}, qint64{0}}) {
            QFile(QString::fromStdString(file.string())).resize(size);
            QVERIFY_THROWS_EXCEPTION(Error, static_cast<void>(readFrame(file)));
        }
        const auto written = [&] {
            writeFrame(file, madeOf({}), "k");
            QFile in(QString::fromStdString(file.string()));
            return in.open(QIODevice::ReadOnly) ? in.readAll() : QByteArray();
        };
        const auto refused = [&](const QByteArray& bytes) {
            QFile out(QString::fromStdString(file.string()));
            if (!out.open(QIODevice::WriteOnly) || out.write(bytes) != bytes.size()) return false;
            out.close();
            try {
                static_cast<void>(readFrame(file));
                return false;
            } catch (const Error&) {
                return true;
            }
        };
        const QByteArray good = written();
        QVERIFY(!refused(good));
        for (const auto& [from, to] : std::initializer_list<std::pair<const char*, const char*>>{
                 {"\"width\":37", "\"width\":38"},
                 {"\"width\":37", "\"width\":-7"},
                 {"\"width\":37", "\"width\":00"},
                 {"\"depth\":8", "\"depth\":7"},
                 {"\"height\":23", "\"height\":\"2\""},
                 {"yarngap frame 2", "yarngap frame 1"},
                 {"{", "["}}) {
            QByteArray bad = good;
            QVERIFY(bad.contains(from));
            bad.replace(bad.indexOf(from), static_cast<qsizetype>(std::strlen(from)), to);
            QVERIFY2(refused(bad), to);
        }
        // Samples that a disk gave back as zeros, or with a single bit turned.
        QByteArray zeroed = good;
        zeroed.replace(good.size() - 500, 500, QByteArray(500, '\0'));
        QVERIFY(refused(zeroed));
        QByteArray turned = good;
        turned[good.size() - 100] = static_cast<char>(turned[good.size() - 100] ^ 4);
        QVERIFY(refused(turned));
        QVERIFY(refused(good + "x"));
    }

    void aDiskThatFillsUpLeavesNothing() {
        const fs::path folder = path("full");
        FrameFolder frames(folder);
        frames.keep("small", madeOf({}));
        frames.flush();
        QVERIFY(frames.find("small"));
        rlimit before{};
        QCOMPARE(::getrlimit(RLIMIT_FSIZE, &before), 0);
        const rlimit tight{500, before.rlim_max};
        const auto ignored = std::signal(SIGXFSZ, SIG_IGN);
        QCOMPARE(::setrlimit(RLIMIT_FSIZE, &tight), 0);
        frames.keep("other", madeOf({}));
        frames.flush();
        const QString said = QString::fromStdString(frames.files().trouble());
        ::setrlimit(RLIMIT_FSIZE, &before);
        std::signal(SIGXFSZ, ignored);
        QVERIFY2(said.contains(QStringLiteral("grew larger than this disk")), qPrintable(said));
        QVERIFY(!frames.find("other"));
        QCOMPARE(filesIn(folder).size(), 1);
    }

    void theFolderKeepsItsLimitAndIsCleared() {
        const fs::path folder = path("limited");
        FrameFolder frames(folder, 0);
        frames.keep("a", madeOf({}));
        frames.flush();
        QVERIFY(!frames.find("a")); // nothing is kept
        frames.files().setByteLimit(1 << 20);
        frames.keep("a", madeOf({}));
        frames.flush();
        const auto one = frames.files().bytes();
        frames.files().setByteLimit(2 * one + one / 2);
        for (const char* key : {"b", "c", "d"}) {
            frames.keep(key, madeOf({}));
            frames.flush();
            QVERIFY(frames.files().bytes() <= 2 * one + one / 2);
        }
        QVERIFY(!frames.find("a"));
        QVERIFY(frames.find("d"));
        frames.files().clear();
        frames.flush();
        QVERIFY(filesIn(folder).isEmpty());
    }

    void aFinishedFrameIsNotMadeAgain() {
        const fs::path folder = path("again");
        const FramePlan p = plan(Rational(1, 2));
        const PlanRow& row = p.rows[3];
        QCOMPARE(row.kind, FrameKind::flow);
        const auto frames = std::make_shared<FrameFolder>(folder);
        const auto store = std::make_shared<VectorStore>();
        const MadeFrame first = maker(frames, store).make(row);
        frames->flush();
        QCOMPARE(filesIn(folder).size(), 1);

        const auto next = std::make_shared<VectorStore>(); // the next session
        const FrameMaker again = maker(std::make_shared<FrameFolder>(folder), next);
        QVERIFY(again.isFinished(row));
        const MadeFrame second = again.make(row);
        QVERIFY(rawSamples(*second.image) == rawSamples(*first.image));
        QCOMPARE(second.doubt, first.doubt);
        QCOMPARE(next->estimations(), 0);

        InBetweens other;
        other.flow.stiffness = 80;
        QVERIFY(!maker(frames, next, other).isFinished(row)); // it would be another picture
        QVERIFY(!again.isFinished(p.rows[5]));
        static_cast<void>(maker(frames, store, InBetweens().forDraft()).make(p.rows[5]));
        static_cast<void>(maker(frames, store).make(p.rows[4])); // an original
        frames->flush();
        QCOMPARE(filesIn(folder).size(), 1); // drafts and originals are not kept
    }

    void theRenderUsesWhatIsThereAndWritesTheSame() {
        const auto frames = std::make_shared<FrameFolder>(path("render"));
        const FramePlan p = plan(Rational(1, 2));
        const auto render = [&](const char* name, const std::shared_ptr<FrameFolder>& folder) {
            const auto made = std::make_shared<const PlannedFrames>(
                std::make_shared<const FramePlan>(p), maker(folder, std::make_shared<VectorStore>()));
            RenderJob job({{"one", made}}, {path(name), OutputFormat::ffv1Mkv, source_->facts().rate});
            return job.run();
        };
        const RenderReport plain = render("plain.mkv", nullptr);
        QCOMPARE(plain.finished, 0);
        for (const int n : {1, 3})
            static_cast<void>(
                maker(frames, std::make_shared<VectorStore>()).make(p.rows[static_cast<std::size_t>(n)]));
        frames->flush();
        const RenderReport used = render("used.mkv", frames);
        QCOMPARE(used.finished, 2);
        QCOMPARE(used.flows, plain.flows);
        QCOMPARE(used.frames, plain.frames);
        const auto a = openSource(QString::fromStdString(path("plain.mkv").string()));
        const auto b = openSource(QString::fromStdString(path("used.mkv").string()));
        QCOMPARE(a->frames(), b->frames());
        for (std::int64_t n = 0; n < a->frames(); ++n)
            QVERIFY(rawSamples(*a->frame(n)) == rawSamples(*b->frame(n)));
    }
};

QTEST_MAIN(TestFinishedFrames)
#include "test_finished_frames.moc"
