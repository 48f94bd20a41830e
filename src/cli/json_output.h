// JSON on standard output; the fields are described in docs/formats.md.
#pragma once

#include "core/inspection/proposals.h"
#include "core/inspection/suitability.h"
#include "core/media/media_facts.h"
#include "core/render/render_job.h"
#include "core/time/frame_plan.h"

#include <nlohmann/json.hpp>

#include <string>

namespace yarngap::cli {

nlohmann::ordered_json toJson(const MediaIndex& index, const ShotFindings& findings);
nlohmann::ordered_json toJson(const MediaFacts& facts);
nlohmann::ordered_json toJson(const Timing& timing, const FramePlan& plan);
nlohmann::ordered_json toJson(const RenderReport& report);

/// The same for people, a line each.
nlohmann::ordered_json toJson(const Suitability& suitability);
std::string toText(const Suitability& suitability);
std::string toText(const MediaIndex& index, const ShotFindings& findings);
std::string toText(const MediaFacts& facts);
std::string toText(const Timing& timing, const FramePlan& plan);
std::string toText(const RenderReport& report, const std::string& target);

/// Prints it; what is no UTF-8 is replaced.
void print(const nlohmann::ordered_json& json);

} // namespace yarngap::cli
