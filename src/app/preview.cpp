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

std::string Preview::outputKey(const FrameMaker& maker, const PlanRow& row) const {
    return sized(maker.contentKey(row), size_);
}

std::string Preview::sourceKey(const FrameMaker& maker, std::int64_t frame) const {
    return sized(maker.source().identity() + ":source:" + std::to_string(frame), flankSize_);
}

void Preview::setShot(std::shared_ptr<const FrameMaker> maker, std::shared_ptr<const FramePlan> plan) {
    {
        const std::scoped_lock lock(mutex_);
        maker_ = std::move(maker);
        plan_ = std::move(plan);
        ++revision_;
        currentStop_.request_stop();
        wake_.notify_all();
    }
    rescanReady();
}

void Preview::setSizes(Size picture, Size flank) {
    {
        const std::scoped_lock lock(mutex_);
        if (picture == size_ && flank == flankSize_) return;
        size_ = picture;
        flankSize_ = flank;
        ++revision_;
        currentStop_.request_stop();
        wake_.notify_all();
    }
    rescanReady();
}

void Preview::want(std::int64_t output, int direction) {
    const std::scoped_lock lock(mutex_);
    wanted_ = output;
    direction_ = direction < 0 ? -1 : 1;
    interruptIfUseless();
    wake_.notify_all();
}

void Preview::interruptIfUseless() {
    // Work on a frame near the one wanted helps soon (its vectors, at least); work far away does not.
    constexpr std::int64_t near = 8;
    if (current_ && current_->output && std::abs(*current_->output - wanted_) > near)
        currentStop_.request_stop();
}

PreviewPicturePtr Preview::picture(std::int64_t output) {
    const std::scoped_lock lock(mutex_);
    if (!maker_ || !plan_ || output < 0 || output >= static_cast<std::int64_t>(plan_->rows.size()))
        return nullptr;
    return pictures_.find(outputKey(*maker_, plan_->rows[static_cast<std::size_t>(output)]))
        .value_or(nullptr);
}

PreviewPicturePtr Preview::sourcePicture(std::int64_t n) {
    const std::scoped_lock lock(mutex_);
    if (!maker_) return nullptr;
    return pictures_.find(sourceKey(*maker_, n)).value_or(nullptr);
}

std::optional<Preview::Job> Preview::outputJob(std::int64_t output) {
    if (output < 0 || output >= static_cast<std::int64_t>(plan_->rows.size())) return std::nullopt;
    Job job{maker_,   plan_, output,
            0,        size_, outputKey(*maker_, plan_->rows[static_cast<std::size_t>(output)]),
            revision_};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::sourceJob(std::int64_t frame) {
    Job job{maker_, plan_, std::nullopt, frame, flankSize_, sourceKey(*maker_, frame), revision_};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::nextJob() {
    if (!maker_ || !plan_ || plan_->rows.empty()) return std::nullopt;
    const auto total = static_cast<std::int64_t>(plan_->rows.size());
    wanted_ = std::clamp<std::int64_t>(wanted_, 0, total - 1);
    if (auto job = outputJob(wanted_)) return job;
    const Flanks flanks = flanksOf(plan_->rows[static_cast<std::size_t>(wanted_)], maker_->source().frames());
    for (const auto& frame : {flanks.before, flanks.after})
        if (frame)
            if (auto job = sourceJob(*frame)) return job;
    // Ahead, going round at the end as playing does, but never so far that it pushes out what is near.
    const auto room =
        static_cast<std::int64_t>(pictures_.byteLimit() * 3 / 4 / std::max<std::size_t>(1, bytesOf(size_)));
    const std::int64_t reach = std::min({aheadLimit, room, total - 1});
    for (std::int64_t i = 1; i <= reach; ++i) {
        const std::int64_t output = ((wanted_ + direction_ * i) % total + total) % total;
        if (auto job = outputJob(output)) return job;
    }
    return std::nullopt;
}

void Preview::loop(const std::stop_token& stop) {
    yieldToInterface();
    while (true) {
        Job job;
        std::stop_token jobStop;
        {
            std::unique_lock lock(mutex_);
            std::optional<Job> next;
            if (!wake_.wait(lock, stop, [&] { return (next = nextJob()).has_value(); }) ||
                stop.stop_requested())
                return;
            job = std::move(*next);
            current_ = job;
            currentStop_ = std::stop_source();
            jobStop = currentStop_.get_token();
        }
        make(job, jobStop);
        const std::scoped_lock lock(mutex_);
        current_.reset();
    }
}

void Preview::make(const Job& job, const std::stop_token& stop) {
    auto made = std::make_shared<PreviewPicture>();
    try {
        const FrameMaker& maker = *job.maker;
        const MediaFacts& facts = maker.source().facts();
        ImagePtr image;
        if (job.output) {
            const MadeFrame frame = maker.make(job.plan->rows[static_cast<std::size_t>(*job.output)], stop);
            image = frame.image;
            made->doubt = frame.doubt;
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
    postTo(this, [this, output = job.output, source = job.source, revision = job.revision] {
        {
            const std::scoped_lock lock(mutex_);
            if (revision != revision_) return;
        }
        if (output)
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
    std::shared_ptr<const FrameMaker> maker;
    std::shared_ptr<const FramePlan> plan;
    {
        const std::scoped_lock lock(mutex_);
        maker = maker_;
        plan = plan_;
    }
    const std::size_t rows = maker && plan ? plan->rows.size() : 0;
    ready_.assign(rows, 0);
    if (rows <= rescanLimit)
        for (std::size_t i = 0; i < rows; ++i)
            ready_[i] = pictures_.contains(outputKey(*maker, plan->rows[i])) ? 1 : 0;
    Q_EMIT readyReset();
}

} // namespace yarngap::app
