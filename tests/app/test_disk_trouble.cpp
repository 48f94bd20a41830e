// What the window says and does when files are there already, change, cannot be decoded or cannot be written.

#include "core/files/new_file.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/file_bytes.h"
#include "support/own_settings.h"
#include "support/program.h"
#include "support/shot_window.h"

#include <QDir>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QSignalSpy>
#include <QTest>

#include <sys/stat.h>
#include <unistd.h>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestDiskTrouble : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    ShotWindow window_;

    QString notice() const {
        const auto* label = window_.find<QLabel>("notice");
        return label->isVisible() ? label->text() : QString();
    }
    QPushButton* answer(const QString& text) const {
        for (auto* button : window_->findChildren<QPushButton*>())
            if (button->isVisible() && button->text() == text) return button;
        return nullptr;
    }
    void openStep(const char* name) const {
        auto* card = window_.find<StepCard>(name);
        if (!card->isOpen()) QTest::mouseClick(card->header(), Qt::LeftButton);
    }
    void typeTarget(const QString& target) const {
        auto* field = window_.find<QLineEdit>("targetField");
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, target);
    }
    QString replaces() const {
        const auto* label = window_.find<QLabel>("replacesLabel");
        return label->isVisible() ? label->text() : QString();
    }
    QString renderText() const { return window_.find<QPushButton>("renderButton")->text(); }
    void render() const {
        QSignalSpy finished(&window_->render(), &RenderController::finished);
        QTest::mouseClick(window_.find<QPushButton>("renderButton"), Qt::LeftButton);
        QVERIFY(finished.wait(160'000));
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        clip_ = clips_.moving(QStringLiteral("wren.mp4"), 6, words(QStringLiteral("-c:v mpeg4")),
                              QStringLiteral("64x48"));
    }
    void cleanup() { window_.close(); }

    void whatIsThereIsToldBeforeItGoes() {
        window_.open(clip_);
        openStep("renderStep");
        const QString to = clips_.path(QStringLiteral("out"));
        QDir().mkpath(to);
        for (int n = 0; n < 40; ++n)
            putBytes(QStringLiteral("%1/a_%2.png").arg(to).arg(n, 4, 10, QLatin1Char('0')), "old");
        putBytes(to + QStringLiteral("/b.mkv"), "old");
        typeTarget(to + QStringLiteral("/a_####.png"));
        QTRY_VERIFY2(replaces().contains(QStringLiteral("40 pictures")), qPrintable(replaces()));
        QCOMPARE(renderText(), QStringLiteral("Render and replace"));
        typeTarget(to + QStringLiteral("/b")); // the format's ending is put behind it
        window_.choose("formatBox", 0);
        QTRY_VERIFY2(replaces().contains(QStringLiteral("exists")), qPrintable(replaces()));
        typeTarget(to + QStringLiteral("/new.mkv"));
        QTRY_VERIFY(replaces().isEmpty());
        QCOMPARE(renderText(), QStringLiteral("Render"));
        render();
        QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        // Another name, typed when the first render is done, is looked at like any.
        typeTarget(to + QStringLiteral("/b.mkv"));
        QTRY_VERIFY2(replaces().contains(QStringLiteral("exists")), qPrintable(replaces()));
        QCOMPARE(renderText(), QStringLiteral("Render and replace"));
        QCOMPARE(bytesOf(to + QStringLiteral("/b.mkv")), QByteArray("old"));
        // The sequence replaces all that was there of that name.
        typeTarget(to + QStringLiteral("/a_####.png"));
        QTRY_COMPARE(renderText(), QStringLiteral("Render and replace"));
        render();
        QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        QVERIFY(QDir(to).entryList({QStringLiteral("a_*.png")}, QDir::Files).size() < 40);
    }

    void twoProgramsSaveOneProject() {
        window_.open(clip_);
        const QString file = clips_.path(QStringLiteral("both.yarngap"));
        window_->document().save(file);
        QTRY_VERIFY(!window_->document().hasUnsavedChanges());
        const QByteArray theirs = bytesOf(file).replace("wren", "gull");
        writeWhole(file.toStdString(), theirs.toStdString()); // another program
        window_->document().renameCurrent(QStringLiteral("mine"));
        QTest::mouseClick(window_.find<QPushButton>("saveButton"), Qt::LeftButton);
        QTRY_VERIFY2(answer(QStringLiteral("Save over it")), qPrintable(notice()));
        QCOMPARE(bytesOf(file), theirs);
        QVERIFY(window_->document().hasUnsavedChanges());
        QTest::mouseClick(answer(QStringLiteral("Save over it")), Qt::LeftButton);
        QTRY_VERIFY(bytesOf(file).contains("mine"));
        QTRY_VERIFY(!window_->document().hasUnsavedChanges());
    }

    void aSavedProjectStaysPrivateAndALinkALink() {
        window_.open(clip_);
        const QString real = clips_.path(QStringLiteral("real.yarngap"));
        const QString link = clips_.path(QStringLiteral("link.yarngap"));
        window_->document().save(real);
        QTRY_VERIFY(!window_->document().hasUnsavedChanges());
        QCOMPARE(::chmod(qPrintable(real), 0600), 0);
        QVERIFY(QFile::link(real, link));
        window_->document().renameCurrent(QStringLiteral("private"));
        window_->document().save(link, true);
        QTRY_VERIFY(bytesOf(real).contains("private"));
        QVERIFY(QFileInfo(link).isSymLink());
        struct stat s {};
        QCOMPARE(::stat(qPrintable(real), &s), 0);
        QCOMPARE(static_cast<int>(s.st_mode & 0777U), 0600);
    }

    void anUnclearNumberIsAsked() {
        window_.open(clip_);
        const QString in = clips_.path(QStringLiteral("versions"));
        QDir().mkpath(in);
        clips_.moving(QStringLiteral("versions/shot_0001_v%d.png"), 3, {}, QStringLiteral("64x48"),
                      QStringLiteral("24"), QStringLiteral("rgb24"));
        window_->document().openFiles({in + QStringLiteral("/shot_0001_v2.png")});
        QTRY_VERIFY2(notice().contains(QStringLiteral("shot_0001_v2.png")), qPrintable(notice()));
        QCOMPARE(window_->document().project().shots.size(), std::size_t{1});
        auto* versions = answer(QStringLiteral("shot_####_v2.png"));
        QVERIFY(versions);
        QTest::mouseClick(versions, Qt::LeftButton);
        QTRY_COMPARE(window_->document().project().shots.size(), std::size_t{2});
        QTRY_VERIFY(window_->plan() != nullptr && window_->document().currentFacts()->frames == 1);
    }

    void fieldsOfAFastRateDoNoHarm() {
        // Twice 60000 frames a second is more than any rate the program works with.
        const QString fast = clips_.moving(QStringLiteral("fast.mp4"), 6, words(QStringLiteral("-c:v mpeg4")),
                                           QStringLiteral("64x48"), QStringLiteral("60000"));
        window_.open(fast);
        Interpretation fields;
        fields.fields = FieldUse::toFields;
        window_->document().editInterpretation(QStringLiteral("fields"), fields);
        QTRY_VERIFY2(!notice().isEmpty(), "Nothing was said.");
        QVERIFY2(notice().contains(QLatin1Char('.')), qPrintable(notice()));
        QVERIFY(window_->document().currentFacts().has_value());
    }

    void aFileThatChangesIsToldAndReadAgain() {
        const QString source = clips_.path(QStringLiteral("changing.avi"));
        clips_.moving(QStringLiteral("changing.avi"), 200, words(QStringLiteral("-c:v ffv1 -g 1")),
                      QStringLiteral("64x48"));
        window_.open(source);
        const QByteArray content = bytesOf(source);
        // The last frames have not been read yet.
        putBytes(source,
                 content.left(content.size() / 2) + QByteArray(content.size() - content.size() / 2, '\0'));
        QTest::keyClick(window_.operator->(), Qt::Key_End);
        QTRY_VERIFY2_WITH_TIMEOUT(notice().contains(QStringLiteral("changed")), qPrintable(notice()), 60'000);
        putBytes(source, content); // it is copied anew
        auto* again = answer(QStringLiteral("Read the file again"));
        QVERIFY(again);
        QTest::mouseClick(again, Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(window_->plan() != nullptr &&
                                     window_->gapView().stage().shownOutput() >= 0 &&
                                     !window_->gapView().stage().isStale(),
                                 60'000);
        QVERIFY2(notice().isEmpty(), qPrintable(notice()));
    }

    void framesThatCannotBeDecodedAreAskedAbout() {
        const QString source = clips_.path(QStringLiteral("bad.avi"));
        clips_.moving(QStringLiteral("bad.avi"), 8, words(QStringLiteral("-c:v ffv1 -g 1")),
                      QStringLiteral("64x48"));
        QByteArray content = bytesOf(source);
        qsizetype at = content.indexOf("movi");
        for (int i = 0; i < 5; ++i)
            at = content.indexOf("00dc", at + 4);
        content.replace(at + 8, 64, QByteArray(64, static_cast<char>(0xFF)));
        putBytes(source, content);
        window_.open(source);
        openStep("renderStep");
        auto* choice = window_.find<QComboBox>("undecodableBox");
        QTRY_VERIFY_WITH_TIMEOUT(choice->isVisible(), 60'000);
        typeTarget(clips_.path(QStringLiteral("held.mkv")));
        render();
        QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        QVERIFY2(window_.find<QLabel>("renderStatus")->text().contains(QStringLiteral("with a stand-in")),
                 qPrintable(window_.find<QLabel>("renderStatus")->text()));
        window_.choose("undecodableBox", 1);
        typeTarget(clips_.path(QStringLiteral("stopped.mkv")));
        render();
        QVERIFY(window_->render().failed());
        QVERIFY2(window_->render().outcome().contains(QStringLiteral("Frame 4 ")),
                 qPrintable(window_->render().outcome()));
        QVERIFY(!QFile::exists(clips_.path(QStringLiteral("stopped.mkv"))));
    }

    void aRecoveryCopyThatFailsIsTold() {
        const QString blocked = clips_.path(QStringLiteral("recovery"));
        putBytes(blocked, "a file where the folder should be");
        MainWindow window(blocked);
        window.show();
        window.document().addShots({clip_});
        auto* label = window.findChild<QLabel*>(QStringLiteral("notice"));
        QTRY_VERIFY2_WITH_TIMEOUT(label->isVisible() && !label->text().isEmpty(), "Nothing was said.",
                                  60'000);
        window_.open(clip_); // for cleanup()
    }
};

QTEST_MAIN(TestDiskTrouble)
#include "test_disk_trouble.moc"
