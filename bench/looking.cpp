// What the editor waits for while looking: from a setting to the first picture, from a step to the frame,
// frames late while playing what is ready, stalls of the interface thread through a whole session, memory
// while scrubbing, and how soon work that nobody wants any more is abandoned.
//
//     QT_QPA_PLATFORM=offscreen bench_looking CLIP [SCRUB-SECONDS [MEMORY-MB]]
//
// Set XDG_CACHE_HOME and XDG_CONFIG_HOME to empty folders, so that nothing from before is found.

#include "app/look/theme.h"
#include "app/look/value_field.h"
#include "app/window/main_window.h"
#include "core/allocation.h"
#include "core/media/library_messages.h"
#include "core/memory_shares.h"
#include "core/progress.h"
#include "stolen_time.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QLineEdit>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>
#include <QToolButton>

#include <algorithm>
#include <atomic>
#include <cstdio>
#include <ctime>
#include <fstream>
#include <functional>
#include <random>
#include <thread>
#include <vector>

using namespace yarngap;
using namespace yarngap::app;

namespace {

double milliseconds(const QElapsedTimer& since) {
    return static_cast<double>(since.nsecsElapsed()) / 1e6;
}

/// Processor time of this thread, in ms.
double workedMilliseconds() {
    timespec now{};
    ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return static_cast<double>(now.tv_sec) * 1e3 + static_cast<double>(now.tv_nsec) / 1e6;
}

/// Turns the event loop until `done`, and notes the longest time between two turns, with what of it the
/// thread worked: for the rest others had the processor, on the host perhaps.
class Turns {
  public:
    Turns() {
        turn_.setTimerType(Qt::PreciseTimer);
        turn_.setInterval(1);
        QObject::connect(&turn_, &QTimer::timeout, [this] {
            note(part_);
            start();
        });
    }
    void until(const char* part, const std::function<bool()>& done, int atMost = 120'000) {
        part_ = part;
        start();
        turn_.start();
        QElapsedTimer whole;
        whole.start();
        while (!done() && whole.elapsed() < atMost)
            QApplication::processEvents(QEventLoop::WaitForMoreEvents);
        turn_.stop();
    }
    /// Something that the editor does counts with the turn it happens in.
    void act(const char* part, const std::function<void()>& what) {
        until(part, [ran = false]() mutable { return std::exchange(ran, true); });
        part_ = part;
        start();
        what();
        QApplication::processEvents();
        note(part);
    }
    void report() const {
        std::printf(
            "longest stall of the interface thread %.1f ms (%s), of which it worked %.1f; %d above 33 ms, "
            "in %d of them it worked as long; it worked at most %.1f ms (%s)\n",
            longest_.time, longest_.part, longest_.worked, over33_, worked33_, most_.worked, most_.part);
    }

  private:
    struct Stall {
        double time = 0;
        double worked = 0;
        const char* part = "";
    };
    void start() {
        since_.start();
        workedBefore_ = workedMilliseconds();
    }
    void note(const char* part) {
        constexpr double aim = 33;
        const Stall stall{milliseconds(since_), workedMilliseconds() - workedBefore_, part};
        if (stall.time > longest_.time) longest_ = stall;
        if (stall.worked > most_.worked) most_ = stall;
        over33_ += stall.time > aim ? 1 : 0;
        worked33_ += stall.worked > aim ? 1 : 0;
    }

    QTimer turn_;
    QElapsedTimer since_;
    double workedBefore_ = 0;
    Stall longest_, most_;
    const char* part_ = "";
    int over33_ = 0;
    int worked33_ = 0;
};

void print(const char* what, std::vector<double> times) {
    std::sort(times.begin(), times.end());
    std::printf("%-46s median %6.1f ms, longest %6.1f ms (%zu)\n", what, times[times.size() / 2],
                times.back(), times.size());
}

double residentMegabytes() {
    std::ifstream statm("/proc/self/statm");
    double size = 0;
    double resident = 0;
    statm >> size >> resident;
    return resident * 4096 / (1 << 20);
}

bool isSettled(MainWindow& window) {
    const PictureStage& stage = window.gapView().stage();
    return !stage.isStale() && !stage.isDraft() && stage.shownOutput() == window.player().playhead();
}

void settings(MainWindow& window, Turns& turns) {
    std::vector<double> first;
    std::vector<double> better;
    const qint64 middle = window.player().frames() / 2;
    for (int i = 0; i < 12; ++i) {
        window.player().goTo(middle / 4 * 4 + 2 + i % 2);
        turns.until("settling", [&] { return isSettled(window); });
        Shot shot = *window.document().current();
        shot.inBetweens.flow.stiffness = 10 + 5 * i;
        QElapsedTimer since;
        since.start();
        window.document().edit(QStringLiteral("stiffness"), shot);
        turns.until("a setting", [&] { return !window.gapView().stage().isStale(); });
        first.push_back(milliseconds(since));
        turns.until("a setting", [&] { return isSettled(window); });
        better.push_back(milliseconds(since));
    }
    print("setting to the first picture", first);
    print("setting to the picture of the chosen tier", better);
}

bool readyThrough(MainWindow& window, qint64 first, qint64 last) {
    const auto& ready = window.preview().ready();
    for (qint64 i = first; i <= last; ++i)
        if (ready[static_cast<std::size_t>(i)] != Readiness::ready) return false;
    return true;
}

void stepsAndPlaying(MainWindow& window, Turns& turns, qint64 count) {
    const qint64 first = std::min<qint64>(8, window.player().frames() - 1);
    const qint64 last = std::min(window.player().frames() - 1, first + count - 1);
    window.player().goTo(first);
    window.player().setLoop(std::pair(first, last));
    QElapsedTimer making;
    making.start();
    turns.until(
        "making ready", [&] { return readyThrough(window, first, last); }, 600'000);
    std::printf("%lld frames ready after %.1f s\n", static_cast<long long>(last - first + 1),
                milliseconds(making) / 1000);
    std::vector<double> steps;
    for (qint64 i = first; i < last; ++i) {
        QElapsedTimer since;
        since.start();
        window.player().goTo(i + 1);
        QApplication::processEvents(); // paints
        steps.push_back(milliseconds(since));
    }
    print("step to a ready frame, until it is painted", steps);
    constexpr double seconds = 6;
    window.player().goTo(first);
    window.player().play(1);
    QElapsedTimer playing;
    playing.start();
    turns.until("playing", [&] { return milliseconds(playing) > seconds * 1000; });
    std::printf("playing a ready loop at %.3f fps for %.0f s: %lld frames late\n", window.player().rate(),
                seconds, static_cast<long long>(window.player().notShown()));
    window.player().pause();
    window.player().setLoop(std::nullopt);
}

void session(MainWindow& window, Turns& turns) {
    const auto click = [&](const char* part, const char* button) {
        turns.act(part, [&] { window.findChild<QAbstractButton*>(QString::fromLatin1(button))->click(); });
    };
    const auto rest = [&](const char* part, int time) {
        QElapsedTimer since;
        since.start();
        turns.until(part, [&] { return since.elapsed() > time; });
    };
    click("filmstrip", "filmStripButton");
    rest("filmstrip", 2500);
    click("filmstrip", "filmStripButton");
    for (const char* overlay : {"vectorsButton", "trustButton", "differenceButton", "madeFromButton"}) {
        click("an overlay", overlay);
        rest("an overlay", 1200);
    }
    click("an overlay", "madeFromButton");
    click("compare", "compareButton");
    auto* mode = window.findChild<QComboBox*>(QStringLiteral("compareMode"));
    for (int i = 0; i < mode->count(); ++i) {
        turns.act("compare", [&] {
            mode->setCurrentIndex(i);
            Q_EMIT mode->activated(i);
        });
        rest("compare", 1500);
        turns.act("step in compare", [&] { window.player().goTo(window.player().playhead() + 1); });
        rest("step in compare", 300);
    }
    click("compare", "compareButton");
    QTemporaryDir folder;
    const QString name = folder.filePath(QStringLiteral("out.mkv"));
    auto* target = window.findChild<QLineEdit*>(QStringLiteral("targetField"));
    target->setText(name);
    Q_EMIT target->textEdited(name);
    bool ended = false;
    const auto connection =
        QObject::connect(&window.render(), &RenderController::finished, [&] { ended = true; });
    click("render", "renderButton");
    QElapsedTimer rendering;
    rendering.start();
    QTimer hand; // an editor who steps through the shot meanwhile
    QObject::connect(&hand, &QTimer::timeout, [&] {
        window.player().goTo((window.player().playhead() + 7) % window.player().frames());
    });
    hand.start(200);
    constexpr int enough = 20'000;
    turns.until("render", [&] { return ended || rendering.elapsed() > enough; });
    if (!ended) {
        click("cancel", "cancelButton");
        turns.until("cancelling", [&] { return ended; });
    }
    QObject::disconnect(connection);
}

void scrub(MainWindow& window, Turns& turns, int seconds) {
    std::mt19937 random(3);
    QElapsedTimer since;
    since.start();
    double most = 0;
    std::size_t mostHeld = 0;
    QTimer hand;
    QObject::connect(&hand, &QTimer::timeout, [&] {
        window.player().goTo(static_cast<qint64>(random() % static_cast<unsigned>(window.player().frames())));
        most = std::max(most, residentMegabytes());
        mostHeld = std::max(mostHeld, window.preview().bytes());
    });
    hand.start(120);
    turns.until(
        "scrubbing", [&] { return since.elapsed() > seconds * 1000LL; }, seconds * 1000 + 1000);
    std::printf("scrubbing for %d s: at most %.0f MB resident, %zu MB of pictures\n", seconds, most,
                mostHeld >> 20U);
}

/// How long FrameMaker::make() goes on after it was told to stop, at moments all through its work.
void abandoning(MainWindow& window) {
    const auto index = window.document().currentMedia();
    const auto source = std::make_shared<FrameSource>(index);
    const FrameMaker maker(source, std::make_shared<VectorStore>(0), window.document().current()->inBetweens);
    std::vector<PlanRow> rows;
    for (const PlanRow& row : window.plan()->rows)
        if (row.kind == FrameKind::flow && row.position.frame > 2) rows.push_back(row);
    (void)maker.make(rows.front());
    QElapsedTimer whole;
    whole.start();
    (void)maker.make(rows.front());
    const double usual = milliseconds(whole);
    std::vector<double> drafts;
    for (std::size_t i = 0; i < std::min<std::size_t>(24, rows.size()); i += 2) {
        const FrameMaker quick =
            FrameMaker(source, std::make_shared<VectorStore>(0), window.document().current()->inBetweens)
                .forDraft();
        QElapsedTimer since;
        since.start();
        (void)quick.make(rows[i]);
        if (i > 0) drafts.push_back(milliseconds(since));
    }
    print("a draft from scratch", drafts);
    std::vector<double> times;
    constexpr int tries = 40;
    for (int i = 0; i < tries; ++i) {
        std::stop_source stop;
        std::atomic<bool> ended = false;
        QElapsedTimer since;
        std::jthread worker([&] {
            try {
                (void)maker.make(rows[static_cast<std::size_t>(i) % rows.size()], stop.get_token());
            } catch (const Cancelled&) {
            }
            ended = true;
            ended.notify_all();
        });
        std::this_thread::sleep_for(std::chrono::duration<double, std::milli>(usual * i / tries));
        since.start();
        stop.request_stop();
        ended.wait(false);
        times.push_back(milliseconds(since));
        if (constexpr double aim = 50; times.back() > aim)
            std::printf("stopped after %.0f ms of a frame: went on for %.0f ms\n", usual * i / tries,
                        times.back());
    }
    std::sort(times.begin(), times.end());
    std::printf("a frame takes %.0f ms; ", usual);
    print("from stop to abandoned", times);
    std::printf("    above 50 ms: %td of %d\n",
                times.end() - std::upper_bound(times.begin(), times.end(), 50.0), tries);
}

} // namespace

int main(int argc, char** argv) {
    reuseFreedMemory(); // as the program does
    silenceMediaLibraries();
    const QApplication application(argc, argv);
    QCoreApplication::setOrganizationName(QStringLiteral("yarngap-bench"));
    const QStringList arguments = QApplication::arguments();
    if (arguments.size() < 2) {
        std::fprintf(stderr, "Usage: bench_looking CLIP [SCRUB-SECONDS [MEMORY-MB]]\n");
        return 2;
    }
    const int scrubSeconds = arguments.value(2, QStringLiteral("60")).toInt();
    Preferences preferences = loadPreferences();
    if (arguments.size() > 3)
        preferences.memoryBytes = std::max<std::uint64_t>(leastMemory, arguments[3].toULongLong() << 20U);
    savePreferences(preferences);
    applyTheme(*qApp);
    Turns turns;
    const StolenTime stolen;
    MainWindow window;
    window.show();
    const std::string clip = QFileInfo(arguments[1]).absoluteFilePath().toStdString();
    turns.act("opening", [&] { window.document().openFiles({QString::fromStdString(clip)}); });
    turns.until("opening", [&] { return window.plan() != nullptr; });
    if (!window.plan()) return 1;
    turns.until("measuring", [&] { return window.document().media().state(clip).suitability != nullptr; });
    const Timing timing = withSpeed(*window.document().currentTiming(), Rational(1, 4));
    turns.act("a speed", [&] { window.document().editTiming(QStringLiteral("speed"), timing); });
    std::printf("%s, %d x %d, memory %s\n", qPrintable(QFileInfo(arguments[1]).fileName()),
                window.document().media().state(clip).facts.width,
                window.document().media().state(clip).facts.height,
                qPrintable(displayBytes(preferences.memoryBytes)));
    abandoning(window);
    settings(window, turns);
    constexpr qint64 loop = 48;
    stepsAndPlaying(window, turns, loop);
    turns.act("a rate", [&] {
        window.document().editTiming(QStringLiteral("rate"),
                                     withOutputRate(*window.document().currentTiming(), Rate(60, 1)));
    });
    stepsAndPlaying(window, turns, 2 * loop);
    session(window, turns);
    turns.report();
    scrub(window, turns, scrubSeconds);
    turns.report();
    std::printf("%.1f %% of the processors' time went to others on the host\n", 100 * stolen.share());
    return 0;
}
