#include "core/media/output_scan.h"

#include "core/choice_names.h"
#include "core/error.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <vector>

namespace yarngap {

namespace {

constexpr ChoiceNames<OutputScan, 5> scans{"scan",
                                           {{{OutputScan::progressive, "progressive"},
                                             {OutputScan::topFirst, "top-first"},
                                             {OutputScan::bottomFirst, "bottom-first"},
                                             {OutputScan::pulldown32, "pulldown-32"},
                                             {OutputScan::pulldown2332, "pulldown-2332"}}}};

/// Which frames of a pattern the upper and the lower field of a written frame come from.
struct Weave {
    std::size_t upper, lower;
};

const std::vector<Weave>& patternOf(OutputScan scan) {
    static const std::vector<Weave> progressive{{0, 0}};
    static const std::vector<Weave> topFirst{{0, 1}};
    static const std::vector<Weave> bottomFirst{{1, 0}};
    static const std::vector<Weave> pulldown32{{0, 0}, {1, 1}, {1, 2}, {2, 3}, {3, 3}};
    static const std::vector<Weave> pulldown2332{{0, 0}, {1, 1}, {1, 2}, {2, 2}, {3, 3}};
    switch (scan) {
    case OutputScan::topFirst:
        return topFirst;
    case OutputScan::bottomFirst:
        return bottomFirst;
    case OutputScan::pulldown32:
        return pulldown32;
    case OutputScan::pulldown2332:
        return pulldown2332;
    case OutputScan::progressive:
        break;
    }
    return progressive;
}

class WeavingWriter final : public FrameWriter {
  public:
    WeavingWriter(std::unique_ptr<FrameWriter> writer, OutputScan scan)
        : writer_(std::move(writer))
        , scan_(scan) {}

    void write(const Image& image) override {
        waiting_.push_back(image);
        if (waiting_.size() == static_cast<std::size_t>(framesOfPattern(scan_)))
            weave(patternOf(scan_).size());
    }
    void writeSound(const Sound& sound) override { writer_->writeSound(sound); }
    void finish() override {
        if (!waiting_.empty()) {
            const auto count =
                static_cast<std::size_t>(framesWritten(scan_, static_cast<std::int64_t>(waiting_.size())));
            while (waiting_.size() < static_cast<std::size_t>(framesOfPattern(scan_)))
                waiting_.push_back(waiting_.back());
            weave(count);
        }
        writer_->finish();
    }
    [[nodiscard]] std::int64_t bytes() const override { return writer_->bytes(); }
    [[nodiscard]] std::vector<std::string> notes() const override { return writer_->notes(); }

  private:
    void weave(std::size_t count) {
        for (std::size_t i = 0; i < count; ++i) {
            const Weave& from = patternOf(scan_)[i];
            if (from.upper == from.lower)
                writer_->write(waiting_[from.upper]);
            else
                writer_->write(woven(waiting_[from.upper], waiting_[from.lower]));
        }
        waiting_.clear();
    }

    std::unique_ptr<FrameWriter> writer_;
    OutputScan scan_;
    std::vector<Image> waiting_;
};

} // namespace

std::string_view name(OutputScan scan) {
    return scans.nameOf(scan);
}

OutputScan parseOutputScan(std::string_view text) {
    return scans.parse(text);
}

Rate rateToMake(OutputScan scan, const Rate& fileRate) {
    const auto [frames, fields] =
        std::pair(framesOfPattern(scan), static_cast<std::int64_t>(patternOf(scan).size()));
    return Rate(fileRate.value() * Rational(frames, fields));
}

Rate rateWritten(OutputScan scan, const Rate& made) {
    return Rate(made.value() *
                Rational(static_cast<std::int64_t>(patternOf(scan).size()), framesOfPattern(scan)));
}

std::int64_t framesWritten(OutputScan scan, std::int64_t made) {
    const auto written = static_cast<std::int64_t>(patternOf(scan).size());
    const std::int64_t frames = framesOfPattern(scan);
    return (made * written + frames - 1) / frames;
}

std::int64_t framesOfPattern(OutputScan scan) {
    switch (scan) {
    case OutputScan::topFirst:
    case OutputScan::bottomFirst:
        return 2;
    case OutputScan::pulldown32:
    case OutputScan::pulldown2332:
        return 4;
    case OutputScan::progressive:
        break;
    }
    return 1;
}

void refuseScanAt(OutputScan scan, const Rate& fileRate) {
    if (framesOfPattern(scan) != 4) return;
    for (const Rate& fit : {Rate(30000, 1001), Rate(30, 1), Rate(60000, 1001), Rate(60, 1)})
        if (fileRate == fit) return;
    throw Error("Pulldown puts film into 29.97 fps, and this result has " + fileRate.display() +
                " fps. Set the rate of the result to 29.97, or render progressive frames.");
}

Scan scanOf(OutputScan scan) {
    switch (scan) {
    case OutputScan::progressive:
        return Scan::progressive;
    case OutputScan::bottomFirst:
        return Scan::bottomFieldFirst;
    default:
        return Scan::topFieldFirst;
    }
}

std::unique_ptr<FrameWriter> weavingInto(std::unique_ptr<FrameWriter> writer, OutputScan scan) {
    if (scan == OutputScan::progressive) return writer;
    return std::make_unique<WeavingWriter>(std::move(writer), scan);
}

Image woven(const Image& upper, const Image& lower) {
    Image image = upper;
    for (int p = 0; p < image.planeCount(); ++p)
        for (int y = 1; y < image.plane(p).height; y += 2) {
            const std::size_t stride = image.plane(p).stride;
            std::memcpy(image.plane(p).bytes.data() + stride * static_cast<std::size_t>(y),
                        lower.plane(p).bytes.data() + stride * static_cast<std::size_t>(y), stride);
        }
    return image;
}

} // namespace yarngap
