#include "core/mending/patched_frames.h"

#include "core/mending/patch_pictures.h"
#include "core/progress.h"

#include <algorithm>
#include <map>
#include <set>
#include <utility>

namespace yarngap {

struct PatchedFrames::Tools {
    std::shared_ptr<ShotFrames> source;
    std::shared_ptr<const CarriedOutlines> outlines;
    std::shared_ptr<const WhatLiesBehind> behind;
};

namespace {

bool isMade(const PlanRow& row) {
    return row.kind == FrameKind::flow || row.kind == FrameKind::blend;
}

using ByRow = std::vector<std::vector<std::size_t>>;

/// Which patches lie on which row: a sweep over the source axis, since both may be many.
ByRow patchesByRow(const FramePlan& plan, const std::vector<PatchAtWork>& patches) {
    std::map<std::int64_t, std::vector<std::size_t>> from; // from a gap on these
    {
        std::map<std::int64_t, std::pair<std::vector<std::size_t>, std::vector<std::size_t>>> places;
        for (std::size_t i = 0; i < patches.size(); ++i) {
            places[patches[i].gaps.first].first.push_back(i);
            places[patches[i].gaps.last + 1].second.push_back(i);
        }
        std::set<std::size_t> open;
        for (const auto& [gap, change] : places) {
            for (const std::size_t i : change.second)
                open.erase(i);
            open.insert(change.first.begin(), change.first.end());
            from.emplace(gap, std::vector<std::size_t>(open.begin(), open.end()));
        }
    }
    ByRow out(plan.rows.size());
    for (std::size_t r = 0; r < plan.rows.size(); ++r) {
        const PlanRow& row = plan.rows[r];
        auto at = from.upper_bound(row.position.frame);
        if (at == from.begin()) continue;
        for (const std::size_t i : std::prev(at)->second)
            if (isMade(row) || patches[i].patch.onOriginals) out[r].push_back(i);
    }
    return out;
}

} // namespace

PatchedFrames::PatchedFrames(OutputFramesPtr below, std::vector<PatchAtWork> patches, const PatchMeans& means)
    : below_(std::move(below))
    , patches_(std::make_shared<const std::vector<PatchAtWork>>(std::move(patches)))
    , byRow_(std::make_shared<const ByRow>(patchesByRow(below_->plan(), *patches_))) {
    const auto outlines =
        std::make_shared<const CarriedOutlines>(means.source, means.vectors, means.cuts, means.memory);
    tools_ = std::make_shared<const Tools>(
        Tools{means.source, outlines,
              std::make_shared<const WhatLiesBehind>(means.source, means.vectors, means.cuts, outlines)});
}

PatchedFrames::PatchedFrames(OutputFramesPtr below, std::shared_ptr<const std::vector<PatchAtWork>> patches,
                             std::shared_ptr<const Tools> tools, double scale)
    : below_(std::move(below))
    , patches_(std::move(patches))
    , tools_(std::move(tools))
    , byRow_(std::make_shared<const ByRow>(patchesByRow(below_->plan(), *patches_)))
    , scale_(scale) {}

Rational PatchedFrames::positionOf(std::int64_t n) const {
    const Position& position = below_->row(n).position;
    return Rational(position.frame) + position.phase;
}

std::string PatchedFrames::key(std::int64_t n) const {
    std::string key = below_->key(n);
    const Rational position = positionOf(n);
    for (const std::size_t i : of(n)) {
        const PatchAtWork& one = (*patches_)[i];
        const Patch& patch = one.patch;
        key += ":patch:" + std::string(name(patch.shows)) + ':' + position.toString() + ':' +
               std::to_string(patch.feather) + ':' +
               std::to_string(shareAt(patch, one.gaps.first, one.gaps.last + 1, position)) + ':' +
               tools_->outlines->key(patch, position);
        if (patch.shows == PatchShows::softened) key += ':' + std::to_string(patch.blur);
        if (patch.shows == PatchShows::behind) key += ':' + tools_->behind->key(position);
        if (one.otherwise) key += ':' + one.otherwise->key(n);
    }
    return key;
}

Image PatchedFrames::nearest(const Image& frame, std::int64_t n, const PatchAtWork& patch,
                             const PictureArea& place, const std::stop_token& stop) const {
    const PlanRow& row = below_->row(n);
    const Rational position = positionOf(n);
    const std::int64_t own = phaseOf(row) > Rational(1, 2) ? row.last : row.first;
    const auto here = tools_->outlines->at(patch.patch, position, stop);
    const auto there = tools_->outlines->at(patch.patch, Rational(own), stop);
    Similarity motion = fittedSimilarity(here, there, std::vector<double>(here.size(), 1.0));
    motion.dx *= scale_;
    motion.dy *= scale_;
    return withMoved(frame, *below_->source().frame(own, stop), place, motion);
}

void PatchedFrames::patch(Image& frame, std::int64_t n, std::size_t i, const Image* otherwise,
                          const std::stop_token& stop) const {
    throwIfStopped(stop);
    const PatchAtWork& one = (*patches_)[i];
    const Rational position = positionOf(n);
    const double share = shareAt(one.patch, one.gaps.first, one.gaps.last + 1, position);
    if (share <= 0) return;
    std::vector<PicturePoint> outline = tools_->outlines->at(one.patch, position, stop);
    for (PicturePoint& p : outline)
        p = {p.x * scale_, p.y * scale_};
    const auto scaled = [this](int pixels) { return static_cast<int>(pixels * scale_ + 0.5); };
    const SoftArea area = softAreaOf(outline, scaled(one.patch.feather), frame.width(), frame.height());
    if (area.place.empty()) return;
    switch (one.patch.shows) {
    case PatchShows::otherwise:
        if (otherwise) lay(frame, *otherwise, area, share);
        return;
    case PatchShows::softened:
        return lay(frame, softened(frame, area.place, scaled(one.patch.blur)), area, share);
    case PatchShows::nearest:
        return lay(frame, nearest(frame, n, one, area.place, stop), area, share);
    case PatchShows::behind:
        // A draft shows the frame without: its source frames are too small to look behind.
        if (scale_ == 1)
            lay(frame, tools_->behind->over(frame, one.patch, position, area.place, stop), area, share);
        return;
    }
}

/// A frame and those of its other versions, made together.
class PatchedFrames::InMaking final : public FrameInMaking {
  public:
    InMaking(std::shared_ptr<const PatchedFrames> frames, std::int64_t n)
        : frames_(std::move(frames))
        , n_(n)
        , below_(frames_->below_->begin(n)) {
        for (const std::size_t i : frames_->of(n))
            if (const auto& otherwise = (*frames_->patches_)[i].otherwise)
                others_.emplace(i, otherwise->begin(n));
    }
    void read(const std::stop_token& stop) override {
        kept_ = frames_->below_->kept(n_);
        if (!kept_) below_->read(stop);
        for (const auto& [i, other] : others_)
            other->read(stop);
    }
    void estimate(const std::stop_token& stop) override {
        if (!kept_) below_->estimate(stop);
        for (const auto& [i, other] : others_)
            other->estimate(stop);
    }
    MadeFrame finish(const std::stop_token& stop) override {
        MadeFrame made = kept_ ? *std::move(kept_) : below_->finish(stop);
        auto patched = std::make_shared<Image>(*made.image);
        for (const std::size_t i : frames_->of(n_)) {
            const auto other = others_.find(i);
            const ImagePtr version = other == others_.end() ? nullptr : other->second->finish(stop).image;
            frames_->patch(*patched, n_, i, version.get(), stop);
        }
        made.image = std::move(patched);
        return made;
    }

  private:
    std::shared_ptr<const PatchedFrames> frames_;
    std::int64_t n_;
    std::unique_ptr<FrameInMaking> below_;
    std::optional<MadeFrame> kept_; ///< the frame below, where it need not be made
    std::map<std::size_t, std::unique_ptr<FrameInMaking>> others_;
};

std::unique_ptr<FrameInMaking> PatchedFrames::begin(std::int64_t n) const {
    if (of(n).empty()) return below_->begin(n);
    // Cheap: all of it is shared.
    return std::make_unique<InMaking>(std::shared_ptr<const PatchedFrames>(new PatchedFrames(*this, Copy{})),
                                      n);
}

MadeFrame PatchedFrames::make(std::int64_t n, const std::stop_token& stop) const {
    MadeFrame made = below_->make(n, stop);
    if (of(n).empty()) return made;
    auto patched = std::make_shared<Image>(*made.image);
    for (const std::size_t i : of(n)) {
        const auto& otherwise = (*patches_)[i].otherwise;
        const ImagePtr version = otherwise ? otherwise->make(n, stop).image : nullptr;
        patch(*patched, n, i, version.get(), stop);
    }
    made.image = std::move(patched);
    return made;
}

FrameInsight PatchedFrames::insight(std::int64_t n, const std::stop_token& stop) const {
    FrameInsight insight = below_->insight(n, stop);
    if (!of(n).empty()) insight.image = make(n, stop).image;
    return insight;
}

OutputFramesPtr PatchedFrames::drafts() const {
    OutputFramesPtr below = below_->drafts();
    auto patches = *patches_;
    for (PatchAtWork& one : patches)
        if (one.otherwise) one.otherwise = one.otherwise->drafts();
    const double scale = static_cast<double>(below->facts().width) / tools_->source->facts().width;
    return std::shared_ptr<const PatchedFrames>(new PatchedFrames(
        std::move(below), std::make_shared<const std::vector<PatchAtWork>>(patches), tools_, scale));
}

bool PatchedFrames::isDraftSooner(std::int64_t n) const {
    return below_->isDraftSooner(n) || std::ranges::any_of(of(n), [&](std::size_t i) {
               const auto& otherwise = (*patches_)[i].otherwise;
               return otherwise && otherwise->isDraftSooner(n);
           });
}

std::map<std::int64_t, FrameTrouble> PatchedFrames::troublesOf(std::int64_t n) const {
    auto troubles = below_->troublesOf(n);
    for (const std::size_t i : of(n))
        if (const auto& otherwise = (*patches_)[i].otherwise) troubles.merge(otherwise->troublesOf(n));
    return troubles;
}

} // namespace yarngap
