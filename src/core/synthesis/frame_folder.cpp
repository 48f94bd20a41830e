#include "core/synthesis/frame_folder.h"

#include "core/error.h"

#include <nlohmann/json.hpp>

#include <array>
#include <fstream>

namespace yarngap {

namespace fs = std::filesystem;

namespace {

constexpr std::string_view magic = "yarngap frame 1\n";
constexpr std::uint32_t longestHeader = 64 * 1024;

/// Raised whenever the same settings begin to give another picture, so that old frames are not taken for new.
constexpr int generation = 8;

std::string keyOnDisk(const std::string& key) {
    return std::to_string(generation) + ':' + key;
}

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

std::size_t rowBytes(const Image& image, int plane) {
    return static_cast<std::size_t>(image.plane(plane).width) *
           static_cast<std::size_t>(image.layout().bytesPerSample());
}

} // namespace

void writeFrame(const fs::path& file, const MadeFrame& frame, const std::string& key) {
    const fs::path temporary = partialNameOf(file);
    std::ofstream out(temporary, std::ios::binary);
    const std::string header = headerOf(frame, key).dump();
    const auto length = static_cast<std::uint32_t>(header.size());
    std::array<char, 4> bytes{};
    for (std::size_t i = 0; i < bytes.size(); ++i)
        bytes[i] = static_cast<char>(length >> (8 * i));
    out << magic;
    out.write(bytes.data(), bytes.size());
    out << header;
    const Image& image = *frame.image;
    for (int p = 0; p < image.planeCount(); ++p) {
        const Image::Plane& plane = image.plane(p);
        for (int y = 0; y < plane.height; ++y)
            out.write(reinterpret_cast<const char*>(plane.bytes.data() +
                                                    plane.stride * static_cast<std::size_t>(y)),
                      static_cast<std::streamsize>(rowBytes(image, p)));
    }
    out.close();
    std::error_code ec;
    if (out) fs::rename(temporary, file, ec);
    if (!out || ec) {
        fs::remove(temporary, ec);
        throw Error("A finished frame could not be written as " + file.string() +
                    ". Check the folder and the space on the disk.");
    }
}

KeyedFrame readFrame(const fs::path& file) {
    const auto damaged = [&](const std::string& why) {
        return Error(file.string() + " cannot be read as a finished frame (" + why + ").");
    };
    std::ifstream in(file, std::ios::binary);
    std::string start(magic.size(), '\0');
    std::array<char, 4> bytes{};
    if (!in.read(start.data(), static_cast<std::streamsize>(start.size())) || start != magic ||
        !in.read(bytes.data(), bytes.size()))
        throw damaged("it does not begin like one");
    std::uint32_t length = 0;
    for (std::size_t i = 0; i < bytes.size(); ++i)
        length |= std::uint32_t{static_cast<unsigned char>(bytes[i])} << (8 * i);
    if (length > longestHeader) throw damaged("its header makes no sense");
    std::string text(length, '\0');
    if (!in.read(text.data(), length)) throw damaged("it is cut off");
    KeyedFrame kept;
    try {
        const auto header = nlohmann::json::parse(text);
        kept.key = header.at("key").get<std::string>();
        kept.frame.edgeScale = header.at("edgeScale").get<double>();
        if (header.contains("doubt")) kept.frame.doubt = header.at("doubt").get<double>();
        const PixelLayout layout = layoutFrom(header);
        const int width = header.at("width").get<int>();
        const int height = header.at("height").get<int>();
        std::error_code ec;
        // Before memory is taken for it: at least the first plane has to be there.
        if (width < 1 || height < 1 ||
            fs::file_size(file, ec) / static_cast<std::uintmax_t>(width) <
                static_cast<std::uintmax_t>(height))
            throw Error("it is cut off");
        auto image = std::make_shared<Image>(width, height, layout);
        for (int p = 0; p < image->planeCount(); ++p) {
            Image::Plane& plane = image->plane(p);
            for (int y = 0; y < plane.height; ++y)
                if (!in.read(reinterpret_cast<char*>(plane.bytes.data() +
                                                     plane.stride * static_cast<std::size_t>(y)),
                             static_cast<std::streamsize>(rowBytes(*image, p))))
                    throw Error("it is cut off");
        }
        kept.frame.image = std::move(image);
    } catch (const nlohmann::json::exception&) {
        throw damaged("its header makes no sense");
    } catch (const Error& error) {
        throw damaged(error.what());
    }
    return kept;
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
    } catch (const Error&) {
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
