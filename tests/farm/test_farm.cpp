// Slices on a real Slurm cluster of one node, which the test starts and stops.

#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"

#include <QDir>
#include <QFile>
#include <QJsonArray>
#include <QStandardPaths>
#include <QTest>

#include <unistd.h>

using namespace yarngap::test;

namespace {

constexpr int longest = 240'000; // ms until a cluster has done a small render, with a node that is revived

Outcome run(const QStringList& arguments) {
    return runProgram(QStringLiteral(YARNGAP_CLI), arguments);
}

Outcome cluster(const QString& what, const QString& folder) {
    return runProgram(QStringLiteral(YARNGAP_CLUSTER), {what, folder});
}

} // namespace

class TestFarm : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;
    QString state_;
    bool isUp_ = false;

    struct State {
        int ready = 0, running = 0, waiting = 0, failed = 0;
        QString join;
    };
    static State stateOf(const QString& target) {
        const Outcome o = run({QStringLiteral("farm"), target, QStringLiteral("--json")});
        State state;
        for (const QJsonValue& slice : o.json()[QLatin1String("slices")].toArray()) {
            const QString word = slice.toString();
            state.ready += word == QStringLiteral("ready") ? 1 : 0;
            state.running += word == QStringLiteral("running") ? 1 : 0;
            state.waiting += word == QStringLiteral("waiting") ? 1 : 0;
            state.failed += word == QStringLiteral("failed") ? 1 : 0;
        }
        state.join = o.json()[QLatin1String("join")].toString();
        return state;
    }
    static bool comesTo(const QString& target, const std::function<bool(const State&)>& wanted) {
        return QTest::qWaitFor([&] { return wanted(stateOf(target)); }, longest);
    }
    [[nodiscard]] QStringList command(const QString& target, int slices) const {
        return {QStringLiteral("render"), clip_,  QStringLiteral("--speed"),  QStringLiteral("25%"),
                QStringLiteral("-o"),     target, QStringLiteral("--slices"), QString::number(slices),
                QStringLiteral("--farm")};
    }
    [[nodiscard]] QByteArray straight(const QString& name) const {
        const QString target = clips_.path(name);
        const Outcome o = run({QStringLiteral("render"), clip_, QStringLiteral("--speed"),
                               QStringLiteral("25%"), QStringLiteral("-o"), target});
        return o.status == 0 ? bytesOf(target) : QByteArray();
    }

  private Q_SLOTS:
    void initTestCase() {
        yarngap::silenceMediaLibraries();
        if (::geteuid() != 0 || QStandardPaths::findExecutable(QStringLiteral("sbatch")).isEmpty())
            QSKIP("This needs root and what scripts/setup --farm installs.");
        state_ = clips_.path(QStringLiteral("cluster"));
        qputenv("SLURM_CONF", (state_ + QStringLiteral("/slurm.conf")).toLocal8Bit());
        qputenv("YARNGAP_SLURM_PORT", "16817");
        // Every frame is to be made on the cluster.
        qputenv("XDG_CACHE_HOME", clips_.path(QStringLiteral("caches")).toLocal8Bit());
        const Outcome up = cluster(QStringLiteral("start"), state_);
        QVERIFY2(up.status == 0, up.told());
        isUp_ = true;
        clip_ = clips_.make(QStringLiteral("clip.mkv"),
                            {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("testsrc2=size=320x240:rate=24:d=2"), QStringLiteral("-f"),
                             QStringLiteral("lavfi"), QStringLiteral("-i"),
                             QStringLiteral("aevalsrc=0.4*sin(900*t):s=48000:d=2"), QStringLiteral("-c:v"),
                             QStringLiteral("ffv1"), QStringLiteral("-c:a"), QStringLiteral("pcm_s16le")});
    }
    void cleanupTestCase() {
        if (isUp_) cluster(QStringLiteral("stop"), state_);
    }

    void theResultIsThatOfOneMachine() {
        const QString target = clips_.path(QStringLiteral("farmed.mkv"));
        const Outcome o = run(command(target, 5));
        QVERIFY2(o.status == 0, o.told());
        QVERIFY(o.out.contains("5 slices are handed to Slurm"));
        QVERIFY(comesTo(target, [](const State& s) { return s.join == QStringLiteral("done"); }));
        QVERIFY(bytesOf(target) == straight(QStringLiteral("alone.mkv")));
        QVERIFY(!QDir(target + QStringLiteral(".slices")).exists());
    }

    void aNodeThatDiesInTheMiddleCostsNothingButTime() {
        const QString target = clips_.path(QStringLiteral("survivor.mkv"));
        QVERIFY(run(command(target, 8)).status == 0);
        QVERIFY(comesTo(target, [](const State& s) { return s.ready >= 1 && s.running >= 1; }));
        QCOMPARE(cluster(QStringLiteral("kill"), state_).status, 0);
        QVERIFY(!QFile::exists(target));
        QVERIFY2(cluster(QStringLiteral("revive"), state_).status == 0, "the node does not come back");
        QVERIFY(comesTo(target, [](const State& s) { return s.join == QStringLiteral("done"); }));
        QVERIFY(bytesOf(target) == straight(QStringLiteral("alone2.mkv")));
    }

    void aSliceThatFailsIsToldAndCanBeTriedAgain() {
        const QString target = clips_.path(QStringLiteral("mended.mkv"));
        const QString away = clips_.path(QStringLiteral("away.mkv"));
        QStringList prepare = command(target, 3);
        prepare.last() = QStringLiteral("--prepare");
        QVERIFY2(run(prepare).status == 0, run(prepare).told());
        QVERIFY(run(command(target, 3)).status == 0);
        QVERIFY(QFile::rename(clip_, away)); // the disk with the media is gone
        QVERIFY(comesTo(target, [](const State& s) { return s.join == QStringLiteral("failed"); }));
        QVERIFY(QFile::rename(away, clip_));
        const State state = stateOf(target);
        QVERIFY(state.failed > 0);
        const Outcome log =
            run({QStringLiteral("farm"), target, QStringLiteral("--log"), QStringLiteral("2")});
        QVERIFY2(log.out.contains("clip.mkv"), log.out); // which file is missing
        QVERIFY(run({QStringLiteral("farm"), target, QStringLiteral("--retry")}).status == 0);
        QVERIFY(comesTo(target, [](const State& s) { return s.join == QStringLiteral("done"); }));
        QVERIFY(bytesOf(target) == straight(QStringLiteral("alone3.mkv")));
    }

    void cancelTakesAllOfItOffTheCluster() {
        const QString target = clips_.path(QStringLiteral("dropped.mkv"));
        QVERIFY(run(command(target, 12)).status == 0);
        // A second time it is refused.
        const Outcome twice = run(command(target, 12));
        QVERIFY2(twice.isRefusal() && twice.err.contains(QStringLiteral("already")), twice.told());
        QVERIFY(run({QStringLiteral("farm"), target, QStringLiteral("--cancel")}).status == 0);
        QVERIFY(comesTo(target, [](const State& s) {
            return s.running == 0 && s.waiting == 0 && s.join == QStringLiteral("failed");
        }));
        QVERIFY(!QFile::exists(target));
        const Outcome queue = runProgram(QStringLiteral("squeue"), {QStringLiteral("--noheader")});
        QVERIFY2(queue.out.trimmed().isEmpty(), queue.out);
    }
};

QTEST_MAIN(TestFarm)
#include "test_farm.moc"
