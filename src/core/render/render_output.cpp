#include "core/render/render_output.h"

#include "core/error.h"
#include "core/media/sound_choice.h"
#include "core/media/written_check.h"
#include "core/progress.h"
#include "core/render/render_sound.h"

#include <algorithm>

namespace yarngap {

namespace {

class DirectOutput final : public RenderOutput {
  public:
    DirectOutput(const std::vector<RenderPart>& parts, const RenderOptions& options,
                 const std::stop_token& stop)
        : parts_(parts)
        , scan_(options.scan)
        , total_(framesWritten(options.scan, framesOf(parts))) {
        const MediaFacts& facts = parts.front().frames->facts();
        const auto form = writtenSoundForm(parts, options, stop);
        for (const RenderTarget& target : targetsOf(options)) {
            WriterOptions& told = told_.emplace_back(writerOptions(facts, options, target));
            told.sound = form;
            writers_.push_back(weavingInto(openWriter(told), scan_));
        }
        if (form) sound_ = std::make_unique<SoundTrackOut>(parts, options, *form);
    }

    [[nodiscard]] const std::vector<RenderPart>& wanted() const override { return parts_; }

    void write(const Image& image, const Story& /*story*/, const std::stop_token& stop) override {
        for (const auto& writer : writers_)
            writer->write(image);
        ++made_;
        if (sound_)
            sound_->writeUpTo(std::min(total_, made_ * framesWritten(scan_, framesOfPattern(scan_)) /
                                                   framesOfPattern(scan_)),
                              writers_, stop);
    }

    void finish(const std::function<void(std::int64_t)>& /*onJoined*/, const std::stop_token& stop) override {
        if (sound_) sound_->writeUpTo(total_, writers_, stop);
        for (std::size_t i = 0; i < writers_.size(); ++i) {
            writers_[i]->finish();
            for (std::string& note : writers_[i]->notes())
                add(std::move(note));
            for (std::string& note : differencesOfWritten(told_[i]))
                add(std::move(note));
        }
    }

    [[nodiscard]] std::vector<std::string> notes() const override { return notes_; }
    [[nodiscard]] std::int64_t bytes() const override {
        std::int64_t sum = 0;
        for (const auto& writer : writers_)
            sum += writer->bytes();
        return sum;
    }

  private:
    void add(std::string note) {
        if (std::ranges::count(notes_, note) == 0) notes_.push_back(std::move(note));
    }

    std::vector<RenderPart> parts_;
    OutputScan scan_;
    std::int64_t total_; ///< frames of the file
    std::int64_t made_ = 0;
    std::vector<WriterOptions> told_;
    std::vector<std::unique_ptr<FrameWriter>> writers_;
    std::unique_ptr<SoundTrackOut> sound_;
    std::vector<std::string> notes_;
};

} // namespace

std::vector<RenderTarget> targetsOf(const RenderOptions& options) {
    std::vector<RenderTarget> targets{{options.target, options.format, options.replace}};
    targets.insert(targets.end(), options.also.begin(), options.also.end());
    return targets;
}

WriterOptions writerOptions(const MediaFacts& frames, const RenderOptions& options,
                            const RenderTarget& target) {
    WriterOptions told{.target = target.file,
                       .format = target.format,
                       .rate = options.rate,
                       .width = frames.width,
                       .height = frames.height,
                       .layout = frames.layout,
                       .colour = frames.colour,
                       .pixelAspect = frames.pixelAspect,
                       .replace = target.replace};
    told.scan = scanOf(options.scan);
    told.timecode = options.timecode;
    told.reel = options.reel;
    told.firstNumber = options.firstNumber;
    return told;
}

std::vector<std::filesystem::path> filesWritten(const RenderOptions& options, std::int64_t frames) {
    std::vector<std::filesystem::path> files;
    for (const RenderTarget& target : targetsOf(options)) {
        if (!isSequence(target.format.format)) {
            files.push_back(target.file);
            continue;
        }
        for (std::int64_t n = 0; n < frames; ++n)
            files.push_back(sequenceName(target.file, options.firstNumber + n));
        for (const std::string& name : picturesThere(target.file))
            files.push_back(target.file.parent_path() / name);
        files.push_back(soundBeside(target.file));
    }
    return files;
}

std::optional<SoundForm> writtenSoundForm(const std::vector<RenderPart>& parts, const RenderOptions& options,
                                          const std::stop_token& stop) {
    if (options.sound == SoundUse::none) return std::nullopt;
    auto form = ownSoundForm(parts, stop);
    if (!form) return std::nullopt;
    if (options.usualSoundRate) form->rate = usualSoundRate;
    for (const RenderTarget& target : targetsOf(options))
        form = soundFormFor(soundCodecFor(target.format, target.file), *form);
    return form;
}

SoundTrackOut::SoundTrackOut(const std::vector<RenderPart>& parts, const RenderOptions& options,
                             const SoundForm& form)
    : form_(form)
    , rate_(options.rate) {
    RenderSound sound(parts, rateToMake(options.scan, options.rate), {.use = options.sound, .form = form});
    maker_ = std::jthread(
        [this, sound = std::move(sound), begin = options.onThreadStart](const std::stop_token& stop) mutable {
            if (begin) begin();
            try {
                while (auto stretch = sound.next(stop))
                    if (!ready_.push(std::move(*stretch), stop)) return;
            } catch (...) {
                failure_ = std::current_exception();
            }
            ready_.close();
        });
}

void SoundTrackOut::fetch(const std::stop_token& stop) {
    taken_ = 0;
    if (auto next = ready_.pop(stop)) {
        stretch_ = std::move(*next);
        return;
    }
    throwIfStopped(stop);
    if (failure_) std::rethrow_exception(failure_);
    ended_ = true;
}

void SoundTrackOut::writeUpTo(std::int64_t frames, const std::vector<std::unique_ptr<FrameWriter>>& writers,
                              const std::stop_token& stop) {
    const std::int64_t due = samplesBefore(frames, rate_, form_.rate);
    while (written_ < due) {
        if (taken_ == stretch_.length() && !ended_) {
            fetch(stop);
            continue;
        }
        Sound piece(std::min(due - written_, ended_ ? due - written_ : stretch_.length() - taken_), form_);
        if (!ended_) {
            const auto from = stretch_.samples.begin() + taken_ * form_.channels;
            std::copy_n(from, piece.samples.size(), piece.samples.begin());
            taken_ += piece.length();
        }
        for (const auto& writer : writers)
            writer->writeSound(piece);
        written_ += piece.length();
    }
}

std::unique_ptr<RenderOutput> openOutput(const std::vector<RenderPart>& parts, const RenderOptions& options,
                                         const std::stop_token& stop) {
    if (options.slices) return openSlicedOutput(parts, options, stop);
    return std::make_unique<DirectOutput>(parts, options, stop);
}

} // namespace yarngap
