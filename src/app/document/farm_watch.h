// Renders that a cluster makes.
#pragma once

#include "app/document/background_tasks.h"
#include "core/render/farm.h"
#include "core/render/render_work.h"

#include <QObject>
#include <QString>
#include <QTimer>

#include <cstdint>
#include <filesystem>
#include <map>
#include <optional>
#include <stop_token>

namespace yarngap::app {

/// Hands renders to Slurm, and looks every few seconds how far they are. Renders are told apart by the
/// numbers of the queue. Nothing here waits: Slurm is asked in the background.
class FarmWatch : public QObject {
    Q_OBJECT
  public:
    enum class Ending { done, failed, cancelled };
    Q_ENUM(Ending)

    explicit FarmWatch(QObject* parent = nullptr);
    /// What is being prepared is given up; what was handed over goes on.
    ~FarmWatch() override;
    FarmWatch(const FarmWatch&) = delete;
    FarmWatch& operator=(const FarmWatch&) = delete;
    FarmWatch(FarmWatch&&) = delete;
    FarmWatch& operator=(FarmWatch&&) = delete;

    /// Whether this machine can hand something to Slurm.
    [[nodiscard]] static bool isThere();

    /// Finds out what the slices of a render need to know, and submits them. Those that are ready stay.
    void hand(std::int64_t number, RenderWork work, const WorkMeans& means);
    /// One that was handed over earlier.
    void watch(std::int64_t number, const std::filesystem::path& target);
    /// Takes it off the cluster; its slices go.
    void cancel(std::int64_t number);

    /// How far it is, or was when it failed; null while unknown.
    [[nodiscard]] const FarmState* state(std::int64_t number) const;
    [[nodiscard]] bool isBeingCancelled(std::int64_t number) const;

    /// Reads the last lines of the log of a slice of `target`, or of the join; told by logRead.
    void readLog(const std::filesystem::path& target, std::optional<int> slice);

  Q_SIGNALS:
    void looked(qint64 number);                                     ///< its state may be another one
    void ended(qint64 number, Ending ending, const QString& words); ///< it is no longer watched
    /// `slice` is -1 for the join.
    void logRead(const QString& target, int slice, const QString& text);

  private:
    struct Watched {
        std::filesystem::path target;
        bool isHanded = false;
        bool isCancelled = false;
        std::stop_source preparing;
    };

    void look();
    void end(std::int64_t number, Ending ending, const QString& words);
    void show(std::int64_t number, const FarmState& state, const QString& trouble);

    std::map<std::int64_t, Watched> watched_;
    std::map<std::int64_t, FarmState> states_;
    QTimer timer_;
    int looking_ = 0;         ///< renders that are being looked at
    BackgroundTasks handing_; ///< preparing takes long
    BackgroundTasks slurm_;   ///< last: ends before what it tells
};

} // namespace yarngap::app
