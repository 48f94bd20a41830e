// Pictures of floats, as EXR files hold them: read, shown, mixed, moved and written without loss of light.

#include "core/error.h"
#include "core/image/rgb_picture.h"
#include "core/image/scene_light.h"
#include "core/inspection/frame_metrics.h"
#include "core/media/frame_source.h"
#include "core/media/frame_writer.h"
#include "core/media/library_messages.h"
#include "core/motion/flow_estimator.h"
#include "core/synthesis/warp.h"
#include "support/clips.h"
#include "support/film.h"
#include "support/pictures.h"

#include <OpenImageIO/imageio.h>

#include <QTest>

#include <limits>

using namespace yarngap;
using namespace yarngap::test;

namespace {

PixelLayout floats(SampleKind kind, bool alpha = false) {
    return {.model = ColourModel::rgb,
            .alpha = alpha,
            .depth = kind == SampleKind::half ? 16 : 32,
            .samples = kind};
}

Image light(int width, int height, const PixelLayout& layout,
            const std::function<double(int, double, double)>& value) {
    Image image(width, height, layout);
    for (int p = 0; p < image.planeCount(); ++p)
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                image.row<float>(p, y)[static_cast<std::size_t>(x)] = static_cast<float>(value(p, x, y));
    return image;
}

/// A pan over a textured scene whose highlights are 12 times white.
Image scene(double t, const PixelLayout& layout = floats(SampleKind::half)) {
    return light(160, 96, layout, [=](int p, double x, double y) {
        return std::pow(texture(x - 3 * t, y, 12, 4) / 215, 3) * 12 + 0.01 * p;
    });
}

} // namespace

class TestSceneLight : public QObject {
    Q_OBJECT

    Clips clips_;

    std::shared_ptr<FrameSource> written(const QString& name, const Image& image) {
        const QString target = clips_.path(name);
        const auto writer = openWriter({.target = target.toStdString(),
                                        .format = OutputFormat::exrSequence,
                                        .rate = Rate(24, 1),
                                        .width = image.width(),
                                        .height = image.height(),
                                        .layout = image.layout(),
                                        .colour = {.fullRange = true},
                                        .pixelAspect = 1});
        writer->write(image);
        writer->finish();
        return openSource(QString::fromStdString(sequenceName(target.toStdString(), 0).string()));
    }

  private Q_SLOTS:
    void initTestCase() { silenceMediaLibraries(); }

    void samplesComeBackAsTheyWere_data() {
        QTest::addColumn<bool>("half");
        QTest::addColumn<bool>("alpha");
        for (const bool half : {true, false})
            for (const bool alpha : {false, true})
                QTest::addRow("%s%s", half ? "half" : "float", alpha ? " with alpha" : "") << half << alpha;
    }
    void samplesComeBackAsTheyWere() {
        QFETCH(bool, half);
        QFETCH(bool, alpha);
        // Sixteenths up to 64 and below 0 are halves without rounding.
        const Image image = light(33, 17, floats(half ? SampleKind::half : SampleKind::real, alpha),
                                  [](int p, double x, double y) { return (x * 31 + y * 7 + p) / 16 - 2; });
        const auto source = written(QStringLiteral("exact%1%2_####.exr").arg(half).arg(alpha), image);
        QVERIFY(source->facts().layout == image.layout());
        QCOMPARE(source->facts().colour.transfer, 8);
        QVERIFY(*source->frame(0) == image);
    }

    void otherChannelsAndWindowsAreUnderstood() {
        // Twenty columns of a picture of 32 x 16, of which four lie outside at the left.
        OIIO::ImageSpec spec(20, 10, 5, OIIO::TypeDesc::HALF);
        spec.channelnames = {"Z", "R", "G", "B", "mask"};
        spec.channelformats = {OIIO::TypeDesc::FLOAT, OIIO::TypeDesc::HALF, OIIO::TypeDesc::HALF,
                               OIIO::TypeDesc::HALF, OIIO::TypeDesc::HALF};
        spec.x = -4;
        spec.y = 3;
        spec.full_x = spec.full_y = 0;
        spec.full_width = 32;
        spec.full_height = 16;
        std::vector<float> samples;
        for (int y = 0; y < 10; ++y)
            for (int x = 0; x < 20; ++x)
                for (int c = 0; c < 5; ++c)
                    samples.push_back(static_cast<float>(c * 100 + x));
        const auto file = clips_.path(QStringLiteral("window.exr")).toStdString();
        const auto out = OIIO::ImageOutput::create(file);
        QVERIFY(out && out->open(file, spec) && out->write_image(OIIO::TypeDesc::FLOAT, samples.data()) &&
                out->close());
        const auto source = openSource(QString::fromStdString(file));
        QCOMPARE(source->facts().width, 32);
        QCOMPARE(source->facts().height, 16);
        const QString remark = QString::fromStdString(source->facts().remark);
        QVERIFY2(remark.contains(QStringLiteral("kept aside")) && remark.contains(QStringLiteral("mask")) &&
                     remark.contains(QLatin1Char('Z')),
                 qPrintable(remark));
        const auto frame = source->frame(0);
        // Planes are G B R; column 4 of the file is column 0 of the picture.
        QCOMPARE(frame->row<float>(0, 3)[0], 204.0F);
        QCOMPARE(frame->row<float>(1, 3)[0], 304.0F);
        QCOMPARE(frame->row<float>(2, 12)[15], 119.0F);
        QCOMPARE(frame->row<float>(2, 12)[16], 0.0F);
        QCOMPARE(frame->row<float>(2, 2)[5], 0.0F);
    }

    void curvesFollowTheirFormulas() {
        const auto encoded = [](float value, LightCurve curve) {
            const Image one =
                light(1, 1, floats(SampleKind::real), [=](int, double, double) { return value; });
            return encodeLight(one, curve).row<std::uint16_t>(0, 0)[0] / 65535.0;
        };
        QVERIFY(std::abs(encoded(0.18F, LightCurve::screen) - 0.46135) < 1e-4); // sRGB of mid grey
        QVERIFY(std::abs(encoded(0.002F, LightCurve::screen) - 0.02584) < 1e-4);
        QCOMPARE(encoded(7.0F, LightCurve::screen), 1.0);
        QCOMPARE(encoded(-0.5F, LightCurve::screen), 0.0);
        QVERIFY(std::abs(encoded(0.18F, LightCurve::analysis) - 0.5) < 1e-4);
        QVERIFY(encoded(40.0F, LightCurve::analysis) > encoded(20.0F, LightCurve::analysis));
        for (const float odd :
             {std::numeric_limits<float>::quiet_NaN(), -std::numeric_limits<float>::infinity()})
            QCOMPARE(encoded(odd, LightCurve::analysis), 0.0);
        QCOMPARE(encoded(std::numeric_limits<float>::infinity(), LightCurve::analysis), 1.0);
    }

    void theScreenShowsMidGreyAsSrgbHasIt() {
        const Image grey = light(8, 8, floats(SampleKind::half), [](int, double, double) { return 0.18; });
        const RgbPicture shown = toScreenRgb(grey, {}, 8, 8);
        QVERIFY(std::abs(shown.bgra[0] - 118) <= 1);
    }

    void lightIsMixedAsLight() {
        const auto of = [](double v) {
            return std::make_shared<const Image>(
                light(4, 4, floats(SampleKind::half), [=](int, double, double) { return v; }));
        };
        const std::vector<ImagePtr> frames{of(-1), of(9)};
        const std::vector<double> shares{0.25, 0.75};
        QCOMPARE(blendFrames(frames, shares).row<float>(1, 2)[3], 6.5F);
    }

    void highlightsMoveAndStayAsBrightAsTheyAre() {
        const Image a = scene(0);
        const Image b = scene(2);
        const Image truth = scene(1);
        const Image made =
            warpBetween(a, b, estimateFlow(a, b, {.quality = FlowQuality::standard}), 0.5).image;
        QVERIFY(made.layout() == a.layout());
        double error = 0;
        double repeat = 0;
        double brightest = 0;
        for (int y = 16; y < 80; ++y)
            for (std::size_t x = 16; x < 144; ++x) {
                error += std::abs(made.row<float>(0, y)[x] - truth.row<float>(0, y)[x]);
                repeat += std::abs(a.row<float>(0, y)[x] - truth.row<float>(0, y)[x]);
                brightest = std::max(brightest, static_cast<double>(made.row<float>(0, y)[x]));
            }
        QVERIFY2(error < repeat / 8, qPrintable(QStringLiteral("%1 of %2").arg(error).arg(repeat)));
        QVERIFY(brightest > 6);
    }

    void lightIsMeasuredLikeAnyPicture() {
        FrameMeter meter;
        meter.measure(scene(0));
        const FrameMetrics moved = meter.measure(scene(1));
        QVERIFY2(moved.movingShare > 0.5, qPrintable(QString::number(moved.movingShare)));
        QCOMPARE(meter.measure(scene(1)).meanChange, 0.0);
    }

    void otherFormatsTakeItEncodedAndSaySo() {
        const Image image = scene(0);
        for (const auto& [name, format] : {std::pair{"light.mkv", OutputFormat::ffv1Mkv},
                                           std::pair{"light_###.png", OutputFormat::pngSequence}}) {
            const QString target = clips_.path(QString::fromLatin1(name));
            const auto writer = openWriter({.target = target.toStdString(),
                                            .format = format,
                                            .rate = Rate(24, 1),
                                            .width = image.width(),
                                            .height = image.height(),
                                            .layout = image.layout(),
                                            .colour = {.transfer = 8, .fullRange = true},
                                            .pixelAspect = 1});
            writer->write(image);
            writer->finish();
            QVERIFY(!writer->notes().empty());
            QVERIFY(
                QString::fromStdString(writer->notes().front()).contains(QStringLiteral("cut off at white")));
            const auto read = openSource(QString::fromStdString(
                format == OutputFormat::pngSequence ? sequenceName(target.toStdString(), 0).string()
                                                    : target.toStdString()));
            QVERIFY(*read->frame(0) == encodeLight(image, LightCurve::screen));
        }
    }

    void integersAreWrittenAsTheyAre() {
        const PixelLayout layout{.model = ColourModel::rgb, .depth = 16};
        Image image(4, 4, layout);
        image.row<std::uint16_t>(0, 1)[2] = 32768;
        const auto source = written(QStringLiteral("integers_###.exr"), image);
        QCOMPARE(source->facts().layout.samples, SampleKind::real);
        QCOMPARE(source->frame(0)->row<float>(0, 1)[2], 32768.0F / 65535.0F);
    }
};

QTEST_GUILESS_MAIN(TestSceneLight)
#include "test_scene_light.moc"
