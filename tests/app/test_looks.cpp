// The light and the dark look: contrast of both, and the change between them.

#include "app/look/theme.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"

#include <QApplication>
#include <QComboBox>
#include <QImage>
#include <QPushButton>
#include <QSettings>
#include <QTest>

#include <algorithm>
#include <cmath>

using namespace yarngap::app;
using namespace yarngap::test;

namespace {

/// Relative luminance and contrast ratio as WCAG 2.1 defines them.
double luminance(const QColor& colour) {
    const auto linear = [](double v) {
        return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
    };
    return 0.2126 * linear(colour.redF()) + 0.7152 * linear(colour.greenF()) +
           0.0722 * linear(colour.blueF());
}
double contrast(const QColor& a, const QColor& b) {
    const auto [darker, lighter] = std::minmax({luminance(a), luminance(b)}); // a pair of copies
    return (lighter + 0.05) / (darker + 0.05);
}

} // namespace

class TestLooks : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    /// Chooses a look in the settings, as the editor does.
    void choose(int look) {
        QTest::mouseClick(window_.find<QPushButton>("settingsButton"), Qt::LeftButton);
        auto* box = window_.find<QComboBox>("lookBox");
        box->setCurrentIndex(look);
        Q_EMIT box->activated(look);
        window_.find<QWidget>("preferencesPanel")->close();
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QCoreApplication::processEvents();
    }
    QColor cornerOfWindow() {
        const QImage seen = window_->grab().toImage();
        return seen.pixelColor(seen.width() / 2, 4);
    }

  private Q_SLOTS:
    void initTestCase() {
        QSettings().remove(QStringLiteral("look"));
        applyTheme(*qApp);
        window_.open(clips_.moving(QStringLiteral("clip.mp4"), 12,
                                   {QStringLiteral("-c:v"), QStringLiteral("libx264")}));
    }
    void cleanupTestCase() {
        window_.close();
        QSettings().remove(QStringLiteral("look"));
    }

    void contrastIsEnough_data() {
        QTest::addColumn<bool>("dark");
        QTest::newRow("light") << false;
        QTest::newRow("dark") << true;
    }
    void contrastIsEnough() {
        QFETCH(bool, dark);
        constexpr double text = 4.5;
        constexpr double mark = 3;
        const Shades& s = dark ? darkShades() : lightShades();
        for (const QColor& below : {s.cloth, s.paper, s.field}) {
            for (const QColor& ink : {s.ink, s.faint, s.madder})
                QVERIFY2(contrast(ink, below) >= text, qPrintable(ink.name() + below.name()));
            for (const QColor& ink : {s.indigo, s.flax, s.plum, s.slate})
                QVERIFY2(contrast(ink, below) >= mark, qPrintable(ink.name() + below.name()));
        }
        QVERIFY(contrast(s.ink, s.hover) >= text);
        QVERIFY(contrast(s.ink, s.notice) >= text);
        QVERIFY(contrast(s.indigo, s.chosen) >= text);
        QVERIFY(contrast(Qt::white, s.fill) >= text);
    }

    void contrastIsMeasuredRightly() {
        QCOMPARE(contrast(Qt::black, Qt::white), 21.0);
        QVERIFY(std::abs(contrast(QColor(0x76, 0x76, 0x76), Qt::white) - 4.54) < 0.01); // a known pair
    }

    void theLookIsChosenAndKept() {
        QCOMPARE(cornerOfWindow(), lightShades().cloth);
        choose(2);
        QCOMPARE(cornerOfWindow(), darkShades().cloth);
        // The stage stays as it is.
        auto* stage = window_.find<QWidget>("pictureStage");
        QCOMPARE(stage->grab().toImage().pixelColor(1, 1), colour::stage);
        choose(1);
        QCOMPARE(cornerOfWindow(), lightShades().cloth);
        choose(2);
        const QString clip = clips_.path(QStringLiteral("clip.mp4"));
        window_.close();
        applyTheme(*qApp); // as at a start
        window_.open(clip);
        QCOMPARE(cornerOfWindow(), darkShades().cloth);
        choose(0); // no desktop here asks for a dark one
        QCOMPARE(cornerOfWindow(), lightShades().cloth);
    }
};

QTEST_MAIN(TestLooks)
#include "test_looks.moc"
