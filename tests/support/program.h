// The command line run as its users run it.
#pragma once

#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QProcessEnvironment>
#include <QStringList>

namespace yarngap::test {

struct Outcome {
    int status = 0; // −1: did not end in time, −2: crashed
    QByteArray out;
    QString err;
    [[nodiscard]] QJsonObject json() const { return QJsonDocument::fromJson(out).object(); }
    /// It failed, and told so in a sentence.
    [[nodiscard]] bool isRefusal() const {
        return status == 1 && err.trimmed().endsWith(QLatin1Char('.')) &&
               !err.contains(QStringLiteral("inside Yarn Gap"));
    }
    [[nodiscard]] QByteArray told() const { return QByteArray::number(status) + ' ' + err.toUtf8(); }
};

/// `variables`: name and value in turn, added to the environment.
inline Outcome runProgram(const QString& program, const QStringList& arguments,
                          const QStringList& variables = {}, int milliseconds = 250'000) {
    auto environment = QProcessEnvironment::systemEnvironment();
    for (qsizetype i = 0; i + 1 < variables.size(); i += 2)
        environment.insert(variables[i], variables[i + 1]);
    QProcess process;
    process.setProcessEnvironment(environment);
    process.start(program, arguments);
    if (!process.waitForFinished(milliseconds)) {
        process.kill();
        process.waitForFinished();
        return {-1, {}, QStringLiteral("did not end")};
    }
    return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -2,
            process.readAllStandardOutput(), QString::fromUtf8(process.readAllStandardError())};
}

/// Arguments without spaces in them.
inline QStringList words(const QString& text) {
    return text.split(QLatin1Char(' '), Qt::SkipEmptyParts);
}

} // namespace yarngap::test
