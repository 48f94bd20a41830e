// Whole files as bytes.
#pragma once

#include <QByteArray>
#include <QDir>
#include <QFile>
#include <QString>
#include <QStringList>

namespace yarngap::test {

/// Empty when there is no such file.
inline QByteArray bytesOf(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

/// Writes into the file that is there, or a new one. Fails the test loudly.
inline void putBytes(const QString& path, const QByteArray& bytes) {
    QFile file(path);
    if (!file.open(QIODevice::ReadWrite) || file.write(bytes) != bytes.size() || !file.resize(bytes.size()))
        qFatal("%s cannot be written", qPrintable(path));
}

/// `path`, which is an empty folder now.
inline QString emptied(QString path) {
    QDir(path).removeRecursively();
    QDir().mkpath(path);
    return path;
}

/// Names of all that is in a folder, hidden or not, in order.
inline QStringList everythingIn(const QString& folder) {
    return QDir(folder).entryList(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot, QDir::Name);
}

} // namespace yarngap::test
