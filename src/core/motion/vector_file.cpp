#include "core/motion/vector_file.h"

#include "core/cache_folder.h"
#include "core/error.h"

#include <OpenImageIO/imageio.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <vector>

namespace yarngap {

namespace {

constexpr int channels = 6;
constexpr int stripRows = 64; // read and written at a time, so that a large picture needs little memory
constexpr std::array<const char*, channels> channelNames{"forward.X",  "forward.Y",  "forward.trust",
                                                         "backward.X", "backward.Y", "backward.trust"};
constexpr int largestSide = 32768;

/// Where in a pixel of the file each of our channels lies; −1 for one that is missing.
std::array<int, channels> placesIn(const OIIO::ImageSpec& spec, const std::filesystem::path& file) {
    std::array<int, channels> places{};
    for (std::size_t c = 0; c < channels; ++c) {
        places[c] = spec.channelindex(channelNames[c]);
        const bool trust = c % 3 == 2;
        if (places[c] < 0 && !trust)
            throw Error(file.string() + " has no channel " + channelNames[c] +
                        ", so it is no file of motion vectors. See docs/formats.md for the channels.");
    }
    return places;
}

} // namespace

float roundedToHalf(float value) {
    constexpr float smallest = 6.103515625e-5F;
    constexpr float largest = 65504.0F;
    if (!(std::abs(value) >= smallest)) return 0;
    if (std::abs(value) > largest) return std::copysign(largest, value);
    auto bits = std::bit_cast<std::uint32_t>(value);
    bits += 0x0fffU + ((bits >> 13U) & 1U);
    return std::min(largest, std::max(-largest, std::bit_cast<float>(bits & ~0x1fffU)));
}

void writeVectors(const std::filesystem::path& file, const Vectors& vectors, const std::string& key) {
    const int w = vectors.forward.width;
    const int h = vectors.forward.height;
    OIIO::ImageSpec spec(w, h, channels, OIIO::TypeDesc::HALF);
    spec.channelnames.assign(channelNames.begin(), channelNames.end());
    spec.attribute("compression", "zip");
    spec.attribute("yarngap:key", key);
    const std::filesystem::path temporary = partialNameOf(file);
    const auto failed = [&](const std::string& why) {
        std::error_code ec;
        std::filesystem::remove(temporary, ec);
        return Error("Motion vectors could not be written as " + file.string() + " (" + why +
                     "). Check the folder and the space on the disk.");
    };
    const auto out = OIIO::ImageOutput::create("exr");
    if (!out || !out->open(temporary.string(), spec)) throw failed(out ? out->geterror() : "no EXR support");
    const std::array<const VectorField*, 2> fields{&vectors.forward, &vectors.backward};
    const std::array<const TrustField*, 2> trusts{&vectors.forwardTrust, &vectors.backwardTrust};
    const auto width = static_cast<std::size_t>(w);
    std::vector<float> samples(width * stripRows * channels);
    for (int top = 0; top < h; top += stripRows) {
        const int bottom = std::min(h, top + stripRows);
        const std::size_t before = width * static_cast<std::size_t>(top);
        const std::size_t pixels = width * static_cast<std::size_t>(bottom - top);
        for (std::size_t side = 0; side < 2; ++side)
            for (std::size_t i = 0; i < pixels; ++i) {
                float* to = samples.data() + i * channels + side * 3;
                to[0] = fields[side]->xy[2 * (before + i)];
                to[1] = fields[side]->xy[2 * (before + i) + 1];
                to[2] = static_cast<float>(trusts[side]->values[before + i]) / 255.0F;
            }
        if (!out->write_scanlines(top, bottom, 0, OIIO::TypeDesc::FLOAT, samples.data()))
            throw failed(out->geterror());
    }
    if (!out->close()) throw failed(out->geterror());
    std::error_code ec;
    std::filesystem::rename(temporary, file, ec);
    if (ec) throw failed(ec.message());
}

KeyedVectors readVectors(const std::filesystem::path& file) {
    const auto damaged = [&](const std::string& why) {
        return Error(file.string() + " cannot be read as motion vectors (" + why + "). Make it again.");
    };
    const auto in = OIIO::ImageInput::open(file.string());
    if (!in) throw damaged(OIIO::geterror());
    const OIIO::ImageSpec spec = in->spec();
    if (spec.width < 1 || spec.height < 1 || spec.width > largestSide || spec.height > largestSide ||
        spec.nchannels > 64 || spec.deep)
        throw damaged("its size makes no sense");
    const std::array<int, channels> places = placesIn(spec, file);
    const std::size_t pixels = static_cast<std::size_t>(spec.width) * static_cast<std::size_t>(spec.height);
    KeyedVectors out;
    out.key = spec.get_string_attribute("yarngap:key");
    const std::array<VectorField*, 2> fields{&out.vectors.forward, &out.vectors.backward};
    const std::array<TrustField*, 2> trusts{&out.vectors.forwardTrust, &out.vectors.backwardTrust};
    for (std::size_t side = 0; side < 2; ++side) {
        *fields[side] = {spec.width, spec.height, std::vector<float>(pixels * 2)};
        *trusts[side] = {spec.width, spec.height, std::vector<std::uint8_t>(pixels, 255)};
    }
    const auto stride = static_cast<std::size_t>(spec.nchannels);
    const auto width = static_cast<std::size_t>(spec.width);
    const bool tiled = spec.tile_width > 0;
    const int rows = tiled ? std::max(1, spec.tile_height) : stripRows;
    if (rows > largestSide) throw damaged("its tiles make no sense");
    std::vector<float> samples;
    for (int top = 0; top < spec.height; top += rows) {
        const int bottom = std::min(spec.height, top + rows);
        const std::size_t before = width * static_cast<std::size_t>(top);
        const std::size_t here = width * static_cast<std::size_t>(bottom - top);
        samples.resize(here * stride);
        const bool read =
            tiled ? in->read_tiles(0, 0, spec.x, spec.x + spec.width, spec.y + top, spec.y + bottom, spec.z,
                                   spec.z + 1, 0, spec.nchannels, OIIO::TypeDesc::FLOAT, samples.data())
                  : in->read_scanlines(0, 0, spec.y + top, spec.y + bottom, spec.z, 0, spec.nchannels,
                                       OIIO::TypeDesc::FLOAT, samples.data());
        if (!read) throw damaged(in->geterror());
        for (std::size_t side = 0; side < 2; ++side) {
            const int trustPlace = places[side * 3 + 2];
            for (std::size_t i = 0; i < here; ++i) {
                const float* from = samples.data() + i * stride;
                for (std::size_t c = 0; c < 2; ++c) {
                    const float v = from[places[side * 3 + c]];
                    if (!std::isfinite(v)) throw damaged("a vector in it is not a number");
                    fields[side]->xy[2 * (before + i) + c] = v;
                }
                if (trustPlace < 0) continue;
                const float trust = from[trustPlace];
                trusts[side]->values[before + i] =
                    trust > 0 ? static_cast<std::uint8_t>(std::min(1.0F, trust) * 255.0F + 0.5F) : 0;
            }
        }
    }
    return out;
}

} // namespace yarngap
