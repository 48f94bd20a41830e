#include "core/media/frame_writer.h"

#include "core/error.h"
#include "core/media/video_writer.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <unistd.h>

namespace yarngap {

std::string_view name(OutputFormat format) {
    switch (format) {
    case OutputFormat::ffv1Mkv:
        return "FFV1 / MKV";
    case OutputFormat::h264Mp4:
        return "H.264 / MP4";
    case OutputFormat::proresMov:
        return "ProRes / MOV";
    case OutputFormat::pngSequence:
        return "PNG sequence";
    case OutputFormat::exrSequence:
        return "EXR sequence";
    }
    return "";
}

std::string_view extension(OutputFormat format) {
    switch (format) {
    case OutputFormat::ffv1Mkv:
        return ".mkv";
    case OutputFormat::h264Mp4:
        return ".mp4";
    case OutputFormat::proresMov:
        return ".mov";
    case OutputFormat::pngSequence:
        return ".png";
    case OutputFormat::exrSequence:
        return ".exr";
    }
    return "";
}

OutputFormat formatForTarget(const std::filesystem::path& target) {
    std::string ext = target.extension().string();
    std::transform(ext.begin(), ext.end(), ext.begin(), [](unsigned char c) { return std::tolower(c); });
    using enum OutputFormat;
    for (const OutputFormat f : {ffv1Mkv, h264Mp4, proresMov, pngSequence, exrSequence})
        if (ext == extension(f)) return f;
    throw Error(
        "The name " + target.string() +
        " does not tell the format. End it in .mkv (FFV1), .mp4 (H.264), .mov (ProRes), or .png or .exr "
        "(sequences).");
}

std::filesystem::path sequenceName(const std::filesystem::path& target, std::int64_t n) {
    std::string file = target.filename().string();
    const std::string number = std::to_string(n);
    const auto padded = [&](std::size_t digits) {
        return std::string(digits > number.size() ? digits - number.size() : 0, '0') + number;
    };
    if (const auto first = file.find('#'); first != std::string::npos) {
        const auto end = std::min(file.find_first_not_of('#', first), file.size());
        file.replace(first, end - first, padded(end - first));
    } else {
        file.insert(file.size() - target.extension().string().size(), "_" + padded(5));
    }
    return target.parent_path() / file;
}

std::filesystem::path temporaryName(const std::filesystem::path& target) {
    return target.parent_path() / ("." + target.stem().string() + ".partial-" + std::to_string(::getpid()) +
                                   target.extension().string());
}

std::string writeFailure(const std::filesystem::path& target, int errnoValue) {
    if (errnoValue == ENOSPC || errnoValue == EDQUOT)
        return "The disk is full; " + target.string() +
               " could not be completed. Free some space or choose another folder.";
    if (errnoValue == EFBIG)
        return target.string() +
               " grew larger than this disk or account allows. Choose another folder or a smaller format.";
    return target.string() + " could not be written (" + std::strerror(errnoValue) +
           "). Check the disk, or choose another folder.";
}

std::unique_ptr<FrameWriter> openWriter(const WriterOptions& options) {
    const auto& target = options.target;
    if (!target.has_filename() || std::filesystem::is_directory(target))
        throw Error(target.string() + " is a folder. Give the result a file name.");
    const auto folder = target.has_parent_path() ? target.parent_path() : std::filesystem::path(".");
    std::error_code ec;
    if (!std::filesystem::is_directory(folder, ec))
        throw Error("There is no folder " + folder.string() + " to write into. Create it or choose another.");
    if (::access(folder.c_str(), W_OK) != 0)
        throw Error("The folder " + folder.string() +
                    " cannot be written to. Choose another, or change its permissions.");
    const bool pictures =
        options.format == OutputFormat::pngSequence || options.format == OutputFormat::exrSequence;
    return pictures ? openPictureWriter(options) : openVideoWriter(options);
}

} // namespace yarngap
