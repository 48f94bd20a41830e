#include "support/clips.h"

#include <QProcess>
#include <QTest>

namespace yarngap::test {

namespace {

QByteArray runFfmpeg(const QStringList& arguments) {
    QProcess process;
    process.start(QStringLiteral("ffmpeg"), QStringList{QStringLiteral("-v"), QStringLiteral("error"),
                                                        QStringLiteral("-nostdin"), QStringLiteral("-y")} +
                                                arguments);
    if (!process.waitForFinished(120'000) || process.exitCode() != 0)
        qFatal("ffmpeg failed: %s\n%s", qPrintable(arguments.join(QLatin1Char(' '))),
               process.readAllStandardError().constData());
    return process.readAllStandardOutput();
}

} // namespace

QString Clips::make(const QString& name, const QStringList& arguments) const {
    QString target = path(name);
    runFfmpeg(arguments + QStringList{target});
    return target;
}

QString Clips::moving(const QString& name, int frames, const QStringList& coding, const QString& size,
                      const QString& rate, const QString& pixelFormat) const {
    return make(name, QStringList{QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                                  QStringLiteral("testsrc2=size=%1:rate=%2").arg(size, rate),
                                  QStringLiteral("-frames:v"), QString::number(frames),
                                  QStringLiteral("-pix_fmt"), pixelFormat} +
                          coding);
}

QString Clips::varying(const QString& name) const {
    return make(name, {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                       QStringLiteral("testsrc2=size=160x90:rate=25,select='mod(n+5,10)'"),
                       QStringLiteral("-frames:v"), QStringLiteral("45"), QStringLiteral("-fps_mode"),
                       QStringLiteral("vfr"), QStringLiteral("-pix_fmt"), QStringLiteral("yuv420p")});
}

QByteArray linearFrames(const QString& clip, const QString& pixelFormat) {
    return runFfmpeg({QStringLiteral("-i"), clip, QStringLiteral("-map"), QStringLiteral("0:v:0"),
                      QStringLiteral("-fps_mode"), QStringLiteral("passthrough"), QStringLiteral("-f"),
                      QStringLiteral("rawvideo"), QStringLiteral("-pix_fmt"), pixelFormat,
                      QStringLiteral("-")});
}

QByteArray rawSamples(const Image& image) {
    QByteArray out;
    for (int p = 0; p < image.planeCount(); ++p)
        for (int y = 0; y < image.plane(p).height; ++y) {
            const auto row = image.row<char>(p, y);
            out.append(row.data(), static_cast<qsizetype>(row.size()) * image.layout().bytesPerSample());
        }
    return out;
}

std::shared_ptr<FrameSource> openSource(const QString& clip) {
    return std::make_shared<FrameSource>(std::make_shared<MediaIndex>(buildIndex(clip.toStdString())));
}

} // namespace yarngap::test
