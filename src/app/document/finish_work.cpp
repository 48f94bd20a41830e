#include "app/document/finish_work.h"

#include "core/background_priority.h"
#include "core/error.h"

#include <chrono>
#include <utility>

namespace yarngap::app {

void FinishWork::setSubject(Subject subject) {
    if (subject.source != subject_.source) cancel();
    subject_ = std::move(subject);
}

void FinishWork::cancel() {
    stop_.request_stop();
    ++generation_;
    if (!what_.isEmpty()) end();
}

void FinishWork::end() {
    what_.clear();
    progress_ = 0;
    Q_EMIT changed();
}

template <typename Find, typename Answer>
void FinishWork::start(const QString& what, Find find, Answer answer) {
    cancel();
    if (!subject_.source) return;
    std::stop_source fresh; // named: GCC 12 takes a temporary for one that is not initialised
    stop_.swap(fresh);
    what_ = what;
    const std::uint64_t generation = generation_;
    tasks_.run([this, generation, find = std::move(find), answer = std::move(answer), subject = subject_,
                own = stop_.get_token()](const std::stop_token& whole) {
        yieldToInterface();
        std::stop_source both;
        const std::stop_callback byOwn(own, [&both] { both.request_stop(); });
        const std::stop_callback byAll(whole, [&both] { both.request_stop(); });
        auto told = std::chrono::steady_clock::now();
        const auto onProgress = [&](double share) {
            const auto now = std::chrono::steady_clock::now();
            if (now - told < std::chrono::milliseconds(50)) return;
            told = now;
            postTo(this, [this, generation, share] {
                if (generation != generation_) return;
                progress_ = share;
                Q_EMIT changed();
            });
        };
        try {
            auto found = find(subject, onProgress, both.get_token());
            postTo(this, [this, generation, answer, found = std::move(found)] {
                if (generation != generation_) return;
                end();
                answer(found);
            });
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            postTo(this, [this, generation, sentence = QString::fromUtf8(error.what())] {
                if (generation != generation_) return;
                end();
                Q_EMIT failed(sentence);
            });
        }
    });
    Q_EMIT changed();
}

void FinishWork::follow(const FollowOptions& options, std::function<void(const FollowReport&)> answer) {
    start(
        tr("Following the point"),
        [options](const Subject& subject, const Progress& progress, const std::stop_token& stop) {
            return followPoint({subject.source, subject.vectors, subject.cuts}, options, progress, stop);
        },
        std::move(answer));
}

void FinishWork::measureCamera(std::function<void(const CameraPath&)> answer) {
    start(
        tr("Measuring the camera"),
        [](const Subject& subject, const Progress& progress, const std::stop_token& stop) {
            Finish finish;
            finish.calm.by = CalmBy::smoothing;
            return withMeasures(finish, *subject.source, subject.vectors, subject.first, subject.last,
                                subject.cuts, progress, stop)
                .calm.path;
        },
        std::move(answer));
}

void FinishWork::measureGrain(std::function<void(const GrainLook&)> answer) {
    start(
        tr("Measuring the grain"),
        [](const Subject& subject, const Progress& /*progress*/, const std::stop_token& stop) {
            return measuredGrain(*subject.source, subject.first, subject.last, stop);
        },
        std::move(answer));
}

void FinishWork::measureDirection(std::int64_t first, std::int64_t last, std::function<void(double)> answer) {
    start(
        tr("Measuring the camera"),
        [first, last](const Subject& subject, const Progress& progress, const std::stop_token& stop) {
            const CameraPath path =
                measuredCamera(*subject.source, subject.vectors, first, last, subject.cuts, progress, stop);
            return directionOf(path, static_cast<double>(first), static_cast<double>(last));
        },
        std::move(answer));
}

void FinishWork::hideEdges(const Finish& finish, std::int64_t firstOutput, std::int64_t lastOutput,
                           std::function<void(const HiddenEdges&)> answer) {
    start(
        tr("Looking for bare edges"),
        [finish, firstOutput, lastOutput](const Subject& subject, const Progress& progress,
                                          const std::stop_token& stop) {
            return leastHidingScale(*subject.unfinished, finish, firstOutput, lastOutput, progress, stop);
        },
        std::move(answer));
}

} // namespace yarngap::app
