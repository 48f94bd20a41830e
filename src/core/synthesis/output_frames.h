// The output frames of a shot, for whoever shows or writes them.
#pragma once

#include "core/media/shot_frames.h"
#include "core/synthesis/frame_in_making.h"
#include "core/synthesis/frame_insight.h"
#include "core/time/frame_plan.h"

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

/// Output frames 0 to count() − 1 of one shot. Preview, comparison, try sheet, filmstrip, render and command
/// line all ask here; what is done to every frame after it is made wraps another one. Thread-safe.
///
///     std::shared_ptr<const OutputFrames> frames = readyShot(…).frames;
///     MadeFrame frame = frames->make(143);
class OutputFrames {
  public:
    OutputFrames() = default;
    virtual ~OutputFrames() = default;
    OutputFrames(const OutputFrames&) = delete;
    OutputFrames& operator=(const OutputFrames&) = delete;
    OutputFrames(OutputFrames&&) = delete;
    OutputFrames& operator=(OutputFrames&&) = delete;

    [[nodiscard]] virtual const FramePlan& plan() const = 0;
    [[nodiscard]] std::int64_t count() const { return static_cast<std::int64_t>(plan().rows.size()); }
    [[nodiscard]] const PlanRow& row(std::int64_t n) const {
        return plan().rows.at(static_cast<std::size_t>(n));
    }
    /// Size, layout, aspect and colour of output frames.
    [[nodiscard]] virtual const MediaFacts& facts() const = 0;
    /// The source frames they are made from.
    [[nodiscard]] virtual ShotFrames& source() const = 0;

    /// Equal for equal pictures; what is kept of an output frame is kept under it.
    [[nodiscard]] virtual std::string key(std::int64_t n) const = 0;
    /// An output frame to be made stage by stage.
    [[nodiscard]] virtual std::unique_ptr<FrameInMaking> begin(std::int64_t n) const = 0;
    /// All stages in one go, unless the frame was kept.
    [[nodiscard]] virtual MadeFrame make(std::int64_t n, const std::stop_token& stop) const = 0;
    [[nodiscard]] MadeFrame make(std::int64_t n) const { return make(n, {}); }
    /// The frame as it was kept on disk, if it was.
    [[nodiscard]] virtual std::optional<MadeFrame> kept(std::int64_t n) const = 0;
    /// Whether it seems to be kept; quicker.
    [[nodiscard]] virtual bool isKept(std::int64_t n) const = 0;
    /// The frame with the motion it was made by.
    [[nodiscard]] virtual FrameInsight insight(std::int64_t n, const std::stop_token& stop) const = 0;

    /// A source frame as it would be shown were it an output frame, so that it can be laid on one.
    [[nodiscard]] virtual ImagePtr sourceAsShown(std::int64_t frame, const std::stop_token& stop) const {
        return source().frame(frame, stop);
    }
    /// Equal for equal pictures of that kind.
    [[nodiscard]] virtual std::string keyOfSourceAsShown(std::int64_t frame) const {
        return source().identityOf(frame);
    }

    /// The same frames as a quick look.
    [[nodiscard]] virtual std::shared_ptr<const OutputFrames> drafts() const = 0;
    /// Whether a draft of the frame would be there much sooner than the frame.
    [[nodiscard]] virtual bool isDraftSooner(std::int64_t n) const = 0;

    /// What is wrong with the source frames that an output frame shows or is made from, by source frame.
    /// Known once it was read.
    [[nodiscard]] virtual std::map<std::int64_t, FrameTrouble> troublesOf(std::int64_t n) const = 0;
    /// The worst of it.
    [[nodiscard]] std::optional<FrameTrouble> worstTroubleOf(std::int64_t n) const;
    /// All files that frames are made from. Throws Error when they cannot be listed.
    [[nodiscard]] virtual std::vector<std::filesystem::path> inputFiles() const = 0;
    /// Why what was found could not be kept on disk, empty when all is well; it was used all the same.
    [[nodiscard]] virtual std::string keepingTrouble() const = 0;
};
using OutputFramesPtr = std::shared_ptr<const OutputFrames>;

} // namespace yarngap
