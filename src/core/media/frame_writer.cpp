#include "core/media/frame_writer.h"

#include "core/error.h"
#include "core/files/leftovers.h"
#include "core/media/video_writer.h"

#include <algorithm>
#include <unistd.h>

namespace yarngap {

namespace {

/// The name of a target of many files, around the number.
struct NumberedName {
    std::string before, after;
    std::size_t digits = 5;

    explicit NumberedName(const std::filesystem::path& target) {
        const std::string file = target.filename().string();
        if (const auto first = file.find('#'); first != std::string::npos) {
            const auto end = std::min(file.find_first_not_of('#', first), file.size());
            before = file.substr(0, first);
            after = file.substr(end);
            digits = end - first;
        } else {
            before = target.stem().string() + '_';
            after = target.extension().string();
        }
    }
    [[nodiscard]] bool matches(std::string_view name) const {
        if (name.size() <= before.size() + after.size() || !name.starts_with(before) ||
            !name.ends_with(after))
            return false;
        const auto number = name.substr(before.size(), name.size() - before.size() - after.size());
        return std::all_of(number.begin(), number.end(), [](char c) { return c >= '0' && c <= '9'; });
    }
};

std::filesystem::path folderOf(const std::filesystem::path& target) {
    return target.has_parent_path() ? target.parent_path() : std::filesystem::path(".");
}

} // namespace

void FrameWriter::copy(const std::filesystem::path& part, std::int64_t /*frames*/,
                       const std::function<void()>& /*each*/, const std::stop_token& /*stop*/) {
    throw Error(part.string() + " cannot be joined without coding it again.");
}

std::filesystem::path sequenceName(const std::filesystem::path& target, std::int64_t n) {
    const NumberedName parts(target);
    const std::string number = std::to_string(n);
    const std::string zeros(parts.digits > number.size() ? parts.digits - number.size() : 0, '0');
    return target.parent_path() / (parts.before + zeros + number + parts.after);
}

std::filesystem::path soundBeside(const std::filesystem::path& target) {
    std::string name = NumberedName(target).before;
    name.erase(name.find_last_not_of("_-. ") + 1);
    return target.parent_path() / ((name.empty() ? "sound" : name) + ".wav");
}

std::vector<std::string> picturesThere(const std::filesystem::path& target) {
    const NumberedName parts(target);
    std::vector<std::string> names;
    std::error_code ec;
    for (std::filesystem::directory_iterator entry(folderOf(target), ec), end; !ec && entry != end;
         entry.increment(ec)) {
        const std::string name = entry->path().filename().string();
        if (parts.matches(name) && !std::filesystem::is_directory(entry->path())) names.push_back(name);
    }
    if (ec)
        throw Error("The folder " + folderOf(target).string() + " cannot be listed (" + ec.message() +
                    "), so it is not known what would be overwritten. Choose another folder.");
    std::sort(names.begin(), names.end());
    return names;
}

std::unique_ptr<FrameWriter> openWriter(const WriterOptions& options) {
    const auto& target = options.target;
    if (!target.has_filename() || std::filesystem::is_directory(target))
        throw Error(target.string() + " is a folder. Give the result a file name.");
    const auto folder = folderOf(target);
    std::error_code ec;
    if (!std::filesystem::is_directory(folder, ec))
        throw Error("There is no folder " + folder.string() + " to write into. Create it or choose another.");
    if (::access(folder.c_str(), W_OK) != 0)
        throw Error("The folder " + folder.string() +
                    " cannot be written to. Choose another, or change its permissions.");
    removeLeftovers(folder);
    refuseEnding(target, options.format.format);
    validate(options.format);
    const bool interlaced = options.scan == Scan::topFieldFirst || options.scan == Scan::bottomFieldFirst;
    if (interlaced && !canInterlace(options.format.format))
        throw Error(std::string(name(options.format.format)) +
                    " does not hold interlaced pictures. Render progressive ones, or choose ProRes, FFV1 or "
                    "H.264.");
    return isSequence(options.format.format) ? openPictureWriter(options) : openVideoWriter(options);
}

} // namespace yarngap
