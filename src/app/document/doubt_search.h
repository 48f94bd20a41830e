// Doubt of all gaps of the current shot, looked for in the background.
#pragma once

#include "app/document/background_tasks.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/mending/known_doubts.h"
#include "core/mending/mend_all.h"
#include "core/shot/ready_shot.h"
#endif

#include <QImage>
#include <QObject>
#include <QString>
#include <QTimer>

#include <map>
#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

namespace yarngap::app {

/// What cures come to in one gap.
struct CuresOfGap {
    std::int64_t gap = -1;              ///< its first source frame
    std::vector<JudgedCure> cures = {}; ///< judged so far, the best first
    std::vector<QImage> pictures = {};  ///< the doubtful place, made with each of them
    bool isDone = false;
};

/// Looks through the gaps of a shot, worst first in the end, and tries cures on them; one thing at a time, on
/// a thread that lets the window go first. What was seen of a gap is kept, on disk too, as long as nothing
/// that it depends on changes: an edit of the timing looks at nothing again.
class DoubtSearch : public QObject {
    Q_OBJECT
  public:
    explicit DoubtSearch(QObject* parent = nullptr);
    ~DoubtSearch() override;
    DoubtSearch(const DoubtSearch&) = delete;
    DoubtSearch& operator=(const DoubtSearch&) = delete;
    DoubtSearch(DoubtSearch&&) = delete;
    DoubtSearch& operator=(DoubtSearch&&) = delete;

    /// The frames of the current shot, and the same as they are shown, with patches; null for none. Looking
    /// begins a moment later.
    void setShot(std::shared_ptr<const PlannedFrames> frames, OutputFramesPtr shown, const GapFindings& found,
                 const Matte& matte);
    /// Looking and pictures rest while held, and go on with what was seen a moment after.
    void setHeld(bool isHeld);
    [[nodiscard]] bool isHeld() const { return isHeld_; }
    /// All gaps seen so far, worst first.
    [[nodiscard]] const std::vector<DoubtfulGap>& gaps() const { return gaps_; }
    /// Share of the gaps seen, 0 to 1.
    [[nodiscard]] double progress() const { return progress_; }
    [[nodiscard]] bool isSearching() const { return isSearching_; }
    /// Why looking ended early; empty when all is well.
    [[nodiscard]] const QString& trouble() const { return trouble_; }
    /// The doubtful place of a gap as it is made; null until it is there.
    [[nodiscard]] QImage picture(std::int64_t gap) const;
    /// Pictures of these gaps are wanted, the first first.
    void wantPictures(const std::vector<DoubtfulGap>& gaps);

    /// Tries the usual cures on a gap; curesChanged() tells.
    void tryCures(const DoubtfulGap& gap);
    [[nodiscard]] const CuresOfGap& cures() const { return cures_; }
    /// Tries them on all gaps of that doubt or more that are not mended or accepted; allTried() gives the
    /// mends with the best. Again while it runs: stops it.
    void mendAll(double limit, const Mending& mending);
    [[nodiscard]] bool isMending() const { return isMending_; }
    [[nodiscard]] double mendingProgress() const { return mendingProgress_; }

  Q_SIGNALS:
    void changed(); ///< gaps, progress or trouble
    void pictureReady();
    void curesChanged();
    void mendingChanged();
    void allTried(const yarngap::Mending& mended, int tried, int bettered);

  private:
    void goOn(); ///< with what is still to be looked at
    void look();
    void stopAll();

    std::shared_ptr<const PlannedFrames> frames_;
    OutputFramesPtr shown_;
    GapFindings found_;
    Matte matte_;
    std::vector<DoubtfulGap> gaps_;
    /// What was seen of one shot.
    struct Seen {
        std::string shot;
        DoubtMemory memory;
    };
    std::shared_ptr<KnownDoubts> known_;                    ///< null where nothing is kept
    std::shared_ptr<Seen> seen_ = std::make_shared<Seen>(); ///< on the thread of lookTasks_ alone
    std::map<std::int64_t, std::pair<std::string, QImage>>
        pictures_; ///< by gap, with the key they were made under
    double progress_ = 0;
    bool isSearching_ = false;
    QString trouble_;
    CuresOfGap cures_;
    bool isMending_ = false;
    double mendingProgress_ = 0;
    bool isHeld_ = false;
    std::vector<DoubtfulGap> wanted_; ///< whose pictures were asked for last
    std::stop_source looking_, curing_, mending_, picturing_;
    QTimer delay_;
    BackgroundTasks lookTasks_; ///< these last: they stop before the rest goes
    BackgroundTasks cureTasks_;
};

} // namespace yarngap::app
