// How soon a project of many shots can be worked on: from asking to open it until the window shows all cards
// and the first picture of the current shot, and until every thumbnail is there.
//
//     QT_QPA_PLATFORM=offscreen bench_project_open FOLDER [SHOTS]
//
// Copies every video of FOLDER under new names until there are SHOTS (default 200) files, in a temporary
// folder, so that none is known from another.

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "app/window/shot_list.h"
#include "core/media/library_messages.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QTemporaryDir>

#include <algorithm>
#include <cstdio>

using namespace yarngap;
using namespace yarngap::app;

int main(int argc, char** argv) {
    silenceMediaLibraries();
    const QApplication application(argc, argv);
    const QStringList arguments = QApplication::arguments();
    const QTemporaryDir copies;
    const QFileInfoList sources =
        QDir(arguments.value(1))
            .entryInfoList({QStringLiteral("*.mkv"), QStringLiteral("*.mp4"), QStringLiteral("*.mov")},
                           QDir::Files, QDir::Name);
    const int count = arguments.value(2, QStringLiteral("200")).toInt();
    if (sources.isEmpty() || count < 1) {
        std::fprintf(stderr, "Usage: bench_project_open FOLDER [SHOTS]\n");
        return 2;
    }
    Project project;
    for (int i = 0; i < count; ++i) {
        const QFileInfo& source = sources[i % sources.size()];
        const QString copy = copies.filePath(QStringLiteral("%1-%2").arg(i).arg(source.fileName()));
        QFile::copy(source.filePath(), copy);
        project.shots.push_back(shotOf(copy.toStdString()));
    }
    const QString file = copies.filePath(QStringLiteral("many.yarngap"));
    saveProject(project, file.toStdString());

    applyTheme(*qApp);
    MainWindow window;
    window.show();
    QApplication::processEvents();
    QElapsedTimer since;
    since.start();
    window.document().openProject(file);
    const auto state = [&](const Shot& shot) -> const MediaState& {
        return window.document().media().state(shot.media);
    };
    const auto wait = [&](auto done) {
        while (!done())
            QApplication::processEvents(QEventLoop::WaitForMoreEvents, 20);
        QApplication::processEvents();
        return static_cast<long long>(since.elapsed());
    };
    const auto& shots = window.document().project().shots;
    const auto shown = wait([&] {
        return window.findChildren<ShotCard*>().size() == count &&
               !state(shots.front()).firstPicture.isNull();
    });
    const auto counted = wait([&] { return window.plan() != nullptr; });
    const auto pictured = wait([&] {
        return std::all_of(shots.begin(), shots.end(),
                           [&](const Shot& shot) { return !state(shot).thumbnail.isNull(); });
    });
    std::printf("%d shots: first picture after %lld ms, plan of the first after %lld ms, all thumbnails "
                "after %lld ms\n",
                count, shown, counted, pictured);
    return 0;
}
