// What every step of the job has: the workspace it works on, a body and an outcome.
#pragma once

#include "app/document/document.h"
#include "app/document/render_controller.h"
#include "app/look/value_field.h"
#include "app/playing/player.h"
#include "core/time/frame_plan.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over <span>
#include "app/chart/lane_edits.h"
#endif

#include <QWidget>

#include <functional>
#include <memory>
#include <optional>
#include <utility>

namespace yarngap::app {

/// What the steps show and change.
struct Workspace {
    Document& document;
    Player& player;
    RenderController& render;
    std::function<std::shared_ptr<const FramePlan>()>
        plan; ///< of the current shot, null until its media is ready
    std::function<std::int64_t()> sourceFrameAtPlayhead;
    /// How many of some output frames (the end not included) have been made and are kept.
    std::function<std::int64_t(std::int64_t first, std::int64_t end)> readyFrames;
    /// First and last gap of the stretch selected in the thread chart.
    std::function<std::optional<std::pair<std::int64_t, std::int64_t>>()> selectedGaps;
    /// What a change of speed leaves alone.
    std::function<LaneKeeping()> keeping;
};

/// Body of a step. `refresh` shows the present state and returns the outcome for the step's line.
class StepBody : public QWidget {
    Q_OBJECT
  public:
    explicit StepBody(Workspace& workspace)
        : workspace_(workspace) {}
    virtual QString refresh() = 0;

  protected:
    /// Runs an edit of the timing from a field; refusals are shown on the field.
    void apply(ValueField& field, const QString& text, int kind,
               const std::function<Timing(const Timing&)>& change);
    Workspace& workspace_;
};

} // namespace yarngap::app
