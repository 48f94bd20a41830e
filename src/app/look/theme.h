// Colours, type and measures of the window.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

class QApplication;

namespace yarngap::app {

namespace colour {
inline const QColor cloth{0xED, 0xEB, 0xE6};
inline const QColor paper{0xF8, 0xF7, 0xF4};
inline const QColor stage{0x6B, 0x6B, 0x6B};
inline const QColor ink{0x26, 0x28, 0x2B};
inline const QColor faint{0x6A, 0x67, 0x60};
inline const QColor seam{0xCF, 0xCB, 0xC2};
inline const QColor indigo{0x2E, 0x4A, 0x86};
inline const QColor flax{0xB9, 0x8A, 0x2E};
inline const QColor plum{0x7A, 0x3E, 0x6D};
inline const QColor slate{0x5C, 0x71, 0x84};
inline const QColor madder{0xA6, 0x3A, 0x2B};
} // namespace colour

inline constexpr int columnWidth = 264;

/// Inter at a pixel size.
QFont textFont(int pixels = 13, QFont::Weight weight = QFont::Normal);
/// Font and style sheet for the whole program.
void applyTheme(QApplication& application);

} // namespace yarngap::app
