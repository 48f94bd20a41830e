// Yarn Gap: the window.
//
//     yarngap [PROJECT|MEDIA…]

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/allocation.h"
#include "core/media/library_messages.h"
#include "core/version.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QIcon>

#include <csignal>

int main(int argc, char** argv) {
    yarngap::reuseFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN); // a file size limit shows as a failed write with a sentence
    yarngap::silenceMediaLibraries();
    QApplication::setApplicationName(QStringLiteral("Yarn Gap"));
    QApplication::setOrganizationName(QStringLiteral("Yarn Gap"));
    yarngap::app::applySizeOfText();
    QApplication application(argc, argv);
    QApplication::setApplicationVersion(QString::fromUtf8(yarngap::version()));
    QApplication::setDesktopFileName(QStringLiteral("org.yarngap.YarnGap"));
    QApplication::setWindowIcon(QIcon::fromTheme(QStringLiteral("yarngap")));
    QCommandLineParser line;
    line.setApplicationDescription(
        QApplication::translate("main", "Slow motion and frame-rate conversion, frame by frame."));
    line.addHelpOption();
    line.addVersionOption();
    line.addPositionalArgument(
        QStringLiteral("FILE"),
        QApplication::translate("main", "A project, video files or numbered pictures."),
        QStringLiteral("[FILE...]"));
    line.process(application);
    const QStringList files = line.positionalArguments();
    yarngap::app::applyTheme(application);
    yarngap::app::MainWindow window(yarngap::app::RecoveryKeeper::defaultFolder());
    window.show();
    if (!files.isEmpty()) window.document().openFiles(files);
    return QApplication::exec();
}
