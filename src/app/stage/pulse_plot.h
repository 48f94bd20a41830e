// Numbers of versions beside each other, frame by frame: what pulses shows as a sawtooth.
#pragma once

#include "app/playing/player.h"
#include "app/playing/preview.h"

#include <QString>
#include <QWidget>

#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace yarngap::app {

/// Sharpness and change from the frame before, of the frames around the playhead, for each version. A click
/// moves the playhead there.
class PulsePlot : public QWidget {
    Q_OBJECT
  public:
    struct Version {
        Preview* preview = nullptr;
        QString name;
    };

    explicit PulsePlot(Player& player, QWidget* parent = nullptr);

    /// The present version first.
    void setVersions(std::vector<Version> versions);
    void setPlan(std::shared_ptr<const FramePlan> plan);
    /// The frames that are drawn.
    [[nodiscard]] std::optional<std::pair<qint64, qint64>> range() const;
    /// What version `index` measures at the playhead: "Now: sharpness 8.31, change 2.04".
    [[nodiscard]] QString numbersOf(std::size_t index) const;

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    enum class Measure { sharpness, change };
    [[nodiscard]] std::optional<double> value(const Preview& preview, qint64 output, Measure measure) const;
    [[nodiscard]] QRectF lane(Measure measure) const;
    [[nodiscard]] double xOf(qint64 output) const;
    void drawLane(class QPainter& p, Measure measure) const;
    void ask(); ///< has the frames in range made

    Player& player_;
    std::vector<Version> versions_;
    std::shared_ptr<const FramePlan> plan_;
};

} // namespace yarngap::app
