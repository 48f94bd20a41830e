// What is asked of a render.
#pragma once

#include "core/files/input_files.h"
#include "core/media/frame_writer.h"
#include "core/render/render_settings.h"

#include <cstdint>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

/// A file or sequence that is to be written.
struct RenderTarget {
    std::filesystem::path file;
    FormatChoice format = {};
    bool replace = false; ///< see WriterOptions

    friend bool operator==(const RenderTarget&, const RenderTarget&) = default;
};

/// Rendering in parts, from which it can go on, or which several machines make.
struct SliceUse {
    std::filesystem::path folder; ///< see slice_folder.h
    int count = 1;                ///< how many are wanted
    std::optional<int> only =
        {}; ///< make that one alone, and join nothing; absent: make all that are missing, and join
    bool joinsOnly = false; ///< make none; throw Error when one is missing
};

struct RenderOptions {
    std::filesystem::path target;
    FormatChoice format = {};
    Rate rate; ///< frames per second of the result; its frames are made at rateToMake(scan, rate)
    WhenUndecodable whenUndecodable = WhenUndecodable::stop;
    bool replace = false; ///< see WriterOptions
    /// What must not be written on besides the files that the parts are made from: projects, lists.
    InputFiles inputs = {};
    /// Called on each thread of the job before it works, for instance to lower its priority.
    std::function<void()> onThreadStart = {};
    /// More files of the same frames, which are made once.
    std::vector<RenderTarget> also = {};
    OutputScan scan = OutputScan::progressive;
    SoundUse sound = SoundUse::ownPitch;
    bool usualSoundRate = false; ///< 48 kHz whatever the rate of the source's sound
    std::string timecode = {};   ///< of the first frame; see WriterOptions
    std::string reel = {};
    std::int64_t firstNumber = 0;                  ///< of a sequence
    std::optional<SliceUse> slices = std::nullopt; ///< absent: straight into the files
};

} // namespace yarngap
