// Panels and seams stay as they were left, from one start to the next.

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "support/own_settings.h"

#include <QApplication>
#include <QSettings>
#include <QSplitter>
#include <QTest>
#include <QToolButton>

using namespace yarngap::app;
using namespace yarngap::test;

class TestWindowLayout : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;

    static void showIt(MainWindow& window) {
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
    }
    static QSplitter* seam(MainWindow& window, const char* name) {
        return window.findChild<QSplitter*>(QString::fromLatin1(name));
    }
    /// Drags the first handle of a splitter with the mouse.
    static void drag(QSplitter& splitter, const QPoint& by) {
        QWidget* handle = splitter.handle(1);
        const QPoint middle = handle->rect().center();
        QTest::mousePress(handle, Qt::LeftButton, {}, middle);
        QTest::mouseMove(handle, middle + by);
        QTest::mouseRelease(handle, Qt::LeftButton, {}, middle + by);
    }

  private Q_SLOTS:
    void initTestCase() { applyTheme(*qApp); }
    void init() { QSettings().remove(QStringLiteral("window")); }

    void aDraggedSeamStays() {
        int dragged = 0;
        {
            MainWindow window{QString()};
            showIt(window);
            QSplitter* halves = seam(window, "halves");
            const int before = halves->sizes().at(0);
            drag(*halves, {0, -60});
            dragged = halves->sizes().at(0);
            QVERIFY2(dragged < before - 40, qPrintable(QString::number(dragged)));
        }
        MainWindow again{QString()};
        showIt(again);
        QCOMPARE(seam(again, "halves")->sizes().at(0), dragged);
    }

    void theSeamBelowTheShotsStays() {
        int dragged = 0;
        {
            MainWindow window{QString()};
            showIt(window);
            QSplitter* parts = seam(window, "columnParts");
            drag(*parts, {0, 70});
            dragged = parts->sizes().at(0);
        }
        MainWindow again{QString()};
        showIt(again);
        QCOMPARE(seam(again, "columnParts")->sizes().at(0), dragged);
    }

    void aFoldedColumnStaysFolded() {
        {
            MainWindow window{QString()};
            showIt(window);
            QTest::mouseClick(window.findChild<QToolButton*>(QStringLiteral("foldColumnButton")),
                              Qt::LeftButton);
            QVERIFY(!window.findChild<QWidget*>(QStringLiteral("leftColumn"))->isVisible());
        }
        MainWindow again{QString()};
        showIt(again);
        QVERIFY(!again.findChild<QWidget*>(QStringLiteral("leftColumn"))->isVisible());
        QTest::mouseClick(again.findChild<QToolButton*>(QStringLiteral("foldColumnButton")), Qt::LeftButton);
        QVERIFY(again.findChild<QWidget*>(QStringLiteral("leftColumn"))->isVisible());
    }

    void theWindowComesBackAtItsSize() {
        {
            MainWindow window{QString()};
            showIt(window);
            window.resize(1100, 700);
            QTRY_COMPARE(window.size(), QSize(1100, 700));
            window.close();
        }
        MainWindow again{QString()};
        showIt(again);
        QTRY_COMPARE(again.size(), QSize(1100, 700));
    }

    void theTitleSaysWhatIsOpen() {
        MainWindow window{QString()};
        showIt(window);
        QCOMPARE(window.windowTitle(), QStringLiteral("Yarn Gap"));
    }
};

QTEST_MAIN(TestWindowLayout)
#include "test_window_layout.moc"
