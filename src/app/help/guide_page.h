// The guide, beside its chapters, to read and to search.
#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>
#include <QWidget>

namespace yarngap::app {

/// Shows the guide's pictures as wide as the text.
class GuideText : public QTextBrowser {
    Q_OBJECT
  public:
    using QTextBrowser::QTextBrowser;

  protected:
    QVariant loadResource(int type, const QUrl& name) override;
};

class GuidePage : public QWidget {
    Q_OBJECT
  public:
    explicit GuidePage(QWidget* parent = nullptr);

    /// Goes to the chapter with this heading; false when there is none.
    bool goTo(const QString& heading);
    void focusSearch();

  private:
    void listChapters();
    void findNext();

    QLineEdit* search_;
    QListWidget* chapters_;
    GuideText* text_;
    QLabel* says_;
};

/// Where the guide is installed, or lies beside a build; empty when it is not found.
[[nodiscard]] QString guideFile();

} // namespace yarngap::app
