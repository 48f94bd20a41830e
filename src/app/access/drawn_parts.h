// Parts that a widget paints itself, told to screen readers as children of it.
#pragma once

#include <QAccessible>
#include <QRectF>
#include <QString>

#include <optional>

namespace yarngap::app {

/// What a screen reader is told of one part.
struct DrawnPart {
    /// A number that the part stands for.
    struct Value {
        double now = 0;
        double least = 0;
        double most = 0;
        double step = 1;
    };

    QString name;             ///< all that is to be read out
    QString description = {}; ///< what can be done with it
    QAccessible::Role role = QAccessible::ListItem;
    QRectF place = {}; ///< in the widget
    bool isSelected = false;
    std::optional<Value> value = {};
    bool canBeSet = false; ///< the value, by setPart
};

/// To be inherited by a widget that paints things of its own: keys, frames. Parts are told by their index,
/// which holds until the widget says that they changed.
///
///     class SourceSheet : public QWidget, public DrawnParts { … };
///     tellParts(*this); // others are on the page now
///     tellCurrentPart(*this);
class DrawnParts {
  public:
    DrawnParts();
    DrawnParts(const DrawnParts&) = delete;
    DrawnParts& operator=(const DrawnParts&) = delete;
    virtual ~DrawnParts() = default;
    [[nodiscard]] virtual int partCount() const = 0;
    /// `index` is at least 0 and below partCount().
    [[nodiscard]] virtual DrawnPart part(int index) const = 0;
    /// The part that the widget's keys act on; −1 for none.
    [[nodiscard]] virtual int currentPart() const { return -1; }
    /// What a click on it does.
    virtual void pressPart(int) {}
    /// Sets its value, where it can be set.
    virtual void setPart(int, double) {}
};

/// The current part is another, or says something else now: it is read out where the widget has the focus.
void tellCurrentPart(QWidget& widget);
/// The value of a part has changed.
void tellPartValue(QWidget& widget, int index);

/// Reads out a sentence that nobody has asked for; `bar` shows it, now or in a moment.
void readOutNews(QWidget& bar, const QString& sentence);

} // namespace yarngap::app
