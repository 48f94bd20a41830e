// Sources that change: while they are rendered, and between two renders that share a cache.

#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"

#include <QDir>
#include <QFile>
#include <QTest>

#include <array>
#include <fcntl.h>
#include <functional>
#include <sys/stat.h>
#include <unistd.h>

using namespace yarngap::test;

class TestDisturbed : public QObject {
    Q_OBJECT

    Clips clips_;

    QString folder(const QString& name) const { return emptied(clips_.path(name)); }
    QString madeVideo() const {
        return clips_.moving(QStringLiteral("long.mkv"), 400, words(QStringLiteral("-c:v ffv1 -g 1")),
                             QStringLiteral("320x240"));
    }
    QString madePictures() const {
        folder(QStringLiteral("in"));
        clips_.moving(QStringLiteral("in/p_%03d.tif"), 120, words(QStringLiteral("-compression_algo raw")),
                      QStringLiteral("320x240"), QStringLiteral("24"), QStringLiteral("rgb24"));
        return clips_.path(QStringLiteral("in/p_001.tif"));
    }
    /// Frames are given so that the file is not looked through before it is rendered.
    static QStringList rendering(const QString& source, const QString& target,
                                 const char* method = "sample") {
        return QStringList{QStringLiteral("render"), source, QStringLiteral("-o"), target} +
               words(QStringLiteral("--cuts none --repeats none --speed 50% --method ") +
                     QString::fromLatin1(method));
    }

    /// Renders, disturbs the source once writing has begun, and waits for the end.
    Outcome disturbed(const QString& source, const QString& to, const std::function<void()>& disturb) const {
        QProcess process;
        process.start(QStringLiteral(YARNGAP_CLI), rendering(source, to + QStringLiteral("/x.mov")));
        const bool isWriting = QTest::qWaitFor([&] { return !everythingIn(to).isEmpty(); }, 30'000);
        if (!isWriting) return {-1, {}, QStringLiteral("it never began")};
        disturb();
        if (!process.waitForFinished(120'000)) return {-1, {}, QStringLiteral("did not end")};
        return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -2,
                {},
                QString::fromUtf8(process.readAllStandardError())};
    }

    void failsOrIsRight(const Outcome& o, const QString& to, const QByteArray& whole) const {
        QVERIFY2(o.status == 0 || (o.status > 0 && o.err.trimmed().endsWith(QLatin1Char('.'))),
                 o.told().constData());
        if (o.status == 0)
            QVERIFY2(bytesOf(to + QStringLiteral("/x.mov")) == whole,
                     qPrintable(QStringLiteral("%1 bytes, not %2; %3")
                                    .arg(QFileInfo(to + QStringLiteral("/x.mov")).size())
                                    .arg(whole.size())
                                    .arg(everythingIn(to).join(QLatin1Char(' ')))));
        else
            QVERIFY2(everythingIn(to).isEmpty(), o.told().constData());
    }

  private Q_SLOTS:
    void aVideoThatChangesStopsTheRender_data() {
        QTest::addColumn<int>("how");
        QTest::newRow("cut short") << 0;
        QTest::newRow("overwritten, same size") << 1;
        QTest::newRow("replaced by another file") << 2;
        QTest::newRow("deleted") << 3;
    }
    void aVideoThatChangesStopsTheRender() {
        QFETCH(int, how);
        const QString source = madeVideo();
        QString to = folder(QStringLiteral("out"));
        QCOMPARE(
            runProgram(QStringLiteral(YARNGAP_CLI), rendering(source, to + QStringLiteral("/x.mov"))).status,
            0);
        const QByteArray whole = bytesOf(to + QStringLiteral("/x.mov"));
        to = folder(QStringLiteral("out"));
        const QByteArray content = bytesOf(source);
        const Outcome o = disturbed(source, to, [&] {
            switch (how) {
            case 0:
                QCOMPARE(::truncate(qPrintable(source), content.size() / 8), 0);
                break;
            case 1:
                putBytes(source, content.left(content.size() / 8) +
                                     QByteArray(content.size() - content.size() / 8, static_cast<char>(0)));
                break;
            case 2:
                putBytes(source + QStringLiteral(".new"), QByteArray(content.size(), 'x'));
                QCOMPARE(::rename(qPrintable(source + QStringLiteral(".new")), qPrintable(source)), 0);
                break;
            default:
                QVERIFY(QFile::remove(source));
            }
        });
        failsOrIsRight(o, to, whole);
        if (how < 2) QVERIFY2(o.status != 0, o.told().constData());
    }

    void picturesThatChangeStopTheRender_data() {
        QTest::addColumn<int>("how");
        QTest::newRow("deleted") << 0;
        QTest::newRow("cut short") << 1;
        QTest::newRow("rendered anew, same size") << 2;
    }
    void picturesThatChangeStopTheRender() {
        QFETCH(int, how);
        const QString source = madePictures();
        QString to = folder(QStringLiteral("out"));
        const Outcome o = disturbed(source, to, [&] {
            for (int n = 100; n <= 120; ++n) {
                const QString file = clips_.path(QStringLiteral("in/p_%1.tif").arg(n));
                const QByteArray content = bytesOf(file);
                if (how == 0)
                    QVERIFY(QFile::remove(file));
                else if (how == 1)
                    QCOMPARE(::truncate(qPrintable(file), content.size() / 2), 0);
                else
                    putBytes(file, bytesOf(clips_.path(QStringLiteral("in/p_001.tif"))));
            }
        });
        // What is there in the end is not what was opened: frames are missing, or are those of another take.
        QVERIFY2(o.status > 0 && o.err.trimmed().endsWith(QLatin1Char('.')), o.told().constData());
        QVERIFY2(everythingIn(to).isEmpty(), o.told().constData());
    }

    void aFrameThatCannotBeDecodedFollowsTheChoice() {
        // Every frame is a key; the bytes of one are gone, as after a bad copy.
        const QString source = clips_.moving(
            QStringLiteral("bad.avi"), 12, words(QStringLiteral("-c:v ffv1 -g 1")), QStringLiteral("64x48"));
        QByteArray content = bytesOf(source);
        const qsizetype seventh = [&] {
            qsizetype at = content.indexOf("movi");
            for (int i = 0; i < 7; ++i)
                at = content.indexOf("00dc", at + 4);
            return at;
        }();
        QVERIFY(seventh > 0);
        content.replace(seventh + 8, 64, QByteArray(64, static_cast<char>(0xFF)));
        putBytes(source, content);
        const QString to = folder(QStringLiteral("out"));
        const QStringList plain = rendering(source, to + QStringLiteral("/x.mkv"));
        const Outcome stopped = runProgram(QStringLiteral(YARNGAP_CLI), plain);
        QCOMPARE(stopped.status, 3);
        QVERIFY2(stopped.err.contains(QStringLiteral("Frame 6 ")), stopped.told().constData());
        QVERIFY(everythingIn(to).isEmpty());
        const Outcome held = runProgram(QStringLiteral(YARNGAP_CLI),
                                        plain + words(QStringLiteral("--undecodable hold --json")));
        QCOMPARE(held.status, 4);
        const QJsonObject report = held.json();
        const QJsonObject counts = report[QStringLiteral("counts")].toObject();
        QCOMPARE(counts[QStringLiteral("standIn")].toInt(), 2); // shown twice at half speed
        QCOMPARE(counts[QStringLiteral("original")].toInt() + counts[QStringLiteral("repeat")].toInt() +
                     counts[QStringLiteral("held")].toInt() + 2,
                 report[QStringLiteral("frames")].toInt());
        QVERIFY(QFile::exists(to + QStringLiteral("/x.mkv")));
    }

    void anotherContentOfTheSameSizeIsSeen_data() {
        QTest::addColumn<bool>("arePictures");
        QTest::addColumn<bool>("timeIsSetBack");
        QTest::newRow("raw video") << false << false;
        QTest::newRow("raw video, its time set back") << false << true;
        QTest::newRow("raw pictures") << true << false;
        QTest::newRow("raw pictures, their times set back") << true << true;
    }
    void anotherContentOfTheSameSizeIsSeen() {
        QFETCH(bool, arePictures);
        QFETCH(bool, timeIsSetBack);
        constexpr int frames = 6;
        folder(QStringLiteral("same"));
        const QString source =
            clips_.path(arePictures ? QStringLiteral("same/p_001.tif") : QStringLiteral("same/raw.avi"));
        clips_.moving(
            arePictures ? QStringLiteral("same/p_%03d.tif") : QStringLiteral("same/raw.avi"), frames,
            words(arePictures ? QStringLiteral("-compression_algo raw") : QStringLiteral("-c:v rawvideo")),
            QStringLiteral("64x48"), QStringLiteral("24"),
            arePictures ? QStringLiteral("rgb24") : QStringLiteral("yuv420p"));
        const auto rendered = [&](const QString& cache) {
            const QString to = folder(QStringLiteral("out"));
            const Outcome o = runProgram(QStringLiteral(YARNGAP_CLI),
                                         rendering(source, to + QStringLiteral("/x.mov"), "flow"),
                                         {QStringLiteral("XDG_CACHE_HOME"), cache});
            return o.status == 0 ? bytesOf(to + QStringLiteral("/x.mov")) : QByteArray();
        };
        const QString kept = folder(QStringLiteral("kept"));
        QByteArray last = rendered(kept);
        QVERIFY(!last.isEmpty());
        for (int n = 0; n < frames; ++n) {
            const QString file =
                arePictures ? clips_.path(QStringLiteral("same/p_%1.tif").arg(n + 1, 3, 10, QLatin1Char('0')))
                            : source;
            struct stat before {};
            QCOMPARE(::stat(qPrintable(file), &before), 0);
            QByteArray content = bytesOf(file);
            const qsizetype frameBytes = arePictures ? 64 * 48 * 3 : 64 * 48 * 3 / 2;
            qsizetype at = content.size() - frameBytes - 600; // a picture holds its samples and little else
            if (!arePictures) {
                at = content.indexOf("movi");
                for (int i = 0; i <= n; ++i)
                    at = content.indexOf("00dc", at + 4);
            }
            at = std::max<qsizetype>(at, 0) + 600;
            for (int i = 0; i < 1500; ++i)
                content[at + i] = static_cast<char>(255 - static_cast<unsigned char>(content[at + i]));
            putBytes(file, content);
            if (timeIsSetBack) {
                const std::array<struct timespec, 2> times{before.st_atim, before.st_mtim};
                QCOMPARE(::utimensat(AT_FDCWD, qPrintable(file), times.data(), 0), 0);
            }
            const QByteArray now = rendered(kept);
            QVERIFY(!now.isEmpty());
            QVERIFY2(now != last, "The change does not show at all.");
            QVERIFY2(now == rendered(folder(QStringLiteral("fresh"))), qPrintable(QString::number(n)));
            last = now;
        }
    }
};

QTEST_GUILESS_MAIN(TestDisturbed)
#include "test_disturbed.moc"
