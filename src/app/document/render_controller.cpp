#include "app/document/render_controller.h"

#include "core/background_priority.h"
#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/render/slice_folder.h"

#include <QApplication>
#include <QDBusConnection>
#include <QDBusMessage>
#include <QDir>
#include <QFileInfo>

#include <algorithm>
#include <chrono>

namespace yarngap::app {

namespace {

constexpr std::size_t renderCacheBytes = std::size_t{96} << 20; // reading goes straight through

double now() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

/// Parts are worth their trouble where frames take long to make.
bool isLong(const std::vector<RenderPart>& parts) {
    constexpr std::int64_t many = 48;
    std::int64_t toMake = 0;
    for (const RenderPart& part : parts)
        for (std::int64_t n = part.first; n < part.end() && toMake < many; ++n)
            toMake += part.frames->row(n).kind == FrameKind::flow ? 1 : 0;
    return toMake >= many && usualSliceCount(framesOf(parts)) > 1;
}

SliceFolder slicesOfWork(const RenderWork& work) {
    return SliceFolder(SliceFolder::beside(work.targets.front().file));
}

} // namespace

RenderController::RenderController(QObject* parent)
    : QObject(parent) {
    connect(&farm_, &FarmWatch::ended, this, &RenderController::endOnFarm);
    connect(&farm_, &FarmWatch::looked, this, &RenderController::changed);
}

RenderController::~RenderController() {
    pausing_ = true; // what runs is cut off, and its finished parts are there when the program starts anew
    // Threads are asked to stop and joined.
}

void RenderController::keepIn(const QString& file) {
    keeping_.run([this, file](const std::stop_token&) {
        QDir().mkpath(QFileInfo(file).absolutePath());
        auto lock = std::make_shared<QLockFile>(file + QStringLiteral(".lock"));
        lock->setStaleLockTime(0); // one whose program has ended is taken over all the same
        if (!lock->tryLock()) {
            postTo(this, [this] { Q_EMIT notKept(); });
            return;
        }
        std::vector<QueuedRender> kept;
        QString trouble;
        try {
            kept = loadQueue(file.toStdString());
        } catch (const std::exception& error) {
            trouble = QString::fromStdString(sentenceOf(error));
        }
        postTo(this, [this, kept = std::move(kept), trouble, lock, file]() mutable {
            lock_ = lock;
            file_ = file;
            for (QueuedRender& job : kept) {
                if (job.onFarm && job.state == QueuedRender::State::running) {
                    farm_.watch(job.number, job.work.targets.front().file); // which went on
                } else if (job.state == QueuedRender::State::running ||
                           job.state == QueuedRender::State::waiting) {
                    job.state = QueuedRender::State::paused;
                    job.outcome =
                        tr("The program ended before it was done. Finished parts are kept.").toStdString();
                }
            }
            // Behind them those that were added meanwhile.
            std::int64_t highest = 0;
            for (const QueuedRender& job : kept)
                highest = std::max(highest, job.number);
            for (QueuedRender& job : queue_) {
                kept.push_back(std::move(job));
                highest = std::max(highest, kept.back().number);
            }
            queue_ = std::move(kept);
            nextNumber_ = std::max(nextNumber_, highest + 1);
            if (!trouble.isEmpty()) outcome_ = trouble;
            changeQueue();
        });
    });
}

const QueuedRender* RenderController::find(std::int64_t number) const {
    const auto at = std::ranges::find(queue_, number, &QueuedRender::number);
    return at == queue_.end() ? nullptr : &*at;
}

std::set<std::filesystem::path> RenderController::filesToCome() const {
    std::set<std::filesystem::path> files;
    for (const QueuedRender& job : queue_)
        if (!job.isOver())
            for (const RenderTarget& target : job.work.targets)
                files.insert(target.file);
    return files;
}

QueuedRender* RenderController::entry(std::int64_t number) {
    const auto at = std::ranges::find(queue_, number, &QueuedRender::number);
    return at == queue_.end() ? nullptr : &*at;
}

std::int64_t RenderController::add(RenderWork work, bool onFarm) {
    const std::int64_t number = nextNumber_++;
    queue_.push_back({.number = number, .work = std::move(work), .outcome = {}, .onFarm = onFarm});
    if (onFarm) {
        queue_.back().state = QueuedRender::State::running;
        farm_.hand(number, queue_.back().work, means_);
    }
    changeQueue();
    startNext();
    return number;
}

void RenderController::cancel() {
    if (running_) cancel(*running_);
}

void RenderController::cancel(std::int64_t number) {
    QueuedRender* job = entry(number);
    if (!job || job->isOver()) return;
    if (running_ == number) {
        pausing_ = false;
        thread_.request_stop();
        return;
    }
    if (job->onFarm && job->state == QueuedRender::State::running) {
        farm_.cancel(number);
        return;
    }
    const bool hasParts = job->state == QueuedRender::State::paused;
    job->state = QueuedRender::State::cancelled;
    job->outcome = tr("Cancelled; nothing was written.").toStdString();
    if (hasParts)
        keeping_.run([folder = slicesOfWork(job->work)](const std::stop_token&) {
            static_cast<void>(folder.remove());
        });
    changeQueue();
}

void RenderController::pause(std::int64_t number) {
    QueuedRender* job = entry(number);
    if (!job) return;
    if (running_ == number) {
        pausing_ = true;
        thread_.request_stop();
    } else if (job->state == QueuedRender::State::waiting) {
        job->state = QueuedRender::State::paused;
        changeQueue();
    }
}

void RenderController::goOn(std::int64_t number) {
    QueuedRender* job = entry(number);
    if (!job || job->state == QueuedRender::State::waiting || job->state == QueuedRender::State::running)
        return;
    job->state = job->onFarm ? QueuedRender::State::running : QueuedRender::State::waiting;
    job->outcome.clear();
    if (job->onFarm) farm_.hand(number, job->work, means_);
    changeQueue();
    startNext();
}

void RenderController::remove(std::int64_t number) {
    const QueuedRender* job = find(number);
    if (!job || job->state == QueuedRender::State::running) return;
    std::erase_if(queue_, [number](const QueuedRender& entry) { return entry.number == number; });
    changeQueue();
}

void RenderController::removeOver() {
    std::erase_if(queue_, [](const QueuedRender& job) { return job.isOver(); });
    changeQueue();
}

void RenderController::move(std::int64_t number, int by) {
    const auto at = std::ranges::find(queue_, number, &QueuedRender::number);
    if (at == queue_.end()) return;
    const std::ptrdiff_t from = at - queue_.begin();
    const std::ptrdiff_t to = std::clamp<std::ptrdiff_t>(from + by, 0, std::ssize(queue_) - 1);
    if (to == from) return;
    QueuedRender job = std::move(*at);
    queue_.erase(at);
    queue_.insert(queue_.begin() + to, std::move(job));
    changeQueue();
}

void RenderController::changeQueue() {
    if (!file_.isEmpty())
        keeping_.run([queue = queue_, file = file_.toStdString()](const std::stop_token&) {
            try {
                saveQueue(queue, file);
            } catch (const Error&) {
                // A disk without room for the list; the renders themselves will tell.
            }
        });
    Q_EMIT queueChanged();
    Q_EMIT changed();
}

void RenderController::startNext() {
    if (running_) return;
    const auto next = std::ranges::find(queue_, QueuedRender::State::waiting, &QueuedRender::state);
    if (next == queue_.end()) return;
    next->state = QueuedRender::State::running;
    running_ = next->number;
    pausing_ = false;
    failed_ = false;
    report_.reset();
    outcome_.clear();
    shotName_ = QString::fromStdString(next->work.name);
    progress_ = {};
    framesPerSecond_ = 0;
    for (const WorkShot& of : next->work.shots)
        progress_.total += of.last ? *of.last + 1 - of.first : of.timing.outputFrames() - of.first;
    std::jthread previous = std::move(thread_); // ended or ending; joined off this thread
    thread_ = std::jthread([this, number = next->number, work = next->work,
                            previous = std::move(previous)](const std::stop_token& stop) mutable {
        if (previous.joinable()) previous.join();
        run(number, work, stop);
    });
    changeQueue();
}

void RenderController::run(std::int64_t number, const RenderWork& work, const std::stop_token& stop) {
    const auto finish = [&](Ending ending, const QString& outcome,
                            std::optional<RenderReport> report = std::nullopt) {
        postTo(this, [this, number, ending, outcome, report = std::move(report)] {
            end(number, ending, outcome, report);
        });
    };
    // Before the next render begins, which may have the same name.
    const auto cancelled = [&] {
        if (!pausing_) static_cast<void>(slicesOfWork(work).remove());
        finish(Ending::cancelled, {});
    };
    try {
        WorkMeans means = means_;
        means.cacheBytes = renderCacheBytes;
        const RenderWork ready = prepared(work, means, stop);
        std::vector<RenderPart> parts = partsOf(ready, means, stop);
        RenderOptions options = optionsOf(ready, parts);
        options.inputs.add(ready.spared);
        options.onThreadStart = yieldToInterface;
        if (isLong(parts))
            options.slices = SliceUse{
                .folder = slicesOfWork(ready).path(), .count = usualSliceCount(framesOf(parts)), .only = {}};
        RenderJob job(std::move(parts), std::move(options));
        auto lastShown = std::chrono::steady_clock::now();
        const auto onProgress = [&](const RenderProgress& p) {
            const auto moment = std::chrono::steady_clock::now();
            if (moment - lastShown < std::chrono::milliseconds(100) && p.done < p.total) return;
            lastShown = moment;
            postTo(this, [this, number, p] { showProgress(number, p); });
        };
        // Tell the end before the job's last thread is joined: a long estimation may still be in it.
        try {
            RenderReport report = job.run(onProgress, stop);
            QStringList files;
            for (const RenderTarget& target : ready.targets)
                files << QString::fromStdString(target.file.string());
            const QString outcome = tr("%n frames written to %1.", nullptr, static_cast<int>(report.frames))
                                        .arg(files.join(tr(" and ")));
            finish(Ending::done, outcome, std::move(report));
        } catch (const Cancelled&) {
            cancelled();
        }
    } catch (const Cancelled&) { // while searching for cuts
        cancelled();
    } catch (const std::exception& error) {
        finish(Ending::failed, QString::fromStdString(sentenceOf(error)));
    }
}

void RenderController::showProgress(std::int64_t number, const RenderProgress& progress) {
    if (running_ != number) return;
    const double moment = now();
    constexpr double enough = 0.5; // seconds
    if (progress_.done == 0 || progress.joining != progress_.joining) {
        firstSeconds_ = moment;
        firstDone_ = progress.done;
        framesPerSecond_ = 0;
    } else if (moment - firstSeconds_ > enough) {
        framesPerSecond_ = static_cast<double>(progress.done - firstDone_) / (moment - firstSeconds_);
    }
    progress_ = progress;
    Q_EMIT changed();
}

void RenderController::end(std::int64_t number, Ending ending, const QString& outcome,
                           const std::optional<RenderReport>& report) {
    if (running_ != number) return;
    running_.reset();
    failed_ = ending == Ending::failed;
    report_ = report;
    outcome_ = outcome;
    if (QueuedRender* job = entry(number)) {
        using State = QueuedRender::State;
        const bool paused = ending == Ending::cancelled && pausing_;
        if (ending == Ending::cancelled)
            outcome_ =
                paused ? tr("Paused. Finished parts are kept.") : tr("Cancelled; nothing was written.");
        job->state = ending == Ending::done     ? State::done
                     : ending == Ending::failed ? State::failed
                     : paused                   ? State::paused
                                                : State::cancelled;
        job->outcome = outcome_.toStdString();
    }
    if (ending != Ending::cancelled) tellDesktop(outcome_);
    changeQueue();
    Q_EMIT finished();
    startNext();
}

void RenderController::endOnFarm(std::int64_t number, FarmWatch::Ending ending, const QString& words) {
    QueuedRender* job = entry(number);
    if (!job) return;
    using State = QueuedRender::State;
    job->state = ending == FarmWatch::Ending::done     ? State::done
                 : ending == FarmWatch::Ending::failed ? State::failed
                                                       : State::cancelled;
    const QString outcome = ending == FarmWatch::Ending::done ? tr("The farm has written %1.").arg(words)
                            : ending == FarmWatch::Ending::failed
                                ? words
                                : tr("Taken off the farm; nothing was written.");
    job->outcome = outcome.toStdString();
    if (!running_) { // or what is told is about the one that runs here
        failed_ = ending == FarmWatch::Ending::failed;
        report_.reset();
        outcome_ = outcome;
        shotName_ = QString::fromStdString(job->work.name);
        if (ending != FarmWatch::Ending::cancelled) tellDesktop(outcome);
    }
    changeQueue();
    Q_EMIT finished();
}

void RenderController::tellDesktop(const QString& outcome) const {
    // The freedesktop.org interface for notifications; where nobody listens nothing happens.
    if (QApplication::activeWindow() || QGuiApplication::platformName() == QStringLiteral("offscreen"))
        return;
    QDBusMessage call = QDBusMessage::createMethodCall(
        QStringLiteral("org.freedesktop.Notifications"), QStringLiteral("/org/freedesktop/Notifications"),
        QStringLiteral("org.freedesktop.Notifications"), QStringLiteral("Notify"));
    call << tr("Yarn Gap") << 0U << QString()
         << (failed_ ? tr("%1 could not be rendered").arg(shotName_) : tr("%1 is rendered").arg(shotName_))
         << outcome << QStringList() << QVariantMap() << -1;
    QDBusConnection::sessionBus().send(call);
}

void RenderController::forgetOutcome() {
    if (running() || outcome_.isEmpty()) return;
    outcome_.clear();
    failed_ = false;
    report_.reset();
    Q_EMIT changed();
}

} // namespace yarngap::app
