#include "app/look/language.h"

#include <QCoreApplication>
#include <QLibraryInfo>
#include <QLocale>
#include <QStandardPaths>

namespace yarngap::app {

namespace {

constexpr const char* noClass = "yarngap::app";

QStringList foldersOfTranslations() {
    QStringList folders =
        QStandardPaths::locateAll(QStandardPaths::GenericDataLocation, QStringLiteral("yarngap/translations"),
                                  QStandardPaths::LocateDirectory);
    folders << QCoreApplication::applicationDirPath() + QStringLiteral("/../share/yarngap/translations");
    return folders;
}

/// Installs the first translation for `locale` in `folders`; true when there is one.
bool install(QCoreApplication& application, const QLocale& locale, const QStringList& folders) {
    auto* own = new Translation(&application);
    for (const QString& folder : folders)
        if (own->load(locale, QStringLiteral("yarngap"), QStringLiteral("_"), folder))
            return QCoreApplication::installTranslator(own);
    delete own;
    return false;
}

void installPlurals() {
    install(*QCoreApplication::instance(), QLocale(QLocale::English), {QStringLiteral(":/translations")});
}
Q_COREAPP_STARTUP_FUNCTION(installPlurals)

} // namespace

QString translated(const char* text) {
    return QCoreApplication::translate(noClass, text);
}

QString Translation::translate(const char* context, const char* text, const char* distinction, int n) const {
    const QString found = QTranslator::translate(context, text, distinction, n);
    return found.isNull() ? QTranslator::translate(noClass, text, distinction, n) : found;
}

void applyLanguage(QCoreApplication& application) {
    const QLocale locale;
    if (locale.language() == QLocale::English || !install(application, locale, foldersOfTranslations()))
        return;
    auto* dialogs = new QTranslator(&application); // the library's own
    if (dialogs->load(locale, QStringLiteral("qtbase"), QStringLiteral("_"),
                      QLibraryInfo::path(QLibraryInfo::TranslationsPath)))
        QCoreApplication::installTranslator(dialogs);
}

} // namespace yarngap::app
