#include "app/look/core_names.h"

#include "app/look/language.h"

#include <string>

namespace yarngap::app {

namespace {

#define SAY(text) text // collected like what is in tr()

// Those that are words. What they are is said in the core; here they are for those who translate.
[[maybe_unused]] constexpr const char* toTranslate[]{
    SAY("frame sampling"),
    SAY("frame blending"),
    SAY("optical flow"),
    SAY("draft"),
    SAY("standard"),
    SAY("thorough"),
    SAY("progressive"),
    SAY("interlaced"),
    SAY("3:2 pulldown"),
    SAY("2:3:3:2 pulldown"),
    SAY("2:2 with fields shifted"),
    SAY("scan not stated"),
    SAY("interlaced, top field first"),
    SAY("interlaced, bottom field first"),
    SAY("as coded"),
    SAY("deinterlaced to frames"),
    SAY("deinterlaced to twice the rate"),
    SAY("pulldown removed"),
    SAY("original"),
    SAY("repeat"),
    SAY("blend"),
    SAY("flow"),
    SAY("held"),
    SAY("PNG sequence"),
    SAY("TIFF sequence"),
    SAY("DPX sequence"),
    SAY("JPEG sequence"),
    SAY("EXR sequence"),
};

#undef SAY

} // namespace

QString named(std::string_view name) {
    return translated(std::string(name).c_str());
}

} // namespace yarngap::app
