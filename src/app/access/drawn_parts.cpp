#include "app/access/drawn_parts.h"

#include <QAccessibleWidget>
#include <QPointer>
#include <QWidget>

#include <algorithm>
#include <vector>

namespace yarngap::app {

namespace {

constexpr const char* tellsNews = "tellsNews";

/// One part. It looks its widget's part up each time, so it is never out of date.
class PartInterface : public QAccessibleInterface,
                      public QAccessibleValueInterface,
                      public QAccessibleActionInterface {
  public:
    PartInterface(QWidget* widget, int index)
        : widget_(widget)
        , index_(index) {}

    [[nodiscard]] bool isValid() const override {
        return parts() != nullptr && index_ < parts()->partCount();
    }
    [[nodiscard]] QObject* object() const override { return nullptr; }
    [[nodiscard]] QAccessibleInterface* parent() const override {
        return QAccessible::queryAccessibleInterface(widget_);
    }
    [[nodiscard]] QAccessibleInterface* child(int) const override { return nullptr; }
    [[nodiscard]] QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    [[nodiscard]] int childCount() const override { return 0; }
    [[nodiscard]] int indexOfChild(const QAccessibleInterface*) const override { return -1; }
    [[nodiscard]] QAccessible::Role role() const override {
        return isValid() ? part().role : QAccessible::NoRole;
    }

    [[nodiscard]] QString text(QAccessible::Text kind) const override {
        if (!isValid()) return {};
        const DrawnPart shown = part();
        if (kind == QAccessible::Name) return shown.name;
        if (kind == QAccessible::Description) return shown.description;
        if (kind == QAccessible::Value && shown.value) return QString::number(shown.value->now);
        return {};
    }
    void setText(QAccessible::Text, const QString&) override {}

    [[nodiscard]] QRect rect() const override {
        if (!isValid()) return {};
        const QRect place = part().place.toAlignedRect() & widget_->rect();
        return {widget_->mapToGlobal(place.topLeft()), place.size()};
    }

    [[nodiscard]] QAccessible::State state() const override {
        QAccessible::State state;
        if (!isValid()) {
            state.invalid = true;
            return state;
        }
        const DrawnPart shown = part();
        state.focusable = widget_->focusPolicy() != Qt::NoFocus;
        state.focused = widget_->hasFocus() && parts()->currentPart() == index_;
        state.selectable = shown.role == QAccessible::ListItem;
        state.selected = shown.isSelected;
        state.readOnly = shown.value && !shown.canBeSet;
        state.invisible = !widget_->isVisible();
        state.offscreen = shown.place.isEmpty();
        return state;
    }

    void* interface_cast(QAccessible::InterfaceType type) override {
        if (type == QAccessible::ValueInterface && isValid() && part().value)
            return static_cast<QAccessibleValueInterface*>(this);
        if (type == QAccessible::ActionInterface) return static_cast<QAccessibleActionInterface*>(this);
        return nullptr;
    }

    [[nodiscard]] QVariant currentValue() const override { return value().now; }
    [[nodiscard]] QVariant minimumValue() const override { return value().least; }
    [[nodiscard]] QVariant maximumValue() const override { return value().most; }
    [[nodiscard]] QVariant minimumStepSize() const override { return value().step; }
    void setCurrentValue(const QVariant& wanted) override {
        if (isValid() && part().canBeSet) parts()->setPart(index_, wanted.toDouble());
    }

    [[nodiscard]] QStringList actionNames() const override { return {pressAction()}; }
    [[nodiscard]] QStringList keyBindingsForAction(const QString&) const override { return {}; }
    void doAction(const QString& name) override {
        if (isValid() && name == pressAction()) parts()->pressPart(index_);
    }

  private:
    [[nodiscard]] DrawnParts* parts() const { return dynamic_cast<DrawnParts*>(widget_.data()); }
    [[nodiscard]] DrawnPart part() const { return parts()->part(index_); }
    [[nodiscard]] DrawnPart::Value value() const {
        return isValid() ? part().value.value_or(DrawnPart::Value{}) : DrawnPart::Value{};
    }

    QPointer<QWidget> widget_;
    int index_;
};

/// A widget with its parts: they come behind the widgets in it.
class PartsInterface : public QAccessibleWidget {
  public:
    explicit PartsInterface(QWidget* widget)
        : QAccessibleWidget(widget, QAccessible::List) {}
    PartsInterface(const PartsInterface&) = delete;
    PartsInterface& operator=(const PartsInterface&) = delete;
    ~PartsInterface() override {
        for (const QAccessible::Id id : ids_)
            QAccessible::deleteAccessibleInterface(id);
    }

    [[nodiscard]] int childCount() const override {
        return QAccessibleWidget::childCount() + parts().partCount();
    }
    [[nodiscard]] QAccessibleInterface* child(int index) const override {
        const int first = QAccessibleWidget::childCount();
        if (index < first) return QAccessibleWidget::child(index);
        return index < childCount() ? partInterface(index - first) : nullptr;
    }
    [[nodiscard]] int indexOfChild(const QAccessibleInterface* child) const override {
        const auto found = std::ranges::find_if(
            ids_, [child](QAccessible::Id id) { return QAccessible::accessibleInterface(id) == child; });
        if (found == ids_.end()) return QAccessibleWidget::indexOfChild(child);
        return QAccessibleWidget::childCount() + static_cast<int>(found - ids_.begin());
    }
    [[nodiscard]] QAccessibleInterface* childAt(int x, int y) const override {
        for (int i = childCount() - 1; i >= 0; --i)
            if (QAccessibleInterface* one = child(i); one && one->rect().contains(x, y)) return one;
        return nullptr;
    }
    [[nodiscard]] QAccessibleInterface* focusChild() const override {
        const int current = parts().currentPart();
        if (widget()->hasFocus() && current >= 0 && current < parts().partCount())
            return partInterface(current);
        return QAccessibleWidget::focusChild();
    }

  private:
    [[nodiscard]] DrawnParts& parts() const { return dynamic_cast<DrawnParts&>(*widget()); }
    [[nodiscard]] QAccessibleInterface* partInterface(int index) const {
        const auto wanted = static_cast<std::size_t>(index);
        while (ids_.size() <= wanted) { // Qt owns them from here on
            const auto next = static_cast<int>(ids_.size());
            ids_.push_back(QAccessible::registerAccessibleInterface(new PartInterface(widget(), next)));
        }
        return QAccessible::accessibleInterface(ids_[wanted]);
    }

    mutable std::vector<QAccessible::Id> ids_; ///< of those that were asked for
};

QAccessibleInterface* interfaceFor(const QString&, QObject* object) {
    if (!object || !object->isWidgetType()) return nullptr;
    auto* widget = static_cast<QWidget*>(object);
    if (dynamic_cast<DrawnParts*>(object) != nullptr) return new PartsInterface(widget); // Qt takes it
    if (object->property(tellsNews).toBool()) return new QAccessibleWidget(widget, QAccessible::Notification);
    // Others are asked about before they have found their place in it, and look like windows then.
    if (widget->inherits("yarngap::app::MainWindow"))
        return new QAccessibleWidget(widget, QAccessible::Window);
    return nullptr;
}

void tell(QWidget& widget, int index, QAccessible::Event event) {
    QAccessibleInterface* whole = QAccessible::queryAccessibleInterface(&widget);
    if (!whole) return;
    QAccessibleEvent told(&widget, event);
    told.setChild(whole->childCount() - dynamic_cast<DrawnParts&>(widget).partCount() + index);
    QAccessible::updateAccessibility(&told);
}

} // namespace

// Before any of these widgets is asked for: what was answered once is kept. More calls than one do nothing.
DrawnParts::DrawnParts() {
    QAccessible::installFactory(interfaceFor);
}

void readOutNews(QWidget& bar, const QString& sentence) {
    QAccessible::installFactory(interfaceFor);
    bar.setProperty(tellsNews, true);
    bar.setAccessibleName(sentence);
    if (!QAccessible::isActive() || !bar.isVisible()) return; // else it is read out when it is shown
    QAccessibleEvent told(&bar, QAccessible::ObjectShow);
    QAccessible::updateAccessibility(&told);
}

void tellCurrentPart(QWidget& widget) {
    if (!QAccessible::isActive()) return;
    const int current = dynamic_cast<DrawnParts&>(widget).currentPart();
    if (current < 0) return;
    if (widget.hasFocus()) tell(widget, current, QAccessible::Focus);
    tell(widget, current, QAccessible::NameChanged);
}

void tellPartValue(QWidget& widget, int index) {
    QAccessibleInterface* whole =
        QAccessible::isActive() ? QAccessible::queryAccessibleInterface(&widget) : nullptr;
    if (!whole) return;
    auto& parts = dynamic_cast<DrawnParts&>(widget);
    const std::optional<DrawnPart::Value> value = parts.part(index).value;
    QAccessibleInterface* part = whole->child(whole->childCount() - parts.partCount() + index);
    if (!value || !part) return;
    QAccessibleValueChangeEvent told(part, value->now);
    QAccessible::updateAccessibility(&told);
}

} // namespace yarngap::app
