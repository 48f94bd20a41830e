#include "app/look/theme.h"

#include <QApplication>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>

#include <utility>

namespace yarngap::app {

QFont textFont(int pixels, QFont::Weight weight) {
    QFont font(QStringList{QStringLiteral("Inter"), QStringLiteral("sans-serif")});
    font.setPixelSize(pixels);
    font.setWeight(weight);
    return font;
}

void drawFocus(QPainter& p, const QRect& place) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.setBrush(Qt::NoBrush);
    // On any ground, paper or stage.
    p.setPen(QPen(shades().paper, 1));
    p.drawRoundedRect(QRectF(place).adjusted(1.5, 1.5, -1.5, -1.5), 3, 3);
    p.setPen(QPen(shades().indigo, 1));
    p.drawRoundedRect(QRectF(place).adjusted(2.5, 2.5, -2.5, -2.5), 3, 3);
    p.restore();
}

const Shades& lightShades() {
    static const Shades shades{.cloth = {0xED, 0xEB, 0xE6},
                               .paper = {0xF8, 0xF7, 0xF4},
                               .field = {0xFF, 0xFF, 0xFF},
                               .ink = {0x26, 0x28, 0x2B},
                               .faint = {0x6A, 0x67, 0x60},
                               .seam = {0xCF, 0xCB, 0xC2},
                               .indigo = {0x2E, 0x4A, 0x86},
                               .flax = {0xA8, 0x7C, 0x24},
                               .plum = {0x7A, 0x3E, 0x6D},
                               .slate = {0x5C, 0x71, 0x84},
                               .madder = {0xA6, 0x3A, 0x2B},
                               .fill = {0x2E, 0x4A, 0x86},
                               .hover = {0xE2, 0xDF, 0xD8},
                               .chosen = {0xDD, 0xE2, 0xEE},
                               .off = {0x9A, 0x97, 0x90},
                               .notice = {0xF1, 0xDD, 0xD7}};
    return shades;
}

const Shades& darkShades() {
    static const Shades shades{.cloth = {0x2B, 0x2C, 0x2E},
                               .paper = {0x34, 0x35, 0x38},
                               .field = {0x23, 0x24, 0x26},
                               .ink = {0xE9, 0xE7, 0xE2},
                               .faint = {0xAB, 0xA8, 0x9F},
                               .seam = {0x4C, 0x4D, 0x50},
                               .indigo = {0x8F, 0xA9, 0xE2},
                               .flax = {0xD9, 0xAE, 0x55},
                               .plum = {0xCE, 0x94, 0xC0},
                               .slate = {0x98, 0xAE, 0xC2},
                               .madder = {0xE8, 0x8A, 0x7B},
                               .fill = {0x3D, 0x5C, 0xA3},
                               .hover = {0x40, 0x41, 0x45},
                               .chosen = {0x2F, 0x39, 0x50},
                               .off = {0x77, 0x75, 0x70},
                               .notice = {0x55, 0x33, 0x2D}};
    return shades;
}

bool isDark() {
    constexpr int middle = 128;
    return QGuiApplication::palette().color(QPalette::Window).lightness() < middle;
}

const Shades& shades() {
    return isDark() ? darkShades() : lightShades();
}

namespace {

QPalette paletteOf(const Shades& s) {
    QPalette palette;
    palette.setColor(QPalette::Window, s.cloth);
    palette.setColor(QPalette::Base, s.paper);
    palette.setColor(QPalette::AlternateBase, s.cloth);
    palette.setColor(QPalette::Button, s.cloth);
    palette.setColor(QPalette::ButtonText, s.ink);
    palette.setColor(QPalette::Text, s.ink);
    palette.setColor(QPalette::WindowText, s.ink);
    palette.setColor(QPalette::PlaceholderText, s.faint);
    palette.setColor(QPalette::Highlight, s.fill);
    palette.setColor(QPalette::HighlightedText, Qt::white);
    palette.setColor(QPalette::Link, s.indigo);
    palette.setColor(QPalette::ToolTipBase, s.paper);
    palette.setColor(QPalette::ToolTipText, s.ink);
    for (const QPalette::ColorRole role : {QPalette::Text, QPalette::ButtonText, QPalette::WindowText})
        palette.setColor(QPalette::Disabled, role, s.off);
    return palette;
}

/// The sheet with each %name% replaced by its colour.
QString sheetOf(const Shades& s) {
    QString sheet = QStringLiteral(R"(
        QToolTip { background: %paper%; color: %ink%; border: 1px solid %seam%; padding: 4px; }
        QLabel { font-size: 12px; }
        QLabel[role="faint"] { color: %faint%; }
        QLabel[role="heading"] { color: %faint%; font-size: 11px; font-weight: 600; }
        QLabel[role="error"] { color: %madder%; font-size: 12px; }
        QPushButton, QToolButton[role="plain"] {
            background: %paper%; border: 1px solid %seam%; border-radius: 4px; padding: 4px 8px; min-height: 16px; }
        QPushButton:hover { border-color: %faint%; }
        QPushButton:pressed { background: %hover%; }
        QPushButton:focus, QToolButton:focus { border: 1px solid %indigo%; }
        QPushButton:disabled { color: %off%; background: %cloth%; }
        QToolButton[role="icon"] { background: transparent; border: 1px solid transparent; border-radius: 4px; padding: 0; }
        QToolButton[role="icon"]:focus { border-color: %indigo%; }
        QToolButton[role="fold"] { background: transparent; border: 1px solid transparent; border-radius: 4px; padding: 2px 4px; }
        QToolButton[role="fold"]:hover { background: %hover%; }
        QToolButton[role="fold"]:focus { border-color: %indigo%; }
        QToolButton[role="plain"]:checked { background: %chosen%; border-color: %indigo%; color: %indigo%; }
        QPushButton[role="main"] { background: %fill%; color: white; border-color: %indigo%; font-weight: 600; }
        QPushButton[role="main"]:hover { background: %fill%; }
        QPushButton[role="main"]:disabled { background: %seam%; border-color: %seam%; color: %faint%; }
        QPushButton[role="flat"] { background: transparent; border: 1px solid transparent; padding: 4px 8px; }
        QPushButton[role="flat"]:hover { background: %hover%; }
        QPushButton[role="flat"]:focus { border-color: %indigo%; }
        QLineEdit, QComboBox {
            background: %field%; border: 1px solid %seam%; border-radius: 4px; padding: 3px 4px; min-height: 18px;
            selection-background-color: %fill%; }
        yarngap--app--ValueField, QComboBox { font-size: 12px; }
        QLineEdit:focus, QComboBox:focus { border-color: %indigo%; }
        QLineEdit[wrong="true"] { border-color: %madder%; }
        QProgressBar { background: %paper%; border: 1px solid %seam%; border-radius: 4px; height: 8px; }
        QProgressBar::chunk { background: %slate%; border-radius: 3px; }
        QScrollArea { border: none; background: transparent; }
        QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
        QScrollBar::handle:vertical { background: %seam%; border-radius: 3px; min-height: 24px; margin: 0 1px; }
        QScrollBar::add-line, QScrollBar::sub-line { height: 0; }
        QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
        QComboBox::drop-down { border: none; width: 14px; }
        QComboBox QAbstractItemView { background: %paper%; selection-background-color: %fill%; selection-color: white; }
        QPushButton[role="choice"]:checked { background: %fill%; color: white; border-color: %indigo%; }
        QLabel[role="box"] { background: %cloth%; border: 1px solid %seam%; border-radius: 4px; padding: 6px; }
        QWidget[role="seam"] { background: %seam%; }
        yarngap--app--NoticeBar { background: %notice%; }
    )");
    for (const auto& [name, colour] :
         {std::pair{"cloth", s.cloth}, std::pair{"paper", s.paper}, std::pair{"field", s.field},
          std::pair{"ink", s.ink}, std::pair{"faint", s.faint}, std::pair{"seam", s.seam},
          std::pair{"indigo", s.indigo}, std::pair{"slate", s.slate}, std::pair{"madder", s.madder},
          std::pair{"fill", s.fill}, std::pair{"hover", s.hover}, std::pair{"chosen", s.chosen},
          std::pair{"off", s.off}, std::pair{"notice", s.notice}})
        sheet.replace(QLatin1Char('%') + QLatin1String(name) + QLatin1Char('%'), colour.name());
    return sheet;
}

} // namespace

void applyTheme(QApplication& application, bool dark) {
    const Shades& shades = dark ? darkShades() : lightShades();
    application.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    application.setFont(textFont());
    application.setPalette(paletteOf(shades));
    application.setStyleSheet(sheetOf(shades));
}

SheetWithheld::SheetWithheld()
    : sheet_(qApp->styleSheet()) {
    qApp->setStyleSheet({});
}

SheetWithheld::~SheetWithheld() {
    if (qApp->styleSheet().isEmpty()) qApp->setStyleSheet(sheet_); // else another look was chosen meanwhile
}

} // namespace yarngap::app
