// What a render will make, said before it begins.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/media_facts.h"
#include "core/render/render_settings.h"
#include "core/time/frame_plan.h"
#endif

#include <QString>

#include <cstdint>
#include <memory>

namespace yarngap::app {

/// Counts the frames of a plan once, however often it is asked.
class RenderForecast {
  public:
    /// Output frames `first` to `end`, not included, of which `ready` are made already, with the size of the
    /// file by guess: "96 frames: 24 original, 3 held, 69 to make. About 4 MB."
    QString words(const std::shared_ptr<const FramePlan>& plan, std::int64_t first, std::int64_t end,
                  std::int64_t ready, const MediaFacts& facts, const RenderSettings& settings);

  private:
    void count(const std::shared_ptr<const FramePlan>& plan, std::int64_t first, std::int64_t end);

    std::shared_ptr<const FramePlan> plan_; ///< that was counted
    std::int64_t first_ = 0, end_ = 0;
    std::int64_t originals_ = 0, repeats_ = 0, held_ = 0, toMake_ = 0;
};

} // namespace yarngap::app
