// The library that reads and writes pictures, behind plain types. It brings two hundred others along, which
// take half a second at a program's start: so it is a module of its own (src/pictures), loaded for the first
// picture.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <variant>
#include <vector>

namespace yarngap {

/// How one sample of a channel is kept.
enum class PictureSample { byte, word, half, real, other };

/// What a picture's header says beside its size: numbers, texts, packed timecode (SMPTE ST 12-1).
using PictureValue = std::variant<int, float, std::string, std::array<unsigned, 2>>;

/// Header of a picture. The picture it belongs to (full…) may be smaller or larger than what the file holds.
struct PictureHead {
    int x = 0, y = 0, z = 0;
    int width = 0, height = 0, depth = 1;
    int fullX = 0, fullY = 0;
    int fullWidth = 0, fullHeight = 0, fullDepth = 1;
    int tileWidth = 0, tileHeight = 0;  ///< 0 for rows
    bool deep = false;                  ///< several samples a pixel
    std::vector<std::string> channels;  ///< names
    std::vector<PictureSample> samples; ///< of each channel, or one for all
    std::string sampleName = {};        ///< the library's word for them
    std::map<std::string, PictureValue> values = {};

    [[nodiscard]] int channelCount() const { return static_cast<int>(channels.size()); }
    [[nodiscard]] PictureSample sampleOf(int channel) const {
        return samples.size() == 1 ? samples.front() : samples[static_cast<std::size_t>(channel)];
    }
    /// Empty where there is none, or it is no text.
    [[nodiscard]] std::string text(const std::string& name) const {
        const auto at = values.find(name);
        const auto* text = at == values.end() ? nullptr : std::get_if<std::string>(&at->second);
        return text ? *text : std::string();
    }
    [[nodiscard]] float number(const std::string& name, float otherwise) const {
        const auto at = values.find(name);
        if (at == values.end()) return otherwise;
        if (const auto* real = std::get_if<float>(&at->second)) return *real;
        const auto* whole = std::get_if<int>(&at->second);
        return whole ? static_cast<float>(*whole) : otherwise;
    }
};

/// A file as the library sees it, from several threads at times. Nothing is thrown through the library: who
/// implements it keeps what went wrong for later, and answers with less than was asked for.
class PictureBytes {
  public:
    PictureBytes() = default;
    virtual ~PictureBytes() = default;
    PictureBytes(const PictureBytes&) = delete;
    PictureBytes& operator=(const PictureBytes&) = delete;
    PictureBytes(PictureBytes&&) = delete;
    PictureBytes& operator=(PictureBytes&&) = delete;

    virtual std::size_t read(std::int64_t at, std::span<std::byte> to) noexcept = 0;
    virtual std::size_t write(std::int64_t at, std::span<const std::byte> from) noexcept = 0;
    [[nodiscard]] virtual std::size_t size() const noexcept = 0;
};

/// A block of a picture's samples: rows [top, bottom), channels [firstChannel, endChannel).
struct PictureBlock {
    int top = 0, bottom = 0;
    int firstChannel = 0, endChannel = 0;
};

/// A picture open for reading.
class OpenPicture {
  public:
    OpenPicture() = default;
    virtual ~OpenPicture() = default;
    OpenPicture(const OpenPicture&) = delete;
    OpenPicture& operator=(const OpenPicture&) = delete;
    OpenPicture(OpenPicture&&) = delete;
    OpenPicture& operator=(OpenPicture&&) = delete;

    [[nodiscard]] virtual const PictureHead& head() const = 0;
    [[nodiscard]] virtual bool holdsSeveral() = 0;
    /// Interleaved samples of `kind`; false when the file is damaged, see problem(). Of a tiled picture
    /// `block` begins and ends with a tile.
    virtual bool read(const PictureBlock& block, PictureSample kind, std::byte* to) = 0;
    /// What the library says of the last failure; may be empty.
    [[nodiscard]] virtual std::string problem() = 0;
};

/// Samples of a picture to be written, some rows at a time, from top to bottom.
struct PictureRows {
    PictureSample kind = PictureSample::byte;
    int most = 0;             ///< rows asked for at a time
    std::size_t rowBytes = 0; ///< from one row to the next
    std::function<const void*(int top, int bottom)> of;
};

enum class PictureEnd { written, noWriter, failed };

class PictureLibrary {
  public:
    PictureLibrary() = default;
    virtual ~PictureLibrary() = default;
    PictureLibrary(const PictureLibrary&) = delete;
    PictureLibrary& operator=(const PictureLibrary&) = delete;
    PictureLibrary(PictureLibrary&&) = delete;
    PictureLibrary& operator=(PictureLibrary&&) = delete;

    /// Whether there is a reader of the kind ("png", "openexr").
    [[nodiscard]] virtual bool reads(const char* kind) = 0;
    /// Samples come as they are, not multiplied by alpha. Null when it cannot be read; `problem` may say why.
    /// `bytes` has to outlive the picture; `name` serves messages.
    virtual std::unique_ptr<OpenPicture> open(const char* kind, const std::string& name, PictureBytes& bytes,
                                              std::string& problem) = 0;
    virtual PictureEnd write(const char* kind, const std::string& name, const PictureHead& head,
                             PictureBytes& bytes, const PictureRows& rows, std::string& problem) = 0;
};

/// Loads the module at the first call. Throws Error when it is missing or cannot be loaded.
PictureLibrary& pictureLibrary();

} // namespace yarngap
