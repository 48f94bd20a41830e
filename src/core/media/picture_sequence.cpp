#include "core/media/picture_sequence.h"

#include "core/error.h"
#include "core/media/media_identity.h"

#include <OpenImageIO/imageio.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <map>
#include <vector>

namespace yarngap {

namespace {

constexpr std::array<std::string_view, 7> endings{".png", ".tif", ".tiff", ".dpx", ".jpg", ".jpeg", ".exr"};
constexpr std::size_t mostFrames = 1'000'000;
constexpr std::size_t mostDigits = 12;

std::string lowerEnding(const std::filesystem::path& path) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return std::tolower(c); });
    return ending;
}

/// A file name taken apart around its last run of digits; `number` is −1 without one.
struct Numbered {
    std::string before, after;
    std::int64_t number = -1;
};

Numbered takeApart(const std::string& stem) {
    const auto isDigit = [](unsigned char c) { return std::isdigit(c) != 0; };
    const auto end = std::find_if(stem.rbegin(), stem.rend(), isDigit).base();
    auto begin = end;
    while (begin != stem.begin() && isDigit(static_cast<unsigned char>(*(begin - 1))))
        --begin;
    const auto digits = static_cast<std::size_t>(end - begin);
    if (digits == 0 || digits > mostDigits) return {stem, {}, -1};
    Numbered parts{std::string(stem.begin(), begin), std::string(end, stem.end()), 0};
    std::from_chars(&*begin, &*begin + digits, parts.number);
    return parts;
}

std::unique_ptr<OIIO::ImageInput> openPicture(const std::filesystem::path& file) {
    OIIO::ImageSpec config;
    config.attribute("oiio:UnassociatedAlpha", 1); // samples as they are, not multiplied by alpha
    auto in = OIIO::ImageInput::open(file.string(), &config);
    if (!in) {
        const std::string why = OIIO::geterror();
        throw Error(file.string() + " cannot be read as a picture" + (why.empty() ? "" : " (" + why + ")") +
                    ". It may be damaged; copy it again.");
    }
    return in;
}

MediaFacts factsOf(const std::filesystem::path& file, const OIIO::ImageSpec& spec) {
    MediaFacts f;
    f.path = file;
    f.container = "picture sequence";
    f.codec = lowerEnding(file).substr(1);
    f.width = spec.width;
    f.height = spec.height;
    f.rate = Rate(defaultSequenceRate, 1);
    f.scan = Scan::progressive;
    f.colour.fullRange = true;
    f.layout.model = spec.nchannels >= 3 ? ColourModel::rgb : ColourModel::grey;
    f.layout.alpha = spec.nchannels >= 4;
    const auto kind = static_cast<OIIO::TypeDesc::BASETYPE>(spec.format.basetype);
    if (kind != OIIO::TypeDesc::UINT8 && kind != OIIO::TypeDesc::UINT16)
        throw Error(file.string() + " holds " + std::string(spec.format.c_str()) +
                    " samples, which are not worked on yet. Convert it to 16-bit TIFF or PNG first.");
    f.layout.depth = kind == OIIO::TypeDesc::UINT8 ? 8 : 16;
    f.pixelFormat = f.layout.describe();
    if (std::int64_t{spec.width} * spec.height > Image::maxPixels)
        throw Error(file.string() + " has " + std::to_string(spec.width) + " x " +
                    std::to_string(spec.height) +
                    " pixels, more than can be worked on. Scale it down first.");
    if (const float aspect = spec.get_float_attribute("PixelAspectRatio", 1.0F);
        aspect > 0.1F && aspect < 10.0F)
        f.pixelAspect = Rational(static_cast<std::int64_t>(aspect * 1000 + 0.5F), 1000);
    return f;
}

bool suits(const MediaFacts& a, const MediaFacts& b) {
    return a.width == b.width && a.height == b.height && a.layout == b.layout;
}

template <typename Sample>
void spread(const std::vector<Sample>& samples, int channels, Image& image) {
    // Planes are G B R A; files have R G B A.
    constexpr std::array<int, 4> channelOf{1, 2, 0, 3};
    for (int p = 0; p < image.planeCount(); ++p) {
        const auto channel = static_cast<std::size_t>(
            image.layout().model == ColourModel::grey ? 0 : channelOf.at(static_cast<std::size_t>(p)));
        for (int y = 0; y < image.height(); ++y) {
            const auto row = image.row<Sample>(p, y);
            const Sample* from = samples.data() + static_cast<std::size_t>(y) * row.size() *
                                                      static_cast<std::size_t>(channels);
            for (std::size_t x = 0; x < row.size(); ++x)
                row[x] = from[x * static_cast<std::size_t>(channels) + channel];
        }
    }
}

/// "12, 40 to 44, 60 and 3 more"
std::string listed(const std::vector<std::int64_t>& frames) {
    std::string text;
    std::size_t shown = 0;
    for (std::size_t i = 0; i < frames.size() && shown < 4; ++shown) {
        std::size_t end = i;
        while (end + 1 < frames.size() && frames[end + 1] == frames[end] + 1)
            ++end;
        if (!text.empty()) text += ", ";
        text += std::to_string(frames[i]);
        if (end > i) text += " to " + std::to_string(frames[end]);
        i = end + 1;
        if (shown == 3 && i < frames.size()) text += " and " + std::to_string(frames.size() - i) + " more";
    }
    return text;
}

} // namespace

bool isPictureFile(const std::filesystem::path& path) {
    return std::find(endings.begin(), endings.end(), lowerEnding(path)) != endings.end();
}

std::string sequencePattern(const std::filesystem::path& path) {
    const Numbered parts = takeApart(path.stem().string());
    if (parts.number < 0) return path.string();
    return (path.parent_path() / (parts.before + "#" + parts.after)).string() + path.extension().string();
}

MediaFacts pictureFacts(const std::filesystem::path& file) {
    if (!std::filesystem::exists(file))
        throw Error("There is no file " + file.string() +
                    ". Check its name, and whether the disk it lies on is connected. Only local files can be "
                    "opened.");
    return factsOf(file, openPicture(file)->spec());
}

Image readPicture(const std::filesystem::path& file, const MediaFacts& facts) {
    const auto in = openPicture(file);
    const OIIO::ImageSpec spec = in->spec();
    if (!suits(factsOf(file, spec), facts))
        throw Error(file.string() + " is of another size or kind than the rest of its sequence.");
    Image image(facts.width, facts.height, facts.layout);
    const auto count = static_cast<std::size_t>(spec.width) * static_cast<std::size_t>(spec.height) *
                       static_cast<std::size_t>(spec.nchannels);
    const auto read = [&](auto& samples, OIIO::TypeDesc kind) {
        samples.resize(count);
        if (!in->read_image(0, 0, 0, spec.nchannels, kind, samples.data()))
            throw Error(file.string() + " is damaged (" + in->geterror() + "). Copy it again.");
        spread(samples, spec.nchannels, image);
    };
    if (facts.layout.depth == 8) {
        std::vector<std::uint8_t> samples;
        read(samples, OIIO::TypeDesc::UINT8);
    } else {
        std::vector<std::uint16_t> samples;
        read(samples, OIIO::TypeDesc::UINT16);
    }
    return image;
}

MediaIndex buildSequenceIndex(const std::filesystem::path& picked, const Progress& progress,
                              const std::stop_token& stop) {
    MediaIndex index;
    index.facts = pictureFacts(picked);
    std::map<std::int64_t, std::filesystem::path> files;
    const std::string pattern = sequencePattern(picked);
    const Numbered own = takeApart(picked.stem().string());
    if (own.number < 0) {
        files[0] = picked;
    } else {
        const auto folder = picked.has_parent_path() ? picked.parent_path() : std::filesystem::path(".");
        std::error_code ec;
        for (const auto& entry : std::filesystem::directory_iterator(folder, ec)) {
            throwIfStopped(stop);
            const auto file = picked.parent_path() / entry.path().filename();
            if (sequencePattern(file) == pattern) files[takeApart(file.stem().string()).number] = file;
        }
    }
    const std::int64_t first = files.begin()->first;
    const auto span = static_cast<std::size_t>(files.rbegin()->first - first) + 1;
    if (span > mostFrames || span > files.size() * 100 + 100)
        throw Error("The numbers of " + pattern +
                    " have gaps too wide for one sequence. Put other files elsewhere.");
    std::vector<std::int64_t> missing;
    std::vector<std::int64_t> unfit;
    std::size_t done = 0;
    for (std::size_t n = 0; n < span; ++n) {
        throwIfStopped(stop);
        const auto number = first + static_cast<std::int64_t>(n);
        const auto found = files.find(number);
        std::filesystem::path file;
        PacketEntry entry;
        entry.pts = static_cast<std::int64_t>(n);
        entry.key = true;
        entry.shownAs = static_cast<std::int32_t>(n);
        if (found == files.end()) {
            missing.push_back(number);
        } else {
            try {
                if (suits(pictureFacts(found->second), index.facts))
                    file = found->second;
                else
                    unfit.push_back(number);
            } catch (const Error&) {
                unfit.push_back(number);
            }
            std::error_code ec;
            const auto bytes = std::filesystem::file_size(found->second, ec);
            entry.size = static_cast<std::int32_t>(std::min<std::uintmax_t>(bytes, INT32_MAX));
            index.facts.fileBytes += entry.size;
            if (progress) progress(static_cast<double>(++done) / static_cast<double>(files.size()));
        }
        index.packets.push_back(entry);
        index.displayPacket.push_back(static_cast<std::int32_t>(n));
        index.pictures.push_back(std::move(file));
    }
    index.timeBase = Rational(1, defaultSequenceRate);
    if (!missing.empty())
        index.facts.remark = std::to_string(missing.size()) +
                             (missing.size() == 1 ? " picture is" : " pictures are") + " missing: number " +
                             listed(missing) + ". The nearest one stands in.";
    if (!unfit.empty())
        index.facts.remark += (index.facts.remark.empty() ? "" : " ") + std::to_string(unfit.size()) +
                              (unfit.size() == 1 ? " picture is" : " pictures are") +
                              " unreadable or of another size or kind: number " + listed(unfit) + ".";
    index.facts.frames = index.frames();
    index.facts.indexed = true;
    index.identity = mediaIdentity(index);
    return index;
}

} // namespace yarngap
