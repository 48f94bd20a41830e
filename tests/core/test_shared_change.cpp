// What most of a picture does otherwise than in the gap before.

#include "core/motion/shared_change.h"
#include "support/drawn_board.h"
#include "support/vector_fields.h"

#include <QTest>

#include <cmath>
#include <functional>
#include <limits>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 200;

TrustField trustOf(std::uint8_t trust) {
    return {width, height, std::vector<std::uint8_t>(std::size_t{width} * height, trust)};
}

VectorField fieldOf(const std::function<cv::Vec2f(int, int)>& motion) {
    return test::fieldOf(width, height, motion);
}

/// A point goes 4 to the right and turns round the middle, and came by 6 from the left and 2 from above.
cv::Vec2f onward(int x, int y) {
    constexpr float middleX = 0.5F * width;
    constexpr float middleY = 0.5F * height;
    return {4 - 0.01F * (static_cast<float>(y) - middleY), 0.01F * (static_cast<float>(x) - middleX)};
}
cv::Vec2f away(int, int) {
    return {-6, -2};
}

bool near(const cv::Vec2f& a, const cv::Vec2f& b, double tolerance) {
    return cv::norm(a - b) < tolerance;
}

} // namespace

class TestSharedChange : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void itIsTheSecondDifferenceOfPlaces() {
        const SharedChange change(fieldOf(onward), trustOf(255), fieldOf(away), trustOf(255));
        QVERIFY(near(change.at(width / 2.0, height / 2.0), {-2, -2}, 0.01));
        QVERIFY(near(change.at(0, 0), {-2 + 1, -2 - 1.6F}, 0.01));
        QVERIFY(near(change.at(width, height), {-2 - 1, -2 + 1.6F}, 0.01));
        QVERIFY(!change.isSlight());
    }

    void whatMovesByItselfDoesNotCount() {
        // A third of the picture goes somewhere else altogether, and there is nonsense in places.
        const auto withSubject = [](int x, int y) {
            if (x % 24 == 4 && y % 24 == 4) return cv::Vec2f(std::numeric_limits<float>::quiet_NaN(), 1e9F);
            return x > 200 ? cv::Vec2f(-40, 13) : onward(x, y);
        };
        const SharedChange change(fieldOf(withSubject), trustOf(255), fieldOf(away), trustOf(255));
        QVERIFY(near(change.at(width / 4.0, height / 2.0), {-2, -2.8F}, 0.1));
    }

    void untrustedVectorsTellNothing_data() {
        QTest::addColumn<int>("onwardTrust");
        QTest::addColumn<int>("awayTrust");
        QTest::addColumn<bool>("told");
        QTest::newRow("both trusted") << 64 << 64 << true;
        QTest::newRow("not onward") << 63 << 255 << false;
        QTest::newRow("not away") << 255 << 63 << false;
    }
    void untrustedVectorsTellNothing() {
        QFETCH(const int, onwardTrust);
        QFETCH(const int, awayTrust);
        QFETCH(const bool, told);
        const SharedChange change(fieldOf(onward), trustOf(static_cast<std::uint8_t>(onwardTrust)),
                                  fieldOf(away), trustOf(static_cast<std::uint8_t>(awayTrust)));
        QCOMPARE(change.isSlight(), !told);
        if (!told) QCOMPARE(cv::norm(change.at(0, 0)), 0.0);
    }

    void theFrameBeyondIsEvenedOut() {
        // A wall seen at -6, 0 and 4: had it come by 4 as well, it would have been at -4.
        const DrawnBoard wall{.width = width, .height = height};
        const auto seenAt = [&](int place) {
            DrawnBoard moved = wall;
            moved.shaken = {place, 0, 0, 0};
            return ColouredPicture{analysisPicture(moved.frame(0), AnalyseOn::asIs), {}};
        };
        const auto even = [](float v) { return fieldOf([v](int, int) { return cv::Vec2f(v, 0); }); };
        const SharedChange change(even(4), trustOf(255), even(-6), trustOf(255));
        const cv::Mat made = change.evenedOut(seenAt(-6)).luma;
        const cv::Rect inside(10, 0, width - 20, height);
        QVERIFY(cv::norm(made(inside), seenAt(-4).luma(inside), cv::NORM_INF) <= 1);
        const ColouredPicture same = seenAt(-6); // where it goes on as it did, nothing is touched
        const SharedChange none(even(6.1F), trustOf(255), even(-6), trustOf(255));
        QVERIFY(none.isSlight());
        QCOMPARE(none.evenedOut(same).luma.data, same.luma.data);
    }
};

QTEST_APPLESS_MAIN(TestSharedChange)
#include "test_shared_change.moc"
