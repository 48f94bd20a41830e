// How much of the film comes back from telecined video: demo scenes exposed at film rate, woven by 3:2
// pulldown with two edits, coded by x264 at a constant quality, measured and taken apart again.
//
//     bench_pulldown [CRF...]          (default 18 28)
//
// A film frame counts when both its fields lie on the tape on one side of an edit. It is recovered in phase
// when exactly one frame of the result is nearer to it than to any other film frame.

#include "core/inspection/proposals.h"
#include "core/media/frame_writer.h"
#include "core/media/interpreted_source.h"
#include "core/media/library_messages.h"
#include "theatre/exposure.h"
#include "theatre/old_reel.h"

#include <QProcess>
#include <QTemporaryDir>

#include <algorithm>
#include <array>
#include <cstdio>
#include <map>
#include <set>

using namespace yarngap;
using namespace yarngap::theatre;

namespace {

constexpr int width = 480;
constexpr int height = 270;
constexpr std::int64_t coded = 150;
constexpr std::array<std::int64_t, 2> edits{48, 101}; // coded frames after which film is cut out

struct Fields {
    std::int64_t top, bottom;
};

/// Film frames of the fields of coded frame n; an edit skips `skip` coded frames.
Fields fieldsAt(std::int64_t n, int phase, bool topFirst, int skip) {
    std::int64_t place = n + phase;
    for (const std::int64_t edit : edits)
        if (n >= edit) place += skip;
    constexpr std::array<std::int64_t, 5> first{0, 1, 1, 2, 3};
    constexpr std::array<std::int64_t, 5> second{0, 1, 2, 3, 3};
    const auto at = static_cast<std::size_t>(place % 5);
    const std::int64_t film = place / 5 * 4;
    const Fields fields{film + first.at(at), film + second.at(at)};
    return topFirst ? fields : Fields{fields.bottom, fields.top};
}

struct Share {
    std::int64_t expected = 0, recovered = 0, wrong = 0;
};

Share recover(const std::vector<Image>& film, const QTemporaryDir& folder, int phase, bool topFirst, int skip,
              const QString& crf) {
    const QString lossless = folder.filePath(QStringLiteral("tape.mkv"));
    const auto writer = openWriter({.target = lossless.toStdString(),
                                    .format = OutputFormat::ffv1Mkv,
                                    .rate = Rate(30000, 1001),
                                    .width = width,
                                    .height = height,
                                    .layout = film.front().layout(),
                                    .colour = {},
                                    .pixelAspect = 1});
    std::array<std::map<std::int64_t, int>, edits.size() + 1> seen;
    for (std::int64_t n = 0; n < coded; ++n) {
        const Fields at = fieldsAt(n, phase, topFirst, skip);
        writer->write(
            weave(film.at(static_cast<std::size_t>(at.top)), film.at(static_cast<std::size_t>(at.bottom))));
        std::size_t side = 0;
        while (side < edits.size() && n >= edits.at(side) && skip > 0)
            ++side;
        seen.at(side)[at.top] |= 1;
        seen.at(side)[at.bottom] |= 2;
    }
    writer->finish();
    const QString clip = folder.filePath(QStringLiteral("tape.mp4"));
    QProcess::execute(QStringLiteral("ffmpeg"),
                      {QStringLiteral("-v"), QStringLiteral("error"), QStringLiteral("-y"),
                       QStringLiteral("-i"), lossless, QStringLiteral("-c:v"), QStringLiteral("libx264"),
                       QStringLiteral("-crf"), crf, clip});
    std::set<std::int64_t> expected;
    for (const auto& side : seen)
        for (const auto& [frame, fields] : side)
            if (fields == 3) expected.insert(frame);

    const auto index = std::make_shared<const MediaIndex>(buildIndex(clip.toStdString()));
    const Interpretation measured = measuredInterpretation(*index, inspectShot(index));
    if (measured.fields != FieldUse::removePulldown)
        std::printf("  (taken as %s)\n", inspectShot(index).describe().c_str());
    std::map<std::int64_t, int> got;
    std::int64_t mixed = 0;
    for (const FrameRecipe& recipe : recipesFor(*index, measured)) {
        const std::int64_t top = fieldsAt(recipe.top, phase, topFirst, skip).top;
        const std::int64_t bottom = fieldsAt(recipe.bottom, phase, topFirst, skip).bottom;
        if (recipe.kind == FrameRecipe::Kind::field || top != bottom)
            ++mixed;
        else
            ++got[top];
    }
    Share share;
    share.expected = static_cast<std::int64_t>(expected.size());
    for (const std::int64_t frame : expected)
        share.recovered += got[frame] == 1 ? 1 : 0;
    share.wrong = mixed;
    for (const auto& [frame, times] : got)
        share.wrong += std::max(0, times - 1);
    return share;
}

} // namespace

int main(int argc, char** argv) {
    silenceMediaLibraries();
    const QTemporaryDir folder;
    struct Content {
        const char* name;
        std::unique_ptr<Scene> scene;
        double grain;
    };
    std::vector<Content> contents;
    contents.push_back({"heron", heronGlide(width, height), 1.6});
    contents.push_back({"bell", bellSwing(width, height), 1.6});
    contents.push_back({"star wheel, grainy", starWheel(width, height), 4});
    contents.push_back({"old reel", oldReel(width, height), 4});
    std::vector<QString> qualities;
    for (int i = 1; i < argc; ++i)
        qualities.push_back(QString::fromLocal8Bit(argv[i]));
    if (qualities.empty()) qualities = {QStringLiteral("18"), QStringLiteral("28")};
    std::map<QString, Share> all;
    for (const Content& content : contents) {
        const Camera camera{.width = width,
                            .height = height,
                            .rate = Rate(24000, 1001),
                            .shutterSeconds = 1.0 / 60,
                            .samples = 4,
                            .grain = content.grain,
                            .seed = 23};
        std::vector<Image> film;
        for (std::int64_t t = 0; t < coded / 5 * 4 + 20; ++t)
            film.push_back(expose(*content.scene, camera, t));
        for (const QString& crf : qualities)
            for (const auto& [phase, topFirst, skip] :
                 {std::tuple{0, true, 0}, {3, true, 2}, {1, false, 3}, {4, false, 1}}) {
                const Share s = recover(film, folder, phase, topFirst, skip, crf);
                std::printf(
                    "%-20s crf %s  phase %d, %s first, edits skip %d: %lld of %lld recovered, %lld wrong\n",
                    content.name, qPrintable(crf), phase, topFirst ? "top" : "bottom", skip,
                    static_cast<long long>(s.recovered), static_cast<long long>(s.expected),
                    static_cast<long long>(s.wrong));
                all[crf].expected += s.expected;
                all[crf].recovered += s.recovered;
                all[crf].wrong += s.wrong;
            }
    }
    for (const auto& [crf, s] : all)
        std::printf(
            "crf %s: %.2f %% of %lld film frames in phase, %lld frames that are no whole film frame\n",
            qPrintable(crf), 100.0 * static_cast<double>(s.recovered) / static_cast<double>(s.expected),
            static_cast<long long>(s.expected), static_cast<long long>(s.wrong));
    return 0;
}
