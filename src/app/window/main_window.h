// The main window: shots and steps, the gap view, the thread chart.
#pragma once

#include "app/document/document.h"
#include "app/stage/gap_view.h"
#include "app/steps/in_betweens_step.h"
#include "app/window/left_column.h"
#include "app/window/notice_bar.h"
#include "app/window/preferences.h"
#include "app/document/recovery_keeper.h"
#include "app/window/shot_list.h"
#include "app/playing/sound_playback.h"
#include "app/playing/source_thumbnails.h"
#include "app/steps/steps.h"
#include "app/chart/thread_chart.h"
#include "core/shot/ready_shot.h"

#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QToolButton>
#include <QWidget>

#include <filesystem>
#include <functional>
#include <map>
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
    [[nodiscard]] GapView& gapView() { return *gapView_; }
    [[nodiscard]] const std::shared_ptr<const FramePlan>& plan() const { return plan_; }

  protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void closeEvent(QCloseEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void buildTopBar(class QVBoxLayout& page);
    LeftColumn* buildColumn();
    void openDialog();
    void startAnew();
    void showOpenMenu();
    void save(bool chooseName);
    void showTrouble(const QString& sentence);
    void keepRecovery(const QString& folder);
    void offerRecovery();
    void findAgain();
    void readAgain();
    void askWhichNumber();
    void askBeforeReplacing(const QString& file);
    void showPreferences();
    void showFullScreenStage(bool on);
    void connectSound();
    void refreshSound();
    void applyPreferences(const Preferences& preferences);
    /// A version of the present shot, on its footage and with what is found in it.
    [[nodiscard]] ReadyShot ready(const Shot& version) const;
    void rebuild(); ///< plan and maker for the current shot, then all views
    [[nodiscard]] std::optional<std::pair<std::int64_t, std::int64_t>> selectedGaps() const;
    [[nodiscard]] std::pair<qint64, qint64> loopRange() const;
    void goOnWithNextShot();
    void connectInBetweens();
    void connectFiles();
    void connectCompare();
    /// Gives the gap view what it compares with: the other settings on the present timing.
    void refreshCompare(bool on);
    [[nodiscard]] OtherVersion versionOfFile(const Timing& timing);
    void editTakes(const QString& what, const std::function<void(Shot&)>& edit);
    void tryFour();
    void showFindings();
    void refreshSteps();
    void refreshTopBar();
    bool handleKey(int key, Qt::KeyboardModifiers modifiers);

    Preferences preferences_;
    Document document_;
    Player player_;
    Preview preview_;
    SoundPlayback sound_;
    RenderController render_;
    std::shared_ptr<VectorStore> vectors_;
    std::shared_ptr<RemakeErrors> remakes_ = std::make_shared<RemakeErrors>();
    std::shared_ptr<FrameFolder> finished_;
    std::shared_ptr<FrameSource> source_; // of the current shot's media
    std::shared_ptr<const MediaIndex> sourceIndex_;
    Footage footage_;                       // source_ as interpreted
    std::shared_ptr<FrameSource> compared_; // frames of a file that the shot is compared with
    std::shared_ptr<const MediaIndex> comparedIndex_;
    QString comparedFile_;
    SourceThumbnails thumbnails_;
    std::shared_ptr<const FramePlan> plan_;
    GapFindings shownFindings_; ///< as the plan has them
    /// Source position that the playhead stays on through edits of the timing, until it is moved.
    std::optional<double> heldMoment_;
    std::optional<Timing> shownTiming_; ///< of the plan
    bool placing_ = false;
    std::pair<int, std::filesystem::path> shownShot_{-1, {}};           ///< place in the project, and media
    std::map<std::pair<int, std::filesystem::path>, qint64> playheads_; ///< where each shot was left
    Workspace workspace_;

    QLabel* projectName_;
    QLabel* shotName_;
    QProgressBar* renderBar_;
    QLabel* renderText_;
    QPushButton* undo_;
    QPushButton* redo_;
    QToolButton* fold_; ///< shows and hides the left column
    QPushButton* open_;
    QPushButton* save_;
    QPushButton* settings_;
    NoticeBar* notice_;
    QToolButton* playOn_;
    ShotList* shotList_;
    struct Step {
        StepCard* card;
        StepBody* body;
    };
    std::vector<Step> steps_;
    LeftColumn* column_ = nullptr;
    TrimStep* trim_;
    InBetweensStep* inBetweens_;
    GapView* gapView_;
    ThreadChart* chart_;
    std::vector<QWidget*> aroundStage_; ///< hidden while the stage takes the whole screen
    bool fullScreenStage_ = false;
    Qt::WindowStates stateBefore_;
    std::unique_ptr<RecoveryKeeper> recovery_;
    /// Pictures of which it is not clear which number counts the frames: the patterns, and the question.
    std::vector<std::pair<QStringList, QString>> unclear_;
    QString toldLost_;     ///< what was last told of a source that was lost
    bool closing_ = false; ///< close as soon as the save under way is done
    QString openNext_;     ///< project to open as soon as the save under way is done
    bool discard_ = false; ///< the editor chose to close without saving
};

} // namespace yarngap::app
