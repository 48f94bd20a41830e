#include "core/motion/kept_vectors.h"

#include "core/error.h"
#include "core/files/forward_reader.h"
#include "core/files/new_file.h"
#include "core/media/media_identity.h"
#include "core/motion/cell_vectors.h"
#include "core/motion/half_floats.h"
#include "core/widest.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cstdint>
#include <cstring>
#include <span>
#include <string_view>
#include <vector>

#include <lz4.h>

namespace yarngap {

namespace {

constexpr std::string_view magic = "yarngap vectors 2\n";
constexpr int keptStripRows = 64;
constexpr std::uint32_t longestKey = 64 * 1024;
// LZ4 at 8 takes a third of the time of Zstandard at 1, for a third more bytes; at 1 it takes half for 28 %.
constexpr int acceleration = 8;

/// Floats that are halves (see roundedToHalf) as their 16 bits, and back. 0 stands for all below 2^-14.
std::uint16_t bitsOfHalf(float value) {
    const auto bits = std::bit_cast<std::int32_t>(roundedToHalf(value));
    const std::int32_t magnitude = bits & 0x7fffffff;
    const std::int32_t half = magnitude == 0 ? 0 : (magnitude - 0x38000000) >> 13;
    return static_cast<std::uint16_t>(half | ((bits >> 16) & 0x8000));
}
float floatOfHalf(std::uint16_t half) {
    const std::uint32_t magnitude = half & 0x7fffU;
    const std::uint32_t bits = magnitude == 0 ? 0 : (magnitude << 13U) + 0x38000000U;
    return std::bit_cast<float>(bits | (std::uint32_t{half} & 0x8000U) << 16U);
}

/// One component of a row as steps from one half to the next: low bytes of all, then high bytes. `halves` has
/// room for one more than the row.
YARNGAP_WIDEST void putComponent(const float* xy, int width, std::uint16_t* halves, std::byte* to) {
    halves[0] = 0;
#pragma GCC ivdep
    for (int x = 0; x < width; ++x)
        halves[x + 1] = bitsOfHalf(xy[2 * x]);
    std::byte* high = to + width;
#pragma GCC ivdep
    for (int x = 0; x < width; ++x) {
        const auto step = static_cast<std::uint16_t>(halves[x + 1] - halves[x]);
        to[x] = static_cast<std::byte>(step & 0xffU);
        high[x] = static_cast<std::byte>(step >> 8U);
    }
}
void takeComponent(std::span<const std::byte> from, std::size_t width, float* xy) {
    std::uint16_t half = 0;
    for (std::size_t x = 0; x < width; ++x) {
        half = static_cast<std::uint16_t>(half + std::to_integer<std::uint16_t>(from[x]) +
                                          (std::to_integer<std::uint16_t>(from[width + x]) << 8U));
        xy[2 * x] = floatOfHalf(half);
    }
}

constexpr std::size_t bytesPerPixel = 10; // two fields of two halves, two bytes of trust

std::size_t mostPacked(std::size_t bytes) {
    return static_cast<std::size_t>(LZ4_compressBound(static_cast<int>(bytes)));
}

/// A strip is at most keptStripRows of the widest picture, far from what an int counts. Throws Error.
void pack(std::span<const std::byte> raw, std::vector<std::byte>& packed) {
    packed.resize(mostPacked(raw.size()));
    const int bytes =
        LZ4_compress_fast(reinterpret_cast<const char*>(raw.data()), reinterpret_cast<char*>(packed.data()),
                          static_cast<int>(raw.size()), static_cast<int>(packed.size()), acceleration);
    if (bytes <= 0) throw Error("vectors cannot be packed");
    packed.resize(static_cast<std::size_t>(bytes));
}

/// False where `packed` is not what fills `raw`.
bool unpack(std::span<const std::byte> packed, std::span<std::byte> raw) {
    return LZ4_decompress_safe(reinterpret_cast<const char*>(packed.data()),
                               reinterpret_cast<char*>(raw.data()), static_cast<int>(packed.size()),
                               static_cast<int>(raw.size())) == static_cast<int>(raw.size());
}

/// Calls `put(row of a field, its component)`, then `trust(row)`, in the order of the file.
template <typename Field, typename Trust, typename Component, typename Plain>
void inOrder(std::array<Field*, 2> fields, std::array<Trust*, 2> trusts, int top, int bottom,
             Component component, Plain plain) {
    for (std::size_t side = 0; side < 2; ++side) {
        for (int c = 0; c < 2; ++c)
            for (int y = top; y < bottom; ++y)
                component(fields[side]->row(y) + c);
        for (int y = top; y < bottom; ++y)
            plain(trusts[side]->row(y));
    }
}

void putNumber(std::vector<std::byte>& out, std::uint64_t number, std::size_t bytes) {
    for (std::size_t i = 0; i < bytes; ++i)
        out.push_back(static_cast<std::byte>(number >> (8 * i)));
}

/// What follows the magic: all but the packed strips.
std::vector<std::byte> headerFor(const std::string& key, int width, int height) {
    std::vector<std::byte> out;
    putNumber(out, key.size(), 4);
    const auto text = std::as_bytes(std::span(key));
    out.insert(out.end(), text.begin(), text.end());
    putNumber(out, static_cast<std::uint64_t>(width), 4);
    putNumber(out, static_cast<std::uint64_t>(height), 4);
    return out;
}

std::shared_ptr<Vectors> empty(int width, int height) {
    const std::size_t pixels = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
    auto vectors = std::make_shared<Vectors>();
    for (VectorField* field : {&vectors->forward, &vectors->backward})
        *field = {width, height, std::vector<float>(pixels * 2)};
    for (TrustField* trust : {&vectors->forwardTrust, &vectors->backwardTrust})
        *trust = {width, height, std::vector<std::uint8_t>(pixels)};
    return vectors;
}

/// Null where the file is of something else.
VectorsPtr readFrom(ForwardReader& in, const std::string& key, int width, int height) {
    if (in.text(magic.size()) != magic) throw Error("it does not begin like such a file");
    const std::uint64_t length = in.number(4);
    if (length > longestKey) throw Error("its key makes no sense");
    if (in.text(length) != key) return nullptr;
    const std::uint64_t across = in.number(4);
    const std::uint64_t down = in.number(4);
    const auto are = [&](int w, int h) {
        return across == static_cast<std::uint64_t>(w) && down == static_cast<std::uint64_t>(h);
    };
    if (are(cellsOf(width), cellsOf(height))) {
        width = cellsOf(width);
        height = cellsOf(height);
    } else if (!are(width, height)) {
        return nullptr;
    }
    const auto vectors = empty(width, height);
    const auto w = static_cast<std::size_t>(width);
    std::vector<std::byte> raw;
    std::vector<std::byte> packed;
    for (int top = 0; top < height; top += keptStripRows) {
        const int bottom = std::min(height, top + keptStripRows);
        const std::uint64_t hash = in.number(8);
        const std::uint64_t bytes = in.number(4);
        raw.resize(w * static_cast<std::size_t>(bottom - top) * bytesPerPixel);
        if (bytes > mostPacked(raw.size())) throw Error("a strip makes no sense");
        packed.resize(bytes);
        in.take(packed);
        if (hashOf(packed) != hash || !unpack(packed, raw)) throw Error("it does not hold what was written");
        std::size_t at = 0;
        inOrder<VectorField, TrustField>(
            {&vectors->forward, &vectors->backward}, {&vectors->forwardTrust, &vectors->backwardTrust}, top,
            bottom,
            [&](float* xy) {
                takeComponent(std::span(raw).subspan(at), w, xy);
                at += 2 * w;
            },
            [&](std::uint8_t* trust) {
                std::memcpy(trust, raw.data() + at, w);
                at += w;
            });
    }
    if (in.bytesLeft() != 0) throw Error("it is too long");
    return vectors;
}

} // namespace

void writeKeptVectors(const std::filesystem::path& file, const Vectors& vectors, const std::string& key) {
    const int height = vectors.forward.height;
    const auto width = static_cast<std::size_t>(vectors.forward.width);
    NewFile out(file);
    out.setSynced(false); // it can be made again, and its hashes tell
    out.write(magic);
    out.write(headerFor(key, vectors.forward.width, height));
    std::vector<std::uint16_t> halves(width + 1);
    std::vector<std::byte> raw;
    std::vector<std::byte> packed;
    for (int top = 0; top < height; top += keptStripRows) {
        const int bottom = std::min(height, top + keptStripRows);
        raw.resize(width * static_cast<std::size_t>(bottom - top) * bytesPerPixel);
        std::size_t at = 0;
        inOrder<const VectorField, const TrustField>(
            {&vectors.forward, &vectors.backward}, {&vectors.forwardTrust, &vectors.backwardTrust}, top,
            bottom,
            [&](const float* xy) {
                putComponent(xy, vectors.forward.width, halves.data(), raw.data() + at);
                at += 2 * width;
            },
            [&](const std::uint8_t* trust) {
                std::memcpy(raw.data() + at, trust, width);
                at += width;
            });
        pack(raw, packed);
        std::vector<std::byte> head;
        putNumber(head, hashOf(packed), 8);
        putNumber(head, packed.size(), 4);
        out.write(head);
        out.write(packed);
    }
    out.finish();
}

VectorsPtr readKeptVectors(const std::filesystem::path& file, const std::string& key, int width, int height) {
    ForwardReader in(file);
    try {
        return readFrom(in, key, width, height);
    } catch (const Error& error) {
        throw Error(file.string() + " cannot be read as motion vectors (" + error.what() + ").");
    }
}

} // namespace yarngap
