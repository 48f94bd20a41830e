#include "core/render/render_job.h"

#include "core/background_priority.h"
#include "core/error.h"
#include "core/media/picture_sequence.h"
#include "core/render/channel.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <cstdio>
#include <exception>
#include <thread>

namespace yarngap {

namespace {

using Clock = std::chrono::steady_clock;

double since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

/// One output frame on its way through the stages.
struct Item {
    const RenderPart* part = nullptr;
    const PlanRow* row = nullptr;
    RowInput input;
    LayerVectors vectors;
    MadeFrame made;
};

constexpr std::size_t queueLength = 3;

/// Frames that may wait with their vectors: a large picture's take much memory.
std::size_t gapsWaiting(const MediaFacts& facts) {
    constexpr std::size_t most = std::size_t{200} << 20; // bytes
    constexpr std::size_t perPixel = 18;                 // of Vectors
    const std::size_t gap =
        perPixel * static_cast<std::size_t>(facts.width) * static_cast<std::size_t>(facts.height);
    return std::clamp<std::size_t>(most / std::max<std::size_t>(1, gap), 1, queueLength);
}

void refuseUnlike(const std::vector<RenderPart>& parts) {
    if (parts.empty()) throw Error("There is nothing to render. Add a shot first.");
    const MediaFacts& first = parts.front().maker.source().facts();
    for (const RenderPart& part : parts) {
        const MediaFacts& facts = part.maker.source().facts();
        if (facts.width != first.width || facts.height != first.height ||
            facts.pixelAspect != first.pixelAspect || facts.layout != first.layout)
            throw Error(part.name + " (" + std::to_string(facts.width) + "x" + std::to_string(facts.height) +
                        ") differs from " + parts.front().name + " (" + std::to_string(first.width) + "x" +
                        std::to_string(first.height) +
                        ") in size, pixel aspect or pixel format; one file has one of each. Render them "
                        "apart, or take it out of the reel.");
    }
}

} // namespace

class RenderJob::Pipeline {
  public:
    Pipeline(std::vector<RenderPart> parts, RenderOptions options)
        : parts_(std::move(parts))
        , options_(std::move(options))
        , toSynthesise_(parts_.empty() ? 1 : gapsWaiting(parts_.front().maker.source().facts())) {}

    RenderReport run(const OnProgress& onProgress, const std::stop_token& stop) {
        throwIfStopped(stop);
        refuseUnlike(parts_);
        for (const RenderPart& part : parts_)
            refuseSourceAsTarget(part.maker.source().facts().path, options_.target);
        const MediaFacts& facts = parts_.front().maker.source().facts();
        const auto start = Clock::now();
        writer_ = openWriter({options_.target, options_.format, options_.rate, facts.width, facts.height,
                              facts.layout, facts.colour, facts.pixelAspect});
        onProgress_ = onProgress;
        const std::stop_callback forward(stop, [this] { stopSource_.request_stop(); });

        startStage([this](const std::stop_token& s) { readStage(s); });
        startStage([this](const std::stop_token& s) { estimateStage(s); });
        startStage([this](const std::stop_token& s) { synthesiseStage(s); });
        startStage(
            [this](const std::stop_token& s) {
                const std::unique_ptr<FrameWriter> writer =
                    std::move(writer_); // gone, with its file, when this ends early
                writeStage(*writer, s);
            },
            true);
        {
            std::unique_lock lock(mutex_);
            writeEnded_.wait(lock, [this] { return writerGone_; });
            if (failure_) std::rethrow_exception(failure_);
        }
        if (!complete_) throw Cancelled();
        report_.seconds = since(start);
        bool sound = false;
        for (const RenderPart& part : parts_) {
            report_.frames += static_cast<std::int64_t>(part.plan.rows.size());
            report_.originals += part.plan.count(FrameKind::original);
            report_.repeats += part.plan.count(FrameKind::repeat);
            report_.blends += part.plan.count(FrameKind::blend);
            report_.flows += part.plan.count(FrameKind::flow);
            report_.held += part.plan.count(FrameKind::held);
            const std::string of = parts_.size() > 1 ? part.name + ": " : "";
            if (const std::string tail = part.plan.endsSentence(); !tail.empty())
                report_.notes.push_back(of + tail);
            for (const auto& [frame, sentence] : part.maker.source().troubles())
                report_.notes.push_back(sentence);
            sound |= part.maker.source().facts().hasSound;
        }
        if (const std::string trouble = parts_.front().maker.vectorTrouble(); !trouble.empty())
            report_.notes.push_back("The result is complete, but its motion is not kept for next time. " +
                                    trouble);
        constexpr double visible = 1.002; // a pixel of a thousand
        if (report_.edgeScale > visible) {
            std::array<char, 16> percent{};
            std::snprintf(percent.data(), percent.size(), "%.1f", 100 * (report_.edgeScale - 1));
            report_.notes.push_back(
                "At the edges of some frames there is what no source frame has. Scaling in by " +
                std::string(percent.data()) + " % would hide it.");
        }
        if (sound) report_.notes.emplace_back("The result has no sound; only pictures are rendered so far.");
        return report_;
    }

  private:
    template <typename Stage>
    void startStage(Stage stage, bool isWriter = false) {
        threads_.emplace_back([this, stage = std::move(stage), isWriter] {
            yieldToInterface();
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

    void readStage(const std::stop_token& stop) {
        for (const RenderPart& part : parts_)
            for (const PlanRow& row : part.plan.rows) {
                const auto start = Clock::now();
                Item item{&part, &row, {}, {}, {}};
                if (auto kept = part.maker.finished(row))
                    item.made = std::move(*kept);
                else
                    item.input = part.maker.read(row, stop);
                report_.finished += item.made.image ? 1 : 0;
                report_.readSeconds += since(start);
                if (!toEstimate_.push(std::move(item), stop)) return;
            }
        toEstimate_.close();
    }

    void estimateStage(const std::stop_token& stop) {
        while (auto item = toEstimate_.pop(stop)) {
            const auto start = Clock::now();
            if (!item->made.image) item->vectors = item->part->maker.estimate(*item->row, item->input, stop);
            report_.estimateSeconds += since(start);
            if (!toSynthesise_.push(std::move(*item), stop)) return;
        }
        toSynthesise_.close();
    }

    void synthesiseStage(const std::stop_token& stop) {
        while (auto item = toSynthesise_.pop(stop)) {
            const auto start = Clock::now();
            if (!item->made.image)
                item->made = item->part->maker.synthesise(*item->row, item->input, item->vectors);
            report_.edgeScale = std::max(report_.edgeScale, item->made.edgeScale);
            item->input = {};
            item->vectors = {};
            report_.synthesiseSeconds += since(start);
            if (!toWrite_.push(std::move(*item), stop)) return;
        }
        toWrite_.close();
    }

    void writeStage(FrameWriter& writer, const std::stop_token& stop) {
        const auto begin = Clock::now();
        RenderProgress progress;
        for (const RenderPart& part : parts_)
            progress.total += static_cast<std::int64_t>(part.plan.rows.size());
        while (auto item = toWrite_.pop(stop)) {
            throwIfStopped(stop);
            const auto start = Clock::now();
            writer.write(*item->made.image);
            report_.writeSeconds += since(start);
            ++progress.done;
            const double elapsed = since(begin);
            if (progress.done >= 3 && elapsed > 0.3)
                progress.secondsLeft = elapsed / static_cast<double>(progress.done) *
                                       static_cast<double>(progress.total - progress.done);
            if (onProgress_) onProgress_(progress);
        }
        throwIfStopped(stop);
        const auto start = Clock::now();
        writer.finish();
        report_.writeSeconds += since(start);
        report_.notes = writer.notes();
        complete_ = true;
    }

    std::vector<RenderPart> parts_;
    RenderOptions options_;
    OnProgress onProgress_;
    std::unique_ptr<FrameWriter> writer_;
    Channel<Item> toEstimate_{queueLength};
    Channel<Item> toSynthesise_;
    Channel<Item> toWrite_{queueLength};
    std::stop_source stopSource_;
    std::mutex mutex_;
    std::condition_variable writeEnded_;
    bool writerGone_ = false;
    bool complete_ = false; // written by the writing thread before writerGone_
    std::exception_ptr failure_;
    RenderReport report_;               // each stage writes its own fields
    std::vector<std::jthread> threads_; // last: joined before anything they use goes
};

RenderJob::RenderJob(FrameMaker maker, FramePlan plan, RenderOptions options)
    : RenderJob(std::vector<RenderPart>{{{}, std::move(maker), std::move(plan)}}, std::move(options)) {}
RenderJob::RenderJob(std::vector<RenderPart> parts, RenderOptions options)
    : pipeline_(std::make_unique<Pipeline>(std::move(parts), std::move(options))) {}
RenderJob::~RenderJob() = default;

RenderReport RenderJob::run(const OnProgress& onProgress, const std::stop_token& stop) {
    return pipeline_->run(onProgress, stop);
}

void refuseSourceAsTarget(const std::filesystem::path& source, const std::filesystem::path& target) {
    std::error_code ec;
    const auto firstPicture = isPictureFile(target) ? sequenceName(target, 0) : target;
    const bool ownPictures = isPictureFile(source) && isPictureFile(target) &&
                             sequencePattern(std::filesystem::weakly_canonical(source, ec)) ==
                                 sequencePattern(std::filesystem::weakly_canonical(firstPicture, ec));
    if (ownPictures || std::filesystem::equivalent(source, target, ec))
        throw Error("The result would overwrite its own source " + source.string() +
                    ". Choose another name.");
}

} // namespace yarngap
