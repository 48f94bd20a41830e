// Which settings are in force where, and how little becomes stale when they change in one place.

#include "core/error.h"
#include "core/shot/shot.h"
#include "core/synthesis/planned_frames.h"
#include "support/drawn_shot.h"

#include <QTest>

#include <random>
#include <set>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr std::int64_t frames = 1000;

/// A thousand frames at a quarter of the speed.
Timing quarter() {
    return {.sourceRate = Rate(24, 1),
            .outputRate = Rate(24, 1),
            .from = 0,
            .to = frames - 1,
            .speed = Rational(1, 4)};
}

std::shared_ptr<DrawnShot> drawn() {
    return std::make_shared<DrawnShot>(
        frames, [](std::int64_t) { return Image(32, 32, {.model = ColourModel::grey, .depth = 8}); });
}

std::vector<std::string> keysOf(const std::shared_ptr<DrawnShot>& shot, const SettingsInForce& settings) {
    const auto plan = std::make_shared<const FramePlan>(makePlan(quarter(), settings, frames));
    const PlannedFrames made(plan, FrameMaker(shot, std::make_shared<VectorStore>(), plan->settings));
    std::vector<std::string> keys;
    for (std::int64_t n = 0; n < made.count(); ++n)
        keys.push_back(made.key(n));
    return keys;
}

/// Output frames whose key is another.
std::vector<std::int64_t> stale(const std::vector<std::string>& before,
                                const std::vector<std::string>& after) {
    std::vector<std::int64_t> out;
    for (std::size_t n = 0; n < before.size(); ++n)
        if (before[n] != after[n]) out.push_back(static_cast<std::int64_t>(n));
    return out;
}

} // namespace

class TestSettingsInForce : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void eachGapHasTheSettingsLastPutThere() {
        std::mt19937 random(5);
        const auto below = [&random](int n) { return static_cast<std::int64_t>(random() % n); };
        for (int round = 0; round < 200; ++round) {
            SettingsInForce settings({Method::flow});
            std::vector<int> trust(60, 0);
            for (int edit = 0; edit < 12; ++edit) {
                const std::int64_t first = below(60);
                const std::int64_t last = std::min<std::int64_t>(59, first + below(20));
                GapSettings one{Method::flow};
                one.inBetweens.synthesis.trustLimit = static_cast<int>(below(4));
                settings.put(first, last, one);
                for (std::int64_t gap = first; gap <= last; ++gap)
                    trust[static_cast<std::size_t>(gap)] = one.inBetweens.synthesis.trustLimit;
            }
            for (std::size_t gap = 0; gap < trust.size(); ++gap)
                QCOMPARE(settings.at(static_cast<std::int64_t>(gap)).inBetweens.synthesis.trustLimit,
                         trust[gap]);
            QCOMPARE(settings.at(60).inBetweens.synthesis.trustLimit, 0);
            QVERIFY(settings.table().size() <= 4); // each only once
        }
    }

    void methodsAreReadAsTheyAreWritten() {
        for (const MethodNames& names : allMethods) {
            QVERIFY(parseMethod(keyOf(names.method)) == names.method);
            QVERIFY(!name(names.method).empty());
        }
        try {
            parseMethod("magic");
            QFAIL("there is no such method");
        } catch (const Error& error) {
            QVERIFY(std::string(error.what()).ends_with("Use sample, blend or flow."));
        }
    }

    void rowsNameTheSettingsInForce() {
        SettingsInForce settings({Method::flow});
        GapSettings stiff{Method::flow};
        stiff.inBetweens.flow.stiffness = 80;
        GapSettings shown{Method::flow};
        shown.inBetweens.synthesis.bridgeRepeats = false;
        settings.put(10, 11, stiff);
        settings.put(20, 20, shown);
        Treatment treatment(settings, {.cuts = {}, .repeats = {15, 20, 21}, .shakes = {}});
        const FramePlan plan = makePlan(quarter(), treatment, frames);
        const auto rowIn = [&](std::int64_t gap) { return plan.rows[static_cast<std::size_t>(4 * gap + 2)]; };
        const auto settingsIn = [&](std::int64_t gap) { return plan.settings.at(rowIn(gap).settings); };
        QVERIFY(settingsIn(9) == GapSettings{Method::flow});
        QCOMPARE(settingsIn(10).inBetweens.flow.stiffness, 80);
        QCOMPARE(settingsIn(11).inBetweens.flow.stiffness, 80);
        QVERIFY(settingsIn(12) == GapSettings{Method::flow});
        // Repeats are passed over where the settings in force say so.
        QVERIFY(rowIn(14).bridged);
        QVERIFY(!rowIn(20).bridged);
        QCOMPARE(rowIn(20).first, std::int64_t{20});
    }

    void aChangeInOneGapLeavesTheOthers() {
        const auto shot = drawn();
        SettingsInForce settings({Method::flow});
        const auto before = keysOf(shot, settings);
        QCOMPARE(before.size(), std::size_t{4000});

        SettingsInForce blended = settings;
        blended.put(500, 500, {Method::blend});
        QCOMPARE(stale(before, keysOf(shot, blended)), (std::vector<std::int64_t>{2001, 2002, 2003}));

        GapSettings stiff{Method::flow};
        stiff.inBetweens.flow.stiffness = 80;
        SettingsInForce stiffened = settings;
        stiffened.put(500, 500, stiff);
        QCOMPARE(stale(before, keysOf(shot, stiffened)), (std::vector<std::int64_t>{2001, 2002, 2003}));

        // A guide says something of its own gap alone, wherever it is in force.
        GapSettings guided{Method::flow};
        guided.inBetweens.guide = Guide{500, 501, {{{1, 2}, {3, 4}}}};
        QCOMPARE(stale(before, keysOf(shot, SettingsInForce(guided))),
                 (std::vector<std::int64_t>{2001, 2002, 2003}));
    }

    void anotherPictureOfOneFrameLeavesWhatDoesNotSeeIt() {
        const auto shot = drawn();
        const auto before = keysOf(shot, {{Method::flow}});
        shot->otherPicture = 500;
        const auto after = stale(before, keysOf(shot, {{Method::flow}}));
        // Itself, the gaps at its sides, and those next to them, whose paths it tells to bend.
        std::vector<std::int64_t> expected;
        for (std::int64_t output = 4 * 498; output < 4 * 502; ++output)
            if (output % 4 != 0 || output == 4 * 500) expected.push_back(output);
        QCOMPARE(after, expected);
    }

    void everySettingChangesTheKeyOfAFlowFrame() {
        const auto shot = drawn();
        std::set<std::string> keys{keysOf(shot, {{Method::flow}})[2]};
        const std::vector<std::function<void(InBetweens&)>> changes{
            [](InBetweens& s) { s.flow.quality = FlowQuality::thorough; },
            [](InBetweens& s) { s.flow.stiffness = 41; },
            [](InBetweens& s) { s.flow.analyseOn = AnalyseOn::edges; },
            [](InBetweens& s) {
                s.flow.guide = {{{1, 2}, {3, 4}}};
                s.guide = Guide{0, 1, s.flow.guide};
            },
            [](InBetweens& s) { s.synthesis.inFront = InFront::slower; },
            [](InBetweens& s) { s.synthesis.sides = Sides::before; },
            [](InBetweens& s) { s.synthesis.trustLimit = 1; },
            [](InBetweens& s) { s.synthesis.standIn = StandIn::side; },
            [](InBetweens& s) { s.synthesis.evenTexture = true; },
            [](InBetweens& s) { s.synthesis.bridgeRepeats = false; },
            [](InBetweens& s) { s.synthesis.bendPaths = false; },
            [](InBetweens& s) { s.synthesis.keepGrain = true; },
            [](InBetweens& s) { s.synthesis.linearLight = true; },
            [](InBetweens& s) { s.synthesis.shutterAngle = 90; }};
        // A field more in either would make them larger: it must be added to keyOf() and here.
        QCOMPARE(sizeof(SynthesisOptions), std::size_t{28});
        QCOMPARE(sizeof(FlowOptions), std::size_t{16} + sizeof(std::vector<GuidePair>));
        for (const auto& change : changes) {
            GapSettings settings{Method::flow};
            change(settings.inBetweens);
            QVERIFY(keys.insert(keysOf(shot, {settings})[2]).second);
            InBetweens changed;
            change(changed);
            QVERIFY(keyOf(changed.flow) + keyOf(changed.synthesis) !=
                    keyOf(FlowOptions()) + keyOf(SynthesisOptions()));
        }
    }
};

QTEST_APPLESS_MAIN(TestSettingsInForce)
#include "test_settings_in_force.moc"
