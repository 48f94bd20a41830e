// What a render will make, said before it begins.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/media_facts.h"
#include "core/render/render_settings.h"
#include "core/render/render_work.h"
#include "core/time/frame_plan.h"
#endif

#include <QString>
#include <QStringList>

#include <cstdint>
#include <memory>
#include <stop_token>
#include <vector>

namespace yarngap::app {

/// Counts the frames of a plan once, however often it is asked.
class RenderForecast {
  public:
    /// Output frames `first` to `end`, not included, of which `ready` are made already, with the size of the
    /// file by guess: "96 frames: 24 original, 3 held, 69 to make. About 4 MB."
    QString words(const std::shared_ptr<const FramePlan>& plan, std::int64_t first, std::int64_t end,
                  std::int64_t ready, const MediaFacts& facts, const RenderSettings& settings);

    /// The same of works of several shots, all together. Not for the interface thread. Throws Error for media
    /// that are not there, Cancelled.
    static QString ofSeveral(const std::vector<RenderWork>& works, const KnownMedia& known,
                             const std::stop_token& stop);

  private:
    /// Frames by what becomes of them.
    struct Counts {
        std::int64_t originals = 0, repeats = 0, held = 0, toMake = 0;
        void add(const FramePlan& plan, std::int64_t first, std::int64_t end);
        [[nodiscard]] QStringList words(std::int64_t ready) const;
        [[nodiscard]] std::int64_t all() const { return originals + repeats + held + toMake; }
    };
    void count(const std::shared_ptr<const FramePlan>& plan, std::int64_t first, std::int64_t end);

    std::shared_ptr<const FramePlan> plan_; ///< that was counted
    std::int64_t first_ = 0, end_ = 0;
    Counts counts_;
};

} // namespace yarngap::app
