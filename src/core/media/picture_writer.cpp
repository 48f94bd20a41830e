#include "core/error.h"
#include "core/files/new_file.h"
#include "core/files/new_sequence.h"
#include "core/media/muxer.h"
#include "core/media/picture_form.h"
#include "core/media/sound_choice.h"
#include "core/media/sound_encoder.h"
#include "core/media/video_writer.h"
#include "core/progress.h"
#include "core/time/timecode.h"

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
    const std::filesystem::path sound = soundBeside(options.target);
    if (options.sound && std::filesystem::exists(sound)) {
        if (!options.replace)
            throw Error(sound.string() + " would be replaced. Allow that (--replace on the command line), or "
                                         "choose another name.");
        there.push_back(sound.filename().string());
    }
    return there;
}

/// Sound in a file of its own.
class WavFile {
  public:
    WavFile(const std::filesystem::path& place, const SoundForm& form)
        : muxer_(place, "wav")
        , encoder_(form, SoundCodec::pcm, false)
        , stream_(muxer_.addStream(encoder_.context())) {
        muxer_.begin({{"rf64", "auto"}}); // beyond 4 GB
    }
    void write(const Sound& sound) {
        encoder_.encode(sound, [this](AVPacket& packet) { take(packet); });
    }
    void finish() {
        encoder_.finish([this](AVPacket& packet) { take(packet); });
        muxer_.finish();
    }

  private:
    void take(AVPacket& packet) { muxer_.write(packet, stream_, encoder_.context().time_base); }

    Muxer muxer_;
    SoundEncoder encoder_;
    AVStream& stream_;
};

class PictureWriter final : public FrameWriter {
  public:
    explicit PictureWriter(const WriterOptions& options)
        : options_(options)
        , files_(options.target.parent_path(), replacedBy(options))
        , next_(options.firstNumber)
        , timecode_(options.rate, options.timecode.find(';') != std::string::npos)
        , started_(timecode_.parse(options.timecode)) {
        if (!options.sound) return;
        static_cast<void>(soundCodecFor(options.format, options.target));
        sound_ = std::make_unique<WavFile>(files_.placeFor(soundBeside(options.target).filename().string()),
                                           *options.sound);
    }

    void write(const Image& image) override {
        const auto target = sequenceName(options_.target, next_);
        NewFile file(files_.placeFor(target.filename().string()), target);
        file.setSynced(false); // finish() waits for all at once
        const std::string timecode =
            started_ ? timecode_.format(*started_ + next_ - options_.firstNumber) : std::string();
        writePictureOf(image, options_, timecode, file);
        bytes_ += file.bytes();
        file.finish();
        ++next_;
    }
    void writeSound(const Sound& sound) override { sound_->write(sound); }

    void copy(const std::filesystem::path& part, std::int64_t frames, const std::function<void()>& each,
              const std::stop_token& stop) override {
        for (std::int64_t i = 0; i < frames; ++i, ++next_) {
            throwIfStopped(stop);
            const std::filesystem::path from = sequenceName(part, next_);
            const auto to = files_.placeFor(sequenceName(options_.target, next_).filename().string());
            std::error_code ec;
            std::filesystem::create_hard_link(from, to, ec);
            if (ec) std::filesystem::copy_file(from, to, ec); // a disk without links
            if (ec)
                throw Error(from.string() + " cannot be joined (" + ec.message() +
                            "). Make that part again, or free some space.");
            bytes_ += static_cast<std::int64_t>(std::filesystem::file_size(to, ec));
            each();
        }
    }

    void finish() override {
        if (sound_) sound_->finish();
        files_.finish();
    }

    [[nodiscard]] std::int64_t bytes() const override { return bytes_; }
    [[nodiscard]] std::vector<std::string> notes() const override { return lossesOfPictures(options_); }

  private:
    WriterOptions options_;
    NewSequence files_;
    std::unique_ptr<WavFile> sound_; // gone before the folder it lies in
    std::int64_t next_;
    std::int64_t bytes_ = 0;
    Timecode timecode_;
    std::optional<std::int64_t> started_;
};

} // namespace

std::unique_ptr<FrameWriter> openPictureWriter(const WriterOptions& options) {
    return std::make_unique<PictureWriter>(options);
}

} // namespace yarngap
