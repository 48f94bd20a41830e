// Files are written whole or not at all, and nothing else is touched on the way.

#include "core/error.h"
#include "core/files/input_files.h"
#include "core/files/leftovers.h"
#include "core/files/local_file.h"
#include "core/files/locked_file.h"
#include "core/files/new_file.h"
#include "core/files/new_sequence.h"
#include "support/makers.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <future>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace yarngap;
using namespace yarngap::test;
namespace fs = std::filesystem;

namespace {

void put(const fs::path& file, const QByteArray& bytes) {
    QFile out(QString::fromStdString(file.string()));
    if (!out.open(QIODevice::WriteOnly) || out.write(bytes) != bytes.size()) qFatal("cannot write");
}

QByteArray taken(const fs::path& file) {
    QFile in(QString::fromStdString(file.string()));
    return in.open(QIODevice::ReadOnly) ? in.readAll() : QByteArray("nothing");
}

std::size_t filesIn(const fs::path& folder) {
    return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), fs::directory_iterator()));
}

mode_t modeOf(const fs::path& file) {
    struct stat s {};
    return ::stat(file.c_str(), &s) == 0 ? s.st_mode & 07777U : 0;
}

/// A process of this boot that has ended.
Maker endedMaker() {
    Maker maker = thisMaker();
    const pid_t child = ::fork();
    if (child == 0) ::_exit(0);
    ::waitpid(child, nullptr, 0);
    maker.process = child;
    return maker;
}

} // namespace

class TestFiles : public QObject {
    Q_OBJECT

    QTemporaryDir dir_;
    fs::path folder_;

  private Q_SLOTS:
    void init() {
        folder_ = fs::path(dir_.path().toStdString()) / "in";
        fs::remove_all(folder_);
        fs::create_directories(folder_);
    }

    void theOldFileStaysUntilTheNewOneIsWhole() {
        const fs::path target = folder_ / "a.txt";
        put(target, "old");
        {
            NewFile file(target);
            file.write("half");
            QCOMPARE(taken(target), QByteArray("old"));
        }
        QCOMPARE(filesIn(folder_), std::size_t{1}); // given up, it leaves nothing
        NewFile file(target);
        file.write("0123456789");
        file.seek(2);
        file.write("xy");
        QCOMPARE(file.bytes(), 10);
        file.finish();
        QCOMPARE(taken(target), QByteArray("01xy456789"));
        QCOMPARE(filesIn(folder_), std::size_t{1});
    }

    void permissionsAndLinksStay() {
        put(folder_ / "real.txt", "old");
        QCOMPARE(::chmod((folder_ / "real.txt").c_str(), 0600), 0);
        fs::create_symlink("real.txt", folder_ / "link.txt");
        writeWhole(folder_ / "link.txt", "new");
        QVERIFY(fs::is_symlink(folder_ / "link.txt"));
        QCOMPARE(taken(folder_ / "real.txt"), QByteArray("new"));
        QCOMPARE(modeOf(folder_ / "real.txt"), mode_t{0600});
    }

    void whatIsNoFileIsNotReplaced() {
        fs::create_directory(folder_ / "folder.mkv");
        QVERIFY_THROWS_EXCEPTION(Error, NewFile(folder_ / "folder.mkv"));
        QCOMPARE(::mkfifo((folder_ / "pipe.mkv").c_str(), 0600), 0);
        QVERIFY_THROWS_EXCEPTION(Error, NewFile(folder_ / "pipe.mkv"));
        fs::create_symlink("/dev/null", folder_ / "null.mkv");
        QVERIFY_THROWS_EXCEPTION(Error, NewFile(folder_ / "null.mkv"));
        QVERIFY(fs::is_symlink(folder_ / "null.mkv") && fs::is_fifo(folder_ / "pipe.mkv"));
    }

    void aNameThatIsTakenIsNeverWrittenTo() {
        fs::create_symlink(folder_ / "victim", folder_ / "lure");
        QCOMPARE(createAnew(folder_ / "lure"), -1);
        QVERIFY(!fs::exists(folder_ / "victim"));
    }

    void onlyWhatTheDeadLeftIsTakenAway() {
        const Maker dead = endedMaker();
        Maker otherBoot = thisMaker();
        otherBoot.boot = "00000000";
        Maker otherPlace = dead;
        otherPlace.place = "00000000";
        Maker reused = thisMaker(); // our number, but of a process that started at another time
        reused.started -= 1;
        put(folder_ / nameBy(dead, 1), "x");
        fs::create_directories(folder_ / nameBy(dead, 2) / "held");
        put(folder_ / nameBy(otherBoot, 3), "x");
        put(folder_ / nameBy(reused, 4), "x");
        put(folder_ / nameBy(thisMaker(), 5), "x");
        put(folder_ / nameBy(otherPlace, 6), "x"); // perhaps alive on another machine
        put(folder_ / ".yarngap-notes", "x");
        put(folder_ / "picture.partial", "x");
        removeLeftovers(folder_);
        QCOMPARE(filesIn(folder_), std::size_t{4});
        for (const fs::path& kept : {nameBy(thisMaker(), 5), nameBy(otherPlace, 6),
                                     fs::path(".yarngap-notes"), fs::path("picture.partial")})
            QVERIFY2(fs::exists(folder_ / kept), kept.c_str());
    }

    void aSequenceComesAsAWhole() {
        for (int n = 0; n < 5; ++n)
            put(folder_ / ("a_" + std::to_string(n) + ".png"), "old");
        std::vector<std::string> old;
        old.reserve(5);
        for (int n = 0; n < 5; ++n)
            old.push_back("a_" + std::to_string(n) + ".png");
        {
            NewSequence files(folder_, old);
            put(files.placeFor("a_0.png"), "new");
        }
        QCOMPARE(taken(folder_ / "a_0.png"), QByteArray("old"));
        NewSequence files(folder_, old);
        for (int n = 0; n < 3; ++n)
            put(files.placeFor("a_" + std::to_string(n) + ".png"), "new");
        files.finish();
        QCOMPARE(filesIn(folder_), std::size_t{3});
        for (int n = 0; n < 3; ++n)
            QCOMPARE(taken(folder_ / ("a_" + std::to_string(n) + ".png")), QByteArray("new"));
    }

    void aNameThatCannotBeTakenPutsAllBack() {
        put(folder_ / "a_0.png", "old");
        fs::create_directories(folder_ / "a_1.png" / "held");
        NewSequence files(folder_, {"a_0.png"});
        for (int n = 0; n < 3; ++n)
            put(files.placeFor("a_" + std::to_string(n) + ".png"), "new");
        QVERIFY_THROWS_EXCEPTION(Error, files.finish());
        QCOMPARE(taken(folder_ / "a_0.png"), QByteArray("old"));
        QVERIFY(!fs::exists(folder_ / "a_2.png"));
    }

    void inputsAreKnownByWhatTheyAre() {
        put(folder_ / "clip.mkv", "x");
        fs::create_symlink("clip.mkv", folder_ / "link.mkv");
        fs::create_hard_link(folder_ / "clip.mkv", folder_ / "second.mkv");
        InputFiles inputs;
        inputs.add(folder_ / "clip.mkv");
        for (const char* name : {"clip.mkv", "link.mkv", "second.mkv", "../in/./clip.mkv"})
            QVERIFY_THROWS_EXCEPTION(Error, inputs.refuse({folder_ / name}));
        inputs.refuse({folder_ / "other.mkv"});
        QVERIFY_THROWS_EXCEPTION(Error, refuseSameOutput({folder_ / "a.edl", folder_ / "../in/a.edl"}));
    }

    void pipesAndDevicesAreNotOpened() {
        QCOMPARE(::mkfifo((folder_ / "pipe.png").c_str(), 0600), 0);
        const auto thread = std::make_shared<ReadingThread>();
        QVERIFY_THROWS_EXCEPTION(Error, LocalFile(folder_ / "pipe.png", thread));
        QVERIFY_THROWS_EXCEPTION(Error, LocalFile("/dev/zero", thread));
        QVERIFY_THROWS_EXCEPTION(Error, LocalFile(folder_, thread));
        QVERIFY_THROWS_EXCEPTION(Error, LocalFile(folder_ / "missing", thread));
    }

    void aChangeIsSeen() {
        put(folder_ / "clip.mkv", "0123456789");
        const auto thread = std::make_shared<ReadingThread>();
        LocalFile file(folder_ / "clip.mkv", thread);
        std::array<std::byte, 4> some{};
        QCOMPARE(file.read(8, some), std::size_t{2}); // the end
        QVERIFY(!file.hasChanged());
        const fs::path renamed = folder_ / "renamed.mkv";
        fs::rename(folder_ / "clip.mkv", renamed); // the same content still
        QVERIFY(!file.hasChanged());
        put(renamed, "9876543210");
        QVERIFY(file.hasChanged());
    }

    void aReadThatHangsIsGivenUp() {
        // A disk that has gone away, as a task that waits for ever.
        const auto release = std::make_shared<std::promise<void>>();
        const auto released = std::make_shared<std::shared_future<void>>(release->get_future().share());
        std::stop_source stop;
        auto thread = std::make_unique<ReadingThread>();
        std::promise<void> begun;
        auto beginning = begun.get_future();
        auto waiting = std::async(std::launch::async, [&, started = std::move(begun)]() mutable {
            auto told = std::make_shared<std::promise<void>>(std::move(started));
            try {
                thread->run(
                    [told, released] {
                        told->set_value();
                        released->wait();
                    },
                    stop.get_token());
            } catch (const Cancelled&) {
                return true;
            }
            return false;
        });
        beginning.wait();
        stop.request_stop();
        QVERIFY(waiting.get());
        thread.reset(); // does not wait for it either
        release->set_value();
    }

    void oneAtATimeHoldsALock() {
        put(folder_ / "project", "x");
        auto held = std::make_unique<LockedFile>(folder_ / "project");
        std::atomic<bool> has = false;
        auto other = std::async(std::launch::async, [&] {
            const LockedFile lock(folder_ / "project");
            return has.load();
        });
        has = true;
        held.reset();
        QVERIFY(other.get()); // not before it was let go
        const LockedFile none(folder_ / "not there");
    }
};

QTEST_GUILESS_MAIN(TestFiles)
#include "test_files.moc"
