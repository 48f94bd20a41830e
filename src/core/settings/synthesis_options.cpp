#include "core/settings/synthesis_options.h"

#include "core/choice_names.h"

namespace yarngap {

namespace {

constexpr ChoiceNames<InFront, 3> inFronts{
    "in front", {{{InFront::judged, "judged"}, {InFront::slower, "slower"}, {InFront::faster, "faster"}}}};
constexpr ChoiceNames<Sides, 3> sideNames{
    "choice of sides", {{{Sides::both, "both"}, {Sides::before, "before"}, {Sides::after, "after"}}}};
constexpr ChoiceNames<StandIn, 3> standIns{
    "stand-in", {{{StandIn::blend, "blend"}, {StandIn::repeat, "repeat"}, {StandIn::side, "side"}}}};

} // namespace

std::string_view name(InFront value) {
    return inFronts.nameOf(value);
}
std::string_view name(Sides value) {
    return sideNames.nameOf(value);
}
std::string_view name(StandIn value) {
    return standIns.nameOf(value);
}
InFront parseInFront(std::string_view text) {
    return inFronts.parse(text);
}
Sides parseSides(std::string_view text) {
    return sideNames.parse(text);
}
StandIn parseStandIn(std::string_view text) {
    return standIns.parse(text);
}

std::string keyOf(const SynthesisOptions& o) {
    std::string key;
    for (const std::string_view part : {name(o.inFront), name(o.sides), name(o.standIn)})
        key += std::string(part) + ',';
    for (const int number : {o.trustLimit, static_cast<int>(o.evenTexture), static_cast<int>(o.bridgeRepeats),
                             static_cast<int>(o.bendPaths), static_cast<int>(o.keepGrain),
                             static_cast<int>(o.linearLight), o.shutterAngle})
        key += std::to_string(number) + ',';
    return key;
}

} // namespace yarngap
