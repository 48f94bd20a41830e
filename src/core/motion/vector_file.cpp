#include "core/motion/vector_file.h"

#include "core/error.h"
#include "core/media/picture_file.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <utility>
#include <vector>

namespace yarngap {

namespace {

constexpr int channels = 6;
constexpr int stripRows = 64; // read and written at a time, so that a large picture needs little memory
constexpr std::array<const char*, channels> channelNames{"forward.X",  "forward.Y",  "forward.trust",
                                                         "backward.X", "backward.Y", "backward.trust"};
constexpr int mostChannels = 64;

int placeOf(const char* channel, const PictureHead& head) {
    const auto at = std::find(head.channels.begin(), head.channels.end(), channel);
    return at == head.channels.end() ? -1 : static_cast<int>(at - head.channels.begin());
}

/// Where in a pixel of the file each of our channels lies; −1 for one that is missing.
std::array<int, channels> placesIn(const PictureHead& head, const std::filesystem::path& file) {
    std::array<int, channels> places{};
    for (std::size_t c = 0; c < channels; ++c) {
        places[c] = placeOf(channelNames[c], head);
        const bool trust = c % 3 == 2;
        if (places[c] < 0 && !trust)
            throw Error(file.string() + " has no channel " + channelNames[c] +
                        ", so it is no file of motion vectors. See docs/formats.md for the channels.");
    }
    return places;
}

Error damaged(const std::filesystem::path& file, const std::string& why) {
    return Error(file.string() + " cannot be read as motion vectors (" + why + "). Make it again.");
}

Vectors readChannels(PictureFile& picture, const std::filesystem::path& file) {
    const PictureHead& head = picture.head();
    const std::array<int, channels> places = placesIn(head, file);
    const std::size_t pixels = static_cast<std::size_t>(head.width) * static_cast<std::size_t>(head.height);
    Vectors out;
    const std::array<VectorField*, 2> fields{&out.forward, &out.backward};
    const std::array<TrustField*, 2> trusts{&out.forwardTrust, &out.backwardTrust};
    for (std::size_t side = 0; side < 2; ++side) {
        *fields[side] = {head.width, head.height, std::vector<float>(pixels * 2)};
        *trusts[side] = {head.width, head.height, std::vector<std::uint8_t>(pixels, 255)};
    }
    const auto stride = static_cast<std::size_t>(head.channelCount());
    const auto width = static_cast<std::size_t>(head.width);
    picture.read(0, head.channelCount(), PictureSample::real, [&](const PictureFile::Rows& rows) {
        const auto* samples = static_cast<const float*>(rows.samples);
        const std::size_t before = width * static_cast<std::size_t>(rows.top);
        const std::size_t here = width * static_cast<std::size_t>(rows.bottom - rows.top);
        for (std::size_t side = 0; side < 2; ++side) {
            const int trustPlace = places[side * 3 + 2];
            for (std::size_t i = 0; i < here; ++i) {
                const float* from = samples + i * stride;
                for (std::size_t c = 0; c < 2; ++c) {
                    const float v = from[places[side * 3 + c]];
                    if (!std::isfinite(v)) throw damaged(file, "a vector in it is not a number");
                    fields[side]->xy[2 * (before + i) + c] = v;
                }
                if (trustPlace < 0) continue;
                const float trust = from[trustPlace];
                trusts[side]->values[before + i] =
                    trust > 0 ? static_cast<std::uint8_t>(std::min(1.0F, trust) * 255.0F + 0.5F) : 0;
            }
        }
    });
    return out;
}

void refuseManyChannels(const PictureFile& picture, const std::filesystem::path& file) {
    if (picture.head().channelCount() > mostChannels) throw damaged(file, "it has too many channels");
}

} // namespace

void writeVectors(const std::filesystem::path& file, const Vectors& vectors, const std::string& key) {
    const int w = vectors.forward.width;
    const int h = vectors.forward.height;
    PictureHead head;
    head.width = w;
    head.height = h;
    head.samples = {PictureSample::half};
    head.channels.assign(channelNames.begin(), channelNames.end());
    head.values = {{"compression", "zip"}, {"yarngap:key", key}};
    const std::array<const VectorField*, 2> fields{&vectors.forward, &vectors.backward};
    const std::array<const TrustField*, 2> trusts{&vectors.forwardTrust, &vectors.backwardTrust};
    const auto width = static_cast<std::size_t>(w);
    std::vector<float> samples(width * stripRows * channels);
    const auto rowsOf = [&](int top, int bottom) {
        const std::size_t before = width * static_cast<std::size_t>(top);
        const std::size_t pixels = width * static_cast<std::size_t>(bottom - top);
        for (std::size_t side = 0; side < 2; ++side)
            for (std::size_t i = 0; i < pixels; ++i) {
                float* to = samples.data() + i * channels + side * 3;
                to[0] = fields[side]->xy[2 * (before + i)];
                to[1] = fields[side]->xy[2 * (before + i) + 1];
                to[2] = static_cast<float>(trusts[side]->values[before + i]) / 255.0F;
            }
        return samples.data();
    };
    NewFile out(file);
    writePicture(out, "openexr", head,
                 {PictureSample::real, stripRows, width * channels * sizeof(float), rowsOf});
    out.finish();
}

KeyedVectors readVectors(const std::filesystem::path& file, int width, int height) {
    PictureFile picture(file, std::make_shared<ReadingThread>());
    const PictureHead& head = picture.head();
    refuseManyChannels(picture, file);
    if (width > 0 && (head.width != width || head.height != height))
        throw Error(file.string() + " is for pictures of " + std::to_string(head.width) + "x" +
                    std::to_string(head.height) + ", not " + std::to_string(width) + "x" +
                    std::to_string(height) + ". Choose the vectors of this shot.");
    std::string key = head.text("yarngap:key");
    return {readChannels(picture, file), std::move(key)};
}

} // namespace yarngap
