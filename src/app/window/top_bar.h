// The line at the top: what is open, how a render is getting on, and the first buttons of a day.
#pragma once

#include "app/document/document.h"
#include "app/document/render_controller.h"

#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QToolButton>
#include <QWidget>

namespace yarngap::app {

class TopBar : public QWidget {
    Q_OBJECT
  public:
    TopBar(Document& document, const RenderController& render, QWidget* parent = nullptr);

    void refresh();
    /// In the colours of the look in force.
    void renewIcons();
    /// What the project is called here.
    [[nodiscard]] QString projectName() const { return projectName_->text(); }
    /// Whether the left column is to be seen.
    [[nodiscard]] bool showsColumn() const { return fold_->isChecked(); }
    void showColumn(bool shown) { fold_->setChecked(shown); }
    [[nodiscard]] QPushButton& openButton() { return *open_; }
    [[nodiscard]] QPushButton& settingsButton() { return *settings_; }

  Q_SIGNALS:
    void columnAsked(bool shown);
    void openAsked();
    void saveAsked();
    void settingsAsked();
    void helpAsked();

  private:
    void prepareFold();
    void prepareButtons();
    void refreshRender();
    Document& document_;
    const RenderController& render_;
    QToolButton* fold_; ///< shows and hides the left column
    QLabel* projectName_;
    QLabel* shotName_;
    QProgressBar* renderBar_;
    QLabel* renderText_;
    QPushButton* undo_;
    QPushButton* redo_;
    QPushButton* open_;
    QPushButton* save_;
    QPushButton* settings_;
    QPushButton* help_;
};

} // namespace yarngap::app
