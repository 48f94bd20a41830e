// Edits come in and go back frame for frame.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over <span>
#include "core/edit/edit_list.h"
#include "core/edit/hand_back.h"
#include "core/edit/open_edit.h"
#include "core/error.h"
#include "core/files/new_file.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/render/render_job.h"
#include "core/time/timecode.h"
#endif
#include "support/clips.h"
#include "support/file_bytes.h"

#include <QDir>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>

#include <random>

using namespace yarngap;
using namespace yarngap::test;
namespace fs = std::filesystem;

namespace {

constexpr int frames = 100;

/// A picture that tells its number: 16 blocks, black or white, for its bits.
Image numbered(int number) {
    Image image(64, 16, {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1});
    for (int y = 0; y < 16; ++y) {
        const auto row = image.row<std::uint8_t>(0, y);
        for (int x = 0; x < 64; ++x)
            row[static_cast<std::size_t>(x)] = (number >> (x / 4) & 1) != 0 ? 200 : 40;
    }
    for (const int p : {1, 2})
        for (int y = 0; y < 8; ++y)
            std::ranges::fill(image.row<std::uint8_t>(p, y), std::uint8_t{128});
    return image;
}

int numberIn(const Image& image) {
    int number = 0;
    const std::span<const std::uint8_t> row = image.row<std::uint8_t>(0, 8);
    for (std::size_t bit = 0; bit < 16; ++bit)
        if (row[bit * 4 + 2] > 120) number |= 1 << bit;
    return number;
}

} // namespace

class TestEditLists : public QObject {
    Q_OBJECT

    Clips clips_;
    KnownMedia known_;

    [[nodiscard]] fs::path path(const QString& name) const { return clips_.path(name).toStdString(); }

    /// Frames `base` to `base` + 99, from timecode `start` on.
    fs::path film(const QString& name, int base, const std::string& start) const {
        fs::path file = path(name);
        fs::create_directories(file.parent_path());
        WriterOptions options{.target = file,
                              .format = OutputFormat::ffv1Mkv,
                              .rate = Rate(24, 1),
                              .width = 64,
                              .height = 16,
                              .layout = {.depth = 8, .chromaShiftX = 1, .chromaShiftY = 1}};
        options.timecode = start;
        const auto writer = openWriter(options);
        for (int n = 0; n < frames; ++n)
            writer->write(numbered(base + n));
        writer->finish();
        return file;
    }

    /// Numbers of the frames that each record frame of the shots shows; sampled, so that each is an original.
    std::map<std::int64_t, int> shown(const std::vector<Shot>& shots) {
        std::map<std::int64_t, int> at;
        for (Shot shot : shots) {
            shot.method = Method::sample;
            const auto index = known_.index(shot.media);
            const Footage footage = footageOf(index, shot.interpretation, std::size_t{8} << 20);
            const ReadyShot ready =
                readyShot(shot, footage, {}, {.vectors = std::make_shared<VectorStore>()});
            const std::int64_t length = shot.edit->recordOut - shot.edit->recordIn;
            for (std::int64_t n = 0; n < std::min(length, ready.frames->count()); ++n)
                at[shot.edit->recordIn + n] = numberIn(*ready.frames->make(n).image);
        }
        return at;
    }

    void render(const HandedBack& back) {
        const WorkMeans means{.vectors = std::make_shared<VectorStore>(),
                              .known = std::make_shared<KnownMedia>()};
        for (RenderWork work : back.works) {
            for (WorkShot& of : work.shots) {
                of.shot.method = Method::sample;
                of.found = GapFindings{};
            }
            const RenderWork ready = prepared(work, means, {});
            const auto parts = partsOf(ready, means, {});
            RenderJob(parts, optionsOf(ready, parts)).run();
        }
    }

    OpenedEdit opened(const std::string& edl, const QString& folder) {
        const fs::path list = path(QStringLiteral("list.edl"));
        writeWhole(list, edl);
        return openEdit(loadEdit(list, Rate(24, 1)), list, MediaFinder({path(folder)}), known_);
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        film(QStringLiteral("media/day/heron.mkv"), 1000, "10:00:00:00");
        film(QStringLiteral("media/night/fox.mkv"), 2000, "");
    }

    void anEdlBecomesShots() {
        const OpenedEdit edit =
            opened("TITLE: AUTUMN\nFCM: NON-DROP FRAME\n\n"
                   "001  A001     V     C        10:00:01:00 10:00:02:00 01:00:00:00 01:00:01:00\n"
                   "* FROM CLIP NAME: heron.mkv\n"
                   "002  A001     V     C        10:00:02:00 10:00:02:12 01:00:01:00 01:00:02:00\n"
                   "M2   A001       012.0                10:00:02:00\n"
                   "* FROM CLIP NAME: HERON.MKV\n"
                   "003  FOX      V     C        00:00:01:00 00:00:01:01 01:00:02:00 01:00:03:00\n"
                   "M2   FOX        000.0                00:00:01:00\n"
                   "* FROM CLIP NAME: fox.mkv\n"
                   "004  FOX      V     C        00:00:00:12 00:00:01:12 01:00:03:00 01:00:04:00\n"
                   "M2   FOX       -024.0                00:00:00:12\n"
                   "* FROM CLIP NAME: fox\n",
                   QStringLiteral("media"));
        for (const std::string& problem : edit.problems)
            QFAIL(problem.c_str());
        QCOMPARE(edit.shots.size(), std::size_t{4});
        QCOMPARE(edit.shots[0].from, std::optional<std::int64_t>(24));
        QCOMPARE(edit.shots[0].to, std::optional<std::int64_t>(47));
        QCOMPARE(edit.shots[0].edit->recordIn, std::int64_t{86400});
        QCOMPARE(edit.shots[0].edit->title, std::string("AUTUMN"));
        QCOMPARE(edit.shots[1].speed, Rational(1, 2));
        const auto at = shown(edit.shots);
        QCOMPARE(at.size(), std::size_t{96});
        for (int n = 0; n < 24; ++n) {
            QCOMPARE(at.at(86400 + n), 1024 + n);
            QCOMPARE(at.at(86448 + n), 2024);     // stands
            QCOMPARE(at.at(86472 + n), 2035 - n); // backwards
        }
        for (int n = 0; n < 24; n += 2)
            QCOMPARE(at.at(86424 + n), 1048 + n / 2);
    }

    void whatIsWrongIsToldByEventAndTheRestIsOpened() {
        const OpenedEdit edit =
            opened("TITLE: T\n"
                   "001  A001     V     C        10:00:01:00 10:00:02:00 01:00:00:00\n"
                   "002  A001     V     C        10:00:01:00 10:00:02:00 01:00:01:00 01:00:00:00\n"
                   "003  A001     V     D    012 10:00:01:00 10:00:02:00 01:00:01:00 01:00:02:00\n"
                   "* FROM CLIP NAME: heron.mkv\n"
                   "004  GULL     V     C        10:00:01:00 10:00:02:00 01:00:02:00 01:00:03:00\n"
                   "* FROM CLIP NAME: gull.mkv\n"
                   "005  A001     V     C        10:00:04:00 10:00:09:00 01:00:03:00 01:00:08:00\n"
                   "* FROM CLIP NAME: heron.mkv\n"
                   "006  A001     A     C        10:00:04:00 10:00:09:00 01:00:03:00 01:00:08:00\n"
                   "007  A001     V     C        10:00:61:00 10:00:02:99 01:00:08:00 01:00:09:00\n"
                   "* FROM CLIP NAME: heron.mkv\n",
                   QStringLiteral("media"));
        QCOMPARE(edit.shots.size(), std::size_t{1});
        const auto told = [&](const char* words) {
            return std::ranges::any_of(
                edit.problems, [&](const std::string& p) { return p.find(words) != std::string::npos; });
        };
        QVERIFY(told("Event 1, line 2: an event has number"));
        QVERIFY(told("Event 2, line 3: it ends before it begins"));
        QVERIFY(told("Event 3, line 4: its transition \"D\" is left out"));
        QVERIFY(told("Event 4 (gull.mkv): its media is not in the folders given"));
        QVERIFY(told("Event 5 (heron.mkv): it needs source frames 96 to 215, and the file has 0 to 99"));
        QVERIFY(told("Event 7 (heron.mkv): its source timecode"));
        QCOMPARE(edit.problems.size(), std::size_t{6});
        QVERIFY_THROWS_EXCEPTION(Error, editFromEdl("a letter to the editor", Rate(24, 1)));
    }

    void dropFrameMixedWithNonDropIsTold() {
        const EditList list = editFromEdl("FCM: DROP FRAME\n"
                                          "001  A V C 00:00:00;00 00:00:01;00 01:00:00;00 01:00:01;00\n"
                                          "FCM: NON-DROP FRAME\n"
                                          "002  A V C 00:00:00:00 00:00:01:00 01:00:01:00 01:00:02:00\n",
                                          Rate(30000, 1001));
        QCOMPARE(list.problems.size(), std::size_t{1});
        QVERIFY(list.problems[0].find("drop-frame and non-drop") != std::string::npos);
        QCOMPARE(list.events[0].recordIn, std::int64_t{107892});
        QCOMPARE(list.events[1].recordIn, std::int64_t{108030});
    }

    void oneOfTwoFilesOfANameIsTakenByItsTimecode() {
        film(QStringLiteral("twice/a/owl.mkv"), 3000, "10:00:00:00");
        film(QStringLiteral("twice/b/owl.mkv"), 4000, "11:00:00:00");
        const std::string begin = "001  OWL      V     C        ";
        const std::string end = " 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: owl.mkv\n";
        const OpenedEdit second = opened(begin + "11:00:01:00 11:00:02:00" + end, QStringLiteral("twice"));
        QCOMPARE(second.shots.size(), std::size_t{1});
        QCOMPARE(shown(second.shots).at(86400), 4024);
        const OpenedEdit neither = opened(begin + "12:00:01:00 12:00:02:00" + end, QStringLiteral("twice"));
        QVERIFY(neither.shots.empty());
        QVERIFY(neither.problems.at(0).find("none of the files") != std::string::npos);
    }

    void aTimelineBecomesShots() {
        const char* otio = R"({"OTIO_SCHEMA": "Timeline.1", "name": "evening",
          "global_start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 86400},
          "tracks": {"OTIO_SCHEMA": "Stack.1", "children": [
            {"OTIO_SCHEMA": "Track.1", "kind": "Video", "name": "V1", "children": [
              {"OTIO_SCHEMA": "Clip.2", "name": "heron", "active_media_reference_key": "DEFAULT_MEDIA",
               "metadata": {"colour": "teal"}, "media_references": {"DEFAULT_MEDIA":
                {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "day/heron.mkv", "available_range":
                 {"OTIO_SCHEMA": "TimeRange.1",
                  "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 864000},
                  "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 100}}}},
               "source_range": {"OTIO_SCHEMA": "TimeRange.1",
                "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 864010},
                "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 20}}},
              {"OTIO_SCHEMA": "Gap.1", "source_range": {"OTIO_SCHEMA": "TimeRange.1",
                "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 0},
                "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 10}}},
              {"OTIO_SCHEMA": "Clip.1", "name": "fox", "media_reference":
                {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "fox.mkv"},
               "effects": [{"OTIO_SCHEMA": "LinearTimeWarp.1", "time_scalar": 2.0}, {"OTIO_SCHEMA": "Effect.1", "name": "glow"}],
               "source_range": {"OTIO_SCHEMA": "TimeRange.1",
                "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 8},
                "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 12}}},
              {"OTIO_SCHEMA": "Stack.1", "name": "inner", "source_range": {"OTIO_SCHEMA": "TimeRange.1",
                "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 0},
                "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24, "value": 5}}}]},
            {"OTIO_SCHEMA": "Track.1", "kind": "Audio", "children": []}]}})";
        const fs::path list = path(QStringLiteral("evening.otio"));
        writeWhole(list, otio);
        const OpenedEdit edit =
            openEdit(loadEdit(list, Rate(25, 1)), list, MediaFinder({path(QStringLiteral("media"))}), known_);
        QCOMPARE(edit.problems.size(), std::size_t{1});
        QVERIFY(edit.problems[0].find("\"inner\" is a nested timeline") != std::string::npos);
        const auto at = shown(edit.shots);
        QCOMPARE(at.size(), std::size_t{32});
        for (int n = 0; n < 20; ++n)
            QCOMPARE(at.at(86400 + n), 1010 + n);
        for (int n = 0; n < 12; ++n)
            QCOMPARE(at.at(86430 + n), 2008 + 2 * n);
        // Handed back: what is not ours stays, the time warp is gone, other effects are not.
        HandBackOptions options{
            .pattern = path(QStringLiteral("back/{shot}.mkv")).string(), .handles = 4, .settings = {}};
        fs::create_directories(path(QStringLiteral("back")));
        const HandedBack back = handBack(edit.shots, options, known_);
        render(back);
        // The list is found again by itself; for an EDL the same events are told otherwise.
        const std::string returned = returnedList(back, "returned.otio");
        QCOMPARE(back.original, list);
        QVERIFY(returned == otioWithEvents(otio, back.list));
        QVERIFY(returnedList(back, "returned.edl") == edlText(back.list));
        const QJsonObject root = QJsonDocument::fromJson(QByteArray::fromStdString(returned)).object();
        const QJsonArray children = root[QLatin1String("tracks")]
                                        .toObject()[QLatin1String("children")]
                                        .toArray()[0]
                                        .toObject()[QLatin1String("children")]
                                        .toArray();
        QCOMPARE(
            children[0].toObject()[QLatin1String("metadata")].toObject()[QLatin1String("colour")].toString(),
            QStringLiteral("teal"));
        const QJsonArray effects = children[2].toObject()[QLatin1String("effects")].toArray();
        QCOMPARE(effects.size(), 1);
        QCOMPARE(effects[0].toObject()[QLatin1String("name")].toString(), QStringLiteral("glow"));
        const fs::path second = path(QStringLiteral("returned.otio"));
        writeWhole(second, returned);
        const OpenedEdit again = openEdit(loadEdit(second, Rate(24, 1)), second,
                                          MediaFinder({path(QStringLiteral("back"))}), known_);
        QCOMPARE(again.problems.size(), std::size_t{1});
        QVERIFY(shown(again.shots) == at);
    }

    void damagedTimelinesAreRefused() {
        const char* oddClip = R"({"OTIO_SCHEMA": "Timeline.1", "tracks": {"children": [
                                 {"OTIO_SCHEMA": "Track.1", "children": [{"OTIO_SCHEMA": 7}]}]}})";
        for (const char* text :
             {"", "[]", R"({"OTIO_SCHEMA": "Clip.1"})", R"({"OTIO_SCHEMA": "Timeline.1"})", oddClip})
            QVERIFY_THROWS_EXCEPTION(Error, editFromOtio(text));
    }

    void wholeEditsComeBackFrameForFrame_data() {
        QTest::addColumn<int>("seed");
        QTest::addColumn<QString>("ending");
        for (int seed = 1; seed <= 6; ++seed)
            QTest::addRow("edit %d", seed)
                << seed << (seed % 2 == 0 ? QStringLiteral("edl") : QStringLiteral("otio"));
    }
    /// Edits drawn by lot: trims, speeds, freezes, reverses, gaps. After rendering and reading the returned
    /// list the same pictures lie at the same record frames.
    void wholeEditsComeBackFrameForFrame() {
        QFETCH(int, seed);
        QFETCH(QString, ending);
        std::mt19937 lot(static_cast<unsigned>(seed));
        const auto draw = [&](int least, int most) {
            return std::uniform_int_distribution(least, most)(lot);
        };
        EditList list{.title = "LOT", .rate = Rate(24, 1), .dropFrame = false, .events = {}, .problems = {}};
        const Timecode clock(Rate(24, 1));
        std::int64_t record = 86400;
        for (int i = 0; i < 8; ++i) {
            EditEvent event{.number = i + 1};
            const bool heron = draw(0, 1) == 0;
            event.clip = heron ? "heron.mkv" : "fox.mkv";
            event.reel = heron ? "HERON" : "FOX";
            const int length = draw(6, 30);
            const int kind = draw(0, 4); // 100 %, 50 %, 200 %, freeze, reverse
            const int used = kind == 1 ? (length + 1) / 2 : kind == 2 ? length * 2 : kind == 3 ? 1 : length;
            const std::int64_t in = draw(0, frames - used - 1);
            const std::int64_t start = heron ? *clock.parse("10:00:00:00") : 0;
            event.sourceIn = clock.format(start + in);
            event.sourceOut = clock.format(start + in + used);
            if (kind != 0)
                event.framesPerSecond = kind == 1   ? Rational(12)
                                        : kind == 2 ? Rational(48)
                                        : kind == 3 ? Rational(0)
                                                    : Rational(-24);
            record += draw(0, 3) == 0 ? draw(1, 20) : 0;
            event.recordIn = record;
            event.recordOut = record += length;
            list.events.push_back(event);
        }
        const OpenedEdit edit = opened(edlText(list), QStringLiteral("media"));
        for (const std::string& problem : edit.problems)
            QFAIL(problem.c_str());
        QCOMPARE(edit.shots.size(), list.events.size());
        const auto before = shown(edit.shots);
        const QString folder = QStringLiteral("lot%1").arg(seed);
        fs::create_directories(path(folder));
        const HandedBack back = handBack(
            edit.shots,
            {.pattern = (path(folder) / "{shot}_{speed}.mkv").string(), .handles = 8, .settings = {}},
            known_);
        render(back);
        const fs::path returned = path(folder + QStringLiteral("/back.") + ending);
        writeWhole(returned, ending == QStringLiteral("edl") ? edlText(back.list) : otioText(back.list));
        const OpenedEdit again =
            openEdit(loadEdit(returned, Rate(24, 1)), returned, MediaFinder({path(folder)}), known_);
        for (const std::string& problem : again.problems)
            QFAIL(problem.c_str());
        for (const Shot& shot : again.shots) {
            QCOMPARE(shot.speed, Rational(1));
            QVERIFY(shot.keys.empty());
        }
        const auto after = shown(again.shots);
        QCOMPARE(after.size(), before.size());
        for (const auto& [frame, number] : before)
            QVERIFY2(
                after.at(frame) == number,
                qPrintable(
                    QStringLiteral("record %1: %2, not %3").arg(frame).arg(after.at(frame)).arg(number)));
    }

    void twoEventsOfOneClipGetFilesOfTheirOwn() {
        const OpenedEdit edit = opened(
            "TITLE: T\n"
            "001  A V C 10:00:00:10 10:00:00:20 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: heron.mkv\n"
            "002  A V C 10:00:01:10 10:00:01:20 01:00:00:10 01:00:00:20\n* FROM CLIP NAME: heron.mkv\n",
            QStringLiteral("media"));
        QCOMPARE(edit.shots[0].name, std::string("heron_001")); // which tells them apart in the window too
        const HandedBack own = handBack(
            edit.shots,
            {.pattern = path(QStringLiteral("{shot}.mkv")).string(), .handles = 2, .settings = {}}, known_);
        QCOMPARE(own.list.events[0].clip, std::string("heron_001.mkv"));
        QCOMPARE(own.list.events[1].clip, std::string("heron_002.mkv"));
        const HandedBack back = handBack(edit.shots,
                                         {.pattern = path(QStringLiteral("heron.mkv")).string(),
                                          .handles = 2,
                                          .settings = {},
                                          .taken = {path(QStringLiteral("heron.mkv"))}},
                                         known_);
        QCOMPARE(back.list.events[0].clip, std::string("heron_2.mkv")); // the first name is another's
        QCOMPARE(back.list.events[1].clip, std::string("heron_3.mkv"));
    }

    void aListThatComesAgainKeepsTreatments() {
        const std::string first =
            "TITLE: T\n001  A V C 10:00:01:00 10:00:02:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: "
            "heron.mkv\n"
            "002  B V C 00:00:01:00 00:00:02:00 01:00:01:00 01:00:02:00\n* FROM CLIP NAME: fox.mkv\n";
        const std::string second =
            "TITLE: T\n001  B V C 00:00:01:00 00:00:02:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: "
            "fox.mkv\n"
            "002  A V C 10:00:00:20 10:00:02:04 01:00:01:00 01:00:02:08\n* FROM CLIP NAME: heron.mkv\n"
            "003  A V C 10:00:03:00 10:00:03:12 01:00:02:08 01:00:02:20\n* FROM CLIP NAME: heron.mkv\n";
        std::vector<Shot> before = opened(first, QStringLiteral("media")).shots;
        QCOMPARE(before.size(), std::size_t{2});
        before[0].inBetweens.flow.stiffness = 70;
        before[1].method = Method::blend;
        const OpenedEdit now = withTreatment(opened(second, QStringLiteral("media")), before);
        QCOMPARE(now.shots.size(), std::size_t{3});
        QCOMPARE(now.shots[0].method, Method::blend);
        QCOMPARE(now.shots[0].edit->recordIn, std::int64_t{86400});
        QCOMPARE(now.shots[1].inBetweens.flow.stiffness, 70);
        QCOMPARE(now.shots[1].from, std::optional<std::int64_t>(20));
        QCOMPARE(now.problems.size(), std::size_t{2}); // a trim, and a new one
        QVERIFY(now.problems[0].find("its trim changed") != std::string::npos);
        QVERIFY(now.problems[1].find("it is new") != std::string::npos);
        const OpenedEdit shorter = withTreatment(opened(first, QStringLiteral("media")), now.shots);
        QVERIFY(std::ranges::any_of(shorter.problems, [](const std::string& p) {
            return p.find("not in the list any more") != std::string::npos;
        }));
    }

    void whatCannotGoBackIsSaid() {
        Shot loose = shotOf(path(QStringLiteral("media/day/heron.mkv")));
        QVERIFY_THROWS_EXCEPTION(Error, handBack({loose}, {}, known_));
        std::vector<Shot> shots = opened("TITLE: T\n001  A V C 10:00:01:00 10:00:02:00 01:00:00:00 "
                                         "01:00:01:00\n* FROM CLIP NAME: heron.mkv\n",
                                         QStringLiteral("media"))
                                      .shots;
        shots.push_back(loose);
        const HandedBack back = handBack(shots, {}, known_);
        QCOMPARE(back.works.size(), std::size_t{1});
        QVERIFY(back.notes.at(0).find("came from no edit") != std::string::npos);
        // Shorter than its place, by an edit of its speed: the handle steps in, or it is refused.
        shots[0].speed = 2;
        shots.pop_back();
        const HandedBack sped = handBack(shots, {}, known_);
        QVERIFY(sped.notes.at(0).find("what is missing comes from its handle") != std::string::npos);
        shots[0].speed = 100;
        shots[0].from = 90;
        shots[0].to = std::nullopt;
        QVERIFY_THROWS_EXCEPTION(Error, handBack(shots, {}, known_));
    }
};

QTEST_MAIN(TestEditLists)
#include "test_edit_lists.moc"
