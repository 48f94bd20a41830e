// The shot on screen: its frames, and what they are made from and with.
#pragma once

#include "app/window/preferences.h"
#include "core/shot/ready_shot.h"

#include <filesystem>
#include <memory>

namespace yarngap::app {

/// What is made once and shared by all that shows the current shot, and by renders: motion, finished frames,
/// decoded frames.
class ShownShot {
  public:
    explicit ShownShot(const Preferences& preferences);

    /// Opens the source frames of a shot along `axis`, unless they are open. Nothing is rebuilt across
    /// `cuts`, gaps of its interpreted frames. True when the frames are others than before.
    bool open(const std::shared_ptr<const MediaIndex>& index, const std::shared_ptr<const SourceAxis>& axis,
              const std::vector<std::int64_t>& cuts);
    /// Makes `shot` ready on them, with what was found in its pictures.
    void make(const Shot& shot, const GapFindings& found);
    /// Nothing is shown; what is open stays open.
    void clear() { shown_ = {}; }
    /// A version of the shot, on its footage and with what is found in it.
    [[nodiscard]] ReadyShot ready(const Shot& version) const;
    /// The frames of a file at the moments of the plan, whose source has this rate, finished as the shot is
    /// where they have its size.
    [[nodiscard]] OutputFramesPtr trueFrames(const std::shared_ptr<const MediaIndex>& index,
                                             const Rate& sourceRate);
    /// Memory and disk as preferred; what is open keeps its memory until it is opened anew.
    void setPreferences(const Preferences& preferences);
    /// Opens sources anew when they are next asked for.
    void reopen() { index_.reset(); }

    /// Null while nothing is shown.
    [[nodiscard]] const std::shared_ptr<const FramePlan>& plan() const { return shown_.plan; }
    [[nodiscard]] OutputFramesPtr frames() const { return shown_.frames; }
    /// The same before their finish.
    [[nodiscard]] OutputFramesPtr unfinished() const { return shown_.unfinished; }
    [[nodiscard]] const std::shared_ptr<const PlannedFrames>& planned() const { return shown_.planned; }
    [[nodiscard]] const Footage& footage() const { return footage_; }
    [[nodiscard]] const GapFindings& found() const { return found_; }
    /// How outlines of patches are carried along.
    [[nodiscard]] std::shared_ptr<const CarriedOutlines> outlines() const {
        return std::make_shared<const CarriedOutlines>(footage_.frames, vectors_, found_.cuts, outlines_);
    }
    [[nodiscard]] const std::shared_ptr<VectorStore>& vectors() const { return vectors_; }
    [[nodiscard]] const std::shared_ptr<FrameFolder>& finished() const { return finished_; }

  private:
    std::shared_ptr<VectorStore> vectors_;
    std::shared_ptr<RemakeErrors> remakes_ = std::make_shared<RemakeErrors>();
    std::shared_ptr<CarriedOutlines::Memory> outlines_ =
        std::make_shared<CarriedOutlines::Memory>(CarriedOutlines::memoryBytes);
    std::shared_ptr<FramesWithFinish::Memory> unfinished_;
    std::shared_ptr<FrameFolder> finished_; ///< null where there is no place for them
    std::size_t sourceBytes_;
    std::shared_ptr<const MediaIndex> index_;
    std::shared_ptr<FrameSource> source_;
    Footage footage_;                ///< source_ as interpreted and cleaned
    std::vector<std::int64_t> cuts_; ///< that frames of it were made by
    GapFindings found_;
    Finish finish_; ///< of the shot shown
    ReadyShot shown_;
    std::shared_ptr<const MediaIndex> comparedIndex_;
    std::shared_ptr<FrameSource> compared_;
};

} // namespace yarngap::app
