#include "core/synthesis/matte_frames.h"

#include "core/error.h"
#include "core/image/rgb_picture.h"
#include "core/media/frame_source.h"
#include "core/media/numbered_names.h"
#include "core/media/picture_sequence.h"

#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <functional>

namespace yarngap {

namespace {

/// Adds the part of each pixel of a row that lies between `left` and `right`, times `amount`.
void addSpan(float* row, int width, double left, double right, float amount) {
    left = std::clamp(left, 0.0, static_cast<double>(width));
    right = std::clamp(right, 0.0, static_cast<double>(width));
    if (!(right > left)) return;
    const auto first = static_cast<int>(left);
    const int last = std::min(width - 1, static_cast<int>(right));
    for (int x = first; x <= last; ++x) {
        const double seen = std::min(right, x + 1.0) - std::max(left, static_cast<double>(x));
        row[x] += amount * static_cast<float>(seen);
    }
}

/// The area of each pixel inside an outline, 0 to 1: exact across, from eight lines down. Where the outline
/// crosses itself, what it goes around twice is outside.
cv::Mat insideOf(const std::vector<MattePoint>& outline, int width, int height) {
    cv::Mat area = cv::Mat::zeros(height, width, CV_32F);
    constexpr int lines = 8;
    std::vector<double> crossings;
    for (int y = 0; y < height; ++y)
        for (int line = 0; line < lines; ++line) {
            const double at = y + (line + 0.5) / lines;
            crossings.clear();
            for (std::size_t i = 0; i < outline.size(); ++i) {
                const MattePoint& p = outline[i];
                const MattePoint& q = outline[(i + 1) % outline.size()];
                if ((p.y <= at) != (q.y <= at))
                    crossings.push_back(p.x + (at - p.y) / (q.y - p.y) * (q.x - p.x));
            }
            std::sort(crossings.begin(), crossings.end());
            for (std::size_t i = 0; i + 1 < crossings.size(); i += 2)
                addSpan(area.ptr<float>(y), width, crossings[i], crossings[i + 1], 1.0F / lines);
        }
    return area;
}

std::string hashOf(const std::vector<MattePoint>& points) {
    std::string text;
    for (const MattePoint& p : points) {
        constexpr double fine = 256; // of a pixel
        text +=
            std::to_string(std::llround(p.x * fine)) + ' ' + std::to_string(std::llround(p.y * fine)) + ',';
    }
    return std::to_string(std::hash<std::string>{}(text));
}

} // namespace

Image coverageOf(const std::vector<MattePoint>& outline, int feather, int width, int height) {
    cv::Mat soft = insideOf(outline, width, height) * 65535.0;
    // Two means make a soft step of `feather` pixels each side.
    if (feather > 0)
        for (int pass = 0; pass < 2; ++pass)
            cv::blur(soft, soft, {feather | 1, feather | 1}, {-1, -1}, cv::BORDER_REPLICATE);
    Image out(width, height, coverageLayout);
    for (int y = 0; y < height; ++y) {
        const auto* from = soft.ptr<float>(y);
        const auto row = out.row<std::uint16_t>(0, y);
        std::transform(from, from + width, row.begin(), [](float v) {
            return static_cast<std::uint16_t>(std::clamp(v, 0.0F, 65535.0F) + 0.5F);
        });
    }
    return out;
}

MatteFrames::MatteFrames(Matte matte, int width, int height,
                         std::function<std::int64_t(std::int64_t)> pictureOf)
    : matte_(std::move(matte))
    , width_(width)
    , height_(height)
    , pictureOf_(std::move(pictureOf)) {
    if (matte_.pictures.empty()) {
        outlines_.reserve(matte_.keys.size());
        for (const MatteKey& key : matte_.keys)
            outlines_.push_back(hashOf(key.points));
        return;
    }
    const FileEdition edition = editionOf(matte_.pictures).value_or(FileEdition{});
    picturesKey_ = matte_.pictures.string();
    for (const std::int64_t number : {edition.bytes, edition.modified, edition.changed})
        picturesKey_ += ':' + std::to_string(number);
}

std::vector<std::filesystem::path> MatteFrames::files() const {
    if (matte_.pictures.empty()) return {};
    if (!isPictureFile(matte_.pictures)) return {matte_.pictures};
    ReadingThread reading;
    std::vector<std::filesystem::path> files;
    for (const auto& [number, file] : filesOf(matte_.pictures, reading).files)
        files.push_back(file);
    return files;
}

std::shared_ptr<ShotFrames> MatteFrames::pictures(const std::stop_token& stop) const {
    const std::scoped_lock lock(mutex_);
    if (!pictures_) {
        try {
            constexpr std::size_t few = std::size_t{16} << 20;
            pictures_ = std::make_shared<FrameSource>(
                std::make_shared<MediaIndex>(buildIndex(matte_.pictures, {}, stop)), few);
        } catch (const Cancelled&) {
            throw;
        } catch (const Error& error) {
            throw Error("The matte's pictures cannot be read. " + std::string(error.what()));
        }
    }
    return pictures_;
}

Image MatteFrames::coverage(std::int64_t n, const std::stop_token& stop) const {
    if (matte_.pictures.empty()) return coverageOf(outlineAt(matte_, n), matte_.feather, width_, height_);
    const auto source = pictures(stop);
    const std::int64_t own = std::min(pictureOf(n), source->frames() - 1);
    const ImagePtr picture = source->frame(own, stop);
    // The outline of another frame would cut the subject at the wrong place.
    if (const auto trouble = source->troubleOf(own);
        trouble && trouble->kind == FrameTrouble::Kind::undecodable)
        throw Error("Frame " + std::to_string(own) + " of the matte " + matte_.pictures.string() +
                    " cannot be decoded. Make it again.");
    ColourTags asValues = source->facts().colour; // what covers how much is no light
    asValues.primaries = asValues.transfer = ColourTags().primaries;
    const RgbPicture rgb = toScreenRgb(*picture, asValues, width_, height_);
    Image out(width_, height_, coverageLayout);
    for (int y = 0; y < height_; ++y) {
        const auto row = out.row<std::uint16_t>(0, y);
        const std::uint8_t* pixel = rgb.bgra.data() + rgb.stride * static_cast<std::size_t>(y) + 1; // green
        for (std::uint16_t& v : row) {
            v = static_cast<std::uint16_t>(*pixel * 257);
            pixel += 4;
        }
    }
    return out;
}

FrameLayersPtr MatteFrames::layers(std::int64_t n, const Image& frame, const std::stop_token& stop) const {
    if (auto kept = layers_.find(n)) return *kept;
    auto made = std::make_shared<const FrameLayers>(layersOf(frame, coverage(n, stop)));
    layers_.insert(n, made, made->byteCount());
    return made;
}

std::string MatteFrames::key(std::int64_t n) const {
    std::string key = matte_.onTop ? "over:" : "under:";
    if (!matte_.pictures.empty()) return key + picturesKey_ + ':' + std::to_string(pictureOf(n));
    if (matte_.keys.empty()) return key;
    key += std::to_string(matte_.feather) + ':';
    const auto found =
        std::lower_bound(matte_.keys.begin(), matte_.keys.end(), n,
                         [](const MatteKey& k, std::int64_t frame) { return k.frame < frame; });
    const auto after = static_cast<std::size_t>(found - matte_.keys.begin());
    if (after == 0) return key + outlines_.front();
    const std::size_t before = after - 1;
    if (after == outlines_.size() || outlines_[before] == outlines_[after]) return key + outlines_[before];
    // The place between two outlines; at the second it is that one.
    if (matte_.keys[after].frame == n) return key + outlines_[after];
    return key + outlines_[before] + '>' + outlines_[after] + ':' +
           std::to_string(n - matte_.keys[before].frame) + '/' +
           std::to_string(matte_.keys[after].frame - matte_.keys[before].frame);
}

} // namespace yarngap
