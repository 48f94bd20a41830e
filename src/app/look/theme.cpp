#include "app/look/theme.h"

#include <QApplication>
#include <QPalette>
#include <QStyleFactory>

namespace yarngap::app {

QFont textFont(int pixels, QFont::Weight weight) {
    QFont font(QStringList{QStringLiteral("Inter"), QStringLiteral("sans-serif")});
    font.setPixelSize(pixels);
    font.setWeight(weight);
    return font;
}

void applyTheme(QApplication& application) {
    application.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    application.setFont(textFont());
    QPalette palette;
    palette.setColor(QPalette::Window, colour::cloth);
    palette.setColor(QPalette::Base, colour::paper);
    palette.setColor(QPalette::AlternateBase, colour::cloth);
    palette.setColor(QPalette::Button, colour::cloth);
    palette.setColor(QPalette::ButtonText, colour::ink);
    palette.setColor(QPalette::Text, colour::ink);
    palette.setColor(QPalette::WindowText, colour::ink);
    palette.setColor(QPalette::PlaceholderText, colour::faint);
    palette.setColor(QPalette::Highlight, colour::indigo);
    palette.setColor(QPalette::HighlightedText, Qt::white);
    palette.setColor(QPalette::ToolTipBase, colour::paper);
    palette.setColor(QPalette::ToolTipText, colour::ink);
    palette.setColor(QPalette::Disabled, QPalette::Text, QColor(0x9A, 0x97, 0x90));
    palette.setColor(QPalette::Disabled, QPalette::ButtonText, QColor(0x9A, 0x97, 0x90));
    application.setPalette(palette);
    application.setStyleSheet(QStringLiteral(R"(
        QToolTip { background: #F8F7F4; color: #26282B; border: 1px solid #CFCBC2; padding: 4px; }
        QLabel { font-size: 12px; }
        QLabel[role="faint"] { color: #6A6760; }
        QLabel[role="heading"] { color: #6A6760; font-size: 11px; font-weight: 600; }
        QLabel[role="error"] { color: #A63A2B; font-size: 12px; }
        QPushButton, QToolButton[role="plain"] {
            background: #F8F7F4; border: 1px solid #CFCBC2; border-radius: 4px; padding: 4px 8px; min-height: 16px; }
        QPushButton:hover { border-color: #6A6760; }
        QPushButton:pressed { background: #E2DFD8; }
        QPushButton:focus, QToolButton:focus { border: 1px solid #2E4A86; }
        QPushButton:disabled { color: #9A9790; background: #EDEBE6; }
        QToolButton[role="plain"]:checked { background: #DDE2EE; border-color: #2E4A86; color: #2E4A86; }
        QPushButton[role="main"] { background: #2E4A86; color: white; border-color: #2E4A86; font-weight: 600; }
        QPushButton[role="main"]:hover { background: #27407A; }
        QPushButton[role="main"]:disabled { background: #CFCBC2; border-color: #CFCBC2; color: #6A6760; }
        QPushButton[role="flat"] { background: transparent; border: 1px solid transparent; padding: 4px 8px; }
        QPushButton[role="flat"]:hover { background: #E2DFD8; }
        QPushButton[role="flat"]:focus { border-color: #2E4A86; }
        QLineEdit, QComboBox {
            background: #FFFFFF; border: 1px solid #CFCBC2; border-radius: 4px; padding: 3px 4px; min-height: 18px;
            selection-background-color: #2E4A86; }
        yarngap--app--ValueField, QComboBox { font-size: 12px; }
        QLineEdit:focus, QComboBox:focus { border-color: #2E4A86; }
        QLineEdit[wrong="true"] { border-color: #A63A2B; }
        QProgressBar { background: #F8F7F4; border: 1px solid #CFCBC2; border-radius: 4px; height: 8px; }
        QProgressBar::chunk { background: #5C7184; border-radius: 3px; }
        QScrollArea { border: none; background: transparent; }
        QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
        QScrollBar::handle:vertical { background: #CFCBC2; border-radius: 3px; min-height: 24px; margin: 0 1px; }
        QScrollBar::add-line, QScrollBar::sub-line { height: 0; }
        QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
        QComboBox::drop-down { border: none; width: 14px; }
        QComboBox QAbstractItemView { background: #F8F7F4; selection-background-color: #2E4A86; selection-color: white; }
    )"));
}

} // namespace yarngap::app
