// The whole program where decimals have a comma. Started by CMake under such a locale, built for it.

#include "core/decimal.h"
#include "core/media/library_messages.h"
#include "core/time/edl.h"
#include "core/time/map_text.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/program.h"
#include "support/shot_window.h"
#include "support/timings.h"

#include <QLabel>
#include <QTest>

#include <clocale>
#include <cstdio>

using namespace yarngap;
using namespace yarngap::test;

class TestCommaLocale : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        // Qt has set the locale; unless it has commas nothing is tested.
        QCOMPARE(std::string(std::localeconv()->decimal_point), std::string(","));
        std::array<char, 16> text{};
        std::snprintf(text.data(), text.size(), "%.1f", 12.5);
        QCOMPARE(std::string(text.data()), std::string("12,5"));
    }

    void numbersAreWrittenWithPoints() {
        QCOMPARE(decimal(12.5, 3), std::string("12.500"));
        QCOMPARE(Rate(24000, 1001).display(), std::string("23.976"));
        QCOMPARE(Rate(24, 1).display(), std::string("24"));
    }

    void listsAndMapsComeBack() {
        Timing timing = test::timingOf({}, 48);
        timing.speed = Rational(1, 8);
        const std::string edl = toEdl("wren", "wren.mp4", timing);
        QVERIFY2(edl.find("003.0") != std::string::npos && edl.find("003,0") == std::string::npos,
                 edl.c_str());
        const auto events = eventsFromEdl(edl, timing.sourceRate, timing.outputRate);
        QCOMPARE(events.size(), std::size_t{1});
        QCOMPARE(yarngap::timingOf(events[0], timing.sourceRate, timing.outputRate).speed, timing.speed);
        // An M2 speed of its own is read with its point.
        std::string other = edl;
        other.replace(other.find("003.0"), 5, "012.5");
        QCOMPARE(eventsFromEdl(other, timing.sourceRate, timing.outputRate)[0].motion, Rational(25, 2));
    }

    void theWindowShowsCommasAndTakesBoth() {
        const QString clip =
            clips_.moving(QStringLiteral("wren.mp4"), 12, words(QStringLiteral("-c:v mpeg4")),
                          QStringLiteral("64x48"), QStringLiteral("24000/1001"));
        ShotWindow window;
        window.open(clip);
        bool isShown = false;
        for (const auto* label : window->findChildren<QLabel*>()) {
            QVERIFY2(!label->text().contains(QStringLiteral("23.976")), qPrintable(label->text()));
            isShown |= label->text().contains(QStringLiteral("23,976"));
        }
        QVERIFY2(isShown, "The rate is nowhere to be seen.");
        const auto speed = [&] { return window->document().current()->speed; };
        for (const char* typed : {"12,5", "37.5"}) {
            window.type("speedField", QString::fromLatin1(typed));
            const QString shown = QString::fromLatin1(typed).replace(QLatin1Char('.'), QLatin1Char(','));
            QTRY_COMPARE(window.find<app::ValueField>("speedField")->text(), shown + QStringLiteral(" %"));
        }
        QCOMPARE(speed(), Rational(3, 8));
        QTest::keyClick(window.operator->(), Qt::Key_Right);
        const auto* sentence = window.find<QLabel>("sentence");
        QTRY_VERIFY2(sentence->text().contains(QStringLiteral("position 0,38")),
                     qPrintable(sentence->text()));
        const QString project = clips_.path(QStringLiteral("wren.yarngap"));
        window->document().save(project);
        QTRY_VERIFY(!window->document().hasUnsavedChanges());
        const Project kept = loadProject(project.toStdString()); // files have points
        QCOMPARE(kept.shots.front().speed, Rational(3, 8));
    }
};

QTEST_MAIN(TestCommaLocale)
#include "test_comma_locale.moc"
