#include "core/media/picture_file.h"

#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/image/image.h"
#include "core/media/picture_sequence.h"
#include "core/progress.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <exception>
#include <mutex>
#include <utility>
#include <vector>

namespace yarngap {

namespace {

using namespace std::string_view_literals;

constexpr int mostChannels = 1024;
constexpr std::size_t stripBytes = std::size_t{16} << 20; // read at a time
constexpr int usualStrip = 256;                           // rows; as many as any compression takes together

/// How the files of an ending begin.
struct Kind {
    std::string_view ending;
    const char* plugin;
    const char* name;
    std::array<std::string_view, 4> starts;
};

constexpr std::array<std::string_view, 4> tiffStarts{"II*\0"sv, "MM\0*"sv, "II+\0"sv, "MM\0+"sv};
constexpr std::array<std::string_view, 4> jpegStarts{"\xFF\xD8\xFF"sv};
constexpr std::array<Kind, 7> kinds{{{".png", "png", "PNG", {"\x89PNG\r\n\x1A\n"sv}},
                                     {".tif", "tiff", "TIFF", tiffStarts},
                                     {".tiff", "tiff", "TIFF", tiffStarts},
                                     {".dpx", "dpx", "DPX", {"SDPX"sv, "XPDS"sv}},
                                     {".jpg", "jpeg", "JPEG", jpegStarts},
                                     {".jpeg", "jpeg", "JPEG", jpegStarts},
                                     {".exr", "openexr", "EXR", {"\x76\x2F\x31\x01"sv}}}};

std::size_t bytesOf(PictureSample sample) {
    switch (sample) {
    case PictureSample::byte:
        return 1;
    case PictureSample::word:
    case PictureSample::half:
        return 2;
    default:
        return 4;
    }
}

const Kind* kindOf(const std::filesystem::path& path) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    const auto found =
        std::find_if(kinds.begin(), kinds.end(), [&](const Kind& kind) { return kind.ending == ending; });
    return found == kinds.end() ? nullptr : &*found;
}

void refuseOtherContent(const std::filesystem::path& path, const Kind& kind, LocalFile& file,
                        const std::stop_token& stop) {
    if (file.bytes() == 0)
        throw Error(path.string() + " is empty (0 bytes). Copy it again from where it came from.");
    std::array<char, 8> start{};
    const std::size_t got = file.read(0, std::as_writable_bytes(std::span(start)), stop);
    const std::string_view begins(start.data(), got);
    for (const std::string_view expected : kind.starts)
        if (!expected.empty() && begins.starts_with(expected)) return;
    throw Error(path.string() + " ends in " + std::string(kind.ending) +
                ", but does not begin like a picture in " + kind.name +
                " format. It is damaged or of another kind: copy it again, or "
                "give it the right ending.");
}

} // namespace

bool isPictureFile(const std::filesystem::path& path) {
    return kindOf(path) != nullptr;
}

/// The file as the library reads it. What goes wrong waits in rethrow().
class PictureFile::Bytes final : public PictureBytes {
  public:
    Bytes(LocalFile file, std::stop_token stop)
        : file_(std::move(file))
        , stop_(std::move(stop)) {}

    std::size_t read(std::int64_t at, std::span<std::byte> to) noexcept override {
        const std::scoped_lock lock(mutex_);
        if (failure_) return 0;
        try {
            return file_.read(at, to, stop_);
        } catch (...) {
            failure_ = std::current_exception();
            return 0;
        }
    }
    std::size_t write(std::int64_t /*at*/, std::span<const std::byte> /*from*/) noexcept override {
        return 0;
    }
    [[nodiscard]] std::size_t size() const noexcept override {
        return static_cast<std::size_t>(file_.bytes());
    }

    [[nodiscard]] const LocalFile& file() const { return file_; }
    void rethrow() const {
        const std::scoped_lock lock(mutex_);
        if (failure_) std::rethrow_exception(failure_);
    }
    void throwIfStopped() const { yarngap::throwIfStopped(stop_); }

  private:
    LocalFile file_;
    std::stop_token stop_;
    mutable std::mutex mutex_;
    std::exception_ptr failure_;
};

PictureFile::PictureFile(const std::filesystem::path& path, std::shared_ptr<ReadingThread> thread,
                         const std::stop_token& stop)
    : path_(path) {
    const Kind* kind = kindOf(path);
    if (!kind)
        throw Error(path.string() + " is no picture of a kind that is read: PNG, TIFF, EXR, DPX or JPEG.");
    LocalFile file(path, std::move(thread), stop);
    refuseOtherContent(path, *kind, file, stop);
    bytes_ = std::make_unique<Bytes>(std::move(file), stop);
    open(kind->plugin);
    refuseUnfit();
}

void PictureFile::open(const char* kind) {
    // The library takes these into memory as a whole.
    constexpr std::size_t most = std::size_t{256} << 20;
    if (std::string_view(kind) == "jpeg" && bytes_->size() > most)
        throw Error(path_.string() + " is too large for a JPEG picture.");
    PictureLibrary& library = pictureLibrary();
    std::string problem;
    in_ = library.open(kind, path_.string(), *bytes_, problem);
    bytes_->rethrow();
    bytes_->throwIfStopped();
    if (in_) return;
    if (!library.reads(kind))
        throw Error(std::string("Pictures of kind ") + kind + " cannot be read on this machine.");
    throw damaged(problem);
}

PictureFile::~PictureFile() = default;

const FileEdition& PictureFile::edition() const {
    return bytes_->file().edition();
}

bool PictureFile::hasChanged() const {
    return bytes_->file().hasChanged();
}

bool PictureFile::holdsSeveral() {
    return in_->holdsSeveral();
}

Error PictureFile::damaged(const std::string& why) const {
    return Error(path_.string() + " cannot be read as a picture" + (why.empty() ? "" : " (" + why + ")") +
                 ". It may be damaged; copy it again.");
}

void PictureFile::refuseUnfit() const {
    const PictureHead& h = head();
    if (h.depth > 1 || h.fullDepth > 1)
        throw Error(path_.string() + " holds a volume, not a flat picture. Choose another file.");
    if (h.deep)
        throw Error(path_.string() +
                    " holds deep pixels, several samples for each. Flatten it to a plain EXR first.");
    const auto sensible = [](int side) { return side >= 1 && side <= Image::longestSide; };
    if (!sensible(h.width) || !sensible(h.height) || !sensible(h.fullWidth) || !sensible(h.fullHeight))
        throw Error(path_.string() + " claims a size that no picture has. It is damaged; copy it again.");
    const auto tooLarge = [](int wide, int high) { return std::int64_t{wide} * high > Image::maxPixels; };
    if (tooLarge(h.width, h.height) || tooLarge(h.fullWidth, h.fullHeight))
        throw Error(path_.string() + " has " + std::to_string(std::max(h.width, h.fullWidth)) + " x " +
                    std::to_string(std::max(h.height, h.fullHeight)) +
                    " pixels, more than can be worked on. Scale it down first.");
    if (h.channelCount() < 1 || h.channelCount() > mostChannels)
        throw Error(path_.string() + " has " + std::to_string(h.channelCount()) +
                    " channels; at most 1024 can be read. Leave some out first.");
    if (h.tileWidth > Image::longestSide || h.tileHeight > Image::longestSide ||
        tooLarge(std::max(1, h.tileWidth), std::max(1, h.tileHeight)))
        throw Error(path_.string() + " is made of tiles of a size that makes no sense. Save it anew.");
}

void PictureFile::read(int firstChannel, int endChannel, PictureSample kind,
                       const std::function<void(const Rows&)>& take) {
    const PictureHead& h = head();
    const std::size_t rowBytes = static_cast<std::size_t>(h.width) *
                                 static_cast<std::size_t>(endChannel - firstChannel) * bytesOf(kind);
    const int rows = h.tileWidth > 0 ? std::max(1, h.tileHeight)
                                     : std::clamp(static_cast<int>(stripBytes / rowBytes), 1, usualStrip);
    std::vector<std::byte> strip;
    for (int top = 0; top < h.height; top += rows) {
        bytes_->throwIfStopped();
        const int bottom = std::min(h.height, top + rows);
        strip.resize(rowBytes * static_cast<std::size_t>(bottom - top));
        const bool read = in_->read({top, bottom, firstChannel, endChannel}, kind, strip.data());
        bytes_->rethrow();
        if (!read) throw damaged(in_->problem());
        take({top, bottom, strip.data()});
    }
}

namespace {

/// A file in the making as the library writes to it; see PictureFile::Bytes.
class NewBytes final : public PictureBytes {
  public:
    explicit NewBytes(NewFile& file)
        : file_(file) {}

    std::size_t write(std::int64_t at, std::span<const std::byte> from) noexcept override {
        const bool written = guarded([&] {
            if (file_.place() != at) file_.seek(at);
            file_.write(from);
        });
        return written ? from.size() : 0;
    }
    /// Some formats look at what they wrote.
    std::size_t read(std::int64_t at, std::span<std::byte> to) noexcept override {
        std::size_t got = 0;
        guarded([&] { got = file_.read(at, to); });
        return got;
    }
    [[nodiscard]] std::size_t size() const noexcept override {
        return static_cast<std::size_t>(file_.bytes());
    }
    void rethrow() const {
        const std::scoped_lock lock(mutex_);
        if (failure_) std::rethrow_exception(failure_);
    }

  private:
    template <typename Work>
    bool guarded(Work work) noexcept {
        const std::scoped_lock lock(mutex_);
        if (failure_) return false;
        try {
            work();
            return true;
        } catch (...) {
            failure_ = std::current_exception();
            return false;
        }
    }

    NewFile& file_;
    mutable std::mutex mutex_;
    std::exception_ptr failure_;
};

} // namespace

void writePicture(NewFile& file, const char* kind, const PictureHead& head, const PictureRows& rows) {
    NewBytes bytes(file);
    std::string problem;
    const PictureEnd end = pictureLibrary().write(kind, file.target().string(), head, bytes, rows, problem);
    bytes.rethrow();
    if (end == PictureEnd::noWriter)
        throw Error(std::string("Pictures of kind ") + kind + " cannot be written on this machine.");
    if (end == PictureEnd::failed)
        throw Error(file.called().string() + " could not be written (" + problem +
                    "). Choose another format.");
}

} // namespace yarngap
