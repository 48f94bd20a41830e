// The source sheet: a page of consecutive source frames to look through while cleaning.
#pragma once

#include "app/access/drawn_parts.h"
#include "app/stage/page_grid.h"
#include "app/stage/sheet_pictures.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/cleaning/cleanup.h"
#endif

#include <QWidget>

#include <optional>
#include <utility>
#include <vector>

namespace yarngap::app {

/// Source frames as the file has them, with what was found about each, how sure that is, and what is decided.
/// Arrows and clicks move, Shift selects a run; one key decides about what is selected. A held key shows the
/// frame before, the frame after, or the frame as it is made again, in the place of the present one.
///
/// Enter shows the present frame large, in the same way; there the damaged places are drawn with the mouse.
class SourceSheet : public QWidget, public DrawnParts {
    Q_OBJECT
  public:
    explicit SourceSheet(QWidget* parent = nullptr);

    /// The frames of a shot, with its cleanup.
    void setFootage(const Footage& footage);
    /// What was found, all of it, and how sure it must be to be told plainly.
    void setFound(std::vector<CleanupDecision> found, double certainty);
    [[nodiscard]] const Cleanup& cleanup() const;

    [[nodiscard]] std::int64_t at() const { return at_; }
    void goTo(std::int64_t frame, bool select = false);
    /// First and last frame that a key decides about.
    [[nodiscard]] std::pair<std::int64_t, std::int64_t> selection() const;
    /// First and last frame on the page.
    [[nodiscard]] std::pair<std::int64_t, std::int64_t> page() const;
    /// Where a frame lies, empty when it is on another page.
    [[nodiscard]] QRectF placeOf(std::int64_t frame) const;
    /// The words under a frame: "36 · repeat 98 %", and what is decided: "passed over".
    [[nodiscard]] QString captionOf(std::int64_t frame) const;
    [[nodiscard]] QString decisionOn(std::int64_t frame) const;
    [[nodiscard]] bool isLarge() const { return large_; }
    void showLarge(bool on);
    /// The picture that is shown for the present frame.
    [[nodiscard]] QImage shownPicture();

    /// Decides about the selection. Of CleanupKind::putIn each time one frame more. Where there are no
    /// damaged places to restore, the frame is shown large, for them to be drawn.
    void decide(CleanupKind kind);
    /// The decision about the present frame whose phases can be set: it is rebuilt, or frames are put in
    /// behind it; null for neither.
    [[nodiscard]] const CleanupDecision* timed() const;
    void setPhases(const std::vector<Rational>& phases);
    /// Takes back what is decided about it.
    void undecide();
    /// To the next frame that something was found about and nothing decided, in this direction.
    void goToFound(int direction);
    /// Whether a key moves, shows the frame large or leaves; then it does.
    bool handleKey(int key, Qt::KeyboardModifiers modifiers);
    /// What is shown in the place of the present frame while a key is held.
    enum class Flick { none, before, after, made };
    void flick(Flick what);
    /// A key is let go: the frame itself is shown again.
    void endFlick();

    // For screen readers: the frames on the page.
    [[nodiscard]] int partCount() const override;
    [[nodiscard]] DrawnPart part(int index) const override;
    [[nodiscard]] int currentPart() const override;
    void pressPart(int index) override { goTo(first_ + index); }

  Q_SIGNALS:
    void decided(const yarngap::Cleanup& changed, const QString& what);
    void moved(qint64 frame);
    void left();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    [[nodiscard]] PageGrid grid() const;
    [[nodiscard]] std::int64_t frames() const;
    [[nodiscard]] std::optional<std::int64_t> frameAt(QPointF at) const;
    [[nodiscard]] const CleanupDecision* foundOn(std::int64_t frame, bool behind) const;
    [[nodiscard]] SheetPicture shownFor(std::int64_t frame) const;
    [[nodiscard]] QRectF largePlace() const;
    void wantPictures();
    void turnTo(std::int64_t first);
    void zoomAt(QPointF at, double factor);
    void paintPage(QPainter& p);
    void paintCell(QPainter& p, std::int64_t frame);
    void paintLarge(QPainter& p);
    void paintPlaces(QPainter& p, std::int64_t frame, const QRectF& place) const;
    void addPlace(const QRectF& drawn, bool erase);
    [[nodiscard]] bool hasPlaces(std::int64_t frame) const;
    [[nodiscard]] QString decisionWords(std::int64_t first, std::int64_t last, CleanupKind kind) const;

    Footage footage_;
    std::vector<CleanupDecision> found_;
    double certainty_ = 0;
    std::int64_t first_ = 0; ///< of the page
    std::int64_t at_ = 0;
    std::int64_t anchor_ = 0; ///< the other end of the selection
    bool large_ = false;
    double zoom_ = 1;
    QPointF centre_{0.5, 0.5}; ///< of the large picture, 0 to 1 across and down
    Flick flick_ = Flick::none;
    std::optional<QPointF> drawnFrom_;
    QPointF drawnTo_;
    bool erases_ = false;
    SheetPictures pictures_; // last: it stops before the rest goes
};

/// The word for a decision: "passed over".
[[nodiscard]] QString wordFor(CleanupKind kind);

} // namespace yarngap::app
