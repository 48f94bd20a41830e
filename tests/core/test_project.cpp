// Project files: round trip, unknown fields kept, hostile content refused.

#include "core/error.h"
#include "core/project/project.h"

#include <QFile>
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

    void newerVersionsAreRefused() {
        QVERIFY(refusal(R"({"yarngap":2})").contains(QStringLiteral("newer version")));
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
