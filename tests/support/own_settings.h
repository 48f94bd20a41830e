// Settings of a test's own: what an earlier run or the user has kept must neither help nor hinder.
#pragma once

#include <QCoreApplication>
#include <QSettings>
#include <QTemporaryDir>

namespace yarngap::test {

/// Empty settings, kept in a folder that goes with this object.
class OwnSettings {
  public:
    OwnSettings() {
        QCoreApplication::setOrganizationName(QStringLiteral("Yarn Gap tests"));
        QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, folder_.path());
    }

  private:
    QTemporaryDir folder_;
};

} // namespace yarngap::test
