#include "core/media/picture_sequence.h"

#include "core/error.h"
#include "core/image/sample_types.h"
#include "core/media/media_identity.h"

#include <OpenImageIO/imageio.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <map>
#include <optional>
#include <utility>
#include <vector>

namespace yarngap {

namespace {

constexpr std::array<std::string_view, 7> endings{".png", ".tif", ".tiff", ".dpx", ".jpg", ".jpeg", ".exr"};
constexpr std::size_t mostFrames = 1'000'000;
constexpr std::size_t mostDigits = 12;
constexpr int linearTransfer = 8; // as in ITU-T H.273

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

/// Places of the channels that are worked on among all of a file, in the order of our planes: G B R A, or
/// grey, or grey and alpha.
struct Channels {
    std::vector<int> of;
    ColourModel model = ColourModel::rgb;
    bool alpha = false;
    std::vector<std::string> others;
};

/// EXR files name their channels, and may hold many; elsewhere the first four count.
Channels channelsOf(const OIIO::ImageSpec& spec) {
    const auto named = [&](std::initializer_list<const char*> names) {
        for (int c = 0; c < spec.nchannels; ++c)
            for (const char* name : names)
                if (spec.channelnames[static_cast<std::size_t>(c)] == name) return c;
        return -1;
    };
    Channels channels;
    const int r = named({"R", "r", "red"});
    const int g = named({"G", "g", "green"});
    const int b = named({"B", "b", "blue"});
    const int y = named({"Y", "y"});
    const int a = named({"A", "a", "alpha"});
    if (r >= 0 && g >= 0 && b >= 0) {
        channels.of = {g, b, r};
    } else if (spec.nchannels >= 3 && y < 0) {
        channels.of = {1, 2, 0};
    } else {
        channels.model = ColourModel::grey;
        channels.of = {y >= 0 ? y : 0};
    }
    if (a >= 0) {
        channels.alpha = true;
        channels.of.push_back(a);
    }
    for (int c = 0; c < spec.nchannels; ++c)
        if (std::find(channels.of.begin(), channels.of.end(), c) == channels.of.end())
            channels.others.push_back(spec.channelnames[static_cast<std::size_t>(c)]);
    return channels;
}

/// Kind and depth of the samples of the channels worked on; empty when they cannot be.
std::optional<std::pair<SampleKind, int>> samplesOf(const OIIO::ImageSpec& spec, const Channels& channels) {
    std::pair<SampleKind, int> kind{SampleKind::half, 16};
    for (const int c : channels.of) {
        switch (static_cast<OIIO::TypeDesc::BASETYPE>(spec.channelformat(c).basetype)) {
        case OIIO::TypeDesc::UINT8:
            return std::pair{SampleKind::integer, 8};
        case OIIO::TypeDesc::UINT16:
            return std::pair{SampleKind::integer, 16};
        case OIIO::TypeDesc::HALF:
            break;
        case OIIO::TypeDesc::FLOAT:
            kind = {SampleKind::real, 32};
            break;
        default:
            return std::nullopt;
        }
    }
    return kind;
}

/// "Z, mask.R, mask.G and 4 more"
std::string firstOf(const std::vector<std::string>& names) {
    constexpr std::size_t shown = 3;
    std::string text;
    for (std::size_t i = 0; i < std::min(shown, names.size()); ++i)
        text += (i == 0 ? "" : ", ") + names[i];
    if (names.size() > shown) text += " and " + std::to_string(names.size() - shown) + " more";
    return text;
}

MediaFacts factsOf(const std::filesystem::path& file, const OIIO::ImageSpec& spec) {
    const Channels channels = channelsOf(spec);
    const auto samples = samplesOf(spec, channels);
    if (!samples)
        throw Error(file.string() + " holds " + std::string(spec.format.c_str()) +
                    " samples, which are not worked on. Convert it to EXR, TIFF or PNG first.");
    MediaFacts f;
    f.path = file;
    f.container = "picture sequence";
    f.codec = lowerEnding(file).substr(1);
    // An EXR file may hold less or more than the picture it belongs to.
    f.width = spec.full_width;
    f.height = spec.full_height;
    f.rate = Rate(defaultSequenceRate, 1);
    f.scan = Scan::progressive;
    f.colour.fullRange = true;
    f.layout.model = channels.model;
    f.layout.alpha = channels.alpha;
    f.layout.samples = samples->first;
    f.layout.depth = samples->second;
    if (f.layout.isFloat()) f.colour.transfer = linearTransfer;
    f.pixelFormat = f.layout.describe();
    if (!channels.others.empty())
        f.remark = "Other channels are kept aside: " + firstOf(channels.others) + ".";
    const auto tooLarge = [](int w, int h) { return std::int64_t{w} * h > Image::maxPixels; };
    if (tooLarge(spec.width, spec.height) || tooLarge(f.width, f.height))
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

/// Takes the channels worked on out of interleaved `samples` of the whole file. What the file does not hold
/// of the picture stays black.
template <typename Sample>
void spread(const std::vector<Sample>& samples, const OIIO::ImageSpec& spec, Image& image) {
    const Channels channels = channelsOf(spec);
    const int left = spec.x - spec.full_x;
    const int top = spec.y - spec.full_y;
    const int firstX = std::max(0, left);
    const int endX = std::min(image.width(), left + spec.width);
    const int firstY = std::max(0, top);
    const int endY = std::min(image.height(), top + spec.height);
    const auto step = static_cast<std::size_t>(spec.nchannels);
    for (int p = 0; p < image.planeCount(); ++p) {
        const auto channel = static_cast<std::size_t>(channels.of[static_cast<std::size_t>(p)]);
        for (int y = firstY; y < endY; ++y) {
            const auto row = image.row<Sample>(p, y);
            const std::size_t line = static_cast<std::size_t>(y - top) * static_cast<std::size_t>(spec.width);
            for (int x = firstX; x < endX; ++x)
                row[static_cast<std::size_t>(x)] =
                    samples[(line + static_cast<std::size_t>(x - left)) * step + channel];
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
        spread(samples, spec, image);
    };
    withSampleType(facts.layout, [&](auto sample) {
        std::vector<decltype(sample)> samples;
        read(samples, OIIO::TypeDesc(OIIO::BaseTypeFromC<decltype(sample)>::value));
    });
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
        index.facts.remark += (index.facts.remark.empty() ? "" : " ") + std::to_string(missing.size()) +
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
