#include "app/steps/render_forecast.h"

#include <QObject>
#include <QStringList>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

void RenderForecast::count(const std::shared_ptr<const FramePlan>& plan, std::int64_t first,
                           std::int64_t end) {
    if (plan == plan_ && first == first_ && end == end_) return;
    plan_ = plan;
    first_ = first;
    end_ = end;
    originals_ = repeats_ = held_ = toMake_ = 0;
    for (std::int64_t n = first; n < end; ++n) {
        switch (plan->rows[static_cast<std::size_t>(n)].kind) {
        case FrameKind::original:
            ++originals_;
            break;
        case FrameKind::repeat:
            ++repeats_;
            break;
        case FrameKind::held:
            ++held_;
            break;
        case FrameKind::blend:
        case FrameKind::flow:
            ++toMake_;
            break;
        }
    }
}

QString RenderForecast::words(const std::shared_ptr<const FramePlan>& plan, std::int64_t first,
                              std::int64_t end, std::int64_t ready, const MediaFacts& facts,
                              const RenderSettings& settings) {
    count(plan, first, end);
    QStringList parts;
    if (originals_ > 0) parts << QObject::tr("%1 original").arg(originals_);
    if (repeats_ > 0) parts << QObject::tr("%1 repeated").arg(repeats_);
    if (held_ > 0) parts << QObject::tr("%1 held").arg(held_);
    if (toMake_ > 0)
        parts << (ready > 0 ? QObject::tr("%1 to make, of which %2 are ready").arg(toMake_).arg(ready)
                            : QObject::tr("%1 to make").arg(toMake_));
    const double bytes = bytesPerFrame(settings.format, facts.width, facts.height, facts.layout) *
                         static_cast<double>(framesWritten(settings.scan, end - first));
    constexpr double megabyte = 1e6;
    constexpr double gigabyte = 1e9;
    const QString size = bytes >= gigabyte
                             ? QObject::tr("%1 GB").arg(bytes / gigabyte, 0, 'f', 1)
                             : QObject::tr("%1 MB").arg(std::max(1.0, std::round(bytes / megabyte)));
    return QObject::tr("%n frames: %1. About %2.", nullptr, static_cast<int>(end - first))
        .arg(parts.join(QStringLiteral(", ")), size);
}

} // namespace yarngap::app
