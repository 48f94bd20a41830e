#include "core/render/slice_folder.h"

#include "core/error.h"
#include "core/files/leftovers.h"
#include "core/files/local_file.h"
#include "core/files/new_file.h"
#include "core/media/frame_writer.h"
#include "core/media/media_identity.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <cstdio>

namespace yarngap {

namespace {

using Json = nlohmann::json;

constexpr int recordVersion = 1;
constexpr std::int64_t largestRecord = 256 << 20;

std::string numberText(int n) {
    std::array<char, 16> text{};
    std::snprintf(text.data(), text.size(), "%04d", n);
    return text.data();
}

/// Of a whole file: the hash of the hashes of its blocks.
std::uint64_t hashOfFile(const std::filesystem::path& path, const std::stop_token& stop) {
    constexpr std::size_t block = std::size_t{4} << 20;
    LocalFile file(path, std::make_shared<ReadingThread>(), stop);
    std::vector<std::byte> bytes(block);
    std::vector<std::uint64_t> hashes;
    for (std::int64_t at = 0; at < file.bytes();) {
        const std::size_t got = file.read(at, bytes, stop);
        if (got == 0) break;
        hashes.push_back(hashOf(std::span(bytes.data(), got)));
        at += static_cast<std::int64_t>(got);
    }
    return hashOf(std::as_bytes(std::span(hashes)));
}

Json toJson(const SliceRecord& record) {
    Json files = Json::array();
    for (const SliceRecord::File& file : record.files)
        files.push_back({{"name", file.name}, {"bytes", file.bytes}, {"hash", file.hash}});
    return {{"yarngapSlice", recordVersion}, {"key", record.key},
            {"frames", record.frames},       {"files", files},
            {"counts", record.counts},       {"edgeScale", record.edgeScale},
            {"seconds", record.seconds},     {"notes", record.notes}};
}

/// Whether a name stays inside the folder: "0003.mkv", "0003/fox_0001.png".
bool staysInside(const std::string& name) {
    const std::filesystem::path path = name;
    return !name.empty() && path.is_relative() &&
           std::none_of(path.begin(), path.end(), [](const auto& part) { return part == ".."; });
}

std::optional<SliceRecord> recordFrom(const std::string& text) {
    const Json json = Json::parse(text, nullptr, false);
    if (json.is_discarded() || !json.is_object() || json.value("yarngapSlice", 0) != recordVersion)
        return std::nullopt;
    try {
        SliceRecord record{.key = json.at("key").get<std::string>(),
                           .frames = json.at("frames").get<std::int64_t>(),
                           .files = {},
                           .counts = json.at("counts").get<std::vector<std::int64_t>>(),
                           .edgeScale = json.at("edgeScale").get<double>(),
                           .seconds = json.at("seconds").get<double>(),
                           .notes = json.at("notes").get<std::vector<std::string>>()};
        for (const Json& file : json.at("files")) {
            record.files.push_back({file.at("name").get<std::string>(), file.at("bytes").get<std::int64_t>(),
                                    file.at("hash").get<std::uint64_t>()});
            if (!staysInside(record.files.back().name)) return std::nullopt;
        }
        return record;
    } catch (const Json::exception&) {
        return std::nullopt;
    }
}

} // namespace

std::vector<Slice> slicesOf(std::int64_t total, int count, OutputScan scan) {
    const std::int64_t unit = framesOfPattern(scan);
    const std::int64_t units = (total + unit - 1) / unit;
    const std::int64_t wanted = std::clamp<std::int64_t>(count, 1, std::max<std::int64_t>(1, units));
    std::vector<Slice> slices;
    for (std::int64_t i = 0; i < wanted; ++i)
        slices.push_back({units * i / wanted * unit, std::min(total, units * (i + 1) / wanted * unit)});
    return slices;
}

int usualSliceCount(std::int64_t frames) {
    constexpr std::int64_t length = 48;
    constexpr std::int64_t most = 2000;
    return static_cast<int>(std::clamp<std::int64_t>(frames / length, 1, most));
}

std::filesystem::path SliceFolder::beside(const std::filesystem::path& target) {
    std::filesystem::path folder = target;
    folder += ".slices";
    return folder;
}

void SliceFolder::create() const {
    std::error_code ec;
    std::filesystem::create_directory(folder_, ec);
    if (!std::filesystem::is_directory(folder_))
        throw Error("The folder " + folder_.string() + " for parts of the render cannot be created" +
                    (ec ? " (" + ec.message() + ")" : std::string()) + ". Choose another folder.");
    removeLeftovers(folder_);
}

std::filesystem::path SliceFolder::place(int n, int stream, const std::filesystem::path& target,
                                         bool sequence) const {
    const std::string name = numberText(n) + (stream > 0 ? "-" + std::to_string(stream) : std::string());
    if (!sequence) return folder_ / (name + target.extension().string());
    std::error_code ec;
    std::filesystem::create_directories(folder_ / name, ec);
    return folder_ / name / target.filename();
}

std::filesystem::path SliceFolder::recordFile(int n) const {
    return folder_ / (numberText(n) + ".json");
}

std::optional<SliceRecord> SliceFolder::finished(int n, const std::string& key) const {
    std::error_code ec;
    if (!std::filesystem::is_regular_file(recordFile(n), ec)) return std::nullopt;
    try {
        auto record = recordFrom(contentOf(recordFile(n), largestRecord, "slice record"));
        if (!record || record->key != key) return std::nullopt;
        for (const SliceRecord::File& file : record->files) {
            const auto bytes = std::filesystem::file_size(folder_ / file.name, ec);
            if (ec || static_cast<std::int64_t>(bytes) != file.bytes) return std::nullopt;
        }
        return record;
    } catch (const Error&) {
        return std::nullopt;
    }
}

void SliceFolder::finish(int n, SliceRecord record, const std::stop_token& stop) const {
    for (SliceRecord::File& file : record.files) {
        const std::filesystem::path path = folder_ / file.name;
        file.hash = hashOfFile(path, stop);
        file.bytes = static_cast<std::int64_t>(std::filesystem::file_size(path));
    }
    writeWhole(recordFile(n), toJson(record).dump() + "\n");
}

void SliceFolder::verify(int n, const SliceRecord& record, const std::stop_token& stop) const {
    for (const SliceRecord::File& file : record.files) {
        const std::filesystem::path path = folder_ / file.name;
        std::error_code ec;
        const auto bytes = std::filesystem::file_size(path, ec);
        if (ec || static_cast<std::int64_t>(bytes) != file.bytes || hashOfFile(path, stop) != file.hash)
            throw Error("Slice " + std::to_string(n) + " is damaged: " + path.string() +
                        " is not what was written. Delete " + recordFile(n).string() +
                        " and make the slice again.");
    }
}

bool SliceFolder::remove() const {
    std::error_code ec;
    bool all = true;
    // Names of ours alone: digits at the beginning, and the job.
    for (std::filesystem::directory_iterator entry(folder_, ec), end; !ec && entry != end;
         entry.increment(ec)) {
        const std::string name = entry->path().filename().string();
        constexpr std::ptrdiff_t digits = 4;
        const bool ours =
            std::ssize(name) >= digits &&
            std::all_of(name.begin(), name.begin() + digits, [](char c) { return c >= '0' && c <= '9'; });
        const bool farms = name == "farm.json" || name == "slice.sh" || name == "join.sh" ||
                           name == "join.log" || (name.starts_with("slice-") && name.ends_with(".log"));
        if (!ours && !farms && entry->path() != workFile()) continue;
        std::error_code failed;
        std::filesystem::remove_all(entry->path(), failed);
        all &= !failed;
    }
    all &= !ec || ec == std::errc::no_such_file_or_directory;
    std::filesystem::remove(folder_, ec); // only where it is empty now
    return all;
}

} // namespace yarngap
