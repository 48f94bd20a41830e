// The options of `render` that say what is written, and how.
#pragma once

#include "core/render/render_work.h"

#include <CLI/CLI.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace yarngap::cli {

/// An output as typed. Only what was given is set.
struct OutputArguments {
    std::string target;
    std::vector<std::string> also;
    std::optional<std::string> preset, format, depth, chroma, compression, sound, soundFormat, scan, timecode,
        reel, range;
    std::optional<int> quality;
    std::optional<std::int64_t> firstNumber;
    std::optional<int> slices, slice;
    bool usualSoundRate = false;
    bool replace = false;
    bool join = false;
    bool resumable = false;
    bool prepareOnly = false;
    bool farm = false;
    std::string whenUndecodable = "stop";

    void addTo(CLI::App& command);
    /// Throws WrongUsage for values that cannot be meant; no file but a preset is read.
    [[nodiscard]] RenderSettings settings() const;
    /// The files to be written, with names filled in for `shot`. Throws WrongUsage.
    [[nodiscard]] std::vector<RenderTarget> targets(const Shot& shot, const Timing& timing) const;
    /// The first and the last output frame to be rendered. Throws WrongUsage.
    [[nodiscard]] std::pair<std::int64_t, std::optional<std::int64_t>> frames() const;
    /// The number of slices and what is to be done about them; absent for a render in one go.
    [[nodiscard]] std::optional<SliceUse> sliceUse(const std::filesystem::path& target,
                                                   std::int64_t framesToMake) const;
    /// Throws WrongUsage for what cannot be together.
    void check() const;

  private:
    [[nodiscard]] FormatChoice formatFor(const std::string& file, const FormatChoice& usual) const;
};

} // namespace yarngap::cli
