// Killed at any moment, and two at once: targets, project and caches stay whole.

#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"

#include <QDir>
#include <QDirIterator>
#include <QElapsedTimer>
#include <QFile>
#include <QTest>

#include <csignal>
#include <random>

using namespace yarngap::test;

namespace {

QStringList straysIn(const QString& folder) {
    QStringList strays;
    for (QDirIterator it(folder, {QStringLiteral("*partial*")},
                         QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot,
                         QDirIterator::Subdirectories);
         it.hasNext();)
        strays << it.next();
    return strays;
}

bool hasEnded(QProcess& process) {
    return process.state() == QProcess::NotRunning || process.waitForFinished(120'000);
}

int rounds(int usual) {
    const int asked = qEnvironmentVariableIntValue("YARNGAP_KILLS");
#ifdef YARNGAP_SANITIZED
    usual = (usual + 2) / 3; // a program with sanitizers takes a second to start
#endif
    return asked > 0 ? asked : usual;
}

} // namespace

class TestKills : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;
    std::mt19937 random_{20};

    QString folder(const char* name) const { return emptied(clips_.path(QString::fromLatin1(name))); }
    QStringList rendering(const QString& target) const {
        return QStringList{QStringLiteral("render"), clip_, QStringLiteral("-o"), target} +
               words(QStringLiteral("--cuts none --repeats none --speed 50% --replace --quality draft"));
    }
    std::unique_ptr<QProcess> started(const QString& program, const QStringList& arguments) const {
        auto process = std::make_unique<QProcess>();
        auto environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("XDG_CACHE_HOME"), clips_.path(QStringLiteral("cache")));
        process->setProcessEnvironment(environment);
        process->start(program, arguments);
        if (!process->waitForStarted()) qFatal("%s does not start", qPrintable(program));
        return process;
    }
    int ended(const QString& program, const QStringList& arguments) const {
        const auto process = started(program, arguments);
        if (!process->waitForFinished(120'000)) return -1;
        return process->exitStatus() == QProcess::NormalExit ? process->exitCode() : -2;
    }

  private Q_SLOTS:
    void initTestCase() {
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 16, words(QStringLiteral("-c:v mpeg4")),
                              QStringLiteral("96x64"));
    }

    void aKilledRenderLeavesTheOldOrTheNew_data() {
        QTest::addColumn<QString>("target");
        QTest::addColumn<int>("signal");
        QTest::addColumn<QString>("more");
        QTest::newRow("video, killed") << QStringLiteral("a.mov") << SIGKILL << QString();
        QTest::newRow("sequence, killed") << QStringLiteral("a_####.png") << SIGKILL << QString();
        QTest::newRow("video, its terminal closed") << QStringLiteral("a.mov") << SIGHUP << QString();
        QTest::newRow("in parts, killed")
            << QStringLiteral("a.mov") << SIGKILL << QStringLiteral("--slices 4");
        QTest::newRow("sequence in parts, killed")
            << QStringLiteral("a_####.png") << SIGKILL << QStringLiteral("--slices 3");
    }
    void aKilledRenderLeavesTheOldOrTheNew() {
        QFETCH(QString, target);
        QFETCH(int, signal);
        QFETCH(QString, more);
        const QString to = folder("out");
        const QString first =
            to + QLatin1Char('/') + QString(target).replace(QStringLiteral("####"), QStringLiteral("0000"));
        const QStringList asked = rendering(to + QLatin1Char('/') + target) + words(more);
        QElapsedTimer timer;
        timer.start();
        QCOMPARE(ended(QStringLiteral(YARNGAP_CLI), asked), 0);
        const auto usual = static_cast<int>(timer.elapsed());
        const QByteArray whole = bytesOf(first);
        const auto files = QDir(to).entryList(QDir::Files);
        for (int i = 0; i < rounds(10); ++i) {
            for (const QString& file : files)
                putBytes(to + QLatin1Char('/') + file, "old");
            QDir(clips_.path(QStringLiteral("cache"))).removeRecursively();
            const auto process = started(QStringLiteral(YARNGAP_CLI), asked);
            // Any moment of its life; this is not a wait for something to happen.
            process->waitForFinished(std::uniform_int_distribution<int>(usual / 4, usual)(random_));
            if (process->state() != QProcess::NotRunning)
                ::kill(static_cast<pid_t>(process->processId()), signal);
            QVERIFY(hasEnded(*process));
            if (signal == SIGHUP) QVERIFY2(straysIn(to).isEmpty(), "It could have cleaned up.");
            for (const QString& file : QDir(to).entryList(QDir::Files)) {
                const QByteArray there = bytesOf(to + QLatin1Char('/') + file);
                QVERIFY2(there == "old" || there.size() > 100, qPrintable(file));
                if (file == QFileInfo(first).fileName()) QVERIFY(there == "old" || there == whole);
            }
            // The next start takes away what is left, and finds caches that tell it nothing wrong.
            QCOMPARE(ended(QStringLiteral(YARNGAP_CLI), asked), 0);
            QCOMPARE(bytesOf(first), whole);
            QCOMPARE(QDir(to).entryList(QDir::Files), files);
            QVERIFY2(straysIn(to).isEmpty(), qPrintable(straysIn(to).join(QLatin1Char(' '))));
            QCOMPARE(QDir(to).entryList(QDir::Dirs | QDir::NoDotAndDotDot), QStringList()); // parts, joined
            QVERIFY2(straysIn(clips_.path(QStringLiteral("cache"))).isEmpty(), "in the cache");
        }
    }

    void twoAtOnceOnOneTarget_data() {
        QTest::addColumn<QString>("target");
        QTest::newRow("video") << QStringLiteral("a.mov");
        QTest::newRow("sequence") << QStringLiteral("a_####.png");
    }
    void twoAtOnceOnOneTarget() {
        QFETCH(QString, target);
        const QString to = folder("out");
        QCOMPARE(ended(QStringLiteral(YARNGAP_CLI), rendering(to + QLatin1Char('/') + target)), 0);
        const auto files = QDir(to).entryList(QDir::Files);
        std::vector<QByteArray> whole;
        for (const QString& file : files)
            whole.push_back(bytesOf(to + QLatin1Char('/') + file));
        for (int i = 0; i < rounds(3); ++i) {
            QDir(clips_.path(QStringLiteral("cache"))).removeRecursively();
            const auto one = started(QStringLiteral(YARNGAP_CLI), rendering(to + QLatin1Char('/') + target));
            const auto other =
                started(QStringLiteral(YARNGAP_CLI), rendering(to + QLatin1Char('/') + target));
            QVERIFY(hasEnded(*one) && hasEnded(*other));
            QVERIFY(one->exitCode() == 0 || other->exitCode() == 0);
            QCOMPARE(QDir(to).entryList(QDir::Files), files);
            for (qsizetype f = 0; f < files.size(); ++f)
                QCOMPARE(bytesOf(to + QLatin1Char('/') + files[f]), whole[static_cast<std::size_t>(f)]);
            QVERIFY2(straysIn(to).isEmpty() && straysIn(clips_.path(QStringLiteral("cache"))).isEmpty(),
                     qPrintable(straysIn(to).join(QLatin1Char(' '))));
        }
    }

    void aKilledSaveLeavesTheOldOrTheNew() {
        const QString to = folder("projects");
        const auto project = [](const char* name) {
            return QByteArray("{\"yarngap\":1,\"shots\":[{\"name\":\"") + name +
                   "\",\"media\":\"/nowhere/clip.mp4\"}]}";
        };
        for (const char* name : {"one", "two"})
            putBytes(QStringLiteral("%1/%2.yarngap").arg(to, QString::fromLatin1(name)), project(name));
        const QString target = to + QStringLiteral("/target.yarngap");
        putBytes(target, project("old"));
        const QStringList save{QStringLiteral("save"), to + QStringLiteral("/one.yarngap"), target};
        QElapsedTimer timer;
        timer.start();
        QCOMPARE(ended(QStringLiteral(YARNGAP_FAULTS_ACTOR), save), 0);
        const auto usual = static_cast<int>(timer.elapsed());
        for (int i = 0; i < rounds(10); ++i) {
            const auto one = started(QStringLiteral(YARNGAP_FAULTS_ACTOR), save);
            const auto other = started(QStringLiteral(YARNGAP_FAULTS_ACTOR),
                                       {save[0], to + QStringLiteral("/two.yarngap"), target});
            one->waitForFinished(std::uniform_int_distribution<int>(usual / 2, usual)(random_));
            one->kill();
            QVERIFY(hasEnded(*one) && hasEnded(*other));
            // The other one has saved, or says that somebody else did, while it read or before it wrote.
            const QByteArray said = other->readAllStandardError();
            QVERIFY2(other->exitCode() == 0 || said.contains("changed by another program") ||
                         said.contains("changed on disk"),
                     said.constData());
            const QByteArray there = bytesOf(target);
            QVERIFY2(QJsonDocument::fromJson(there).object()[QStringLiteral("shots")].isArray(),
                     there.constData());
        }
        QCOMPARE(ended(QStringLiteral(YARNGAP_FAULTS_ACTOR), save), 0);
        QVERIFY2(straysIn(to).isEmpty(), qPrintable(straysIn(to).join(QLatin1Char(' '))));
    }
};

QTEST_GUILESS_MAIN(TestKills)
#include "test_kills.moc"
