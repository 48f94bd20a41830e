#include "app/preview.h"

#include "app/background_tasks.h"
#include "app/media_library.h"
#include "core/background_priority.h"

#include <algorithm>
#include <cstdlib>

namespace yarngap::app {

namespace {

constexpr std::int64_t aheadLimit = 480; // frames made ahead of the playhead at most
constexpr std::size_t rescanLimit =
    20'000;                             // plans up to here are checked against the kept pictures as a whole
constexpr int insertionsPerRescan = 64; // how often frames dropped from memory are noticed

std::size_t bytesOf(Size size) {
    return static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height) * 4;
}

std::string sized(std::string key, Size size) {
    return std::move(key) + '@' + std::to_string(size.width) + 'x' + std::to_string(size.height);
}

} // namespace

Flanks flanksOf(const PlanRow& row, std::int64_t mediaFrames) {
    const bool between = row.first != row.last;
    const std::int64_t before = between ? row.first : row.first - 1;
    const std::int64_t after = between ? row.last : row.first + 1;
    Flanks flanks;
    if (before >= 0) flanks.before = before;
    if (after < mediaFrames) flanks.after = after;
    return flanks;
}

Preview::Preview(QObject* parent)
    : QObject(parent)
    , thread_([this](const std::stop_token& stop) { loop(stop); }) {}

Preview::~Preview() {
    thread_.request_stop();
    const std::scoped_lock lock(mutex_);
    currentStop_.request_stop();
}

void Preview::change(const std::function<void(State&)>& edit) {
    const std::scoped_lock lock(mutex_);
    edit(shared_);
    changed_ = true;
    wake_.notify_all();
}

void Preview::setShot(std::shared_ptr<const FrameMaker> maker, std::shared_ptr<const FramePlan> plan) {
    state_.drafts =
        maker ? std::make_shared<const FrameMaker>(maker->with(maker->settings().forDraft())) : nullptr;
    state_.maker = std::move(maker);
    state_.plan = std::move(plan);
    ++state_.revision;
    change([this](State& shared) {
        shared = state_;
        currentStop_.request_stop();
    });
    rescanReady();
}

void Preview::setSizes(Size picture, Size flank) {
    if (picture == state_.size && flank == state_.flankSize) return;
    state_.size = picture;
    state_.flankSize = flank;
    ++state_.revision;
    change([this](State& shared) {
        shared = state_;
        currentStop_.request_stop();
    });
    rescanReady();
}

void Preview::want(std::int64_t output, int direction) {
    state_.wanted = output;
    state_.direction = direction < 0 ? -1 : 1;
    change([this](State& shared) {
        shared = state_;
        // Work on a frame near the one wanted helps soon (its vectors, at least); work far away does not.
        constexpr std::int64_t near = 8;
        if (currentOutput_ && std::abs(*currentOutput_ - shared.wanted) > near) currentStop_.request_stop();
    });
}

std::string Preview::State::outputKey(std::int64_t output) const {
    return sized(maker->contentKey(plan->rows[static_cast<std::size_t>(output)]), size);
}

std::string Preview::State::draftKey(std::int64_t output) const {
    return sized("draft:" + drafts->contentKey(plan->rows[static_cast<std::size_t>(output)]), size);
}

std::string Preview::State::sourceKey(std::int64_t frame) const {
    return sized(maker->source().identity() + ":source:" + std::to_string(frame), flankSize);
}

bool Preview::State::has(std::int64_t output) const {
    return maker && plan && output >= 0 && output < static_cast<std::int64_t>(plan->rows.size());
}

PreviewPicturePtr Preview::picture(std::int64_t output) {
    if (!state_.has(output)) return nullptr;
    if (auto made = pictures_.find(state_.outputKey(output))) return *made;
    return pictures_.find(state_.draftKey(output)).value_or(nullptr);
}

PreviewPicturePtr Preview::sourcePicture(std::int64_t n) {
    if (!state_.maker) return nullptr;
    return pictures_.find(state_.sourceKey(n)).value_or(nullptr);
}

std::optional<Preview::Job> Preview::outputJob(const State& state, std::int64_t output) const {
    Job job{output, 0, state.size, state.outputKey(output), false};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::draftJob(const State& state, std::int64_t output) const {
    const PlanRow& row = state.plan->rows[static_cast<std::size_t>(output)];
    // With its vectors at hand the frame itself is as quick.
    if (row.kind != FrameKind::flow || state.maker->settings() == state.drafts->settings() ||
        state.maker->hasVectors(row) || pictures_.contains(state.outputKey(output)))
        return std::nullopt;
    Job job{output, 0, state.size, state.draftKey(output), true};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::sourceJob(const State& state, std::int64_t frame) const {
    Job job{std::nullopt, frame, state.flankSize, state.sourceKey(frame), false};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::nextJob(const State& state) const {
    if (!state.has(0)) return std::nullopt;
    const auto total = static_cast<std::int64_t>(state.plan->rows.size());
    const std::int64_t wanted = std::clamp<std::int64_t>(state.wanted, 0, total - 1);
    if (auto job = draftJob(state, wanted)) return job;
    if (auto job = outputJob(state, wanted)) return job;
    const Flanks flanks =
        flanksOf(state.plan->rows[static_cast<std::size_t>(wanted)], state.maker->source().frames());
    for (const auto& frame : {flanks.before, flanks.after})
        if (frame)
            if (auto job = sourceJob(state, *frame)) return job;
    // Ahead, going round at the end as playing does, but never so far that it pushes out what is near.
    const auto room = static_cast<std::int64_t>(pictures_.byteLimit() * 3 / 4 /
                                                std::max<std::size_t>(1, bytesOf(state.size)));
    const std::int64_t reach = std::min({aheadLimit, room, total - 1});
    for (std::int64_t i = 1; i <= reach; ++i) {
        const std::int64_t output = ((wanted + state.direction * i) % total + total) % total;
        if (auto job = outputJob(state, output)) return job;
    }
    return std::nullopt;
}

void Preview::loop(const std::stop_token& stop) {
    yieldToInterface();
    while (true) {
        State state;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, stop, [this] { return changed_; }) || stop.stop_requested()) return;
            changed_ = false;
            state = shared_;
        }
        // The search goes on without the lock: this thread has a low priority, and the interface would wait
        // for as long as it is kept off its core.
        const std::optional<Job> job = nextJob(state);
        if (!job) continue;
        std::stop_token jobStop;
        {
            const std::scoped_lock lock(mutex_);
            if (changed_) continue;
            currentOutput_ = job->output;
            currentStop_ = std::stop_source();
            jobStop = currentStop_.get_token();
            changed_ = true; // there may be more to do after this one
        }
        make(state, *job, jobStop);
        const std::scoped_lock lock(mutex_);
        currentOutput_.reset();
    }
}

void Preview::make(const State& state, const Job& job, const std::stop_token& stop) {
    auto made = std::make_shared<PreviewPicture>();
    try {
        const FrameMaker& maker = job.draft ? *state.drafts : *state.maker;
        made->draft = job.draft;
        const MediaFacts& facts = maker.source().facts();
        ImagePtr image;
        if (job.output) {
            const MadeFrame frame = maker.make(state.plan->rows[static_cast<std::size_t>(*job.output)], stop);
            image = frame.image;
            made->doubt = frame.doubt;
            made->edgeScale = frame.edgeScale;
        } else {
            image = maker.source().frame(job.source, stop);
        }
        throwIfStopped(stop);
        made->image = toQImage(toScreenRgb(*image, facts.colour, job.size.width, job.size.height));
    } catch (const Cancelled&) {
        return;
    } catch (const std::exception& error) {
        made->trouble = QString::fromStdString(error.what());
    }
    pictures_.insert(job.key, made, static_cast<std::size_t>(made->image.sizeInBytes()) + 256);
    postTo(this,
           [this, output = job.output, draft = job.draft, source = job.source, revision = state.revision] {
               if (revision != state_.revision) return;
               if (output && draft)
                   Q_EMIT draftReady(*output);
               else if (output)
                   markReady(*output);
               else
                   Q_EMIT sourceReady(source);
           });
}

void Preview::markReady(std::int64_t output) {
    if (output >= static_cast<std::int64_t>(ready_.size())) return;
    ready_[static_cast<std::size_t>(output)] = 1;
    if (++sinceRescan_ >= insertionsPerRescan) rescanReady();
    Q_EMIT pictureReady(output);
}

void Preview::rescanReady() {
    sinceRescan_ = 0;
    const std::size_t rows = state_.has(0) ? state_.plan->rows.size() : 0;
    ready_.assign(rows, 0);
    if (rows <= rescanLimit)
        for (std::size_t i = 0; i < rows; ++i)
            ready_[i] = pictures_.contains(state_.outputKey(static_cast<std::int64_t>(i))) ? 1 : 0;
    Q_EMIT readyReset();
}

} // namespace yarngap::app
