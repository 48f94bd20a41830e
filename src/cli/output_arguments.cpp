#include "cli/output_arguments.h"

#include "cli/shot_arguments.h"
#include "core/media/sound_choice.h"
#include "core/project/work_file.h"
#include "core/render/file_names.h"
#include "core/render/slice_folder.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <charconv>

namespace yarngap::cli {

namespace {

int depthFrom(const std::string& text) {
    if (text == "half") return FormatChoice::half;
    if (text == "float") return FormatChoice::real;
    int depth = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), depth);
    if (ec != std::errc() || end != text.data() + text.size() || depth < 1)
        throw WrongUsage("--depth is 8, 10, 12 or 16, or for pictures half or float.");
    return depth;
}

/// Runs what throws Error for a value, and tells it as wrong usage.
template <typename Work>
auto used(Work work) {
    try {
        return work();
    } catch (const WrongUsage&) {
        throw;
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
}

} // namespace

void OutputArguments::addTo(CLI::App& command) {
    command
        .add_option("-o", target,
                    "Result: .mkv, .mp4, .mov, .mxf, .webm, or a sequence .png, .tif, .dpx, .jpg, .exr. "
                    "{shot}, {method}, {speed}, {rate}, {date}, {version} and {frame} are filled in")
        ->required();
    command.add_option("--also", also, "Another file of the same frames, which are made once")->take_all();
    command.add_option("--preset", preset, "A file of output settings, which the options below change");
    command.add_option("--format", format,
                       "ffv1, h264, h265, av1, prores, dnxhr, webm, png, tiff, dpx, jpeg or exr; by default "
                       "the ending decides");
    command.add_option(
        "--file-quality", quality,
        "The encoder's own number: CRF, 0 to 5 for ProRes (Proxy to 4444 XQ), 0 to 4 for DNxHR "
        "(LB to 444), 50 to 100 for JPEG");
    command.add_option("--depth", depth, "Bits of a sample: 8, 10, 12, 16; half or float for pictures");
    command.add_option("--chroma", chroma, "Chroma subsampling: 4:2:0, 4:2:2 or 4:4:4");
    command.add_option("--compression", compression, "Of EXR: none, rle, zips, zip, piz, pxr24, b44 or dwaa");
    command.add_option(
        "--sound", sound,
        "pitch (stretched, the default), tape (its pitch follows the speed), full-speed (silent "
        "elsewhere) or none");
    command.add_option("--sound-format", soundFormat,
                       "pcm, flac, aac or opus; by default as the file has it");
    command.add_flag("--sound-48k", usualSoundRate, "Write sound at 48 kHz whatever the source has");
    command.add_option("--scan", scan,
                       "progressive, top-first or bottom-first (each field made at its own moment), "
                       "pulldown-32 or pulldown-2332 (film in 29.97)");
    command.add_option("--timecode", timecode,
                       "Where timecode begins: source (the default), none, or a timecode");
    command.add_option("--reel-name", reel, "Name of the reel; by default that of the source");
    command.add_option("--first-number", firstNumber, "Number of a sequence's first frame (default 0)");
    command.add_option("--range", range, "Only these output frames: FIRST-LAST");
    command.add_flag("--replace", replace, "Pictures of a sequence that are there already may go");
    command
        .add_option("--undecodable", whenUndecodable,
                    "A source frame that cannot be decoded: stop (the default), or hold the one before")
        ->check(CLI::IsMember({"stop", "hold"}));
    command.add_flag("--resumable", resumable,
                     "Render in parts beside the result; after a crash the same command goes on from there");
    command.add_option("--slices", slices, "Render in so many parts, which several machines can make")
        ->check(CLI::Range(1, 9999));
    command.add_option("--slice", slice, "Make that part alone, 0 to N-1 (with --slices N)")
        ->check(CLI::Range(0, 9998));
    command.add_flag("--join", join, "Check all parts and join them (with --slices N)");
    command.add_flag("--prepare", prepareOnly,
                     "Find out what all parts need to know, and make none (with --slices N)");
    command.add_flag("--farm", farm,
                     "Hand all parts to Slurm, and a job that joins them (with --slices N); see farm");
}

RenderSettings OutputArguments::settings() const {
    return used([&] {
        RenderSettings s;
        if (preset) s = loadRenderSettings(*preset);
        s.format = formatFor(target, s.format);
        if (sound) s.sound = parseSoundUse(*sound);
        if (usualSoundRate) s.usualSoundRate = true;
        if (scan) s.scan = parseOutputScan(*scan);
        if (timecode) {
            const std::string tidy = tidyTimecode(*timecode);
            s.timecode = tidy.empty() ? parseTimecodeUse(*timecode) : TimecodeUse::fromStart;
            s.start = tidy;
            if (s.timecode == TimecodeUse::fromStart && tidy.empty())
                throw WrongUsage("--timecode is source, none, or a timecode like 01:00:00:00.");
        }
        if (reel) s.reel = tidyReel(*reel);
        if (firstNumber) s.firstNumber = *firstNumber;
        if (whenUndecodable == "hold") s.whenUndecodable = WhenUndecodable::hold;
        validate(s);
        return s;
    });
}

FormatChoice OutputArguments::formatFor(const std::string& file, const FormatChoice& usual) const {
    FormatChoice choice = usual;
    const bool isMain = file == target;
    if (isMain && format)
        choice.format = parseOutputFormat(*format);
    else if (!preset || !isMain)
        choice.format = formatForTarget(file);
    if (choice.format != usual.format) choice = choice.format;
    if (isMain) {
        if (quality) choice.quality = *quality;
        if (depth) choice.depth = depthFrom(*depth);
        if (chroma) choice.chroma = parseChroma(*chroma);
        if (compression) choice.compression = parseExrCompression(*compression);
        if (soundFormat) choice.soundCodec = parseSoundCodec(*soundFormat);
    }
    refuseEnding(file, choice.format);
    validate(choice);
    static_cast<void>(soundCodecFor(choice, file));
    return choice;
}

std::vector<RenderTarget> OutputArguments::targets(const Shot& shot, const Timing& timing) const {
    return used([&] {
        std::vector<RenderTarget> out;
        const FormatChoice main = settings().format;
        out.push_back({fileNamed(target, shot, timing), main, replace});
        for (const std::string& other : also)
            out.push_back({fileNamed(other, shot, timing), formatFor(other, FormatChoice()), replace});
        return out;
    });
}

std::pair<std::int64_t, std::optional<std::int64_t>> OutputArguments::frames() const {
    if (!range) return {0, std::nullopt};
    const std::size_t dash = range->find('-');
    std::int64_t first = -1;
    std::int64_t last = -1;
    if (dash != std::string::npos) {
        std::from_chars(range->data(), range->data() + dash, first);
        std::from_chars(range->data() + dash + 1, range->data() + range->size(), last);
    }
    if (first < 0 || last < first || *range != std::to_string(first) + "-" + std::to_string(last))
        throw WrongUsage("--range reads like 24-71: the first and the last output frame, counted from 0.");
    return {first, last};
}

std::optional<SliceUse> OutputArguments::sliceUse(const std::filesystem::path& file,
                                                  std::int64_t framesToMake) const {
    if (!slices && !resumable) return std::nullopt;
    SliceUse use{.folder = SliceFolder::beside(file), .only = {}};
    use.count = slices ? *slices : usualSliceCount(framesToMake);
    use.only = slice;
    use.joinsOnly = join;
    return use;
}

void OutputArguments::check() const {
    if ((slice || join || prepareOnly || farm) && !slices)
        throw WrongUsage("--slice, --join, --prepare and --farm need --slices N, the number of parts.");
    if (static_cast<int>(slice.has_value()) + static_cast<int>(join) + static_cast<int>(prepareOnly) +
            static_cast<int>(farm) >
        1)
        throw WrongUsage("--slice, --join, --prepare and --farm are steps of their own; give one of them.");
    if (slices && slice && *slice >= *slices)
        throw WrongUsage("--slice goes from 0 to " + std::to_string(*slices - 1) + ".");
    if (slices && target.find("{version") != std::string::npos)
        throw WrongUsage("Parts of a render need one name for the result; leave out {version}.");
    static_cast<void>(settings());
    static_cast<void>(frames());
    used([&] {
        std::vector<std::filesystem::path> files{target};
        for (const std::string& other : also) {
            static_cast<void>(formatFor(other, FormatChoice()));
            files.emplace_back(other);
        }
        refuseSameOutput(files);
        return 0;
    });
}

} // namespace yarngap::cli
