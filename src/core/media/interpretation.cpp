#include "core/media/interpretation.h"

#include "core/error.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <map>
#include <set>

namespace yarngap {

namespace {

/// Film frames of one cycle of five: place of the coded frame with the first and with the second field.
constexpr std::array<std::array<int, 2>, 4> film32{{{0, 0}, {1, 1}, {3, 2}, {4, 4}}};
constexpr std::array<std::array<int, 2>, 4> film2332{{{0, 0}, {1, 1}, {3, 3}, {4, 4}}};

void addCycles(const PulldownRun& run, const std::array<std::array<int, 2>, 4>& film,
               std::vector<FrameRecipe>& out) {
    for (std::int64_t cycle = run.first - run.phase; cycle <= run.last; cycle += 5)
        for (const auto& [firstPlace, secondPlace] : film) {
            const std::int64_t first = cycle + firstPlace;
            const std::int64_t second = cycle + secondPlace;
            if (std::min(first, second) < run.first || std::max(first, second) > run.last) continue;
            const auto kind = first == second ? FrameRecipe::Kind::coded : FrameRecipe::Kind::woven;
            out.push_back({kind, run.topFirst ? first : second, run.topFirst ? second : first, false});
        }
}

} // namespace

std::string_view name(FieldUse use) {
    switch (use) {
    case FieldUse::asCoded:
        return "as coded";
    case FieldUse::toFrames:
        return "deinterlaced to frames";
    case FieldUse::toFields:
        return "deinterlaced to twice the rate";
    case FieldUse::removePulldown:
        return "pulldown removed";
    }
    return "";
}

std::int64_t FrameRecipe::earliest() const {
    return std::min(top, bottom) - (kind == Kind::field ? 1 : 0);
}

std::int64_t FrameRecipe::latest() const {
    return std::max(top, bottom) + (kind == Kind::field ? 1 : 0);
}

std::vector<FrameRecipe> filmFrames(const std::vector<PulldownRun>& runs) {
    std::vector<FrameRecipe> film;
    for (const PulldownRun& run : runs) {
        switch (run.kind) {
        case PulldownRun::Kind::whole:
            for (std::int64_t n = run.first; n <= run.last; ++n)
                film.push_back({FrameRecipe::Kind::coded, n, n, false});
            break;
        case PulldownRun::Kind::fields:
            for (std::int64_t n = run.first; n <= run.last; ++n)
                film.push_back({FrameRecipe::Kind::field, n, n, false});
            break;
        case PulldownRun::Kind::shifted22:
            // The field shown later in frame n is the earlier one of its film frame; the rest follows in n
            // + 1.
            for (std::int64_t n = run.first; n < run.last; ++n)
                film.push_back(
                    {FrameRecipe::Kind::woven, run.topFirst ? n + 1 : n, run.topFirst ? n : n + 1, false});
            break;
        case PulldownRun::Kind::pulldown32:
            addCycles(run, film32, film);
            break;
        case PulldownRun::Kind::pulldown2332:
            addCycles(run, film2332, film);
            break;
        }
    }
    return film;
}

namespace {

/// Throws Error when the times fit no rate.
EvenTimes fittedTimes(const MediaIndex& index, const std::vector<std::int64_t>& times) {
    EvenTimes even;
    // Clocks round, so that distances of 33 and 34 are one: count what lies within 2 % or a tick together.
    std::map<std::int64_t, std::int64_t> distances;
    for (std::size_t i = 1; i < times.size(); ++i)
        ++distances[std::max<std::int64_t>(1, times[i] - times[i - 1])];
    std::int64_t best = 0;
    Rational period(1);
    for (const auto& [distance, unused] : distances) {
        const std::int64_t slack = std::max<std::int64_t>(1, distance / 50);
        std::int64_t count = 0;
        std::int64_t sum = 0;
        for (auto it = distances.lower_bound(distance);
             it != distances.end() && it->first <= distance + slack; ++it) {
            count += it->second;
            sum += it->second * it->first;
        }
        if (count > best) {
            best = count;
            period = Rational(sum, count);
        }
    }
    const Rational measured = Rational(1) / (period * index.timeBase);
    // Rounded clocks blur the period; a standard rate within 0.5 % is what was meant.
    even.rate = Rate::snapped(measured);
    for (const std::int64_t whole : {24, 25, 30, 50, 60, 120, 240})
        if (std::abs(measured.toDouble() - static_cast<double>(whole)) < 0.0004 * static_cast<double>(whole))
            even.rate = Rate(whole, 1);
    const double slot = 1.0 / (even.rate.toDouble() * index.timeBase.toDouble());
    const double length = static_cast<double>(times.back() - times.front());
    const auto slots = static_cast<std::int64_t>(std::llround(length / slot)) + 1;
    if (slots > static_cast<std::int64_t>(times.size()) * 100)
        throw Error("The timestamps of " + index.facts.path.string() +
                    " leave gaps too long to be filled. Set the rate by hand instead.");
    std::size_t at = 0;
    std::set<std::int64_t> used;
    for (std::int64_t k = 0; k < slots; ++k) {
        const double when = static_cast<double>(times.front()) + static_cast<double>(k) * slot;
        while (at + 1 < times.size() && std::abs(static_cast<double>(times[at + 1]) - when) <
                                            std::abs(static_cast<double>(times[at]) - when))
            ++at;
        const auto n = static_cast<std::int64_t>(at);
        if (!used.insert(n).second) ++even.shownTwice;
        even.frames.push_back(n);
    }
    even.leftOut = index.frames() - static_cast<std::int64_t>(used.size());
    return even;
}

} // namespace

EvenTimes evenTimes(const MediaIndex& index) {
    std::vector<std::int64_t> times;
    for (const std::int32_t p : index.displayPacket)
        if (const auto pts = index.packets[static_cast<std::size_t>(p)].pts) times.push_back(*pts);
    try {
        if (times.size() == index.displayPacket.size() && times.size() >= 2) return fittedTimes(index, times);
    } catch (const Error&) {
        // Times that fit no rate, as of a file with one endless gap: every frame once, at the mean rate.
    }
    EvenTimes plain;
    plain.fits = false;
    plain.rate = index.facts.rate;
    for (std::int64_t n = 0; n < index.frames(); ++n)
        plain.frames.push_back(n);
    return plain;
}

std::vector<FrameRecipe> recipesFor(const MediaIndex& index, const Interpretation& interpretation) {
    std::vector<FrameRecipe> recipes;
    const auto all = [&](FrameRecipe::Kind kind, bool both) {
        for (std::int64_t n = 0; n < index.frames(); ++n) {
            recipes.push_back({kind, n, n, false});
            if (both) recipes.push_back({kind, n, n, true});
        }
    };
    switch (interpretation.fields) {
    case FieldUse::asCoded:
        if (interpretation.evenTimes)
            for (const std::int64_t n : evenTimes(index).frames)
                recipes.push_back({FrameRecipe::Kind::coded, n, n, false});
        else
            all(FrameRecipe::Kind::coded, false);
        break;
    case FieldUse::toFrames:
        all(FrameRecipe::Kind::field, false);
        break;
    case FieldUse::toFields:
        all(FrameRecipe::Kind::field, true);
        break;
    case FieldUse::removePulldown:
        recipes = filmFrames(interpretation.pulldown);
        break;
    }
    if (recipes.empty()) all(FrameRecipe::Kind::coded, false);
    return recipes;
}

std::vector<SourceMark> sourceMarks(const MediaIndex& index, const Interpretation& interpretation) {
    std::vector<SourceMark> marks;
    if (!interpretation.evenTimes || interpretation.fields != FieldUse::asCoded) return marks;
    const auto frames = evenTimes(index).frames;
    for (std::size_t n = 1; n < frames.size(); ++n) {
        const std::int64_t step = frames[n] - frames[n - 1];
        if (step != 1)
            marks.push_back({static_cast<std::int64_t>(n), step == 0, std::max<std::int64_t>(0, step - 1)});
    }
    return marks;
}

MediaFacts interpretedFacts(const MediaIndex& index, const Interpretation& interpretation) {
    MediaFacts facts = index.facts;
    const Interpretation& in = interpretation;
    if (in.isDefault()) return facts;
    if (in.evenTimes && in.fields == FieldUse::asCoded) {
        facts.rate = evenTimes(index).rate;
        facts.constantRate = true;
    }
    if (in.rate) facts.rate = *in.rate;
    switch (in.fields) {
    case FieldUse::asCoded:
        if (in.topFirst) facts.scan = *in.topFirst ? Scan::topFieldFirst : Scan::bottomFieldFirst;
        break;
    case FieldUse::toFields:
        facts.rate = Rate(facts.rate.value() * Rational(2));
        facts.scan = Scan::progressive;
        break;
    case FieldUse::removePulldown:
        // Film runs at four fifths of the video's rate wherever there is pulldown at all.
        if (std::any_of(in.pulldown.begin(), in.pulldown.end(), [](const PulldownRun& run) {
                return run.kind == PulldownRun::Kind::pulldown32 ||
                       run.kind == PulldownRun::Kind::pulldown2332;
            }))
            facts.rate = Rate(facts.rate.value() * Rational(4, 5));
        facts.scan = Scan::progressive;
        break;
    case FieldUse::toFrames:
        facts.scan = Scan::progressive;
        break;
    }
    facts.frames = static_cast<std::int64_t>(recipesFor(index, in).size());
    if (in.pixelAspect) facts.pixelAspect = *in.pixelAspect;
    if (in.fullRange) facts.colour.fullRange = *in.fullRange;
    if (in.matrix) facts.colour.matrix = *in.matrix;
    if (in.rotation % 180 != 0) {
        std::swap(facts.width, facts.height);
        std::swap(facts.layout.chromaShiftX, facts.layout.chromaShiftY);
        facts.pixelAspect = Rational(1) / facts.pixelAspect;
    }
    facts.rotation = (facts.rotation - in.rotation + 360) % 360;
    return facts;
}

void validate(const Interpretation& interpretation, const MediaIndex& index) {
    const std::int64_t frames = index.frames();
    const auto bad = [](const std::string& what) {
        return Error("The interpretation of the footage has " + what + ".");
    };
    if (interpretation.rotation % 90 != 0 || interpretation.rotation < 0 || interpretation.rotation > 270)
        throw bad("a rotation other than 0, 90, 180 or 270 degrees");
    if (interpretation.pixelAspect &&
        (*interpretation.pixelAspect < Rational(1, 10) || *interpretation.pixelAspect > Rational(10)))
        throw bad("a pixel aspect outside 0.1 to 10");
    if (interpretation.matrix && (*interpretation.matrix < 0 || *interpretation.matrix > 14))
        throw bad("a matrix that is no code point of H.273");
    std::int64_t next = 0;
    for (const PulldownRun& run : interpretation.pulldown) {
        if (run.first != next || run.last < run.first || run.last >= frames || run.phase < 0 || run.phase > 4)
            throw bad("pulldown runs that do not cover the file in order");
        next = run.last + 1;
    }
    if (interpretation.fields == FieldUse::removePulldown && next != frames)
        throw bad("pulldown runs that do not cover the file in order");
    const Rational rate = interpretation.rate.value_or(index.facts.rate).value();
    if (interpretation.fields == FieldUse::toFields && rate * Rational(2) > Rate::largest)
        throw Error("Fields cannot be taken apart at " + Rate(rate).display() +
                    " frames per second; at most 50,000 are possible. Set another rate.");
}

} // namespace yarngap
