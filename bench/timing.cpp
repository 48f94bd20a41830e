// Figures of the time map and the thread chart:
//     bench_timing
// Evaluation of a million output frames over ten thousand keys, the plan of 100,000 frames, repaints of its
// chart at three zooms, and the time from a step of a drag to the chart that shows the new plan. Beside the
// first stands the same million values through std::lerp over a table of the keys, the least that any
// evaluation does. Medians of nine runs.

#include "app/chart/chart_places.h"
#include "app/chart/thread_chart.h"
#include "app/look/theme.h"
#include "core/time/key_edits.h"

#include <QApplication>
#include <QMouseEvent>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <functional>

using namespace yarngap;
using namespace yarngap::app;

namespace {

double medianMilliseconds(const std::function<void()>& run) {
    std::vector<double> times;
    for (int i = 0; i < 9; ++i) {
        const auto begin = std::chrono::steady_clock::now();
        run();
        times.push_back(
            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count());
    }
    std::nth_element(times.begin(), times.begin() + 4, times.end());
    return times[4];
}

/// `count` keys, `apart` output frames from each other, constant and eased in turn at changing speeds.
TimeKeys manyKeys(int count, std::int64_t apart) {
    TimeKeys keys;
    Rational position = 0;
    for (int i = 0; i < count; ++i) {
        keys.push_back({Rational(i * apart), position, i % 2 == 0 ? Segment::constant : Segment::eased, {}});
        position = position + Rational(apart * (1 + i % 5), 8);
    }
    return keys;
}

} // namespace

int main(int argc, char** argv) {
    if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    const QApplication application(argc, argv);
    applyTheme(*qApp);

    constexpr std::int64_t million = 1'000'000;
    const TimeKeys keys = manyKeys(10'001, 100);
    const TimeMap map(keys);
    double sink = 0;
    const double evaluation = medianMilliseconds([&] { sink += map.positions(million).back(); });
    std::vector<double> table;
    for (const TimeKey& key : keys)
        table.push_back(key.position.toDouble());
    const double straight = medianMilliseconds([&] {
        std::vector<double> out(static_cast<std::size_t>(million));
        for (std::size_t n = 0; n < out.size(); ++n)
            out[n] = std::lerp(table[n / 100], table[n / 100 + 1], static_cast<double>(n % 100) / 100);
        sink += out.back();
    });
    std::printf("positions of 10^6 frames, 10^4 keys   %7.1f ms (straight lines: %.1f ms)\n", evaluation,
                straight);

    const Timing constant{.sourceRate = Rate(24, 1),
                          .outputRate = Rate(24, 1),
                          .from = 0,
                          .to = 24'999,
                          .speed = Rational(1, 4)};
    Timing varying = constant;
    varying.to = 99'999;
    varying.keys = manyKeys(1001, 100);
    FramePlan plan;
    const auto planTime = [&](const char* what, const Timing& timing, Method method) {
        const double ms = medianMilliseconds([&] { plan = makePlan(timing, method, 100'000); });
        std::printf("plan of %zu frames, %-18s %7.1f ms\n", plan.rows.size(), what, ms);
    };
    planTime("constant, flow", constant, Method::flow);
    planTime("constant, blend", constant, Method::blend);
    planTime("1000 keys, flow", varying, Method::flow);
    planTime("1000 keys, blend", varying, Method::blend);

    for (const auto& [what, timing] : {std::pair{"constant", constant}, {"1000 keys", varying}}) {
        Player player;
        ThreadChart chart(player);
        chart.resize(1920, 248);
        const auto made = std::make_shared<FramePlan>(makePlan(timing, Method::flow, 100'000));
        player.setRange(static_cast<qint64>(made->rows.size()), 24);
        chart.setPlan(made, timing);
        chart.show();
        QApplication::processEvents();
        QPixmap picture(chart.size());
        for (const double pixels : {0.0, 1.5, 12.0}) {
            chart.fit();
            if (pixels > 0) chart.zoom(pixels / chart.pixelsPerFrame(), 900);
            const double ms = medianMilliseconds([&] {
                chart.zoom(1, 900); // draws everything again
                chart.render(&picture);
            });
            std::printf("repaint, %s, %5.2f px per frame   %7.1f ms\n", what, chart.pixelsPerFrame(), ms);
        }
    }

    // A shot as editors have them: 400 source frames with a ramp, the stretch dragged.
    Timing shot{.sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 0, .to = 399, .speed = 1};
    shot.keys = withRamp(shot.asKeys(), {.from = 150, .to = 250, .step = Rational(1, 5), .ease = 20});
    Player player;
    ThreadChart chart(player);
    chart.resize(1280, 248);
    chart.show();
    const auto show = [&](const Timing& timing) {
        const auto made = std::make_shared<FramePlan>(makePlan(timing, Method::flow, 400));
        player.setRange(static_cast<qint64>(made->rows.size()), 24);
        chart.setPlan(made, timing);
    };
    QObject::connect(&chart, &ThreadChart::timingDragged, &chart,
                     [&](const Timing& changed, const QString&, int) { show(changed); });
    show(shot);
    const double middle = (shot.keys[2].output.toDouble() + shot.keys[3].output.toDouble()) / 2;
    const QPointF at(chart.xOf(middle), chart.yOfSpeed(0.2));
    const auto send = [&](QEvent::Type type, const QPointF& place) {
        QMouseEvent event(type, place, chart.mapToGlobal(place), Qt::LeftButton, Qt::LeftButton, {});
        QApplication::sendEvent(&chart, &event);
    };
    send(QEvent::MouseButtonPress, at);
    QPixmap picture(chart.size());
    int step = 0;
    const double drag = medianMilliseconds([&] {
        send(QEvent::MouseMove, at + QPointF(0, 4 + step++ % 8));
        chart.render(&picture);
    });
    std::printf("step of a drag to the chart that shows it %5.1f ms\n", drag);
    return std::isfinite(sink) ? 0 : 1;
}
