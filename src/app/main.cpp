// Yarn Gap: the window.
//
//     yarngap [PROJECT|MEDIA…]

#include "app/look/language.h"
#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/allocation.h"
#include "core/media/library_messages.h"
#include "core/version.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QIcon>

#include <algorithm>
#include <csignal>
#include <string_view>

namespace {

void describe(QCommandLineParser& line) {
    line.setApplicationDescription(
        QCoreApplication::translate("main", "Slow motion and frame-rate conversion, frame by frame."));
    line.addHelpOption();
    line.addVersionOption();
    line.addPositionalArgument(
        QStringLiteral("FILE"),
        QCoreApplication::translate("main", "A project, video files or numbered pictures."),
        QStringLiteral("[FILE...]"));
}

/// Tells its version or how it is called, which takes no screen, and does not come back; else nothing.
void answerWithoutScreen(int argc, char** argv) {
    const auto isAsked = [](std::string_view argument) {
        return argument == "--version" || argument == "-v" || argument == "--help" || argument == "-h" ||
               argument == "--help-all";
    };
    if (argc < 2 || !std::any_of(argv + 1, argv + argc, isAsked)) return;
    QCoreApplication application(argc, argv);
    QCommandLineParser line;
    describe(line);
    line.process(application);
}

} // namespace

int main(int argc, char** argv) {
    yarngap::reuseFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN); // a file size limit shows as a failed write with a sentence
    yarngap::silenceMediaLibraries();
    QApplication::setApplicationName(QStringLiteral("Yarn Gap"));
    QApplication::setOrganizationName(QStringLiteral("Yarn Gap"));
    QApplication::setApplicationVersion(QString::fromUtf8(yarngap::version()));
    answerWithoutScreen(argc, argv);
    yarngap::app::applySizeOfText();
    QApplication application(argc, argv);
    QApplication::setDesktopFileName(QStringLiteral("org.yarngap.YarnGap"));
    QApplication::setWindowIcon(QIcon::fromTheme(QStringLiteral("yarngap")));
    QCommandLineParser line;
    describe(line);
    line.process(application);
    const QStringList files = line.positionalArguments();
    yarngap::app::applyLanguage(application);
    yarngap::app::applyTheme(application);
    yarngap::app::MainWindow window(yarngap::app::RecoveryKeeper::defaultFolder());
    window.show();
    if (!files.isEmpty()) window.document().openFiles(files);
    return QApplication::exec();
}
