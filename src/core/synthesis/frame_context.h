// What the frames of a shot are made from and with.
#pragma once

#include "core/media/shot_frames.h"
#include "core/motion/vector_store.h"
#include "core/settings/in_betweens.h"
#include "core/synthesis/matte_frames.h"
#include "core/synthesis/remake.h"
#include "core/time/frame_plan.h"

#include <memory>
#include <vector>

namespace yarngap {

struct FrameContext {
    std::shared_ptr<ShotFrames> source;
    std::shared_ptr<VectorStore> vectors;
    std::shared_ptr<RemakeErrors> remakes;
    std::shared_ptr<const MatteFrames> matte; ///< null without one
    bool hasMatteFiles = false;               ///< the matte comes from pictures, whose files may change
    std::vector<InBetweens> settings;         ///< PlanRow::settings is a place in it; one goes for all rows
    float scale = 1;                          ///< width of the frames over that of the shot
    bool judges = true; ///< source frames are remade, so that the doubt of frames is known

    [[nodiscard]] const InBetweens& settingsOf(const PlanRow& row) const {
        return settings.size() == 1 ? settings.front() : settings.at(row.settings);
    }
};
using FrameContextPtr = std::shared_ptr<const FrameContext>;

} // namespace yarngap
