// Help: keys, the guide at the step one is in, the problem report.

#include "app/window/main_window.h"

#include "app/help/value_card.h"
#include "core/project/project.h"

#include <QDir>
#include <QFileInfo>
#include <QLineEdit>
#include <QMenu>
#include <QPointer>

#include <array>

namespace yarngap::app {

namespace {

struct Chapter {
    const char* step;
    const char* heading;
};

/// Headings as the guide has them.
constexpr std::array<Chapter, 8> chapters{{{"footageStep", "Put the footage right"},
                                           {"trimStep", "Trim"},
                                           {"cleanStep", "Clean the source"},
                                           {"timingStep", "Set the timing"},
                                           {"inBetweensStep", "Choose how in-betweens are made"},
                                           {"mendStep", "Mend what looks wrong"},
                                           {"finishStep", "Finish"},
                                           {"renderStep", "Render"}}};

} // namespace

HelpWindow& MainWindow::help() {
    if (!help_) {
        help_ = new HelpWindow(keyTable_, this);
        connect(help_, &HelpWindow::reportAsked, this,
                [this] { help_->report().setReport(problemReport()); });
    }
    return *help_;
}

void MainWindow::showValueHelp(QWidget* at) {
    const auto found = valueUnder(at);
    if (!found) return showGuide();
    auto* card = new ValueCard(found->words, *found->value, this);
    card->show();
    card->setFocus();
}

bool MainWindow::offerValueHelp(QWidget* at, const QPoint& where) {
    if (!at || at->window() != this || !valueUnder(at)) return false;
    auto* field = qobject_cast<QLineEdit*>(at);
    QMenu* menu = field ? field->createStandardContextMenu() : new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("valueMenu"));
    if (field) menu->addSeparator();
    QAction* ask = menu->addAction(tr("What is this?"));
    ask->setShortcut(QKeySequence(QStringLiteral("Ctrl+F1")));
    connect(ask, &QAction::triggered, this, [this, at = QPointer<QWidget>(at)] {
        if (at) showValueHelp(at);
    });
    menu->popup(where);
    return true;
}

void MainWindow::showKeys() {
    help().showKeys();
}

void MainWindow::showGuide() {
    QString heading = document_.current() ? QStringLiteral("Look") : QStringLiteral("Bring in a shot");
    for (const Step& step : steps_)
        for (const Chapter& chapter : chapters)
            if (document_.current() && step.card->isOpen() &&
                step.card->objectName() == QLatin1String(chapter.step))
                heading = QLatin1String(chapter.heading);
    help().showGuide(heading);
}

QString MainWindow::problemReport() const {
    QStringList parts;
    parts << QStringLiteral("Settings: memory %1, frames on disk %2, motion on disk %3, sound %4")
                 .arg(displayBytes(preferences_.memoryBytes), displayBytes(preferences_.frameDiskBytes),
                      displayBytes(preferences_.vectorDiskBytes),
                      preferences_.sound ? QStringLiteral("on") : QStringLiteral("off"));
    parts << QStringLiteral("What was told:")
          << (notice_->told().isEmpty() ? QStringList{QStringLiteral("nothing")} : notice_->told());
    const QString folder = document_.file().isEmpty() ? QDir::homePath() : QFileInfo(document_.file()).path();
    parts << QStringLiteral("\nProject:")
          << (document_.project().shots.empty()
                  ? QStringLiteral("none")
                  : QString::fromStdString(projectText(document_.project(), folder.toStdString())));
    return parts.join(QLatin1Char('\n'));
}

} // namespace yarngap::app
