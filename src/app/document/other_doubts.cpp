#include "app/document/other_doubts.h"

#include "core/background_priority.h"
#include "core/error.h"

#include <algorithm>
#include <optional>
#include <utility>

namespace yarngap::app {

namespace {

constexpr std::size_t fewBytes = std::size_t{24} << 20; // beside the memory of what is on screen

/// The frames of a shot that is not on screen; null where its settings do not suit its file.
std::shared_ptr<const PlannedFrames> framesOf(const OtherShot& other) {
    try {
        const auto axis =
            std::make_shared<const SourceAxis>(*other.index, other.shot.interpretation, other.shot.cleanup);
        const Footage footage =
            footageOf(other.index, axis, std::make_shared<FrameSource>(other.index, fewBytes), fewBytes);
        const auto vectors = std::make_shared<VectorStore>(fewBytes, vectorFolderOfUser());
        return readyShot(other.shot, footage, axis->findings(*other.findings),
                         {.vectors = vectors, .isFinal = false})
            .planned;
    } catch (const Error&) {
        return nullptr; // which is told when it is on screen
    }
}

int openIn(const PlannedFrames& frames, double limit, const Mending& mending, DoubtMemory& memory,
           const std::stop_token& stop) {
    int open = 0;
    for (const std::int64_t output : outputsToDoubt(frames.plan())) {
        throwIfStopped(stop);
        std::optional<DoubtfulGap> gap;
        withoutHelpers([&] { gap = doubtAt(frames, output, &memory, stop); });
        const std::int64_t own = frames.row(output).position.frame;
        if (gap && gap->doubt >= limit && !mending.at(own) && !mending.isAccepted(own)) ++open;
    }
    return open;
}

} // namespace

OtherDoubts::OtherDoubts(QObject* parent)
    : QObject(parent)
    , known_(knownDoubtsOfUser()) {
    tasks_.run([](const std::stop_token&) { yieldToInterface(); });
}

OtherDoubts::~OtherDoubts() {
    looking_.request_stop();
}

void OtherDoubts::pause() {
    looking_.request_stop();
    isLooking_ = false;
}

void OtherDoubts::look(const std::vector<OtherShot>& shots, double limit) {
    if (isLooking_ && shots == shots_ && limit == limit_) return;
    pause();
    // Counts of shots that are as they were stay.
    std::map<int, int> kept;
    std::vector<OtherShot> toDo;
    for (const OtherShot& shot : shots) {
        const auto count = open_.find(shot.place);
        const bool isSame = std::ranges::find(shots_, shot) != shots_.end() && limit == limit_;
        if (isSame && count != open_.end())
            kept.insert(*count);
        else
            toDo.push_back(shot);
    }
    shots_ = shots;
    limit_ = limit;
    isLooking_ = true;
    if (std::exchange(open_, kept) != kept) Q_EMIT changed();
    if (toDo.empty()) return;
    std::stop_source fresh; // named: GCC 12 takes a temporary for one that is not initialised
    looking_.swap(fresh);
    tasks_.run([this, toDo = std::move(toDo), limit, known = known_,
                stop = looking_.get_token()](const std::stop_token&) {
        for (const OtherShot& shot : toDo) {
            if (stop.stop_requested()) return;
            const auto frames = framesOf(shot);
            if (!frames) continue;
            const std::string key = shotKeyOf(*frames);
            DoubtMemory memory = known ? known->find(key) : DoubtMemory();
            const std::size_t before = memory.size();
            std::optional<int> open;
            try {
                open = openIn(*frames, limit, shot.shot.mending, memory, stop);
            } catch (const std::exception&) {
                open.reset(); // stopped, or told when the shot is on screen
            }
            if (known && memory.size() != before) known->keep(key, std::move(memory));
            if (open)
                postTo(this, [this, place = shot.place, count = *open, stop] {
                    if (stop.stop_requested()) return;
                    open_[place] = count;
                    Q_EMIT changed();
                });
        }
    });
}

} // namespace yarngap::app
