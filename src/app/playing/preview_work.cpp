// What the preview makes next, and the making of it, on threads of its own.

#include "app/document/background_tasks.h"
#include "app/document/media_library.h"
#include "app/playing/preview.h"
#include "core/background_priority.h"
#include "core/files/local_file.h"
#include "core/files/write_failure.h"

#include <algorithm>
#include <cstdlib>

namespace yarngap::app {

namespace {

constexpr std::int64_t aheadLimit = 5000; // frames made ahead of the playhead at most

} // namespace

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
    const std::int64_t room = roomFor(state.size);
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
    const std::int64_t reach = roomFor(state.size) / 2;
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
            image = frames.sourceAsShown(job.frame, stop);
        }
        throwIfStopped(stop);
        made->image = toQImage(toScreenRgb(*image, colour, job.size.width, job.size.height));
        if (job.kind == Kind::output) {
            made->look = lookOf(*image);
            made->histogram = histogramOf(*image, colour);
            const int wide = std::min(smallPictureWidth, job.size.width);
            made->small = toQImage(toScreenRgb(
                *image, colour, wide,
                std::max(1, static_cast<int>(std::int64_t{wide} * job.size.height / job.size.width))));
        }
    } catch (const Cancelled&) {
        return;
    } catch (const SourceLost& error) {
        made->trouble = QString::fromStdString(error.what());
        postTo(this, [this, frames = state.frames, sentence = made->trouble] {
            if (frames == state_.frames) Q_EMIT sourceLost(sentence); // else it has been opened anew
        });
    } catch (const std::exception& error) {
        made->trouble = QString::fromStdString(sentenceOf(error));
    }
    pictures_.insert(job.key, made,
                     static_cast<std::size_t>(made->image.sizeInBytes() + made->small.sizeInBytes()) +
                         made->look.small.size() * sizeof(std::uint16_t) + 256);
    const Readiness readiness = !made->trouble.isEmpty() ? Readiness::failed
                                : made->draft            ? Readiness::draft
                                                         : Readiness::ready;
    postTo(this, [this, job, readiness] { tellMade(job, readiness); });
}

void Preview::tellMade(const Job& job, Readiness readiness) {
    if (!isShown(job)) {
        // It was made for another plan; the present one may show the same at another row, and did not
        // find it there when it came.
        if (job.kind != Kind::source) rescanReady();
        lookWhetherSettled();
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
    lookWhetherSettled();
    if (job.kind == Kind::draft)
        Q_EMIT draftReady(job.frame);
    else
        Q_EMIT pictureReady(job.frame);
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
            if (frame) beside.push_back(onScreen(*state.frames->sourceAsShown(*frame, stop)));
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

} // namespace yarngap::app
