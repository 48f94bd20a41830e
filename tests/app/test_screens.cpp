// Every step and sheet at seven sizes: no text is cut, nothing lies over something else, nothing is off the
// window.

#include "app/look/theme.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/screen_walk.h"
#include "support/shot_window.h"

#include <QApplication>
#include <QLabel>
#include <QPushButton>
#include <QTest>

#include <algorithm>

using namespace yarngap::app;
using namespace yarngap::test;

class TestScreens : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    void look(const QString& where) {
        QStringList faults;
        // What the background has just told may still be on its way into the layout; a lasting fault stays.
        [[maybe_unused]] const bool isClean = QTest::qWaitFor([&] {
            settleLayout();
            faults = faultsOf(*window_.operator->());
            return faults.isEmpty();
        });
        QVERIFY2(faults.isEmpty(),
                 qPrintable(where + QStringLiteral(":\n    ") + faults.join(QStringLiteral("\n    "))));
    }

  private Q_SLOTS:
    void initTestCase() {
        applyTheme(*qApp); // its fonts and margins
        window_.open(clips_.moving(QStringLiteral("clip.mp4"), 24,
                                   {QStringLiteral("-c:v"), QStringLiteral("libx264")}));
    }
    void init() {
        // On an in-between, about which there is most to say.
        window_->setFocus();
        QTest::keyClick(window_.operator->(), Qt::Key_Home);
        QTest::keyClick(window_.operator->(), Qt::Key_Right);
        QTRY_VERIFY(window_.find<QLabel>("sentence")->text().contains(QStringLiteral("doubt")));
    }
    void cleanupTestCase() { window_.close(); }

    /// What looks for faults finds those that are put in.
    void faultsAreFound() {
        settleLayout();
        QVERIFY(faultsOf(*window_.operator->()).isEmpty());
        QLabel cut(QStringLiteral("Far more than has room here"), window_.operator->());
        cut.setGeometry(300, 4, 40, 20);
        QPushButton off(QStringLiteral("Off"), window_.operator->());
        off.setGeometry(window_->width() - 20, 4, 60, 24);
        QLabel over(QStringLiteral("Over"), window_.operator->());
        over.setGeometry(310, 8, 60, 20);
        for (QWidget* widget :
             {static_cast<QWidget*>(&cut), static_cast<QWidget*>(&off), static_cast<QWidget*>(&over)})
            widget->show();
        const QString found = faultsOf(*window_.operator->()).join(QLatin1Char('\n'));
        for (const char* kind :
             {"cut: QLabel “Far more", "off the window: QPushButton “Off”", "over each other: "})
            QVERIFY2(found.contains(QString::fromUtf8(kind)), qPrintable(found));
        // And it looks at what there is: dozens of controls.
        const auto all = window_->findChildren<QWidget*>();
        QVERIFY(std::ranges::count_if(all, [](const QWidget* w) { return isShownControl(*w); }) > 40);
    }

    void allStepsAtAllSizes_data() {
        QTest::addColumn<QSize>("size");
        QTest::newRow("1024x768") << QSize(1024, 768);
        QTest::newRow("1280x720: 3840x2160 at 3") << QSize(1280, 720);
        QTest::newRow("1280x800") << QSize(1280, 800);
        QTest::newRow("1366x768") << QSize(1366, 768);
        QTest::newRow("1920x1080") << QSize(1920, 1080);
        QTest::newRow("2560x1440") << QSize(2560, 1440);
        QTest::newRow("3840x2160") << QSize(3840, 2160);
    }
    void allStepsAtAllSizes() {
        QFETCH(QSize, size);
        window_->resize(size);
        settleLayout();
        QCOMPARE(window_->size(), size);
        walkScreens(window_, [this](const QString& where) { look(where); });
        QTest::mouseClick(window_.find<QPushButton>("helpButton"), Qt::LeftButton);
        auto* help = window_.find<HelpWindow>("helpWindow");
        for (int page = 0; page < help->count(); ++page) {
            help->setCurrentIndex(page);
            settleLayout();
            const QStringList faults = faultsOf(*help);
            QVERIFY2(faults.isEmpty(),
                     qPrintable(help->tabText(page) + faults.join(QStringLiteral("\n    "))));
        }
        help->hide();
    }
};

QTEST_MAIN(TestScreens)
#include "test_screens.moc"
