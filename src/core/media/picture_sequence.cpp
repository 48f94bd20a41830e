#include "core/media/picture_sequence.h"

#include "core/error.h"
#include "core/image/sample_types.h"
#include "core/media/media_identity.h"
#include "core/media/numbered_names.h"
#include "core/media/picture_file.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <cctype>
#include <optional>
#include <set>
#include <utility>
#include <vector>

namespace yarngap {

namespace {

constexpr std::size_t mostFrames = 1'000'000;
constexpr int linearTransfer = 8; // as in ITU-T H.273

/// Places of the channels that are worked on among all of a file, in the order of our planes: G B R A, or
/// grey, or grey and alpha.
struct Channels {
    std::vector<int> of;
    ColourModel model = ColourModel::rgb;
    bool alpha = false;
    std::vector<std::string> others;
};

/// EXR files name their channels, and may hold many; elsewhere the first four count.
Channels channelsOf(const PictureHead& head) {
    const auto named = [&](std::initializer_list<const char*> names) {
        for (int c = 0; c < head.channelCount(); ++c)
            for (const char* name : names)
                if (head.channels[static_cast<std::size_t>(c)] == name) return c;
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
    } else if (head.channelCount() >= 3 && y < 0) {
        channels.of = {1, 2, 0};
    } else {
        channels.model = ColourModel::grey;
        channels.of = {y >= 0 ? y : 0};
    }
    if (a >= 0) {
        channels.alpha = true;
        channels.of.push_back(a);
    }
    for (int c = 0; c < head.channelCount(); ++c)
        if (std::find(channels.of.begin(), channels.of.end(), c) == channels.of.end())
            channels.others.push_back(head.channels[static_cast<std::size_t>(c)]);
    return channels;
}

/// Kind and depth of the samples of the channels worked on; empty when they cannot be.
std::optional<std::pair<SampleKind, int>> samplesOf(const PictureHead& head, const Channels& channels) {
    std::pair<SampleKind, int> kind{SampleKind::half, 16};
    for (const int c : channels.of) {
        switch (head.sampleOf(c)) {
        case PictureSample::byte:
            return std::pair{SampleKind::integer, 8};
        case PictureSample::word:
            return std::pair{SampleKind::integer, 16};
        case PictureSample::half:
            break;
        case PictureSample::real:
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

/// Headers of DPX hold text, those of EXR packed decimals (SMPTE ST 12-1).
std::string timecodeOf(const PictureHead& head) {
    if (const std::string text = head.text("dpx:TimeCode"); !text.empty()) return tidyTimecode(text);
    const auto at = head.values.find("smpte:TimeCode");
    const auto* packed =
        at == head.values.end() ? nullptr : std::get_if<std::array<unsigned, 2>>(&at->second);
    if (!packed) return {};
    const unsigned bits = packed->front();
    constexpr unsigned dropFrame = 1U << 6U;
    const auto decimals = [bits](unsigned shift, unsigned tens) {
        return std::to_string(bits >> (shift + 4U) & tens) + std::to_string(bits >> shift & 15U);
    };
    return tidyTimecode(decimals(24, 3) + ':' + decimals(16, 7) + ':' + decimals(8, 7) +
                        ((bits & dropFrame) != 0 ? ';' : ':') + decimals(0, 3));
}

MediaFacts factsOf(const std::filesystem::path& file, const PictureHead& head) {
    const Channels channels = channelsOf(head);
    const auto samples = samplesOf(head, channels);
    if (!samples)
        throw Error(file.string() + " holds " + head.sampleName +
                    " samples, which are not worked on. Convert it to EXR, TIFF or PNG first.");
    MediaFacts f;
    f.path = file;
    f.container = "picture sequence";
    f.codec = file.extension().string().substr(1);
    std::transform(f.codec.begin(), f.codec.end(), f.codec.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    // An EXR file may hold less or more than the picture it belongs to.
    f.width = head.fullWidth;
    f.height = head.fullHeight;
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
    if (const float aspect = head.number("PixelAspectRatio", 1.0F); aspect > 0.1F && aspect < 10.0F)
        f.pixelAspect = Rational(static_cast<std::int64_t>(aspect * 1000 + 0.5F), 1000);
    f.timecode = timecodeOf(head);
    f.reel = tidyReel(head.text(f.codec == "dpx" ? "dpx:InputDevice" : "reelName"));
    return f;
}

bool suits(const MediaFacts& a, const MediaFacts& b) {
    return a.width == b.width && a.height == b.height && a.layout == b.layout;
}

/// The channels worked on, and the smallest range of a file's channels that holds them.
struct ChannelRange {
    Channels channels;
    int first = 0, end = 0;

    explicit ChannelRange(const PictureHead& head)
        : channels(channelsOf(head)) {
        const auto [least, most] = std::minmax_element(channels.of.begin(), channels.of.end());
        first = *least;
        end = *most + 1;
    }
};

/// Takes the channels worked on out of some rows. What the file holds beyond the picture is left out.
template <typename Sample>
void spread(const PictureFile::Rows& rows, const PictureHead& head, const ChannelRange& range, Image& image) {
    const auto* samples = static_cast<const Sample*>(rows.samples);
    // In 64 bit: both windows of a damaged file may lie anywhere.
    const std::int64_t left = std::int64_t{head.x} - head.fullX;
    const std::int64_t top = std::int64_t{head.y} - head.fullY;
    const std::int64_t firstX = std::max<std::int64_t>(0, left);
    const std::int64_t endX = std::min<std::int64_t>(image.width(), left + head.width);
    const auto step = static_cast<std::size_t>(range.end - range.first);
    for (int p = 0; p < image.planeCount(); ++p) {
        const auto channel =
            static_cast<std::size_t>(range.channels.of[static_cast<std::size_t>(p)] - range.first);
        for (int row = rows.top; row < rows.bottom; ++row) {
            const std::int64_t y = top + row;
            if (y < 0 || y >= image.height()) continue;
            const auto to = image.row<Sample>(p, static_cast<int>(y));
            const std::size_t line =
                static_cast<std::size_t>(row - rows.top) * static_cast<std::size_t>(head.width);
            for (std::int64_t x = firstX; x < endX; ++x)
                to[static_cast<std::size_t>(x)] =
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

template <typename Sample>
PictureSample sampleLike(const PixelLayout& layout) {
    if (layout.isFloat()) return PictureSample::real;
    return sizeof(Sample) == 1 ? PictureSample::byte : PictureSample::word;
}

} // namespace

MediaFacts pictureFacts(const std::filesystem::path& file, const std::shared_ptr<ReadingThread>& reading,
                        const std::stop_token& stop) {
    PictureFile picture(file, reading, stop);
    MediaFacts facts = factsOf(file, picture.head());
    if (picture.holdsSeveral())
        facts.remark += (facts.remark.empty() ? "" : " ") +
                        std::string("The file holds several pictures; the first is used.");
    return facts;
}

Image readPicture(const std::filesystem::path& file, const MediaFacts& facts,
                  const std::shared_ptr<ReadingThread>& reading, const std::stop_token& stop) {
    PictureFile picture(file, reading, stop);
    const PictureHead& head = picture.head();
    if (!suits(factsOf(file, head), facts))
        throw Error(file.string() + " is of another size or kind than the rest of its sequence.");
    const ChannelRange range(head);
    Image image; // made when the first rows could be read, since a damaged file may claim any size
    withSampleType(facts.layout, [&](auto sample) {
        using Sample = decltype(sample);
        picture.read(range.first, range.end, sampleLike<Sample>(facts.layout),
                     [&](const PictureFile::Rows& rows) {
                         if (image.empty()) image = Image(facts.width, facts.height, facts.layout);
                         spread<Sample>(rows, head, range, image);
                     });
    });
    return image;
}

std::filesystem::path firstPictureOf(const std::filesystem::path& picked, const std::stop_token& stop) {
    std::error_code ec;
    if (std::filesystem::exists(picked, ec) || picked.filename().string().find('#') == std::string::npos)
        return picked;
    ReadingThread reading;
    return filesOf(picked, reading, stop).files.begin()->second;
}

std::vector<std::filesystem::path> oneOfEachSequence(const std::vector<std::filesystem::path>& files) {
    std::vector<std::filesystem::path> kept;
    std::set<std::filesystem::path> seen;
    for (const std::filesystem::path& file : files) {
        if (!isPictureFile(file)) {
            kept.push_back(file);
            continue;
        }
        std::set<std::filesystem::path> patterns;
        for (const NumberInName& number : numbersIn(file.filename().string()))
            patterns.insert(file.parent_path() / (number.before + '#' + number.after));
        const bool known = std::any_of(patterns.begin(), patterns.end(),
                                       [&](const std::filesystem::path& p) { return seen.contains(p); });
        if (!known) kept.push_back(file);
        seen.insert(patterns.begin(), patterns.end());
    }
    return kept;
}

namespace {

/// What is told of files that are not used, after what is told already.
void addRemark(std::string& remark, std::size_t count, const char* one, const char* more,
               const std::string& which) {
    if (count == 0) return;
    remark += (remark.empty() ? "" : " ") + std::to_string(count) + ' ' + (count == 1 ? one : more) + which;
}

} // namespace

MediaIndex buildSequenceIndex(const std::filesystem::path& picked, const Progress& progress,
                              const std::stop_token& stop) {
    const auto reading = std::make_shared<ReadingThread>();
    NumberedFiles found = filesOf(picked, *reading, stop);
    const auto& files = found.files;
    MediaIndex index;
    std::error_code ec;
    const bool own = std::filesystem::exists(picked, ec);
    index.facts = pictureFacts(own ? picked : files.begin()->second, reading, stop);
    index.facts.path = picked;
    const std::int64_t first = files.begin()->first;
    const auto span = static_cast<std::uint64_t>(files.rbegin()->first - first) + 1;
    if (span > mostFrames || span > files.size() * 100 + 100)
        throw Error("The numbers of the pictures beside " + picked.string() +
                    " have gaps too wide for one sequence. Put other files elsewhere.");
    std::vector<std::int64_t> missing;
    std::vector<std::int64_t> unfit;
    std::size_t done = 0;
    for (std::size_t n = 0; n < span; ++n) {
        throwIfStopped(stop);
        const auto number = first + static_cast<std::int64_t>(n);
        const auto at = files.find(number);
        std::filesystem::path file;
        FileEdition edition;
        PacketEntry entry;
        entry.pts = static_cast<std::int64_t>(n);
        entry.key = true;
        entry.shownAs = static_cast<std::int32_t>(n);
        if (at == files.end()) {
            missing.push_back(number);
        } else {
            try {
                edition = editionOf(at->second).value_or(FileEdition{});
                if (suits(pictureFacts(at->second, reading, stop), index.facts))
                    file = at->second;
                else
                    unfit.push_back(number);
            } catch (const Cancelled&) {
                throw;
            } catch (const SourceLost&) {
                throw;
            } catch (const Error&) {
                unfit.push_back(number);
            }
            entry.size = static_cast<std::int32_t>(std::min<std::int64_t>(edition.bytes, INT32_MAX));
            index.facts.fileBytes += edition.bytes;
            if (progress) progress(static_cast<double>(++done) / static_cast<double>(files.size()));
        }
        index.packets.push_back(entry);
        index.displayPacket.push_back(static_cast<std::int32_t>(n));
        index.pictures.push_back(std::move(file));
        index.pictureEditions.push_back(edition);
    }
    index.timeBase = Rational(1, defaultSequenceRate);
    std::string& remark = index.facts.remark;
    addRemark(remark, missing.size(), "picture is", "pictures are",
              " missing: number " + listed(missing) + ". The nearest one stands in.");
    addRemark(remark, unfit.size(), "picture is", "pictures are",
              " unreadable or of another size or kind: number " + listed(unfit) + '.');
    if (!found.leftOut.empty())
        addRemark(
            remark, found.leftOut.size(), "picture is", "pictures are",
            " left out, because another has the same number: " + found.leftOut.front().filename().string() +
                (found.leftOut.size() == 1 ? "." : " and more."));
    index.facts.frames = index.frames();
    index.facts.indexed = true;
    index.identity = mediaIdentity(index);
    index.edition = mediaEdition(index);
    return index;
}

} // namespace yarngap
