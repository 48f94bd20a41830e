// Mends: what they change, where they stay, how doubtful gaps and cures are judged on frames whose truth is
// known.

#ifndef Q_MOC_RUN // moc knows no concepts
#include "core/error.h"
#include "core/mending/known_doubts.h"
#include "core/mending/mend_all.h"
#include "core/mending/timing_mends.h"
#include "core/project/mends_file.h"
#include "core/shot/shot.h"

#include "support/drawn_shot.h"
#include "support/film.h"
#include "support/pictures.h"
#endif

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <filesystem>
#include <random>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int width = 320;
constexpr int height = 180;

double lightAt(double x, double y) {
    return 120 + 40 * std::sin(x / 5.1) * std::cos(y / 6.3) + 25 * std::sin(x / 19 + y / 11.0);
}

/// The ground glides by a pixel a frame; from frame 8 to 9 a small bright square leaps far to the right.
Image leaping(std::int64_t n) {
    const double left = n < 9 ? 40 + 2.0 * static_cast<double>(n) : 190 + 2.0 * static_cast<double>(n);
    return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [=](int p, int x, int y) {
        if (p > 0) return 128.0;
        if (x >= left && x < left + 30 && y >= 70 && y < 100)
            return 200.0 + 40 * std::sin((x - left) / 3.0) * std::sin(y / 3.0);
        return lightAt(x - static_cast<double>(n), y);
    });
}

GapSettings flowSettings() {
    return {.method = Method::flow};
}

Mend mendOn(std::int64_t first, std::int64_t last, const MendChanges& changes, const char* name = "") {
    return {.gaps = {first, last}, .name = name, .isOn = true, .changes = changes};
}

/// Frames of a drawn shot at half the speed.
PlannedFrames slowed(const std::shared_ptr<ShotFrames>& source, const SettingsInForce& settings) {
    const Timing timing{.sourceRate = Rate(24, 1),
                        .outputRate = Rate(24, 1),
                        .from = 0,
                        .to = source->frames() - 1,
                        .speed = Rational(1, 2)};
    const auto plan =
        std::make_shared<const FramePlan>(makePlan(timing, Treatment(settings), source->frames()));
    return {plan, FrameMaker(source, std::make_shared<VectorStore>(), plan->settings)};
}

} // namespace

class TestMending : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void changesLeaveTheRestOfTheSettings() {
        GapSettings before = flowSettings();
        before.inBetweens.flow.stiffness = 12;
        before.inBetweens.synthesis.keepGrain = true;
        const GapSettings after =
            withChanges(before, {.quality = FlowQuality::thorough, .sides = Sides::after});
        QVERIFY(after.inBetweens.flow.quality == FlowQuality::thorough);
        QVERIFY(after.inBetweens.finalQuality == FlowQuality::thorough);
        QVERIFY(after.inBetweens.synthesis.sides == Sides::after);
        QCOMPARE(after.inBetweens.flow.stiffness, 12);
        QVERIFY(after.inBetweens.synthesis.keepGrain);
        QVERIFY(withChanges(before, {}) == before);
    }

    void laterMendsGoOverEarlierOnes() {
        SettingsInForce settings(flowSettings());
        settings.put(10, 20, {.method = Method::blend});
        Mend off = mendOn(0, 40, {.method = Method::sample});
        off.isOn = false;
        putMends(settings, {mendOn(5, 15, {.stiffness = 70}), mendOn(12, 12, {.stiffness = 3}), off});
        QVERIFY(settings.at(4) == flowSettings());
        QCOMPARE(settings.at(5).inBetweens.flow.stiffness, 70);
        QVERIFY(settings.at(5).method == Method::flow);
        QVERIFY(settings.at(12).method == Method::blend); // what lies below stays
        QCOMPARE(settings.at(12).inBetweens.flow.stiffness, 3);
        QCOMPARE(settings.at(13).inBetweens.flow.stiffness, 70);
        QCOMPARE(settings.at(16).inBetweens.flow.stiffness, FlowOptions::defaultStiffness);
    }

    void repeatingTheFrameBeforeNeverShowsTheNextOne() {
        Shot shot = shotOf("/clip.mov");
        shot.speed = Rational(1, 4);
        shot.mending =
            withMend({}, mendOn(3, 3, {.method = Method::sample, .sampleFrom = SampleFrom::before}));
        const Timing timing = shot.timing(Rate(24, 1), 10);
        const FramePlan plan = makePlan(timing, Treatment(shot.settingsInForce()), 10);
        for (int n = 12; n < 16; ++n)
            QCOMPARE(plan.rows[static_cast<std::size_t>(n)].first, 3);
        QCOMPARE(plan.rows[16].first, 4);
        QVERIFY(plan.rows[10].kind == FrameKind::flow);
    }

    void mendsAreFoundAcceptedAndTakenOut() {
        Mending mending = withMend({}, mendOn(4, 8, {.stiffness = 70}, "stiffer"));
        mending = withMend(mending, mendOn(6, 6, {.method = Method::blend}, "blend"));
        QCOMPARE(mending.at(5), std::optional<std::size_t>(0));
        QCOMPARE(mending.at(6), std::optional<std::size_t>(1));
        QVERIFY(!mending.at(9));
        mending.mends[1].isOn = false;
        QCOMPARE(mending.at(6), std::optional<std::size_t>(0));
        mending = withoutMendAt(mending, 6);
        QVERIFY(!mending.at(6));
        QVERIFY(mending.at(5) && mending.at(7)); // of a longer one the rest stays
        QVERIFY(withoutMendAt(withMend({}, mendOn(2, 2, {})), 2).empty());
        mending = withAccepted(withAccepted(mending, 9, true), 3, true);
        QCOMPARE(mending.accepted, (std::vector<std::int64_t>{3, 9}));
        QVERIFY(mending.isAccepted(9) && !mending.isAccepted(4));
        QCOMPARE(withAccepted(mending, 3, false).accepted, std::vector<std::int64_t>{9});
    }

    void mendsInForceAreThoseOfEachGap() {
        std::mt19937 random(7);
        for (int round = 0; round < 200; ++round) {
            Mending mending;
            for (int i = 0; i < 9; ++i) {
                const auto first = static_cast<std::int64_t>(random() % 30);
                mending.mends.push_back(mendOn(first, first + static_cast<std::int64_t>(random() % 9), {}));
                mending.mends.back().isOn = random() % 4 != 0;
            }
            std::vector<std::optional<std::size_t>> inForce(60);
            std::int64_t end = -1;
            for (const MendInForce& one : mendsInForce(mending.mends)) {
                QVERIFY(one.gaps.first > end && one.gaps.last >= one.gaps.first);
                end = one.gaps.last;
                for (std::int64_t gap = one.gaps.first; gap <= one.gaps.last; ++gap)
                    inForce[static_cast<std::size_t>(gap)] = one.mend;
            }
            for (std::int64_t gap = 0; gap < 60; ++gap)
                QVERIFY(inForce[static_cast<std::size_t>(gap)] == mending.at(gap));
        }
    }

    void filesOfMendsComeBackAsTheyWere() {
        Mending mending;
        mending.mends = {mendOn(4, 8, {.method = Method::sample, .sampleFrom = SampleFrom::before}, "held"),
                         mendOn(12, 12,
                                {.quality = FlowQuality::thorough,
                                 .stiffness = 75,
                                 .analyseOn = AnalyseOn::edges,
                                 .inFront = InFront::faster,
                                 .sides = Sides::before,
                                 .trustLimit = 30,
                                 .standIn = StandIn::side,
                                 .bendPaths = false})};
        mending.mends[1].isOn = false;
        mending.accepted = {1, 7};
        QVERIFY(parseMends(mendsText(mending), "m.json") == mending);
        QVERIFY(parseMends(mendsText({}), "m.json") == Mending());
    }

    void wrongFilesOfMendsAreToldPlainly_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("told");
        const auto row = [](const char* name, const char* text, const char* told) {
            QTest::newRow(name) << QString::fromLatin1(text) << QString::fromLatin1(told);
        };
        row("nothing", "", "holds no mends");
        row("no list", "{\"mends\": 4}", "mends");
        row("backwards", R"({"mends": [{"from": 9, "to": 4}]})", "ends before it begins");
        row("no range", R"({"mends": [{"from": 9}]})", "to");
        row("stiffness", R"({"mends": [{"from": 1, "to": 2, "changes": {"stiffness": 400}}]})", "0 to 100");
        row("method", R"({"mends": [{"from": 1, "to": 2, "changes": {"method": "magic"}}]})", "magic");
        row("accepted twice", R"({"mends": [], "accepted": [3, 3]})", "twice");
        row("far away", R"({"mends": [{"from": 1, "to": 99999999999999}]})", "whole number");
    }
    void wrongFilesOfMendsAreToldPlainly() {
        QFETCH(QString, text);
        QFETCH(QString, told);
        try {
            parseMends(text.toStdString(), "m.json");
            QFAIL("taken");
        } catch (const Error& error) {
            const QString said = QString::fromUtf8(error.what());
            QVERIFY2(said.startsWith(QStringLiteral("m.json")) && said.contains(told), qPrintable(said));
        }
    }

    void theDoubtfulPlaceIsWhereTheFrameTears() {
        const auto source = std::make_shared<DrawnShot>(18, leaping);
        const PlannedFrames frames = slowed(source, SettingsInForce(flowSettings()));
        const auto gaps = doubtfulGaps(frames);
        QCOMPARE(gaps.size(), std::size_t{17});
        QCOMPARE(gaps.front().first, 8); // the leap is the worst of all
        QVERIFY2(gaps.front().doubt > 2 * gaps.back().doubt,
                 qPrintable(QStringLiteral("%1 %2").arg(gaps.front().doubt).arg(gaps.back().doubt)));
        const PictureBox& box = gaps.front().box;
        // It tears where the square was or is: rows 70 to 100, columns 56 to 86 or 208 to 238.
        QVERIFY(box.y < 100 && box.y + box.height > 70);
        QVERIFY((box.x < 86 && box.x + box.width > 56) || (box.x < 238 && box.x + box.width > 208));
        QVERIFY(box.width < width / 2);
        QVERIFY(!gaps.front().why.empty());
        for (std::size_t i = 1; i < gaps.size(); ++i)
            QVERIFY(gaps[i - 1].doubt >= gaps[i].doubt);
    }

    void whatWasSeenIsKeptAndSeenOnce() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.path().toStdString();
        const auto source = std::make_shared<DrawnShot>(16, leaping);
        const PlannedFrames frames = slowed(source, SettingsInForce(flowSettings()));
        DoubtMemory memory;
        const auto first = doubtfulGaps(frames, {}, {}, &memory);
        QCOMPARE(memory.size(), first.size());
        {
            KnownDoubts known(path);
            known.keep(shotKeyOf(frames), memory);
            known.flush();
        }
        KnownDoubts known(path);
        DoubtMemory again = known.find(shotKeyOf(frames));
        QCOMPARE(again.size(), first.size());
        const int reads = source->reads;
        QVERIFY(doubtfulGaps(frames, {}, {}, &again) == first);
        QCOMPARE(source->reads, reads); // no picture was looked at
        // Another picture is another gap, and only the gaps that it has to do with are looked at.
        source->otherPicture = 3;
        const auto other = doubtfulGaps(frames, {}, {}, &again);
        QVERIFY(source->reads > reads);
        QVERIFY(again.size() > first.size() && again.size() < 2 * first.size());
        QCOMPARE(other.size(), first.size());
        // Damaged files are seen anew.
        for (const auto& entry : std::filesystem::directory_iterator(path))
            std::filesystem::resize_file(entry.path(), std::filesystem::file_size(entry.path()) - 3);
        QCOMPARE(known.find(shotKeyOf(frames)).size(), std::size_t{0});
        QVERIFY(!DoubtMemory::from("abc"));
    }

    void textureThatRepeatsIsTold_data() {
        QTest::addColumn<bool>("repeats");
        QTest::newRow("bars") << true;
        QTest::newRow("texture") << false;
    }
    void textureThatRepeatsIsTold() {
        QFETCH(bool, repeats);
        const auto source = std::make_shared<DrawnShot>(4, [repeats](std::int64_t n) {
            const double moved = 7.0 * static_cast<double>(n);
            return pictureOf(width, height, {.model = ColourModel::grey}, [=](int, int x, int y) {
                if (!repeats) return texture(x - moved, y, 11, 4);
                const double along = std::fmod(x - moved + 1000, 28) / 28; // bars of 28 pixels
                return along < 0.4 ? 200.0 : 60.0;
            });
        });
        const auto list = doubtfulGaps(slowed(source, SettingsInForce(flowSettings())));
        QVERIFY(!list.empty());
        for (const DoubtfulGap& gap : list)
            QCOMPARE(std::ranges::find(gap.why, DoubtReason::repeats) != gap.why.end(), repeats);
    }

    void aCalmGlideIsNotDoubted() {
        const auto source = std::make_shared<DrawnShot>(10, [](std::int64_t n) {
            return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [n](int p, int x, int y) {
                return p > 0 ? 128.0 : lightAt(x - static_cast<double>(n), y);
            });
        });
        for (const DoubtfulGap& gap : doubtfulGaps(slowed(source, SettingsInForce(flowSettings()))))
            QVERIFY2(gap.doubt < usualDoubtLimit / 2, qPrintable(QString::number(gap.doubt)));
    }

    void curesAreJudgedOnRealFrames() {
        // A glide of 5 pixels a frame: flow is nearly exact, a blend is not, a repeat least.
        const auto source = std::make_shared<DrawnShot>(12, [](std::int64_t n) {
            return pictureOf(width, height, {.chromaShiftX = 1, .chromaShiftY = 1}, [n](int p, int x, int y) {
                return p > 0 ? 128.0 : lightAt(x - 5.0 * static_cast<double>(n), y);
            });
        });
        const CureJudge judge(source, std::make_shared<VectorStore>(), {});
        const GapSettings blended{.method = Method::blend};
        const auto cures = usualCures(blended);
        QVERIFY(cures.front().changes == MendChanges());
        QVERIFY(std::ranges::none_of(cures, [](const Cure& c) { return c.name == "blend"; }));
        const auto judged = judge.judged({5, 6}, blended, cures);
        QCOMPARE(judged.size(), cures.size());
        const auto markOf = [&](const char* name) {
            return std::ranges::find_if(judged, [&](const JudgedCure& j) { return j.cure.name == name; })
                ->mark.value();
        };
        QVERIFY(markOf("thorough") > markOf("as it is") + 6);
        QVERIFY(markOf("as it is") > markOf("repeat the nearer"));
        QVERIFY(bestCure(judged).has_value());
        for (std::size_t i = 1; i < judged.size(); ++i)
            QVERIFY(judged[i - 1].mark >= judged[i].mark);
        // Beside the ends of the shot and at cuts there is nothing to judge by.
        GapFindings cuts;
        cuts.cuts = {4, 5, 6};
        QVERIFY(!CureJudge(source, std::make_shared<VectorStore>(), cuts)
                     .judge({5, 6}, blended, cures.front())
                     .mark);
        QVERIFY(!bestCure({{cures.front(), std::nullopt}}));
    }

    void aGapRunThroughShowsOriginalsAlone_data() {
        QTest::addColumn<int>("percent");
        for (const int percent : {25, 40, 33, 70})
            QTest::addRow("%d %%", percent) << percent;
    }
    void aGapRunThroughShowsOriginalsAlone() {
        QFETCH(int, percent);
        Timing timing{.sourceRate = Rate(24, 1),
                      .outputRate = Rate(24, 1),
                      .from = 0,
                      .to = 39,
                      .speed = Rational(percent, 100)};
        const FramePlan before = makePlan(timing, Treatment(Method::flow), 40);
        const FramePlan after = makePlan(runThrough(timing, {14, 17}), Treatment(Method::flow), 40);
        QVERIFY(after.rows.size() < before.rows.size());
        std::int64_t originals = 0;
        for (const PlanRow& row : after.rows) {
            const Rational place = Rational(row.position.frame) + row.position.phase;
            if (place < Rational(14) || place > Rational(18)) continue;
            QVERIFY2(row.kind == FrameKind::original, qPrintable(QString::number(place.toDouble())));
            ++originals;
        }
        QCOMPARE(originals, std::int64_t{5}); // 14 to 18
        // Passed quickly they are fewer still.
        const FramePlan quick = makePlan(passQuickly(timing, {14, 17}), Treatment(Method::flow), 40);
        QVERIFY(quick.rows.size() < after.rows.size());
        // Keeping the length, what lies around goes slower.
        const Timing kept = runThrough(timing, {14, 17}, 2, Keeping::length);
        const FramePlan same = makePlan(kept, Treatment(Method::flow), 40);
        QCOMPARE(same.rows.size(), makePlan(timing, Treatment(Method::flow), 40).rows.size());
        for (const PlanRow& row : same.rows)
            if (row.position.frame >= 14 && row.position.frame <= 17) QVERIFY(row.kind != FrameKind::flow);
        QVERIFY_THROWS_EXCEPTION(Error, passQuickly(timing, {0, 39}, 2, 0, Keeping::length));
        QVERIFY_THROWS_EXCEPTION(Error, runThrough(timing, {38, 45}));
    }

    void allAreMendedWhereSomethingIsBetter() {
        const auto source = std::make_shared<DrawnShot>(18, leaping);
        const PlannedFrames frames = slowed(source, SettingsInForce(GapSettings{.method = Method::flow}));
        const auto gaps = doubtfulGaps(frames);
        const CureJudge judge(source, std::make_shared<VectorStore>(), {});
        const Mending accepted = withAccepted({}, 8, true);
        QVERIFY(std::ranges::none_of(tryCures(frames, judge, gaps, gaps[2].doubt, accepted),
                                     [](const TriedGap& t) { return t.gap.first == 8; }));
        const auto tried = tryCures(frames, judge, gaps, gaps[2].doubt, {});
        QCOMPARE(tried.size(), std::size_t{3});
        const Mending mended = withBestCures({}, tried);
        for (const TriedGap& one : tried) {
            QCOMPARE(mended.at(one.gap.first).has_value(), one.best.has_value());
            if (!one.best) continue;
            const auto asItIs = std::ranges::find_if(
                one.cures, [](const JudgedCure& j) { return j.cure.changes == MendChanges(); });
            QVERIFY(*one.cures.front().mark > *asItIs->mark + clearlyBetter);
        }
    }
};

QTEST_APPLESS_MAIN(TestMending)
#include "test_mending.moc"
