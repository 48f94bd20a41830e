// The picture keeps its size whatever is told beside it: each size is a picture of its own, made anew.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/look/steady_label.h"
#include "core/media/library_messages.h"
#include "support/clips.h"
#include "support/drawn_clip.h"
#include "support/own_settings.h"
#include "support/pictures.h"
#include "support/shot_window.h"
#endif

#include <QSignalSpy>
#include <QTest>

#include <algorithm>
#include <cmath>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 180;

/// Held by a hand that shakes, so that edges of in-betweens are bare, which is told.
Image swaying(int n) {
    const double x0 = 24 * std::sin(n * 1.1);
    const double y0 = 14 * std::sin(n * 0.7);
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [=](int p, int x, int y) {
        if (p > 0) return 128.0;
        return 120 + 50 * std::sin((x - x0) / 5.1) * std::cos((y - y0) / 6.3) +
               30 * std::sin((x - x0) / 19.0 + (y - y0) / 11.0);
    });
}

/// How often a window was asked to lay itself out.
class LayoutCount : public QObject {
  public:
    [[nodiscard]] int count() const { return count_; }

  protected:
    bool eventFilter(QObject* /*watched*/, QEvent* event) override {
        if (event->type() == QEvent::LayoutRequest) ++count_;
        return false;
    }

  private:
    int count_ = 0;
};

} // namespace

class TestSteadyStage : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;

    PictureStage& stage() { return window_->gapView().stage(); }
    bool settles() {
        return QTest::qWaitFor([this] { return window_->preview().isSettled() && !stage().isStale(); },
                               120'000);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        drawnClip(clips_, QStringLiteral("swaying.mkv"), 12, swaying);
    }

    void aLabelHasRoomForTwoLinesAndKeepsMore() {
        SteadyLabel label(SteadyLabel::Room::twoLines, QStringLiteral("told"),
                          QStringLiteral("font-size: 13px;"));
        label.resize(200, 10);
        label.show();
        label.tell(QStringLiteral("A line."));
        const int two = label.height();
        QVERIFY(two >= 2 * label.label().fontMetrics().lineSpacing());
        label.tell(QStringLiteral("A line,\nand one more."));
        QCOMPARE(label.height(), two);
        label.tell(QStringLiteral("One,\ntwo,\nthree,\nfour lines."));
        const int four = label.height();
        QVERIFY(four >= 4 * label.label().fontMetrics().lineSpacing());
        label.tell(QStringLiteral("A line."));
        QCOMPARE(label.height(), four);
        label.settle();
        QCOMPARE(label.height(), two);
        label.tell(QStringLiteral("One,\ntwo,\nthree,\nfour lines."));
        QCOMPARE(label.height(), four);
        label.tell(QStringLiteral("A line."));
        label.resize(300, four);
        QCOMPARE(label.height(), two);
    }

    void aLineIsAsWideAsTheWidestWas() {
        SteadyLabel label(SteadyLabel::Room::widest, QStringLiteral("told"), {});
        label.tell(QStringLiteral("frame 9"));
        const int narrow = label.minimumWidth();
        QVERIFY(narrow > 0);
        label.tell(QStringLiteral("frame 1000000"));
        const int wide = label.minimumWidth();
        QVERIFY(wide > narrow);
        label.tell(QStringLiteral("frame 9"));
        QCOMPARE(label.minimumWidth(), wide);
        label.settle();
        QCOMPARE(label.minimumWidth(), narrow);
        label.tell({});
        QCOMPARE(label.minimumWidth(), 0);
    }

    void thePictureKeepsItsSizeWhateverIsTold() {
        window_.open(clips_.path(QStringLiteral("swaying.mkv")));
        window_->resize(1000, 720);
        QTRY_COMPARE(window_->width(), 1000);
        window_->player().goTo(10);
        QVERIFY(settles());
        const QSize size = stage().size();
        const QObject here;
        QStringList told;
        QList<QSize> sizes;
        connect(&stage(), &PictureStage::shown, &here, [&] {
            told << window_->gapView().sentence();
            sizes << stage().size();
        });
        for (const qint64 output : {11, 12, 13, 14, 22, 23})
            for (const int stiffness : {30, 60}) {
                QSignalSpy settled(&window_->preview(), &Preview::settledChanged);
                window_->player().goTo(output);
                QVERIFY(settles());
                settled.clear();
                Shot shot = *window_->document().current();
                shot.inBetweens.flow.stiffness = stiffness + static_cast<int>(output);
                window_->document().edit(QStringLiteral("stiffness"), shot);
                QVERIFY(settles());
                // Originals do not depend on it; anything else is made once.
                QCOMPARE(settled.size(), output % 4 == 0 ? 0 : 2);
            }
        // Short and long things were told, some of them in more than a line.
        const auto [shortest, longest] = std::ranges::minmax(told, {}, &QString::size);
        const auto* label = window_.find<QLabel>("sentence");
        QVERIFY2(label->fontMetrics().horizontalAdvance(longest) > label->width(), qPrintable(longest));
        QVERIFY2(label->fontMetrics().horizontalAdvance(shortest) < label->width(), qPrintable(shortest));
        for (const QSize& one : sizes)
            QCOMPARE(one, size);
    }

    void playingKeepsItToo() {
        const QSize size = stage().size();
        window_->player().setLoop(std::pair<qint64, qint64>(8, 20));
        QTRY_VERIFY_WITH_TIMEOUT(window_->preview().isSettled(), 120'000); // with the loop
        const QObject here;
        int moves = 0;
        QList<QSize> sizes;
        connect(&window_->player(), &Player::moved, &here, [&] {
            ++moves;
            sizes << stage().size();
        });
        window_->player().play(1);
        QTRY_VERIFY_WITH_TIMEOUT(moves > 30, 60'000);
        // Nothing is laid out anew with a frame; the search for doubt and late frames tell something now and
        // then.
        LayoutCount laidOut;
        window_->installEventFilter(&laidOut);
        moves = 0;
        QTRY_VERIFY_WITH_TIMEOUT(moves > 40, 60'000);
        window_->removeEventFilter(&laidOut);
        QVERIFY2(2 * laidOut.count() < moves, qPrintable(QString::number(laidOut.count())));
        window_->player().pause();
        for (const QSize& one : sizes)
            QCOMPARE(one, size);
        // What was said of late frames keeps no room after them.
        const auto* state = window_.find<QLabel>("playState");
        QCOMPARE(state->parentWidget()->minimumWidth(), std::max(110, state->sizeHint().width()));
        // All of it was ready and is.
        for (std::size_t i = 8; i <= 20; ++i)
            QCOMPARE(window_->preview().ready()[i], Readiness::ready);
    }

    void cleanupTestCase() { window_.close(); }
};

QTEST_MAIN(TestSteadyStage)
#include "test_steady_stage.moc"
