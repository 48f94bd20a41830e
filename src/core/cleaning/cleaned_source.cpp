#include "core/cleaning/cleaned_source.h"

#include "core/cleaning/filled_frames.h"
#include "core/cleaning/restored_places.h"
#include "core/progress.h"

#include <tbb/task_arena.h>

#include <algorithm>
#include <chrono>
#include <utility>

namespace yarngap {

namespace {

using Kind = FrameOrigin::Kind;

InBetweens thorough() {
    InBetweens settings;
    settings.flow.quality = FlowQuality::thorough;
    return settings;
}

std::shared_ptr<VectorStore> storeFor(const std::shared_ptr<VectorStore>& given) {
    return given ? given : std::make_shared<VectorStore>();
}

} // namespace

CleanedSource::CleanedSource(std::shared_ptr<ShotFrames> interpreted, Cleanup cleanup,
                             std::vector<FrameOrigin> origins, CleaningMeans means, std::size_t cacheBytes)
    : interpreted_(std::move(interpreted))
    , cleanup_(std::move(cleanup))
    , origins_(std::move(origins))
    , cuts_(std::move(means.cuts))
    , facts_(interpreted_->facts())
    , filled_(std::make_shared<FilledFrames>(interpreted_, cleanup_))
    , maker_(filled_, storeFor(means.vectors), thorough())
    , cache_(cacheBytes) {
    facts_.frames = static_cast<std::int64_t>(origins_.size());
    maker_.keepFinishedIn(std::move(means.finished));
    shown_.reserve(origins_.size());
    for (std::size_t n = 0; n < origins_.size(); ++n)
        shown_.push_back(origins_[n].kind == Kind::passedOver ? shown_.back() : static_cast<std::int64_t>(n));
}

PlanRow CleanedSource::inBetweenAt(const KeptAround& kept, const Rational& position) const {
    PlanRow row;
    row.kind = FrameKind::flow;
    row.method = Method::flow;
    row.first = kept.before;
    row.last = kept.after;
    row.position.frame = position.floor();
    row.position.phase = position - Rational(row.position.frame);
    row.bridged = row.last > row.first + 1;
    // Paths bend by what frames at the same distance tell.
    const std::int64_t apart = row.last - row.first;
    const auto isKeptToo = [this](std::int64_t frame, std::int64_t towards) {
        const std::int64_t low = std::min(frame, towards);
        const auto cut = std::lower_bound(cuts_.begin(), cuts_.end(), low);
        if (cut != cuts_.end() && *cut < std::max(frame, towards)) return false;
        const CleanupDecision* decision = cleanup_.about(frame);
        return !decision || isMadeFrom(*decision);
    };
    if (row.first >= apart && isKeptToo(row.first - apart, row.first)) row.before = row.first - apart;
    if (row.last + apart < interpreted_->frames() && isKeptToo(row.last + apart, row.last))
        row.after = row.last + apart;
    return row;
}

CleanedSource::Recipe CleanedSource::recipeOf(const FrameOrigin& origin) const {
    const std::int64_t n = origin.frame;
    const bool isPutIn = origin.kind == Kind::putIn;
    const std::int64_t frames = interpreted_->frames();
    const KeptAround kept =
        isPutIn ? keptBeside(cleanup_, n, frames, cuts_) : keptAround(cleanup_, n, frames, cuts_);
    if (kept.before < 0 || kept.after < 0) {
        const std::int64_t only = std::max(kept.before, kept.after);
        return {std::nullopt, only >= 0 ? only : n};
    }
    Rational position = Rational(n) + (isPutIn ? origin.phase : Rational(0));
    if (!isPutIn && origin.hasPhase)
        position = Rational(kept.before) + origin.phase * Rational(kept.after - kept.before);
    if (position == Rational(kept.before)) return {std::nullopt, kept.before};
    if (position == Rational(kept.after)) return {std::nullopt, kept.after};
    return {inBetweenAt(kept, position), n};
}

std::string CleanedSource::keyOf(const FrameOrigin& origin) const {
    const Recipe recipe = recipeOf(origin);
    std::string key =
        recipe.row ? "made " + maker_.contentKey(*recipe.row) : filled_->identityOf(recipe.standIn);
    if (origin.kind == Kind::restored)
        key = interpreted_->identityOf(origin.frame) + " with " +
              textOf(cleanup_.about(origin.frame)->places) + " of " + key;
    return key;
}

ImagePtr CleanedSource::frame(std::int64_t n, const std::stop_token& stop) {
    const FrameOrigin& origin = shownAt(n);
    if (!origin.isMade()) return interpreted_->frame(origin.frame, stop);
    const std::string key = keyOf(origin);
    if (auto hit = cache_.find(key)) return *hit;
    std::unique_lock lock(making_, std::defer_lock);
    while (!lock.try_lock_for(std::chrono::milliseconds(10)))
        throwIfStopped(stop);
    if (auto hit = cache_.find(key)) return *hit;
    ImagePtr image = made(origin, stop);
    cache_.insert(key, image, image->byteCount());
    return image;
}

ImagePtr CleanedSource::made(const FrameOrigin& origin, const std::stop_token& stop) {
    const Recipe recipe = recipeOf(origin);
    // While it waits for its own tasks, this thread must not take up others that wait for the lock it holds.
    ImagePtr image = tbb::this_task_arena::isolate([&] {
        return recipe.row ? maker_.make(*recipe.row, stop).image : filled_->frame(recipe.standIn, stop);
    });
    if (origin.kind != Kind::restored) return image;
    return std::make_shared<Image>(withPlacesFrom(*interpreted_->frame(origin.frame, stop), *image,
                                                  cleanup_.about(origin.frame)->places));
}

std::string CleanedSource::identityOf(std::int64_t first, std::int64_t last) const {
    // Frames in a row that are as they were are told as before, so that what was kept of them is found.
    std::string text;
    for (std::int64_t n = first; n <= last; ++n) {
        const FrameOrigin& begin = shownAt(n);
        if (n > first) text += ';';
        if (begin.isMade()) {
            text += keyOf(begin);
            continue;
        }
        std::int64_t end = begin.frame;
        while (n < last && !shownAt(n + 1).isMade() && shownAt(n + 1).frame == end + 1) {
            ++n;
            ++end;
        }
        text += interpreted_->identityOf(begin.frame, end);
    }
    return text;
}

std::optional<FrameTrouble> CleanedSource::troubleOf(std::int64_t n) const {
    const FrameOrigin& origin = shownAt(n);
    if (!origin.isMade()) return interpreted_->troubleOf(origin.frame);
    const Recipe recipe = recipeOf(origin);
    std::optional<FrameTrouble> worst;
    const auto consider = [&worst](const std::optional<FrameTrouble>& trouble) {
        if (trouble && (!worst || worst->kind < trouble->kind)) worst = trouble;
    };
    if (recipe.row)
        for (const auto& [frame, trouble] : maker_.troublesOf(*recipe.row))
            consider(trouble);
    else
        consider(interpreted_->troubleOf(recipe.standIn));
    if (origin.kind == Kind::restored) consider(interpreted_->troubleOf(origin.frame));
    return worst;
}

} // namespace yarngap
