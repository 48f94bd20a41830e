#include "app/window/shown_shot.h"

#include "core/memory_shares.h"
#include "core/time/true_frames.h"

namespace yarngap::app {

ShownShot::ShownShot(const Preferences& preferences)
    : vectors_(std::make_shared<VectorStore>(sharesOf(preferences.memoryBytes).vectors,
                                             vectorFolderOfUser(preferences.vectorDiskBytes)))
    , unfinished_(std::make_shared<FramesWithFinish::Memory>(sharesOf(preferences.memoryBytes).madeFrames))
    , finished_(frameFolderOfUser(preferences.frameDiskBytes))
    , sourceBytes_(sharesOf(preferences.memoryBytes).sourceFrames) {}

bool ShownShot::open(const std::shared_ptr<const MediaIndex>& index,
                     const std::shared_ptr<const SourceAxis>& axis, const std::vector<std::int64_t>& cuts) {
    if (index != index_) {
        index_ = index;
        source_ = std::make_shared<FrameSource>(index, sourceBytes_ * 2 / 3);
        footage_ = {};
    }
    const bool isSame = footage_.frames && axis->interpretation() == footage_.axis->interpretation() &&
                        axis->cleanup() == footage_.axis->cleanup();
    if (isSame && (axis->cleanup().empty() || cuts == cuts_)) return false;
    cuts_ = cuts;
    footage_ = footageOf(index, axis, source_, sourceBytes_ / 3,
                         {.vectors = vectors_, .finished = finished_, .cuts = cuts});
    return true;
}

void ShownShot::make(const Shot& shot, const GapFindings& found) {
    found_ = found;
    finish_ = shot.finish;
    shown_ = ready(shot);
}

ReadyShot ShownShot::ready(const Shot& version) const {
    return readyShot(version, footage_, found_,
                     {.vectors = vectors_,
                      .finished = finished_,
                      .remakes = remakes_,
                      .outlines = outlines_,
                      .unfinished = unfinished_,
                      .isFinal = false});
}

OutputFramesPtr ShownShot::trueFrames(const std::shared_ptr<const MediaIndex>& index,
                                      const Rate& sourceRate) {
    if (comparedIndex_ != index) {
        comparedIndex_ = index;
        compared_ = std::make_shared<FrameSource>(index, sourceBytes_ / 3);
    }
    auto moments = std::make_shared<FramePlan>(
        planOfTrueFrames(*plan(), sourceRate, index->facts.rate, compared_->frames()));
    const MediaFacts& own = footage_.axis->facts();
    const MediaFacts& theirs = compared_->facts();
    OutputFramesPtr frames = std::make_shared<const PlannedFrames>(
        std::move(moments), FrameMaker(compared_, vectors_, InBetweens{}));
    // Their places on the source axis are counted in another rate; what is held or keyed would go astray.
    const bool isPlain = finish_.places.size() < 2 && finish_.tones.size() < 2 && finish_.smears.empty() &&
                         !finish_.hold.isHolding() && !finish_.calm.isCalming();
    if (!finish_.isNothing() && isPlain && own.width == theirs.width && own.height == theirs.height)
        frames = std::make_shared<const FramesWithFinish>(frames, finish_);
    return frames;
}

void ShownShot::setPreferences(const Preferences& preferences) {
    const MemoryShares shares = sharesOf(preferences.memoryBytes);
    sourceBytes_ = shares.sourceFrames;
    vectors_->setByteLimit(shares.vectors);
    unfinished_->setByteLimit(shares.madeFrames);
    if (finished_) finished_->files().setByteLimit(preferences.frameDiskBytes);
    if (vectors_->folder()) vectors_->folder()->files().setByteLimit(preferences.vectorDiskBytes);
}

} // namespace yarngap::app
