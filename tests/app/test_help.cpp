// Help: the list of keys, changing them, the guide at the step one is in, the problem report, the empty
// window.

#include "core/files/new_file.h"
#include "core/project/project.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"

#include <QDir>
#include <QFile>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QSettings>
#include <QStandardPaths>
#include <QTest>
#include <QTextBlock>
#include <QToolButton>
#include <QTreeWidget>

#include <array>
#include <utility>

using namespace yarngap::app;
using namespace yarngap::test;

class TestHelp : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    ShotWindow window_;

    template <typename T>
    T* inHelp(const char* name) {
        auto* help = window_.find<HelpWindow>("helpWindow");
        auto* found = help->findChild<T*>(QString::fromLatin1(name));
        if (!found) qFatal("There is no %s in the help", name);
        return found;
    }
    QTreeWidgetItem* lineOf(const QString& words) {
        const auto lines =
            inHelp<QTreeWidget>("keyList")->findItems(words, Qt::MatchExactly | Qt::MatchRecursive);
        return lines.isEmpty() ? nullptr : lines.front();
    }
    QString keyOf(const QString& words) { return lineOf(words) ? lineOf(words)->text(1) : QString(); }
    void askNewKey(const QString& words) {
        inHelp<QTreeWidget>("keyList")->setCurrentItem(lineOf(words));
        QTest::mouseClick(inHelp<QPushButton>("changeKeyButton"), Qt::LeftButton);
    }

  private Q_SLOTS:
    void initTestCase() {
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 12,
                              {QStringLiteral("-c:v"), QStringLiteral("libx264")});
        QSettings().remove(QStringLiteral("keys"));
    }
    void init() { window_.open(clip_); }
    void cleanup() {
        window_.close();
        QSettings().remove(QStringLiteral("keys"));
    }

    void keysAreListedAndFound() {
        QTest::keyClick(window_.operator->(), Qt::Key_F1);
        QTRY_VERIFY(window_.find<HelpWindow>("helpWindow")->isVisible());
        QCOMPARE(keyOf(QStringLiteral("Filmstrip")), QStringLiteral("F"));
        QCOMPARE(keyOf(QStringLiteral("Save")),
                 QKeySequence(QKeySequence::Save).toString(QKeySequence::NativeText));
        QCOMPARE(keyOf(QStringLiteral("Save under another name")), QStringLiteral("Ctrl+Shift+S"));
        auto* search = inHelp<QLineEdit>("keySearch");
        QTest::keyClicks(search, QStringLiteral("loop"));
        QVERIFY(!lineOf(QStringLiteral("Loop the selected stretch, or a second"))->isHidden());
        QVERIFY(lineOf(QStringLiteral("Filmstrip"))->isHidden());
        search->clear();
        QTest::keyClicks(search, QStringLiteral("f")); // one letter is a key
        QVERIFY(!lineOf(QStringLiteral("Filmstrip"))->isHidden());
        QVERIFY(lineOf(QStringLiteral("Full screen"))->isHidden());
    }

    void aKeyIsChangedActsIsNamedAndKept() {
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        askNewKey(QStringLiteral("Filmstrip"));
        QTest::keyClick(inHelp<QLineEdit>("keyCatcher"), Qt::Key_H);
        QCOMPARE(keyOf(QStringLiteral("Filmstrip")), QStringLiteral("H (changed)"));
        window_.find<HelpWindow>("helpWindow")->hide();
        auto* strip = window_.find<QToolButton>("filmStripButton");
        QVERIFY2(strip->toolTip().endsWith(QStringLiteral("(H)")), qPrintable(strip->toolTip()));
        window_->activateWindow();
        window_->setFocus();
        QTest::keyClick(window_.operator->(), Qt::Key_F);
        QVERIFY(!strip->isChecked());
        QTest::keyClick(window_.operator->(), Qt::Key_H);
        QTRY_VERIFY(strip->isChecked());
        window_.close();
        window_.open(clip_); // the next start
        window_->activateWindow();
        QTest::keyClick(window_.operator->(), Qt::Key_H);
        QTRY_VERIFY(window_.find<QToolButton>("filmStripButton")->isChecked());
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        QTest::mouseClick(inHelp<QPushButton>("usualKeysButton"), Qt::LeftButton);
        QCOMPARE(keyOf(QStringLiteral("Filmstrip")), QStringLiteral("F"));
        QVERIFY(window_.find<QToolButton>("filmStripButton")->toolTip().endsWith(QStringLiteral("(F)")));
    }

    void aKeyThatIsTakenIsToldAndCanBeTakenOver() {
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        askNewKey(QStringLiteral("Filmstrip"));
        auto* catcher = inHelp<QLineEdit>("keyCatcher");
        QTest::keyClick(catcher, Qt::Key_C);
        auto* says = inHelp<QLabel>("keySentence");
        QVERIFY2(says->text().contains(QStringLiteral("Compare with another version")),
                 qPrintable(says->text()));
        QCOMPARE(keyOf(QStringLiteral("Filmstrip")), QStringLiteral("F"));
        QTest::keyClick(catcher, Qt::Key_S, Qt::ControlModifier);
        QCOMPARE(says->text(), QStringLiteral("Ctrl+S always means “Save”. Press another key."));
        QTest::keyClick(catcher, Qt::Key_Delete);
        QVERIFY(says->text().contains(QStringLiteral("its own meaning")));
        QTest::keyClick(catcher, Qt::Key_C);
        QTest::mouseClick(inHelp<QPushButton>("takeKeyOverButton"), Qt::LeftButton);
        QCOMPARE(keyOf(QStringLiteral("Filmstrip")), QStringLiteral("C (changed)"));
        QCOMPARE(keyOf(QStringLiteral("Compare with another version")), QStringLiteral("none (changed)"));
        askNewKey(QStringLiteral("Pause"));
        QTest::keyClick(inHelp<QLineEdit>("keyCatcher"), Qt::Key_Escape);
        QCOMPARE(keyOf(QStringLiteral("Pause")), QStringLiteral("K"));
    }

    void theSheetHasKeysOfItsOwn() {
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        askNewKey(QStringLiteral("Take the frame out"));
        QTest::keyClick(inHelp<QLineEdit>("keyCatcher"), Qt::Key_T); // another place's, no clash
        QCOMPARE(keyOf(QStringLiteral("Take the frame out")), QStringLiteral("T (changed)"));
        QCOMPARE(keyOf(QStringLiteral("Trust")), QStringLiteral("T"));
        auto* says = inHelp<QLabel>("keySentence");
        const std::array taken{std::pair{Qt::Key_S, "Source sheet"},
                               std::pair{Qt::Key_P, "Pass over the frame"}};
        for (const auto& [key, has] : taken) {
            askNewKey(QStringLiteral("Rebuild the frame"));
            QTest::keyClick(inHelp<QLineEdit>("keyCatcher"), key);
            QVERIFY2(says->text().contains(QString::fromLatin1(has)), qPrintable(says->text()));
        }
        askNewKey(QStringLiteral("Rebuild the frame"));
        QTest::keyClick(inHelp<QLineEdit>("keyCatcher"), Qt::Key_PageDown); // the sheet turns its pages by it
        QCOMPARE(says->text(), QStringLiteral("PgDown always means “One page on”. Press another key."));
        QCOMPARE(keyOf(QStringLiteral("Rebuild the frame")), QStringLiteral("R"));
        window_.find<HelpWindow>("helpWindow")->hide();
        auto* takeOut = window_.find<QToolButton>("sheetTakeOutButton");
        QCOMPARE(takeOut->text(), QStringLiteral("Take out  T"));
        window_->activateWindow();
        window_->setFocus();
        QTest::keyClick(window_.operator->(), Qt::Key_S);
        QTRY_VERIFY(takeOut->isVisible());
        const SourceSheet& sheet = *window_->findChild<SourceSheet*>();
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_X);
        QVERIFY(sheet.decisionOn(sheet.at()).isEmpty());
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_T);
        QTRY_COMPARE(sheet.decisionOn(sheet.at()), QStringLiteral("taken out"));
    }

    void noKeyIsGivenTwice() {
        window_.close();
        QSettings().setValue(QStringLiteral("keys/filmstrip"), QStringLiteral("C"));
        QSettings().setValue(QStringLiteral("keys/pause"), QKeySequence(QKeySequence::Save).toString());
        window_.open(clip_);
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        QCOMPARE(keyOf(QStringLiteral("Filmstrip")), QStringLiteral("C (changed)"));
        QCOMPARE(keyOf(QStringLiteral("Compare with another version")), QStringLiteral("none (changed)"));
        QCOMPARE(keyOf(QStringLiteral("Pause")), QStringLiteral("none (changed)"));
    }

    void everyToolTipNamesItsKey() {
        // What is said in brackets at a button is what the table has.
        for (const auto& [button, key] :
             {std::pair{"vectorsButton", "V"}, std::pair{"loopButton", "G"}, std::pair{"compareButton", "C"},
              std::pair{"readyButton", "Shift+Space"}})
            QVERIFY2(window_.find<QToolButton>(button)->toolTip().contains(
                         QLatin1Char('(') + QLatin1String(key) + QLatin1Char(')')),
                     button);
    }

    void theGuideOpensAtTheStep_data() {
        QTest::addColumn<QString>("step");
        QTest::addColumn<QString>("heading");
        QTest::newRow("footage") << "footageStep"
                                 << "Put the footage right";
        QTest::newRow("trim") << "trimStep"
                              << "Trim";
        QTest::newRow("clean") << "cleanStep"
                               << "Clean the source";
        QTest::newRow("timing") << "timingStep"
                                << "Set the timing";
        QTest::newRow("in-betweens") << "inBetweensStep"
                                     << "Choose how in-betweens are made";
        QTest::newRow("mend") << "mendStep"
                              << "Mend what looks wrong";
        QTest::newRow("finish") << "finishStep"
                                << "Finish";
        QTest::newRow("render") << "renderStep"
                                << "Render";
    }
    void theGuideOpensAtTheStep() {
        QFETCH(QString, step);
        QFETCH(QString, heading);
        auto* card = window_->findChild<StepCard*>(step);
        if (!card->isOpen()) QTest::mouseClick(card->header(), Qt::LeftButton);
        window_->activateWindow();
        QTest::keyClick(window_.operator->(), Qt::Key_F1, Qt::ShiftModifier);
        auto* text = inHelp<QTextBrowser>("guideText");
        QTRY_VERIFY(text->isVisible());
        // The chapter is what stands at the top.
        QTRY_COMPARE(text->cursorForPosition({20, 12}).block().text(), heading);
        QCOMPARE(inHelp<QListWidget>("guideChapters")->currentItem()->text(), heading);
        // Its pictures are there.
        QVERIFY(
            text->document()
                ->resource(QTextDocument::ImageResource, QUrl(QStringLiteral("screenshots/filmstrip.png")))
                .value<QImage>()
                .width() > 300);
    }

    void theGuideIsSearched() {
        QTest::keyClick(window_.operator->(), Qt::Key_F1, Qt::ShiftModifier);
        auto* search = inHelp<QLineEdit>("guideSearch");
        auto* text = inHelp<QTextBrowser>("guideText");
        QTRY_VERIFY(inHelp<QListWidget>("guideChapters")->count() > 10);
        QTest::keyClicks(search, QStringLiteral("pulldown"));
        QTest::keyClick(search, Qt::Key_Return);
        QCOMPARE(text->textCursor().selectedText().toLower(), QStringLiteral("pulldown"));
        const int first = text->textCursor().position();
        QTest::keyClick(search, Qt::Key_Return);
        QVERIFY(text->textCursor().position() != first);
        search->clear();
        QTest::keyClicks(search, QStringLiteral("xylophone"));
        QTest::keyClick(search, Qt::Key_Return);
        QVERIFY(inHelp<QLabel>("guideSentence")->text().contains(QStringLiteral("xylophone")));
    }

    void theReportHoldsWhatIsOpenAndIsSaved() {
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        auto* help = window_.find<HelpWindow>("helpWindow");
        help->setCurrentWidget(&help->report());
        const QString text = inHelp<QPlainTextEdit>("reportText")->toPlainText();
        QVERIFY(text.contains(QLatin1String(qVersion())));
        QVERIFY(text.contains(QStringLiteral("clip.mp4")));
        const QString file = clips_.path(QStringLiteral("report.txt"));
        help->report().saveTo(file);
        QTRY_VERIFY(inHelp<QLabel>("reportSentence")->text().contains(QStringLiteral("Saved as")));
        QFile saved(file);
        QVERIFY(saved.open(QIODevice::ReadOnly));
        QCOMPARE(QString::fromUtf8(saved.readAll()), text + QLatin1Char('\n'));
        help->report().saveTo(QStringLiteral("/proc/nowhere/report.txt"));
        QTRY_VERIFY(inHelp<QLabel>("reportSentence")->text().contains(QStringLiteral("/proc/nowhere")));
    }

    void anEmptyWindowSaysWhatToDo() {
        MainWindow empty(QString{});
        empty.show();
        auto* panel = empty.findChild<QWidget*>(QStringLiteral("startPanel"));
        QTRY_VERIFY(panel->isVisible());
        QVERIFY(panel->findChild<QPushButton*>(QStringLiteral("startOpenButton"))->isVisible());
        for (const QSize size : {QSize(960, 600), QSize(2000, 1200)}) {
            empty.resize(size);
            QTRY_VERIFY(panel->parentWidget()->rect().contains(panel->geometry()));
            for (const QLabel* label : panel->findChildren<QLabel*>())
                QVERIFY2(label->height() >= label->heightForWidth(label->width()), qPrintable(label->text()));
        }
        QVERIFY(window_->findChild<QWidget*>(QStringLiteral("startPanel"))->isHidden()); // it has a shot
    }

    void theDemoIsOneClickAway() {
        // As if it had been drawn before: then it opens at once.
        qputenv("XDG_DATA_HOME", clips_.path(QStringLiteral("data")).toUtf8());
        const QString folder =
            QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/demo");
        QVERIFY(folder.startsWith(clips_.path(QStringLiteral("data"))));
        QVERIFY(QDir().mkpath(folder));
        yarngap::Project project;
        project.name = "Saltmarsh";
        yarngap::Shot& shot = project.shots.emplace_back();
        shot.name = "first";
        shot.media = clip_.toStdString();
        yarngap::writeWhole((folder + QStringLiteral("/saltmarsh.yarngap")).toStdString(),
                            yarngap::projectText(project, folder.toStdString()));
        MainWindow empty(QString{});
        empty.show();
        auto* button = empty.findChild<QPushButton*>(QStringLiteral("startDemoButton"));
        QTRY_VERIFY(button->isVisible());
        QTest::mouseClick(button, Qt::LeftButton);
        QTRY_COMPARE(empty.findChild<QLabel*>(QStringLiteral("projectName"))->text(),
                     QStringLiteral("Saltmarsh"));
        QVERIFY(!button->isVisible());
        qunsetenv("XDG_DATA_HOME");
    }
};

QTEST_MAIN(TestHelp)
#include "test_help.moc"
