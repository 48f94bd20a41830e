#include "core/media/media_index.h"

#include "core/media/demuxer.h"
#include "core/media/media_identity.h"
#include "core/media/packet_hasher.h"
#include "core/media/picture_sequence.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <memory>
#include <numeric>
#include <optional>
#include <span>
#include <utility>

namespace yarngap {

namespace {

constexpr std::size_t headFrames = 24;    // decoded at the start to compare with the packets' promise
constexpr std::size_t tailPackets = 1000; // the last key frame is only looked for this far back

std::optional<std::int64_t> known(std::int64_t timestamp) {
    return timestamp == AV_NOPTS_VALUE ? std::nullopt : std::optional(timestamp);
}

/// Decodes a file from packet `begin` on, and lists the packets whose frames come out.
class ComingOut {
  public:
    ComingOut(const std::filesystem::path& path, std::int32_t begin, const std::stop_token& stop)
        : demuxer_(path, StreamKind::pictures, stop)
        , decoder_(demuxer_.stream(), DecodedFor::order)
        , packet_(makePacket())
        , frame_(makeFrame())
        , begin_(begin) {}

    /// Goes on until `enough` frames are out in all, or the file ends. `onFirst` sees the first frame.
    void goOn(std::size_t enough, const Progress& progress, const std::stop_token& stop,
              const std::function<void(const AVFrame&)>& onFirst = {}) {
        drain(enough, onFirst);
        while (packets_.size() < enough && !ended_) {
            throwIfStopped(stop);
            ended_ = !demuxer_.next(*packet_, stop);
            if (!ended_ && next_++ < begin_) continue;
            packet_->pts = packet_->dts = next_ - 1;
            decoder_.send(ended_ ? nullptr : packet_.get());
            drain(enough, onFirst);
            if (progress) progress(demuxer_.position());
        }
    }

    [[nodiscard]] const std::vector<std::int32_t>& packets() const { return packets_; }
    /// The packet that is decoded next.
    [[nodiscard]] std::int32_t next() const { return next_; }

  private:
    void drain(std::size_t enough, const std::function<void(const AVFrame&)>& onFirst) {
        while (packets_.size() < enough && decoder_.receive(*frame_))
            if (frame_->pts != AV_NOPTS_VALUE) {
                if (packets_.empty() && onFirst) onFirst(*frame_);
                packets_.push_back(static_cast<std::int32_t>(frame_->pts));
            }
    }

    Demuxer demuxer_;
    Decoder decoder_;
    PacketPtr packet_;
    FramePtr frame_;
    std::int32_t begin_;
    std::int32_t next_ = 0;
    bool ended_ = false;
    std::vector<std::int32_t> packets_;
};

/// Display order promised by the packets' times; empty when any is missing or given twice.
std::vector<std::int32_t> promisedOrder(const std::vector<PacketEntry>& packets,
                                        const std::vector<bool>& shown) {
    std::vector<std::int32_t> order;
    for (std::size_t i = 0; i < packets.size(); ++i) {
        if (!shown[i]) continue;
        if (!packets[i].pts) return {};
        order.push_back(static_cast<std::int32_t>(i));
    }
    const auto pts = [&](std::int32_t i) { return *packets[static_cast<std::size_t>(i)].pts; };
    std::stable_sort(order.begin(), order.end(), [&](auto a, auto b) { return pts(a) < pts(b); });
    const auto twice =
        std::adjacent_find(order.begin(), order.end(), [&](auto a, auto b) { return pts(a) == pts(b); });
    return twice == order.end() ? order : std::vector<std::int32_t>{};
}

/// Compares the promise with the first frames that a decoder shows, and drops leading ones it does not
/// (frames of an open GOP whose references lie before the file). A few missing ones in between are damage
/// and keep their place. False when they disagree otherwise.
bool agreeAtHead(std::vector<std::int32_t>& order, const std::vector<std::int32_t>& head) {
    if (head.empty()) return false;
    const auto first = std::find(order.begin(), order.end(), head.front());
    auto at = first;
    for (const std::int32_t packet : head) {
        at = std::find(at, order.end(), packet);
        if (at == order.end()) return false;
        ++at;
    }
    const std::size_t spanned = static_cast<std::size_t>(at - first);
    if ((spanned - head.size()) * 4 > spanned) return false; // two packets for a frame look like this
    order.erase(order.begin(), first);
    return true;
}

/// Removes frames at the very end that never come out, as in a truncated file. Returns how many.
/// `tail`: what came out when decoding from packet `start` on.
std::size_t dropMissingTail(MediaIndex& index, std::int32_t start, const std::vector<std::int32_t>& tail) {
    const auto shownAs = [&](std::int32_t p) { return index.packets[static_cast<std::size_t>(p)].shownAs; };
    std::int32_t last = shownAs(start) - 1;
    for (const std::int32_t packet : tail)
        last = std::max(last, shownAs(packet));
    const std::size_t before = index.displayPacket.size();
    index.displayPacket.resize(std::min(before, static_cast<std::size_t>(last) + 1));
    return before - index.displayPacket.size();
}

/// Decodes from the last key frame on, where that is not too far back, and removes the frames at the very end
/// that never come out. Returns how many. `decoded`: what came out at the start. It goes on where it has come
/// to the last key frame, and begins there otherwise.
std::size_t dropWhatNeverComes(MediaIndex& index, std::unique_ptr<ComingOut>& decoded,
                               const std::filesystem::path& path, const Progress& progress,
                               const std::stop_token& stop) {
    const std::int32_t start = index.startFor(index.displayPacket.back());
    if (index.packets.size() - static_cast<std::size_t>(start) > tailPackets) return 0;
    if (start > decoded->next()) {
        decoded.reset(); // decoders of large pictures take memory
        decoded = std::make_unique<ComingOut>(path, start, stop);
    }
    decoded->goOn(SIZE_MAX, progress, stop);
    return dropMissingTail(index, start, decoded->packets());
}

/// Display times of all frames in ticks; empty when any is not known.
std::vector<std::int64_t> displayTimes(const MediaIndex& index) {
    std::vector<std::int64_t> times;
    times.reserve(index.displayPacket.size());
    for (const std::int32_t p : index.displayPacket) {
        const auto& pts = index.packets[static_cast<std::size_t>(p)].pts;
        if (!pts) return {};
        times.push_back(*pts);
    }
    return times;
}

/// Whether every time lies within a tick of its place at `rate`.
bool areEven(const std::vector<std::int64_t>& times, const Rate& rate, AVRational timeBase) {
    const double period = timeBase.den / (rate.toDouble() * timeBase.num);
    const double slack = std::max(1.01, period * 0.02);
    for (std::size_t i = 0; i < times.size(); ++i)
        if (std::abs(static_cast<double>(times[i] - times.front()) - period * static_cast<double>(i)) > slack)
            return false;
    return true;
}

/// "10 days", "3 hours", "12 seconds"
std::string duration(double seconds) {
    constexpr std::array<std::pair<double, const char*>, 4> units{
        {{86400, "day"}, {3600, "hour"}, {60, "minute"}, {1, "second"}}};
    for (const auto& [length, name] : units)
        if (seconds >= 2 * length || length == 1) {
            const auto count = std::llround(seconds / length);
            return std::to_string(count) + ' ' + name + (count == 1 ? "" : "s");
        }
    return {};
}

/// Tells of the longest hole between two frames, where it is far longer than the others and than 10 s.
std::string holeIn(const std::vector<std::int64_t>& times, AVRational timeBase) {
    std::vector<std::int64_t> steps(times.size());
    std::adjacent_difference(times.begin(), times.end(), steps.begin());
    steps.erase(steps.begin());
    const auto longest = std::max_element(steps.begin(), steps.end());
    const double seconds = static_cast<double>(*longest) * av_q2d(timeBase);
    const auto before = longest - steps.begin();
    std::vector<std::int64_t> sorted = steps;
    std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2),
                     sorted.end());
    constexpr double shortest = 10; // seconds
    const bool alone = steps.size() == 1;
    if (seconds < shortest || (!alone && *longest < 20 * sorted[sorted.size() / 2])) return {};
    return "Nothing was recorded for " + duration(seconds) + " between frames " + std::to_string(before) +
           " and " + std::to_string(before + 1) + '.';
}

/// Measures the rate from the display times, and whether they are evenly spaced.
void measureRate(MediaIndex& index, AVRational timeBase) {
    const std::vector<std::int64_t> times = displayTimes(index);
    if (times.size() < 2 || areEven(times, index.facts.rate, timeBase)) return;
    index.facts.constantRate = false;
    const Int128 ticks = static_cast<Int128>(times.back()) - times.front();
    if (ticks <= 0) return;
    if (const std::string hole = holeIn(times, timeBase); !hole.empty())
        index.facts.remark += (index.facts.remark.empty() ? "" : " ") + hole;
    const Rational measured =
        Rational::reduced(static_cast<Int128>(times.size() - 1) * timeBase.den, ticks * timeBase.num);
    if (measured < Rational(1, 1000) || measured > Rational(100000)) return;
    index.facts.rate = Rate::snapped(measured);
    index.facts.constantRate = areEven(times, index.facts.rate, timeBase);
}

} // namespace

void MediaIndex::numberPackets() {
    for (PacketEntry& p : packets)
        p.shownAs = -1;
    for (std::size_t n = 0; n < displayPacket.size(); ++n)
        packets[static_cast<std::size_t>(displayPacket[n])].shownAs = static_cast<std::int32_t>(n);
}

std::int32_t MediaIndex::startFor(std::int32_t packet) const {
    const std::int32_t target = packets[static_cast<std::size_t>(packet)].shownAs;
    for (std::int32_t i = packet; i > 0; --i) {
        const auto& p = packets[static_cast<std::size_t>(i)];
        if (p.key && p.shownAs >= 0 && p.shownAs <= target) return i;
    }
    return 0;
}

MediaIndex buildIndex(const std::filesystem::path& path, const Progress& progress,
                      const std::stop_token& stop) {
    if (isPictureFile(path)) return buildSequenceIndex(path, progress, stop);
    Demuxer demuxer(path, StreamKind::pictures, stop);
    MediaIndex index;
    index.facts = demuxer.facts();
    index.file = demuxer.edition();
    index.codecHash = demuxer.codecHash();
    std::vector<bool> shown;
    const PacketPtr packet = makePacket();
    PacketHasher hasher;
    while (demuxer.next(*packet, stop)) {
        throwIfStopped(stop);
        hasher.add(*packet);
        index.packets.push_back({known(packet->pts), known(packet->dts), packet->pos, 0, packet->size,
                                 (packet->flags & AV_PKT_FLAG_KEY) != 0});
        shown.push_back(packet->size > 0 && (packet->flags & AV_PKT_FLAG_DISCARD) == 0);
        if (progress && index.packets.size() % 64 == 0) progress(demuxer.position() * 0.5);
    }
    const std::vector<std::uint64_t> hashes = hasher.finish();
    for (std::size_t i = 0; i < hashes.size(); ++i)
        index.packets[i].hash = hashes[i];

    index.displayPacket = promisedOrder(index.packets, shown);
    auto decoded = std::make_unique<ComingOut>(path, 0, stop);
    decoded->goOn(headFrames, {}, stop, [&](const AVFrame& frame) {
        // Where the container is silent, the coded frames may still tell their colours.
        constexpr int unspecified = 2;
        ColourTags& colour = index.facts.colour;
        if (colour.primaries == unspecified) colour.primaries = frame.color_primaries;
        if (colour.transfer == unspecified) colour.transfer = frame.color_trc;
        if (colour.matrix == unspecified) colour.matrix = frame.colorspace;
    });
    if (decoded->packets().empty())
        throw Error("No frame of " + path.string() +
                    " can be decoded. The file is damaged; copy it again from where it came from.");
    const Progress secondHalf = [&](double p) {
        if (progress) progress(0.5 + p * 0.5);
    };
    const std::size_t promised = index.displayPacket.size();
    if (agreeAtHead(index.displayPacket, decoded->packets())) {
        if (const std::size_t dropped = promised - index.displayPacket.size(); dropped > 0)
            index.facts.remark =
                std::to_string(dropped) +
                " frames at the start need frames that the file does not hold, and are left out.";
        index.numberPackets();
        if (const std::size_t missing = dropWhatNeverComes(index, decoded, path, secondHalf, stop);
            missing > 0)
            index.facts.remark = "The file ends early: " + std::to_string(missing) +
                                 (missing == 1 ? " frame at the end cannot be decoded and is left out."
                                               : " frames at the end cannot be decoded and are left out.");
    } else {
        decoded->goOn(SIZE_MAX, secondHalf, stop);
        index.displayPacket = decoded->packets();
    }
    index.numberPackets();
    if (index.facts.remark.empty() && demuxer.endedOnError())
        index.facts.remark = "The file ends early; all frames up to there are used.";
    index.timeBase = Rational(demuxer.stream().time_base.num, demuxer.stream().time_base.den);
    measureRate(index, demuxer.stream().time_base);
    index.facts.frames = index.frames();
    index.facts.indexed = true;
    index.identity = mediaIdentity(index);
    index.edition = mediaEdition(index);
    demuxer.refuseChanged(); // somebody may still be writing it
    if (progress) progress(1.0);
    return index;
}

} // namespace yarngap
