// Sound in rendered files: at its place to the sample, as long as the pictures, along whatever the plan does.

#include "core/error.h"
#include "core/media/library_messages.h"
#include "core/render/render_job.h"
#include "core/render/render_sound.h"
#include "core/sound/sound_reader.h"
#include "core/sound/stretched_sound.h"
#include "core/synthesis/planned_frames.h"
#include "core/time/map_edits.h"
#include "support/clips.h"
#include "support/program.h"

#include <QProcess>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>

using namespace yarngap;
using namespace yarngap::test;

namespace {

constexpr int frameRate = 24;

/// A part of a clip at a speed, with its sound.
RenderPart partOf(const QString& clip, const Rational& speed, const Cleanup& cleanup = {}) {
    const auto index = std::make_shared<const MediaIndex>(buildIndex(clip.toStdString()));
    const auto axis = std::make_shared<const SourceAxis>(*index, Interpretation(), cleanup);
    Timing timing{.sourceRate = axis->facts().rate,
                  .outputRate = axis->facts().rate,
                  .from = 0,
                  .to = axis->frames() - 1,
                  .speed = speed};
    const auto source = std::make_shared<FrameSource>(index, std::size_t{8} << 20);
    const auto plan = std::make_shared<const FramePlan>(makePlan(timing, Method::sample, axis->frames()));
    RenderPart part{"clip", std::make_shared<const PlannedFrames>(
                                plan, FrameMaker(source, std::make_shared<VectorStore>(), plan->settings))};
    part.index = index;
    part.axis = axis;
    return part;
}

/// All sound of a file from its first picture on as ffmpeg decodes it: one channel, 48 kHz.
std::vector<float> soundIn(const QString& file, int channel = 0) {
    QProcess ffmpeg;
    ffmpeg.start(
        QStringLiteral("ffmpeg"),
        {QStringLiteral("-v"), QStringLiteral("error"), QStringLiteral("-copyts"), QStringLiteral("-i"), file,
         QStringLiteral("-map"), QStringLiteral("0:a:0"), QStringLiteral("-af"),
         QStringLiteral("aresample=async=1:first_pts=0,pan=mono|c0=c%1").arg(channel), QStringLiteral("-ar"),
         QStringLiteral("48000"), QStringLiteral("-f"), QStringLiteral("f32le"), QStringLiteral("-")});
    ffmpeg.waitForFinished();
    const QByteArray bytes = ffmpeg.readAllStandardOutput();
    std::vector<float> samples(static_cast<std::size_t>(bytes.size()) / sizeof(float));
    std::memcpy(samples.data(), bytes.constData(), samples.size() * sizeof(float));
    return samples;
}

QString probed(const QString& file, const QString& stream, const QString& entry) {
    const Outcome o =
        runProgram(QStringLiteral("ffprobe"),
                   {QStringLiteral("-v"), QStringLiteral("error"), QStringLiteral("-select_streams"), stream,
                    QStringLiteral("-show_entries"), QStringLiteral("stream=") + entry, QStringLiteral("-of"),
                    QStringLiteral("csv=p=0"), file});
    return QString::fromLatin1(o.out).trimmed().section(QLatin1Char('\n'), 0, 0);
}

/// First sample louder than `level` from `from` on; −1 when there is none.
std::int64_t firstLoud(const std::vector<float>& samples, std::int64_t from, float level = 0.3F) {
    for (auto i = static_cast<std::size_t>(from); i < samples.size(); ++i)
        if (std::abs(samples[i]) > level) return static_cast<std::int64_t>(i);
    return -1;
}

double strength(const std::vector<float>& samples, double from, double to) {
    double sum = 0;
    std::size_t count = 0;
    for (auto i = static_cast<std::size_t>(from * 48000);
         i < std::min(samples.size(), static_cast<std::size_t>(to * 48000)); ++i, ++count)
        sum += static_cast<double>(samples[i]) * static_cast<double>(samples[i]);
    return count > 0 ? std::sqrt(sum / static_cast<double>(count)) : 0;
}

} // namespace

class TestRenderSound : public QObject {
    Q_OBJECT

    Clips clips_;
    QString clicks_;

    /// Pictures with a sound by formula.
    [[nodiscard]] QString clip(const char* name, const QString& sound, const QString& picture, double seconds,
                               const QString& rate = QStringLiteral("48000")) const {
        return clips_.make(QString::fromLatin1(name),
                           {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                            picture + QStringLiteral(":d=%1").arg(seconds), QStringLiteral("-f"),
                            QStringLiteral("lavfi"), QStringLiteral("-i"),
                            QStringLiteral("aevalsrc=%1:s=%2:d=%3").arg(sound, rate).arg(seconds),
                            QStringLiteral("-c:v"), QStringLiteral("ffv1"), QStringLiteral("-c:a"),
                            QStringLiteral("pcm_f32le")});
    }
    RenderReport render(std::vector<RenderPart> parts, const QString& target,
                        RenderOptions options = {}) const {
        options.target = target.toStdString();
        if (options.format == FormatChoice()) options.format = formatForTarget(options.target);
        options.rate = Rate(frameRate, 1);
        return RenderJob(std::move(parts), options).run();
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        clicks_ = clip("clicks.mkv", QStringLiteral("'if(lt(mod(t,1),0.002),0.8,0)'"),
                       QStringLiteral("color=c=gray:s=64x48:r=24"), 4);
    }

    void soundLiesAtItsPictureToTheSample_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("codec");
        QTest::addColumn<int>("slack"); // samples; coded sound smears what is sharp
        QTest::newRow("MKV, PCM") << "a.mkv" << static_cast<int>(SoundCodec::pcm) << 0;
        QTest::newRow("MKV, FLAC") << "b.mkv" << static_cast<int>(SoundCodec::flac) << 0;
        QTest::newRow("MOV, PCM") << "c.mov" << static_cast<int>(SoundCodec::pcm) << 0;
        QTest::newRow("MXF, PCM") << "d.mxf" << static_cast<int>(SoundCodec::pcm) << 0;
        QTest::newRow("MP4, FLAC") << "e.mp4" << static_cast<int>(SoundCodec::flac) << 0;
        QTest::newRow("MP4, AAC") << "f.mp4" << static_cast<int>(SoundCodec::aac) << 24;
        QTest::newRow("WebM, Opus") << "g.webm" << static_cast<int>(SoundCodec::opus) << 24;
    }
    void soundLiesAtItsPictureToTheSample() {
        QFETCH(QString, name);
        QFETCH(int, codec);
        QFETCH(int, slack);
        const QString target = clips_.path(name);
        // MXF with DNxHR needs larger pictures.
        const QString source = name.endsWith(QStringLiteral("mxf"))
                                   ? clip("wide.mkv", QStringLiteral("'if(lt(mod(t,1),0.002),0.8,0)'"),
                                          QStringLiteral("color=c=gray:s=320x240:r=24"), 4)
                                   : clicks_;
        RenderOptions options;
        options.format = formatForTarget(target.toStdString());
        options.format.soundCodec = static_cast<SoundCodec>(codec);
        const RenderReport report = render({partOf(source, 1)}, target, options);
        QVERIFY(report.hasSound);
        QVERIFY(report.notes.empty());
        QCOMPARE(probed(target, QStringLiteral("v:0"), QStringLiteral("start_time")).toDouble(), 0.0);
        const std::vector<float> heard = soundIn(target);
        for (int second = 0; second < 4; ++second) {
            const std::int64_t at = firstLoud(heard, std::max(0, second * 48000 - 200));
            QVERIFY2(std::abs(at - second * 48000) <= slack,
                     qPrintable(QStringLiteral("click %1 at %2").arg(second).arg(at)));
        }
        const auto length = static_cast<std::int64_t>(heard.size());
        QVERIFY2(std::abs(length - 4 * 48000) <= (slack > 0 ? 1024 : 0), qPrintable(QString::number(length)));
    }

    void atFullSpeedItIsTheSourcesOwnSamples() {
        const QString noise = clip("noise.mkv", QStringLiteral("'0.5*sin(1000*t*t)|0.3*cos(700*t*t)'"),
                                   QStringLiteral("color=c=gray:s=64x48:r=24"), 2, QStringLiteral("44100"));
        const QString target = clips_.path(QStringLiteral("own.mkv"));
        render({partOf(noise, 1)}, target);
        QCOMPARE(probed(target, QStringLiteral("a:0"), QStringLiteral("sample_rate")),
                 QStringLiteral("44100"));
        const SoundForm form{44100, 2, 0};
        const Sound before = readSound(buildIndex(noise.toStdString()), 0, 2, form);
        const Sound after = readSound(buildIndex(target.toStdString()), 0, 2, form);
        QCOMPARE(after.length(), before.length());
        for (std::size_t i = 0; i < before.samples.size(); ++i)
            QVERIFY(std::abs(before.samples[i] - after.samples[i]) <= 1.0F / (1 << 23));
        RenderOptions options;
        options.usualSoundRate = true;
        render({partOf(noise, 1)}, target, options);
        QCOMPARE(probed(target, QStringLiteral("a:0"), QStringLiteral("sample_rate")),
                 QStringLiteral("48000"));
    }

    void itIsAsLongAsThePicturesAtAnySpeed_data() {
        QTest::addColumn<int>("percent");
        for (const int percent : {37, 50, 100, 173})
            QTest::addRow("%d %%", percent) << percent;
    }
    void itIsAsLongAsThePicturesAtAnySpeed() {
        QFETCH(int, percent);
        const QString target = clips_.path(QStringLiteral("length.mov"));
        for (const SoundUse use : {SoundUse::ownPitch, SoundUse::tape, SoundUse::atFullSpeed}) {
            RenderOptions options;
            options.sound = use;
            const RenderReport report = render({partOf(clicks_, Rational(percent, 100))}, target, options);
            const Rational exact = Rational(report.frames) * Rational(48000) / Rational(frameRate);
            QCOMPARE(static_cast<std::int64_t>(soundIn(target).size()), exact.round());
        }
    }

    void tapeSoundFollowsTheSpeedAndOwnPitchDoesNot() {
        const QString tone = clip("tone.mkv", QStringLiteral("'0.5*sin(2*PI*600*t)'"),
                                  QStringLiteral("color=c=gray:s=64x48:r=24"), 3);
        const QString target = clips_.path(QStringLiteral("pitch.mkv"));
        const auto pitch = [](const std::vector<float>& s) {
            int rises = 0;
            for (std::size_t i = 24000; i < 48000; ++i)
                rises += s[i - 1] < 0 && s[i] >= 0 ? 1 : 0;
            return rises * 2.0;
        };
        RenderOptions options;
        for (const int percent : {50, 200}) {
            options.sound = SoundUse::tape;
            render({partOf(tone, Rational(percent, 100))}, target, options);
            const std::vector<float> taped = soundIn(target);
            QVERIFY2(std::abs(pitch(taped) - 6.0 * percent) <= 2, qPrintable(QString::number(pitch(taped))));
            QVERIFY(std::abs(strength(taped, 0.2, 1.2) - 0.5 / std::numbers::sqrt2) <
                    0.01); // no louder, no softer
            options.sound = SoundUse::ownPitch;
            render({partOf(tone, Rational(percent, 100))}, target, options);
            QVERIFY(std::abs(pitch(soundIn(target)) - 600) <= 12);
        }
    }

    void aTapePlayedAtItsOwnSpeedIsUnchanged() {
        Sound in(4000, {48000, 1, 0});
        for (std::int64_t i = 0; i < in.length(); ++i)
            in.at(i, 0) = static_cast<float>(std::sin(0.05 * static_cast<double>(i)));
        std::vector<double> places;
        for (int i = 500; i < 3500; ++i)
            places.push_back(i + 0.37); // between samples
        const Sound out = playedAt(in, places, {});
        for (std::size_t i = 0; i < places.size(); ++i)
            QVERIFY(std::abs(static_cast<double>(out.samples[i]) - std::sin(0.05 * places[i])) < 2e-3);
    }

    void elsewhereThanAtFullSpeedItIsSilentWhereThatIsAsked() {
        const QString tone = clip("hum.mkv", QStringLiteral("'0.5*sin(2*PI*300*t)'"),
                                  QStringLiteral("color=c=gray:s=64x48:r=24"), 3);
        RenderPart part = partOf(tone, 1);
        Timing timing{.sourceRate = Rate(24, 1), .outputRate = Rate(24, 1), .from = 0, .to = 71, .speed = 1};
        timing.keys = withRamp(
            timing.asKeys(), {.from = Rational(24), .to = Rational(48), .step = Rational(1, 2), .ease = {}});
        const auto plan = std::make_shared<const FramePlan>(makePlan(timing, Method::sample, 72));
        part.frames = std::make_shared<const PlannedFrames>(
            plan, FrameMaker(openSource(tone), std::make_shared<VectorStore>(), plan->settings));
        const QString target = clips_.path(QStringLiteral("partly.mkv"));
        RenderOptions options;
        options.sound = SoundUse::atFullSpeed;
        render({part}, target, options);
        const std::vector<float> heard = soundIn(target);
        QVERIFY(strength(heard, 0.1, 0.9) > 0.34);
        QVERIFY(strength(heard, 1.05, 2.95) < 1e-4);
        QVERIFY(strength(heard, 3.1, 3.9) > 0.34);
    }

    void soundOfFramesTakenOutGoesWithThem() {
        // A rising count of clicks would be hard to follow; a tone in the second that is taken out is not.
        const QString marked =
            clip("marked.mkv", QStringLiteral("'if(between(t,1,2),0.5*sin(2*PI*900*t),0)'"),
                 QStringLiteral("color=c=gray:s=64x48:r=24"), 3);
        Cleanup cleanup;
        for (std::int64_t frame = 24; frame < 48; ++frame)
            cleanup.decisions.push_back({.frame = frame, .kind = CleanupKind::takeOut});
        const RenderPart part = partOf(marked, 1, cleanup);
        QCOMPARE(part.axis->frames(), 48);
        RenderSound sound({part}, Rate(24, 1), {});
        const auto made = sound.next({});
        QVERIFY(made);
        QCOMPARE(made->length(), std::int64_t{2} * 48000);
        float loudest = 0;
        for (std::int64_t i = 0; i < made->length(); ++i)
            if (std::abs(i - 48000) > 100) loudest = std::max(loudest, std::abs(made->at(i, 0)));
        QVERIFY2(loudest < 1e-3F, qPrintable(QString::number(loudest)));
        QVERIFY(!sound.next({}));
    }

    void allChannelsAreKeptInTheirPlaces() {
        const QString surround = clips_.make(
            QStringLiteral("surround.mov"),
            {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
             QStringLiteral("color=c=gray:s=64x48:r=24:d=1"), QStringLiteral("-f"), QStringLiteral("lavfi"),
             QStringLiteral("-i"),
             QStringLiteral(
                 "aevalsrc=0.1*sin(900*t)|0.2*sin(900*t)|0.3*sin(900*t)|0.4*sin(900*t)|0.5*sin(900*t)"
                 "|0.6*sin(900*t):c=5.1:s=48000:d=1"),
             QStringLiteral("-c:v"), QStringLiteral("mjpeg"), QStringLiteral("-c:a"),
             QStringLiteral("pcm_s24le")});
        const QString target = clips_.path(QStringLiteral("surround_out.mov"));
        render({partOf(surround, 1)}, target);
        QCOMPARE(probed(target, QStringLiteral("a:0"), QStringLiteral("channels")), QStringLiteral("6"));
        QCOMPARE(probed(target, QStringLiteral("a:0"), QStringLiteral("channel_layout")),
                 QStringLiteral("5.1"));
        for (int c = 0; c < 6; ++c)
            QVERIFY(std::abs(strength(soundIn(target, c), 0.1, 0.9) - 0.1 * (c + 1) / std::numbers::sqrt2) <
                    2e-3);
    }

    void aReelIsSilentWhereAShotIs() {
        const QString mute =
            clips_.moving(QStringLiteral("mute.mkv"), 24, {QStringLiteral("-c:v"), QStringLiteral("ffv1")},
                          QStringLiteral("64x48"));
        const QString target = clips_.path(QStringLiteral("reel.mov"));
        render({partOf(mute, 1), partOf(clicks_, 1)}, target);
        const std::vector<float> heard = soundIn(target);
        QCOMPARE(static_cast<std::int64_t>(heard.size()), std::int64_t{5} * 48000);
        QVERIFY(strength(heard, 0, 0.999) < 1e-6);
        QCOMPARE(firstLoud(heard, 0), std::int64_t{48000});
    }

    void beyondTheEndOfTheSoundThereIsSilence() {
        const QString brief =
            clips_.make(QStringLiteral("brief.mkv"),
                        {QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("color=c=gray:s=64x48:r=24:d=3"), QStringLiteral("-f"),
                         QStringLiteral("lavfi"), QStringLiteral("-i"),
                         QStringLiteral("aevalsrc=0.5*sin(900*t):s=48000:d=1"), QStringLiteral("-c:v"),
                         QStringLiteral("ffv1"), QStringLiteral("-c:a"), QStringLiteral("pcm_s16le")});
        const QString target = clips_.path(QStringLiteral("brief.mov"));
        render({partOf(brief, 1)}, target);
        const std::vector<float> heard = soundIn(target);
        QCOMPARE(static_cast<std::int64_t>(heard.size()), std::int64_t{3} * 48000);
        QVERIFY(strength(heard, 0.1, 0.9) > 0.34);
        QVERIFY(strength(heard, 1.05, 3) < 1e-6);
    }

    void besideASequenceLiesAWavFile() {
        const QString target = clips_.path(QStringLiteral("pictures_####.png"));
        render({partOf(clicks_, 1)}, target);
        const QString wav = clips_.path(QStringLiteral("pictures.wav"));
        QCOMPARE(probed(wav, QStringLiteral("a:0"), QStringLiteral("codec_name")),
                 QStringLiteral("pcm_s24le"));
        QCOMPARE(static_cast<std::int64_t>(soundIn(wav).size()), std::int64_t{4} * 48000);
        // Neither pictures nor sound are replaced unasked.
        QVERIFY_THROWS_EXCEPTION(Error, render({partOf(clicks_, 1)}, target));
    }

    void ofSeveralStreamsTheFirstIsUsedAndThatIsSaid() {
        const QString twice =
            clips_.make(QStringLiteral("twice.mkv"),
                        {QStringLiteral("-f"),   QStringLiteral("lavfi"),
                         QStringLiteral("-i"),   QStringLiteral("color=c=gray:s=64x48:r=24:d=1"),
                         QStringLiteral("-f"),   QStringLiteral("lavfi"),
                         QStringLiteral("-i"),   QStringLiteral("aevalsrc=0.5*sin(900*t):s=48000:d=1"),
                         QStringLiteral("-f"),   QStringLiteral("lavfi"),
                         QStringLiteral("-i"),   QStringLiteral("aevalsrc=0:s=48000:d=1"),
                         QStringLiteral("-map"), QStringLiteral("0"),
                         QStringLiteral("-map"), QStringLiteral("1"),
                         QStringLiteral("-map"), QStringLiteral("2"),
                         QStringLiteral("-c:v"), QStringLiteral("ffv1"),
                         QStringLiteral("-c:a"), QStringLiteral("pcm_s16le")});
        const QString target = clips_.path(QStringLiteral("first.mkv"));
        const RenderReport report = render({partOf(twice, 1)}, target);
        QCOMPARE(report.notes,
                 std::vector<std::string>{"The file has 2 sound streams; the first is in the result."});
        QVERIFY(strength(soundIn(target), 0.1, 0.9) > 0.34);
    }

    void withoutSoundThereIsNoStream() {
        const QString target = clips_.path(QStringLiteral("mute_out.mp4"));
        RenderOptions options;
        options.sound = SoundUse::none;
        QVERIFY(!render({partOf(clicks_, 1)}, target, options).hasSound);
        QVERIFY(probed(target, QStringLiteral("a"), QStringLiteral("codec_name")).isEmpty());
    }

    void longSoundIsMadeInStretchesWithoutASeam() {
        // 130 s of a tone at half speed: two stretches of two minutes and more.
        const QString tone = clip("long.mkv", QStringLiteral("'0.5*sin(2*PI*200*t)'"),
                                  QStringLiteral("color=c=gray:s=16x16:r=2"), 80, QStringLiteral("8000"));
        const RenderPart part = partOf(tone, Rational(1, 2));
        RenderSound sound({part}, Rate(2, 1), {.use = SoundUse::tape, .form = {8000, 1, 0}});
        std::vector<float> all;
        int stretches = 0;
        while (const auto stretch = sound.next({})) {
            all.insert(all.end(), stretch->samples.begin(), stretch->samples.end());
            ++stretches;
        }
        QCOMPARE(stretches, 2);
        QCOMPARE(static_cast<std::int64_t>(all.size()), sound.length());
        QCOMPARE(sound.length(), std::int64_t{160} * 8000);
        float steepest = 0; // of a tone of 100 Hz at 8 kHz: 0.5 * 2 pi 100 / 8000
        std::size_t where = 0;
        for (std::size_t i = 800; i + 800 < all.size(); ++i) // the ends are steep
            if (std::abs(all[i] - all[i - 1]) > steepest) {
                steepest = std::abs(all[i] - all[i - 1]);
                where = i;
            }
        QVERIFY2(steepest < 0.042F, qPrintable(QStringLiteral("%1 at %2").arg(steepest).arg(where)));
    }
};

QTEST_MAIN(TestRenderSound)
#include "test_render_sound.moc"
