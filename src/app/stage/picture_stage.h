// The pictures of the gap view: the in-between large in the middle, source frames at its sides.
#pragma once

#include "app/access/drawn_parts.h"
#include "app/playing/player.h"
#include "app/playing/preview.h"
#include "app/stage/compare_bar.h"
#include "app/stage/picture_overlay.h"
#include "app/stage/wipe.h"
#include "core/media/media_facts.h"

#include <QTimer>
#include <QWidget>

#include <memory>
#include <optional>
#include <vector>

namespace yarngap::app {

/// What is shown beside the present version of a frame, and how.
struct Comparison {
    struct Other {
        Preview* preview = nullptr;
        QString name;
    };
    std::vector<Other> others; ///< one, or up to three of four at once
    CompareMode mode = CompareMode::sideBySide;
    QString now; ///< what the present version is called
    int blinkMilliseconds = 400;
    int gain = 4;
};

/// Pictures of the gap view. Wheel zooms about the pointer, dragging moves a zoomed picture, double click
/// fits it again.
class PictureStage : public QWidget, public DrawnParts {
    Q_OBJECT
  public:
    PictureStage(Player& player, Preview& preview, QWidget* parent = nullptr);

    /// `facts` are those of the frames that are shown.
    void setShot(std::shared_ptr<const FramePlan> plan, const MediaFacts& facts);
    /// A picture to show before there is a plan, and words instead of pictures when there is nothing.
    void setStandIn(const QImage& picture, const QString& words);

    /// Zoom in percent of the shot's own pixels.
    [[nodiscard]] double zoomPercent() const;
    void setFit();
    [[nodiscard]] bool isFitted() const { return zoom_ <= 0; }
    void setZoom(double factor, QPointF about);
    /// The output frame whose picture is on screen, −1 when none is.
    [[nodiscard]] qint64 shownOutput() const { return shownOutput_; }
    /// True while the picture on screen is not that of the playhead.
    [[nodiscard]] bool isStale() const { return stale_; }
    /// True while it is a quick look, and a better one is being made.
    [[nodiscard]] bool isDraft() const { return draft_; }
    /// Why it could not be made.
    [[nodiscard]] QString trouble() const { return trouble_; }
    /// What is wrong with the source frames that it shows.
    [[nodiscard]] QString remark() const { return remark_; }
    [[nodiscard]] std::optional<double> doubt() const { return doubt_; }
    /// Scale that would hide edges which no source frame has, 1 when there are none.
    [[nodiscard]] double edgeScale() const { return edgeScale_; }
    /// Where the picture lies, also what of it is outside the widget.
    [[nodiscard]] QRectF placeOfPicture() const { return pictureRect(); }
    /// The same of version `index`, 0 being the present one, where they have places of their own.
    [[nodiscard]] QRectF placeOfVersion(std::size_t index) const {
        return pictureRect().translated(cellShift(index));
    }
    /// Takes what the preview has for the playhead.
    void takePicture();
    void setOverlay(Overlay overlay);
    /// Lines over the frame to place things by.
    struct Marks {
        bool safeAreas = false; ///< 93 % for what happens, 90 % for titles (EBU R 95, SMPTE ST 2046-1)
        bool thirds = false;
        bool centre = false;
    };
    void setMarks(const Marks& marks);
    /// Shows two versions of the frame at the same place and size; none: the present one alone.
    void setComparison(std::optional<Comparison> comparison);
    /// Whether the other version is the one on screen now, in a blink.
    [[nodiscard]] bool showsOther() const { return showsOther_; }
    [[nodiscard]] const Wipe& wipe() const { return wipe_; }
    /// Whether the other version of the frame at the playhead is still being made.
    [[nodiscard]] bool isOtherStale() const;
    [[nodiscard]] std::optional<double> otherDoubt() const {
        return comparison_ && others_.front() ? others_.front()->doubt : std::nullopt;
    }
    /// What the overlay and the probe are about; null while the frame on screen has none yet.
    [[nodiscard]] PreviewInsightPtr insight() const { return insight_; }
    /// Shows the source frame before (−1) or after (1) in the place of the picture, until 0 brings it back.
    void flick(int direction);
    /// Shows the frame as `version` has it in the place of the picture, while a key is held; null ends that.
    /// Its pictures have this shape, width over height; 0: that of the present one.
    void showInstead(Preview* version, const QString& name, double shape = 0);
    [[nodiscard]] bool isHeldInstead() const { return instead_ != nullptr; }
    /// Whether that is on screen now.
    [[nodiscard]] bool showsInstead() const { return isInsteadShown_; }
    /// What is flicked to and on screen: a source frame, or none.
    [[nodiscard]] std::optional<std::int64_t> flickedTo() const { return flicked_; }
    /// The pixel of the shot under the pointer, if any.
    [[nodiscard]] std::optional<QPoint> pointedAt() const { return pointedAt_; }

    // For screen readers: the output frame, and the source frames beside it.
    [[nodiscard]] int partCount() const override;
    [[nodiscard]] DrawnPart part(int index) const override;
    [[nodiscard]] int currentPart() const override { return partCount() > 0 ? 0 : -1; }
    void setPart(int index, double value) override;
    /// What is told of the output frame.
    void setSentence(const QString& sentence);

  Q_SIGNALS:
    void shown();
    void probed(); ///< the pointer is over another pixel

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;

  private:
    static constexpr double flankMargin = 12; ///< beside the small source frames
    static constexpr double cellGap = 8;      ///< between versions
    void point(QPointF at);
    void drawAll(QPainter& p);
    [[nodiscard]] Flanks sides() const; ///< of the frame at the playhead
    void drawPixelGrid(QPainter& p, const QRectF& place, const QRectF& area) const;
    void drawMarks(QPainter& p, const QRectF& place) const;
    void drawNote(QPainter& p, const QRectF& shown, const QString& note, bool atRight = false) const;
    void drawBoth(QPainter& p, const QRectF& place, const QRectF& area);
    /// Columns and rows that versions are shown in; 1 and 1 where they share one place.
    [[nodiscard]] QSize cells() const;
    /// From the first version to version `index`.
    [[nodiscard]] QPointF cellShift(std::size_t index) const;
    void drawCell(QPainter& p, std::size_t index, const QRectF& place, const QRectF& area);
    [[nodiscard]] QString noteOf(const QString& name, bool stale, std::optional<double> doubt) const;
    [[nodiscard]] QRectF pictureArea() const;
    [[nodiscard]] QRectF pictureRect() const;
    [[nodiscard]] double fitScale() const;
    [[nodiscard]] double aspectWidth() const;
    void requestSizes();
    /// Places of the source frames beside the picture; empty where there is no room.
    [[nodiscard]] std::pair<QRectF, QRectF> flankPlaces() const;
    void drawFlank(QPainter& p, std::optional<std::int64_t> frame, const QRectF& place, double joinX);

    Player& player_;
    Preview& preview_;
    std::shared_ptr<const FramePlan> plan_;
    MediaFacts facts_;
    QImage picture_;
    QImage standIn_;
    QString words_;
    QString sentence_;
    QString trouble_;
    QString remark_;
    std::optional<double> doubt_;
    double edgeScale_ = 1;
    qint64 shownOutput_ = -1;
    bool stale_ = false;
    bool draft_ = false;
    Overlay overlay_ = Overlay::none;
    Marks marks_;
    PreviewInsightPtr insight_;
    int flick_ = 0;
    Preview* instead_ = nullptr;
    QString insteadName_;
    double insteadShape_ = 0;
    bool isInsteadShown_ = false;
    std::optional<std::int64_t> flicked_;
    std::optional<QPoint> pointedAt_;
    std::optional<Comparison> comparison_;
    std::vector<PreviewPicturePtr> others_; ///< the other versions of the frame at the playhead
    bool showsOther_ = false;
    QTimer blink_;
    Wipe wipe_;
    Wipe::Handle held_ = Wipe::Handle::none;
    double zoom_ = 0; // screen pixels per shot pixel; 0 fits
    QPointF offset_;
    QPointF dragFrom_;
};

} // namespace yarngap::app
