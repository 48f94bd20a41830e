// Rendering a whole plan to a file.
#pragma once

#include "core/progress.h"
#include "core/render/render_options.h"
#include "core/render/render_part.h"

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

struct RenderProgress {
    std::int64_t done = 0;   ///< frames written
    std::int64_t total = 0;  ///< frames promised by the plan
    std::int64_t bytes = 0;  ///< written so far, of all targets; 0 while unknown
    bool joining = false;    ///< all frames are made, and their parts are being joined
    double secondsLeft = -1; ///< from the speed of the last frames; below 0 while unknown
};

/// What happened.
struct RenderReport {
    std::int64_t frames = 0; ///< frames in the file
    std::int64_t originals = 0;
    std::int64_t repeats = 0;
    std::int64_t blends = 0;
    std::int64_t flows = 0;
    std::int64_t held = 0;
    /// Frames of any kind that show, or are made from, another source frame than they should, since that
    /// cannot be decoded. They are not counted above.
    std::int64_t standIns = 0;
    std::int64_t resumed = 0;  ///< of all these, frames that an earlier run had finished
    std::int64_t finished = 0; ///< of all these, frames that were kept from before and only read
    double edgeScale =
        1;              ///< scale about the middle that hides edges which no source frame has, of all frames
    double seconds = 0; ///< wall clock
    double readSeconds = 0; ///< busy time of each stage, of all its threads; they overlap
    double estimateSeconds = 0;
    double synthesiseSeconds = 0;
    double writeSeconds = 0;
    bool hasSound = false;
    std::vector<std::string> notes; ///< what differs from the ideal, a sentence each
};

/// One render: reading, making and writing side by side, each on threads of its own, with short queues
/// between them. Several gaps are made at once, each on one thread (see lanesFor), and their frames written
/// in order.
///
/// Stopping returns from `run` within 100 ms even in the middle of a long estimation, with nothing left on
/// disk; the thread that was in it is joined by the destructor.
///
///     RenderJob job({{"slow", ready.frames}}, {.target = "slow.mkv", .rate = Rate(24, 1)});
///     RenderReport report = job.run(onProgress, stopSource.get_token());
class RenderJob {
  public:
    using OnProgress = std::function<void(const RenderProgress&)>;

    /// All parts as one file. They must be alike in size, layout and pixel aspect, and their plans made for
    /// `options.rate`; `run` throws Error naming the part that is not, or whose range is outside its plan.
    RenderJob(std::vector<RenderPart> parts, RenderOptions options);
    ~RenderJob();
    RenderJob(const RenderJob&) = delete;
    RenderJob& operator=(const RenderJob&) = delete;
    RenderJob(RenderJob&&) = delete;
    RenderJob& operator=(RenderJob&&) = delete;

    /// Runs to the end; call once. Throws Undecodable where that is to stop it, SourceLost when a source is
    /// gone, changed or cannot be read, Error (target refused, disk full …) or Cancelled. Then nothing is
    /// written. `onProgress` is called from the writing thread after every frame.
    RenderReport run(const OnProgress& onProgress = {}, const std::stop_token& stop = {});

  private:
    class Pipeline;
    std::unique_ptr<Pipeline> pipeline_;
};

} // namespace yarngap
