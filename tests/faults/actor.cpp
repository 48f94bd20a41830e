// Does one thing that the window does, for tests that make it fail:
//
//     faults_actor save PROJECT TARGET    saves the project over another
//     faults_actor recover FOLDER         keeps a recovery copy of unsaved work
//
// Ends with 0 when it is done, and with 1 and a sentence when it could not be.

#include "app/document/recovery_keeper.h"
#include "core/error.h"
#include "core/files/write_failure.h"

#include <QCoreApplication>
#include <QDir>

#include <cstdlib>
#include <iostream>

using namespace yarngap;

namespace {

constexpr int tooLong = 20'000; // ms

int save(const char* from, const char* to) {
    const Project project = loadProject(from);
    saveOver(project, to, loadEdition(to).edition);
    return 0;
}

int recover(int argc, char** argv, const QString& folder) {
    const QCoreApplication program(argc, argv);
    app::Document document;
    app::RecoveryKeeper keeper(document, folder);
    int result = 2;
    QObject::connect(&keeper, &app::RecoveryKeeper::failed, &program, [&](const QString& sentence) {
        std::cerr << sentence.toStdString() << '\n';
        result = 1;
        QCoreApplication::quit();
    });
    QTimer look;
    QObject::connect(&look, &QTimer::timeout, &program, [&] {
        for (const QString& copy : QDir(folder).entryList({QStringLiteral("*.yarngap")}, QDir::Files)) {
            try {
                loadProject(QDir(folder).filePath(copy).toStdString()); // whole as soon as it has its name
            } catch (const Error&) {
                return; // the call that failed was this one; a copy that is not whole fails again and again
            }
            result = 0;
            QCoreApplication::quit();
        }
    });
    look.start(5);
    QTimer::singleShot(tooLong, &program, &QCoreApplication::quit);
    document.addShots({QStringLiteral("/nowhere/heron.mp4")});
    QCoreApplication::exec();
    // As in a crash: what is there stays.
    std::_Exit(result);
}

} // namespace

int main(int argc, char** argv) {
    try {
        const std::string what = argc > 2 ? argv[1] : "";
        if (what == "save" && argc == 4) return save(argv[2], argv[3]);
        if (what == "recover" && argc == 3) return recover(argc, argv, QString::fromLocal8Bit(argv[2]));
    } catch (const std::exception& error) {
        std::cerr << sentenceOf(error) << '\n';
        return 1;
    }
    std::cerr << "Usage: faults_actor save PROJECT TARGET | recover FOLDER\n";
    return 2;
}
