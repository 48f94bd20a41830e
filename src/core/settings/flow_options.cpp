#include "core/settings/flow_options.h"

#include "core/choice_names.h"

namespace yarngap {

namespace {

constexpr ChoiceNames<FlowQuality, 3> qualities{"quality",
                                                {{{FlowQuality::draft, "draft"},
                                                  {FlowQuality::standard, "standard"},
                                                  {FlowQuality::thorough, "thorough"}}}};
constexpr ChoiceNames<AnalyseOn, 3> analyseOns{
    "picture to analyse",
    {{{AnalyseOn::asIs, "picture"}, {AnalyseOn::contrast, "contrast"}, {AnalyseOn::edges, "edges"}}}};

} // namespace

std::string_view name(FlowQuality quality) {
    return qualities.nameOf(quality);
}

FlowQuality parseFlowQuality(std::string_view text) {
    return qualities.parse(text);
}

std::string_view name(AnalyseOn value) {
    return analyseOns.nameOf(value);
}

AnalyseOn parseAnalyseOn(std::string_view text) {
    return analyseOns.parse(text);
}

std::string keyOf(const FlowOptions& options) {
    return std::string(name(options.quality)) + ',' + std::to_string(options.stiffness) + ',' +
           std::string(name(options.analyseOn)) + keyOf(options.guide);
}

} // namespace yarngap
