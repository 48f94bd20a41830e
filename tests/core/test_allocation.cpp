#include "core/allocation.h"

#include <QtTest>

#include <vector>

#include <sys/resource.h>

using namespace yarngap;

namespace {

long pagesFetched() {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return usage.ru_minflt;
}

/// What a frame takes and gives back: several planes, and others smaller than they are.
void takeAndGiveBack() {
    constexpr std::size_t plane = 3'000'000;
    std::vector<std::vector<char>> planes;
    planes.reserve(15);
    for (std::size_t i = 1; i <= 15; ++i)
        planes.emplace_back(plane / i, '\1');
}

} // namespace

class TestAllocation : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void memoryOfOneFrameServesTheNext();
};

void TestAllocation::memoryOfOneFrameServesTheNext() {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
    QSKIP("sanitizers have allocators of their own");
#endif
    const long before = pagesFetched();
    takeAndGiveBack();
    const long first = pagesFetched() - before;
    QVERIFY2(first > 2000, "memory was there already");
    constexpr int frames = 20;
    for (int i = 0; i < frames; ++i)
        takeAndGiveBack();
    const long later = pagesFetched() - before - first;
    QVERIFY2(
        later < first,
        qPrintable(
            QStringLiteral("%1 frames fetched %2 pages, the first %3").arg(frames).arg(later).arg(first)));
}

int main(int argc, char** argv) {
    reuseFreedMemory();
    TestAllocation test;
    return QTest::qExec(&test, argc, argv);
}

#include "test_allocation.moc"
