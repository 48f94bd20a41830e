#include "cli/finish_arguments.h"

#include "cli/reader.h"
#include "core/decimal.h"
#include "core/error.h"
#include "core/finish/follow_point.h"
#include "core/finish/measured_finish.h"
#include "core/project/finish_file.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <iostream>
#include <utility>

namespace yarngap::cli {

namespace {

/// A whole number or one with decimals, all of `text`.
std::optional<double> numberIn(std::string_view text) {
    try {
        return Rational::parse(text).toDouble();
    } catch (const Error&) {
        return std::nullopt;
    }
}

std::optional<std::pair<double, double>> pairIn(const std::string& text, char between) {
    const std::size_t at = text.find(between);
    if (at == std::string::npos) return std::nullopt;
    const auto first = numberIn(text.substr(0, at));
    const auto second = numberIn(text.substr(at + 1));
    if (!first || !second) return std::nullopt;
    return std::pair{*first, *second};
}

FrameSize sizeFrom(const std::string& text) {
    const auto sides = pairIn(text, 'x');
    if (!sides || sides->first != std::floor(sides->first) || sides->second != std::floor(sides->second))
        throw WrongUsage("--size reads like 1920x1080; \"" + text + "\" is no size.");
    for (const double side : {sides->first, sides->second})
        if (side < FrameChoice::smallest || side > FrameChoice::largest)
            throw WrongUsage("--size goes from " + std::to_string(FrameChoice::smallest) + " to " +
                             std::to_string(FrameChoice::largest) + " pixels a side; " + text + " does not.");
    return {static_cast<int>(sides->first), static_cast<int>(sides->second)};
}

/// What --hold asks for: X,Y@FRAME[:place].
struct HoldWanted {
    PicturePoint at;
    std::int64_t frame = 0;
    HoldAt place = HoldAt::own;
    PicturePoint pixels; ///< of the result, for HoldAt::chosen
};

HoldWanted holdFrom(const std::string& text) {
    const WrongUsage wrong(
        "--hold reads like 960,540@12, 960,540@12:middle or 960,540@12:300,200 (pixels of the "
        "source at a source frame, then where to hold it); \"" +
        text + "\" cannot be meant.");
    const std::size_t at = text.find('@');
    if (at == std::string::npos) throw wrong;
    const std::size_t colon = text.find(':', at);
    const auto point = pairIn(text.substr(0, at), ',');
    const auto frame = numberIn(text.substr(at + 1, colon == std::string::npos ? colon : colon - at - 1));
    if (!point || !frame || *frame < 0 || *frame != std::floor(*frame)) throw wrong;
    HoldWanted out{{point->first, point->second}, static_cast<std::int64_t>(*frame), HoldAt::own, {}};
    if (colon == std::string::npos) return out;
    const std::string place = text.substr(colon + 1);
    if (const auto pixels = pairIn(place, ',')) {
        out.place = HoldAt::chosen;
        out.pixels = {pixels->first, pixels->second};
    } else if (place == "own" || place == "middle") {
        out.place = parseHoldAt(place);
    } else {
        throw wrong;
    }
    return out;
}

void applyCalm(Calm& calm, const std::string& text) {
    if (text == "still") {
        calm.by = CalmBy::still;
        return;
    }
    std::string number = text;
    if (number.ends_with('s')) number.pop_back();
    const auto seconds = numberIn(number);
    if (!seconds || *seconds < Calm::shortest || *seconds > Calm::longest)
        throw WrongUsage("--calm reads like 0.5s (" + decimal(Calm::shortest, 2) + " to " +
                         decimal(Calm::longest, 0) + " seconds) or still; \"" + text + "\" cannot be meant.");
    calm.by = CalmBy::smoothing;
    calm.seconds = *seconds;
}

void tellLost(const FollowReport& report) {
    const auto tell = [](std::int64_t frame, const std::string& why) {
        std::cerr << "The point is lost at source frame " << frame << ": " << why
                  << ". It stays where it was from there.\n";
    };
    if (report.lostBefore) tell(*report.lostBefore, report.whyBefore);
    if (report.lostAfter) tell(*report.lostAfter, report.whyAfter);
}

} // namespace

void FinishArguments::addTo(CLI::App& command) {
    command.add_option("--size", size, "Frame size of the result, 1920x1080; by default that of the source");
    command.add_option(
        "--pixel-aspect", pixelAspect,
        "Width over height of a pixel of the result, 12/11; by default 1 where --size is given");
    command.add_option(
        "--fit", fit,
        "How the picture lies in the frame: letterbox (bars, by default), fill, width, height or "
        "hand (pixel for pixel)");
    command.add_flag("--hide-edges", hideEdges, "Scale in by as much as hides bare edges, and no more");
    command.add_option("--calm", calm, "Calm the camera: over a time, 0.5s, or still, as on a tripod");
    command.add_option("--hold", hold,
                       "Hold a thing still: X,Y@FRAME[:own, middle or X,Y], followed from there");
    command.add_option("--tone", tone,
                       "Black, white, gamma, curve and saturation, a file; see docs/formats.md");
    command.add_option("--finish", finish, "All of the finish, a file in place of that of the shot");
}

std::string FinishArguments::forOneShot() const {
    if (hold) return "--hold";
    if (finish) return "--finish";
    return {};
}

void FinishArguments::check() const {
    if (size) (void)sizeFrom(*size);
    if (hold) (void)holdFrom(*hold);
    try {
        if (fit) (void)parseFrameFit(*fit);
    } catch (const Error& error) {
        throw WrongUsage(std::string("--fit: ") + error.what());
    }
    Calm unused;
    if (calm) applyCalm(unused, *calm);
    if (pixelAspect) {
        const auto aspect = numberIn(*pixelAspect);
        if (!aspect || *aspect < 0.1 || *aspect > 10)
            throw WrongUsage("--pixel-aspect goes from 1/10 to 10; \"" + *pixelAspect +
                             "\" cannot be meant.");
    }
}

void FinishArguments::addInputs(InputFiles& files) const {
    if (tone) files.add(*tone);
    if (finish) files.add(*finish);
}

void FinishArguments::applyTo(Finish& shots) const {
    check();
    try {
        if (finish) shots = loadFinish(*finish);
        if (tone) shots.tones = loadTone(*tone);
    } catch (const Error& error) {
        throw WrongUsage(error.what());
    }
    if (size) shots.frame.size = sizeFrom(*size);
    if (pixelAspect) shots.frame.pixelAspect = Rational::parse(*pixelAspect);
    if (fit) shots.frame.fit = parseFrameFit(*fit);
    if (calm) applyCalm(shots.calm, *calm);
    validate(shots);
}

Finish FinishArguments::measured(const Shot& shot, const Footage& footage, const GapFindings& found,
                                 const Timing& timing, const std::shared_ptr<VectorStore>& vectors,
                                 const std::stop_token& stop) const {
    Finish out = shot.finish;
    TerminalProgress line;
    const auto told = [&line](const std::string& what) {
        return [&line, what](double share) {
            line.show(what + ", " + std::to_string(static_cast<int>(share * 100)) + " %");
        };
    };
    if (hold) {
        const HoldWanted wanted = holdFrom(*hold);
        const MediaFacts& facts = footage.axis->facts();
        if (wanted.frame >= facts.frames)
            throw WrongUsage("--hold names source frame " + std::to_string(wanted.frame) +
                             "; there are frames 0 to " + std::to_string(facts.frames - 1) + ".");
        if (!(wanted.at.x >= 0 && wanted.at.y >= 0 && wanted.at.x <= facts.width &&
              wanted.at.y <= facts.height))
            throw WrongUsage("--hold names a point outside the picture, which has " +
                             std::to_string(facts.width) + "x" + std::to_string(facts.height) + " pixels.");
        const FollowReport report = followPoint({footage.frames, vectors, found.cuts},
                                                {.frame = wanted.frame,
                                                 .at = wanted.at,
                                                 .reach = usualReach(facts.width),
                                                 .first = std::min(timing.from, wanted.frame),
                                                 .last = std::max(timing.to, wanted.frame)},
                                                told("Following the point"), stop);
        tellLost(report);
        const ResultFrame result = resultFrame(out.frame, facts);
        out.hold = {.path = report.path,
                    .frame = wanted.frame,
                    .reach = usualReach(facts.width),
                    .at = wanted.place,
                    .chosen = {wanted.pixels.x / result.size.width, wanted.pixels.y / result.size.height},
                    .share = out.hold.share};
        if (wanted.place != HoldAt::chosen) out.hold.chosen = Hold().chosen;
    }
    return withMeasures(std::move(out), *footage.frames, vectors, timing.from, timing.to, found.cuts,
                        told("Measuring the camera"), stop);
}

Shot FinishArguments::finished(Shot shot, const Footage& footage, const GapFindings& found,
                               const Making& making, const std::stop_token& stop) const {
    const Timing timing =
        making.timing ? *making.timing : shot.timing(footage.axis->facts().rate, footage.axis->frames());
    shot.finish = measured(shot, footage, found, timing, making.vectors, stop);
    if (hideEdges) shot.finish.hideEdges = {};
    const ResultFrame result = resultFrame(shot.finish.frame, footage.axis->facts());
    if (result.isRounded)
        std::cerr << shot.name << ": its pixel format has no frame of " << shot.finish.frame.size->width
                  << 'x' << shot.finish.frame.size->height << "; it is made " << result.size.width << 'x'
                  << result.size.height << ".\n";
    if (!hideEdges) return shot;
    const ReadyShot out = readyShot(shot, footage, found, making);
    if (out.plan->rows.empty()) return shot;
    TerminalProgress line;
    const HiddenEdges edges = leastHidingScale(
        *out.unfinished, shot.finish, 0, out.unfinished->count() - 1,
        [&line](double share) {
            line.show("Looking for bare edges, " + std::to_string(static_cast<int>(share * 100)) + " %");
        },
        stop);
    if (edges.cannotBeHidden > 0)
        std::cerr << shot.name << ": the edges of " << edges.cannotBeHidden
                  << " frames cannot be hidden by scaling, first of output " << edges.firstSuch
                  << "; the picture is moved too far there.\n";
    if (edges.scale > 1)
        std::cerr << shot.name << ": scaled in by " << decimal(edges.scale, 4)
                  << " to hide edges, which output " << edges.worst << " needs.\n";
    shot.finish.hideEdges.scale = edges.scale;
    return shot;
}

} // namespace yarngap::cli
