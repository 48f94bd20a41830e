#include "app/playing/preview.h"

#include <algorithm>
#include <cstdlib>

namespace yarngap::app {

namespace {

constexpr std::size_t rescanLimit =
    20'000;                             // plans up to here are checked against the kept pictures as a whole
constexpr int insertionsPerRescan = 64; // how often frames dropped from memory are noticed

std::string sized(std::string key, Size size) {
    return std::move(key) + '@' + std::to_string(size.width) + 'x' + std::to_string(size.height);
}

} // namespace

Flanks flanksOf(const PlanRow& row, std::int64_t mediaFrames) {
    const bool between = row.first != row.last;
    const std::int64_t before = between ? row.first : row.first - 1;
    const std::int64_t after = between ? row.last : row.first + 1;
    Flanks flanks;
    if (before >= 0) flanks.before = before;
    if (after < mediaFrames) flanks.after = after;
    return flanks;
}

Preview::Preview(QObject* parent)
    : QObject(parent) {
    for (std::jthread& thread : threads_)
        thread = std::jthread([this](const std::stop_token& stop) { loop(stop); });
}

Preview::~Preview() {
    for (std::jthread& thread : threads_)
        thread.request_stop();
    const std::scoped_lock lock(mutex_);
    abandon();
}

void Preview::abandon() {
    if (!active_) return;
    active_->stop.request_stop();
    active_.reset();
    changed_ = true;
    wake_.notify_all();
}

void Preview::change(const std::function<void(State&)>& edit) {
    const std::scoped_lock lock(mutex_);
    edit(shared_);
    shared_.version = ++version_;
    changed_ = true;
    wake_.notify_all();
}

void Preview::setShot(OutputFramesPtr frames) {
    state_.drafts = frames ? frames->drafts() : nullptr;
    state_.frames = std::move(frames);
    change([this](State& shared) {
        shared = state_;
        abandon();
    });
    rescanReady();
    lookWhetherSettled();
}

void Preview::setSizes(Size picture, Size flank) {
    if (picture == state_.size && flank == state_.flankSize) return;
    state_.size = picture;
    state_.flankSize = flank;
    change([this](State& shared) {
        shared = state_;
        abandon();
    });
    rescanReady();
    lookWhetherSettled();
}

void Preview::want(std::int64_t output, int direction) {
    state_.wanted = output;
    state_.direction = direction < 0 ? -1 : 1;
    change([this](State& shared) {
        shared = state_;
        // Work on a frame near the one wanted helps soon (its vectors, at least); work far away does not.
        constexpr std::int64_t near = 8;
        if (active_ && active_->output && std::abs(*active_->output - shared.wanted) > near) abandon();
    });
    lookWhetherSettled();
}

void Preview::setLoop(std::optional<std::pair<std::int64_t, std::int64_t>> loop) {
    state_.loop = loop;
    change([this](State& shared) { shared.loop = state_.loop; });
    lookWhetherSettled();
}

void Preview::setPage(std::optional<std::pair<std::int64_t, std::int64_t>> page) {
    if (page == state_.page) return;
    state_.page = page;
    change([this](State& shared) { shared.page = state_.page; });
}

void Preview::setMemory(std::size_t pictureBytes, std::size_t insightBytes) {
    pictures_.setByteLimit(pictureBytes);
    insights_.setByteLimit(insightBytes);
    change([](State&) {}); // more may fit now
    rescanReady();
    lookWhetherSettled();
}

std::int64_t Preview::room() const {
    return roomFor(state_.size);
}

/// Pictures that are kept without pushing out each other or what else there is.
std::int64_t Preview::roomFor(Size size) const {
    constexpr std::size_t beside = 192 * 1024; // the small picture and the look
    const std::size_t bytes =
        static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height) * 4 + beside;
    return static_cast<std::int64_t>(pictures_.byteLimit() * 3 / 4 / bytes);
}

void Preview::forgetAll() {
    pictures_.clear();
    insights_.clear();
    change([this](State&) { abandon(); });
    rescanReady();
    lookWhetherSettled();
}

void Preview::wantInsight(bool wanted) {
    if (wanted == state_.insight) return;
    state_.insight = wanted;
    change([this](State& shared) { shared.insight = state_.insight; });
}

std::string Preview::State::outputKey(std::int64_t output) const {
    return sized(frames->key(output), size);
}

std::string Preview::State::draftKey(std::int64_t output) const {
    return sized("draft:" + drafts->key(output), size);
}

std::string Preview::State::sourceKey(std::int64_t frame, Size pictureSize) const {
    return sized(frames->keyOfSourceAsShown(frame) + ":source", pictureSize);
}

bool Preview::State::has(std::int64_t output) const {
    return frames && output >= 0 && output < frames->count();
}

PreviewPicturePtr Preview::picture(std::int64_t output) {
    if (!state_.has(output)) return nullptr;
    if (auto made = pictures_.find(state_.outputKey(output))) return *made;
    return pictures_.find(state_.draftKey(output)).value_or(nullptr);
}

PreviewPicturePtr Preview::glance(std::int64_t output) const {
    if (!state_.has(output)) return nullptr;
    const auto made = pictures_.peek(state_.outputKey(output));
    return made && (*made)->trouble.isEmpty() ? *made : nullptr;
}

PreviewPicturePtr Preview::sourcePicture(std::int64_t n) {
    if (!state_.frames) return nullptr;
    return pictures_.find(state_.sourceKey(n, state_.flankSize)).value_or(nullptr);
}

PreviewPicturePtr Preview::largeSourcePicture(std::int64_t n) {
    if (!state_.frames) return nullptr;
    return pictures_.find(state_.sourceKey(n, state_.size)).value_or(nullptr);
}

PreviewInsightPtr Preview::insight(std::int64_t output) {
    if (!state_.has(output)) return nullptr;
    return insights_.find(state_.outputKey(output)).value_or(nullptr);
}

bool Preview::isShown(const Job& job) const {
    if (!state_.frames) return false;
    if (job.kind == Kind::source)
        return job.key == state_.sourceKey(job.frame, state_.flankSize) ||
               job.key == state_.sourceKey(job.frame, state_.size);
    if (!state_.has(job.frame)) return false;
    return job.key == (job.kind == Kind::draft ? state_.draftKey(job.frame) : state_.outputKey(job.frame));
}

void Preview::lookWhetherSettled() {
    bool now = true;
    if (state_.has(0))
        now = pictures_.contains(
                  state_.outputKey(std::clamp<std::int64_t>(state_.wanted, 0, state_.frames->count() - 1))) &&
              isLoopMade();
    if (std::exchange(isSettled_, now) != now) Q_EMIT settledChanged(now);
}

bool Preview::isLoopMade() const {
    if (!state_.loop) return true;
    const auto [first, last] = *state_.loop;
    if (first < 0 || last >= static_cast<std::int64_t>(ready_.size()) || last - first + 1 > room())
        return true;
    return std::all_of(ready_.begin() + first, ready_.begin() + last + 1,
                       [](Readiness one) { return one == Readiness::ready || one == Readiness::failed; });
}

void Preview::markReady(std::int64_t output, Readiness readiness) {
    if (output >= static_cast<std::int64_t>(ready_.size())) return;
    Readiness& known = ready_[static_cast<std::size_t>(output)];
    if (readiness == Readiness::draft && known == Readiness::ready) return; // it came late
    known = readiness;
    if (++sinceRescan_ >= insertionsPerRescan) rescanReady();
}

void Preview::rescanReady() {
    sinceRescan_ = 0;
    const auto rows = static_cast<std::size_t>(state_.frames ? state_.frames->count() : 0);
    ready_.assign(rows, Readiness::toMake);
    if (rows <= rescanLimit)
        for (std::size_t i = 0; i < rows; ++i) {
            const auto output = static_cast<std::int64_t>(i);
            if (const auto made = pictures_.peek(state_.outputKey(output)))
                ready_[i] = (*made)->trouble.isEmpty() ? Readiness::ready : Readiness::failed;
            else if (state_.frames->row(output).kind == FrameKind::flow &&
                     pictures_.contains(state_.draftKey(output)))
                ready_[i] = Readiness::draft;
        }
    Q_EMIT readyReset();
}

} // namespace yarngap::app
