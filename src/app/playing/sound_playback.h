// The shot's sound, heard while the result plays.
#pragma once

#include "app/document/background_tasks.h"
#include "app/playing/player.h"
#include "core/media/media_index.h"
#include "core/sound/sound.h"
#include "core/time/frame_plan.h"
#include "core/time/rate.h"

#include <QIODevice>
#include <QObject>
#include <QTimer>

#include <cstdint>
#include <memory>
#include <stop_token>
#include <vector>

class QAudioSink;

namespace yarngap {
class SourceAxis;
}

namespace yarngap::app {

/// Samples of a stretch of output, as the sound device takes them: two channels of 16 bit, 48 kHz.
struct SoundTrack {
    double firstOutput = 0; ///< output frame that the first sample belongs to
    double rate = 24;       ///< output frames per second
    std::vector<std::int16_t> samples;

    /// The sample pair at output place `output`; silence outside.
    [[nodiscard]] std::pair<std::int16_t, std::int16_t> at(double output) const;
};

/// What the device reads: the track along the way the player goes, loops and turns included.
class SoundFeed : public QIODevice {
    Q_OBJECT
  public:
    explicit SoundFeed(const Player& player, QObject* parent = nullptr);

    void setTrack(std::shared_ptr<const SoundTrack> track) { track_ = std::move(track); }
    /// Goes on from `seconds` after playing began.
    void start(double seconds);
    /// Seconds after playing began that have been handed over.
    [[nodiscard]] double handedOver() const { return start_ + static_cast<double>(given_) / usualSoundRate; }
    [[nodiscard]] bool isSequential() const override { return true; }
    [[nodiscard]] qint64 bytesAvailable() const override;

  protected:
    qint64 readData(char* data, qint64 maxSize) override;
    qint64 writeData(const char* /*data*/, qint64 /*size*/) override { return -1; }

  private:
    const Player& player_;
    std::shared_ptr<const SoundTrack> track_;
    double start_ = 0;
    std::int64_t given_ = 0; ///< samples of one channel since then
};

/// Makes the sound of the present plan in the background and plays it along with the player: forwards and
/// backwards at the output rate. Faster shuttling is silent.
class SoundPlayback : public QObject {
    Q_OBJECT
  public:
    /// What is kept of sound at most; of a longer result the stretch around the playhead.
    static constexpr std::size_t trackBytes = std::size_t{64} << 20;

    enum class State {
        none,   ///< the shot has no sound, or it is not wanted
        making, ///< not ready yet; playing is silent meanwhile
        ready,
        trouble, ///< see trouble()
    };

    explicit SoundPlayback(Player& player, QObject* parent = nullptr);
    ~SoundPlayback() override;
    SoundPlayback(const SoundPlayback&) = delete;
    SoundPlayback& operator=(const SoundPlayback&) = delete;
    SoundPlayback(SoundPlayback&&) = delete;
    SoundPlayback& operator=(SoundPlayback&&) = delete;

    /// The sound of `index` along `plan`, whose source frames are those of `axis`.
    void setShot(std::shared_ptr<const MediaIndex> index, std::shared_ptr<const SourceAxis> axis,
                 std::shared_ptr<const FramePlan> plan, const Rate& outputRate);
    void setWanted(bool wanted);
    [[nodiscard]] State state() const { return state_; }
    [[nodiscard]] QString trouble() const { return trouble_; }
    /// Whether the shot has sound at all.
    [[nodiscard]] bool hasSound() const { return index_ && index_->facts.hasSound; }
    [[nodiscard]] const std::shared_ptr<const SoundTrack>& track() const { return track_; }

  Q_SIGNALS:
    void stateChanged();

  private:
    void setState(State state, const QString& trouble = {});
    void make();
    void abandon(); ///< what is being made
    void follow();  ///< what the player does
    void startDevice();
    void stopDevice();
    [[nodiscard]] std::pair<std::int64_t, std::int64_t> range() const;

    Player& player_;
    SoundFeed feed_;
    std::unique_ptr<QAudioSink> sink_;
    std::shared_ptr<const MediaIndex> index_;
    std::shared_ptr<const SourceAxis> axis_;
    std::shared_ptr<const FramePlan> plan_;
    Rate outputRate_;
    std::shared_ptr<const SoundTrack> track_;
    std::pair<std::int64_t, std::int64_t> made_{0, -1};
    bool wanted_ = true;
    State state_ = State::none;
    QString trouble_;
    QTimer soon_;             ///< while a drag changes the timing again and again, nothing is made
    std::stop_source making_; ///< of the last order; earlier ones were stopped
    bool sounding_ = false;
    qint64 playNumber_ = -1;
    BackgroundTasks tasks_; ///< last: ended before what it answers to goes
};

} // namespace yarngap::app
