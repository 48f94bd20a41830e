// Help in a window of its own, which may stay open beside the work: keys, guide, problem report.
#pragma once

#include "app/help/guide_page.h"
#include "app/help/keys_page.h"
#include "app/help/report_page.h"

#include <QTabWidget>

namespace yarngap::app {

class HelpWindow : public QTabWidget {
    Q_OBJECT
  public:
    HelpWindow(KeyTable& keys, QWidget* parent);

    void showKeys();
    /// At the chapter with this heading.
    void showGuide(const QString& heading);
    [[nodiscard]] ReportPage& report() { return *report_; }

  Q_SIGNALS:
    /// The report is about to be read.
    void reportAsked();

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void bringUp(QWidget* page);

    KeysPage* keys_;
    GuidePage* guide_;
    ReportPage* report_;
};

} // namespace yarngap::app
