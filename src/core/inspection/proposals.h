// Where a file and its pictures disagree, and what to do about it.
#pragma once

#include "core/inspection/shot_findings.h"
#include "core/media/interpretation.h"

#include <string>
#include <vector>

namespace yarngap {

/// One sentence for the editor, and the interpretation that acts on it.
struct Proposal {
    std::string sentence; ///< what was found, beside what the file says
    std::string action;   ///< words for a button; empty when there is nothing to press
    Interpretation then;  ///< the present interpretation with the action applied
};

/// What is worth saying and is not yet acted upon. Most important first.
std::vector<Proposal> proposalsFor(const MediaIndex& index, const ShotFindings& findings,
                                   const Interpretation& present);

/// The interpretation that acts on everything the pictures show, taking the first proposal of each kind.
Interpretation measuredInterpretation(const MediaIndex& index, const ShotFindings& findings,
                                      const Interpretation& present = {});

/// The runs of a cadence as runs of pulldown, for FieldUse::removePulldown.
std::vector<PulldownRun> pulldownRuns(const std::vector<CadenceRun>& cadence);

} // namespace yarngap
