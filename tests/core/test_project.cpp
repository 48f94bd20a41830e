// Project files: round trip, unknown fields kept, hostile content refused.

#include "core/error.h"
#include "core/project/project.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTest>

using namespace yarngap;

namespace {

void write(const QString& path, const QByteArray& bytes) {
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(bytes);
}

QByteArray read(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

} // namespace

class TestProject : public QObject {
    Q_OBJECT

    QTemporaryDir dir_;

    QString refusal(const QByteArray& content) {
        const QString path = dir_.filePath(QStringLiteral("bad.yarngap"));
        write(path, content);
        try {
            loadProject(path.toStdString());
        } catch (const Error& error) {
            return QString::fromUtf8(error.what());
        }
        return {};
    }

  private Q_SLOTS:
    void aProjectComesBackAsItWas() {
        Project project;
        project.name = "Saltmarsh autumn film";
        Shot shot = shotOf(dir_.filePath(QStringLiteral("shots/heron.mkv")).toStdString());
        shot.from = 12;
        shot.to = 107;
        shot.speed = Rational(1, 3);
        shot.outputRate = Rate(24000, 1001);
        shot.method = Method::blend;
        shot.methodStretches = {{14, 20, Method::flow}, {30, 30, Method::sample}};
        shot.keys =
            withRamp({{0, 12, Segment::constant, std::nullopt}, {96, 108, Segment::constant, std::nullopt}},
                     {.from = 40, .to = 60, .step = Rational(1, 3), .ease = 5});
        shot.keys.front().speed = Rational(7, 3);
        shot.inBetweens = {
            .flow = {.quality = FlowQuality::thorough, .stiffness = 75, .analyseOn = AnalyseOn::edges},
            .finalQuality = FlowQuality::draft,
            .synthesis = {.inFront = InFront::slower,
                          .sides = Sides::after,
                          .trustLimit = 35,
                          .standIn = StandIn::side,
                          .evenTexture = true,
                          .keepGrain = true,
                          .linearLight = true,
                          .shutterAngle = 180}};
        shot.inBetweens.synthesis.bridgeRepeats = false;
        shot.inBetweens.synthesis.bendPaths = false;
        shot.takes = {{"Loose", Method::flow, shot.inBetweens}, {"Plain", Method::blend, {}}};
        shot.matte = {.keys = {{3, {{1.5, 2}, {30, 2}, {30, 40.25}}}, {9, {{4, 2}, {33, 2}, {33, 44}}}},
                      .feather = 12,
                      .onTop = false};
        shot.interpretation.rate = Rate(25, 1);
        shot.interpretation.fields = FieldUse::removePulldown;
        shot.interpretation.topFirst = false;
        shot.interpretation.pulldown = {{0, 47, PulldownRun::Kind::pulldown32, false, 3},
                                        {48, 60, PulldownRun::Kind::pulldown2332, true, 0},
                                        {61, 70, PulldownRun::Kind::fields, true, 0}};
        shot.interpretation.evenTimes = true;
        shot.interpretation.pixelAspect = Rational(10, 11);
        shot.interpretation.fullRange = true;
        shot.interpretation.matrix = 9;
        shot.interpretation.rotation = 270;
        project.shots = {shot, shotOf("/elsewhere/fox.mp4")};
        const auto file = dir_.filePath(QStringLiteral("film.yarngap"));
        saveProject(project, file.toStdString());
        QVERIFY(loadProject(file.toStdString()) == project);
        QVERIFY(read(file).contains("\"shots/heron.mkv\"")); // relative, so that the folder can move
    }

    void earlierFilesKeepTheirQualityAndWrongSettingsAreRefused() {
        const QString file = dir_.filePath(QStringLiteral("settings.yarngap"));
        const auto with = [&](const QByteArray& fields) {
            write(file, R"({"yarngap":1,"shots":[{"media":"a.mkv",)" + fields + "}]}");
            return loadProject(file.toStdString()).shots.front().inBetweens;
        };
        QVERIFY(with(R"("quality":"draft")").flow.quality == FlowQuality::draft);
        QCOMPARE(with(R"("inBetweens":{"stiffness":7})").flow.stiffness, 7);
        for (
            const char* wrong :
            {R"("inBetweens":[])",
             R"("inBetweens":{"stiffness":101})",
             R"("inBetweens":{"stiffness":-1})",
             R"("inBetweens":{"stiffness":4.5})",
             R"("inBetweens":{"shutterAngle":99999999999})",
             R"("inBetweens":{"standIn":"none"})",
             R"("inBetweens":{"keepGrain":1})",
             R"("inBetweens":{"sides":3})",
             R"("inBetweens":{"bridgeRepeats":0})",
             R"("matte":[])",
             R"("takes":{})",
             R"("takes":[{"name":"A","method":"flow"}])",
             R"("takes":[{"name":"","method":"flow","inBetweens":{}}])",
             R"("takes":[{"name":"A","method":"none","inBetweens":{}}])",
             R"("matte":{"feather":-1})",
             R"("matte":{"pictures":7})",
             R"("matte":{"onTop":1})",
             R"("matte":{"keys":[{"frame":1,"points":[[0,0],[1,1]]}]})",
             R"("matte":{"keys":[{"frame":1,"points":[[0,0],[1,1],[0,"x"]]}]})",
             R"("matte":{"keys":[{"frame":2,"points":[[0,0],[1,1],[0,2]]},{"frame":1,"points":[[0,0],[1,1],[0,2]]}]})"})
            QVERIFY_THROWS_EXCEPTION(Error, with(wrong));
    }

    void unknownFieldsSurvive() {
        const QString file = dir_.filePath(QStringLiteral("future.yarngap"));
        write(
            file,
            R"({"yarngap":1,"name":"n","palette":{"a":[1,2]},"shots":[{"media":"x.mkv","speed":"1/2","lut":"warm"}]})");
        Project project = loadProject(file.toStdString());
        QCOMPARE(project.shots.at(0).speed, Rational(1, 2));
        project.shots.at(0).speed = Rational(1, 4);
        saveProject(project, file.toStdString());
        const QByteArray saved = read(file);
        QVERIFY(saved.contains("\"lut\": \"warm\""));
        QVERIFY(saved.contains("\"palette\""));
        QVERIFY(saved.contains("\"1/4\""));
    }

    void unknownFieldsSurviveAtEveryDepth() {
        const QString file = dir_.filePath(QStringLiteral("deep.yarngap"));
        write(file, R"({"yarngap":2,"shots":[{"media":"x.mkv",
            "inBetweens":{"stiffness":7,"later":{"a":1}},
            "interpretation":{"rotation":90,"later":2},
            "timeMap":[{"output":"0","position":"0","later":"first"},{"output":"10","position":"10"},
                       {"output":"40","position":"25","later":"last"}],
            "methodStretches":[{"from":3,"to":4,"method":"blend","later":3},{"from":6,"to":6,"method":"sample","later":4}],
            "takes":[{"name":"A","method":"flow","inBetweens":{"later":[5]},"later":6}],
            "matte":{"later":7,"keys":[{"frame":1,"points":[[0,0],[1,1],[0,2]],"later":8}]}}]})");
        Project project = loadProject(file.toStdString());
        const auto saved = [&] {
            saveProject(project, file.toStdString());
            Project back = loadProject(file.toStdString());
            back.shots[0].unknownFields =
                project.shots[0].unknownFields; // they tell of the entries as they were
            QVERIFY2(back == project, read(file).constData());
        };
        const auto shot = [&] {
            return QJsonDocument::fromJson(read(file))
                .object()[QStringLiteral("shots")]
                .toArray()[0]
                .toObject();
        };
        const QString later = QStringLiteral("later");
        const auto entry = [&](const char* list, int n) {
            return shot()[QLatin1String(list)].toArray()[n].toObject();
        };
        project.shots[0].inBetweens.flow.stiffness = 9;
        saved();
        QCOMPARE(
            shot()[QStringLiteral("inBetweens")].toObject()[later].toObject()[QStringLiteral("a")].toInt(),
            1);
        QCOMPARE(shot()[QStringLiteral("inBetweens")].toObject()[QStringLiteral("stiffness")].toInt(), 9);
        QCOMPARE(shot()[QStringLiteral("interpretation")].toObject()[later].toInt(), 2);
        QCOMPARE(entry("timeMap", 0)[later].toString(), QStringLiteral("first"));
        QVERIFY(!entry("timeMap", 1).contains(later));
        QCOMPARE(entry("methodStretches", 1)[later].toInt(), 4);
        QCOMPARE(entry("takes", 0)[later].toInt(), 6);
        QCOMPARE(entry("takes", 0)[QStringLiteral("inBetweens")].toObject()[later].toArray()[0].toInt(), 5);
        QCOMPARE(shot()[QStringLiteral("matte")].toObject()[later].toInt(), 7);
        QCOMPARE(shot()[QStringLiteral("matte")]
                     .toObject()[QStringLiteral("keys")]
                     .toArray()[0]
                     .toObject()[later]
                     .toInt(),
                 8);

        // An entry that goes takes its own along; the others keep theirs, wherever they come to lie.
        Shot& edited = project.shots[0];
        edited.keys.erase(edited.keys.begin() + 1);
        edited.methodStretches.erase(edited.methodStretches.begin());
        saved();
        QCOMPARE(entry("timeMap", 1)[later].toString(), QStringLiteral("last"));
        QCOMPARE(entry("methodStretches", 0)[later].toInt(), 4);
        QVERIFY(!read(file).contains("\"later\": 3"));

        // One that is changed keeps its own while the list is as long as it was.
        project = loadProject(file.toStdString());
        project.shots[0].keys[1].position = Rational(20);
        saved();
        QCOMPARE(entry("timeMap", 1)[later].toString(), QStringLiteral("last"));
        QCOMPARE(entry("timeMap", 1)[QStringLiteral("position")].toString(), QStringLiteral("20"));
    }

    void filesOfVersion1OpenAlike() {
        const QString file = dir_.filePath(QStringLiteral("one.yarngap"));
        // As version 1 wrote it.
        write(file, R"({
  "name": "Saltmarsh autumn film",
  "shots": [
    {
      "from": 12,
      "identity": "v2-7226759-5e0c1d7a90b3f244",
      "inBetweens": {"analyseOn": "edges", "bendPaths": false, "bridgeRepeats": false, "evenTexture": true,
        "finalQuality": "thorough", "inFront": "slower", "keepGrain": true, "linearLight": true,
        "quality": "draft", "shutterAngle": 180, "sides": "after", "standIn": "side", "stiffness": 75,
        "trustLimit": 35},
      "interpretation": {"evenTimes": true, "fields": "film", "matrix": 9, "order": "bottom",
        "pixelAspect": "10/11", "pulldown": [[0, 47, "3:2", "bottom", 3], [48, 60, "fields", "top", 0]],
        "range": "full", "rate": "25", "rotation": 270},
      "matte": {"feather": 12, "keys": [{"frame": 3, "points": [[1.5, 2.0], [30.0, 2.0], [30.0, 40.25]]}],
        "onTop": false},
      "media": "shots/heron.mkv",
      "method": "blend",
      "methodStretches": [{"from": 14, "method": "flow", "to": 20}, {"from": 30, "method": "sample", "to": 30}],
      "name": "heron_glide",
      "outputRate": "24000/1001",
      "speed": "1/3",
      "takes": [{"inBetweens": {"stiffness": 3}, "method": "flow", "name": "Loose"}],
      "timeMap": [{"output": "0", "position": "12", "speed": "7/3"},
        {"output": "40/3", "position": "20", "segment": "eased"}, {"output": "96", "position": "108"}],
      "to": 107
    },
    {"media": "fox.mkv", "name": "fox", "quality": "draft", "speed": "1"}
  ],
  "yarngap": 1
})");
        const Project project = loadProject(file.toStdString());
        QCOMPARE(project.name, std::string("Saltmarsh autumn film"));
        Shot shot = shotOf(dir_.filePath(QStringLiteral("shots/heron.mkv")).toStdString());
        shot.name = "heron_glide";
        shot.identity = "v2-7226759-5e0c1d7a90b3f244";
        shot.from = 12;
        shot.to = 107;
        shot.speed = Rational(1, 3);
        shot.outputRate = Rate(24000, 1001);
        shot.method = Method::blend;
        shot.methodStretches = {{14, 20, Method::flow}, {30, 30, Method::sample}};
        shot.keys = {{0, 12, Segment::constant, Rational(7, 3)},
                     {Rational(40, 3), 20, Segment::eased, std::nullopt},
                     {96, 108, Segment::constant, std::nullopt}};
        shot.inBetweens = {
            .flow = {.quality = FlowQuality::draft, .stiffness = 75, .analyseOn = AnalyseOn::edges},
            .finalQuality = FlowQuality::thorough,
            .synthesis = {.inFront = InFront::slower,
                          .sides = Sides::after,
                          .trustLimit = 35,
                          .standIn = StandIn::side,
                          .evenTexture = true,
                          .bridgeRepeats = false,
                          .bendPaths = false,
                          .keepGrain = true,
                          .linearLight = true,
                          .shutterAngle = 180}};
        shot.takes = {{"Loose", Method::flow, {}}};
        shot.takes[0].inBetweens.flow.stiffness = 3;
        shot.matte = {.keys = {{3, {{1.5, 2}, {30, 2}, {30, 40.25}}}}, .feather = 12, .onTop = false};
        shot.interpretation = {.rate = Rate(25, 1),
                               .fields = FieldUse::removePulldown,
                               .topFirst = false,
                               .pulldown = {{0, 47, PulldownRun::Kind::pulldown32, false, 3},
                                            {48, 60, PulldownRun::Kind::fields, true, 0}},
                               .evenTimes = true,
                               .pixelAspect = Rational(10, 11),
                               .fullRange = true,
                               .matrix = 9,
                               .rotation = 270};
        QVERIFY(project.shots.at(0) == shot);
        QVERIFY(project.shots.at(1).inBetweens.flow.quality == FlowQuality::draft);
        QVERIFY(project.shots.at(1).unknownFields.empty());
        saveProject(project, file.toStdString());
        QVERIFY(read(file).contains("\"yarngap\": 2"));
        QVERIFY(loadProject(file.toStdString()) == project);
    }

    void newerVersionsAreRefused() {
        QVERIFY(refusal(R"({"yarngap":3})").contains(QStringLiteral("newer version")));
    }

    void refusalsNameThePlace() {
        const auto of = [&](const char* shot) {
            return refusal(QByteArray(R"({"yarngap":2,"shots":[{"media":"a"},{"media":"b",)") + shot + "}]}");
        };
        QVERIFY2(of(R"("inBetweens":{"stiffness":101})")
                     .endsWith(QStringLiteral("bad.yarngap, shot 2: inBetweens: stiffness: This should be a "
                                              "whole number from 0 to 100. Restore it from a copy.")),
                 qPrintable(of(R"("inBetweens":{"stiffness":101})")));
        QVERIFY(of(R"("timeMap":[{"output":"0","position":"0"},{"output":"1"}])")
                    .contains(QStringLiteral("timeMap: entry 2: \"position\" is missing")));
    }

    void damagedAndHostileFilesAreRefused_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::newRow("empty") << QByteArray();
        QTest::newRow("no JSON") << QByteArray("hello");
        QTest::newRow("cut off") << QByteArray("{\"yarngap\":1,\"shots\":[{\"media\":\"x");
        QTest::newRow("other JSON") << QByteArray("[1,2,3]");
        QTest::newRow("no version") << QByteArray("{}");
        QTest::newRow("version of another kind") << QByteArray(R"({"yarngap":"1"})");
        for (const char* wrong :
             {R"("rate":"0")", R"("fields":"odd")", R"("order":1)", R"("pulldown":[[0,1,"3:2","top"]])",
              R"("pulldown":[[0,1,"3:2","top",7]])", R"("pulldown":[[-1,1,"3:2","top",0]])",
              R"("evenTimes":"yes")", R"("pixelAspect":"0")", R"("range":"wide")", R"("matrix":99)",
              R"("rotation":45)", R"("rotation":1e300)"})
            QTest::newRow(wrong) << QByteArray(
                                        R"({"yarngap":1,"shots":[{"media":"x.mkv","interpretation":{)") +
                                        wrong + "}}]}";
        QTest::newRow("shots of another kind") << QByteArray(R"({"yarngap":1,"shots":{"a":1}})");
        QTest::newRow("shot of another kind") << QByteArray(R"({"yarngap":1,"shots":[7]})");
        QTest::newRow("no media") << QByteArray(R"({"yarngap":1,"shots":[{}]})");
        QTest::newRow("media of another kind") << QByteArray(R"({"yarngap":1,"shots":[{"media":5}]})");
        QTest::newRow("media with a zero byte")
            << QByteArray(R"({"yarngap":1,"shots":[{"media":"a\u0000b"}]})");
        QTest::newRow("speed 0") << QByteArray(R"({"yarngap":1,"shots":[{"media":"a","speed":"0"}]})");
        QTest::newRow("speed without end")
            << QByteArray(R"({"yarngap":1,"shots":[{"media":"a","speed":"1/0"}]})");
        QTest::newRow("negative frame") << QByteArray(R"({"yarngap":1,"shots":[{"media":"a","from":-1}]})");
        QTest::newRow("huge frame") << QByteArray(R"({"yarngap":1,"shots":[{"media":"a","to":1e300}]})");
        QTest::newRow("method unknown")
            << QByteArray(R"({"yarngap":1,"shots":[{"media":"a","method":"magic"}]})");
        QTest::newRow("rate 0") << QByteArray(R"({"yarngap":1,"shots":[{"media":"a","outputRate":"0"}]})");
        QTest::newRow("nested without end") << QByteArray("{\"yarngap\":1,\"x\":") + QByteArray(100000, '[');
        QTest::newRow("nested, closed")
            << QByteArray("{\"yarngap\":1,\"x\":") + QByteArray(5000, '[') + QByteArray(5000, ']') + "}";
        QTest::newRow("not UTF-8") << QByteArray("{\"yarngap\":1,\"name\":\"\xff\xfe\"}");
    }
    void damagedAndHostileFilesAreRefused() {
        QFETCH(QByteArray, content);
        const QString sentence = refusal(content);
        QVERIFY(sentence.contains(QStringLiteral("bad.yarngap")));
        QVERIFY(sentence.contains(QLatin1String("copy")) || sentence.contains(QLatin1String("Use ")) ||
                sentence.contains(QLatin1String("Write ")) ||
                sentence.contains(QLatin1String("below the line")));
    }

    void trimsBeyondTheMediaAreKeptInside() {
        Shot shot = shotOf("x.mkv");
        shot.from = 500;
        shot.to = 900;
        const Timing t = shot.timing(Rate(24, 1), 100);
        QCOMPARE(t.from, 99);
        QCOMPARE(t.to, 99);
    }

    void aFailedSaveKeepsTheOldFile() {
        const QString file = dir_.filePath(QStringLiteral("nowhere/film.yarngap"));
        QVERIFY_THROWS_EXCEPTION(Error, saveProject({}, file.toStdString()));
        QVERIFY_THROWS_EXCEPTION(Error, loadProject(file.toStdString()));
    }
};

QTEST_APPLESS_MAIN(TestProject)
#include "test_project.moc"
