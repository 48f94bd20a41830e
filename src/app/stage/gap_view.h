// The stage: the in-between in the middle, the source frames it lies between at its sides.
#pragma once

#include "app/document/background_tasks.h"
#include "app/document/source_timecode.h"
#include "app/look/steady_label.h"
#include "app/playing/player.h"
#include "app/playing/preview.h"
#include "app/stage/compare_bar.h"
#include "app/stage/film_strip.h"
#include "app/stage/guide_sheet.h"
#include "app/stage/hold_overlay.h"
#include "app/stage/other_versions.h"
#include "app/stage/outline_overlay.h"
#include "app/stage/picture_stage.h"
#include "app/stage/place_overlay.h"
#include "app/stage/pulse_plot.h"
#include "app/stage/source_sheet.h"
#include "app/stage/source_sheet_bar.h"
#include "app/stage/stage_tools.h"
#include "app/stage/transport_bar.h"
#include "app/stage/try_sheet.h"
#include "core/media/media_facts.h"

#include <QPointer>
#include <QToolButton>
#include <QWidget>

#include <functional>

#include <memory>
#include <vector>

namespace yarngap::app {

/// The stage with its sentence and the transport.
class GapView : public QWidget {
    Q_OBJECT
  public:
    GapView(Player& player, Preview& preview, QWidget* parent = nullptr);
    ~GapView() override;
    GapView(const GapView&) = delete;
    GapView& operator=(const GapView&) = delete;
    GapView(GapView&&) = delete;
    GapView& operator=(GapView&&) = delete;

    /// `shown` are the facts of the frames that are shown, `source` those of the source frames.
    void setShot(std::shared_ptr<const FramePlan> plan, const Timing& timing, const MediaFacts& shown,
                 const MediaFacts& source, SourceTimecode timecode);
    void setStandIn(const QImage& picture, const QString& words);
    [[nodiscard]] const SourceTimecode& sourceTimecode() const { return sourceTimecode_; }
    [[nodiscard]] QString sentence() const { return sentence_->text(); }
    [[nodiscard]] PictureStage& stage() { return *stage_; }
    /// Makes output frame `output` with four settings and shows them instead of the stage, to choose from.
    void tryFour(const std::array<Try, 4>& tries, std::int64_t output);
    /// Draws or changes the outline of a matte on the stage, until it is left.
    void editMatte(const Matte& matte);
    /// The matte of the shot as it has become, where it is being edited; editing ends where there is nothing
    /// to draw on.
    void setMatte(const Matte& matte);
    void leaveMatte();
    [[nodiscard]] bool editsMatte() const { return matteOverlay_ != nullptr; }
    /// Draws the outline of a patch on the stage, or changes the one that showPatchOutline() gives, until it
    /// is left.
    void editPatch(bool isNew);
    /// The outline as it is at the frame shown; empty while that is not known.
    void showPatchOutline(const std::vector<PicturePoint>& outline, bool isKey, const QString& where);
    void leavePatch();
    [[nodiscard]] bool editsPatch() const { return patchOverlay_ != nullptr; }
    [[nodiscard]] bool editsOutline() const { return editsMatte() || editsPatch(); }
    /// Scales and places the picture in its frame, until it is left.
    void editPlace();
    void showPlace(const PlaceOverlay::Place& place, QSize frame, const std::array<QPointF, 4>& corners);
    void leavePlace();
    [[nodiscard]] bool editsPlace() const { return placeOverlay_ != nullptr; }
    /// Chooses a point to hold still, and changes its path, until it is left.
    void editHold(bool isSecond);
    void showHold(const FollowedPath& path, double reach);
    void leaveHold();
    [[nodiscard]] bool editsHold() const { return holdOverlay_ != nullptr; }
    /// Whether something lies over the stage that keys with Ctrl move.
    [[nodiscard]] bool hasOverlay() const { return editsOutline() || editsPlace() || editsHold(); }
    /// Whether what is drawn belongs to places of the source, so that frames before their finish are wanted.
    [[nodiscard]] bool needsSourcePlaces() const { return editsOutline() || editsHold() || guide_; }
    /// Shows the source frames of a gap side by side instead of the stage, to draw a guide on them, until it
    /// is left.
    void editGuide(const Guide& guide);
    /// The guide as it has become, where it is being drawn.
    void setGuide(const Guide& guide);
    void leaveGuide();
    [[nodiscard]] GuideSheet* guideSheet() { return guide_; }
    /// Shows every frame as these have it, while a key is held; null ends that.
    void showInstead(const OutputFramesPtr& version, const QString& name);
    void leaveOverlays();
    /// Next original after, or last one before, the playhead.
    void goToOriginal(int direction);
    /// First frame of the next gap, or of this one and then the one before.
    void goToGap(int direction);
    /// Shows every frame beside those of other versions, at most three, as `bar()` says; none: alone.
    void compareWith(const std::vector<OtherVersion>& versions);
    /// Bytes for pictures of other versions, all together.
    void setOtherMemory(std::size_t bytes) { others_.setMemory(bytes); }
    /// A page of frames instead of the picture.
    void showFilmStrip(bool on);
    [[nodiscard]] bool showsFilmStrip() const { return strip_->isVisibleTo(this); }
    [[nodiscard]] FilmStrip& filmStrip() { return *strip_; }
    /// A page of source frames instead of the picture.
    void showSourceSheet(bool on);
    [[nodiscard]] bool showsSourceSheet() const { return sheet_->isVisibleTo(this); }
    [[nodiscard]] SourceSheet& sourceSheet() { return *sheet_; }
    [[nodiscard]] SourceSheetBar& sourceSheetBar() { return *sheetBar_; }
    [[nodiscard]] PulsePlot& plot() { return *plot_; }
    /// The button that turns the sound on and off; hidden where there is none.
    [[nodiscard]] QToolButton& soundButton() { return transport_->soundButton(); }
    [[nodiscard]] bool isComparing() const { return !others_.isEmpty(); }
    [[nodiscard]] CompareBar& bar() { return *bar_; }
    [[nodiscard]] StageTools& tools() { return *tools_; }
    [[nodiscard]] LoopControls& loops() { return transport_->loops(); }
    [[nodiscard]] QString probe() const { return probe_->text(); }
    /// Who tells what is doubtful in the gap of a flow row; empty where it is not known yet.
    void setDoubtWords(std::function<QString(const PlanRow&)> words) { doubtWords_ = std::move(words); }
    /// The same frame, of which something else is known now.
    void tellAgain() { refreshSentence(); }

  Q_SIGNALS:
    void settingsChosen(const yarngap::InBetweens& chosen);
    void matteEdited(const yarngap::Matte& matte, const QString& what);
    void matteLeft();
    void patchOutlined(const std::vector<yarngap::PicturePoint>& outline,
                       yarngap::app::OutlineOverlay::Change change);
    void patchPointAdded(std::size_t after);
    void patchPointRemoved(std::size_t point);
    void patchLeft();
    void guideEdited(const yarngap::Guide& guide, const QString& what);
    void guideLeft();
    void placeEdited(const yarngap::app::PlaceOverlay::Place& place, bool isDragged);
    void placeLeft();
    void holdChosen(const yarngap::PicturePoint& at, double reach);
    void holdPut(const yarngap::PicturePoint& at);
    void holdLeft();
    void sourcePlacesNeeded(); ///< or needed no more; see needsSourcePlaces
    void sourceSheetShown(bool on);

  private:
    void layOut();
    void connectPlaying();
    void connectParts();
    void closeTries();
    void toggleZoom();
    [[nodiscard]] std::int64_t nearestSourceFrame() const;
    void refreshSentence();
    void refreshTransport();
    void refreshProbe();
    void showComparison();
    [[nodiscard]] OutlineOverlay* newOutline(const OutlineWords& words);
    void refreshGuide();
    void requestGuidePictures();
    template <typename Overlay>
    void giveBack(QPointer<Overlay>& overlay);
    [[nodiscard]] QStringList overlayHints() const;
    void changeMatte(const std::vector<PicturePoint>& outline, OutlineOverlay::Change change);

    Player& player_;
    Preview& preview_;
    std::shared_ptr<const FramePlan> plan_;
    Timing timing_;
    PictureStage* stage_;
    QPointer<TrySheet> tries_;
    QPointer<GuideSheet> guide_;
    std::unique_ptr<Preview> instead_; ///< made when first needed
    QPointer<OutlineOverlay> matteOverlay_;
    QPointer<OutlineOverlay> patchOverlay_;
    QPointer<PlaceOverlay> placeOverlay_;
    QPointer<HoldOverlay> holdOverlay_;
    Matte matte_;
    MediaFacts facts_; ///< of the source
    SteadyLabel* sentence_;
    std::function<QString(const PlanRow&)> doubtWords_;
    StageTools* tools_;
    CompareBar* bar_;
    OtherVersions others_;
    FilmStrip* strip_;
    SourceSheet* sheet_;
    SourceSheetBar* sheetBar_;
    PulsePlot* plot_;
    SteadyLabel* probe_;
    TransportBar* transport_;
    SourceTimecode sourceTimecode_;
    BackgroundTasks tryTasks_; ///< last: ended before what it answers to goes
};

} // namespace yarngap::app
