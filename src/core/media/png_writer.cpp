#include "core/error.h"
#include "core/image/ffmpeg_image.h"
#include "core/media/video_writer.h"

#include <OpenImageIO/imageio.h>

#include <cerrno>

namespace yarngap {

namespace {

/// Frames go into a hidden folder beside the target and are moved out of it when all are there.
class PngWriter final : public FrameWriter {
  public:
    explicit PngWriter(const WriterOptions& options)
        : options_(options)
        , folder_(temporaryName(options.target)) {
        std::error_code ec;
        std::filesystem::remove_all(folder_, ec);
        std::filesystem::create_directory(folder_, ec);
        if (ec) throw Error(writeFailure(folder_, ec.value()));
    }

    PngWriter(const PngWriter&) = delete;
    PngWriter& operator=(const PngWriter&) = delete;
    PngWriter(PngWriter&&) = delete;
    PngWriter& operator=(PngWriter&&) = delete;

    ~PngWriter() override {
        std::error_code ec;
        std::filesystem::remove_all(folder_, ec);
    }

    void write(const Image& image) override {
        const PixelLayout& layout = image.layout();
        const bool wide = layout.depth > 8;
        const bool alpha = layout.alpha;
        const AVPixelFormat format = wide ? (alpha ? AV_PIX_FMT_RGBA64 : AV_PIX_FMT_RGB48)
                                          : (alpha ? AV_PIX_FMT_RGBA : AV_PIX_FMT_RGB24);
        const FramePtr rgb = toFrame(image, options_.colour, format, true);
        const auto path = folder_ / sequenceName(options_.target, next_).filename();
        errno = 0;
        const auto out = OIIO::ImageOutput::create(path.string());
        OIIO::ImageSpec spec(image.width(), image.height(), alpha ? 4 : 3,
                             wide ? OIIO::TypeDesc::UINT16 : OIIO::TypeDesc::UINT8);
        spec.attribute("PixelAspectRatio", static_cast<float>(options_.pixelAspect.toDouble()));
        spec.attribute("png:compressionLevel", 4);
        spec.attribute("oiio:UnassociatedAlpha", 1);
        const bool written =
            out && out->open(path.string(), spec) &&
            out->write_image(spec.format, rgb->data[0], OIIO::AutoStride, rgb->linesize[0]) && out->close();
        if (!written) throw Error(writeFailure(path, errno != 0 ? errno : EIO));
        ++next_;
    }

    void finish() override {
        for (std::int64_t n = 0; n < next_; ++n) {
            const auto target = sequenceName(options_.target, n);
            std::error_code ec;
            std::filesystem::rename(folder_ / target.filename(), target, ec);
            if (ec) throw Error(writeFailure(target, ec.value()));
        }
    }

    [[nodiscard]] std::vector<std::string> notes() const override {
        std::vector<std::string> notes;
        if (options_.layout.model == ColourModel::yuv)
            notes.emplace_back("Frames are converted from YUV to RGB, as PNG requires.");
        return notes;
    }

  private:
    WriterOptions options_;
    std::filesystem::path folder_;
    std::int64_t next_ = 0;
};

} // namespace

std::unique_ptr<FrameWriter> openPngWriter(const WriterOptions& options) {
    return std::make_unique<PngWriter>(options);
}

} // namespace yarngap
