// Work survives a crash, and media that moved is found again by what it holds.

#include "app/document/recent_projects.h"
#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/program.h"

#include <QApplication>
#include <QDirIterator>
#include <QMenu>
#include <QProcess>
#include <QSignalSpy>
#include <QTest>

#include <csignal>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestRecovery : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    QString other_;

    static QPushButton* answer(MainWindow& window, const QString& text) {
        for (auto* button : window.findChildren<QPushButton*>())
            if (button->isVisible() && button->text() == text) return button;
        return nullptr;
    }
    static QStringList copiesIn(const QString& folder) {
        QStringList found;
        for (QDirIterator it(folder, {QStringLiteral("*.yarngap")}, QDir::Files,
                             QDirIterator::Subdirectories);
             it.hasNext();)
            found.append(it.next());
        return found;
    }
    static bool opened(MainWindow& window, const QString& file) {
        window.document().openFiles({file});
        return QTest::qWaitFor([&] { return window.plan() != nullptr; }, 20'000);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        applyTheme(*qApp);
        clip_ = clips_.moving(QStringLiteral("swallow.mp4"), 12, {}, QStringLiteral("160x90"));
        other_ = clips_.moving(QStringLiteral("wren.mp4"), 13, {}, QStringLiteral("160x90"));
    }

    void versionAndHelpNeedNoScreen() {
        for (const char* option : {"--version", "--help"}) {
            const Outcome o = runProgram(QStringLiteral(YARNGAP_PROGRAM), {QString::fromLatin1(option)},
                                         {QStringLiteral("QT_QPA_PLATFORM"), QStringLiteral("xcb"),
                                          QStringLiteral("DISPLAY"), QString()});
            QVERIFY2(o.status == 0, o.told());
            QVERIFY2(o.out.contains("yarngap") || o.out.contains("Yarn Gap"), o.out);
        }
    }

    void editsAreKeptSoonAndGoWhenSaved() {
        static_assert(RecoveryKeeper::delayMs < 1000); // leaves the disk a second of the two that may be lost
        QTemporaryDir folder;
        MainWindow window(folder.path());
        window.show();
        QVERIFY(opened(window, clip_));
        Shot shot = *window.document().current();
        shot.speed = Rational(1, 3);
        window.document().edit(QStringLiteral("speed"), shot);
        const auto kept = [&] {
            for (const QString& copy : copiesIn(folder.path()))
                try {
                    const Project project = loadProject(copy.toStdString());
                    if (!project.shots.empty() && project.shots.front().speed == Rational(1, 3)) return true;
                } catch (const std::exception&) {
                }
            return false;
        };
        QTRY_VERIFY_WITH_TIMEOUT(kept(), 20'000);
        window.document().save(clips_.path(QStringLiteral("kept.yarngap")));
        QTRY_VERIFY(copiesIn(folder.path()).isEmpty());
    }

    void aKilledProgramLosesNothing() {
        QTemporaryDir home;
        QProcess program;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert(QStringLiteral("XDG_DATA_HOME"), home.path());
        environment.insert(QStringLiteral("QT_QPA_PLATFORM"), QStringLiteral("offscreen"));
        program.setProcessEnvironment(environment);
        program.start(QStringLiteral(YARNGAP_PROGRAM), {clip_});
        QVERIFY(program.waitForStarted());
        QTRY_VERIFY_WITH_TIMEOUT(!copiesIn(home.path()).isEmpty(), 20'000);
        const QString folder = QFileInfo(copiesIn(home.path()).front()).absolutePath();
        {
            // While it runs, its copy is its own.
            MainWindow second(folder);
            second.show();
            QVERIFY(answer(second, QStringLiteral("Recover")) == nullptr);
        }
        ::kill(static_cast<pid_t>(program.processId()), SIGKILL);
        QVERIFY(program.waitForFinished());

        MainWindow window(folder);
        window.show();
        QVERIFY(window.findChild<QLabel*>(QStringLiteral("notice"))
                    ->text()
                    .contains(QStringLiteral("ended unexpectedly")));
        QVERIFY(answer(window, QStringLiteral("Recover")));
        QTest::mouseClick(answer(window, QStringLiteral("Recover")), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(window.plan() != nullptr, 20'000);
        QCOMPARE(window.document().project().shots.size(), std::size_t{1});
        QCOMPARE(QString::fromStdString(window.document().current()->media.string()), clip_);
        QVERIFY(window.document().hasUnsavedChanges());
        // The recovered work has a copy of its own before the old one goes.
        QTRY_COMPARE_WITH_TIMEOUT(copiesIn(folder).size(), qsizetype{1}, 5'000);
        QTRY_VERIFY_WITH_TIMEOUT(RecoveryKeeper(window.document(), folder).leftBehind().empty(), 5'000);
    }

    void mediaThatMovedIsFoundByItsContent() {
        const QString project = clips_.path(QStringLiteral("moved.yarngap"));
        {
            MainWindow window;
            window.show();
            QVERIFY(opened(window, clip_));
            window.document().save(project);
            QTRY_VERIFY(!window.document().hasUnsavedChanges());
        }
        const QString elsewhere = clips_.path(QStringLiteral("renamed.mp4"));
        QVERIFY(QFile::rename(clip_, elsewhere));
        QVERIFY(QFile::copy(other_, clips_.path(QStringLiteral("imposter.mp4"))));
        MainWindow window;
        window.show();
        window.document().openFiles({project});
        QTRY_VERIFY(window.document().current() != nullptr);
        const auto stage = [&] {
            return window.document().media().state(window.document().current()->media).stage;
        };
        QTRY_VERIFY_WITH_TIMEOUT(stage() == MediaState::Stage::failed, 20'000);
        QVERIFY(window.plan() == nullptr);

        window.document().relinkCurrent(clips_.path(QStringLiteral("imposter.mp4")));
        QTRY_VERIFY(answer(window, QStringLiteral("Use it anyway")) != nullptr);
        QVERIFY(window.findChild<QLabel*>(QStringLiteral("notice"))
                    ->text()
                    .contains(QStringLiteral("other pictures")));
        QVERIFY(window.plan() == nullptr); // not by its name alone

        window.document().relinkCurrent(elsewhere);
        QTRY_VERIFY_WITH_TIMEOUT(window.plan() != nullptr, 20'000);
        QCOMPARE(window.plan()->rows.size(), std::size_t{12});
        window.document().undoStack().undo();
        QCOMPARE(QString::fromStdString(window.document().current()->media.string()), clip_);
        QVERIFY(QFile::rename(elsewhere, clip_));
    }

    void aNewProjectAsksBeforeWorkIsLostAndRecentOnesAreListed() {
        MainWindow window;
        window.show();
        QVERIFY(QTest::qWaitForWindowActive(&window));
        QVERIFY(opened(window, clip_));
        const QString file = clips_.path(QStringLiteral("listed.yarngap"));
        QTest::keyClick(&window, Qt::Key_N, Qt::ControlModifier);
        QVERIFY(answer(window, QStringLiteral("Begin without saving")));
        QCOMPARE(window.document().project().shots.size(), std::size_t{1});
        window.document().save(file);
        QTRY_VERIFY(!window.document().hasUnsavedChanges());
        QCOMPARE(recentProjects().value(0), file);
        QTest::keyClick(&window, Qt::Key_N, Qt::ControlModifier);
        QCOMPARE(window.document().project().shots.size(), std::size_t{0});
        QVERIFY(window.document().file().isEmpty());
        QTest::mouseClick(window.findChild<QPushButton*>(QStringLiteral("openButton")), Qt::LeftButton);
        auto* menu = window.findChild<QMenu*>(QStringLiteral("openMenu"));
        QVERIFY(menu && menu->isVisible());
        for (QAction* action : menu->actions())
            if (action->text().startsWith(QStringLiteral("listed"))) action->trigger();
        menu->close();
        QTRY_VERIFY_WITH_TIMEOUT(window.plan() != nullptr, 20'000);
        QCOMPARE(window.document().file(), file);
    }

    void shotsAreRenamedDuplicatedMovedAndTakenOut() {
        MainWindow window;
        window.show();
        QVERIFY(QTest::qWaitForWindowActive(&window));
        QVERIFY(opened(window, clip_));
        window.document().openFiles({other_});
        QTRY_COMPARE(window.document().project().shots.size(), std::size_t{2});
        const auto names = [&] {
            QStringList all;
            for (const Shot& shot : window.document().project().shots)
                all.append(QString::fromStdString(shot.name));
            return all.join(QLatin1Char(' '));
        };
        auto* list = window.findChild<ShotList*>(QStringLiteral("shotList"));
        const auto cards = [&] { return list->findChildren<ShotCard*>(); };
        QTest::mouseDClick(cards()[1], Qt::LeftButton);
        auto* field = window.findChild<QLineEdit*>(QStringLiteral("shotNameField"));
        QVERIFY(field->isVisible());
        QTest::keyClicks(field, QStringLiteral("nest"));
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(names(), QStringLiteral("swallow nest"));
        cards()[1]->setFocus();
        QTest::keyClick(cards()[1], Qt::Key_D, Qt::ControlModifier);
        QCOMPARE(names(), QStringLiteral("swallow nest nest 2"));
        QTest::keyClick(cards()[2], Qt::Key_Up, Qt::AltModifier);
        QTest::keyClick(cards()[1], Qt::Key_Up, Qt::AltModifier);
        QCOMPARE(names(), QStringLiteral("nest 2 swallow nest"));
        QCOMPARE(window.document().currentIndex(), 0);
        QTest::keyClick(cards()[0], Qt::Key_Delete);
        QCOMPARE(names(), QStringLiteral("swallow nest"));
        for (int i = 0; i < 5; ++i)
            window.document().undoStack().undo();
        QCOMPARE(names(), QStringLiteral("swallow wren"));
        QVERIFY(window.document().undoStack().redoText().contains(QStringLiteral("rename")));
    }
};

QTEST_MAIN(TestRecovery)
#include "test_recovery.moc"
