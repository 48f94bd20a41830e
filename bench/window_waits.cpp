// How long the window lets its user wait: the first picture of a file, the steps of a drag in the speed lane
// until the window shows them, and the longest stall of the interface thread while a render runs and the
// playhead is moved.
//
//     QT_QPA_PLATFORM=offscreen bench_window_waits CLIP TARGET [SPEED]
//
// SPEED defaults to 50%. A stall is the time between two turns of the event loop that was asked to turn every
// millisecond; it includes waiting for a free core.

#include "app/chart/thread_chart.h"
#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/media/library_messages.h"
#include "core/time/map_edits.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QLineEdit>
#include <QMouseEvent>
#include <QTimer>

#include <algorithm>
#include <cstdio>
#include <sys/resource.h>
#include <vector>

using namespace yarngap;
using namespace yarngap::app;

namespace {

/// Turns the event loop until `done`; the longest time between two turns, in milliseconds.
template <typename Done>
double longestStall(Done done) {
    QElapsedTimer sinceTurn;
    double longest = 0;
    QTimer turn;
    turn.setTimerType(Qt::PreciseTimer);
    turn.setInterval(1);
    QObject::connect(&turn, &QTimer::timeout, [&] {
        longest = std::max(longest, static_cast<double>(sinceTurn.nsecsElapsed()) / 1e6);
        sinceTurn.start();
    });
    sinceTurn.start();
    turn.start();
    while (!done())
        QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    return longest;
}

/// Drags the slow stretch of a ramp up and down: median and longest time of a step until the window, with its
/// steps and its chart, shows what came of it.
void printDrag(MainWindow& window) {
    Timing timing = *window.document().currentTiming();
    const Rational third(timing.sourceFrames() / 3);
    if (third < Rational(2)) return;
    timing.keys = withRamp(timing.asKeys(), {.from = Rational(timing.from) + third,
                                             .to = Rational(timing.from) + third + third,
                                             .step = timing.stepAt(Rational(1, 4)),
                                             .ease = third / Rational(3)});
    window.document().editTiming(QStringLiteral("ramp"), timing);
    auto* chart = window.findChild<ThreadChart*>();
    const double middle = (timing.keys[2].output.toDouble() + timing.keys[3].output.toDouble()) / 2;
    const QPointF at(chart->xOf(middle), chart->yOfSpeed(0.25));
    const auto send = [&](QEvent::Type type, const QPointF& place) {
        QMouseEvent event(type, place, chart->mapToGlobal(place), Qt::LeftButton, Qt::LeftButton, {});
        QApplication::sendEvent(chart, &event);
    };
    send(QEvent::MouseButtonPress, at);
    std::vector<double> times;
    times.reserve(60);
    for (int i = 0; i < 60; ++i) {
        QElapsedTimer since;
        since.start();
        send(QEvent::MouseMove, at + QPointF(0, 4 + i % 9));
        QApplication::processEvents();
        times.push_back(static_cast<double>(since.nsecsElapsed()) / 1e6);
    }
    send(QEvent::MouseButtonRelease, at);
    std::sort(times.begin(), times.end());
    std::printf("step of a drag until the window shows it: median %.1f ms, longest %.1f ms\n", times[30],
                times.back());
    window.document().undoStack().undo();
    window.document().undoStack().undo();
}

} // namespace

int main(int argc, char** argv) {
    silenceMediaLibraries();
    const QApplication application(argc, argv);
    const QStringList arguments = QApplication::arguments();
    if (arguments.size() < 3) {
        std::fprintf(stderr, "Usage: bench_window_waits CLIP TARGET [SPEED]\n");
        return 2;
    }
    applyTheme(*qApp);
    MainWindow window;
    window.show();
    const std::string clip = QFileInfo(arguments[1]).absoluteFilePath().toStdString();

    QElapsedTimer sinceOpen;
    sinceOpen.start();
    window.document().openFiles({QString::fromStdString(clip)});
    const auto state = [&]() -> const MediaState& { return window.document().media().state(clip); };
    double stall = longestStall(
        [&] { return !state().firstPicture.isNull() || state().stage == MediaState::Stage::failed; });
    std::printf("first picture after %lld ms", static_cast<long long>(sinceOpen.elapsed()));
    stall = std::max(stall, longestStall([&] {
                         return window.plan() != nullptr || state().stage == MediaState::Stage::failed;
                     }));
    if (!window.plan()) {
        std::printf("\n%s\n", qPrintable(state().trouble));
        return 1;
    }
    std::printf(", all frames counted after %lld ms, longest stall meanwhile %.1f ms\n",
                static_cast<long long>(sinceOpen.elapsed()), stall);

    longestStall([&] { return state().suitability != nullptr; }); // measuring the shot is over
    printDrag(window);
    const Timing timing = withSpeed(*window.document().currentTiming(),
                                    parseSpeed(arguments.value(3, QStringLiteral("50%")).toStdString()));
    window.document().editTiming(QStringLiteral("speed"), timing);
    const auto rows = static_cast<qint64>(window.plan()->rows.size());
    bool ended = false;
    QObject::connect(&window.render(), &RenderController::finished, [&] { ended = true; });
    auto* target = window.findChild<QLineEdit*>(QStringLiteral("targetField"));
    target->setText(arguments[2]);
    Q_EMIT target->textEdited(arguments[2]);
    window.findChild<QPushButton*>(QStringLiteral("renderButton"))->click();
    QTimer hand; // an editor who steps through the shot meanwhile
    QObject::connect(&hand, &QTimer::timeout,
                     [&] { window.player().goTo((window.player().playhead() + 7) % rows); });
    hand.start(200);
    QElapsedTimer sinceRender;
    sinceRender.start();
    stall = longestStall([&] { return ended; });
    rusage usage{};
    ::getrusage(RUSAGE_SELF, &usage);
    std::printf(
        "render of %lld frames in %.1f s, longest stall of the interface %.1f ms, peak memory %ld MB\n%s\n",
        static_cast<long long>(rows), static_cast<double>(sinceRender.elapsed()) / 1000, stall,
        usage.ru_maxrss / 1024, qPrintable(window.render().outcome()));
    return window.render().failed() ? 1 : 0;
}
