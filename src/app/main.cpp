// Yarn Gap: the window.
//
//     yarngap [PROJECT|MEDIA…]

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/allocation.h"
#include "core/media/library_messages.h"

#include <QApplication>

#include <csignal>

int main(int argc, char** argv) {
    yarngap::reuseFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN); // a file size limit shows as a failed write with a sentence
    yarngap::silenceMediaLibraries();
    QApplication application(argc, argv);
    QApplication::setApplicationName(QStringLiteral("Yarn Gap"));
    QApplication::setOrganizationName(QStringLiteral("Yarn Gap"));
    QApplication::setDesktopFileName(QStringLiteral("yarngap"));
    yarngap::app::applyTheme(application);
    yarngap::app::MainWindow window(yarngap::app::RecoveryKeeper::defaultFolder());
    window.show();
    const QStringList files = QApplication::arguments().mid(1);
    if (!files.isEmpty()) window.document().openFiles(files);
    return QApplication::exec();
}
