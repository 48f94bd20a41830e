// What is found out about media comes back as it was, belongs to the pictures, and damage does no harm.

#include "core/files/kept_value.h"
#include "core/inspection/carried_findings.h"
#include "core/inspection/known_media.h"
#include "core/media/library_messages.h"
#include "support/drawn_clip.h"
#include "support/pictures.h"

#include <QDir>
#include <QFile>
#include <QTest>

#include <cmath>
#include <tuple>
#include <vector>

using namespace yarngap;
using namespace yarngap::test;

namespace fs = std::filesystem;

namespace {

/// How often something was counted along the way; once, at the end, for what was known.
struct Steps {
    std::vector<double> shares;
    Progress progress = [this](double share) { shares.push_back(share); };
    [[nodiscard]] bool wasKnown() const { return shares == std::vector<double>{1.0}; }
};

bool same(const MediaIndex& a, const MediaIndex& b) {
    const auto packets = [](const MediaIndex& index) {
        std::vector<std::int64_t> numbers;
        for (const PacketEntry& p : index.packets)
            for (const std::int64_t number :
                 {p.pts.value_or(-99), p.dts.value_or(-99), p.filePosition, static_cast<std::int64_t>(p.hash),
                  std::int64_t{p.size}, std::int64_t{p.key}, std::int64_t{p.shownAs}})
                numbers.push_back(number);
        return numbers;
    };
    const MediaFacts& f = a.facts;
    const MediaFacts& g = b.facts;
    return packets(a) == packets(b) && a.displayPacket == b.displayPacket && a.identity == b.identity &&
           a.edition == b.edition && a.file == b.file && a.codecHash == b.codecHash &&
           a.timeBase == b.timeBase && f.path == g.path && f.container == g.container && f.codec == g.codec &&
           f.width == g.width && f.height == g.height && f.pixelAspect == g.pixelAspect &&
           f.layout == g.layout && f.colour == g.colour && f.scan == g.scan && f.rate == g.rate &&
           f.constantRate == g.constantRate && f.frames == g.frames && f.indexed == g.indexed &&
           f.hasSound == g.hasSound && f.remark == g.remark && f.timecode == g.timecode && f.reel == g.reel &&
           f.pixelFormat == g.pixelFormat;
}

} // namespace

class TestKnownMedia : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;
    static constexpr std::int64_t greyFrame = 12;
    QString damaged_;

    fs::path folder(const char* name) { return clips_.path(QString::fromLatin1(name)).toStdString(); }
    static QStringList filesIn(const fs::path& folder) {
        QStringList files;
        const QDir dir(QString::fromStdString(folder.string()));
        for (const QString& name : dir.entryList(QDir::Files))
            files.append(dir.filePath(name));
        return files;
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 120, {});
        // Waves that drift, and a frame of nothing but grey.
        damaged_ = drawnClip(clips_, QStringLiteral("damaged.mkv"), 24, [](int n) {
            return pictureOf(320, 240, {}, [n](int plane, int x, int y) {
                if (plane > 0 || n == greyFrame) return 128.0;
                return 128 + 50 * std::sin(0.11 * (x - n)) + 40 * std::sin(0.07 * x + 0.13 * y);
            });
        });
    }

    void aSecondLookFindsWhatTheFirstFound() {
        const fs::path kept = folder("kept");
        const fs::path clip = clip_.toStdString();
        const auto found = [&](const KnownMedia& known, const std::shared_ptr<const MediaIndex>& index) {
            return known.findings(index);
        };
        std::shared_ptr<const MediaIndex> first;
        std::shared_ptr<const ShotFindings> findings;
        std::shared_ptr<const Suitability> suitability;
        {
            const KnownMedia known(kept);
            Steps steps;
            first = known.index(clip, steps.progress);
            QVERIFY(!steps.wasKnown());
            findings = found(known, first);
            suitability = known.suitability(first, *findings);
        }
        QCOMPARE(filesIn(kept).size(), 3);
        const KnownMedia known(kept); // the next session
        Steps steps;
        const auto index = known.index(clip, steps.progress);
        QVERIFY(steps.wasKnown());
        QVERIFY(same(*index, *first));
        QVERIFY(same(*index, buildIndex(clip)));
        Steps measuring;
        const auto again = known.findings(index, measuring.progress);
        QVERIFY(measuring.wasKnown());
        QCOMPARE(again->describe(), findings->describe());
        QCOMPARE(again->frames, findings->frames);
        QVERIFY(again->camera == findings->camera);
        QVERIFY(again->cadence == findings->cadence);
        QCOMPARE(again->flicker, findings->flicker);
        QCOMPARE(again->typicalChange, findings->typicalChange);
        const Interpretation asItIs;
        QVERIFY(carriedFindings(*again, recipesFor(*index, asItIs), asItIs) ==
                carriedFindings(*findings, recipesFor(*index, asItIs), asItIs));
        const auto assessed = known.suitability(index, *again);
        QCOMPARE(assessed->sentence(), suitability->sentence());
        QCOMPARE(assessed->visible, suitability->visible);
        QCOMPARE(assessed->remarks, suitability->remarks);
    }

    void whoMakesFramesIsToldWhatTheyAreMadeByAlone() {
        const fs::path clip = damaged_.toStdString();
        const fs::path kept = folder("kept for making");
        {
            const KnownMedia known(kept);
            const auto index = known.index(clip);
            const auto made = known.findings(index, {}, {}, LookedFor::making);
            const auto all = known.findings(index);
            QCOMPARE(all->clean.damage.size(), 1U);
            QCOMPARE(all->clean.damage.front().frame, greyFrame);
            QVERIFY(made->clean.damage.empty());
            QVERIFY(made->drops.empty());
            QCOMPARE(made->cuts, all->cuts);
            QCOMPARE(made->repeats.frames, all->repeats.frames);
            QCOMPARE(made->kind(), all->kind());
            QCOMPARE(made->camera.exposure, all->camera.exposure);
            QCOMPARE(made->besideCamera, all->besideCamera);
        }
        const KnownMedia known(kept);
        const auto index = known.index(clip);
        Steps steps;
        QCOMPARE(known.findings(index, steps.progress, {}, LookedFor::making)->clean.damage.size(), 1U);
        QVERIFY(steps.wasKnown()); // all of it, which holds what was asked for

        const fs::path other = folder("kept without all");
        const KnownMedia less(other);
        std::ignore = less.findings(index, {}, {}, LookedFor::making);
        less.flush();
        Steps again;
        std::ignore = less.findings(index, again.progress, {}, LookedFor::making);
        QVERIFY(again.wasKnown());
        Steps more;
        QCOMPARE(less.findings(index, more.progress)->clean.damage.size(), 1U);
        QVERIFY(!more.wasKnown()); // what frames are made by does not pass for all
    }

    void findingsBelongToThePicturesAndAnIndexToTheFile() {
        const KnownMedia known(folder("copies"));
        (void)known.findings(known.index(clip_.toStdString()));
        known.flush();
        const QString copy = clips_.path(QStringLiteral("copy.mp4"));
        QVERIFY(QFile::copy(clip_, copy));
        Steps indexing;
        Steps measuring;
        const auto index = known.index(copy.toStdString(), indexing.progress);
        (void)known.findings(index, measuring.progress);
        QVERIFY(!indexing.wasKnown());
        QVERIFY(measuring.wasKnown());
        QCOMPARE(index->facts.path, fs::path(copy.toStdString()));
    }

    void aFileThatChangedIsLookedAtAnew() {
        const KnownMedia known(folder("changed"));
        const QString clip = clips_.moving(QStringLiteral("changing.mp4"), 30, {});
        const auto before = known.index(clip.toStdString());
        (void)known.findings(before);
        known.flush();
        clips_.moving(QStringLiteral("changing.mp4"), 40, {});
        Steps indexing;
        Steps measuring;
        const auto after = known.index(clip.toStdString(), indexing.progress);
        QCOMPARE(after->frames(), std::int64_t{40});
        QVERIFY(!indexing.wasKnown());
        (void)known.findings(after, measuring.progress);
        QVERIFY(!measuring.wasKnown());
    }

    void damageOnDiskDoesNoHarm() {
        const fs::path kept = folder("damaged");
        const fs::path clip = clip_.toStdString();
        const MediaIndex truth = buildIndex(clip);
        const auto keep = [&] {
            const KnownMedia known(kept);
            const auto index = known.index(clip);
            return known.findings(index)->describe();
        };
        const std::string described = keep();
        const QStringList files = filesIn(kept);
        QCOMPARE(files.size(), 2);
        for (const QString& name : files) {
            QFile file(name);
            QVERIFY(file.open(QIODevice::ReadOnly));
            const QByteArray whole = file.readAll();
            file.close();
            for (const qsizetype at : {qsizetype{0}, qsizetype{15}, whole.size() / 3, whole.size() - 1}) {
                for (const bool cut : {true, false}) {
                    QByteArray damaged = cut ? whole.left(at) : whole;
                    if (!cut) damaged[at] = static_cast<char>(damaged[at] ^ 0x55);
                    QVERIFY(file.open(QIODevice::WriteOnly | QIODevice::Truncate));
                    file.write(damaged);
                    file.close();
                    const KnownMedia known(kept);
                    const auto index = known.index(clip);
                    QVERIFY(same(*index, truth));
                    QCOMPARE(known.findings(index)->describe(), described);
                    known.flush();
                    QVERIFY(file.open(QIODevice::ReadOnly));
                    QCOMPARE(file.readAll().size(), whole.size()); // put right
                    file.close();
                }
            }
        }
    }

    void bytesOfAnotherKeyOrFormAreNotTaken() {
        const fs::path file = folder("value.known");
        writeKept(file, "key", "bytes\nand more");
        QCOMPARE(readKept(file, "key"), std::optional<std::string>("bytes\nand more"));
        QVERIFY(!readKept(file, "kez"));
        QVERIFY(!readKept(file, "ke"));
        QVERIFY(!readKept(folder("none.known"), "key"));

        // Sound as a file, but of a form that ends too soon.
        const fs::path kept = folder("forged");
        const fs::path clip = clip_.toStdString();
        QString indexFile;
        {
            const KnownMedia known(kept);
            (void)known.index(clip);
            known.flush();
            indexFile = filesIn(kept).front();
        }
        QFile stored(indexFile);
        QVERIFY(stored.open(QIODevice::ReadOnly));
        const QByteArray whole = stored.readAll();
        stored.close();
        const std::string key = whole.mid(16, whole.indexOf('\n') - 16).toStdString();
        const std::string bytes = whole.mid(whole.indexOf('\n') + 1).toStdString();
        for (std::size_t at = 0; at < bytes.size(); at += 997) {
            writeKept(indexFile.toStdString(), key, bytes.substr(0, at));
            const KnownMedia known(kept);
            try {
                const auto index = known.index(clip);
                QVERIFY(same(*index, buildIndex(clip)));
            } catch (const std::exception& error) {
                QFAIL(error.what());
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestKnownMedia)
#include "test_known_media.moc"
