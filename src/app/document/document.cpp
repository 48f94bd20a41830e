#include "app/document/document.h"

#include "app/document/shots_command.h"

#include "core/error.h"
#include "core/files/reading_thread.h"
#include "core/files/write_failure.h"
#include "core/media/media_identity.h"
#include "core/media/numbered_names.h"
#include "core/media/picture_sequence.h"

#include <QFileInfo>

#include <algorithm>

namespace yarngap::app {

namespace {

/// The axis of a file that is taken as it is where `interpretation` does not suit it, and without a cleanup
/// that would leave nothing of it.
std::shared_ptr<const SourceAxis> suitableAxis(const MediaIndex& index, const Interpretation& interpretation,
                                               const Cleanup& cleanup) {
    const auto axisWith = [&](const Interpretation& taken) {
        auto axis = std::make_shared<const SourceAxis>(index, taken, cleanup);
        if (cleanup.count(CleanupKind::takeOut) < axis->interpretedFrames()) return axis;
        return std::make_shared<const SourceAxis>(index, taken);
    };
    try {
        validate(interpretation, index);
        return axisWith(interpretation);
    } catch (const Error&) {
        return axisWith({});
    }
}

} // namespace

Document::Document(QObject* parent)
    : QObject(parent) {
    project_.name = "Untitled";
    constexpr int mostSteps = 500; // of undo; each holds a shot before and after it
    undo_.setUndoLimit(mostSteps);
    connect(&media_, &MediaLibrary::changed, this, [this](const QString& path) {
        Q_EMIT mediaChanged();
        const Shot* shot = current();
        if (!shot || QString::fromStdString(shot->media.string()) != path) return;
        // What is measured of a file that is ready changes no plan and no picture.
        const auto& index = media_.state(shot->media).index;
        if (index && index == announced_) return;
        announced_ = index;
        Q_EMIT currentChanged();
    });
    connect(&undo_, &QUndoStack::cleanChanged, this, &Document::fileChanged);
}

Document::~Document() {
    undo_.disconnect(this); // it tells of its own clearing
}

const Shot* Document::current() const {
    return current_ < 0 ? nullptr : &project_.shots[static_cast<std::size_t>(current_)];
}

void Document::setCurrent(int index) {
    if (index == current_ || index < 0 || index >= static_cast<int>(project_.shots.size())) return;
    current_ = index;
    media_.prefer(current()->media);
    Q_EMIT shotsChanged();
    Q_EMIT currentChanged();
}

std::shared_ptr<const MediaIndex> Document::currentMedia() const {
    const Shot* shot = current();
    return shot ? media_.state(shot->media).index : nullptr;
}

std::optional<Timing> Document::currentTiming() const {
    const auto axis = currentAxis();
    if (!axis) return std::nullopt;
    return current()->timing(axis->facts().rate, axis->frames());
}

Interpretation Document::currentInterpretation() const {
    const auto axis = currentAxis();
    return axis ? axis->interpretation() : Interpretation{};
}

std::shared_ptr<const SourceAxis> Document::axisOf(const Shot& shot) const {
    const auto& index = media_.state(shot.media).index;
    if (!index) return nullptr;
    if (!knownAxis_ || knownAxis_->index != index || knownAxis_->asked != shot.interpretation ||
        knownAxis_->cleanup != shot.cleanup)
        knownAxis_ = KnownAxis{index, shot.interpretation, shot.cleanup,
                               suitableAxis(*index, shot.interpretation, shot.cleanup), nullptr};
    return knownAxis_->axis;
}

std::shared_ptr<const SourceAxis> Document::interpretedAxis() const {
    auto axis = currentAxis();
    if (!axis || axis->cleanup().empty()) return axis;
    if (!knownAxis_->interpreted)
        knownAxis_->interpreted = std::make_shared<const SourceAxis>(*currentMedia(), axis->interpretation());
    return knownAxis_->interpreted;
}

std::shared_ptr<const SourceAxis> Document::currentAxis() const {
    return current() ? axisOf(*current()) : nullptr;
}

std::optional<GapFindings> Document::gapFindingsOf(const Shot& shot) const {
    const auto& findings = media_.state(shot.media).findings;
    const auto axis = findings ? axisOf(shot) : nullptr;
    if (!axis) return std::nullopt;
    if (!knownFindings_ || knownFindings_->findings != findings || knownFindings_->axis != axis)
        knownFindings_ = KnownFindings{findings, axis, axis->findings(*findings)};
    return knownFindings_->carried;
}

std::optional<MediaFacts> Document::currentFacts() const {
    const auto axis = currentAxis();
    return axis ? std::optional(axis->facts()) : std::nullopt;
}

void Document::editTwo(const QString& text, const std::function<void(Shot&, Shot&)>& change) {
    const auto at = static_cast<std::size_t>(current_);
    if (!current() || at + 1 >= project_.shots.size()) return;
    std::vector<Shot> shots = project_.shots;
    change(shots[at], shots[at + 1]);
    if (shots != project_.shots) undo_.push(new ShotsCommand(*this, text, shots, current_, 0));
}

void Document::editInterpretation(const QString& text, const Interpretation& changed) {
    const auto index = currentMedia();
    const auto axis = currentAxis();
    if (!index || !axis) return;
    try {
        validate(changed, *index);
        Shot shot = *current();
        const SourceAxis before(*index, axis->interpretation());
        const Cleanup cleanup = carriedCleanup(axis->cleanup(), before, SourceAxis(*index, changed));
        shot.carryOver(*axis, SourceAxis(*index, changed, cleanup));
        edit(text, shot);
        const auto lost = axis->cleanup().decisions.size() - cleanup.decisions.size();
        if (lost > 0)
            Q_EMIT trouble(tr("%1 of the decisions about source frames met another one and are gone. Undo "
                              "brings them back.")
                               .arg(lost));
    } catch (const Error& error) {
        Q_EMIT trouble(QString::fromStdString(error.what()));
    }
}

void Document::editCleanup(const QString& text, const Cleanup& changed, bool keepLength, int kind) {
    const auto index = currentMedia();
    const auto axis = currentAxis();
    if (!index || !axis) return;
    try {
        validate(changed, axis->interpretedFrames());
        Shot shot = *current();
        const SourceAxis cleaned(*index, axis->interpretation(), changed);
        shot.carryOver(*axis, cleaned, keepLength);
        validate(shot.timing(cleaned.facts().rate, cleaned.frames())); // its speed may have changed
        edit(text, shot, kind);
    } catch (const Error& error) {
        Q_EMIT trouble(QString::fromStdString(error.what()));
    }
}

void Document::setShots(const std::vector<Shot>& shots, int index) {
    const bool listChanged = shots.size() != project_.shots.size();
    const bool otherShot = listChanged || index != current_;
    project_.shots = shots;
    current_ = std::clamp(index, shots.empty() ? -1 : 0, static_cast<int>(shots.size()) - 1);
    if (current()) media_.prefer(current()->media);
    for (const Shot& shot : project_.shots)
        media_.open(shot.media);
    Q_EMIT shotsChanged();
    if (otherShot)
        Q_EMIT currentChanged();
    else
        Q_EMIT shotEdited();
}

void Document::addShots(const QStringList& mediaFiles) {
    std::vector<Shot> shots = project_.shots;
    const int first = static_cast<int>(shots.size());
    for (const QString& file : mediaFiles)
        shots.push_back(shotOf(file.toStdString()));
    if (static_cast<int>(shots.size()) == first) return;
    undo_.push(new ShotsCommand(*this,
                                mediaFiles.size() == 1
                                    ? tr("add %1").arg(QFileInfo(mediaFiles.front()).completeBaseName())
                                    : tr("add %n shots", nullptr, static_cast<int>(mediaFiles.size())),
                                shots, first, 0));
}

void Document::removeCurrent() {
    if (current_ < 0) return;
    std::vector<Shot> shots;
    const QString text = tr("remove %1").arg(QString::fromStdString(current()->name));
    for (const Shot& shot : project_.shots)
        if (&shot != current()) shots.push_back(shot);
    const int next = std::min(current_, static_cast<int>(shots.size()) - 1);
    undo_.push(new ShotsCommand(*this, text, shots, next, 0));
}

void Document::renameCurrent(const QString& name) {
    const QString trimmed = name.trimmed();
    if (!current() || trimmed.isEmpty()) return;
    Shot changed = *current();
    changed.name = trimmed.toStdString();
    edit(tr("rename to %1").arg(trimmed), changed);
    Q_EMIT shotsChanged();
}

void Document::duplicateCurrent() {
    if (!current()) return;
    std::vector<Shot> shots = project_.shots;
    Shot copy = *current();
    const std::string stem = copy.name;
    const auto taken = [&] {
        return std::any_of(shots.begin(), shots.end(), [&](const Shot& s) { return s.name == copy.name; });
    };
    for (int number = 2; taken(); ++number)
        copy.name = stem + ' ' + std::to_string(number);
    shots.insert(shots.begin() + current_ + 1, copy);
    undo_.push(new ShotsCommand(*this, tr("duplicate %1").arg(QString::fromStdString(stem)), shots,
                                current_ + 1, 0));
}

void Document::moveCurrent(int places) {
    if (!current()) return;
    const int to = std::clamp(current_ + places, 0, static_cast<int>(project_.shots.size()) - 1);
    if (to == current_) return;
    std::vector<Shot> shots = project_.shots;
    Shot moved = shots[static_cast<std::size_t>(current_)];
    shots.erase(shots.begin() + current_);
    shots.insert(shots.begin() + to, moved);
    undo_.push(new ShotsCommand(*this, tr("move %1").arg(QString::fromStdString(moved.name)), shots, to, 0));
}

void Document::relinkCurrent(const QString& file, bool anyway) {
    if (!current()) return;
    files_.run([this, file, anyway, before = *current(),
                known = media_.known()](const std::stop_token& stop) {
        try {
            const std::string found = known->index(file.toStdString(), {}, stop)->identity;
            postTo(this, [this, file, anyway, before, found] {
                const auto name = QString::fromStdString(before.name);
                if (!anyway && areComparable(before.identity, found) && before.identity != found) {
                    Q_EMIT otherContent(
                        file,
                        tr("%1 holds other pictures than the file that %2 was made with.").arg(file, name));
                    return;
                }
                std::vector<Shot> shots = project_.shots;
                bool changed = false;
                for (Shot& shot : shots) // every treatment of the file that was lost
                    if (shot.media == before.media) {
                        shot.media = shotOf(file.toStdString()).media;
                        shot.identity = found;
                        changed = true;
                    }
                if (changed)
                    undo_.push(new ShotsCommand(*this, tr("find %1 again").arg(name), shots, current_, 0));
                Q_EMIT currentChanged();
            });
        } catch (const Cancelled&) {
        } catch (const std::exception& error) {
            postTo(this, [this, text = QString::fromStdString(sentenceOf(error))] { Q_EMIT trouble(text); });
        }
    });
}

void Document::edit(const QString& text, const Shot& changed, int kind) {
    if (!current() || changed == *current()) return;
    std::vector<Shot> shots = project_.shots;
    shots[static_cast<std::size_t>(current_)] = changed;
    undo_.push(new ShotsCommand(*this, text, shots, current_, kind));
}

void Document::editTiming(const QString& text, const Timing& timing, int kind) {
    const auto facts = currentFacts();
    if (!facts) return;
    Shot changed = *current();
    changed.setTiming(timing, facts->frames);
    edit(text, changed, kind);
}

void Document::openFiles(const QStringList& files) {
    QStringList media;
    for (const QString& file : files)
        if (file.endsWith(QLatin1String(".yarngap")))
            openProject(file);
        else if (isEditList(file.toStdString()))
            openEditList(file, QFileInfo(file).absolutePath());
        else
            media.append(file);
    // After the projects, so that a project given along does not replace the shots just added.
    if (media.isEmpty()) return;
    files_.run([this, media](const std::stop_token& stop) {
        std::vector<std::filesystem::path> paths;
        for (const QString& file : media)
            paths.emplace_back(file.toStdString());
        QStringList clear;
        ReadingThread reading;
        for (const std::filesystem::path& path : oneOfEachSequence(paths)) {
            try {
                if (isPictureFile(path)) filesOf(path, reading, stop);
            } catch (const UnclearNumber& error) {
                QStringList patterns;
                for (const std::filesystem::path& pattern : error.patterns())
                    patterns << QString::fromStdString(pattern.string());
                postTo(this, [this, patterns, text = QString::fromStdString(error.what())] {
                    Q_EMIT unclearNumber(patterns, text);
                });
                continue;
            } catch (const Cancelled&) {
                return;
            } catch (const Error&) {
                // Opening it meets the same trouble and tells it on the shot's card.
            }
            clear << QString::fromStdString(path.string());
        }
        postTo(this, [this, clear] { addShots(clear); });
    });
}

void Document::openProject(const QString& file, bool discard) {
    files_.run([this, file, discard](const std::stop_token&) {
        try {
            const LoadedProject loaded = loadEdition(file.toStdString());
            postTo(this, [this, loaded, file, discard] {
                if (hasUnsavedChanges() && !discard)
                    Q_EMIT wouldLoseChanges(file);
                else
                    replaceProject(loaded.project, file, loaded.edition);
            });
        } catch (const std::exception& error) {
            postTo(this, [this, text = QString::fromStdString(sentenceOf(error))] { Q_EMIT trouble(text); });
        }
    });
}

void Document::startAnew() {
    Project empty;
    empty.name = "Untitled";
    replaceProject(empty, {}, {});
}

void Document::recoverProject(const QString& copy, const QString& origin) {
    files_.run([this, copy, origin](const std::stop_token&) {
        try {
            const Project project = loadProject(copy.toStdString());
            const auto edition = editionOf(std::filesystem::path(origin.toStdString()));
            postTo(this, [this, project, copy, origin, edition] {
                replaceProject(project, origin, edition);
                undo_.resetClean();
                Q_EMIT fileChanged();
                Q_EMIT recovered(copy);
            });
        } catch (const std::exception& error) {
            postTo(this, [this, text = QString::fromStdString(sentenceOf(error))] { Q_EMIT trouble(text); });
        }
    });
}

void Document::replaceProject(const Project& project, const QString& file,
                              const std::optional<FileEdition>& edition) {
    project_ = project;
    file_ = file;
    fileEdition_ = edition;
    undo_.clear();
    setShots(project.shots, project.shots.empty() ? -1 : 0);
    Q_EMIT currentChanged();
    Q_EMIT fileChanged();
}

void Document::save(const QString& file, bool over) {
    // The state that is written is the one now; edits made meanwhile stay unsaved.
    Project written = project_;
    for (Shot& shot : written.shots)
        if (const auto& index = media_.state(shot.media).index) shot.identity = index->identity;
    const bool sameFile = file == file_ && !over;
    files_.run([this, file, sameFile, known = fileEdition_, project = std::move(written),
                step = undo_.index()](const std::stop_token&) {
        const std::filesystem::path path = file.toStdString();
        try {
            const FileEdition edition = saveOver(project, path, sameFile ? known : editionOf(path));
            postTo(this, [this, file, step, edition] {
                file_ = file;
                fileEdition_ = edition;
                if (undo_.index() == step) undo_.setClean();
                Q_EMIT fileChanged();
            });
        } catch (const ChangedMeanwhile& error) {
            postTo(this, [this, file, text = QString::fromStdString(error.what())] {
                Q_EMIT changedMeanwhile(file, text);
            });
        } catch (const std::exception& error) {
            postTo(this, [this, text = QString::fromStdString(sentenceOf(error)) +
                                       tr(" Your work is still open; save it in another folder.")] {
                Q_EMIT trouble(text);
            });
        }
    });
}

} // namespace yarngap::app
