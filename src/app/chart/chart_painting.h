// How the thread chart is painted.
#pragma once

#include "app/chart/chart_places.h"
#include "app/playing/preview.h"
#include "core/synthesis/output_frames.h"

#include <QString>

#include <array>
#include <optional>
#include <utility>
#include <vector>

class QPainter;

namespace yarngap::app {

/// Paints what lies at its places, with what is marked, chosen and ready. It edits nothing.
class ChartPainting : public ChartPlaces {
  public:
    /// Output frames of the selected stretch, both included.
    struct Stretch {
        std::int64_t first = 0, last = 0;
    };

    /// The doubt of a gap, over the output frames that lie in it.
    struct DoubtBar {
        std::int64_t first = 0, last = 0; // source frames
        double doubt = 0;
        bool isOpen = true; // not mended, not accepted
    };

  protected:
    /// All that changes with plan, zoom and edits alone.
    void drawLasting(QPainter& p);
    void drawThumbnails(QPainter& p, const Visible& v);
    void drawStitchLine(QPainter& p, const Visible& v) const;
    void drawPlayhead(QPainter& p, std::int64_t playhead,
                      const std::optional<std::pair<qint64, qint64>>& loop) const;
    void drawDragWords(QPainter& p) const;
    [[nodiscard]] bool isChosen(int key) const;

    static constexpr std::size_t kinds = 5;
    std::vector<std::array<std::int32_t, kinds>> before_; // frames of each kind before output frame n
    const std::vector<Readiness>* ready_ = nullptr;
    std::vector<std::int64_t> duplicates_;
    std::vector<DoubtBar> doubts_;
    double doubtLimit_ = 0;
    bool hasDoubtLane_ = false;
    std::vector<std::int64_t> cuts_;
    std::optional<int> hovered_; // stretch
    std::vector<int> chosen_;    // keys
    std::optional<Stretch> selection_;
    QString dragWords_;
    QPointF dragPlace_;
    double headerRight_ = 0; // where the words of the header end

  private:
    void drawHeader(QPainter& p) const;
    void drawLegend(QPainter& p, double right) const;
    void drawSpeedLane(QPainter& p, const Visible& v);
    void drawSpeeds(QPainter& p, const Visible& v);
    void drawPositionLane(QPainter& p, const Visible& v) const;
    void drawKeys(QPainter& p, const Visible& v) const;
    void drawSelection(QPainter& p) const;
    /// Where the number of a frame at `x` is written.
    [[nodiscard]] QRectF numberPlace(double x, double top) const;
    void drawSourceRail(QPainter& p, const Visible& v) const;
    void drawCuts(QPainter& p) const;
    void drawThreads(QPainter& p, const Visible& v) const;
    void drawRibbons(QPainter& p, const Visible& v) const;
    void drawOutputRail(QPainter& p, const Visible& v) const;
    void drawDoubts(QPainter& p) const;

    /// The speeds written in the lane; the playhead stands back behind them.
    std::vector<std::pair<QRectF, QString>> speeds_;
};

} // namespace yarngap::app
