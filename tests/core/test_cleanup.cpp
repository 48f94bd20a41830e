// Decisions about source frames: which frames are left, when, what is carried along, and their files.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/cleaning/cleaned_findings.h"
#include "core/cleaning/found_decisions.h"
#include "core/error.h"
#include "core/project/cleanup_file.h"
#include "core/project/project.h"
#include "core/shot/ready_shot.h"
#endif

#include <QTest>

#include <algorithm>
#include <random>

using namespace yarngap;

namespace {

/// 25 fps, a clock of 1/1000 s.
MediaIndex evenFile(std::int64_t frames) {
    MediaIndex index;
    index.facts.path = "made.mkv";
    index.facts.rate = Rate(25, 1);
    index.facts.frames = frames;
    index.timeBase = Rational(1, 1000);
    for (std::int64_t n = 0; n < frames; ++n) {
        PacketEntry packet;
        packet.pts = 40 * n;
        packet.shownAs = static_cast<std::int32_t>(n);
        index.packets.push_back(packet);
        index.displayPacket.push_back(static_cast<std::int32_t>(n));
    }
    return index;
}

CleanupDecision on(std::int64_t frame, CleanupKind kind) {
    return {.frame = frame, .kind = kind};
}

CleanupDecision putIn(std::int64_t frame, int count) {
    return {.frame = frame, .kind = CleanupKind::putIn, .count = count};
}

std::string message(const std::function<void()>& work) {
    try {
        work();
    } catch (const Error& error) {
        return error.what();
    }
    return {};
}

using Random = std::mt19937;

std::int64_t between(Random& random, std::int64_t least, std::int64_t most) {
    return std::uniform_int_distribution<std::int64_t>(least, most)(random);
}

Cleanup randomCleanup(Random& random, std::int64_t frames, bool recounts) {
    constexpr std::array kinds{CleanupKind::keep, CleanupKind::passOver, CleanupKind::rebuild,
                               CleanupKind::takeOut};
    Cleanup cleanup;
    for (std::int64_t n = 0; n < frames; ++n) {
        if (between(random, 0, 3) == 0)
            cleanup.decisions.push_back(
                on(n, kinds.at(static_cast<std::size_t>(between(random, 0, recounts ? 3 : 2)))));
        if (recounts && between(random, 0, 5) == 0)
            cleanup.decisions.push_back(putIn(n, static_cast<int>(between(random, 1, 4))));
    }
    return cleanup;
}

} // namespace

class TestCleanup : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void aFrameHasOneDecisionAboutItAndOneBehindIt() {
        Cleanup cleanup =
            withDecisions({}, {on(9, CleanupKind::takeOut), putIn(4, 2), on(4, CleanupKind::rebuild)});
        QCOMPARE(cleanup.decisions.size(), std::size_t{3});
        QCOMPARE(cleanup.about(4)->kind, CleanupKind::rebuild);
        QCOMPARE(cleanup.behind(4)->count, 2);
        QVERIFY(!cleanup.about(5) && !cleanup.behind(9));
        validate(cleanup);
        cleanup = withDecision(cleanup, on(4, CleanupKind::passOver));
        QCOMPARE(cleanup.about(4)->kind, CleanupKind::passOver);
        QCOMPARE(cleanup.behind(4)->count, 2);
        QCOMPARE(QByteArray::fromStdString(summary(cleanup)), "1 passed over, 1 taken out, 2 put in");
        cleanup = withoutDecisions(cleanup, 4, 4);
        QCOMPARE(cleanup.decisions.size(), std::size_t{1});
    }

    void whatCannotBeIsRefusedWithItsFrame() {
        const auto refused = [](Cleanup cleanup) { return message([&] { validate(cleanup, 20); }); };
        QVERIFY(refused({{on(20, CleanupKind::keep)}}).find("frame 20 lies beyond the end") !=
                std::string::npos);
        QVERIFY(refused({{on(3, CleanupKind::keep), on(3, CleanupKind::rebuild)}}).find("twice") !=
                std::string::npos);
        QVERIFY(refused({{on(5, CleanupKind::keep), on(3, CleanupKind::keep)}}).find("out of order") !=
                std::string::npos);
        QVERIFY(refused({{putIn(3, 0)}}).find("puts in 0 frames") != std::string::npos);
        CleanupDecision off = on(7, CleanupKind::rebuild);
        off.phases = {Rational(5, 4)};
        QVERIFY(refused({{off}}).find("phase 5/4") != std::string::npos);
        Cleanup all;
        for (std::int64_t n = 0; n < 20; ++n)
            all.decisions.push_back(on(n, CleanupKind::takeOut));
        QVERIFY(refused(all).find("Keep at least one") != std::string::npos);
        all.decisions.pop_back();
        QCOMPARE(refused(all), std::string());
    }

    void framesAreCountedAsTheCleanupLeavesThem() {
        const MediaIndex index = evenFile(10);
        const SourceAxis axis(index, {},
                              withDecisions({}, {on(2, CleanupKind::takeOut), putIn(5, 3),
                                                 on(7, CleanupKind::passOver), on(8, CleanupKind::rebuild)}));
        QCOMPARE(axis.frames(), 12);
        QCOMPARE(axis.interpretedFrames(), 10);
        QVERIFY(axis.isRecounted());
        // 0 1 3 4 5 + + + 6 7 8 9
        const std::vector<std::int64_t> frames{0, 1, 3, 4, 5, 5, 5, 5, 6, 7, 8, 9};
        for (std::size_t n = 0; n < frames.size(); ++n)
            QCOMPARE(axis.origin(static_cast<std::int64_t>(n)).frame, frames[n]);
        QCOMPARE(axis.frameOf(6), std::optional<std::int64_t>(8));
        QVERIFY(!axis.frameOf(2));
        QCOMPARE(axis.momentOf(2), Rational(120, 1000));
        QCOMPARE(axis.momentOf(6), Rational(220, 1000)); // half way between 5 and 6
        QCOMPARE(axis.momentOf(12), Rational(400, 1000));
        QCOMPARE(axis.facts().rate, Rate(25, 1));
        // Marks tell what was done, at the frame where it shows.
        std::map<std::int64_t, SourceMark> marks;
        for (const SourceMark& mark : axis.marks())
            marks[mark.frame] = mark;
        QCOMPARE(marks.size(), std::size_t{6});
        QCOMPARE(marks[2].takenOut, 1);
        QCOMPARE(marks[5].made, SourceMark::Made::putIn);
        QCOMPARE(marks[9].made, SourceMark::Made::passedOver);
        QCOMPARE(marks[10].made, SourceMark::Made::rebuilt);
    }

    void mapsInvertEachOtherAndKeepOrder() {
        Random random(31);
        for (int i = 0; i < 300; ++i) {
            const MediaIndex index = evenFile(between(random, 2, 60));
            const SourceAxis plain(index, {});
            const SourceAxis axis(index, {}, randomCleanup(random, index.frames(), true));
            for (std::int64_t n = 0; n < axis.frames(); ++n) {
                QVERIFY(axis.momentOf(n) < axis.momentOf(n + 1));
                const Rational place(3 * n + 1, 3);
                QCOMPARE(plain.carried(axis.carried(place, plain), axis), place);
                const FrameOrigin& origin = axis.origin(n);
                if (origin.kind == FrameOrigin::Kind::putIn) continue;
                QCOMPARE(axis.frameOf(origin.frame), std::optional(n));
                QCOMPARE(axis.carried(n, plain), Rational(origin.frame));
            }
        }
    }

    void trimKeysAndMatteStayAtTheirPictures() {
        Random random(32);
        for (int i = 0; i < 300; ++i) {
            const MediaIndex index = evenFile(between(random, 8, 60));
            const SourceAxis plain(index, {});
            const SourceAxis axis(index, {}, randomCleanup(random, index.frames(), true));
            Shot shot = shotOf("/x.mkv");
            const std::int64_t from = between(random, 0, index.frames() - 2);
            const std::int64_t to = between(random, from + 1, index.frames() - 1);
            shot.from = from;
            shot.to = to;
            shot.matte.keys = {{from, {{0, 0}, {9, 0}, {9, 9}}}, {to, {{1, 1}, {8, 1}, {8, 8}}}};
            shot.keys = {{0, from, Segment::constant, {}}, {100, to + 1, Segment::constant, {}}};
            Shot cleaned = shot;
            cleaned.carryOver(plain, axis);
            QCOMPARE(cleaned.cleanup, axis.cleanup());
            // Every frame of the trim that is left is in the new trim, and no other frame of the file.
            for (std::int64_t n = 0; n < axis.frames(); ++n) {
                const FrameOrigin& origin = axis.origin(n);
                const bool inside = n >= *cleaned.from && n <= *cleaned.to;
                if (origin.kind == FrameOrigin::Kind::putIn) continue;
                const bool wasInside = origin.frame >= from && origin.frame <= to;
                if (axis.frameOf(from) || axis.frameOf(to)) QCOMPARE(inside, wasInside);
            }
            if (const auto key = axis.frameOf(from)) QCOMPARE(cleaned.matte.keys.front().frame, *key);
            QCOMPARE(cleaned.keys.front().position, Rational(*cleaned.from));
            QCOMPARE(cleaned.keys.back().position, Rational(*cleaned.to + 1));
            // At the same speed it lasts as many frames longer or shorter.
            const Rational speed = Rational(to + 1 - from) / Rational(100);
            QCOMPARE(Rational(*cleaned.to + 1 - *cleaned.from) / cleaned.keys.back().output, speed);
            Shot kept = shot;
            kept.carryOver(plain, axis, true);
            QCOMPARE(kept.keys.back().output, Rational(100));
        }
    }

    void mendsStayAtTheirPictures() {
        Random random(36);
        int guides = 0;
        int gone = 0;
        for (int i = 0; i < 400; ++i) {
            const MediaIndex index = evenFile(between(random, 10, 60));
            const SourceAxis plain(index, {});
            const SourceAxis axis(index, {}, randomCleanup(random, index.frames(), true));
            const auto gap = [&] { return between(random, 0, index.frames() - 2); };
            Shot shot = shotOf("/x.mkv");
            const std::int64_t first = gap();
            const std::int64_t last = between(random, first, index.frames() - 2);
            const std::int64_t guided = gap();
            const std::int64_t patched = gap();
            shot.mending.mends.push_back(
                {.gaps = {first, last}, .name = "stiffer", .changes = {.stiffness = 75}});
            shot.mending.mends.push_back({.gaps = {guided, guided}, .name = "guide"});
            shot.mending.mends.back().changes.guide = Guide{guided, guided + 1, {{{1, 2}, {30, 40}}}};
            shot.mending.mends.push_back({.gaps = {patched, patched}, .name = "patch"});
            const std::vector<PicturePoint> outline{{0, 0}, {9, 0}, {9, 9}};
            shot.mending.mends.back().patch = Patch{
                .keys = {{Rational(4 * patched + 1, 4), outline}, {Rational(4 * patched + 3, 4), outline}}};
            shot.carryOver(plain, axis, between(random, 0, 1) == 1);
            validate(shot.mending); // throws
            const auto named = [&](const char* name) {
                return std::ranges::find(shot.mending.mends, std::string(name), &Mend::name);
            };
            const auto none = shot.mending.mends.end();
            if (const auto a = axis.frameOf(first), b = axis.frameOf(last + 1); a && b) {
                QVERIFY(named("stiffer") != none);
                QCOMPARE(named("stiffer")->gaps.first, *a);
                QCOMPARE(named("stiffer")->gaps.last + 1, *b);
            }
            // A guide tells of two frames; without one of them it tells nothing.
            const auto a = axis.frameOf(guided);
            const auto b = axis.frameOf(guided + 1);
            if (a && b) {
                ++guides;
                QVERIFY(named("guide") != none);
                QCOMPARE(named("guide")->changes.guide->first, *a);
                QCOMPARE(named("guide")->changes.guide->last, *b);
            } else {
                ++gone;
                QVERIFY(named("guide") == none);
            }
            if (const auto before = axis.frameOf(patched), after = axis.frameOf(patched + 1); before && after)
                for (const PatchKey& key : named("patch")->patch->keys)
                    QVERIFY(key.at > Rational(*before) && key.at < Rational(*after));
        }
        QVERIFY(guides > 100 && gone > 30);
    }

    void timeMapsStayValid() {
        Random random(34);
        int emptied = 0;
        for (int i = 0; i < 500; ++i) {
            const MediaIndex index = evenFile(between(random, 12, 60));
            const SourceAxis plain(index, {});
            const SourceAxis axis(index, {}, randomCleanup(random, index.frames(), true));
            Shot shot = shotOf("/x.mkv");
            shot.from = between(random, 0, index.frames() - 8);
            shot.to = *shot.from + 7;
            Rational output = 0;
            for (int k = 0; k < 5; ++k) {
                shot.keys.push_back(
                    {output, Rational(4 * *shot.from + between(random, 0, 32), 4), Segment::constant, {}});
                output = output + Rational(between(random, 4, 20));
            }
            for (const bool keepLength : {false, true}) {
                Shot cleaned = shot;
                cleaned.carryOver(plain, axis, keepLength);
                if (!cleaned.keys.empty()) validateKeys(cleaned.keys); // throws
                emptied += cleaned.keys.empty() ? 1 : 0;
                for (const TimeKey& key : cleaned.keys)
                    QVERIFY(key.position >= Rational(*cleaned.from) &&
                            key.position <= Rational(*cleaned.to + 1));
            }
        }
        QVERIFY(emptied < 100);
    }

    void theLengthCanBeKept() {
        const MediaIndex index = evenFile(40);
        Cleanup twos;
        for (std::int64_t n = 1; n < 40; n += 2)
            twos.decisions.push_back(on(n, CleanupKind::takeOut));
        const SourceAxis plain(index, {});
        const SourceAxis axis(index, {}, twos);
        Shot shot = shotOf("/x.mkv");
        Shot shorter = shot;
        shorter.carryOver(plain, axis);
        QCOMPARE(shorter.timing(axis.facts().rate, axis.frames()).outputFrames(), 20);
        Shot kept = shot;
        kept.carryOver(plain, axis, true);
        QCOMPARE(kept.speed, Rational(1, 2));
        QCOMPARE(kept.timing(axis.facts().rate, axis.frames()).outputFrames(), 40);
        kept.carryOver(axis, plain, true); // and back
        QCOMPARE(kept, shot);
    }

    void framesPassedOverAreBridgedWhateverTheSettingsSay() {
        const MediaIndex index = evenFile(12);
        const SourceAxis axis(index, {}, {{on(5, CleanupKind::passOver), on(6, CleanupKind::passOver)}});
        Shot shot = shotOf("/x.mkv");
        shot.inBetweens.synthesis.bridgeRepeats = false;
        const FramePlan plan =
            planOf(shot, axis, shot.timing(axis.facts().rate, axis.frames()), axis.findings(ShotFindings{}));
        QCOMPARE(plan.rows.size(), std::size_t{12});
        for (const std::size_t n : {5, 6}) {
            QVERIFY(plan.rows[n].bridged);
            QCOMPARE(plan.rows[n].first, 4);
            QCOMPARE(plan.rows[n].last, 7);
        }
        QCOMPARE(phaseOf(plan.rows[6]), Rational(2, 3));
        QCOMPARE(plan.rows[7].kind, FrameKind::original);
        QCOMPARE(plan.rows[3].after, -1); // nothing to be learned from a frame that shows the one before
    }

    void aPartAloneIsPassedOverOnlyWithAMatte() {
        const MediaIndex index = evenFile(12);
        CleanupDecision decision = on(5, CleanupKind::passOver);
        decision.part = CleanupPart::subject;
        const SourceAxis axis(index, {}, {{decision}});
        QCOMPARE(axis.origin(5).kind, FrameOrigin::Kind::asItIs); // its picture stays
        Shot shot = shotOf("/x.mkv");
        const auto plan = [&] {
            return planOf(shot, axis, shot.timing(axis.facts().rate, axis.frames()),
                          axis.findings(ShotFindings{}));
        };
        QCOMPARE(plan().rows[5].kind, FrameKind::original);
        QCOMPARE(idleDecisions(axis.cleanup(), 12, {}, false).size(), std::size_t{1});
        shot.matte.keys = {{0, {{0, 0}, {9, 0}, {9, 9}}}};
        const PlanRow row = plan().rows[5];
        QCOMPARE(row.kind, FrameKind::flow);
        QCOMPARE(row.subject, std::optional(std::pair<std::int64_t, std::int64_t>(4, 6)));
        QCOMPARE(subjectPhaseOf(row), Rational(1, 2));
        QCOMPARE(phaseOf(row), Rational(0)); // the background stands on its own frame
        QCOMPARE(parseCleanup(cleanupText(axis.cleanup()), "x"), axis.cleanup());
        decision.kind = CleanupKind::rebuild;
        QVERIFY(message([&] { validate(Cleanup{{decision}}); }).find("part of the picture") !=
                std::string::npos);
    }

    void aPartIsNotBridgedAcrossACut() {
        Treatment treatment(Method::flow);
        treatment.found.cuts = {9};
        treatment.found.subjectPassedOver = {10};
        QCOMPARE(treatment.keptAround(10, 20, true, Part::subject),
                 (std::pair<std::int64_t, std::int64_t>(10, 11)));
        treatment.found.cuts = {8};
        QCOMPARE(treatment.keptAround(10, 20, true, Part::subject),
                 (std::pair<std::int64_t, std::int64_t>(9, 11)));
    }

    void keptRepeatsAreShownAsTheyAre() {
        const MediaIndex index = evenFile(12);
        ShotFindings found;
        found.repeats.frames = {3, 5, 7};
        const SourceAxis axis(index, {}, {{on(5, CleanupKind::keep)}});
        QCOMPARE(axis.findings(found).repeats, (std::vector<std::int64_t>{3, 7}));
        // Behind a frame that is taken out a frame repeats only if that one did, too.
        const SourceAxis shorter(index, {}, {{on(4, CleanupKind::takeOut), on(6, CleanupKind::takeOut)}});
        QCOMPARE(shorter.findings(found).repeats, (std::vector<std::int64_t>{3}));
        const SourceAxis other(index, {}, {{on(3, CleanupKind::takeOut)}});
        QCOMPARE(other.findings(found).repeats, (std::vector<std::int64_t>{4, 6}));
    }

    void cutsStayBetweenTheirScenes() {
        Random random(33);
        for (int i = 0; i < 300; ++i) {
            const std::int64_t frames = between(random, 4, 40);
            const MediaIndex index = evenFile(frames);
            const std::int64_t cut = between(random, 1, frames - 1);
            ShotFindings found;
            found.cuts = {cut};
            found.cutFields = {2 * cut};
            const SourceAxis axis(index, {}, randomCleanup(random, frames, true));
            std::vector<std::int64_t> expected;
            for (std::int64_t n = 1; n < axis.frames(); ++n) {
                const auto scene = [&](std::int64_t at) {
                    while (at > 0 && axis.origin(at).kind == FrameOrigin::Kind::passedOver)
                        --at;
                    return axis.origin(at).frame >= cut;
                };
                if (!scene(n - 1) && scene(n)) expected.push_back(n - 1);
            }
            QCOMPARE(axis.findings(found).cuts, expected);
        }
    }

    void decisionsWithoutEffectAreTold() {
        std::vector<CleanupDecision> all;
        for (std::int64_t n = 10; n <= 39; ++n)
            all.push_back(on(n, CleanupKind::rebuild));
        const Cleanup cleanup = withDecisions({}, all);
        std::vector<std::int64_t> idle;
        for (const IdleDecision& one : idleDecisions(cleanup, 40, {9})) // nothing but damage in this scene
            idle.push_back(one.frame);
        QCOMPARE(idle.size(), std::size_t{30});
        const auto only = [](const CleanupDecision& d) {
            const auto told = idleDecisions({{d}}, 20, {12});
            return told.empty() ? std::string() : told.front().sentence;
        };
        QVERIFY(only(on(0, CleanupKind::passOver)).find("begins the shot") != std::string::npos);
        QVERIFY(only(putIn(12, 1)).find("across a cut") != std::string::npos);
        QVERIFY(only(putIn(19, 1)).find("on both sides") != std::string::npos);
        QVERIFY(only(on(4, CleanupKind::restore)).find("no place") != std::string::npos);
        QCOMPARE(only(on(12, CleanupKind::rebuild)), std::string()); // made from the frames before the cut
    }

    void badNeighboursAreSkipped() {
        Cleanup cleanup{{on(3, CleanupKind::takeOut), on(4, CleanupKind::passOver),
                         on(5, CleanupKind::rebuild), on(6, CleanupKind::restore)}};
        cleanup.decisions.back().places = {{10, 10, 40, 17}}; // wide
        QCOMPARE(keptAround(cleanup, 5, 20, {}), (KeptAround{2, 7}));
        QCOMPARE(keptAround(cleanup, 5, 7, {}), (KeptAround{2, 6})); // a restored one while there is no other
        QCOMPARE(keptAround(cleanup, 5, 20, {4}), (KeptAround{-1, 7}));
        QCOMPARE(keptBeside(cleanup, 4, 20, {}), (KeptAround{2, 7}));
        cleanup.decisions.back().places = {{10, 10, 16, 400},
                                           {80, 0, 900, 3}}; // narrow: filled from both sides
        QCOMPARE(keptAround(cleanup, 5, 20, {}), (KeptAround{2, 6}));
    }

    void decisionsAreCarriedToAnotherInterpretation() {
        const MediaIndex index = evenFile(20);
        Interpretation fields;
        fields.fields = FieldUse::toFields;
        const SourceAxis coded(index, {});
        const SourceAxis both(index, fields);
        const Cleanup cleanup{{on(3, CleanupKind::rebuild), putIn(9, 2)}};
        const Cleanup carried = carriedCleanup(cleanup, coded, both);
        QCOMPARE(carried.about(6)->kind, CleanupKind::rebuild);
        QCOMPARE(carried.behind(18)->count, 2);
        QCOMPARE(carriedCleanup(carried, both, coded), cleanup);
        // Both fields of a frame come to it; the first decision is kept.
        const Cleanup fieldwise{{on(6, CleanupKind::rebuild), on(7, CleanupKind::takeOut)}};
        QCOMPARE(carriedCleanup(fieldwise, both, coded).about(3)->kind, CleanupKind::rebuild);
        Cleanup many;
        for (std::int64_t n = 0; n < 200'000; ++n)
            many.decisions.push_back(on(n, CleanupKind::keep));
        const MediaIndex large = evenFile(200'000);
        const SourceAxis axis(large, {});
        QCOMPARE(carriedCleanup(many, axis, axis), many);
    }

    void whatWasFoundBecomesDecisions() {
        ShotFindings found;
        found.undecodable = {8};
        found.clean.repeats = {{2, 0.9}, {4, 0.5}};
        found.clean.figureHolds = {{2, 0.9}, {6, 0.95}};
        found.clean.damage = {{10, 0.9, {{1, 2, 3, 4}}}, {12, 0.85, {}}};
        found.clean.losses = {{14, 2, 0.9}};
        const auto recipes = recipesFor(evenFile(20), {});
        const auto words = [&](const FoundOptions& options) {
            std::string text;
            for (const CleanupDecision& d : foundDecisions(found, recipes, options))
                text += std::to_string(d.frame) + ' ' + std::string(name(d.kind)) + ", ";
            return text;
        };
        QCOMPARE(words({}), std::string("2 pass-over, 8 rebuild, 10 restore, 12 rebuild, 14 put-in, "));
        QCOMPARE(words({.certainty = 0.4}),
                 std::string("2 pass-over, 4 pass-over, 8 rebuild, 10 restore, 12 rebuild, 14 put-in, "));
        QCOMPARE(words({.lookAt = LookAt::figure}),
                 std::string("2 pass-over, 6 pass-over, 8 rebuild, 10 restore, 12 rebuild, 14 put-in, "));
        QCOMPARE(words({.certainty = 1}), std::string("8 rebuild, "));
    }

    void filesOfDecisionsSurviveARoundTrip() {
        Cleanup cleanup{{on(3, CleanupKind::rebuild), putIn(9, 2), on(12, CleanupKind::restore)}};
        cleanup.decisions[0].phases = {Rational(1, 3)};
        cleanup.decisions[1].phases = {Rational(1, 4), Rational(3, 4)};
        cleanup.decisions[2].places = {{1, 2, 30, 4}};
        cleanup.decisions[2].certainty = 0.87;
        QCOMPARE(parseCleanup(cleanupText(cleanup), "x"), cleanup);
        Project project;
        project.shots.push_back(shotOf("/x.mkv"));
        project.shots[0].cleanup = cleanup;
        QCOMPARE(parseProject(projectText(project, "/"), "/", "x").shots.at(0).cleanup, cleanup);
    }

    void badFilesOfDecisionsAreRefusedWithTheirPlace_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QByteArray>("says");
        const auto row = [](const char* content, const char* says) {
            QTest::newRow(says) << QByteArray(content) << QByteArray(says);
        };
        row("", "holds no decisions");
        row("[]", "holds no decisions");
        row(R"({"decisions": [{"frame": 1}]})", "\"do\" is missing");
        row(R"({"decisions": [{"frame": -1, "do": "keep"}]})", "entry 1: frame");
        row(R"({"decisions": [{"frame": 1, "do": "mend"}]})", "pass-over");
        row(R"({"decisions": [{"frame": 1, "do": "restore", "places": [[1,2,3]]}]})",
            "[x, y, width, height]");
        row(R"({"decisions": [{"frame": 1, "do": "restore", "places": [[1,2,0,3]]}]})", "without size");
        row(R"({"decisions": [{"frame": 1, "do": "put-in", "count": 101}]})", "from 1 to 100");
        row(R"({"decisions": [{"frame": 1, "do": "keep", "certainty": 7}]})", "from 0 to 1");
        row(R"({"decisions": [{"frame": 4, "do": "keep"}, {"frame": 4, "do": "rebuild"}]})", "twice");
    }
    void badFilesOfDecisionsAreRefusedWithTheirPlace() {
        QFETCH(QByteArray, content);
        QFETCH(QByteArray, says);
        const std::string said = message([&] { parseCleanup(content.toStdString(), "list.json"); });
        QVERIFY2(said.starts_with("list.json"), said.c_str());
        QVERIFY2(said.find(says.toStdString()) != std::string::npos, said.c_str());
    }

    void aMillionDecisionsAreTaken() {
        constexpr std::int64_t many = 1'000'000;
        Cleanup cleanup;
        for (std::int64_t n = 0; n < many; ++n)
            cleanup.decisions.push_back(on(n, CleanupKind::passOver));
        validate(cleanup, many);
        const auto origins = cleanedFrames(cleanup, many);
        QCOMPARE(origins.size(), static_cast<std::size_t>(many));
        QCOMPARE(cleanedFindings({}, cleanup, origins).passedOver.size(), static_cast<std::size_t>(many) - 1);
        cleanup.decisions.push_back(on(many, CleanupKind::keep));
        QVERIFY(message([&] { validate(cleanup); }).find("more than 1000000") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(TestCleanup)
#include "test_cleanup.moc"
