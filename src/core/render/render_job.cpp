#include "core/render/render_job.h"

#include "core/decimal.h"
#include "core/error.h"
#include "core/media/frame_decoder.h"
#include "core/render/channel.h"
#include "core/render/lanes.h"
#include "core/render/render_output.h"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <exception>
#include <map>
#include <optional>
#include <thread>
#include <tuple>

namespace yarngap {

namespace {

using Clock = std::chrono::steady_clock;

double since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

/// One output frame on its way through the stages.
struct Item {
    std::unique_ptr<FrameInMaking> making; ///< null once `made` is there
    MadeFrame made;
    FrameTally kind = FrameTally::original;
};

/// Output frames that follow each other, of one gap at most.
struct Group {
    std::size_t number = 0;
    std::vector<Item> items;
};

/// How many may be in hand at once. Waiting ends at once when the stop token asks for it.
class Permits {
  public:
    explicit Permits(std::size_t count)
        : left_(count) {}

    /// Calls `work` while holding one. Throws Cancelled.
    template <typename Work>
    void with(const std::stop_token& stop, Work work) {
        {
            std::unique_lock lock(mutex_);
            if (!given_.wait(lock, stop, [this] { return left_ > 0; })) throw Cancelled();
            --left_;
        }
        struct GiveBack {
            Permits& permits;
            ~GiveBack() {
                const std::scoped_lock lock(permits.mutex_);
                ++permits.left_;
                permits.given_.notify_one();
            }
        } const giveBack{*this};
        work();
    }

  private:
    std::mutex mutex_;
    std::condition_variable_any given_;
    std::size_t left_;
};

void refuseUnlike(const std::vector<RenderPart>& parts) {
    if (parts.empty()) throw Error("There is nothing to render. Add a shot first.");
    for (const RenderPart& part : parts)
        if (part.first < 0 || part.count() < 1 || part.end() > part.frames->count())
            throw Error(part.name + " has only output frames 0 to " +
                        std::to_string(part.frames->count() - 1) + ". Choose a range within them.");
    const MediaFacts& first = parts.front().frames->facts();
    for (const RenderPart& part : parts) {
        const MediaFacts& facts = part.frames->facts();
        if (facts.width != first.width || facts.height != first.height ||
            facts.pixelAspect != first.pixelAspect || facts.layout != first.layout)
            throw Error(part.name + " (" + std::to_string(facts.width) + "x" + std::to_string(facts.height) +
                        ") differs from " + parts.front().name + " (" + std::to_string(first.width) + "x" +
                        std::to_string(first.height) +
                        ") in size, pixel aspect or pixel format; one file has one of each. Render them "
                        "apart, or take it out of the reel.");
    }
}

/// What the plan says of its ends, where they are in the range.
std::string endsSentenceOf(const RenderPart& part) {
    const FramePlan& plan = part.frames->plan();
    const bool ends = part.first < plan.headFrames || part.end() > part.frames->count() - plan.tailFrames;
    return ends ? plan.endsSentence() : std::string();
}

} // namespace

class RenderJob::Pipeline {
  public:
    Pipeline(std::vector<RenderPart> parts, RenderOptions options)
        : parts_(std::move(parts))
        , options_(std::move(options))
        , lanes_(parts_.empty() ? Lanes() : lanesFor(parts_.front().frames->facts()))
        , toMake_(lanes_.count)
        , toWrite_(lanes_.count + 1)
        , estimating_(lanes_.estimating) {}

    RenderReport run(const OnProgress& onProgress, const std::stop_token& stop) {
        throwIfStopped(stop);
        refuseUnlike(parts_);
        refuseInputs();
        const auto start = Clock::now();
        output_ = openOutput(parts_, options_, stop);
        wanted_ = output_->wanted();
        troubles_.resize(wanted_.size());
        tally(output_->tallies());
        report_.edgeScale = output_->edgeScale();
        onProgress_ = onProgress;
        const std::stop_callback forward(stop, [this] { stopSource_.request_stop(); });

        startStage([this](const std::stop_token& s) { readStage(s); });
        lanesLeft_ = lanes_.count;
        for (std::size_t lane = 0; lane < lanes_.count; ++lane)
            startStage([this](const std::stop_token& s) { makeStage(s); });
        startStage(
            [this](const std::stop_token& s) {
                const std::unique_ptr<RenderOutput> output =
                    std::move(output_); // gone, with its files, when this ends early
                writeStage(*output, s);
            },
            true);
        {
            std::unique_lock lock(mutex_);
            writeEnded_.wait(lock, [this] { return writerGone_; });
            if (failure_) std::rethrow_exception(failure_);
        }
        if (!complete_) throw Cancelled();
        report_.seconds = since(start);
        report_.frames = framesWritten(options_.scan, framesOf(parts_));
        for (std::size_t i = 0; i < parts_.size(); ++i) {
            report_.hasSound |= parts_[i].hasSound() && options_.sound != SoundUse::none;
            noteEnds(i);
            noteSound(i);
        }
        for (std::size_t i = 0; i < wanted_.size(); ++i)
            noteTroubles(i);
        if (const std::string trouble = parts_.front().frames->keepingTrouble(); !trouble.empty())
            report_.notes.push_back("The result is complete, but its motion is not kept for next time. " +
                                    trouble);
        constexpr double visible = 1.002; // a pixel of a thousand
        if (report_.edgeScale > visible) {
            report_.notes.push_back(
                "At the edges of some frames there is what no source frame has. Scaling in by " +
                decimal(100 * (report_.edgeScale - 1), 1) + " % would hide it.");
        }
        return report_;
    }

  private:
    template <typename Stage>
    void startStage(Stage stage, bool isWriter = false) {
        threads_.emplace_back([this, stage = std::move(stage), isWriter] {
            if (options_.onThreadStart) options_.onThreadStart();
            try {
                stage(stopSource_.get_token());
            } catch (const Cancelled&) {
                stopSource_.request_stop();
            } catch (...) {
                const std::scoped_lock lock(mutex_);
                if (!failure_) failure_ = std::current_exception();
                stopSource_.request_stop();
            }
            if (isWriter) {
                const std::scoped_lock lock(mutex_);
                writerGone_ = true;
                writeEnded_.notify_all();
            }
        });
    }

    void refuseInputs() {
        InputFiles inputs = options_.inputs;
        for (const RenderPart& part : parts_) {
            inputs.add(part.frames->inputFiles());
            if (part.hasSound()) inputs.add(part.index->facts.path);
        }
        inputs.refuse(filesWritten(options_, framesWritten(options_.scan, framesOf(parts_))));
    }

    /// Names a part where there are several.
    [[nodiscard]] std::string nameFor(const RenderPart& part) const {
        return parts_.size() > 1 ? part.name + ": " : "";
    }

    /// A sentence for what lies outside the trim.
    void noteEnds(std::size_t part) {
        if (const std::string ends = endsSentenceOf(parts_[part]); !ends.empty())
            report_.notes.push_back(nameFor(parts_[part]) + ends);
    }

    /// A sentence where a file has more sound than is used.
    void noteSound(std::size_t part) {
        if (!parts_[part].hasSound() || options_.sound == SoundUse::none) return;
        if (const int streams = parts_[part].index->facts.soundStreams; streams > 1)
            report_.notes.push_back(nameFor(parts_[part]) + "The file has " + std::to_string(streams) +
                                    " sound streams; the first is in the result.");
    }

    /// A sentence for each damaged source frame that is in the result.
    void noteTroubles(std::size_t part) {
        constexpr std::size_t most = 12;
        const std::string of = nameFor(wanted_[part]);
        std::size_t told = 0;
        for (const auto& [frame, trouble] : troubles_[part]) {
            if (told++ == most) break;
            // Parts of one shot may be made from the same frame.
            if (std::ranges::count(report_.notes, of + trouble.sentence) == 0)
                report_.notes.push_back(of + trouble.sentence);
        }
        if (troubles_[part].size() > most)
            report_.notes.push_back(of + "The same goes for " +
                                    std::to_string(troubles_[part].size() - most) + " more frames.");
    }

    /// What kind an output frame is, once its source frames are known. Throws Undecodable where that is to
    /// stop the render.
    FrameTally kindOf(std::size_t part, std::int64_t n) {
        const OutputFrames& frames = *wanted_[part].frames;
        troubles_[part].merge(frames.troublesOf(n));
        const auto trouble = frames.worstTroubleOf(n);
        if (trouble && trouble->kind == FrameTrouble::Kind::undecodable) {
            if (options_.whenUndecodable == WhenUndecodable::stop)
                throw Undecodable(frames.facts().path.string() + ": " + trouble->sentence +
                                  " A render stops at such a frame. Repair the file, trim the shot, or let "
                                  "the frame before be held there (--undecodable hold).");
            return FrameTally::standIn;
        }
        switch (frames.row(n).kind) {
        case FrameKind::original:
            return FrameTally::original;
        case FrameKind::repeat:
            return FrameTally::repeat;
        case FrameKind::blend:
            return FrameTally::blend;
        case FrameKind::flow:
            return FrameTally::flow;
        case FrameKind::held:
            break;
        }
        return FrameTally::held;
    }

    void tally(const FrameTallies& counts) {
        const auto of = [&](FrameTally kind) { return counts.at(static_cast<std::size_t>(kind)); };
        report_.originals += of(FrameTally::original);
        report_.repeats += of(FrameTally::repeat);
        report_.blends += of(FrameTally::blend);
        report_.flows += of(FrameTally::flow);
        report_.held += of(FrameTally::held);
        report_.standIns += of(FrameTally::standIn);
        for (const std::int64_t count : counts)
            report_.resumed += count;
    }

    /// Which gap a frame is made in; none for those that are only shown.
    using Gap = std::tuple<std::size_t, std::int64_t, std::int64_t>;
    [[nodiscard]] std::optional<Gap> gapOf(std::size_t part, std::int64_t n) const {
        const PlanRow& row = wanted_[part].frames->row(n);
        if (row.kind != FrameKind::flow) return std::nullopt;
        return Gap{part, row.first, row.last};
    }

    void readStage(const std::stop_token& stop) {
        Group group;
        std::optional<Gap> gap;
        const auto pass = [&] {
            const std::size_t next = group.number + 1;
            const bool passed = group.items.empty() || toMake_.push(std::exchange(group, {}), stop);
            group.number = next;
            gap.reset();
            return passed;
        };
        for (std::size_t part = 0; part < wanted_.size(); ++part)
            for (std::int64_t n = wanted_[part].first; n < wanted_[part].end(); ++n) {
                const std::optional<Gap> own = gapOf(part, n);
                const bool isOther = own && gap && *own != *gap;
                if ((isOther || group.items.size() >= lanes_.framesAtOnce) && !pass()) return;
                if (own) gap = own;
                group.items.push_back(itemOf(part, n, stop));
            }
        if (pass()) toMake_.close();
    }

    [[nodiscard]] Item itemOf(std::size_t part, std::int64_t n, const std::stop_token& stop) {
        const auto start = Clock::now();
        const OutputFrames& frames = *wanted_[part].frames;
        Item item;
        if (auto kept = frames.kept(n)) {
            item.made = std::move(*kept);
            ++report_.finished;
        } else {
            item.making = frames.begin(n);
            item.making->read(stop);
        }
        item.kind = kindOf(part, n);
        report_.readSeconds += since(start);
        return item;
    }

    /// One lane: the frames of a group, their motion first.
    void makeStage(const std::stop_token& stop) {
        while (auto group = toMake_.pop(stop)) {
            for (Item& item : group->items)
                make(item, stop);
            if (!toWrite_.push(group->number, std::move(group->items), stop)) return;
        }
        const std::scoped_lock lock(mutex_);
        if (--lanesLeft_ == 0) toWrite_.close();
    }

    void make(Item& item, const std::stop_token& stop) {
        double estimating = 0;
        double synthesising = 0;
        if (item.making) {
            estimating_.with(stop, [&] {
                const auto start = Clock::now();
                item.making->estimate(stop);
                estimating = since(start);
            });
            const auto start = Clock::now();
            item.made = item.making->finish(stop);
            item.making.reset();
            synthesising = since(start);
        }
        const std::scoped_lock lock(mutex_);
        report_.edgeScale = std::max(report_.edgeScale, item.made.edgeScale);
        report_.estimateSeconds += estimating;
        report_.synthesiseSeconds += synthesising;
    }

    void writeStage(RenderOutput& output, const std::stop_token& stop) {
        const auto begin = Clock::now();
        RenderProgress progress;
        progress.total = framesOf(wanted_);
        FrameTallies made{};
        while (auto items = toWrite_.pop(stop))
            for (Item& item : *items) {
                throwIfStopped(stop);
                const auto start = Clock::now();
                output.write(*item.made.image, {item.kind, item.made.edgeScale}, stop);
                item.made.image.reset();
                ++made.at(static_cast<std::size_t>(item.kind));
                report_.writeSeconds += since(start);
                ++progress.done;
                progress.bytes = output.bytes();
                const double elapsed = since(begin);
                if (progress.done >= 3 && elapsed > 0.3)
                    progress.secondsLeft = elapsed / static_cast<double>(progress.done) *
                                           static_cast<double>(progress.total - progress.done);
                if (onProgress_) onProgress_(progress);
            }
        throwIfStopped(stop);
        const auto start = Clock::now();
        progress.joining = true;
        progress.total = framesWritten(options_.scan, framesOf(parts_));
        progress.secondsLeft = -1;
        output.finish(
            [&](std::int64_t joined) {
                progress.done = joined;
                if (onProgress_) onProgress_(progress);
            },
            stop);
        {
            const std::int64_t before = report_.resumed;
            tally(made);
            report_.resumed = before;
        }
        report_.writeSeconds += since(start);
        report_.notes = output.notes();
        complete_ = true;
    }

    std::vector<RenderPart> parts_;
    std::vector<RenderPart> wanted_; ///< of the parts, what has to be made
    RenderOptions options_;
    OnProgress onProgress_;
    std::unique_ptr<RenderOutput> output_;
    Lanes lanes_;
    Channel<Group> toMake_;
    Channel<std::vector<Item>> toWrite_;
    Permits estimating_;
    std::size_t lanesLeft_ = 0; ///< guarded by mutex_
    std::stop_source stopSource_;
    std::mutex mutex_;
    std::condition_variable writeEnded_;
    bool writerGone_ = false;
    bool complete_ = false; // written by the writing thread before writerGone_
    std::exception_ptr failure_;
    RenderReport report_; // each stage writes its own fields; those that lanes write are guarded by mutex_
    std::vector<std::map<std::int64_t, FrameTrouble>> troubles_; // of each part, by source frame
    std::vector<std::jthread> threads_;                          // last: joined before anything they use goes
};

RenderJob::RenderJob(std::vector<RenderPart> parts, RenderOptions options)
    : pipeline_(std::make_unique<Pipeline>(std::move(parts), std::move(options))) {}
RenderJob::~RenderJob() = default;

RenderReport RenderJob::run(const OnProgress& onProgress, const std::stop_token& stop) {
    return pipeline_->run(onProgress, stop);
}

} // namespace yarngap
