// The main window: shots and steps, the gap view, the thread chart.
#pragma once

#include "app/chart/thread_chart.h"
#include "app/document/background_tasks.h"
#include "app/document/demo_shots.h"
#include "app/document/document.h"
#include "app/document/doubt_search.h"
#include "app/document/finish_work.h"
#include "app/document/other_doubts.h"
#include "app/document/recovery_keeper.h"
#include "app/help/help_window.h"
#include "app/help/key_table.h"
#include "app/look/desktop_look.h"
#include "app/look/theme.h"
#include "app/playing/playhead_keeper.h"
#include "app/playing/sound_playback.h"
#include "app/playing/source_thumbnails.h"
#include "app/stage/gap_view.h"
#include "app/steps/clean_step.h"
#include "app/steps/finish_step.h"
#include "app/steps/in_betweens_step.h"
#include "app/steps/mend_step.h"
#include "app/steps/trim_step.h"
#include "app/window/left_column.h"
#include "app/window/mending_list.h"
#include "app/window/notice_bar.h"
#include "app/window/preferences.h"
#include "app/window/shot_list.h"
#include "app/window/shown_shot.h"
#include "app/window/start_panel.h"
#include "app/window/top_bar.h"
#include "app/window/window_layout.h"

#include <QPointer>
#include <QTimer>
#include <QToolButton>
#include <QWidget>

#include <functional>
#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace yarngap::app {

class MainWindow : public QWidget {
    Q_OBJECT
  public:
    /// Unsaved work is kept in `recoveryFolder`; nowhere when that is empty.
    explicit MainWindow(const QString& recoveryFolder = {}, QWidget* parent = nullptr);
    ~MainWindow() override;
    MainWindow(const MainWindow&) = delete;
    MainWindow& operator=(const MainWindow&) = delete;
    MainWindow(MainWindow&&) = delete;
    MainWindow& operator=(MainWindow&&) = delete;

    [[nodiscard]] Document& document() { return document_; }
    [[nodiscard]] Player& player() { return player_; }
    [[nodiscard]] Preview& preview() { return preview_; }
    [[nodiscard]] SoundPlayback& sound() { return sound_; }
    [[nodiscard]] RenderController& render() { return render_; }
    [[nodiscard]] DoubtSearch& doubts() { return doubts_; }
    [[nodiscard]] FinishWork& finishWork() { return finishWork_; }
    [[nodiscard]] GapView& gapView() { return *gapView_; }
    [[nodiscard]] const std::shared_ptr<const FramePlan>& plan() const { return shown_.plan(); }

  protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void closeEvent(QCloseEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    // The window and its parts
    [[nodiscard]] Workspace workspace();
    void layOut();
    LeftColumn* buildColumn();
    void connectChart();
    void connectDocument();
    void connectInBetweens();
    void connectClean();
    void connectMend();
    void connectGapMends();
    void editMending(const Mending& mending, const QString& what, int kind = 0);
    [[nodiscard]] std::optional<GapToMend> gapAtPlayhead() const;
    void showGapMends();
    void editGuide(bool on);
    void takeGuide(const Guide& guide, const QString& what);
    void checkGuide(const Guide& guide);
    void editPatch(bool on, bool isNew);
    void takeOutline(const std::vector<PicturePoint>& outline, OutlineOverlay::Change change);
    void changePatch(const QString& what, const std::function<void(Patch&)>& change);
    void showPatchOutline();
    void showWithoutMends(bool on);
    void connectFinish();
    /// Frames and facts that go on the stage: without their finish while places of the source are edited.
    void putOnStage();
    [[nodiscard]] OutputFramesPtr stageFrames() const;
    void showUnfinished();
    void showPlace();
    void takePlace(const PlaceOverlay::Place& place, bool isDragged);
    void chooseHold(HoldRow::Choosing what);
    void showHold();
    void showHistogram();
    void mendByTiming(const GapRange& gaps, bool quickly, bool keepLength);
    void showMendingList(bool on);
    void showDoubts();
    void lookAtOtherShots();
    void goToDoubtful(int direction);
    void showSourceSheet(bool on);
    void showCleanOutcome();
    void decideAboutSource(qint64 frame, std::optional<CleanupKind> decision);
    void goToSourceFrame(qint64 interpreted);
    void connectFiles();
    void connectStart();
    void connectCompare();
    void connectSound();
    void applyLook();
    void prepareShortcuts();
    void prepareKeys();
    void showKeys();
    /// At the chapter of the open step.
    void showGuide();
    /// What the value with the focus, or under the pointer, is.
    void showValueHelp(QWidget* at);
    bool offerValueHelp(QWidget* at, const QPoint& where);
    HelpWindow& help();
    [[nodiscard]] QString problemReport() const;
    bool handleKey(int key, Qt::KeyboardModifiers modifiers);
    void showFullScreenStage(bool on);

    // Files
    void openDialog();
    void askEditRate(const QString& list);
    void startAnew();
    void showOpenMenu();
    void save(bool chooseName);
    /// What waits for a save: to close, or to open another project.
    void goOnAfterSaving();
    void keepRecovery(const QString& folder);
    void offerRecovery();
    void findAgain();
    void readAgain();
    void askWhichNumber();
    void askBeforeReplacing(const QString& file);

    // The current shot
    void rebuild(); ///< plan and frames of the current shot, then all views
    void showShot(const Shot& shot, const std::shared_ptr<const MediaIndex>& index, const Timing& timing);
    void openFootage(const Shot& shot, const std::shared_ptr<const MediaIndex>& index);
    void showNoShot(const Shot* shot); ///< one whose media is not ready, or null
    void showFindings();
    void refreshSteps();
    void showTrouble(const QString& sentence);
    [[nodiscard]] std::optional<std::pair<std::int64_t, std::int64_t>> selectedGaps() const;
    [[nodiscard]] std::int64_t sourceFrameAtPlayhead() const;
    [[nodiscard]] std::pair<qint64, qint64> loopRange() const;
    void goOnWithNextShot();

    // Comparing and trying
    /// Gives the gap view what it compares with: other settings on the present timing; or ends comparing.
    void compare(bool on);
    [[nodiscard]] OtherVersion versionOfFile(const Timing& timing);
    void editTakes(const QString& what, const std::function<void(Shot&)>& edit);
    void tryFour();

    // Preferences
    void showPreferences();
    void applyPreferences(const Preferences& preferences);
    void refreshSound();

    std::optional<SheetWithheld> whileBuilt_{std::in_place}; // before all widgets
    Preferences preferences_;
    Document document_;
    Player player_;
    Preview preview_;
    SoundPlayback sound_;
    RenderController render_;
    std::optional<Rate> editRate_; ///< of the EDL that was opened last
    ShownShot shown_;
    SourceThumbnails thumbnails_;
    PlayheadKeeper playhead_;
    DoubtSearch doubts_;
    OtherDoubts otherDoubts_;
    FinishWork finishWork_;
    PictureStage::Marks marks_;
    HoldRow::Choosing choosing_ = HoldRow::Choosing::nothing;
    QTimer othersSoon_;        ///< before the others are looked at
    BackgroundTasks gapTasks_; ///< what guides and outlines need of the pictures
    std::stop_source outlining_;
    std::optional<std::size_t> patch_; ///< whose outline is being changed; none while a new one is drawn
    Workspace workspace_;

    TopBar* topBar_;
    NoticeBar* notice_;
    QToolButton* playOn_;
    ShotList* shotList_;
    struct Step {
        StepCard* card;
        StepBody* body;
    };
    std::vector<Step> steps_;
    LeftColumn* column_ = nullptr;
    WindowLayout layout_{*this};
    QWidget* right_ =
        nullptr; ///< beside the stage, for lists of what is to be done; hidden while it is empty
    TrimStep* trim_;
    CleanStep* clean_;
    InBetweensStep* inBetweens_;
    MendStep* mend_;
    FinishStep* finish_;
    MendingList* mendingList_;
    GapView* gapView_;
    StartPanel* start_;
    DemoShots demo_;
    ThreadChart* chart_;
    KeyTable keyTable_;
    DesktopLook desktopLook_;
    QPointer<HelpWindow> help_;
    std::vector<QWidget*> aroundStage_; ///< hidden while the stage takes the whole screen
    bool fullScreenStage_ = false;
    Qt::WindowStates stateBefore_;
    std::unique_ptr<RecoveryKeeper> recovery_;
    /// Pictures of which it is not clear which number counts the frames: the patterns, and the question.
    std::vector<std::pair<QStringList, QString>> unclear_;
    QString comparedFile_;
    QString toldLost_;     ///< what was last told of a source that was lost
    bool closing_ = false; ///< close as soon as the save under way is done
    QString openNext_;     ///< project to open as soon as the save under way is done
    bool discard_ = false; ///< the editor chose to close without saving
};

} // namespace yarngap::app
