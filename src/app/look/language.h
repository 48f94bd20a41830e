// The language of the window.
#pragma once

#include <QString>
#include <QTranslator>

class QCoreApplication;

namespace yarngap::app {

/// A text in the language of the window, where no class has a tr() for it. scripts/texts collects these as it
/// does those of tr().
QString translated(const char* text);

/// What a translator made of the window's texts. A text that is not there under the class that shows it is
/// looked for among those of no class.
class Translation : public QTranslator {
    Q_OBJECT
  public:
    using QTranslator::QTranslator;
    [[nodiscard]] QString translate(const char* context, const char* text, const char* distinction,
                                    int n) const override;
};

/// Installs the language of the locale where somebody has translated the program into it:
/// `yarngap_<language>.qm` in `yarngap/translations` of a data folder, or of the one the program was
/// installed with. English is always there, with its plurals.
void applyLanguage(QCoreApplication& application);

} // namespace yarngap::app
