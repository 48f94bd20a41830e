// A real window with one shot in it, for tests that drive it with mouse and keys.
#pragma once

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/look/value_field.h"
#include "app/window/main_window.h"
#endif

#include <QComboBox>
#include <QTest>

#include <memory>

namespace yarngap::test {

/// Opens clips at 25 % with the step In-betweens open. What goes wrong on the way fails the test loudly.
class ShotWindow {
  public:
    void open(const QString& clip);
    void close() { window_.reset(); }

    app::MainWindow* operator->() const { return window_.get(); }

    template <typename T>
    [[nodiscard]] T* find(const char* name) const {
        auto* found = window_->findChild<T*>(QString::fromLatin1(name));
        if (!found) qFatal("There is no %s in the window", name);
        return found;
    }
    /// Chooses an entry as a click in the list would.
    void choose(const char* box, int index) const {
        auto* choices = find<QComboBox>(box);
        choices->setCurrentIndex(index);
        Q_EMIT choices->activated(index);
    }
    /// Types into a field and presses Enter.
    void type(const char* field, const QString& words) const {
        auto* line = find<app::ValueField>(field);
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, words);
        QTest::keyClick(line, Qt::Key_Return);
    }

  private:
    std::unique_ptr<app::MainWindow> window_;
};

} // namespace yarngap::test
