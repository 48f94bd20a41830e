// Slices on a real Slurm cluster of one node, which the test starts and stops.

#ifndef Q_MOC_RUN
#include "app/steps/step_card.h"
#include "core/media/library_messages.h"
#endif
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/program.h"
#include "support/shot_window.h"

#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QJsonArray>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QStandardPaths>
#include <QTest>

#include <unistd.h>

using namespace yarngap::test;
using yarngap::app::StepCard;

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
        const QJsonArray slices = o.json()[QLatin1String("slices")].toArray();
        for (const auto& slice : slices) {
            const QString word = slice.toString();
            state.ready += word == QStringLiteral("ready") ? 1 : 0;
            state.running += word == QStringLiteral("running") ? 1 : 0;
            state.waiting += word == QStringLiteral("waiting") ? 1 : 0;
            state.failed += word == QStringLiteral("failed") ? 1 : 0;
        }
        state.join = o.json()[QLatin1String("join")].toString();
        return state;
    }
    /// Asks a few times a second, so that asking does not take the machine from those who render.
    bool comesTo(const QString& target, const std::function<bool(const State&)>& wanted) const {
        constexpr int often = 400; // ms
        QElapsedTimer sinceLast;
        return QTest::qWaitFor(
            [&] {
                if (sinceLast.isValid() && sinceLast.elapsed() < often) return false;
                cluster(QStringLiteral("hurry"), state_);
                sinceLast.start();
                return wanted(stateOf(target));
            },
            longest);
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

    void theWindowHandsOverAndTellsHowFarItIs() {
        const QString target = clips_.path(QStringLiteral("by_window.mkv"));
        ShotWindow window;
        window.open(clip_); // at 25 %
        auto* card = window.find<StepCard>("renderStep");
        if (!card->isOpen()) QTest::mouseClick(card->header(), Qt::LeftButton);
        auto* field = window.find<QLineEdit>("targetField");
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, target);
        window.choose("whereBox", 1);
        auto* start = window.find<QPushButton>("renderButton");
        QTRY_VERIFY_WITH_TIMEOUT(start->isEnabled(), longest);
        QCOMPARE(start->text(), QStringLiteral("Hand to the farm"));
        QTest::mouseClick(start, Qt::LeftButton);
        const auto lineSays = [&](const QString& words) {
            const auto labels = window->findChildren<QLabel*>();
            return std::any_of(labels.begin(), labels.end(), [&](const QLabel* label) {
                return label->isVisible() && label->text().contains(words);
            });
        };
        QTRY_VERIFY_WITH_TIMEOUT(lineSays(QStringLiteral("farm: ")), longest);
        QTest::mouseClick(window.find<QPushButton>("queuePartsButton"), Qt::LeftButton);
        QTRY_VERIFY(window.find<QListWidget>("farmPartsList")->count() >= 2);
        QTRY_VERIFY_WITH_TIMEOUT(
            window.find<QPlainTextEdit>("farmLog")->toPlainText().contains(QStringLiteral("ready")), longest);
        QTRY_VERIFY_WITH_TIMEOUT(lineSays(QStringLiteral("The farm has written")), longest);
        QCOMPARE(linearFrames(target, QStringLiteral("yuv420p")),
                 linearFrames(clips_.path(QStringLiteral("alone.mkv")), QStringLiteral("yuv420p")));
        QVERIFY(!QDir(target + QStringLiteral(".slices")).exists());
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
