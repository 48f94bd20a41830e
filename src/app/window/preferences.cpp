#include "app/window/preferences.h"

#include "app/look/numbers.h"
#include "core/error.h"
#include "core/memory_shares.h"

#include <QObject>
#include <QSettings>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double megabyte = 1024.0 * 1024.0;
constexpr double gigabyte = 1024.0 * megabyte;
constexpr std::uint64_t mostDisk = std::uint64_t{1} << 42; // 4 TB

QString memoryKey() {
    return QStringLiteral("memoryBytes");
}
QString frameDiskKey() {
    return QStringLiteral("frameDiskBytes");
}
QString vectorDiskKey() {
    return QStringLiteral("vectorDiskBytes");
}
QString soundKey() {
    return QStringLiteral("sound");
}
QString lookKey() {
    return QStringLiteral("look");
}
QString sizeKey() {
    return QStringLiteral("sizePercent");
}

int keptSize(const QSettings& settings) {
    const int kept = settings.value(sizeKey(), 100).toInt();
    return std::ranges::find(sizePercents, kept) != sizePercents.end() ? kept : 100;
}

} // namespace

Preferences defaultPreferences() {
    constexpr std::uint64_t disk = std::uint64_t{4} << 30;
    return {.memoryBytes = std::max<std::uint64_t>(leastMemory, machineMemory() / 4),
            .frameDiskBytes = disk,
            .vectorDiskBytes = disk};
}

Preferences loadPreferences() {
    const Preferences usual = defaultPreferences();
    const QSettings settings;
    const auto bytes = [&settings](const QString& key, std::uint64_t otherwise) {
        bool valid = false;
        const std::uint64_t value = settings.value(key).toULongLong(&valid);
        return valid ? value : otherwise;
    };
    return {.memoryBytes = std::clamp<std::uint64_t>(bytes(memoryKey(), usual.memoryBytes), leastMemory,
                                                     std::max(leastMemory, machineMemory() * 3 / 4)),
            .frameDiskBytes = std::min(mostDisk, bytes(frameDiskKey(), usual.frameDiskBytes)),
            .vectorDiskBytes = std::min(mostDisk, bytes(vectorDiskKey(), usual.vectorDiskBytes)),
            .sound = settings.value(soundKey(), usual.sound).toBool(),
            .look = static_cast<Look>(std::clamp(settings.value(lookKey(), 0).toInt(), 0, 2)),
            .sizePercent = keptSize(settings)};
}

void savePreferences(const Preferences& preferences) {
    QSettings settings;
    settings.setValue(memoryKey(), QVariant::fromValue<qulonglong>(preferences.memoryBytes));
    settings.setValue(frameDiskKey(), QVariant::fromValue<qulonglong>(preferences.frameDiskBytes));
    settings.setValue(vectorDiskKey(), QVariant::fromValue<qulonglong>(preferences.vectorDiskBytes));
    settings.setValue(soundKey(), preferences.sound);
    settings.setValue(lookKey(), static_cast<int>(preferences.look));
    settings.setValue(sizeKey(), preferences.sizePercent);
}

void applySizeOfText() {
    const int percent = keptSize(QSettings());
    const char* asked = "QT_SCALE_FACTOR";
    if (percent != 100 && !qEnvironmentVariableIsSet(asked))
        qputenv(asked, QByteArray::number(percent / 100.0));
}

QString displayBytes(std::uint64_t bytes) {
    const auto value = static_cast<double>(bytes);
    if (value < gigabyte) return QObject::tr("%1 MB").arg(std::lround(value / megabyte));
    return QObject::tr("%1 GB").arg(shownShortly(value / gigabyte, 1));
}

std::uint64_t parseBytes(const QString& text) {
    QString t = text.trimmed().replace(QLatin1Char(','), QLatin1Char('.'));
    double unit = gigabyte;
    if (t.endsWith(QLatin1String("MB"), Qt::CaseInsensitive)) unit = megabyte;
    if (t.endsWith(QLatin1String("MB"), Qt::CaseInsensitive) ||
        t.endsWith(QLatin1String("GB"), Qt::CaseInsensitive))
        t.chop(2);
    bool valid = false;
    const double number = t.trimmed().toDouble(&valid);
    if (!valid || !(number >= 0) || number * unit > static_cast<double>(mostDisk))
        throw Error("Type a size such as 2 GB or 800 MB.");
    return static_cast<std::uint64_t>(std::llround(number * unit));
}

} // namespace yarngap::app
