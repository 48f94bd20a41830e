#include "app/steps/render_forecast.h"

#include "app/look/numbers.h"
#include "core/shot/ready_shot.h"

#include <QObject>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

QString sizeWords(double bytes) {
    constexpr double megabyte = 1e6;
    constexpr double gigabyte = 1e9;
    return bytes >= gigabyte ? QObject::tr("%1 GB").arg(shownNumber(bytes / gigabyte, 1))
                             : QObject::tr("%1 MB").arg(std::max(1.0, std::round(bytes / megabyte)));
}

double bytesOf(const RenderSettings& settings, const MediaFacts& facts, std::int64_t frames) {
    return bytesPerFrame(settings.format, facts.width, facts.height, facts.layout) *
           static_cast<double>(framesWritten(settings.scan, frames));
}

} // namespace

void RenderForecast::Counts::add(const FramePlan& plan, std::int64_t first, std::int64_t end) {
    for (std::int64_t n = first; n < end; ++n) {
        switch (plan.rows[static_cast<std::size_t>(n)].kind) {
        case FrameKind::original:
            ++originals;
            break;
        case FrameKind::repeat:
            ++repeats;
            break;
        case FrameKind::held:
            ++held;
            break;
        case FrameKind::blend:
        case FrameKind::flow:
            ++toMake;
            break;
        }
    }
}

QStringList RenderForecast::Counts::words(std::int64_t ready) const {
    QStringList parts;
    if (originals > 0) parts << QObject::tr("%1 original").arg(originals);
    if (repeats > 0) parts << QObject::tr("%1 repeated").arg(repeats);
    if (held > 0) parts << QObject::tr("%1 held").arg(held);
    if (toMake > 0)
        parts << (ready > 0 ? QObject::tr("%1 to make, of which %2 are ready").arg(toMake).arg(ready)
                            : QObject::tr("%1 to make").arg(toMake));
    return parts;
}

void RenderForecast::count(const std::shared_ptr<const FramePlan>& plan, std::int64_t first,
                           std::int64_t end) {
    if (plan == plan_ && first == first_ && end == end_) return;
    plan_ = plan;
    first_ = first;
    end_ = end;
    counts_ = {};
    counts_.add(*plan, first, end);
}

QString RenderForecast::words(const std::shared_ptr<const FramePlan>& plan, std::int64_t first,
                              std::int64_t end, std::int64_t ready, const MediaFacts& facts,
                              const RenderSettings& settings) {
    count(plan, first, end);
    return QObject::tr("%n frames: %1. About %2.", nullptr, static_cast<int>(end - first))
        .arg(counts_.words(ready).join(QStringLiteral(", ")),
             sizeWords(bytesOf(settings, facts, end - first)));
}

QString RenderForecast::ofSeveral(const std::vector<RenderWork>& works, const KnownMedia& known,
                                  const std::stop_token& stop) {
    Counts counts;
    double bytes = 0;
    int shots = 0;
    for (const RenderWork& work : works)
        for (const WorkShot& of : work.shots) {
            const auto index = known.index(of.shot.media, {}, stop);
            const SourceAxis axis(*index, of.shot.interpretation, of.shot.cleanup);
            const FramePlan plan = planOf(of.shot, axis, of.timing, of.found.value_or(GapFindings{}));
            const auto frames = static_cast<std::int64_t>(plan.rows.size());
            counts.add(plan, 0, frames);
            bytes += bytesOf(work.settings, axis.facts(), frames);
            ++shots;
        }
    return QObject::tr("%1 shots, %n frames: %2. About %3.", nullptr, static_cast<int>(counts.all()))
        .arg(shots)
        .arg(counts.words(0).join(QStringLiteral(", ")), sizeWords(bytes));
}

} // namespace yarngap::app
