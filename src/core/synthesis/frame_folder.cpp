#include "core/synthesis/frame_folder.h"

#include "core/error.h"
#include "core/files/forward_reader.h"
#include "core/files/new_file.h"
#include "core/media/media_identity.h"
#include "core/motion/vector_generation.h"

#include <nlohmann/json.hpp>

#include <array>
#include <span>
#include <vector>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr std::string_view magic = "yarngap frame 2\n";
constexpr std::uint32_t longestHeader = 64 * 1024;

/// Raised whenever the same settings and vectors begin to give another picture, so that old frames are not
/// taken for new.
constexpr int generation = 8;

std::string keyOnDisk(const std::string& key) {
    return std::to_string(generation) + '.' + std::to_string(vectorGeneration) + ':' + key;
}

std::string checksumOf(const Image& image);

nlohmann::json headerOf(const MadeFrame& frame, const std::string& key) {
    const Image& image = *frame.image;
    const PixelLayout& layout = image.layout();
    nlohmann::json header{{"key", key},
                          {"width", image.width()},
                          {"height", image.height()},
                          {"model", static_cast<int>(layout.model)},
                          {"alpha", layout.alpha},
                          {"depth", layout.depth},
                          {"chromaShiftX", layout.chromaShiftX},
                          {"chromaShiftY", layout.chromaShiftY},
                          {"samples", static_cast<int>(layout.samples)},
                          {"checksum", checksumOf(image)},
                          {"edgeScale", frame.edgeScale}};
    if (frame.doubt) header["doubt"] = *frame.doubt;
    return header;
}

int within(const nlohmann::json& header, const char* name, int least, int most) {
    const int value = header.at(name).get<int>();
    if (value < least || value > most) throw Error(std::string(name) + " makes no sense");
    return value;
}

PixelLayout layoutFrom(const nlohmann::json& header) {
    PixelLayout layout;
    layout.model = static_cast<ColourModel>(within(header, "model", 0, 2));
    layout.alpha = header.at("alpha").get<bool>();
    layout.depth = within(header, "depth", 8, 16);
    layout.chromaShiftX = within(header, "chromaShiftX", 0, 2);
    layout.chromaShiftY = within(header, "chromaShiftY", 0, 2);
    layout.samples = static_cast<SampleKind>(within(header, "samples", 0, 2));
    return layout;
}

std::size_t rowBytes(const Image::Plane& plane, const PixelLayout& layout) {
    return static_cast<std::size_t>(plane.width) * static_cast<std::size_t>(layout.bytesPerSample());
}

/// Calls `use` with the samples of each row, plane after plane.
template <typename ImageType, typename Use>
void forRows(ImageType& image, Use use) {
    for (int p = 0; p < image.planeCount(); ++p) {
        auto& plane = image.plane(p);
        for (int y = 0; y < plane.height; ++y)
            use(std::span(plane.bytes.data() + plane.stride * static_cast<std::size_t>(y),
                          rowBytes(plane, image.layout())));
    }
}

/// Of all samples in their order.
std::string checksumOf(const Image& image) {
    std::vector<std::uint64_t> rows;
    forRows(image, [&](std::span<const std::byte> row) { rows.push_back(hashOf(row)); });
    return std::to_string(hashOf(std::as_bytes(std::span(rows))));
}

/// Bytes that the samples of such a picture take in a file.
std::uint64_t sampleBytes(int width, int height, const PixelLayout& layout) {
    std::uint64_t sum = 0;
    for (int p = 0; p < layout.planeCount(); ++p) {
        const int sx = layout.isChroma(p) ? layout.chromaShiftX : 0;
        const int sy = layout.isChroma(p) ? layout.chromaShiftY : 0;
        sum += static_cast<std::uint64_t>((width + (1 << sx) - 1) >> sx) *
               static_cast<std::uint64_t>((height + (1 << sy) - 1) >> sy) *
               static_cast<std::uint64_t>(layout.bytesPerSample());
    }
    return sum;
}

KeyedFrame readFrom(ForwardReader& in) {
    if (in.bytesLeft() < static_cast<std::int64_t>(magic.size()) || in.text(magic.size()) != magic)
        throw Error("it does not begin like one");
    const std::uint64_t length = in.number(4);
    if (length > longestHeader) throw Error("its header makes no sense");
    const auto header = nlohmann::json::parse(in.text(length));
    KeyedFrame kept;
    kept.key = header.at("key").get<std::string>();
    kept.frame.edgeScale = header.at("edgeScale").get<double>();
    if (header.contains("doubt")) kept.frame.doubt = header.at("doubt").get<double>();
    const PixelLayout layout = layoutFrom(header);
    const int width = within(header, "width", 1, Image::longestSide);
    const int height = within(header, "height", 1, Image::longestSide);
    // Before memory is taken for it.
    if (static_cast<std::uint64_t>(in.bytesLeft()) != sampleBytes(width, height, layout))
        throw Error("it is cut off, or too long");
    auto image = std::make_shared<Image>(width, height, layout);
    forRows(*image, [&](std::span<std::byte> row) { in.take(row); });
    if (header.at("checksum").get<std::string>() != checksumOf(*image))
        throw Error("its samples are not those that were written");
    kept.frame.image = std::move(image);
    return kept;
}

} // namespace

void writeFrame(const fs::path& file, const MadeFrame& frame, const std::string& key) {
    const std::string header = headerOf(frame, key).dump();
    const auto length = static_cast<std::uint32_t>(header.size());
    std::array<char, 4> bytes{};
    for (std::size_t i = 0; i < bytes.size(); ++i)
        bytes[i] = static_cast<char>(length >> (8 * i));
    NewFile out(file);
    out.setSynced(false); // it can be made again, and its checksum tells
    out.write(magic);
    out.write(std::string_view(bytes.data(), bytes.size()));
    out.write(header);
    forRows(*frame.image, [&](std::span<const std::byte> row) { out.write(row); });
    out.finish();
}

KeyedFrame readFrame(const fs::path& file) {
    const auto damaged = [&](const std::string& why) {
        return Error(file.string() + " cannot be read as a finished frame (" + why + ").");
    };
    ForwardReader in(file);
    try {
        return readFrom(in);
    } catch (const nlohmann::json::exception&) {
        throw damaged("its header makes no sense");
    } catch (const Error& error) {
        throw damaged(error.what());
    }
}

bool FrameFolder::has(const std::string& key) const {
    std::error_code ec;
    return fs::exists(files_.fileOf(keyOnDisk(key)), ec);
}

std::optional<MadeFrame> FrameFolder::find(const std::string& key) const {
    if (!has(key)) return std::nullopt;
    const fs::path file = files_.fileOf(keyOnDisk(key));
    try {
        KeyedFrame kept = readFrame(file);
        if (kept.key != keyOnDisk(key)) return std::nullopt;
        CacheFolder::touch(file);
        return std::move(kept.frame);
    } catch (const std::exception&) {
        std::error_code ec;
        fs::remove(file, ec);
        return std::nullopt;
    }
}

void FrameFolder::keep(const std::string& key, const MadeFrame& frame) {
    files_.keep(keyOnDisk(key), frame.image->byteCount(),
                [key = keyOnDisk(key), frame](const fs::path& file) { writeFrame(file, frame, key); });
}

std::shared_ptr<FrameFolder> frameFolderOfUser(std::uintmax_t byteLimit) {
    const auto folder = cacheFolderOfUser("frames");
    return folder.empty() ? nullptr : std::make_shared<FrameFolder>(folder, byteLimit);
}

} // namespace yarngap
