// Colours, type and measures of the window.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

class QApplication;

class QPainter;

namespace yarngap::app {

/// Colours of the stage, which is the same neutral grey in every look.
namespace colour {
inline const QColor cloth{0xED, 0xEB, 0xE6};
inline const QColor paper{0xF8, 0xF7, 0xF4};
inline const QColor stage{0x6B, 0x6B, 0x6B};
inline const QColor ink{0x26, 0x28, 0x2B};
inline const QColor indigo{0x2E, 0x4A, 0x86};
inline const QColor flax{0xB9, 0x8A, 0x2E};
inline const QColor plum{0x7A, 0x3E, 0x6D};
inline const QColor madder{0xA6, 0x3A, 0x2B};
} // namespace colour

/// The colours of one look.
struct Shades {
    QColor cloth;  ///< the window
    QColor paper;  ///< what lies on it: cards, lists, buttons
    QColor field;  ///< what is typed into
    QColor ink;    ///< text
    QColor faint;  ///< text of less weight
    QColor seam;   ///< lines between things
    QColor indigo; ///< what is chosen, and the time map
    QColor flax;   ///< blends
    QColor plum;   ///< flow
    QColor slate;  ///< repeats
    QColor madder; ///< trouble
    QColor fill;   ///< below white text
    QColor hover;
    QColor chosen; ///< below text that is chosen
    QColor off;    ///< text of what cannot be used
    QColor notice; ///< below what is told
};
[[nodiscard]] const Shades& lightShades();
[[nodiscard]] const Shades& darkShades();

/// Whether the program has its dark look now.
[[nodiscard]] bool isDark();
/// Colours of the look in force.
[[nodiscard]] const Shades& shades();

/// Marks what is painted by hand as having the focus, just inside `place`.
void drawFocus(QPainter& p, const QRect& place);

inline constexpr int columnWidth = 264;

/// Inter at a pixel size.
QFont textFont(int pixels = 13, QFont::Weight weight = QFont::Normal);
/// Font, palette and style sheet for the whole program; again for another look.
void applyTheme(QApplication& application, bool dark = false);

/// Keeps the style sheet from the program until it ends. While a window is built, each widget that gets a
/// parent would be styled anew with all that is in it, which took half of the time to start.
class SheetWithheld {
  public:
    SheetWithheld();
    ~SheetWithheld();
    SheetWithheld(const SheetWithheld&) = delete;
    SheetWithheld& operator=(const SheetWithheld&) = delete;

  private:
    QString sheet_;
};

} // namespace yarngap::app
