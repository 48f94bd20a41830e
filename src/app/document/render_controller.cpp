#include "app/document/render_controller.h"

#include "app/document/background_tasks.h"
#include "core/background_priority.h"
#include "core/files/write_failure.h"
#include "core/finish/measured_finish.h"
#include "core/shot/ready_shot.h"

#include <chrono>

namespace yarngap::app {

namespace {

constexpr std::size_t renderCacheBytes = std::size_t{96} << 20; // reading goes straight through

} // namespace

namespace {

/// Plan and maker of a shot. Searches it for cuts and repeats where that has not been done.
RenderPart partOf(const RenderRequest& request, const std::shared_ptr<VectorStore>& vectors,
                  const std::shared_ptr<FrameFolder>& finished, std::size_t cacheBytes,
                  const std::stop_token& stop) {
    CleaningMeans means{.vectors = vectors, .finished = finished};
    if (!request.axis->cleanup().empty())
        means.cuts =
            request.axis->interpretedFindings(*request.known->findings(request.index, {}, stop)).cuts;
    const Footage footage =
        footageOf(request.index, request.axis, std::make_shared<FrameSource>(request.index, cacheBytes),
                  cacheBytes, means);
    const GapFindings found = request.found
                                  ? *request.found
                                  : footage.axis->findings(*request.known->findings(request.index, {}, stop));
    Shot shot = request.shot;
    if (lacksMeasures(shot.finish))
        shot.finish = withMeasures(shot.finish, *footage.frames, vectors, request.timing.from,
                                   request.timing.to, found.cuts, {}, stop);
    const ReadyShot ready =
        readyShot(shot, footage, found, {.vectors = vectors, .finished = finished, .timing = request.timing});
    return {request.shot.name, ready.frames};
}

} // namespace

RenderController::~RenderController() = default; // the thread is asked to stop and joined

void RenderController::start(const QString& what, std::vector<RenderRequest> shots,
                             std::shared_ptr<VectorStore> vectors, std::shared_ptr<FrameFolder> finished,
                             RenderOptions options, std::vector<std::filesystem::path> kept) {
    if (running_) return;
    running_ = true;
    failed_ = false;
    report_.reset();
    outcome_.clear();
    shotName_ = what;
    progress_ = {};
    for (const RenderRequest& shot : shots)
        progress_.total += shot.timing.outputFrames();
    const std::uint64_t generation = ++generation_;
    const auto target = QString::fromStdString(options.target.string());
    std::jthread previous = std::move(thread_); // ended or ending; joined off this thread
    thread_ = std::jthread([this, generation, target, shots = std::move(shots), vectors = std::move(vectors),
                            finished = std::move(finished), options = std::move(options),
                            kept = std::move(kept),
                            previous = std::move(previous)](const std::stop_token& stop) mutable {
        if (previous.joinable()) previous.join();
        const auto finish = [&](const QString& outcome, bool failure, std::optional<RenderReport> report) {
            postTo(this, [this, generation, outcome, failure, report = std::move(report)] {
                if (generation == generation_) end(outcome, failure, report);
            });
        };
        try {
            std::vector<RenderPart> parts;
            for (const RenderRequest& shot : shots)
                parts.push_back(partOf(shot, vectors, finished, renderCacheBytes / shots.size(), stop));
            options.inputs.add(kept);
            options.onThreadStart = yieldToInterface;
            RenderJob job(std::move(parts), std::move(options));
            auto lastShown = std::chrono::steady_clock::now();
            const auto onProgress = [&](const RenderProgress& p) {
                const auto now = std::chrono::steady_clock::now();
                if (now - lastShown < std::chrono::milliseconds(100) && p.done < p.total) return;
                lastShown = now;
                postTo(this, [this, p] {
                    progress_ = p;
                    Q_EMIT changed();
                });
            };
            // Tell the end before the job's last thread is joined: a long estimation may still be in it.
            try {
                RenderReport report = job.run(onProgress, stop);
                const QString outcome =
                    tr("%n frames written to %1.", nullptr, static_cast<int>(report.frames)).arg(target);
                finish(outcome, false, std::move(report));
            } catch (const Cancelled&) {
                finish(tr("Cancelled; nothing was written."), false, std::nullopt);
            }
        } catch (const Cancelled&) { // while searching for cuts
            finish(tr("Cancelled; nothing was written."), false, std::nullopt);
        } catch (const std::exception& error) {
            finish(QString::fromStdString(sentenceOf(error)), true, std::nullopt);
        }
    });
    Q_EMIT changed();
}

void RenderController::cancel() {
    if (running_) thread_.request_stop();
}

void RenderController::forgetOutcome() {
    if (running_ || outcome_.isEmpty()) return;
    outcome_.clear();
    failed_ = false;
    report_.reset();
    Q_EMIT changed();
}

void RenderController::end(const QString& outcome, bool failed, std::optional<RenderReport> report) {
    running_ = false;
    failed_ = failed;
    outcome_ = outcome;
    report_ = std::move(report);
    Q_EMIT changed();
    Q_EMIT finished();
}

} // namespace yarngap::app
