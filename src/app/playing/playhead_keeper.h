// Where the playhead goes when another shot is chosen, or the timing of this one changes.
#pragma once

#include "app/playing/player.h"
#include "core/time/frame_plan.h"

#include <QObject>

#include <filesystem>
#include <map>
#include <optional>
#include <utility>

namespace yarngap::app {

/// Each shot is found as it was left. Through edits of its timing the playhead stays on its moment of the
/// source, until somebody moves it.
class PlayheadKeeper : public QObject {
    Q_OBJECT
  public:
    /// Place in the project, and media.
    using ShotPlace = std::pair<int, std::filesystem::path>;

    explicit PlayheadKeeper(Player& player, QObject* parent = nullptr);

    /// Before another plan is shown: whose it is, the plan shown until now (null for none), and its timing.
    void comeTo(const ShotPlace& shot, const FramePlan* before, const Timing& timing);
    /// Once the player has the range of the new plan.
    void put(const Timing& timing);
    /// Nothing is shown any more; `before` was.
    void leave(const FramePlan* before);
    /// The next timing is no edit of the one before.
    void forget();

  private:
    void goTo(qint64 output);
    Player& player_;
    ShotPlace shown_{-1, {}};
    bool same_ = false;                ///< as the shot before
    double moment_ = 0;                ///< of the source, at the playhead
    std::optional<double> held_;       ///< the same while it is kept through edits
    std::optional<Timing> timing_;     ///< of the plan that is shown
    std::map<ShotPlace, qint64> left_; ///< where each shot was left
    bool placing_ = false;
};

} // namespace yarngap::app
