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

/// The file as the library reads it, from several threads at times. What goes wrong waits in rethrow(), since
/// nothing may be thrown through C.
class PictureFile::Proxy final : public OIIO::Filesystem::IOProxy {
  public:
    Proxy(LocalFile file, std::stop_token stop)
        : IOProxy(file.path().string(), Read)
        , file_(std::move(file))
        , stop_(std::move(stop)) {}

    [[nodiscard]] const char* proxytype() const override { return "local"; }
    size_t read(void* to, size_t size) override {
        const size_t got = pread(to, size, m_pos);
        m_pos += static_cast<std::int64_t>(got);
        return got;
    }
    size_t pread(void* to, size_t size, std::int64_t offset) override {
        const std::scoped_lock lock(mutex_);
        if (failure_) return 0;
        try {
            return file_.read(offset, {static_cast<std::byte*>(to), size}, stop_);
        } catch (...) {
            failure_ = std::current_exception();
            return 0;
        }
    }
    [[nodiscard]] size_t size() const override { return static_cast<size_t>(file_.bytes()); }

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
    proxy_ = std::make_unique<Proxy>(std::move(file), stop);
    open(kind->plugin, stop);
    refuseUnfit();
}

void PictureFile::open(const char* plugin, const std::stop_token& stop) {
    in_ = OIIO::ImageInput::create(plugin);
    if (!in_) throw Error(std::string("Pictures of kind ") + plugin + " cannot be read on this machine.");
    OIIO::ImageSpec config;
    config.attribute("oiio:UnassociatedAlpha", 1); // samples as they are, not multiplied by alpha
    if (std::string_view(plugin) == "jpeg") {
        // The library reads these from files of its own or from memory only.
        constexpr std::size_t most = std::size_t{256} << 20;
        if (proxy_->size() > most) throw Error(path_.string() + " is too large for a JPEG picture.");
        whole_.resize(proxy_->size());
        proxy_->read(whole_.data(), whole_.size());
        proxy_->rethrow();
        throwIfStopped(stop);
        memory_ = std::make_unique<OIIO::Filesystem::IOMemReader>(whole_.data(), whole_.size());
    }
    in_->set_ioproxy(memory_ ? memory_.get() : proxy_.get());
    if (in_->open(path_.string(), spec_, config)) return;
    proxy_->rethrow();
    throw damaged();
}

PictureFile::~PictureFile() = default;

const FileEdition& PictureFile::edition() const {
    return proxy_->file().edition();
}

bool PictureFile::hasChanged() const {
    return proxy_->file().hasChanged();
}

bool PictureFile::holdsSeveral() {
    if (!in_->seek_subimage(1, 0)) {
        in_->geterror(); // taken note of
        return false;
    }
    in_->seek_subimage(0, 0);
    return true;
}

Error PictureFile::damaged() const {
    const std::string why = in_->geterror();
    return Error(path_.string() + " cannot be read as a picture" + (why.empty() ? "" : " (" + why + ")") +
                 ". It may be damaged; copy it again.");
}

void PictureFile::refuseUnfit() const {
    const OIIO::ImageSpec& s = spec_;
    if (s.depth > 1 || s.full_depth > 1)
        throw Error(path_.string() + " holds a volume, not a flat picture. Choose another file.");
    if (s.deep)
        throw Error(path_.string() +
                    " holds deep pixels, several samples for each. Flatten it to a plain EXR first.");
    const auto sensible = [](int side) { return side >= 1 && side <= Image::longestSide; };
    if (!sensible(s.width) || !sensible(s.height) || !sensible(s.full_width) || !sensible(s.full_height))
        throw Error(path_.string() + " claims a size that no picture has. It is damaged; copy it again.");
    const auto tooLarge = [](int w, int h) { return std::int64_t{w} * h > Image::maxPixels; };
    if (tooLarge(s.width, s.height) || tooLarge(s.full_width, s.full_height))
        throw Error(path_.string() + " has " + std::to_string(std::max(s.width, s.full_width)) + " x " +
                    std::to_string(std::max(s.height, s.full_height)) +
                    " pixels, more than can be worked on. Scale it down first.");
    if (s.nchannels < 1 || s.nchannels > mostChannels)
        throw Error(path_.string() + " has " + std::to_string(s.nchannels) +
                    " channels; at most 1024 can be read. Leave some out first.");
    if (s.tile_width > Image::longestSide || s.tile_height > Image::longestSide ||
        tooLarge(std::max(1, s.tile_width), std::max(1, s.tile_height)))
        throw Error(path_.string() + " is made of tiles of a size that makes no sense. Save it anew.");
}

void PictureFile::read(int firstChannel, int endChannel, const OIIO::TypeDesc& kind,
                       const std::function<void(const Rows&)>& take) {
    const OIIO::ImageSpec& s = spec_;
    const bool tiled = s.tile_width > 0;
    const std::size_t rowBytes =
        static_cast<std::size_t>(s.width) * static_cast<std::size_t>(endChannel - firstChannel) * kind.size();
    const int rows = tiled ? std::max(1, s.tile_height)
                           : std::clamp(static_cast<int>(stripBytes / rowBytes), 1, usualStrip);
    std::vector<std::byte> strip;
    for (int top = 0; top < s.height; top += rows) {
        proxy_->throwIfStopped();
        const int bottom = std::min(s.height, top + rows);
        strip.resize(rowBytes * static_cast<std::size_t>(bottom - top));
        const bool read = tiled ? in_->read_tiles(0, 0, s.x, s.x + s.width, s.y + top, s.y + bottom, s.z,
                                                  s.z + 1, firstChannel, endChannel, kind, strip.data())
                                : in_->read_scanlines(0, 0, s.y + top, s.y + bottom, s.z, firstChannel,
                                                      endChannel, kind, strip.data());
        proxy_->rethrow();
        if (!read) throw damaged();
        take({top, bottom, strip.data()});
    }
}

namespace {

/// A file in the making as the library writes to it; see PictureFile::Proxy.
class WritingProxy final : public OIIO::Filesystem::IOProxy {
  public:
    explicit WritingProxy(NewFile& file)
        : IOProxy(file.target().string(), Write)
        , file_(file) {}

    [[nodiscard]] const char* proxytype() const override { return "new"; }
    [[nodiscard]] std::int64_t tell() override { return file_.place(); }
    bool seek(std::int64_t offset) override {
        return guarded([&] { file_.seek(offset); });
    }
    size_t write(const void* from, size_t size) override {
        return guarded([&] { file_.write({static_cast<const std::byte*>(from), size}); }) ? size : 0;
    }
    size_t pwrite(const void* from, size_t size, std::int64_t offset) override {
        const bool written = guarded([&] {
            const std::int64_t place = file_.place();
            file_.seek(offset);
            file_.write({static_cast<const std::byte*>(from), size});
            file_.seek(place);
        });
        return written ? size : 0;
    }
    /// Some formats look at what they wrote.
    size_t pread(void* to, size_t size, std::int64_t offset) override {
        size_t got = 0;
        guarded([&] { got = file_.read(offset, {static_cast<std::byte*>(to), size}); });
        return got;
    }
    size_t read(void* to, size_t size) override {
        const size_t got = pread(to, size, file_.place());
        seek(file_.place() + static_cast<std::int64_t>(got));
        return got;
    }
    [[nodiscard]] size_t size() const override { return static_cast<size_t>(file_.bytes()); }
    void rethrow() const {
        const std::scoped_lock lock(mutex_);
        if (failure_) std::rethrow_exception(failure_);
    }

  private:
    template <typename Work>
    bool guarded(Work work) {
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

void writePicture(NewFile& file, const char* plugin, const OIIO::ImageSpec& spec,
                  const std::function<bool(OIIO::ImageOutput&)>& write) {
    WritingProxy proxy(file);
    const auto out = OIIO::ImageOutput::create(plugin);
    if (!out) throw Error(std::string("Pictures of kind ") + plugin + " cannot be written on this machine.");
    out->set_ioproxy(&proxy);
    const bool written = out->open(file.target().string(), spec) && write(*out) && out->close();
    proxy.rethrow();
    if (!written)
        throw Error(file.called().string() + " could not be written (" + out->geterror() +
                    "). Choose another format.");
}

void writePicture(NewFile& file, const char* plugin, const OIIO::ImageSpec& spec,
                  const PictureSamples& samples) {
    writePicture(file, plugin, spec, [&](OIIO::ImageOutput& out) {
        return out.write_image(samples.kind, samples.samples, OIIO::AutoStride, samples.rowBytes);
    });
}

} // namespace yarngap
