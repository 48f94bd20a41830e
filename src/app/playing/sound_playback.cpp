#include "app/playing/sound_playback.h"

#include "core/error.h"
#include "core/progress.h"
#include "core/shot/shot_sound.h"

#include <QAudioDevice>
#include <QAudioFormat>
#include <QAudioSink>
#include <QMediaDevices>

#include <algorithm>
#include <cmath>
#include <cstring>

namespace yarngap::app {

namespace {

constexpr qint64 pairBytes = 2 * sizeof(std::int16_t);
constexpr double bufferSeconds = 0.15; // longer than the interface is ever busy
constexpr double apart = 0.2;          // seconds by which sound and picture may part before it jumps

std::int16_t sample(float value) {
    constexpr float full = 32767.0F;
    return static_cast<std::int16_t>(std::lround(std::clamp(value, -1.0F, 1.0F) * full));
}

/// Whether both run through the same moments; how their pictures are made is not heard.
bool soundAlike(const FramePlan& a, const FramePlan& b) {
    return std::equal(a.rows.begin(), a.rows.end(), b.rows.begin(), b.rows.end(),
                      [](const PlanRow& x, const PlanRow& y) { return x.position == y.position; });
}

QAudioFormat deviceFormat() {
    QAudioFormat format;
    format.setSampleRate(usualSoundRate);
    format.setChannelCount(usualSoundChannels);
    format.setSampleFormat(QAudioFormat::Int16);
    return format;
}

} // namespace

std::pair<std::int16_t, std::int16_t> SoundTrack::at(double output) const {
    const auto index = std::llround((output - firstOutput) / rate * usualSoundRate);
    if (index < 0 || index * 2 + 1 >= static_cast<std::int64_t>(samples.size())) return {0, 0};
    const auto i = static_cast<std::size_t>(index) * 2;
    return {samples[i], samples[i + 1]};
}

SoundFeed::SoundFeed(const Player& player, QObject* parent)
    : QIODevice(parent)
    , player_(player) {}

void SoundFeed::start(double seconds) {
    start_ = seconds;
    given_ = 0;
    if (!isOpen()) open(QIODevice::ReadOnly | QIODevice::Unbuffered);
}

qint64 SoundFeed::bytesAvailable() const {
    return usualSoundRate * pairBytes; // there is always more
}

qint64 SoundFeed::readData(char* data, qint64 maxSize) {
    const qint64 count = maxSize / pairBytes;
    for (qint64 i = 0; i < count; ++i) {
        std::pair<std::int16_t, std::int16_t> pair{0, 0};
        if (track_) pair = track_->at(player_.placeAfter(handedOver()));
        std::memcpy(data + i * pairBytes, &pair.first, sizeof pair.first);
        std::memcpy(data + i * pairBytes + sizeof pair.first, &pair.second, sizeof pair.second);
        ++given_;
    }
    return count * pairBytes;
}

SoundPlayback::SoundPlayback(Player& player, QObject* parent)
    : QObject(parent)
    , player_(player)
    , feed_(player) {
    soon_.setSingleShot(true);
    constexpr int quiet = 400; // ms without another change
    soon_.setInterval(quiet);
    connect(&soon_, &QTimer::timeout, this, &SoundPlayback::make);
    connect(&player_, &Player::stateChanged, this, &SoundPlayback::follow);
    connect(&player_, &Player::loopChanged, this, &SoundPlayback::follow);
}

SoundPlayback::~SoundPlayback() {
    making_.request_stop();
    player_.disconnect(this);
    stopDevice();
}

void SoundPlayback::abandon() {
    making_.request_stop();
    making_ = std::stop_source();
}

void SoundPlayback::setShot(std::shared_ptr<const MediaIndex> index, std::shared_ptr<const SourceAxis> axis,
                            std::shared_ptr<const FramePlan> plan, const Rate& outputRate) {
    const bool same = index == index_ && axis == axis_ && outputRate == outputRate_ && plan && plan_ &&
                      soundAlike(*plan, *plan_);
    plan_ = std::move(plan);
    if (same && state_ != State::none) return;
    index_ = std::move(index);
    axis_ = std::move(axis);
    outputRate_ = outputRate;
    track_.reset(); // that of another plan is not to be heard
    made_ = {0, -1};
    feed_.setTrack(nullptr);
    abandon();
    if (hasSound() && wanted_ && plan_ && !plan_->rows.empty()) {
        setState(State::making);
        soon_.start();
    } else {
        soon_.stop();
        setState(State::none);
    }
}

void SoundPlayback::setWanted(bool wanted) {
    if (wanted == wanted_) return;
    wanted_ = wanted;
    setState(State::none);
    setShot(index_, axis_, plan_, outputRate_);
    follow();
}

void SoundPlayback::setState(State state, const QString& trouble) {
    if (state == state_ && trouble == trouble_) return;
    state_ = state;
    trouble_ = trouble;
    Q_EMIT stateChanged();
}

std::pair<std::int64_t, std::int64_t> SoundPlayback::range() const {
    const auto rows = static_cast<std::int64_t>(plan_->rows.size());
    const double rate = outputRate_.toDouble();
    const auto most =
        static_cast<std::int64_t>(static_cast<double>(trackBytes) / (usualSoundRate * pairBytes) * rate);
    if (rows <= most) return {0, rows - 1};
    const std::int64_t first =
        std::clamp<std::int64_t>(player_.clockFrame() - most / 8, 0, std::max<std::int64_t>(0, rows - most));
    return {first, std::min(rows, first + most) - 1};
}

void SoundPlayback::make() {
    abandon();
    const auto [first, last] = range();
    made_ = {first, last};
    setState(State::making);
    tasks_.run([this, stop = making_.get_token(), first = first, last = last, axis = axis_, index = index_,
                plan = plan_, outputRate = outputRate_](const std::stop_token&) {
        auto track = std::make_shared<SoundTrack>();
        QString trouble;
        try {
            const ShotSound own = shotSound(index, axis, {}, stop);
            const Sound sound = soundOf(*plan, first, last, own.time, outputRate, own.read, {}, stop);
            track->firstOutput = static_cast<double>(first);
            track->rate = outputRate.toDouble();
            track->samples.reserve(sound.samples.size());
            for (const float value : sound.samples)
                track->samples.push_back(sample(value));
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            trouble = QString::fromStdString(error.what());
        }
        postTo(this, [this, stop, track, trouble] {
            if (stop.stop_requested()) return;
            if (trouble.isEmpty()) {
                track_ = track;
                feed_.setTrack(track);
            }
            setState(trouble.isEmpty() ? State::ready : State::trouble, trouble);
            follow();
        });
    });
}

void SoundPlayback::follow() {
    const bool play = std::abs(player_.speed()) == 1 && state_ == State::ready;
    if (!play) {
        stopDevice();
        return;
    }
    // Beyond what is made, more is made.
    const std::int64_t at = player_.clockFrame();
    const auto rows = static_cast<std::int64_t>(plan_->rows.size());
    if (at < made_.first || (at > made_.second && made_.second < rows - 1)) {
        stopDevice();
        make();
        return;
    }
    const double ahead = feed_.handedOver() - player_.secondsPlayed();
    const bool parted = sounding_ && (ahead < -apart || ahead > apart + 2 * bufferSeconds);
    if (sounding_ && !parted && playNumber_ == player_.playNumber()) return;
    playNumber_ = player_.playNumber();
    feed_.start(player_.secondsPlayed());
    if (!sounding_) startDevice();
}

void SoundPlayback::startDevice() {
    sounding_ = true;
    if (QMediaDevices::defaultAudioOutput().isNull()) return; // nobody can hear it
    sink_ = std::make_unique<QAudioSink>(QMediaDevices::defaultAudioOutput(), deviceFormat());
    sink_->setBufferSize(static_cast<qsizetype>(bufferSeconds * usualSoundRate) * pairBytes);
    sink_->start(&feed_);
}

void SoundPlayback::stopDevice() {
    sounding_ = false;
    if (!sink_) return;
    sink_->stop();
    sink_.reset();
}

} // namespace yarngap::app
