// A value field: typed, stepped, dragged, refused, taken back.

#include "app/look/value_field.h"

#include <QSignalSpy>
#include <QTest>
#include <QVBoxLayout>

#include <memory>

using namespace yarngap::app;

class TestValueField : public QObject {
    Q_OBJECT

    std::unique_ptr<QWidget> window_;
    ValueField* field_ = nullptr;
    QLineEdit* other_ = nullptr;

  private Q_SLOTS:
    void init() {
        window_ = std::make_unique<QWidget>();
        auto* layout = new QVBoxLayout(window_.get());
        field_ = new ValueField(QStringLiteral("Speed"));
        other_ = new QLineEdit;
        layout->addWidget(other_);
        layout->addWidget(field_);
        window_->show();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        other_->setFocus();
        QTRY_VERIFY(other_->hasFocus());
        field_->setShown(QStringLiteral("100 %"));
    }

    void aClickSelectsAllAndEnterGivesWhatWasTyped() {
        QSignalSpy typed(field_, &ValueField::typed);
        QTest::mouseClick(field_, Qt::LeftButton);
        QTest::keyClicks(field_, QStringLiteral("25"));
        QCOMPARE(field_->text(), QStringLiteral("25"));
        QTest::keyClick(field_, Qt::Key_Return);
        QCOMPARE(typed.count(), 1);
        QCOMPARE(typed[0][0].toString(), QStringLiteral("25"));
    }

    void leavingTheFieldGivesItToo() {
        QSignalSpy typed(field_, &ValueField::typed);
        QTest::mouseClick(field_, Qt::LeftButton);
        QVERIFY(field_->hasFocus());
        QTest::keyClicks(field_, QStringLiteral("40"));
        QVERIFY(field_->isModified());
        QTest::keyClick(field_, Qt::Key_Tab);
        other_->setFocus();
        QCOMPARE(typed.count(), 1);
    }

    void leavingUntouchedGivesNothing() {
        QSignalSpy typed(field_, &ValueField::typed);
        QTest::mouseClick(field_, Qt::LeftButton);
        other_->setFocus();
        QCOMPARE(typed.count(), 0);
    }

    void escapePutsTheValueBack() {
        QSignalSpy typed(field_, &ValueField::typed);
        QTest::mouseClick(field_, Qt::LeftButton);
        QTest::keyClicks(field_, QStringLiteral("7"));
        QTest::keyClick(field_, Qt::Key_Escape);
        QCOMPARE(field_->text(), QStringLiteral("100 %"));
        QCOMPARE(typed.count(), 0);
    }

    void arrowsStep() {
        QSignalSpy stepped(field_, &ValueField::stepped);
        QTest::mouseClick(field_, Qt::LeftButton);
        QTest::keyClick(field_, Qt::Key_Up);
        QTest::keyClick(field_, Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(stepped.count(), 2);
        QCOMPARE(stepped[0][0].toInt(), 1);
        QCOMPARE(stepped[1][0].toInt(), -10);
    }

    void draggingSidewaysSteps() {
        QSignalSpy stepped(field_, &ValueField::stepped);
        const QPoint middle = field_->rect().center();
        QTest::mousePress(field_, Qt::LeftButton, {}, middle);
        QTest::mouseMove(field_, middle + QPoint(20, 0));
        QTest::mouseMove(field_, middle + QPoint(40, 0));
        QTest::mouseRelease(field_, Qt::LeftButton, {}, middle + QPoint(40, 0));
        int sum = 0;
        for (const auto& signal : stepped) {
            sum += signal[0].toInt();
            QVERIFY(signal[1].toBool());
        }
        QCOMPARE(sum, 10); // 40 pixels, 4 a step
        QVERIFY(!field_->hasFocus());
    }

    void refusedTextStaysToBeMended() {
        connect(field_, &ValueField::typed, field_,
                [this] { field_->refuse(QStringLiteral("Out of range.")); });
        QSignalSpy refused(field_, &ValueField::refused);
        QTest::mouseClick(field_, Qt::LeftButton);
        QTest::keyClicks(field_, QStringLiteral("0"));
        QTest::keyClick(field_, Qt::Key_Return);
        QCOMPARE(refused.last()[0].toString(), QStringLiteral("Out of range."));
        QCOMPARE(field_->text(), QStringLiteral("0"));
        QCOMPARE(field_->toolTip(), QStringLiteral("Out of range."));
        QTest::keyClick(field_, Qt::Key_Escape);
        QCOMPARE(refused.last()[0].toString(), QString());
        QCOMPARE(field_->text(), QStringLiteral("100 %"));
    }
};

QTEST_MAIN(TestValueField)
#include "test_value_field.moc"
