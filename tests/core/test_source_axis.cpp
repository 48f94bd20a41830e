// The frames of a shot in the time of its file: moments, and places carried from one axis to another.

#include "core/error.h"
#include "core/shot/shot.h"
#include "core/shot/source_axis.h"

#include <QTest>

#include <algorithm>
#include <limits>
#include <random>
#include <set>

using namespace yarngap;

namespace {

/// A file of frames at these times, in units of 1/1000 s.
MediaIndex fileAt(const std::vector<std::int64_t>& times, const Rate& rate) {
    MediaIndex index;
    index.facts.path = "made.mkv";
    index.facts.rate = rate;
    index.facts.frames = static_cast<std::int64_t>(times.size());
    index.timeBase = Rational(1, 1000);
    for (std::size_t n = 0; n < times.size(); ++n) {
        PacketEntry packet;
        packet.pts = times[n];
        packet.shownAs = static_cast<std::int32_t>(n);
        index.packets.push_back(packet);
        index.displayPacket.push_back(static_cast<std::int32_t>(n));
    }
    return index;
}

/// 25 fps.
MediaIndex evenFile(std::int64_t frames) {
    std::vector<std::int64_t> times;
    for (std::int64_t n = 0; n < frames; ++n)
        times.push_back(400 + 40 * n);
    return fileAt(times, Rate(25, 1));
}

Interpretation taken(FieldUse fields) {
    Interpretation interpretation;
    interpretation.fields = fields;
    return interpretation;
}

/// AA BB BC CD DD from the first frame on.
Interpretation film(std::int64_t frames) {
    Interpretation interpretation = taken(FieldUse::removePulldown);
    interpretation.pulldown = {{0, frames - 1, PulldownRun::Kind::pulldown32, true, 0}};
    return interpretation;
}

using Random = std::mt19937;

std::int64_t between(Random& random, std::int64_t least, std::int64_t most) {
    return std::uniform_int_distribution<std::int64_t>(least, most)(random);
}

MediaIndex randomFile(Random& random) {
    std::vector<std::int64_t> times;
    std::int64_t now = between(random, -500, 500);
    const std::int64_t frames = between(random, 1, 60);
    const bool varies = between(random, 0, 1) == 1;
    for (std::int64_t n = 0; n < frames; ++n) {
        times.push_back(now);
        now += varies ? between(random, 1, 90) : 40;
    }
    return fileAt(times, Rate(25, 1));
}

Interpretation randomlyTaken(Random& random, std::int64_t frames) {
    constexpr std::array uses{FieldUse::asCoded, FieldUse::toFrames, FieldUse::toFields,
                              FieldUse::removePulldown};
    using Kind = PulldownRun::Kind;
    constexpr std::array kinds{Kind::whole, Kind::pulldown32, Kind::pulldown2332, Kind::shifted22,
                               Kind::fields};
    Interpretation t = taken(uses.at(static_cast<std::size_t>(between(random, 0, 3))));
    t.evenTimes = between(random, 0, 1) == 1;
    t.rotation = static_cast<int>(90 * between(random, 0, 3));
    if (between(random, 0, 2) == 0) t.rate = Rate(between(random, 10, 100), 1);
    if (t.fields != FieldUse::removePulldown) return t;
    for (std::int64_t first = 0; first < frames;) {
        const std::int64_t last = std::min(frames - 1, first + between(random, 0, 14));
        t.pulldown.push_back({first, last, kinds.at(static_cast<std::size_t>(between(random, 0, 4))), true,
                              static_cast<int>(between(random, 0, 4))});
        first = last + 1;
    }
    return t;
}

/// The fields of the file that a frame shows, 2n and 2n + 1 for coded frame n whose top field comes first.
std::set<std::int64_t> fieldsIn(const FrameRecipe& recipe) {
    if (recipe.kind == FrameRecipe::Kind::woven) return {2 * recipe.top, 2 * recipe.bottom + 1};
    if (recipe.kind == FrameRecipe::Kind::field) return {2 * recipe.top + (recipe.second ? 1 : 0)};
    return {2 * recipe.top, 2 * recipe.top + 1};
}

} // namespace

class TestSourceAxis : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void momentsAreThoseOfTheFile() {
        const MediaIndex index = fileAt({100, 150, 250, 290}, Rate(25, 1));
        const SourceAxis axis(index, {});
        QCOMPARE(axis.momentOf(0), Rational(0)); // counted from the first frame
        QCOMPARE(axis.momentOf(2), Rational(150, 1000));
        QCOMPARE(axis.momentOf(Rational(3, 2)), Rational(100, 1000));
        QCOMPARE(axis.momentOf(4), Rational(230, 1000)); // the last frame lasts as long as the one before
        QCOMPARE(axis.positionAt(Rational(170, 1000)), Rational(5, 2));
        QCOMPARE(axis.positionAt(Rational(-25, 1000)), Rational(-1, 2));
        QCOMPARE(axis.positionAt(Rational(310, 1000)), Rational(6));
    }

    void fieldsLieHalfWay() {
        const MediaIndex index = evenFile(20);
        const SourceAxis coded(index, {});
        const SourceAxis fields(index, taken(FieldUse::toFields));
        QCOMPARE(fields.frames(), 40);
        QCOMPARE(fields.momentOf(7), Rational(140, 1000));
        for (std::int64_t n = 0; n <= 20; ++n)
            QCOMPARE(coded.carried(n, fields), Rational(2 * n));
        QCOMPARE(fields.carried(Rational(7), coded), Rational(7, 2));
    }

    void filmFramesLieWhereTheirFirstFieldIs() {
        // AA BB BC CD DD: C begins with the second field of the third frame; D is taken whole from the fifth.
        const MediaIndex index = evenFile(20);
        const SourceAxis axis(index, film(20));
        QCOMPARE(axis.frames(), 16);
        QCOMPARE(axis.facts().rate, Rate(20, 1));
        const std::array<Rational, 5> frames{Rational(0), Rational(1), Rational(5, 2), Rational(4),
                                             Rational(5)};
        for (std::size_t n = 0; n < frames.size(); ++n)
            QCOMPARE(axis.momentOf(static_cast<std::int64_t>(n)), frames[n] * Rational(40, 1000));
    }

    void slotsAreEvenWhereTimesWereMadeEven() {
        // Of 25 fps the frames at 120 and 160 ms are missing.
        const MediaIndex index = fileAt({0, 40, 80, 200, 240, 280, 320}, Rate(22, 1));
        Interpretation even;
        even.evenTimes = true;
        const SourceAxis axis(index, even);
        QCOMPARE(axis.frames(), 9);
        for (std::int64_t n = 0; n <= 9; ++n)
            QCOMPARE(axis.momentOf(n), Rational(40 * n, 1000));
        QCOMPARE(SourceAxis(index, {}).carried(3, axis), Rational(5));
        QCOMPARE(axis.marks().size(), std::size_t{2}); // both holes are filled by a frame shown again
    }

    void timesOfNoUseAreReplacedByTheRate() {
        MediaIndex index = fileAt({0, 40, 40, 20}, Rate(25, 1));
        QCOMPARE(SourceAxis(index, {}).momentOf(3), Rational(3, 25));
        index.packets[1].pts.reset();
        QCOMPARE(SourceAxis(index, {}).momentOf(3), Rational(3, 25));
    }

    void timesOfADamagedFileAreNotBelieved() {
        constexpr auto least = std::numeric_limits<std::int64_t>::min();
        constexpr auto most = std::numeric_limits<std::int64_t>::max();
        QCOMPARE(SourceAxis(fileAt({least, 0, most}, Rate(25, 1)), {}).momentOf(2), Rational(2, 25));
    }

    void aSetRatePlaysNoPartInTheTimeOfTheFile() {
        // Fields of the file's own rate would come faster than any rate can be.
        const MediaIndex index = fileAt({0, 1, 2, 3}, Rate(60'000, 1));
        Interpretation slow = taken(FieldUse::toFields);
        slow.rate = Rate(25, 1);
        validate(slow, index);
        const SourceAxis axis(index, slow);
        QCOMPARE(axis.facts().rate, Rate(50, 1));
        QCOMPARE(axis.framesPerSecond(), Rational(120'000));
    }

    void mapsInvertEachOtherAndKeepOrder() {
        Random random(23);
        for (int i = 0; i < 400; ++i) {
            const MediaIndex index = randomFile(random);
            const SourceAxis one(index, randomlyTaken(random, index.frames()));
            const SourceAxis other(index, randomlyTaken(random, index.frames()));
            for (std::int64_t n = 0; n < one.frames(); ++n)
                QVERIFY(one.momentOf(n) < one.momentOf(n + 1));
            constexpr int count = 12;
            std::vector<Rational> places;
            places.reserve(count);
            for (int p = 0; p < count; ++p)
                places.emplace_back(between(random, -30, 10 * one.frames() + 30), between(random, 1, 10));
            std::sort(places.begin(), places.end());
            for (std::size_t p = 0; p < places.size(); ++p) {
                QCOMPARE(one.positionAt(one.momentOf(places[p])), places[p]);
                const Rational there = one.carried(places[p], other);
                QCOMPARE(other.momentOf(there), one.momentOf(places[p]));
                QCOMPARE(other.carried(there, one), places[p]);
                if (p > 0 && places[p - 1] < places[p]) QVERIFY(one.carried(places[p - 1], other) < there);
            }
        }
    }

    void findingsLandOnTheFramesTheyWereFoundOn() {
        Random random(24);
        int cuts = 0;
        int repeats = 0;
        for (int i = 0; i < 400; ++i) {
            const MediaIndex index = randomFile(random);
            Interpretation interpretation = randomlyTaken(random, index.frames());
            interpretation.topFirst = true;
            const SourceAxis axis(index, interpretation);
            ShotFindings found;
            const std::int64_t cut = between(random, 1, 2 * index.frames() - 1);
            found.cutFields = {cut};
            for (std::int64_t n = 1; n < index.frames(); ++n)
                if (between(random, 0, 3) == 0) found.repeats.frames.push_back(n);
            const GapFindings carried = axis.findings(found);
            for (const std::int64_t gap : carried.cuts) {
                const auto before = fieldsIn(axis.recipes().at(static_cast<std::size_t>(gap)));
                const auto behind = fieldsIn(axis.recipes().at(static_cast<std::size_t>(gap) + 1));
                QVERIFY(*before.begin() < cut && *behind.rbegin() >= cut);
                ++cuts;
            }
            for (const std::int64_t frame : carried.repeats) {
                const FrameRecipe& now = axis.recipes().at(static_cast<std::size_t>(frame));
                const auto isFound = [&](std::int64_t coded) {
                    return std::binary_search(found.repeats.frames.begin(), found.repeats.frames.end(),
                                              coded);
                };
                QVERIFY(now == axis.recipes().at(static_cast<std::size_t>(frame) - 1) ||
                        isFound(std::max(now.top, now.bottom)));
                ++repeats;
            }
        }
        QVERIFY(cuts > 200 && repeats > 1000);
    }

    void aShotKeepsWhatItLiesOn() {
        const MediaIndex index = evenFile(100);
        const SourceAxis coded(index, {});
        const SourceAxis pulled(index, film(100));
        const SourceAxis fields(index, taken(FieldUse::toFields));
        Shot shot = shotOf("/x.mkv");
        shot.from = 10;
        shot.to = 59;
        shot.methodStretches = {{20, 29, Method::blend}};
        shot.matte.keys = {{10, {{0, 0}, {9, 0}, {9, 9}}}, {99, {{1, 1}, {8, 1}, {8, 8}}}};
        shot.keys = {{0, 10, Segment::constant, {}}, {100, 60, Segment::constant, {}}};
        Shot toFilm = shot;
        toFilm.carryOver(coded, pulled);
        QCOMPARE(toFilm.interpretation, pulled.interpretation());
        QCOMPARE(toFilm.from, std::optional<std::int64_t>(8));
        QCOMPARE(toFilm.to, std::optional<std::int64_t>(47));
        QCOMPARE(toFilm.methodStretches.at(0).first, 16);
        QCOMPARE(toFilm.methodStretches.at(0).last, 23);
        QCOMPARE(toFilm.matte.keys.at(0).frame, 8);
        QCOMPARE(toFilm.matte.keys.at(1).frame, 79);
        QCOMPARE(toFilm.keys.at(1).position, Rational(48));
        QCOMPARE(toFilm.keys.at(1).output, Rational(80)); // four seconds at 20 fps, as they were at 25
        Shot toFields = shot;
        toFields.outputRate = Rate(25, 1);
        toFields.keys.at(1).speed = Rational(1, 2);
        toFields.carryOver(coded, fields);
        QCOMPARE(toFields.to, std::optional<std::int64_t>(119));
        QCOMPARE(toFields.keys.at(1).position, Rational(120));
        QCOMPARE(toFields.keys.at(1).output, Rational(100)); // its own rate stays
        QCOMPARE(*toFields.keys.at(1).speed, Rational(1));
        toFields.carryOver(fields, coded);
        shot.outputRate = Rate(25, 1);
        shot.keys.at(1).speed = Rational(1, 2);
        QCOMPARE(toFields, shot);
    }

    void whatLiesBehindABreakStaysThere() {
        // 50 frames of pulldown, then 50 that are film frames each. In proportion, coded frame 60 would come
        // to film frame 54; it is the tenth behind the 40 of the pulldown.
        const MediaIndex index = evenFile(100);
        Interpretation mixed = taken(FieldUse::removePulldown);
        mixed.pulldown = {{0, 49, PulldownRun::Kind::pulldown32, true, 0},
                          {50, 99, PulldownRun::Kind::whole, true, 0}};
        const SourceAxis axis(index, mixed);
        QCOMPARE(axis.frames(), 90);
        Shot shot = shotOf("/x.mkv");
        shot.from = 60;
        shot.carryOver(SourceAxis(index, {}), axis);
        QCOMPARE(shot.from, std::optional<std::int64_t>(50));
    }

    void aFileWithoutFramesIsRefused() {
        try {
            const SourceAxis axis(fileAt({}, Rate(25, 1)), {});
            QFAIL("It was taken.");
        } catch (const Error& error) {
            QVERIFY(QByteArray(error.what()).contains("made.mkv has no frames"));
        }
    }

    void clocksOfNanosecondsAreCarriedExactly() {
        MediaIndex index = fileAt({}, Rate(24000, 1001));
        index.timeBase = Rational(1, 1'000'000'000);
        index.facts.frames = 100'000; // more than an hour
        for (std::int64_t n = 0; n < index.facts.frames; ++n) {
            PacketEntry packet;
            packet.pts = n * 41'708'333 + n % 3;
            index.packets.push_back(packet);
            index.displayPacket.push_back(static_cast<std::int32_t>(n));
        }
        const SourceAxis coded(index, {});
        const SourceAxis fields(index, taken(FieldUse::toFields));
        for (const Rational& place : {Rational(99'999 * 1000 + 1, 1000), Rational(123'457, 1001)})
            QCOMPARE(fields.carried(coded.carried(place, fields), coded), place);
    }
};

QTEST_APPLESS_MAIN(TestSourceAxis)
#include "test_source_axis.moc"
