#include "cli/in_between_arguments.h"

#include "core/error.h"

namespace yarngap::cli {

namespace {

void put(const std::optional<int>& given, int most, const char* option, int& value) {
    if (!given) return;
    if (*given < 0 || *given > most)
        throw Error(std::string(option) + " goes from 0 to " + std::to_string(most) + ", not " +
                    std::to_string(*given) + '.');
    value = *given;
}

} // namespace

void InBetweenArguments::addTo(CLI::App& command, bool synthesis) {
    command.add_option("--quality", quality, "Work put into optical flow: draft, standard or thorough");
    command.add_option(
        "--stiffness", stiffness,
        "How alike neighbouring pixels move: 0 (cloth, people) to 100 (a camera move), default 40");
    command.add_option("--analyse-on", analyseOn, "What motion is found on: picture, contrast or edges");
    if (!synthesis) return;
    command.add_option("--in-front", inFront,
                       "What covers what where motions cross: judged, slower or faster");
    command.add_option("--sides", sides, "Which source frames pixels may come from: both, before or after");
    command.add_option("--trust-limit", trustLimit,
                       "Below this trust in percent the stand-in shows; default 0, never");
    command.add_option("--stand-in", standIn, "What shows there: blend, repeat or side");
    command.add_flag("--even-texture", evenTexture,
                     "Originals go through synthesis too, so that sharpness does not pulse");
    command.add_flag("--keep-repeats", keepRepeats,
                     "Frames that repeat the one before are shown; without it flow passes over them");
    command.add_flag(
        "--straight-paths", straightPaths,
        "Things move straight from frame to frame; without it paths bend as the gaps beside show");
    command.add_flag("--keep-grain", keepGrain, "Made frames keep the strength of the grain");
    command.add_flag("--linear-light", linearLight, "Pictures are mixed as light");
    command.add_option("--shutter", shutterAngle,
                       "Motion blur: shutter angle in degrees of an output frame, 0 to 720");
}

void InBetweenArguments::applyTo(InBetweens& settings) const {
    SynthesisOptions& s = settings.synthesis;
    if (quality) settings.flow.quality = settings.finalQuality = parseFlowQuality(*quality);
    if (analyseOn) settings.flow.analyseOn = parseAnalyseOn(*analyseOn);
    if (inFront) s.inFront = parseInFront(*inFront);
    if (sides) s.sides = parseSides(*sides);
    if (standIn) s.standIn = parseStandIn(*standIn);
    put(stiffness, FlowOptions::stiffest, "--stiffness", settings.flow.stiffness);
    put(trustLimit, SynthesisOptions::strictestTrust, "--trust-limit", s.trustLimit);
    put(shutterAngle, SynthesisOptions::largestShutterAngle, "--shutter", s.shutterAngle);
    s.evenTexture = s.evenTexture || evenTexture;
    s.bridgeRepeats = s.bridgeRepeats && !keepRepeats;
    s.bendPaths = s.bendPaths && !straightPaths;
    s.keepGrain = s.keepGrain || keepGrain;
    s.linearLight = s.linearLight || linearLight;
}

} // namespace yarngap::cli
