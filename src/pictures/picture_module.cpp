// OpenImageIO as the core's picture library. Only types of core/media/picture_library.h cross the border.
#include "core/media/picture_library.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>

#include <algorithm>
#include <string_view>
#include <utility>

namespace yarngap {

namespace {

OIIO::TypeDesc typeOf(PictureSample sample) {
    switch (sample) {
    case PictureSample::byte:
        return OIIO::TypeDesc::UINT8;
    case PictureSample::word:
        return OIIO::TypeDesc::UINT16;
    case PictureSample::half:
        return OIIO::TypeDesc::HALF;
    default:
        return OIIO::TypeDesc::FLOAT;
    }
}

PictureSample sampleOf(const OIIO::TypeDesc& type) {
    switch (static_cast<OIIO::TypeDesc::BASETYPE>(type.basetype)) {
    case OIIO::TypeDesc::UINT8:
        return PictureSample::byte;
    case OIIO::TypeDesc::UINT16:
        return PictureSample::word;
    case OIIO::TypeDesc::HALF:
        return PictureSample::half;
    case OIIO::TypeDesc::FLOAT:
        return PictureSample::real;
    default:
        return PictureSample::other;
    }
}

/// Texts, single numbers, and the two words of a timecode; what else a header holds is left out.
void addValue(const OIIO::ParamValue& value, std::map<std::string, PictureValue>& to) {
    const OIIO::TypeDesc type = value.type();
    const std::string name = value.name().string();
    if (type.basetype == OIIO::TypeDesc::STRING && type.basevalues() == 1) {
        to[name] = value.get_string();
    } else if (type.basetype == OIIO::TypeDesc::UINT && type.basevalues() >= 2) {
        const auto* words = static_cast<const unsigned*>(value.data());
        to[name] = std::array<unsigned, 2>{words[0], words[1]};
    } else if (type.basevalues() == 1) {
        to[name] = value.get_float();
    }
}

PictureHead headOf(const OIIO::ImageSpec& spec) {
    PictureHead head;
    head.x = spec.x;
    head.y = spec.y;
    head.z = spec.z;
    head.width = spec.width;
    head.height = spec.height;
    head.depth = spec.depth;
    head.fullX = spec.full_x;
    head.fullY = spec.full_y;
    head.fullWidth = spec.full_width;
    head.fullHeight = spec.full_height;
    head.fullDepth = spec.full_depth;
    head.tileWidth = spec.tile_width;
    head.tileHeight = spec.tile_height;
    head.deep = spec.deep;
    head.sampleName = spec.format.c_str();
    head.channels = spec.channelnames;
    head.channels.resize(static_cast<std::size_t>(std::max(0, spec.nchannels)));
    for (int c = 0; c < head.channelCount(); ++c)
        head.samples.push_back(sampleOf(spec.channelformat(c)));
    for (const OIIO::ParamValue& value : spec.extra_attribs)
        addValue(value, head.values);
    return head;
}

OIIO::ImageSpec specOf(const PictureHead& head) {
    OIIO::ImageSpec spec(head.width, head.height, head.channelCount(), typeOf(head.sampleOf(0)));
    if (!head.channels.front().empty()) spec.channelnames = head.channels;
    for (const auto& [name, value] : head.values) {
        if (const auto* words = std::get_if<std::array<unsigned, 2>>(&value))
            spec.attribute(name, OIIO::TypeTimeCode, words->data());
        else if (const auto* text = std::get_if<std::string>(&value))
            spec.attribute(name, *text);
        else if (const auto* real = std::get_if<float>(&value))
            spec.attribute(name, *real);
        else
            spec.attribute(name, std::get<int>(value));
    }
    return spec;
}

/// PictureBytes in the library's own form.
class Bytes final : public OIIO::Filesystem::IOProxy {
  public:
    Bytes(PictureBytes& bytes, const std::string& name, Mode mode)
        : IOProxy(name, mode)
        , bytes_(bytes) {}

    [[nodiscard]] const char* proxytype() const override { return "yarngap"; }
    size_t read(void* to, size_t size) override {
        const size_t got = pread(to, size, m_pos);
        m_pos += static_cast<std::int64_t>(got);
        return got;
    }
    size_t pread(void* to, size_t size, std::int64_t at) override {
        return bytes_.read(at, {static_cast<std::byte*>(to), size});
    }
    size_t write(const void* from, size_t size) override {
        const size_t done = pwrite(from, size, m_pos);
        m_pos += static_cast<std::int64_t>(done);
        return done;
    }
    size_t pwrite(const void* from, size_t size, std::int64_t at) override {
        return bytes_.write(at, {static_cast<const std::byte*>(from), size});
    }
    [[nodiscard]] size_t size() const override { return bytes_.size(); }

  private:
    PictureBytes& bytes_;
};

class Picture final : public OpenPicture {
  public:
    Picture(PictureBytes& bytes, const std::string& name)
        : bytes_(bytes, name, OIIO::Filesystem::IOProxy::Read)
        , name_(name) {}

    bool open(const char* kind, std::string& problem) {
        in_ = OIIO::ImageInput::create(kind);
        if (!in_) return false;
        OIIO::ImageSpec config;
        config.attribute("oiio:UnassociatedAlpha", 1);
        OIIO::ImageSpec spec;
        if (std::string_view(kind) == "jpeg") {
            // The library reads these from files of its own or from memory only.
            whole_.resize(bytes_.size());
            whole_.resize(bytes_.pread(whole_.data(), whole_.size(), 0));
            memory_ = std::make_unique<OIIO::Filesystem::IOMemReader>(whole_.data(), whole_.size());
        }
        in_->set_ioproxy(memory_ ? memory_.get() : &bytes_);
        if (!in_->open(name_, spec, config)) {
            problem = in_->geterror();
            return false;
        }
        head_ = headOf(spec);
        return true;
    }

    [[nodiscard]] const PictureHead& head() const override { return head_; }
    [[nodiscard]] bool holdsSeveral() override {
        if (!in_->seek_subimage(1, 0)) {
            in_->geterror(); // taken note of
            return false;
        }
        in_->seek_subimage(0, 0);
        return true;
    }
    bool read(const PictureBlock& block, PictureSample kind, std::byte* to) override {
        const PictureHead& h = head_;
        const int top = h.y + block.top;
        const int bottom = h.y + block.bottom;
        if (h.tileWidth > 0)
            return in_->read_tiles(0, 0, h.x, h.x + h.width, top, bottom, h.z, h.z + 1, block.firstChannel,
                                   block.endChannel, typeOf(kind), to);
        return in_->read_scanlines(0, 0, top, bottom, h.z, block.firstChannel, block.endChannel, typeOf(kind),
                                   to);
    }
    [[nodiscard]] std::string problem() override { return in_->geterror(); }

  private:
    Bytes bytes_; // outlives in_
    std::string name_;
    std::vector<std::byte> whole_;                      // of a JPEG; outlives memory_
    std::unique_ptr<OIIO::Filesystem::IOProxy> memory_; // reads whole_; outlives in_
    std::unique_ptr<OIIO::ImageInput> in_;
    PictureHead head_;
};

class Library final : public PictureLibrary {
  public:
    [[nodiscard]] bool reads(const char* kind) override { return OIIO::ImageInput::create(kind) != nullptr; }

    std::unique_ptr<OpenPicture> open(const char* kind, const std::string& name, PictureBytes& bytes,
                                      std::string& problem) override {
        auto picture = std::make_unique<Picture>(bytes, name);
        if (!picture->open(kind, problem)) return nullptr;
        return picture;
    }

    PictureEnd write(const char* kind, const std::string& name, const PictureHead& head, PictureBytes& bytes,
                     const PictureRows& rows, std::string& problem) override {
        Bytes proxy(bytes, name, OIIO::Filesystem::IOProxy::Write);
        const auto out = OIIO::ImageOutput::create(kind);
        if (!out) return PictureEnd::noWriter;
        out->set_ioproxy(&proxy);
        if (out->open(name, specOf(head)) && writeRows(*out, head.height, rows) && out->close())
            return PictureEnd::written;
        problem = out->geterror();
        return PictureEnd::failed;
    }

  private:
    static bool writeRows(OIIO::ImageOutput& out, int height, const PictureRows& rows) {
        for (int top = 0; top < height; top += rows.most) {
            const int bottom = std::min(height, top + rows.most);
            if (!out.write_scanlines(top, bottom, 0, typeOf(rows.kind), rows.of(top, bottom),
                                     OIIO::AutoStride, static_cast<OIIO::stride_t>(rows.rowBytes)))
                return false;
        }
        return true;
    }
};

} // namespace

} // namespace yarngap

/// What the core looks for.
extern "C" __attribute__((visibility("default"))) const char* yarngapPictureVersion() {
    return YARNGAP_VERSION;
}
extern "C" __attribute__((visibility("default"))) yarngap::PictureLibrary* yarngapPictureLibrary() {
    static yarngap::Library library;
    return &library;
}
