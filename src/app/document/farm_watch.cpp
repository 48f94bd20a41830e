#include "app/document/farm_watch.h"

#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/media/frame_writer.h"
#include "core/project/farm_work.h"
#include "core/render/slice_folder.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QStandardPaths>

namespace yarngap::app {

namespace {

constexpr int lookEvery = 2000; // ms

/// The program that works on the slices; empty where there is none.
QString commandLineProgram() {
    const QString name = QStringLiteral("yarngap-cli");
    const QString beside = QStandardPaths::findExecutable(name, {QCoreApplication::applicationDirPath()});
    return beside.isEmpty() ? QStandardPaths::findExecutable(name) : beside;
}

bool isWritten(const std::filesystem::path& target) {
    return std::filesystem::exists(target) || !picturesThere(target).empty();
}

/// The last line of the log of the first slice that failed, or of the join.
QString lastWords(const std::filesystem::path& folder, const FarmState& state) {
    std::optional<int> failed;
    for (int n = 0; n < static_cast<int>(state.slices.size()) && !failed; ++n)
        if (state.slices[static_cast<std::size_t>(n)] == FarmState::Slice::failed) failed = n;
    const QString log = QString::fromStdString(farmLog(folder, failed)).trimmed();
    return log.section(QLatin1Char('\n'), -1).section(QLatin1Char('\r'), -1).trimmed();
}

QString failedWords(const std::filesystem::path& folder, const FarmState& state) {
    const int failed = state.count(FarmState::Slice::failed);
    QString words = failed > 0 ? FarmWatch::tr("%n parts failed on the farm.", nullptr, failed)
                               : FarmWatch::tr("All parts are ready, but joining them failed on the farm.");
    if (const QString last = lastWords(folder, state); !last.isEmpty()) words += QLatin1Char(' ') + last;
    return words;
}

} // namespace

FarmWatch::FarmWatch(QObject* parent)
    : QObject(parent) {
    timer_.setInterval(lookEvery);
    connect(&timer_, &QTimer::timeout, this, &FarmWatch::look);
}

FarmWatch::~FarmWatch() {
    for (auto& [number, watched] : watched_)
        watched.preparing.request_stop();
}

bool FarmWatch::isThere() {
    return !QStandardPaths::findExecutable(QStringLiteral("sbatch")).isEmpty() &&
           !commandLineProgram().isEmpty();
}

void FarmWatch::hand(std::int64_t number, RenderWork work, const WorkMeans& means) {
    Watched& watched = watched_[number];
    watched = {.target = work.targets.front().file, .preparing = std::stop_source()};
    states_.erase(number);
    handing_.run([this, number, work = std::move(work), means, program = commandLineProgram(),
                  stop = watched.preparing.get_token()](const std::stop_token&) {
        try {
            submitWork(prepared(work, means, stop), program.toStdString());
            postTo(this, [this, number] {
                const auto at = watched_.find(number);
                if (at == watched_.end()) return;
                at->second.isHanded = true;
                timer_.start();
                look();
            });
        } catch (const Cancelled&) {
            postTo(this, [this, number] { end(number, Ending::cancelled, {}); });
        } catch (const std::exception& error) {
            postTo(this, [this, number, sentence = QString::fromStdString(sentenceOf(error))] {
                end(number, Ending::failed, sentence);
            });
        }
    });
}

void FarmWatch::watch(std::int64_t number, const std::filesystem::path& target) {
    watched_[number] = {.target = target, .isHanded = true, .preparing = std::stop_source()};
    timer_.start();
    look();
}

void FarmWatch::cancel(std::int64_t number) {
    const auto at = watched_.find(number);
    if (at == watched_.end()) return;
    at->second.isCancelled = true;
    at->second.preparing.request_stop();
    Q_EMIT looked(number);
    look();
}

const FarmState* FarmWatch::state(std::int64_t number) const {
    const auto at = states_.find(number);
    return at == states_.end() ? nullptr : &at->second;
}

bool FarmWatch::isBeingCancelled(std::int64_t number) const {
    const auto at = watched_.find(number);
    return at != watched_.end() && at->second.isCancelled;
}

void FarmWatch::readLog(const std::filesystem::path& target, std::optional<int> slice) {
    slurm_.run([this, target, folder = SliceFolder::beside(target), slice](const std::stop_token&) {
        QString text;
        try {
            text = QString::fromStdString(farmLog(folder, slice));
        } catch (const Error& error) {
            text = QString::fromStdString(error.what());
        }
        postTo(this, [this, target, slice, text] {
            Q_EMIT logRead(QString::fromStdString(target.string()), slice.value_or(-1), text);
        });
    });
}

void FarmWatch::look() {
    if (watched_.empty()) timer_.stop();
    if (looking_ > 0) return;
    for (const auto& [number, watched] : watched_) {
        if (!watched.isHanded) continue;
        ++looking_;
        slurm_.run([this, number = number, target = watched.target,
                    cancels = watched.isCancelled](const std::stop_token&) {
            const auto folder = SliceFolder::beside(target);
            FarmState state;
            QString trouble;
            try {
                if (cancels && std::filesystem::exists(folder)) cancelOnFarm(folder);
                state = farmState(folder);
                if (state.join == FarmState::Join::done && !isWritten(target))
                    throw Error(folder.string() + " is gone, and " + target.string() +
                                " is not there. Hand it over once more.");
                if (state.join == FarmState::Join::failed) trouble = failedWords(folder, state);
                if (cancels && state.isOver()) static_cast<void>(SliceFolder(folder).remove());
            } catch (const std::exception& error) {
                trouble = QString::fromStdString(sentenceOf(error));
            }
            postTo(this, [this, number, state, trouble] { show(number, state, trouble); });
        });
    }
}

void FarmWatch::show(std::int64_t number, const FarmState& state, const QString& trouble) {
    --looking_;
    const auto at = watched_.find(number);
    if (at == watched_.end()) return;
    states_[number] = state;
    if (state.join == FarmState::Join::done && trouble.isEmpty()) {
        // Whatever was asked meanwhile.
        end(number, Ending::done, QString::fromStdString(at->second.target.string()));
    } else if (at->second.isCancelled && state.isOver()) {
        end(number, Ending::cancelled, {});
    } else if (!trouble.isEmpty()) {
        end(number, Ending::failed, trouble);
    } else {
        Q_EMIT looked(number);
    }
}

void FarmWatch::end(std::int64_t number, Ending ending, const QString& words) {
    if (watched_.erase(number) == 0) return;
    Q_EMIT ended(number, ending, words);
}

} // namespace yarngap::app
