// Output frames for the screen, made in the background by the same FrameMaker that renders.
#pragma once

#include "core/image/rgb_picture.h"
#include "core/synthesis/frame_maker.h"

#include <QImage>
#include <QObject>
#include <QString>

#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace yarngap::app {

/// A made picture as the screen shows it.
struct PreviewPicture {
    QImage image;
    std::optional<double> doubt;
    double edgeScale = 1; ///< see scaleThatHides
    bool draft = false;   ///< a quick look, until the one with the chosen settings is made
    QString trouble;      ///< sentence when it could not be made; the image is null then
};
using PreviewPicturePtr = std::shared_ptr<const PreviewPicture>;

/// Makes and keeps screen pictures. Pictures are kept by content, so one made with other settings is never
/// shown, and going back to earlier settings finds the earlier pictures.
///
/// The frame asked for comes first, as a quick look where its motion is still to be estimated, then the
/// source frames beside it, then frames ahead of the playhead.
class Preview : public QObject {
    Q_OBJECT
  public:
    static constexpr std::size_t pictureBytes = std::size_t{192} << 20;

    explicit Preview(QObject* parent = nullptr);
    ~Preview() override;
    Preview(const Preview&) = delete;
    Preview& operator=(const Preview&) = delete;
    Preview(Preview&&) = delete;
    Preview& operator=(Preview&&) = delete;

    /// Shot to show from now on; a null maker for none.
    void setShot(std::shared_ptr<const FrameMaker> maker, std::shared_ptr<const FramePlan> plan);
    /// Size in device pixels at which output frames and the source frames beside them are made.
    void setSizes(Size picture, Size flank);
    /// The output frame to make first, and whether frames are needed ahead of (1) or behind (−1) it.
    void want(std::int64_t output, int direction);

    /// The picture of output frame `output` under the present settings and size, or its draft, or null.
    [[nodiscard]] PreviewPicturePtr picture(std::int64_t output);
    /// Source frame `n`, small, or null.
    [[nodiscard]] PreviewPicturePtr sourcePicture(std::int64_t n);
    /// For each output frame whether its picture is at hand.
    [[nodiscard]] const std::vector<std::uint8_t>& ready() const { return ready_; }

  Q_SIGNALS:
    void pictureReady(qint64 output);
    void draftReady(qint64 output);
    void sourceReady(qint64 frame);
    void readyReset(); ///< `ready` changed as a whole

  private:
    /// What is to be shown.
    struct State {
        std::shared_ptr<const FrameMaker> maker;
        std::shared_ptr<const FrameMaker> drafts; ///< the same with the quality of a draft
        std::shared_ptr<const FramePlan> plan;
        Size size{960, 540};
        Size flankSize{128, 72};
        std::int64_t wanted = 0;
        int direction = 1;
        std::uint64_t revision = 0; ///< changes with everything but `wanted` and `direction`

        [[nodiscard]] bool has(std::int64_t output) const;
        [[nodiscard]] std::string outputKey(std::int64_t output) const;
        [[nodiscard]] std::string draftKey(std::int64_t output) const;
        [[nodiscard]] std::string sourceKey(std::int64_t frame) const;
    };
    struct Job {
        std::optional<std::int64_t> output; ///< else a source frame
        std::int64_t source = 0;
        Size size;
        std::string key;
        bool draft = false;
    };
    void change(const std::function<void(State&)>& edit);
    void loop(const std::stop_token& stop);
    [[nodiscard]] std::optional<Job> nextJob(const State& state) const;
    [[nodiscard]] std::optional<Job> outputJob(const State& state, std::int64_t output) const;
    [[nodiscard]] std::optional<Job> draftJob(const State& state, std::int64_t output) const;
    [[nodiscard]] std::optional<Job> sourceJob(const State& state, std::int64_t frame) const;
    void make(const State& state, const Job& job, const std::stop_token& stop);
    void markReady(std::int64_t output);
    void rescanReady();

    LruCache<std::string, PreviewPicturePtr> pictures_{pictureBytes};
    State state_;                     // interface thread only, so that looking a picture up waits for nobody
    std::vector<std::uint8_t> ready_; // interface thread only
    int sinceRescan_ = 0;

    std::mutex mutex_; // guards what follows, never for long
    std::condition_variable_any wake_;
    State shared_;
    bool changed_ = false;
    std::optional<std::int64_t> currentOutput_;
    std::stop_source currentStop_;
    std::jthread thread_;
};

/// Source frames to show beside an output frame: the two it lies between, or the ones before and after an
/// original. Absent at the ends of the file.
struct Flanks {
    std::optional<std::int64_t> before;
    std::optional<std::int64_t> after;
};
Flanks flanksOf(const PlanRow& row, std::int64_t mediaFrames);

} // namespace yarngap::app
