// The guide, beside its chapters, to read and to search.
#pragma once

#include "app/document/background_tasks.h"

#include <QHash>
#include <QImage>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>
#include <QWidget>

namespace yarngap::app {

/// Text whose pictures are in memory already.
class GuideText : public QTextBrowser {
    Q_OBJECT
  public:
    using QTextBrowser::QTextBrowser;

    void show(const QString& markdown, const QHash<QString, QImage>& pictures);

  protected:
    QVariant loadResource(int type, const QUrl& name) override;

  private:
    QHash<QString, QImage> pictures_; ///< by the names that the text has for them
};

class GuidePage : public QWidget {
    Q_OBJECT
  public:
    explicit GuidePage(QWidget* parent = nullptr);

    /// Goes to the chapter with this heading, as soon as the guide is read.
    void goTo(const QString& heading);
    void focusSearch();

  private:
    void read(const QString& file);
    void listChapters();
    void findNext();

    QLineEdit* search_;
    QListWidget* chapters_;
    GuideText* text_;
    QLabel* says_;
    QString wanted_;        ///< chapter
    BackgroundTasks tasks_; ///< last: ended before what it answers to goes
};

/// Where the guide is installed, or lies beside a build; empty when it is not found.
[[nodiscard]] QString guideFile();

} // namespace yarngap::app
