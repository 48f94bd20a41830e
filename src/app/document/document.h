// The open project, with undo.
#pragma once

#include "app/document/media_library.h"
#include "core/edit/open_edit.h"
#include "core/project/project.h"
#include "core/shot/source_axis.h"

#include <QObject>
#include <QUndoStack>

#include <functional>
#include <optional>

namespace yarngap::app {

/// The project being worked on. Every change goes through here and can be undone.
class Document : public QObject {
    Q_OBJECT
  public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override;
    Document(const Document&) = delete;
    Document& operator=(const Document&) = delete;
    Document(Document&&) = delete;
    Document& operator=(Document&&) = delete;

    [[nodiscard]] const Project& project() const { return project_; }
    [[nodiscard]] QUndoStack& undoStack() { return undo_; }
    [[nodiscard]] MediaLibrary& media() { return media_; }

    /// Index of the shot being worked on, -1 when there is none.
    [[nodiscard]] int currentIndex() const { return current_; }
    [[nodiscard]] const Shot* current() const;
    void setCurrent(int index);

    /// Media of the current shot once its index is there, else null.
    [[nodiscard]] std::shared_ptr<const MediaIndex> currentMedia() const;
    /// Which frames a shot has; null until its media is ready. A file that the interpretation or the cleanup
    /// does not suit is taken without it.
    [[nodiscard]] std::shared_ptr<const SourceAxis> axisOf(const Shot& shot) const;
    [[nodiscard]] std::shared_ptr<const SourceAxis> currentAxis() const;
    /// What the current shot's media is as interpreted; empty until it is ready.
    [[nodiscard]] std::optional<MediaFacts> currentFacts() const;
    /// The current shot's interpretation, or none of it when it does not suit its media.
    [[nodiscard]] Interpretation currentInterpretation() const;
    /// The same before the cleanup.
    [[nodiscard]] std::shared_ptr<const SourceAxis> interpretedAxis() const;
    /// Cuts and repeats of a shot; absent until its media has been measured.
    [[nodiscard]] std::optional<GapFindings> gapFindingsOf(const Shot& shot) const;
    /// Timing of the current shot; empty until its media is ready.
    [[nodiscard]] std::optional<Timing> currentTiming() const;

    /// Adds media files as shots, the first of them becomes current. Undoable.
    void addShots(const QStringList& mediaFiles);
    /// Takes the current shot out of the project; its file stays. Undoable.
    void removeCurrent();
    void renameCurrent(const QString& name);
    /// A second treatment of the same media, right after the current shot.
    void duplicateCurrent();
    /// Moves the current shot by `places` in the list, as far as it goes.
    void moveCurrent(int places);
    /// Looks in `file` for the media of the current shot, in the background. The same content is taken at
    /// once; another one is told through `otherContent`, unless `anyway`.
    void relinkCurrent(const QString& file, bool anyway = false);
    /// Replaces the current shot's settings. Edits of the same `kind` in a row become one step of undo.
    void edit(const QString& text, const Shot& changed, int kind = 0);
    /// Changes the current shot and the next one in one step of undo; nothing where there is no next one.
    void editTwo(const QString& text, const std::function<void(Shot& here, Shot& after)>& change);
    /// What is decided about source frames goes along, and so does all that lies on them.
    void editInterpretation(const QString& text, const Interpretation& changed);
    /// Decides about source frames. The result is as many frames longer or shorter, unless it is to
    /// `keepLength`.
    void editCleanup(const QString& text, const Cleanup& changed, bool keepLength, int kind = 0);
    void editTiming(const QString& text, const Timing& timing, int kind = 0);

    /// Opens projects and media given together: a `.yarngap` replaces the project, media is added, of several
    /// pictures of a sequence one. Where it is not clear which number counts the frames, `unclearNumber`
    /// tells.
    void openFiles(const QStringList& files);
    /// Opens an edit's list, looking for its media in `folder` and below. Shots of the same list that are
    /// there already keep their treatment. Without a rate an EDL, which says none, only tells
    /// `edlNeedsRate`. What could not be done is told through `editOpened`. Undoable.
    void openEditList(const QString& list, const QString& folder, const std::optional<Rate>& rate = {});
    /// Opens one project. With unsaved changes it only tells `wouldLoseChanges`, unless `discard`.
    void openProject(const QString& file, bool discard = false);
    /// Opens a recovered copy as unsaved work on `origin`, which may be empty; tells `recovered`.
    void recoverProject(const QString& copy, const QString& origin);
    /// An empty project; the one before is given up.
    void startAnew();
    [[nodiscard]] const QString& file() const { return file_; }
    /// Writes the project. A file that another program has changed since it was opened here is left alone,
    /// which `changedMeanwhile` tells; unless `over`. Saving under another name replaces what is there.
    void save(const QString& file, bool over = false);
    [[nodiscard]] bool hasUnsavedChanges() const { return !undo_.isClean() && !project_.shots.empty(); }

  Q_SIGNALS:
    void shotsChanged();   ///< list, order or selection of shots
    void currentChanged(); ///< another shot is current, or its media became ready
    void shotEdited();     ///< settings of the current shot
    void mediaChanged();   ///< state of any media
    void fileChanged();    ///< name of the project file or saved state
    void trouble(const QString& sentence);
    void otherContent(const QString& file, const QString& sentence); ///< see relinkCurrent
    void recovered(const QString& copy);                             ///< a copy is open now
    void wouldLoseChanges(const QString& file); ///< a project was read that would replace unsaved work
    void changedMeanwhile(const QString& file, const QString& sentence); ///< see save
    /// A picture that may belong to any of these sequences, each of which can be opened.
    void unclearNumber(const QStringList& patterns, const QString& sentence);

    void edlNeedsRate(const QString& list); ///< see openEditList
    /// How a list was opened; `isMissing`: media of some events was not in the folder.
    void editOpened(const QString& list, const QString& sentence, bool isMissing);

  private:
    friend class ShotsCommand;
    void takeEdit(const QString& list, const OpenedEdit& opened);
    void setShots(const std::vector<Shot>& shots, int current);
    void replaceProject(const Project& project, const QString& file,
                        const std::optional<FileEdition>& edition);

    /// The axis last asked for; making one walks through all frames.
    struct KnownAxis {
        std::shared_ptr<const MediaIndex> index;
        Interpretation asked; ///< that of the axis, unless it does not suit the file
        Cleanup cleanup;      ///< likewise
        std::shared_ptr<const SourceAxis> axis;
        std::shared_ptr<const SourceAxis> interpreted; ///< before the cleanup; null until asked for
    };

    /// The same of findings as a shot has them.
    struct KnownFindings {
        std::shared_ptr<const ShotFindings> findings;
        std::shared_ptr<const SourceAxis> axis;
        GapFindings carried;
    };

    Project project_;
    mutable std::optional<KnownAxis> knownAxis_;
    mutable std::optional<KnownFindings> knownFindings_;
    std::shared_ptr<const MediaIndex>
        announced_; // index of the current media when currentChanged last told of it
    QString file_;
    std::optional<FileEdition> fileEdition_; ///< of the project file, as it was read or written last
    int current_ = -1;
    QUndoStack undo_;
    MediaLibrary media_;
    BackgroundTasks edits_; ///< apart from files_: looking through folders must not hold up saving
    BackgroundTasks files_;
};

} // namespace yarngap::app
