// Vectors on disk: the same as those in memory, within their limit, whatever happens to the folder.

#include "core/error.h"
#include "core/files/leftovers.h"
#include "core/motion/cell_vectors.h"
#include "core/motion/half_floats.h"
#include "core/motion/kept_vectors.h"
#include "core/motion/vector_file.h"
#include "core/motion/vector_folder.h"
#include "core/motion/vector_store.h"
#include "support/file_bytes.h"
#include "support/makers.h"
#include "support/pictures.h"

#include <OpenImageIO/imageio.h>

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <csignal>

#include <sys/resource.h>

using namespace yarngap;
using namespace yarngap::test;
namespace fs = std::filesystem;

namespace {

Image frame(int n) {
    return pictureOf(64, 48, {.model = ColourModel::grey, .depth = 8}, [=](int, int x, int y) {
        return 128 + 60 * std::sin((x - 1.7 * n) * 0.4) * std::sin(y * 0.3);
    });
}

bool same(const Vectors& a, const Vectors& b) {
    return a.forward.xy == b.forward.xy && a.backward.xy == b.backward.xy &&
           a.forwardTrust.values == b.forwardTrust.values && a.backwardTrust.values == b.backwardTrust.values;
}

} // namespace

class TestVectorFiles : public QObject {
    Q_OBJECT

    QTemporaryDir dir_;
    [[nodiscard]] fs::path path(const char* name) const {
        return dir_.filePath(QString::fromLatin1(name)).toStdString();
    }
    [[nodiscard]] static QStringList filesIn(const fs::path& folder) {
        return QDir(QString::fromStdString(folder.string())).entryList(QDir::Files);
    }
    const VectorsPtr made_ =
        std::make_shared<Vectors>(byPixels(estimateFlow(frame(0), frame(1), {}), 64, 48));

  private Q_SLOTS:
    void aFileGivesBackWhatWasEstimated() {
        writeVectors(path("one.exr"), *made_, "a key");
        const KeyedVectors read = readVectors(path("one.exr"));
        QVERIFY(same(read.vectors, *made_)); // bit for bit: estimates are rounded to halves
        QCOMPARE(read.key, std::string("a key"));
    }

    void halvesAreRoundedToTheNearest() {
        QCOMPARE(roundedToHalf(1.0F), 1.0F);
        QCOMPARE(roundedToHalf(100.03F), 100.0F); // steps of 1/16 between 64 and 128
        QCOMPARE(roundedToHalf(100.04F), 100.0625F);
        QCOMPARE(roundedToHalf(-2.0009F), -2.0F); // steps of 1/512 between 2 and 4
        QCOMPARE(roundedToHalf(1e-6F), 0.0F);
        QCOMPARE(roundedToHalf(1e6F), 65504.0F);
    }

    void channelsMayComeInAnyOrderAndWithoutTrust() {
        const std::string file = path("other.exr").string();
        OIIO::ImageSpec spec(3, 2, 5, OIIO::TypeDesc::FLOAT);
        spec.channelnames = {"Z", "backward.Y", "backward.X", "forward.Y", "forward.X"};
        std::vector<float> samples;
        for (int i = 0; i < 6; ++i)
            samples.insert(samples.end(), {9, 4, 3, 2, 1});
        const auto out = OIIO::ImageOutput::create(file);
        QVERIFY(out->open(file, spec) && out->write_image(OIIO::TypeDesc::FLOAT, samples.data()) &&
                out->close());
        const Vectors v = readVectors(file).vectors;
        QCOMPARE(v.forward.row(1)[4], 1.0F);
        QCOMPARE(v.forward.row(1)[5], 2.0F);
        QCOMPARE(v.backward.row(0)[0], 3.0F);
        QCOMPARE(v.backward.row(0)[1], 4.0F);
        QCOMPARE(v.forwardTrust.row(1)[2], std::uint8_t{255});
    }

    void whatIsNoVectorFileIsToldApart() {
        QFile text(QString::fromStdString(path("text.exr").string()));
        QVERIFY(text.open(QIODevice::WriteOnly) && text.write("no picture") > 0);
        text.close();
        QVERIFY_THROWS_EXCEPTION(Error, readVectors(path("text.exr")));
        QVERIFY_THROWS_EXCEPTION(Error, readVectors(path("missing.exr")));
        const std::string file = path("picture.exr").string();
        const OIIO::ImageSpec spec(2, 2, 3, OIIO::TypeDesc::HALF);
        const std::vector<float> samples(12, 0.5F);
        const auto out = OIIO::ImageOutput::create(file);
        QVERIFY(out->open(file, spec) && out->write_image(OIIO::TypeDesc::FLOAT, samples.data()) &&
                out->close());
        try {
            readVectors(file);
            QFAIL("a picture was taken for vectors");
        } catch (const Error& error) {
            QVERIFY(QString::fromStdString(error.what()).contains(QStringLiteral("forward.X")));
        }
    }

    void theNextSessionEstimatesNothing() {
        const auto folder = path("kept");
        const auto shared = std::make_shared<VectorFolder>(folder);
        VectorStore store(VectorStore::defaultBytes, shared);
        const auto v = store.vectors({0, 1, "n:0:1"}, frame(0), frame(1), {});
        shared->flush();
        VectorStore other(VectorStore::defaultBytes, std::make_shared<VectorFolder>(folder));
        QVERIFY(same(*other.vectors({0, 1, "n:0:1"}, frame(0), frame(1), {}), *v));
        QCOMPARE(other.estimations(), 0);
        other.vectors({0, 1, "n:0:1"}, frame(0), frame(1),
                      {.stiffness = 80}); // other settings are other vectors
        QCOMPARE(other.estimations(), 1);
    }

    void theFolderKeepsItsLimitAndWhatWasUsedLast() {
        const auto folder = path("limited");
        std::uintmax_t one = 0;
        {
            VectorFolder probe(folder);
            probe.keep("size", made_);
            probe.flush();
            one = probe.bytes();
        }
        VectorFolder small(folder, one * 3 + one / 2);
        for (const char* key : {"a", "b", "c", "d", "e"}) {
            small.keep(key, made_);
            small.flush();
            QVERIFY(small.bytes() <= one * 3 + one / 2 + 64);
            if (*key == 'c') QVERIFY(small.find("a", 64, 48)); // used again, so it outlives b
        }
        QVERIFY(!small.find("b", 64, 48));
        QVERIFY(small.find("e", 64, 48));
    }

    void damagedFilesGoAndAreMadeAgain() {
        const auto folder = path("damaged");
        const auto shared = std::make_shared<VectorFolder>(folder);
        shared->keep("key", made_);
        shared->flush();
        QCOMPARE(filesIn(folder).size(), 1);
        QFile file(QString::fromStdString((folder / filesIn(folder).front().toStdString()).string()));
        QVERIFY(file.resize(file.size() / 2));
        QVERIFY(!shared->find("key", 64, 48));
        QVERIFY(filesIn(folder).isEmpty());
    }

    void whatIsKeptComesBackToTheBit() {
        Vectors odd = *made_; // signs, zeros, what is too small and what is too large for a half
        odd.forward.xy[0] = -roundedToHalf(0.37F);
        odd.forward.xy[1] = 0;
        odd.forward.xy[2] = 65504;
        odd.backward.xy[3] = -65504;
        odd.backward.xy[5] = 6.103515625e-5F;
        const fs::path file = path("odd.vectors");
        writeKeptVectors(file, odd, "key");
        const VectorsPtr back = readKeptVectors(file, "key", 64, 48);
        QVERIFY(back && same(*back, odd));
        odd.forward.xy[4] = 1e-6F; // is nothing in a half
        odd.forward.xy[6] = 1.00001F;
        writeKeptVectors(file, odd, "key");
        const VectorsPtr rounded = readKeptVectors(file, "key", 64, 48);
        QCOMPARE(rounded->forward.xy[4], 0.0F);
        QCOMPARE(rounded->forward.xy[6], roundedToHalf(1.00001F));
    }

    void cellsAreKeptAsCells() {
        const Vectors cells = estimateFlow(frame(0), frame(1), {});
        QCOMPARE(cells.forward.width, 32);
        const fs::path file = path("cells.vectors");
        writeKeptVectors(file, cells, "key");
        const VectorsPtr back = readKeptVectors(file, "key", 64, 48);
        QVERIFY(back && same(*back, cells));
        QVERIFY(!readKeptVectors(file, "key", 64, 50)); // of pictures of another size
        QVERIFY(readKeptVectors(file, "key", 63, 47));  // these have as many cells
    }

    /// Such a file is smaller than what it claims to hold, and is refused before memory is asked for.
    void sizesAreLookedAtBeforeMemoryIsTaken() {
        const std::string file = path("claims.exr").string();
        writeVectors(file, *made_, "key");
        QVERIFY_THROWS_EXCEPTION(Error, readVectors(file, 1920, 1080));
        QFile out(QString::fromStdString(file));
        QVERIFY(out.open(QIODevice::ReadWrite));
        QByteArray bytes = out.readAll();
        // Both windows of the header end at 32767 x 32767.
        QByteArray window(16, '\0');
        window[8] = 63;
        window[12] = 47;
        QByteArray huge(16, '\0');
        for (const int at : {8, 12}) {
            huge[at] = '\xFF';
            huge[at + 1] = '\x7F';
        }
        QCOMPARE(bytes.count(window), 2);
        bytes.replace(window, huge);
        QVERIFY(out.seek(0) && out.write(bytes) == bytes.size());
        out.close();
        QVERIFY_THROWS_EXCEPTION(Error, readVectors(file));
        // Of what is kept only the size that is wanted is read at all.
        const std::string kept = path("claims.vectors").string();
        writeKeptVectors(kept, *made_, "key");
        QVERIFY(readKeptVectors(kept, "key", 64, 48));
        QVERIFY(!readKeptVectors(kept, "key", 1920, 1080));
        QVERIFY(!readKeptVectors(kept, "other key", 64, 48));
    }

    void noByteCanChangeUnseen() {
        const QString kept = QString::fromStdString(path("bytes.vectors").string());
        writeKeptVectors(kept.toStdString(), *made_, "key");
        const QByteArray whole = bytesOf(kept);
        const auto isTaken = [&](const QByteArray& bytes) {
            putBytes(kept, bytes);
            try {
                return readKeptVectors(kept.toStdString(), "key", 64, 48) != nullptr;
            } catch (const Error&) {
                return false;
            }
        };
        QVERIFY(isTaken(whole));
        for (qsizetype at = 0; at < whole.size(); at += 1 + at / 40) {
            QByteArray changed = whole;
            changed[at] = static_cast<char>(changed[at] ^ 0x10);
            QVERIFY2(!isTaken(changed), qPrintable(QString::number(at)));
            QVERIFY2(!isTaken(whole.left(at)), qPrintable(QString::number(at)));
        }
        QVERIFY(!isTaken(whole + 'x'));
    }

    void filesOfAnotherVersionAreNotRead() {
        const auto folder = path("other version");
        const auto shared = std::make_shared<VectorFolder>(folder);
        shared->keep("key", made_);
        shared->flush();
        QVERIFY(shared->find("key", 64, 48));
        const QString file =
            QString::fromStdString((folder / filesIn(folder).front().toStdString()).string());
        QByteArray bytes = bytesOf(file);
        const QByteArray now("yarngap vectors 2\n");
        QVERIFY(bytes.startsWith(now));
        bytes.replace(0, now.size(), "yarngap vectors 1\n");
        putBytes(file, bytes);
        QVERIFY(!shared->find("key", 64, 48));
        QVERIFY(filesIn(folder).isEmpty()); // and makes room
    }

    void valuesThatWereNotWrittenAreNotUsed() {
        const auto folder = path("altered");
        const auto shared = std::make_shared<VectorFolder>(folder);
        shared->keep("key", made_);
        shared->flush();
        QVERIFY(shared->find("key", 64, 48));
        const QString file =
            QString::fromStdString((folder / filesIn(folder).front().toStdString()).string());
        QByteArray bytes = bytesOf(file);
        bytes[bytes.size() / 2] = static_cast<char>(bytes[bytes.size() / 2] ^ 1);
        putBytes(file, bytes);
        QVERIFY(!shared->find("key", 64, 48));
        QVERIFY(filesIn(folder).isEmpty()); // taken away
    }

    void whatEarlierVersionsKeptGoes() {
        const auto folder = path("former");
        fs::create_directories(folder);
        writeVectors(folder / "0123456789abcdef.exr", *made_, "key");
        VectorFolder opened(folder);
        QVERIFY(!opened.find("key", 64, 48));
        opened.keep("key", made_);
        opened.flush();
        QCOMPARE(filesIn(folder).size(), 1);
        QVERIFY(opened.find("key", 64, 48));
    }

    void whatAKilledProgramLeftIsSwept() {
        const auto folder = path("swept");
        fs::create_directories(folder);
        Maker ended = thisMaker();
        ended.process = 999'999'999; // more than there can be
        for (const fs::path& name : {nameBy(ended, 1), nameBy(ended, 2)}) {
            QFile left(QString::fromStdString((folder / name).string()));
            QVERIFY(left.open(QIODevice::WriteOnly));
        }
        VectorFolder opened(folder);
        opened.keep("key", made_);
        opened.flush();
        QCOMPARE(filesIn(folder).size(), 1);
        QVERIFY(opened.find("key", 64, 48));
    }

    void aFolderThatCannotBeWrittenIsToldAndHarmsNothing() {
        QFile file(QString::fromStdString(path("blocked").string()));
        QVERIFY(file.open(QIODevice::WriteOnly)); // a file where the folder should be
        const auto folder = std::make_shared<VectorFolder>(path("blocked") / "vectors");
        VectorStore store(VectorStore::defaultBytes, folder);
        QVERIFY(store.vectors({0, 1, "m:0:1"}, frame(0), frame(1), {}));
        folder->flush();
        QVERIFY(QString::fromStdString(folder->trouble()).contains(QStringLiteral("There is no folder")));
    }

    void aDiskThatFillsUpIsToldAndLeavesNothing() {
        // Files may not grow beyond 500 bytes: writing fails in the middle, as on a full disk.
        const auto folder = path("full");
        fs::create_directories(folder);
        rlimit before{};
        QCOMPARE(::getrlimit(RLIMIT_FSIZE, &before), 0);
        const rlimit tight{500, before.rlim_max};
        const auto ignored = std::signal(SIGXFSZ, SIG_IGN);
        QCOMPARE(::setrlimit(RLIMIT_FSIZE, &tight), 0);
        QString said;
        try {
            writeVectors(folder / "one.exr", *made_, "");
        } catch (const Error& error) {
            said = QString::fromStdString(error.what());
        }
        ::setrlimit(RLIMIT_FSIZE, &before);
        std::signal(SIGXFSZ, ignored);
        QVERIFY2(said.contains(QStringLiteral("one.exr grew larger than")), qPrintable(said));
        QVERIFY(filesIn(folder).isEmpty());
    }

    void vectorsFromElsewhereGoFirst() {
        const auto folder = path("given");
        fs::create_directories(folder);
        Vectors own = *made_;
        std::fill(own.forward.xy.begin(), own.forward.xy.end(), 3.0F);
        writeVectors(folder / gapFileName(12), own, {});
        QCOMPARE(gapFileName(12), std::string("gap_000012.exr"));
        VectorStore store;
        store.useFiles(folder);
        QCOMPARE(store.vectors({12, 13, "m:12:13"}, frame(12), frame(13), {})->forward.xy.front(), 3.0F);
        QCOMPARE(store.estimations(), 0);
        store.vectors({13, 14, "m:13:14"}, frame(13), frame(14), {});
        QCOMPARE(store.estimations(), 1);
        const Image large =
            pictureOf(80, 48, {.model = ColourModel::grey, .depth = 8}, [](int, int, int) { return 9; });
        QVERIFY_THROWS_EXCEPTION(Error, store.vectors({12, 13, "other:12:13"}, large, large, {}));
        // Repaired by hand, they stay as they are, whatever the gaps beside tell.
        const VectorsPtr repaired = store.vectors({12, 13, "m:12:13"}, frame(12), frame(13), {});
        const GapsBeside beside{{"11", std::make_shared<Image>(frame(11)), made_}, {}};
        QCOMPARE(store.continued({12, 13, "m:12:13"}, frame(12), frame(13), {}, beside), repaired);
        QVERIFY(store.hasContinued({12, 13, "m:12:13"}, {}, "11", ""));
    }
};

QTEST_APPLESS_MAIN(TestVectorFiles)
#include "test_vector_files.moc"
