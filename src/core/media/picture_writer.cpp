#include "core/error.h"
#include "core/files/new_file.h"
#include "core/files/new_sequence.h"
#include "core/image/ffmpeg_image.h"
#include "core/media/picture_file.h"
#include "core/media/video_writer.h"

#include <array>

namespace yarngap {

namespace {

/// The pictures that go when a sequence comes; empty unless that is allowed. Throws Error where it is not.
std::vector<std::string> replacedBy(const WriterOptions& options) {
    std::vector<std::string> there = picturesThere(options.target);
    if (!there.empty() && !options.replace)
        throw Error(std::to_string(there.size()) + (there.size() == 1 ? " picture, " : " pictures, from ") +
                    there.front() + (there.size() == 1 ? "," : " to " + there.back() + ",") +
                    " would be replaced in " + options.target.parent_path().string() +
                    ". Allow that (--replace on the command line), or choose another name.");
    return there;
}

class PictureWriter final : public FrameWriter {
  public:
    explicit PictureWriter(const WriterOptions& options)
        : options_(options)
        , files_(options.target.parent_path(), replacedBy(options)) {}

    void write(const Image& image) override {
        const auto target = sequenceName(options_.target, next_);
        NewFile file(files_.placeFor(target.filename().string()), target);
        file.setSynced(false); // finish() waits for all at once
        if (options_.format == OutputFormat::exrSequence)
            writeExr(image, file);
        else
            writePng(image, file);
        file.finish();
        ++next_;
    }

    void finish() override { files_.finish(); }

    [[nodiscard]] std::vector<std::string> notes() const override {
        std::vector<std::string> notes;
        const bool exr = options_.format == OutputFormat::exrSequence;
        if (options_.layout.model == ColourModel::yuv)
            notes.emplace_back(std::string("Frames are converted from YUV to RGB, as ") +
                               (exr ? "EXR" : "PNG") + " requires.");
        if (exr && !options_.layout.isFloat())
            notes.emplace_back("Samples are written as they are, 0 to 1, and not made linear.");
        if (!exr && options_.layout.isFloat())
            notes.emplace_back(
                "Light of the scene is encoded as sRGB and cut off at white: PNG holds no floats. "
                "An EXR sequence does.");
        return notes;
    }

  private:
    OIIO::ImageSpec specFor(const Image& image, const OIIO::TypeDesc& kind) const {
        OIIO::ImageSpec spec(image.width(), image.height(), image.layout().alpha ? 4 : 3, kind);
        spec.attribute("PixelAspectRatio", static_cast<float>(options_.pixelAspect.toDouble()));
        return spec;
    }

    void writePng(const Image& image, NewFile& file) const {
        const bool wide = image.layout().depth > 8;
        const bool alpha = image.layout().alpha;
        const AVPixelFormat format = wide ? (alpha ? AV_PIX_FMT_RGBA64 : AV_PIX_FMT_RGB48)
                                          : (alpha ? AV_PIX_FMT_RGBA : AV_PIX_FMT_RGB24);
        const FramePtr rgb = toFrame(image, options_.colour, format, true);
        OIIO::ImageSpec spec = specFor(image, wide ? OIIO::TypeDesc::UINT16 : OIIO::TypeDesc::UINT8);
        spec.attribute("png:compressionLevel", 4);
        spec.attribute("oiio:UnassociatedAlpha", 1);
        writePicture(file, "png", spec, {spec.format, rgb->data[0], rgb->linesize[0]});
    }

    /// Halves where the source has halves, else 32-bit floats, which hold 16-bit integers without loss.
    void writeExr(const Image& image, NewFile& file) const {
        const bool half = image.layout().samples == SampleKind::half;
        OIIO::ImageSpec spec = specFor(image, half ? OIIO::TypeDesc::HALF : OIIO::TypeDesc::FLOAT);
        spec.attribute("compression", "zip");
        const auto channels = static_cast<std::size_t>(spec.nchannels);
        const auto width = static_cast<std::size_t>(image.width());
        std::vector<float> samples(channels * width * static_cast<std::size_t>(image.height()));
        if (image.layout().isFloat()) {
            constexpr std::array<int, 4> planeOf{2, 0, 1, 3}; // R G B A in planes G B R A
            for (std::size_t c = 0; c < channels; ++c) {
                const int p = image.layout().model != ColourModel::grey ? planeOf.at(c)
                              : c == 3                                  ? image.planeCount() - 1
                                                                        : 0;
                for (int y = 0; y < image.height(); ++y) {
                    const auto row = image.row<float>(p, y);
                    float* to = samples.data() + static_cast<std::size_t>(y) * width * channels + c;
                    for (std::size_t x = 0; x < width; ++x)
                        to[x * channels] = row[x];
                }
            }
        } else {
            const FramePtr rgb =
                toFrame(image, options_.colour, channels == 4 ? AV_PIX_FMT_RGBA64 : AV_PIX_FMT_RGB48, true);
            for (int y = 0; y < image.height(); ++y) {
                const auto* row = reinterpret_cast<const std::uint16_t*>(
                    rgb->data[0] + static_cast<std::ptrdiff_t>(rgb->linesize[0]) * y);
                float* to = samples.data() + static_cast<std::size_t>(y) * width * channels;
                for (std::size_t i = 0; i < width * channels; ++i)
                    to[i] = static_cast<float>(row[i]) / 65535.0F;
            }
        }
        writePicture(file, "openexr", spec, {OIIO::TypeDesc::FLOAT, samples.data(), OIIO::AutoStride});
    }

    WriterOptions options_;
    NewSequence files_;
    std::int64_t next_ = 0;
};

} // namespace

std::unique_ptr<FrameWriter> openPictureWriter(const WriterOptions& options) {
    return std::make_unique<PictureWriter>(options);
}

} // namespace yarngap
