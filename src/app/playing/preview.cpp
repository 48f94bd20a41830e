#include "app/playing/preview.h"

#include "app/document/background_tasks.h"
#include "app/document/media_library.h"
#include "core/background_priority.h"
#include "core/files/local_file.h"
#include "core/files/write_failure.h"

#include <algorithm>
#include <cstdlib>

namespace yarngap::app {

namespace {

constexpr std::int64_t aheadLimit = 5000; // frames made ahead of the playhead at most
constexpr std::size_t rescanLimit =
    20'000;                             // plans up to here are checked against the kept pictures as a whole
constexpr int insertionsPerRescan = 64; // how often frames dropped from memory are noticed

std::size_t bytesOf(Size size) {
    constexpr std::size_t beside = 192 * 1024; // the small picture and the look
    return static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height) * 4 + beside;
}

/// Pictures that are kept without pushing out each other or what else there is.
std::int64_t roomFor(std::size_t bytes, Size size) {
    return static_cast<std::int64_t>(bytes * 3 / 4 / std::max<std::size_t>(1, bytesOf(size)));
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
    : QObject(parent) {
    for (std::jthread& thread : threads_)
        thread = std::jthread([this](const std::stop_token& stop) { loop(stop); });
}

Preview::~Preview() {
    for (std::jthread& thread : threads_)
        thread.request_stop();
    const std::scoped_lock lock(mutex_);
    abandon();
}

void Preview::abandon() {
    if (!active_) return;
    active_->stop.request_stop();
    active_.reset();
    changed_ = true;
    wake_.notify_all();
}

void Preview::change(const std::function<void(State&)>& edit) {
    const std::scoped_lock lock(mutex_);
    edit(shared_);
    shared_.version = ++version_;
    changed_ = true;
    wake_.notify_all();
}

void Preview::setShot(OutputFramesPtr frames) {
    state_.drafts = frames ? frames->drafts() : nullptr;
    state_.frames = std::move(frames);
    change([this](State& shared) {
        shared = state_;
        abandon();
    });
    rescanReady();
}

void Preview::setSizes(Size picture, Size flank) {
    if (picture == state_.size && flank == state_.flankSize) return;
    state_.size = picture;
    state_.flankSize = flank;
    change([this](State& shared) {
        shared = state_;
        abandon();
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
        if (active_ && active_->output && std::abs(*active_->output - shared.wanted) > near) abandon();
    });
}

void Preview::setLoop(std::optional<std::pair<std::int64_t, std::int64_t>> loop) {
    state_.loop = loop;
    change([this](State& shared) { shared.loop = state_.loop; });
}

void Preview::setPage(std::optional<std::pair<std::int64_t, std::int64_t>> page) {
    if (page == state_.page) return;
    state_.page = page;
    change([this](State& shared) { shared.page = state_.page; });
}

void Preview::setMemory(std::size_t pictureBytes, std::size_t insightBytes) {
    pictures_.setByteLimit(pictureBytes);
    insights_.setByteLimit(insightBytes);
    change([](State&) {}); // more may fit now
    rescanReady();
}

std::int64_t Preview::room() const {
    return roomFor(pictures_.byteLimit(), state_.size);
}

void Preview::forgetAll() {
    pictures_.clear();
    insights_.clear();
    change([this](State&) { abandon(); });
    rescanReady();
}

void Preview::wantInsight(bool wanted) {
    if (wanted == state_.insight) return;
    state_.insight = wanted;
    change([this](State& shared) { shared.insight = state_.insight; });
}

std::string Preview::State::outputKey(std::int64_t output) const {
    return sized(frames->key(output), size);
}

std::string Preview::State::draftKey(std::int64_t output) const {
    return sized("draft:" + drafts->key(output), size);
}

std::string Preview::State::sourceKey(std::int64_t frame, Size pictureSize) const {
    return sized(frames->source().identityOf(frame) + ":source", pictureSize);
}

bool Preview::State::has(std::int64_t output) const {
    return frames && output >= 0 && output < frames->count();
}

PreviewPicturePtr Preview::picture(std::int64_t output) {
    if (!state_.has(output)) return nullptr;
    if (auto made = pictures_.find(state_.outputKey(output))) return *made;
    return pictures_.find(state_.draftKey(output)).value_or(nullptr);
}

PreviewPicturePtr Preview::glance(std::int64_t output) const {
    if (!state_.has(output)) return nullptr;
    const auto made = pictures_.peek(state_.outputKey(output));
    return made && (*made)->trouble.isEmpty() ? *made : nullptr;
}

PreviewPicturePtr Preview::sourcePicture(std::int64_t n) {
    if (!state_.frames) return nullptr;
    return pictures_.find(state_.sourceKey(n, state_.flankSize)).value_or(nullptr);
}

PreviewPicturePtr Preview::largeSourcePicture(std::int64_t n) {
    if (!state_.frames) return nullptr;
    return pictures_.find(state_.sourceKey(n, state_.size)).value_or(nullptr);
}

PreviewInsightPtr Preview::insight(std::int64_t output) {
    if (!state_.has(output)) return nullptr;
    return insights_.find(state_.outputKey(output)).value_or(nullptr);
}

std::optional<Preview::Job> Preview::outputJob(const State& state, std::int64_t output) const {
    Job job{Kind::output, output, state.size, state.outputKey(output)};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::draftJob(const State& state, std::int64_t output) const {
    if (!state.frames->isDraftSooner(output) || pictures_.contains(state.outputKey(output)))
        return std::nullopt;
    Job job{Kind::draft, output, state.size, state.draftKey(output)};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::sourceJob(const State& state, std::int64_t frame, Size size) const {
    Job job{Kind::source, frame, size, state.sourceKey(frame, size)};
    if (pictures_.contains(job.key)) return std::nullopt;
    return job;
}

std::optional<Preview::Job> Preview::nextJob(const State& state) const {
    if (!state.has(0)) return std::nullopt;
    const std::int64_t total = state.frames->count();
    const std::int64_t wanted = std::clamp<std::int64_t>(state.wanted, 0, total - 1);
    if (auto job = draftJob(state, wanted)) return job;
    if (auto job = outputJob(state, wanted)) return job;
    const Flanks flanks = flanksOf(state.frames->row(wanted), state.frames->source().frames());
    const auto beside = [&](Size size) -> std::optional<Job> {
        for (const auto& frame : {flanks.before, flanks.after})
            if (frame)
                if (auto job = sourceJob(state, *frame, size)) return job;
        return std::nullopt;
    };
    if (auto job = beside(state.flankSize)) return job;
    if (state.insight && !insights_.contains(state.outputKey(wanted)))
        return Job{Kind::insight, wanted, state.size, state.outputKey(wanted)};
    if (auto job = beside(state.size)) return job;
    if (state.page)
        if (auto job = pageJob(state, *state.page)) return job;
    // Ahead, going round at the end as playing does, but never so far that it pushes out what is near.
    const std::int64_t room = roomFor(pictures_.byteLimit(), state.size);
    if (state.loop && state.loop->second < total) {
        const auto [first, last] = *state.loop;
        const std::int64_t count = last - first + 1;
        const std::int64_t from = std::clamp(wanted, first, last) - first;
        for (std::int64_t i = 0; i < std::min(count, room); ++i) {
            const std::int64_t output = first + (((from + state.direction * i) % count) + count) % count;
            if (auto job = outputJob(state, output)) return job;
        }
        if (count > room / 2) return std::nullopt; // others would push the loop out
    }
    const std::int64_t reach = std::min({aheadLimit, room, total - 1});
    for (std::int64_t i = 1; i <= reach; ++i) {
        const std::int64_t output = ((wanted + state.direction * i) % total + total) % total;
        if (auto job = outputJob(state, output)) return job;
    }
    return std::nullopt;
}

std::optional<Preview::Job> Preview::pageJob(const State& state,
                                             const std::pair<std::int64_t, std::int64_t>& range) const {
    const std::int64_t total = state.frames->count();
    const std::int64_t first = std::max<std::int64_t>(0, range.first);
    const std::int64_t last = std::min(total - 1, range.second);
    // No more than fits, or they would push each other out for ever.
    const std::int64_t reach = roomFor(pictures_.byteLimit(), state.size) / 2;
    for (std::int64_t i = 0; i <= std::min(reach, total); ++i)
        for (const std::int64_t output : {state.wanted + i, state.wanted - i})
            if (output >= first && output <= last)
                if (auto job = outputJob(state, output)) return job;
    return std::nullopt;
}

void Preview::loop(const std::stop_token& stop) {
    yieldToInterface();
    while (true) {
        State state;
        {
            std::unique_lock lock(mutex_);
            if (!wake_.wait(lock, stop, [this] { return changed_ && !active_; }) || stop.stop_requested())
                return;
            changed_ = false;
            state = shared_;
        }
        // The search goes on without the lock: this thread has a low priority, and the interface would wait
        // for as long as it is kept off its core.
        const std::optional<Job> job = nextJob(state);
        if (!job) continue;
        std::stop_token jobStop;
        std::uint64_t number = 0;
        {
            const std::scoped_lock lock(mutex_);
            if (changed_ || active_ || state.version != shared_.version) {
                changed_ = true; // another thread may have taken it up meanwhile
                continue;
            }
            number = ++jobs_;
            std::optional<std::int64_t> about;
            if (job->kind != Kind::source) about = job->frame;
            active_ = Active{number, about, std::stop_source()};
            jobStop = active_->stop.get_token();
            changed_ = true; // there may be more to do after this one
        }
        if (job->kind == Kind::insight)
            makeInsight(state, *job, jobStop);
        else
            make(state, *job, jobStop);
        const std::scoped_lock lock(mutex_);
        if (active_ && active_->number == number) {
            active_.reset();
            wake_.notify_all();
        }
    }
}

void Preview::make(const State& state, const Job& job, const std::stop_token& stop) {
    auto made = std::make_shared<PreviewPicture>();
    try {
        made->draft = job.kind == Kind::draft;
        const OutputFrames& frames = made->draft ? *state.drafts : *state.frames;
        const ColourTags& colour =
            job.kind == Kind::source ? frames.source().facts().colour : frames.facts().colour;
        ImagePtr image;
        if (job.kind != Kind::source) {
            const MadeFrame frame = frames.make(job.frame, stop);
            if (const auto wrong = frames.worstTroubleOf(job.frame))
                made->remark = QString::fromStdString(wrong->sentence);
            image = frame.image;
            made->doubt = frame.doubt;
            made->edgeScale = frame.edgeScale;
        } else {
            image = frames.source().frame(job.frame, stop);
        }
        throwIfStopped(stop);
        made->image = toQImage(toScreenRgb(*image, colour, job.size.width, job.size.height));
        if (job.kind == Kind::output) {
            made->look = lookOf(*image);
            const int wide = std::min(smallPictureWidth, job.size.width);
            made->small = toQImage(toScreenRgb(
                *image, colour, wide,
                std::max(1, static_cast<int>(std::int64_t{wide} * job.size.height / job.size.width))));
        }
    } catch (const Cancelled&) {
        return;
    } catch (const SourceLost& error) {
        made->trouble = QString::fromStdString(error.what());
        postTo(this, [this, sentence = made->trouble] { Q_EMIT sourceLost(sentence); });
    } catch (const std::exception& error) {
        made->trouble = QString::fromStdString(sentenceOf(error));
    }
    pictures_.insert(job.key, made,
                     static_cast<std::size_t>(made->image.sizeInBytes() + made->small.sizeInBytes()) +
                         made->look.small.size() * sizeof(std::uint16_t) + 256);
    const Readiness readiness = !made->trouble.isEmpty() ? Readiness::failed
                                : made->draft            ? Readiness::draft
                                                         : Readiness::ready;
    postTo(this, [this, job, readiness] {
        if (!isShown(job)) {
            // It was made for another plan; the present one may show the same at another row, and did not
            // find it there when it came.
            if (job.kind != Kind::source) rescanReady();
            return;
        }
        if (job.kind == Kind::source) {
            Q_EMIT sourceReady(job.frame);
            return;
        }
        markReady(job.frame, readiness);
        if (job.kind == Kind::output) {
            // Rows that show the same again have it too.
            for (std::int64_t i = job.frame + 1; state_.has(i) && state_.outputKey(i) == job.key; ++i)
                markReady(i, readiness);
            for (std::int64_t i = job.frame - 1; state_.has(i) && state_.outputKey(i) == job.key; --i)
                markReady(i, readiness);
            if (state_.wanted != job.frame && state_.has(state_.wanted) &&
                state_.outputKey(state_.wanted) == job.key)
                Q_EMIT pictureReady(state_.wanted);
        }
        if (job.kind == Kind::draft)
            Q_EMIT draftReady(job.frame);
        else
            Q_EMIT pictureReady(job.frame);
    });
}

void Preview::makeInsight(const State& state, const Job& job, const std::stop_token& stop) {
    auto made = std::make_shared<PreviewInsight>();
    try {
        ShotFrames& source = state.frames->source();
        made->frame = state.frames->insight(job.frame, stop);
        const ColourTags& colour = source.facts().colour;
        const auto onScreen = [&](const Image& image) {
            return toScreenRgb(image, colour, job.size.width, job.size.height);
        };
        const Flanks flanks = flanksOf(state.frames->row(job.frame), source.frames());
        std::vector<RgbPicture> beside;
        for (const auto& frame : {flanks.before, flanks.after})
            if (frame) beside.push_back(onScreen(*source.frame(*frame, stop)));
        throwIfStopped(stop);
        RgbPicture difference = onScreen(*made->frame.image);
        for (std::size_t i = 0; i < difference.bgra.size(); ++i) {
            if (i % 4 == 3) continue; // opaque
            int least = 255;
            for (const RgbPicture& other : beside)
                least = std::min(least, std::abs(int{difference.bgra[i]} - int{other.bgra[i]}));
            difference.bgra[i] = static_cast<std::uint8_t>(std::min(255, beside.empty() ? 0 : 4 * least));
        }
        made->difference = toQImage(difference);
    } catch (const Cancelled&) {
        return;
    } catch (const std::exception&) {
        made->frame.image.reset(); // the picture itself says why
    }
    std::size_t bytes = 1024 + static_cast<std::size_t>(made->difference.sizeInBytes()) +
                        made->frame.motion.cells.size() * (sizeof(MidCell) + sizeof(float));
    if (made->frame.image) bytes += made->frame.image->byteCount();
    insights_.insert(job.key, made, bytes);
    postTo(this, [this, job] {
        if (isShown(job)) Q_EMIT insightReady(job.frame);
    });
}

bool Preview::isShown(const Job& job) const {
    if (!state_.frames) return false;
    if (job.kind == Kind::source)
        return job.key == state_.sourceKey(job.frame, state_.flankSize) ||
               job.key == state_.sourceKey(job.frame, state_.size);
    if (!state_.has(job.frame)) return false;
    return job.key == (job.kind == Kind::draft ? state_.draftKey(job.frame) : state_.outputKey(job.frame));
}

void Preview::markReady(std::int64_t output, Readiness readiness) {
    if (output >= static_cast<std::int64_t>(ready_.size())) return;
    Readiness& known = ready_[static_cast<std::size_t>(output)];
    if (readiness == Readiness::draft && known == Readiness::ready) return; // it came late
    known = readiness;
    if (++sinceRescan_ >= insertionsPerRescan) rescanReady();
}

void Preview::rescanReady() {
    sinceRescan_ = 0;
    const auto rows = static_cast<std::size_t>(state_.frames ? state_.frames->count() : 0);
    ready_.assign(rows, Readiness::toMake);
    if (rows <= rescanLimit)
        for (std::size_t i = 0; i < rows; ++i) {
            const auto output = static_cast<std::int64_t>(i);
            if (const auto made = pictures_.peek(state_.outputKey(output)))
                ready_[i] = (*made)->trouble.isEmpty() ? Readiness::ready : Readiness::failed;
            else if (state_.frames->row(output).kind == FrameKind::flow &&
                     pictures_.contains(state_.draftKey(output)))
                ready_[i] = Readiness::draft;
        }
    Q_EMIT readyReset();
}

} // namespace yarngap::app
