// Output frames for the screen, made in the background from the same OutputFrames that are rendered.
#pragma once

#include "core/finish/tone.h"
#include "core/image/rgb_picture.h"
#include "core/inspection/frame_look.h"
#include "core/media/lru_cache.h"
#include "core/synthesis/output_frames.h"

#include <QImage>
#include <QObject>
#include <QString>

#include <array>
#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <utility>
#include <vector>

namespace yarngap::app {

inline constexpr int smallPictureWidth = 192;

/// A made picture as the screen shows it.
struct PreviewPicture {
    QImage image;
    std::optional<double> doubt;
    double edgeScale = 1;               ///< see scaleThatHides
    QImage small;                       ///< at most smallPictureWidth pixels wide, for the filmstrip
    FrameLook look;                     ///< of output frames
    std::optional<Histogram> histogram; ///< likewise
    bool draft = false;                 ///< a quick look, until the one with the chosen settings is made
    QString remark;  ///< sentence when it shows something else than it should, as for a damaged frame
    QString trouble; ///< sentence when it could not be made; the image is null then
};
using PreviewPicturePtr = std::shared_ptr<const PreviewPicture>;

/// What the overlays and the probe tell of an output frame.
struct PreviewInsight {
    FrameInsight frame;
    QImage difference; ///< from each pixel to the more alike of both source frames beside it, four times
};
using PreviewInsightPtr = std::shared_ptr<const PreviewInsight>;

/// How far an output frame has come.
enum class Readiness : std::uint8_t {
    toMake,
    draft,
    ready,
    failed ///< it could not be made
};

/// Makes and keeps screen pictures. Pictures are kept by content, so one made with other settings is never
/// shown, and going back to earlier settings finds the earlier pictures.
///
/// The frame asked for comes first, as a quick look where its motion is still to be estimated, then the
/// source frames beside it, then frames ahead of the playhead. One job is under way at a time; one that is
/// no longer wanted is left to end by itself while the next begins.
class Preview : public QObject {
    Q_OBJECT
  public:
    static constexpr std::size_t defaultPictureBytes = std::size_t{192} << 20;
    static constexpr std::size_t defaultInsightBytes = std::size_t{96} << 20;

    explicit Preview(QObject* parent = nullptr);
    ~Preview() override;
    Preview(const Preview&) = delete;
    Preview& operator=(const Preview&) = delete;
    Preview(Preview&&) = delete;
    Preview& operator=(Preview&&) = delete;

    /// Frames to show from now on; null for none.
    void setShot(OutputFramesPtr frames);
    /// Size in device pixels at which output frames and the source frames beside them are made.
    void setSizes(Size picture, Size flank);
    /// The output frame to make first, and whether frames are needed ahead of (1) or behind (−1) it.
    void want(std::int64_t output, int direction);

    /// Output frames to make before others, once those at the playhead are there: a loop.
    void setLoop(std::optional<std::pair<std::int64_t, std::int64_t>> loop);
    /// Output frames that are looked at beside that of the playhead; they are made next.
    void setPage(std::optional<std::pair<std::int64_t, std::int64_t>> page);
    /// Memory for pictures, and for what the overlays tell, in bytes; what is above it goes at once.
    void setMemory(std::size_t pictureBytes, std::size_t insightBytes);
    /// Bytes of both that are held now.
    [[nodiscard]] std::size_t bytes() const { return pictures_.bytes() + insights_.bytes(); }
    /// How many output frames are kept at their present size.
    [[nodiscard]] std::int64_t room() const;
    /// Whether what the frame asked for is made of is wanted too.
    void wantInsight(bool wanted);
    /// Drops all that is kept, also what could not be made.
    void forgetAll();

    /// The picture of output frame `output` under the present settings and size, or its draft, or null.
    [[nodiscard]] PreviewPicturePtr picture(std::int64_t output);
    /// The picture of output frame `output` with the chosen settings, never its draft; not counted as a use,
    /// so that what is measured pushes nothing out.
    [[nodiscard]] PreviewPicturePtr glance(std::int64_t output) const;
    /// Source frame `n`, small, or null.
    [[nodiscard]] PreviewPicturePtr sourcePicture(std::int64_t n);
    /// Source frame `n` at the size of output frames, or null; made for those beside the frame asked for.
    [[nodiscard]] PreviewPicturePtr largeSourcePicture(std::int64_t n);
    /// What output frame `output` is made of, or null while that is not known.
    [[nodiscard]] PreviewInsightPtr insight(std::int64_t output);
    /// Whether the picture of the frame asked for is there, with the chosen settings, or cannot be made, and
    /// so all those of the loop that there is room for.
    [[nodiscard]] bool isSettled() const { return isSettled_; }
    /// For each output frame whether its picture is at hand.
    [[nodiscard]] const std::vector<Readiness>& ready() const { return ready_; }

  Q_SIGNALS:
    /// The file of the shot is gone, was changed, or cannot be read any more.
    void sourceLost(const QString& sentence);
    void pictureReady(qint64 output);
    void draftReady(qint64 output);
    void sourceReady(qint64 frame);
    void insightReady(qint64 output);
    void settledChanged(bool isSettled);
    void readyReset(); ///< `ready` changed as a whole

  private:
    /// What is to be shown.
    struct State {
        OutputFramesPtr frames;
        OutputFramesPtr drafts; ///< the same as a quick look
        Size size{960, 540};
        Size flankSize{128, 72};
        std::int64_t wanted = 0;
        int direction = 1;
        bool insight = false;
        std::uint64_t version = 0; ///< of the state as the threads see it
        std::optional<std::pair<std::int64_t, std::int64_t>> loop;
        std::optional<std::pair<std::int64_t, std::int64_t>> page;

        [[nodiscard]] bool has(std::int64_t output) const;
        [[nodiscard]] std::string outputKey(std::int64_t output) const;
        [[nodiscard]] std::string draftKey(std::int64_t output) const;
        [[nodiscard]] std::string sourceKey(std::int64_t frame, Size pictureSize) const;
    };
    enum class Kind { output, draft, source, insight };
    struct Job {
        Kind kind = Kind::output;
        std::int64_t frame = 0; ///< output frame, or source frame
        Size size;
        std::string key;
    };
    void change(const std::function<void(State&)>& edit);
    void abandon(); ///< with the lock held
    void loop(const std::stop_token& stop);
    [[nodiscard]] std::optional<Job> nextJob(const State& state) const;
    /// The frame of `range` nearest to the wanted one that is still to be made.
    [[nodiscard]] std::optional<Job> pageJob(const State& state,
                                             const std::pair<std::int64_t, std::int64_t>& range) const;
    [[nodiscard]] std::optional<Job> outputJob(const State& state, std::int64_t output) const;
    [[nodiscard]] std::optional<Job> draftJob(const State& state, std::int64_t output) const;
    [[nodiscard]] std::optional<Job> sourceJob(const State& state, std::int64_t frame, Size size) const;
    void make(const State& state, const Job& job, const std::stop_token& stop);
    void tellMade(const Job& job, Readiness readiness);
    [[nodiscard]] std::int64_t roomFor(Size size) const;
    void makeInsight(const State& state, const Job& job, const std::stop_token& stop);
    /// Whether what `job` made is what is shown now. It may be though other things have changed since: then
    /// it is not made again, and has to be told of.
    [[nodiscard]] bool isShown(const Job& job) const;
    void lookWhetherSettled();
    [[nodiscard]] bool isLoopMade() const;
    void markReady(std::int64_t output, Readiness readiness);
    void rescanReady();

    LruCache<std::string, PreviewPicturePtr> pictures_{defaultPictureBytes};
    State state_; // interface thread only, so that looking a picture up waits for nobody
    LruCache<std::string, PreviewInsightPtr> insights_{defaultInsightBytes};
    std::vector<Readiness> ready_; // interface thread only
    int sinceRescan_ = 0;
    bool isSettled_ = true; // likewise

    std::mutex mutex_; // guards what follows, never for long
    std::condition_variable_any wake_;
    State shared_;
    bool changed_ = false;
    std::uint64_t version_ = 0;
    /// The job under way; what is no longer wanted ends on its own thread, and the next one does not wait.
    struct Active {
        std::uint64_t number;
        std::optional<std::int64_t> output; ///< the output frame it is about
        std::stop_source stop;
    };
    std::optional<Active> active_;
    std::uint64_t jobs_ = 0;
    /// One works, the other ends what was abandoned, which takes some milliseconds.
    static constexpr std::size_t threadCount = 2;
    std::array<std::jthread, threadCount> threads_;
};

/// Source frames to show beside an output frame: the two it lies between, or the ones before and after an
/// original. Absent at the ends of the file.
struct Flanks {
    std::optional<std::int64_t> before;
    std::optional<std::int64_t> after;
};
Flanks flanksOf(const PlanRow& row, std::int64_t mediaFrames);

} // namespace yarngap::app
