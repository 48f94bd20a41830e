// The files that a render writes.
#pragma once

#include "core/media/frame_writer.h"
#include "core/render/channel.h"
#include "core/render/render_options.h"
#include "core/render/render_part.h"

#include <array>
#include <cstdint>
#include <exception>
#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <thread>
#include <vector>

namespace yarngap {

/// What kind a written frame is.
enum class FrameTally { original, repeat, blend, flow, held, standIn };
inline constexpr std::size_t frameTallies = 6;
using FrameTallies = std::array<std::int64_t, frameTallies>;

/// Takes the frames of a render in order.
class RenderOutput {
  public:
    RenderOutput() = default;
    virtual ~RenderOutput() = default;
    RenderOutput(const RenderOutput&) = delete;
    RenderOutput& operator=(const RenderOutput&) = delete;
    RenderOutput(RenderOutput&&) = delete;
    RenderOutput& operator=(RenderOutput&&) = delete;

    /// What there is to be said of a frame.
    struct Story {
        FrameTally kind = FrameTally::original;
        double edgeScale = 1;
    };
    /// Frames that have to be made, in order. The same parts unless some of it is there already.
    [[nodiscard]] virtual const std::vector<RenderPart>& wanted() const = 0;
    /// Throws Error when the disk is full or encoding fails, Cancelled.
    virtual void write(const Image& image, const Story& story, const std::stop_token& stop) = 0;
    /// Gives the result its name. All of it is there then, or nothing. Where parts are joined, `onJoined`
    /// hears of the frames joined so far.
    virtual void finish(const std::function<void(std::int64_t)>& onJoined, const std::stop_token& stop) = 0;
    /// What frames that were there already are, by FrameTally, and the largest scale that hides their edges.
    [[nodiscard]] virtual FrameTallies tallies() const { return {}; }
    [[nodiscard]] virtual double edgeScale() const { return 1; }
    /// What differs from the ideal, a sentence each; complete once finished.
    [[nodiscard]] virtual std::vector<std::string> notes() const = 0;
    /// Written so far.
    [[nodiscard]] virtual std::int64_t bytes() const { return 0; }
};

/// Frames and sound of `parts` straight into the files of `options`. Destroyed before finish(), it leaves
/// nothing. Throws Error where a target is refused.
std::unique_ptr<RenderOutput> openOutput(const std::vector<RenderPart>& parts, const RenderOptions& options,
                                         const std::stop_token& stop);

/// The same by parts; see SliceUse. What is there already of the same frames is not made again.
std::unique_ptr<RenderOutput> openSlicedOutput(const std::vector<RenderPart>& parts,
                                               const RenderOptions& options, const std::stop_token& stop);

/// What a writer has to know for a target of a render; without its sound.
[[nodiscard]] WriterOptions writerOptions(const MediaFacts& frames, const RenderOptions& options,
                                          const RenderTarget& target);
/// The targets of `options`: its first one and those besides.
[[nodiscard]] std::vector<RenderTarget> targetsOf(const RenderOptions& options);
/// The files that a render writes or replaces. Throws Error when a folder cannot be listed.
[[nodiscard]] std::vector<std::filesystem::path> filesWritten(const RenderOptions& options,
                                                              std::int64_t frames);
/// The form of the sound that all targets can hold; absent where they get none. Throws Error.
[[nodiscard]] std::optional<SoundForm> writtenSoundForm(const std::vector<RenderPart>& parts,
                                                        const RenderOptions& options,
                                                        const std::stop_token& stop);

/// Sound made ahead by a thread of its own, handed to writers as their frames come.
class SoundTrackOut {
  public:
    SoundTrackOut(const std::vector<RenderPart>& parts, const RenderOptions& options, const SoundForm& form);

    /// Writes what is heard up to the end of frame `frames` − 1 of the file.
    void writeUpTo(std::int64_t frames, const std::vector<std::unique_ptr<FrameWriter>>& writers,
                   const std::stop_token& stop);

  private:
    /// The next stretch; silence behind the end. Throws what making it threw.
    void fetch(const std::stop_token& stop);

    SoundForm form_;
    Rate rate_;
    std::int64_t written_ = 0; ///< samples of one channel
    Sound stretch_;
    std::int64_t taken_ = 0; ///< of it
    bool ended_ = false;
    std::exception_ptr failure_; ///< set before the channel is closed
    Channel<Sound> ready_{1};
    std::jthread maker_; ///< last: ends before what it uses
};

} // namespace yarngap
