// Every call that writes is made to fail in turn, until nothing is left to fail. Afterwards there is a
// sentence, the old file whole or the new one, and nothing lying about.

#include "support/clips.h"

#include <QDir>
#include <QDirIterator>
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QProcessEnvironment>
#include <QTest>

#include <algorithm>
#include <array>
#include <cerrno>
#include <map>
#include <sched.h>

using namespace yarngap::test;

namespace {

using Contents = std::map<QString, QByteArray>; // by name below a folder

Contents contentsOf(const QString& folder) {
    Contents contents;
    for (QDirIterator it(folder, QDir::Files | QDir::Hidden, QDirIterator::Subdirectories); it.hasNext();) {
        QFile file(it.next());
        if (!file.open(QIODevice::ReadOnly)) qFatal("%s cannot be read", qPrintable(file.fileName()));
        contents[QDir(folder).relativeFilePath(file.fileName())] = file.readAll();
    }
    return contents;
}

void fill(const QString& folder, const Contents& contents) {
    QDir(folder).removeRecursively();
    QDir().mkpath(folder);
    for (const auto& [name, bytes] : contents) {
        QFile file(QDir(folder).filePath(name));
        if (!file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size())
            qFatal("%s cannot be written", qPrintable(file.fileName()));
    }
}

/// Matroska files hold a random number, the time of day and sums over both.
bool isSame(const QByteArray& a, const QByteArray& b) {
    constexpr int random = 64;
    int different = 0;
    for (qsizetype i = 0; i < std::min(a.size(), b.size()); ++i)
        different += a[i] != b[i] ? 1 : 0;
    return a.size() == b.size() && different <= random;
}

bool isSame(const Contents& a, const Contents& b) {
    return a.size() == b.size() &&
           std::equal(a.begin(), a.end(), b.begin(), [](const auto& one, const auto& other) {
               return one.first == other.first && isSame(one.second, other.second);
           });
}

/// Each file is one of either: of work that writes files one by one.
bool isEachOf(const Contents& a, const Contents& one, const Contents& other) {
    return std::all_of(a.begin(), a.end(), [&](const auto& file) {
        const auto is = [&](const Contents& c) {
            const auto at = c.find(file.first);
            return at != c.end() && isSame(at->second, file.second);
        };
        return is(one) || is(other);
    });
}

bool hasStrays(const Contents& contents) {
    return std::any_of(contents.begin(), contents.end(),
                       [](const auto& file) { return file.first.contains(QStringLiteral("partial")); });
}

struct Outcome {
    int status = 0; // −2: crashed, −1: hung
    QString told;
    bool hit = false; // the fault happened
};

/// What is done, by a program of ours, to a folder.
struct Work {
    QString name;
    QString program;
    QStringList arguments;    // "OUT" stands for the folder
    Contents before = {};     // in the folder
    bool isOneByOne = false;  // each file for itself is whole or not there, not all together
    bool keepsParts = false;  // what failed goes on from parts beside the result
    bool isOnOneCore = false; // for H.264, which several cores do not always code alike: docs/reliability.md
};

const QString out = QStringLiteral("OUT");

QString program(bool isCli) {
    return isCli ? QStringLiteral(YARNGAP_CLI) : QStringLiteral(YARNGAP_FAULTS_ACTOR);
}

/// Each failure at each call takes ten minutes. Otherwise each call fails in one way, another one in each
/// work.
bool isThorough() {
    return qEnvironmentVariableIsSet("YARNGAP_ALL_FAULTS");
}

/// With sanitizers a program takes a second to start, so one work of a kind stands for all.
bool isTried([[maybe_unused]] std::size_t work) {
#ifdef YARNGAP_SANITIZED
    constexpr std::array<std::size_t, 5> some{0, 3, 5, 8, 9}; // FFV1, PNG, decision list, project, parts
    return isThorough() || std::find(some.begin(), some.end(), work) != some.end();
#else
    return true;
#endif
}

struct Kind {
    const char* name;
    std::vector<int> codes; // 0: short
};

std::vector<Kind> kinds() {
    std::vector<Kind> all{{"open", {EACCES, EMFILE, ENOSPC}},
                          {"write", {ENOSPC, EIO, EINTR, 0}},
                          {"sync", {EIO, EINTR}},
                          {"rename", {EIO, EACCES}}};
#ifndef YARNGAP_SANITIZED
    all.push_back({"memory", {ENOMEM}});
#endif
    return all;
}

} // namespace

class TestFaults : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clip_;
    int injected_ = 0;

    Outcome act(const Work& work, const QString& folder, const QString& fault, const QString& under,
                const QString& cache = {}) const {
        const QString mark = clips_.path(QStringLiteral("mark"));
        QFile::remove(mark);
        auto environment = QProcessEnvironment::systemEnvironment();
        if (!fault.isEmpty()) {
            environment.insert(QStringLiteral("LD_PRELOAD"), QStringLiteral(YARNGAP_FAULT_LIBRARY));
            environment.insert(QStringLiteral("YARNGAP_FAULT"), fault);
            environment.insert(QStringLiteral("YARNGAP_FAULT_UNDER"), under);
            environment.insert(QStringLiteral("YARNGAP_FAULT_MARK"), mark);
            environment.insert(QStringLiteral("ASAN_OPTIONS"),
                               QStringLiteral("verify_asan_link_order=0:detect_leaks=0"));
        }
        environment.insert(QStringLiteral("XDG_CACHE_HOME"),
                           cache.isEmpty() ? clips_.path(QStringLiteral("cache")) : cache);
        QProcess process;
        process.setProcessEnvironment(environment);
        QStringList arguments = work.arguments;
        arguments.replaceInStrings(out, folder);
        if (work.isOnOneCore)
            process.setChildProcessModifier([] {
                cpu_set_t one;
                CPU_ZERO(&one);
                CPU_SET(sched_getcpu(), &one);
                sched_setaffinity(0, sizeof one, &one);
            });
        process.start(work.program, arguments);
        if (!process.waitForFinished(120'000)) return {-1, QStringLiteral("did not end"), false};
        return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -2,
                QString::fromUtf8(process.readAllStandardError()).trimmed(), QFile::exists(mark)};
    }

    QStringList rendering(const QString& target, const QStringList& more = {}) const {
        return QStringList{QStringLiteral("render"),    clip_,
                           QStringLiteral("-o"),        out + QLatin1Char('/') + target,
                           QStringLiteral("--method"),  QStringLiteral("blend"),
                           QStringLiteral("--cuts"),    QStringLiteral("none"),
                           QStringLiteral("--repeats"), QStringLiteral("none"),
                           QStringLiteral("--speed"),   QStringLiteral("80%")} +
               more;
    }

    std::vector<Work> works() const {
        const Contents old{{QStringLiteral("a.mkv"), "old"}};
        const auto oldOf = [](const char* name) { return Contents{{QString::fromLatin1(name), "old"}}; };
        Contents oldPictures;
        for (int n = 0; n < 6; ++n) // more than come, so that one of them must go
            oldPictures[QStringLiteral("a_%1.png").arg(n, 4, 10, QLatin1Char('0'))] = "old";
        const auto planning = [&](const char* option, const char* name) {
            return QStringList{
                QStringLiteral("plan"),      clip_,
                QStringLiteral("--speed"),   QStringLiteral("50%"),
                QString::fromLatin1(option), out + QLatin1Char('/') + QString::fromLatin1(name)};
        };
        return {
            {QStringLiteral("FFV1"), program(true), rendering(QStringLiteral("a.mkv")), oldOf("a.mkv")},
            {QStringLiteral("H.264"), program(true), rendering(QStringLiteral("a.mp4")), oldOf("a.mp4"),
             false, false, true},
            {QStringLiteral("ProRes"), program(true), rendering(QStringLiteral("a.mov")), oldOf("a.mov")},
            {QStringLiteral("PNG"), program(true),
             rendering(QStringLiteral("a_####.png"), {QStringLiteral("--replace")}), oldPictures},
            {QStringLiteral("EXR"), program(true),
             rendering(QStringLiteral("a_####.exr"), {QStringLiteral("--replace")})},
            {QStringLiteral("edit decision list"), program(true), planning("--write-edl", "a.edl"),
             oldOf("a.edl")},
            {QStringLiteral("time map"), program(true), planning("--write-map", "a.json"), oldOf("a.json")},
            {QStringLiteral("motion vectors"),
             program(true),
             {QStringLiteral("vectors"), clip_, QStringLiteral("-o"), out, QStringLiteral("--to"),
              QStringLiteral("1")},
             {},
             true},
            {QStringLiteral("project"),
             program(false),
             {QStringLiteral("save"), clips_.path(QStringLiteral("two.yarngap")),
              out + QStringLiteral("/a.yarngap")},
             {{QStringLiteral("a.yarngap"), projectText(1)}}},
            {QStringLiteral("parts"), program(true),
             rendering(QStringLiteral("a.mov"), {QStringLiteral("--slices"), QStringLiteral("3")}),
             oldOf("a.mov"), false, true}};
    }

    static QByteArray projectText(int shots) {
        QJsonArray list;
        for (int i = 0; i < shots; ++i)
            list.append(QJsonObject{{QStringLiteral("name"), QString::number(i)},
                                    {QStringLiteral("media"), QStringLiteral("/nowhere/clip.mp4")}});
        return QJsonDocument(QJsonObject{{QStringLiteral("yarngap"), 1}, {QStringLiteral("shots"), list}})
            .toJson();
    }

    /// Makes the n-th call of a kind fail for each n; what is there afterwards is old or new.
    void failEach(const Work& work, const Contents& whole, const Kind& kind, int code) {
        const QString folder = clips_.path(QStringLiteral("out"));
        constexpr int far = 400;
        for (int n = 1; n < far; ++n) {
            fill(folder, work.before);
            const QString fault = QStringLiteral("%1 %2 %3")
                                      .arg(QString::fromLatin1(kind.name))
                                      .arg(n)
                                      .arg(code == 0 ? QStringLiteral("short") : QString::number(code));
            const Outcome o = act(work, folder, fault, folder);
            Contents there = contentsOf(folder);
            QString where = work.name + QStringLiteral(", ") + fault + QStringLiteral(": ") +
                            QString::number(o.status) + QLatin1Char(' ') + o.told;
            for (const auto& [name, bytes] : there)
                where += QStringLiteral("; %1, %2 bytes").arg(name).arg(bytes.size());
            if (hasStrays(there)) { // where cleaning up failed too, the next start does it
                QCOMPARE(act(work, folder, {}, {}).status, 0);
                there = contentsOf(folder);
                QVERIFY2(!hasStrays(there), qPrintable(where));
            }
            QVERIFY2(o.status == 0 || o.status == 1, qPrintable(where));
            const auto isPart = [](const auto& file) {
                return file.first.contains(QStringLiteral(".slices/"));
            };
            if (work.keepsParts && (o.status == 1 || std::ranges::any_of(there, isPart))) {
                std::erase_if(there, isPart);
                const Outcome again = act(work, folder, {}, {});
                QVERIFY2(again.status == 0 && isSame(contentsOf(folder), whole),
                         qPrintable(where + again.told));
            }
            if (o.status == 0) {
                QVERIFY2(isSame(there, whole), qPrintable(where));
            } else {
                QVERIFY2(isSame(there, work.before) || isSame(there, whole) ||
                             (work.isOneByOne && isEachOf(there, work.before, whole)),
                         qPrintable(where));
                QVERIFY2(o.told.endsWith(QLatin1Char('.')), qPrintable(where));
                QVERIFY2(!o.told.contains(QStringLiteral("inside Yarn Gap")), qPrintable(where));
                QVERIFY2(code != EINTR && code != 0, qPrintable(where)); // these are no failures
            }
            if (!o.hit) return;
            ++injected_;
        }
        QFAIL("It never came to an end.");
    }

  private Q_SLOTS:
    void initTestCase() {
        clip_ = clips_.moving(QStringLiteral("clip.mp4"), 5,
                              {QStringLiteral("-c:v"), QStringLiteral("mpeg4")}, QStringLiteral("64x48"));
        QFile project(clips_.path(QStringLiteral("two.yarngap")));
        QVERIFY(project.open(QIODevice::WriteOnly));
        project.write(projectText(2));
    }

    void writingIsWholeOrNotThere_data() {
        QTest::addColumn<int>("work");
        QTest::addColumn<int>("kind");
        for (std::size_t w = 0; w < works().size(); ++w)
            for (std::size_t k = 0; isTried(w) && k < kinds().size(); ++k)
                QTest::addRow("%s, %s", qPrintable(works()[w].name), kinds()[k].name)
                    << static_cast<int>(w) << static_cast<int>(k);
    }
    void writingIsWholeOrNotThere() {
        QFETCH(int, work);
        QFETCH(int, kind);
        const Work w = works().at(static_cast<std::size_t>(work));
        const Kind k = kinds().at(static_cast<std::size_t>(kind));
        const QString folder = clips_.path(QStringLiteral("out"));
        fill(folder, w.before);
        const Outcome unharmed = act(w, folder, {}, {});
        QVERIFY2(unharmed.status == 0, qPrintable(unharmed.told));
        const Contents whole = contentsOf(folder);
        QVERIFY(!whole.empty() && !isSame(whole, w.before));
        const auto turn = static_cast<std::size_t>(work) % k.codes.size();
        for (std::size_t c = 0; c < k.codes.size(); ++c)
            if (isThorough() || c == turn) failEach(w, whole, k, k.codes[c]);
    }

    void aRecoveryCopyIsWholeOrTold_data() {
        QTest::addColumn<int>("kind");
        for (std::size_t k = 0; k < 4; ++k)
            QTest::newRow(kinds()[k].name) << static_cast<int>(k);
    }
    void aRecoveryCopyIsWholeOrTold() {
        QFETCH(int, kind);
        const Kind k = kinds().at(static_cast<std::size_t>(kind));
        const Work keep{QStringLiteral("recovery copy"), program(false), {QStringLiteral("recover"), out}};
        const QString folder = clips_.path(QStringLiteral("recovery"));
        const int code = k.codes.front();
        for (int n = 1; n < 60; ++n) {
            QDir(folder).removeRecursively();
            const Outcome o =
                act(keep, folder,
                    QStringLiteral("%1 %2 %3").arg(QString::fromLatin1(k.name)).arg(n).arg(code), folder);
            const QString where = QString::number(n) + QStringLiteral(": ") + QString::number(o.status) +
                                  QLatin1Char(' ') + o.told;
            QVERIFY2(!hasStrays(contentsOf(folder)), qPrintable(where));
            // The actor reads the copy as soon as it is there; a failure is told, or did no harm.
            QVERIFY2(o.status == 0 || (o.status == 1 && o.told.endsWith(QLatin1Char('.'))),
                     qPrintable(where));
            if (!o.hit) return;
            ++injected_;
        }
        QFAIL("It never came to an end.");
    }

    void cachesDoNoHarm_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<int>("code");
        for (std::size_t k = 0; k < 4; ++k)
            QTest::newRow(kinds()[k].name) << static_cast<int>(k) << kinds()[k].codes.front();
        QTest::newRow("short writes") << 1 << 0;
    }
    void cachesDoNoHarm() {
        QFETCH(int, kind);
        QFETCH(int, code);
        QStringList arguments = rendering(QStringLiteral("a.mov"));
        arguments.replace(arguments.indexOf(QStringLiteral("blend")), QStringLiteral("flow"));
        const Work work{QStringLiteral("caches"), program(true), arguments};
        const QString folder = clips_.path(QStringLiteral("out"));
        const QString cache = clips_.path(QStringLiteral("tried"));
        fill(folder, {});
        QDir(cache).removeRecursively();
        QVERIFY(act(work, folder, {}, {}, cache).status == 0);
        const Contents whole = contentsOf(folder);
        QVERIFY(!contentsOf(cache).empty());
        for (int n = 1; n < 400; ++n) {
            fill(folder, {});
            QDir(cache).removeRecursively();
            const QString fault =
                QStringLiteral("%1 %2 %3")
                    .arg(QString::fromLatin1(kinds().at(static_cast<std::size_t>(kind)).name))
                    .arg(n)
                    .arg(code == 0 ? QStringLiteral("short") : QString::number(code));
            const Outcome o = act(work, folder, fault, cache, cache);
            const QString where = fault + QStringLiteral(": ") + QString::number(o.status) + o.told;
            QVERIFY2(o.status == 0 && isSame(contentsOf(folder), whole), qPrintable(where));
            QVERIFY2(!hasStrays(contentsOf(cache)), qPrintable(where));
            // What was kept is right too.
            fill(folder, {});
            QVERIFY2(act(work, folder, {}, {}, cache).status == 0 && isSame(contentsOf(folder), whole),
                     qPrintable(where));
            if (!o.hit) return;
            ++injected_;
        }
        QFAIL("It never came to an end.");
    }

    void aSourceThatCannotBeReadGivesNoResult_data() {
        QTest::addColumn<QString>("source");
        QTest::addColumn<int>("code");
        QTest::newRow("video, broken disk") << clip_ << EIO;
        QTest::newRow("video, cut while it is read") << clip_ << 0;
        const QString pictures = clips_.path(QStringLiteral("in/p_%02d.png"));
        QDir().mkpath(clips_.path(QStringLiteral("in")));
        clips_.moving(QStringLiteral("in/p_%02d.png"), 5, {}, QStringLiteral("64x48"), QStringLiteral("24"),
                      QStringLiteral("rgb24"));
        QTest::newRow("pictures, broken disk") << clips_.path(QStringLiteral("in/p_01.png")) << EIO;
        QTest::newRow("pictures, cut while they are read") << clips_.path(QStringLiteral("in/p_01.png")) << 0;
    }
    void aSourceThatCannotBeReadGivesNoResult() {
        QFETCH(QString, source);
        QFETCH(int, code);
        Work work{QStringLiteral("render"), program(true), rendering(QStringLiteral("a.mov"))};
        work.arguments.replace(1, source);
        const QString folder = clips_.path(QStringLiteral("out"));
        const QString cache = clips_.path(QStringLiteral("tried"));
        fill(folder, {});
        QVERIFY(act(work, folder, {}, {}).status == 0);
        const Contents whole = contentsOf(folder);
        for (int n = 1; n < 400; ++n) {
            fill(folder, {});
            const QString fault = QStringLiteral("read %1 %2")
                                      .arg(n)
                                      .arg(code == 0 ? QStringLiteral("short") : QString::number(code));
            QDir(cache).removeRecursively(); // what is known of the file is not read again
            const Outcome o = act(work, folder, fault, source, cache);
            const QString where = fault + QStringLiteral(": ") + QString::number(o.status) + o.told;
            const Contents there = contentsOf(folder);
            if (o.status == 0)
                QVERIFY2(isSame(there, whole), qPrintable(where));
            else
                QVERIFY2(there.empty() && o.told.endsWith(QLatin1Char('.')) && o.status > 0,
                         qPrintable(where));
            if (!o.hit) return;
            QVERIFY2(code == 0 || o.status != 0, qPrintable(where));
            ++injected_;
        }
        QFAIL("It never came to an end.");
    }

    void cleanupTestCase() { qInfo("%d faults injected", injected_); }
};

QTEST_GUILESS_MAIN(TestFaults)
#include "test_faults.moc"
