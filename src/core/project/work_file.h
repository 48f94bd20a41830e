// A render's work as JSON: for the queue, and for workers that share one.
#pragma once

#include "core/render/render_work.h"

#include <filesystem>
#include <string>
#include <string_view>

namespace yarngap {

/// The work, with files relative to `folder` where possible. Equal works have equal texts.
std::string workText(const RenderWork& work, const std::filesystem::path& folder);
/// Reads what workText() wrote; not trusted. Messages begin with `where`. Throws Error.
RenderWork parseWork(std::string_view text, const std::filesystem::path& folder, const std::string& where);

/// Render settings of a preset file, or of a project. The same about trust.
std::string renderSettingsText(const RenderSettings& settings);
RenderSettings parseRenderSettings(std::string_view text, const std::string& where);
/// Reads a file of settings. Throws Error.
RenderSettings loadRenderSettings(const std::filesystem::path& file);

} // namespace yarngap
