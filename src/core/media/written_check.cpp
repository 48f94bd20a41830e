#include "core/media/written_check.h"

#include "core/error.h"
#include "core/media/demuxer.h"

extern "C" {
#include <libavutil/pixdesc.h>
}

#include <cmath>

namespace yarngap {

namespace {

constexpr int unspecified = 2;

std::string told(const char* name) {
    return name ? name : "nothing";
}

} // namespace

std::vector<std::string> differencesOfWritten(const WriterOptions& options) {
    std::vector<std::string> notes;
    if (isSequence(options.format.format)) return notes;
    MediaFacts facts;
    try {
        facts = Demuxer(options.target).facts();
    } catch (const Error&) {
        return notes; // somebody took it away already
    }
    const std::string file = options.target.filename().string();
    const auto differs = [&](const std::string& what, const std::string& is, const std::string& wanted) {
        notes.push_back(file + " says its " + what + " is " + is + ", not " + wanted + ".");
    };
    const ColourTags& wanted = options.colour;
    const bool ownMatrix = options.layout.model == ColourModel::yuv && facts.layout.model == ColourModel::yuv;
    if (wanted.primaries != unspecified && facts.colour.primaries != wanted.primaries)
        differs("colour primaries",
                told(av_color_primaries_name(static_cast<AVColorPrimaries>(facts.colour.primaries))),
                told(av_color_primaries_name(static_cast<AVColorPrimaries>(wanted.primaries))));
    if (wanted.transfer != unspecified && !options.layout.isFloat() &&
        facts.colour.transfer != wanted.transfer)
        differs(
            "transfer curve",
            told(av_color_transfer_name(static_cast<AVColorTransferCharacteristic>(facts.colour.transfer))),
            told(av_color_transfer_name(static_cast<AVColorTransferCharacteristic>(wanted.transfer))));
    if (ownMatrix && wanted.matrix != unspecified && facts.colour.matrix != wanted.matrix)
        differs("colour matrix", told(av_color_space_name(static_cast<AVColorSpace>(facts.colour.matrix))),
                told(av_color_space_name(static_cast<AVColorSpace>(wanted.matrix))));
    const bool interlaced = options.scan == Scan::topFieldFirst || options.scan == Scan::bottomFieldFirst;
    if (interlaced && facts.scan != options.scan)
        differs("scan", std::string(name(facts.scan)), std::string(name(options.scan)));
    constexpr double near = 1e-4;
    if (std::abs(facts.rate.toDouble() / options.rate.toDouble() - 1) > near)
        differs("frame rate", facts.rate.display(), options.rate.display());
    if (!options.timecode.empty() && facts.timecode != options.timecode)
        differs("timecode", facts.timecode.empty() ? "missing" : facts.timecode, options.timecode);
    return notes;
}

} // namespace yarngap
