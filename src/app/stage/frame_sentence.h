// The sentence about an output frame.
#pragma once

#include "core/time/frame_plan.h"

#include <QString>

#include <optional>

namespace yarngap::app {

/// "Output 143 · position 35.75 · three quarters from 35 to 36 · optical flow · doubt 0.12".
QString frameSentence(const FramePlan& plan, const PlanRow& row, std::optional<double> doubt);

} // namespace yarngap::app
