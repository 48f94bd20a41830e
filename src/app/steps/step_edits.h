// Kinds of edits that merge into one step of undo while they follow each other.
#pragma once

namespace yarngap::app {

enum EditKind {
    editSpeed = 1,
    editFactor,
    editFrames,
    editSeconds,
    editTimecode,
    editIn,
    editOut,
    editStiffness,
    editTrustLimit,
    editShutter,
    editFeather,
    editPatchFeather,
    editPatchStrength,
    editPatchBlur,
    editPatchFade,
    editPlace,
    editPlaceDragged,
    editCurve,
    editFinishFirst = 100, ///< and those of all fields of the step Finish after it; see FinishRow::kindOf
    editFinishLast = 999
};

} // namespace yarngap::app
