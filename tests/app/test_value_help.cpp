// "What is this?" on every value of the steps.

#ifndef Q_MOC_RUN
#include "app/help/value_words.h"
#include "app/steps/step_body.h"
#endif
#include "app/look/theme.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/shot_window.h"

#include <QAbstractSlider>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QLabel>
#include <QMenu>
#include <QScrollBar>
#include <QTest>

using namespace yarngap::app;
using namespace yarngap::test;

class TestValueHelp : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    static QWidget* card() { return QApplication::activePopupWidget(); }

  private Q_SLOTS:
    void initTestCase() {
        applyTheme(*qApp);
        window_.open(clips_.moving(QStringLiteral("clip.mp4"), 12,
                                   {QStringLiteral("-c:v"), QStringLiteral("libx264")}));
    }
    void cleanupTestCase() { window_.close(); }

    void everyValueHasWords() {
        QStringList wordless;
        int met = 0;
        for (const auto* body : window_->findChildren<StepBody*>())
            for (const auto* value : body->findChildren<QWidget*>()) {
                const bool isValue =
                    (qobject_cast<const QLineEdit*>(value) &&
                     !qobject_cast<const QComboBox*>(value->parentWidget())) ||
                    qobject_cast<const QComboBox*>(value) || qobject_cast<const QCheckBox*>(value) ||
                    (qobject_cast<const QAbstractSlider*>(value) && !qobject_cast<const QScrollBar*>(value));
                if (!isValue) continue;
                ++met;
                const auto words = wordsForValue(value->objectName());
                if (!words || words->what.isEmpty() || words->when.isEmpty())
                    wordless << QStringLiteral("%1 %2 “%3”")
                                    .arg(QLatin1String(value->metaObject()->className()), value->objectName(),
                                         value->accessibleName());
            }
        QVERIFY2(met > 60, qPrintable(QString::number(met)));
        QVERIFY2(wordless.isEmpty(),
                 qPrintable(QStringLiteral("\n    ") + wordless.join(QStringLiteral("\n    "))));
    }

    void aKeyAsksAboutTheValueInHand() {
        auto* field = window_.find<QLineEdit>("stiffnessField");
        field->setFocus();
        QTest::keyClick(field, Qt::Key_F1, Qt::ControlModifier);
        QTRY_VERIFY(card() && card()->objectName() == QLatin1String("valueCard"));
        const auto text = [](const char* name) {
            return card()->findChild<QLabel*>(QLatin1String(name))->text();
        };
        QCOMPARE(text("valueName"), QStringLiteral("Stiffness"));
        QVERIFY(text("valueWhat").startsWith(QStringLiteral("How alike neighbouring pixels move")));
        QVERIFY(text("valueWhen").contains(QStringLiteral("people")));
        const auto words = wordsForValue(QStringLiteral("inFrontBox"));
        QCOMPARE(words->picture, QStringLiteral("in_front.png"));
        QCOMPARE(words->less, QStringLiteral("slower"));
        QCOMPARE(words->more, QStringLiteral("faster"));
        auto* picture = card()->findChild<QLabel*>(QStringLiteral("valuePicture")); // little against much
        QTRY_VERIFY(picture->isVisible() && !picture->pixmap().isNull());
        QVERIFY(card()->screen()->availableGeometry().intersects(card()->geometry()));
        QTest::keyClick(card(), Qt::Key_Escape);
        QTRY_VERIFY(!card());
    }

    void theMenuOfACaptionAsksToo() {
        auto* box = window_.find<QComboBox>("qualityBox");
        QContextMenuEvent asked(QContextMenuEvent::Mouse, box->rect().center(),
                                box->mapToGlobal(box->rect().center()));
        QApplication::sendEvent(box, &asked);
        auto* menu = window_->findChild<QMenu*>(QStringLiteral("valueMenu"));
        QVERIFY(menu);
        QTRY_VERIFY(menu->isVisible());
        QTest::keyClick(menu, Qt::Key_Down);
        QTest::keyClick(menu, Qt::Key_Return);
        QTRY_VERIFY(card() && card()->objectName() == QLatin1String("valueCard"));
        QCOMPARE(card()->findChild<QLabel*>(QStringLiteral("valueName"))->text(),
                 QStringLiteral("Quality on screen"));
        card()->close();
    }
};

QTEST_MAIN(TestValueHelp)
#include "test_value_help.moc"
