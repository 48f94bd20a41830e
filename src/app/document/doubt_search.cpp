#include "app/document/doubt_search.h"

#include "core/background_priority.h"
#include "core/image/rgb_picture.h"

#include <algorithm>
#include <chrono>
#include <utility>

namespace yarngap::app {

namespace {

constexpr int delayMs = 400;                      // edits that follow each other are looked at once
constexpr std::chrono::milliseconds between{250}; // two messages of progress

/// What was asked to stop may be asked again.
void renew(std::stop_source& stop) {
    std::stop_source fresh; // named: GCC 12 takes a temporary for one that is not initialised
    stop.swap(fresh);
}

/// A place of a frame with half as much around it, as a small picture.
QImage pictureOf(const Image& image, const ColourTags& tags, const PictureBox& box) {
    constexpr int wide = 192; // pixels, twice what is shown
    const RgbPicture rgb = toScreenRgb(image, tags, image.width(), image.height());
    const QImage whole(rgb.bgra.data(), rgb.width, rgb.height, rgb.stride, QImage::Format_RGB32);
    QRect place(box.x, box.y, box.width, box.height);
    place.adjust(-box.width / 4, -box.height / 4, box.width / 4, box.height / 4);
    // As wide as a row's picture is, 16 : 9, and not so close that nothing can be told.
    const int width = std::max({place.width(), place.height() * 16 / 9, image.width() / 8});
    const QPoint centre = place.center();
    place = QRect(centre.x() - width / 2, centre.y() - width * 9 / 32, width, width * 9 / 16);
    place.moveLeft(std::clamp(place.left(), 0, std::max(0, image.width() - place.width())));
    place.moveTop(std::clamp(place.top(), 0, std::max(0, image.height() - place.height())));
    return whole.copy(place & whole.rect()).scaledToWidth(wide, Qt::SmoothTransformation);
}

} // namespace

DoubtSearch::DoubtSearch(QObject* parent)
    : QObject(parent)
    , known_(knownDoubtsOfUser()) {
    delay_.setSingleShot(true);
    delay_.setInterval(delayMs);
    connect(&delay_, &QTimer::timeout, this, &DoubtSearch::goOn);
    for (BackgroundTasks* tasks : {&lookTasks_, &cureTasks_})
        tasks->run([](const std::stop_token&) { yieldToInterface(); });
}

DoubtSearch::~DoubtSearch() {
    stopAll();
}

void DoubtSearch::stopAll() {
    for (std::stop_source* one : {&looking_, &curing_, &mending_, &picturing_})
        one->request_stop();
}

void DoubtSearch::setShot(std::shared_ptr<const PlannedFrames> frames, OutputFramesPtr shown,
                          const GapFindings& found, const Matte& matte) {
    const bool same = frames_ && frames && frames_->facts().path == frames->facts().path && found == found_;
    stopAll();
    frames_ = std::move(frames);
    shown_ = std::move(shown);
    found_ = found;
    matte_ = matte;
    isMending_ = false;
    cures_ = {};
    gaps_.clear();
    wanted_.clear();
    trouble_.clear();
    progress_ = 0;
    if (!same) pictures_.clear();
    isSearching_ = frames_ != nullptr;
    if (frames_ && !isHeld_)
        delay_.start();
    else
        delay_.stop();
    Q_EMIT curesChanged();
    Q_EMIT mendingChanged();
    Q_EMIT changed();
}

void DoubtSearch::setHeld(bool isHeld) {
    if (std::exchange(isHeld_, isHeld) == isHeld) return;
    if (isHeld) {
        delay_.stop();
        looking_.request_stop();
        picturing_.request_stop();
        return;
    }
    delay_.start();
}

void DoubtSearch::goOn() {
    if (isSearching_) look();
    wantPictures(wanted_);
}

void DoubtSearch::look() {
    if (!frames_) return;
    renew(looking_);
    lookTasks_.run([this, frames = frames_, known = known_, seen = seen_,
                    stop = looking_.get_token()](const std::stop_token&) {
        std::vector<DoubtfulGap> found;
        auto told = std::chrono::steady_clock::now();
        const auto tell = [&](double share, bool isDone, const QString& trouble) {
            std::vector<DoubtfulGap> sorted = found;
            std::ranges::stable_sort(
                sorted, [](const DoubtfulGap& a, const DoubtfulGap& b) { return a.doubt > b.doubt; });
            postTo(this, [this, sorted = std::move(sorted), share, isDone, trouble, stop]() mutable {
                if (stop.stop_requested()) return;
                gaps_ = std::move(sorted);
                progress_ = share;
                isSearching_ = !isDone;
                trouble_ = trouble;
                Q_EMIT changed();
            });
            told = std::chrono::steady_clock::now();
        };
        if (const std::string shot = shotKeyOf(*frames); shot != seen->shot)
            *seen = {shot, known ? known->find(shot) : DoubtMemory()};
        const std::size_t before = seen->memory.size();
        try {
            const std::vector<std::int64_t> outputs = outputsToDoubt(frames->plan());
            for (std::size_t i = 0; i < outputs.size(); ++i) {
                throwIfStopped(stop);
                std::optional<DoubtfulGap> gap;
                withoutHelpers([&] { gap = doubtAt(*frames, outputs[i], &seen->memory, stop); });
                if (gap) found.push_back(*std::move(gap));
                if (std::chrono::steady_clock::now() - told > between)
                    tell(static_cast<double>(i + 1) / static_cast<double>(outputs.size()), false, {});
            }
            tell(1, true, {});
        } catch (const Cancelled&) {
            tell(0, true, {});
        } catch (const std::exception& error) {
            tell(1, true, QString::fromUtf8(error.what()));
        }
        // What was seen is kept whatever ended it.
        if (known && seen->memory.size() != before) known->keep(seen->shot, seen->memory);
    });
}

QImage DoubtSearch::picture(std::int64_t gap) const {
    const auto at = pictures_.find(gap);
    return at == pictures_.end() ? QImage() : at->second.second;
}

void DoubtSearch::wantPictures(const std::vector<DoubtfulGap>& gaps) {
    if (!shown_) return;
    if (&gaps != &wanted_) wanted_ = gaps;
    if (isHeld_) return;
    std::vector<DoubtfulGap> missing;
    for (const DoubtfulGap& gap : gaps) {
        if (gap.output >= shown_->count()) continue;
        const auto at = pictures_.find(gap.first);
        if (at == pictures_.end() || at->second.first != shown_->key(gap.output)) missing.push_back(gap);
    }
    if (missing.empty()) return;
    picturing_.request_stop();
    renew(picturing_);
    lookTasks_.run(
        [this, frames = shown_, missing = std::move(missing),
         stop = picturing_.get_token()](const std::stop_token&) {
            try {
                for (const DoubtfulGap& gap : missing) {
                    throwIfStopped(stop);
                    const MadeFrame made = frames->make(gap.output, stop);
                    QImage picture = pictureOf(*made.image, frames->facts().colour, gap.box);
                    postTo(this, [this, gap = gap.first, key = frames->key(gap.output), picture] {
                        pictures_.insert_or_assign(gap, std::pair(key, picture));
                        Q_EMIT pictureReady();
                    });
                }
            } catch (const std::exception&) {
                // A picture that cannot be made is told where the frame itself is shown.
                return;
            }
        },
        1);
}

void DoubtSearch::tryCures(const DoubtfulGap& gap) {
    if (!frames_ || gap.output >= frames_->count()) return;
    curing_.request_stop();
    renew(curing_);
    cures_ = {.gap = gap.first};
    Q_EMIT curesChanged();
    cureTasks_.run([this, frames = frames_, gap, found = found_, matte = matte_,
                    stop = curing_.get_token()](const std::stop_token&) {
        try {
            const auto vectors = std::make_shared<VectorStore>(std::size_t{64} << 20);
            const std::shared_ptr<ShotFrames> source(frames, &frames->source());
            const CureJudge judge(source, vectors, found, matte);
            const PlanRow& row = frames->row(gap.output);
            const GapSettings& settings = frames->plan().settings.at(row.settings);
            const std::vector<Cure> all = usualCures(settings);
            std::vector<std::pair<JudgedCure, QImage>> judged;
            for (const Cure& cure : all) {
                JudgedCure one = judge.judge({gap.first, gap.last}, settings, cure, stop);
                const Image made =
                    madeWith(*frames, row, withChanges(settings, cure.changes), vectors, matte, stop);
                judged.emplace_back(std::move(one), pictureOf(made, frames->facts().colour, gap.box));
                std::vector<std::pair<JudgedCure, QImage>> sorted = judged;
                std::ranges::stable_sort(sorted, [](const auto& a, const auto& b) {
                    return a.first.mark.value_or(0) > b.first.mark.value_or(0);
                });
                CuresOfGap told{.gap = gap.first, .isDone = judged.size() == all.size()};
                for (auto& [cured, picture] : sorted) {
                    told.cures.push_back(std::move(cured));
                    told.pictures.push_back(std::move(picture));
                }
                postTo(this, [this, told = std::move(told), stop] {
                    if (stop.stop_requested()) return;
                    cures_ = told;
                    Q_EMIT curesChanged();
                });
            }
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            postTo(this, [this, text = QString::fromUtf8(error.what())] {
                trouble_ = text;
                cures_.isDone = true;
                Q_EMIT curesChanged();
                Q_EMIT changed();
            });
        }
    });
}

void DoubtSearch::mendAll(double limit, const Mending& mending) {
    mending_.request_stop();
    if (std::exchange(isMending_, false)) return Q_EMIT mendingChanged();
    if (!frames_) return;
    renew(mending_);
    isMending_ = true;
    mendingProgress_ = 0;
    Q_EMIT mendingChanged();
    cureTasks_.run([this, frames = frames_, gaps = gaps_, limit, mending, found = found_, matte = matte_,
                    stop = mending_.get_token()](const std::stop_token&) {
        const auto done = [this, stop](auto then) {
            postTo(this, [this, stop, then = std::move(then)] {
                if (stop.stop_requested()) return;
                isMending_ = false;
                Q_EMIT mendingChanged();
                then();
            });
        };
        try {
            const auto vectors = std::make_shared<VectorStore>(std::size_t{64} << 20);
            const CureJudge judge(std::shared_ptr<ShotFrames>(frames, &frames->source()), vectors, found,
                                  matte);
            const auto tried = yarngap::tryCures(
                *frames, judge, gaps, limit, mending,
                [this, stop](double share) {
                    postTo(this, [this, share, stop] {
                        if (stop.stop_requested()) return;
                        mendingProgress_ = share;
                        Q_EMIT mendingChanged();
                    });
                },
                stop);
            const auto bettered =
                std::ranges::count_if(tried, [](const TriedGap& t) { return t.best.has_value(); });
            done([this, mended = withBestCures(mending, tried), all = static_cast<int>(tried.size()),
                  bettered = static_cast<int>(bettered)] { Q_EMIT allTried(mended, all, bettered); });
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            done([this, text = QString::fromUtf8(error.what())] {
                trouble_ = text;
                Q_EMIT changed();
            });
        }
    });
}

} // namespace yarngap::app
