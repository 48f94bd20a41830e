#include "core/error.h"
#include "core/image/scene_light.h"
#include "core/media/frame_source.h"
#include "core/media/media_identity.h"
#include "core/media/written_check.h"
#include "core/progress.h"
#include "core/render/render_output.h"
#include "core/render/slice_folder.h"
#include "core/time/timecode.h"

#include <algorithm>
#include <chrono>
#include <set>

namespace yarngap {

namespace {

using Clock = std::chrono::steady_clock;

constexpr int sRgbTransfer = 13; // as in ITU-T H.273

/// Files of one kind that each slice consists of.
struct Stream {
    RenderTarget like;                      ///< its file names the slice's files
    std::vector<RenderTarget> targets = {}; ///< that are made of it
    bool isIntermediate = false;            ///< to be coded again at the end
};

/// Intra formats are written as they will be; all others share one lossless stream.
std::vector<Stream> streamsOf(const RenderOptions& options) {
    std::vector<Stream> streams;
    Stream lossless{.like = {"between.mkv", OutputFormat::ffv1Mkv}, .isIntermediate = true};
    for (const RenderTarget& target : targetsOf(options)) {
        if (isIntra(target.format.format))
            streams.push_back({.like = target, .targets = {target}});
        else
            lossless.targets.push_back(target);
    }
    if (!lossless.targets.empty()) streams.push_back(lossless);
    return streams;
}

/// Tells the frames of a slice and how they are written.
std::string keyOf(const std::vector<RenderPart>& parts, const std::vector<Stream>& streams,
                  const RenderOptions& options, const Slice& slice) {
    std::string text = std::string(name(options.scan)) + options.rate.toString() + options.timecode +
                       options.reel + std::to_string(options.firstNumber) + ' ' + std::to_string(slice.first);
    for (const Stream& stream : streams) {
        const FormatChoice& f = stream.like.format;
        text += '\n' + std::string(shortName(f.format)) + stream.like.file.extension().string() + ' ' +
                std::to_string(f.quality.value_or(-1)) + ' ' + std::to_string(f.depth.value_or(0)) + ' ' +
                (f.chroma ? std::string(name(*f.chroma)) : "") + std::string(name(f.compression));
        if (isSequence(f.format)) text += stream.like.file.filename().string();
    }
    for (const RenderPart& part : cutOut(parts, slice.first, slice.end))
        for (std::int64_t n = part.first; n < part.end(); ++n)
            text += '\n' + part.frames->key(n);
    return std::to_string(hashOf(std::as_bytes(std::span(text))));
}

class SlicedOutput final : public RenderOutput {
  public:
    SlicedOutput(const std::vector<RenderPart>& parts, const RenderOptions& options,
                 const std::stop_token& stop)
        : parts_(parts)
        , options_(options)
        , use_(*options.slices)
        , folder_(use_.folder)
        , streams_(streamsOf(options))
        , slices_(slicesOf(framesOf(parts), use_.count, options.scan))
        , records_(slices_.size()) {
        if (use_.only && (*use_.only < 0 || *use_.only >= std::ssize(slices_)))
            throw Error("There are slices 0 to " + std::to_string(slices_.size() - 1) + "; " +
                        std::to_string(*use_.only) + " is none of them.");
        folder_.create();
        for (int n = 0; n < std::ssize(slices_); ++n) {
            throwIfStopped(stop);
            if (use_.only && n != *use_.only) continue;
            keys_[n] = keyOf(parts_, streams_, options_, slices_[at(n)]);
            records_[at(n)] = folder_.finished(n, keys_[n]);
            if (records_[at(n)]) continue;
            missing_.push_back(n);
            for (RenderPart& piece : cutOut(parts_, slices_[at(n)].first, slices_[at(n)].end))
                wanted_.push_back(std::move(piece));
        }
        if (use_.joinsOnly && !missing_.empty()) throw Error(missingSentence());
    }

    [[nodiscard]] const std::vector<RenderPart>& wanted() const override { return wanted_; }

    void write(const Image& image, const Story& story, const std::stop_token& stop) override {
        if (writers_.empty()) begin();
        for (const auto& writer : writers_)
            writer->write(image);
        ++current_.counts[static_cast<std::size_t>(story.kind)];
        current_.edgeScale = std::max(current_.edgeScale, story.edgeScale);
        if (++written_ == slices_[at(missing_[next_])].frames()) end(stop);
    }

    void finish(const std::function<void(std::int64_t)>& onJoined, const std::stop_token& stop) override {
        if (use_.only) return;
        for (int n = 0; n < std::ssize(slices_); ++n)
            folder_.verify(n, *records_[at(n)], stop);
        for (std::size_t i = 0; i < streams_.size(); ++i)
            for (const RenderTarget& target : streams_[i].targets)
                join(static_cast<int>(i), target, onJoined, stop);
        if (!folder_.remove())
            notes_.push_back("The result is complete, but its parts cannot be taken away. Delete " +
                             folder_.path().string() + ".");
    }

    [[nodiscard]] FrameTallies tallies() const override {
        FrameTallies sum{};
        for (int n = 0; n < std::ssize(slices_); ++n) {
            if (!records_[at(n)] || std::ranges::count(missing_, n) > 0) continue;
            for (std::size_t i = 0; i < std::min(sum.size(), records_[at(n)]->counts.size()); ++i)
                sum[i] += records_[at(n)]->counts[i];
        }
        return sum;
    }
    [[nodiscard]] double edgeScale() const override {
        double largest = 1;
        for (const std::optional<SliceRecord>& record : records_)
            if (record) largest = std::max(largest, record->edgeScale);
        return largest;
    }
    [[nodiscard]] std::vector<std::string> notes() const override { return notes_; }
    [[nodiscard]] std::int64_t bytes() const override {
        std::int64_t sum = bytes_;
        for (const auto& writer : writers_)
            sum += writer->bytes();
        return sum;
    }

  private:
    static std::size_t at(int n) { return static_cast<std::size_t>(n); }

    [[nodiscard]] std::string missingSentence() const {
        constexpr std::size_t told = 8;
        std::string list;
        for (std::size_t i = 0; i < std::min(told, missing_.size()); ++i)
            list += (i > 0 ? ", " : "") + std::to_string(missing_[i]);
        if (missing_.size() > told) list += " and " + std::to_string(missing_.size() - told) + " more";
        return std::string(missing_.size() == 1 ? "Slice " : "Slices ") + list +
               (missing_.size() == 1 ? " is" : " are") + " missing in " + folder_.path().string() +
               ", damaged, or of another version of the shots. Make " +
               (missing_.size() == 1 ? "it" : "them") + " with --slice, then join again.";
    }

    [[nodiscard]] std::int64_t firstWritten(int n) const {
        return framesWritten(options_.scan, slices_[at(n)].first);
    }

    /// How the files of a stream are written.
    [[nodiscard]] WriterOptions optionsFor(int n, int stream) const {
        const Stream& of = streams_[at(stream)];
        WriterOptions told = writerOptions(parts_.front().frames->facts(), options_, of.like);
        const bool sequence = isSequence(of.like.format.format);
        told.target = folder_.place(n, stream, of.like.file, sequence);
        told.replace = true;
        told.firstNumber = options_.firstNumber + firstWritten(n);
        if (!sequence) told.timecode.clear(); // of the joined file alone
        if (const Timecode clock(options_.rate, isDropFrame(options_.timecode)); !told.timecode.empty())
            told.timecode = clock.format(*clock.parse(options_.timecode) + firstWritten(n));
        if (of.isIntermediate) told.scan = Scan::progressive;
        return told;
    }

    void begin() {
        const int n = missing_[next_];
        current_ = {
            .key = keys_[n], .files = {}, .counts = std::vector<std::int64_t>(frameTallies), .notes = {}};
        written_ = 0;
        begun_ = Clock::now();
        for (int i = 0; i < std::ssize(streams_); ++i)
            writers_.push_back(weavingInto(openWriter(optionsFor(n, i)), options_.scan));
    }

    void end(const std::stop_token& stop) {
        const int n = missing_[next_];
        current_.frames = framesWritten(options_.scan, slices_[at(n)].frames());
        for (int i = 0; i < std::ssize(streams_); ++i) {
            writers_[at(i)]->finish();
            bytes_ += writers_[at(i)]->bytes();
            if (!streams_[at(i)].isIntermediate)
                for (std::string& note : writers_[at(i)]->notes())
                    current_.notes.push_back(std::move(note));
            const WriterOptions told = optionsFor(n, i);
            const auto add = [&](const std::filesystem::path& file) {
                current_.files.push_back({file.lexically_relative(folder_.path()).generic_string()});
            };
            if (!isSequence(told.format.format)) {
                add(told.target);
            } else {
                for (std::int64_t f = 0; f < current_.frames; ++f)
                    add(sequenceName(told.target, told.firstNumber + f));
            }
        }
        writers_.clear();
        current_.seconds = std::chrono::duration<double>(Clock::now() - begun_).count();
        folder_.finish(n, current_, stop);
        records_[at(n)] = folder_.finished(n, keys_[n]);
        if (!records_[at(n)])
            throw Error("Slice " + std::to_string(n) + " in " + folder_.path().string() +
                        " changed while it was written. Make it again.");
        for (std::string& note : current_.notes)
            add(std::move(note));
        ++next_;
    }

    void join(int stream, const RenderTarget& target, const std::function<void(std::int64_t)>& onJoined,
              const std::stop_token& stop) {
        const Stream& of = streams_[at(stream)];
        WriterOptions told = writerOptions(parts_.front().frames->facts(), options_, target);
        if (of.isIntermediate && told.layout.isFloat()) {
            told.layout = encodedLayout(told.layout);
            told.colour.transfer = sRgbTransfer;
            add("Light of the scene is encoded as sRGB and cut off at white: " +
                std::string(name(target.format.format)) + " holds no floats. An EXR sequence does.");
        }
        told.sound = writtenSoundForm(parts_, options_, stop);
        std::vector<std::unique_ptr<FrameWriter>> writer;
        writer.push_back(openWriter(told));
        std::unique_ptr<SoundTrackOut> sound;
        if (told.sound) sound = std::make_unique<SoundTrackOut>(parts_, options_, *told.sound);
        std::int64_t joined = 0;
        const auto each = [&] {
            ++joined;
            if (sound) sound->writeUpTo(joined, writer, stop);
            if (onJoined) onJoined(joined);
        };
        for (int n = 0; n < std::ssize(slices_); ++n) {
            const std::filesystem::path file =
                folder_.place(n, stream, of.like.file, isSequence(of.like.format.format));
            if (of.isIntermediate)
                encodeAgain(file, n, *writer.front(), each, stop);
            else
                writer.front()->copy(file, records_[at(n)]->frames, each, stop);
        }
        writer.front()->finish();
        for (std::string& note : writer.front()->notes())
            add(std::move(note));
        for (std::string& note : differencesOfWritten(told))
            add(std::move(note));
    }

    void encodeAgain(const std::filesystem::path& file, int n, FrameWriter& writer,
                     const std::function<void()>& each, const std::stop_token& stop) {
        constexpr std::size_t cacheBytes = std::size_t{16} << 20;
        const auto index = std::make_shared<const MediaIndex>(buildIndex(file, {}, stop));
        if (index->frames() != records_[at(n)]->frames)
            throw Error("Slice " + std::to_string(n) + " holds " + std::to_string(index->frames()) +
                        " frames, not " + std::to_string(records_[at(n)]->frames) + ". Make it again.");
        FrameSource source(index, cacheBytes);
        for (std::int64_t f = 0; f < index->frames(); ++f) {
            writer.write(*source.frame(f, stop));
            each();
        }
    }

    void add(std::string note) {
        if (std::ranges::count(notes_, note) == 0) notes_.push_back(std::move(note));
    }

    std::vector<RenderPart> parts_;
    RenderOptions options_;
    SliceUse use_;
    SliceFolder folder_;
    std::vector<Stream> streams_;
    std::vector<Slice> slices_;
    std::vector<std::optional<SliceRecord>> records_; ///< of the slices that are complete
    std::map<int, std::string> keys_;
    std::vector<int> missing_;
    std::vector<RenderPart> wanted_;
    std::size_t next_ = 0; ///< in missing_, of the slice that is being written
    std::vector<std::unique_ptr<FrameWriter>> writers_;
    SliceRecord current_;
    std::int64_t written_ = 0; ///< made frames of that slice
    std::int64_t bytes_ = 0;
    Clock::time_point begun_;
    std::vector<std::string> notes_;
};

} // namespace

std::unique_ptr<RenderOutput> openSlicedOutput(const std::vector<RenderPart>& parts,
                                               const RenderOptions& options, const std::stop_token& stop) {
    return std::make_unique<SlicedOutput>(parts, options, stop);
}

} // namespace yarngap
