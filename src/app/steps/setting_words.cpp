#include "app/steps/setting_words.h"

#include "app/steps/step_layout.h"

#include <QCoreApplication>

namespace yarngap::app {

namespace {

QString translate(const char* words) {
    return QCoreApplication::translate("InBetweensStep", words);
}

} // namespace

QString words(FlowQuality value) {
    return text(name(value));
}

QString words(AnalyseOn value) {
    switch (value) {
    case AnalyseOn::asIs:
        return translate("the picture as it is");
    case AnalyseOn::contrast:
        return translate("contrast lifted");
    case AnalyseOn::edges:
        return translate("edges");
    }
    return {};
}

QString words(InFront value) {
    switch (value) {
    case InFront::judged:
        return translate("judged per pixel");
    case InFront::slower:
        return translate("the slower motion");
    case InFront::faster:
        return translate("the faster motion");
    }
    return {};
}

QString words(Sides value) {
    switch (value) {
    case Sides::both:
        return translate("both source frames");
    case Sides::before:
        return translate("the one before only");
    case Sides::after:
        return translate("the one after only");
    }
    return {};
}

QString words(StandIn value) {
    switch (value) {
    case StandIn::blend:
        return translate("blend");
    case StandIn::repeat:
        return translate("repeat");
    case StandIn::side:
        return translate("one side");
    }
    return {};
}

std::array<MethodWords, allMethods.size()> methodWords() {
    return {{{Method::sample, "methodSample", translate("Sampling"),
              translate("Repeats the nearest source frame. Nothing is made up; motion stutters.")},
             {Method::blend, "methodBlend", translate("Blending"),
              translate("Cross-fades the frames around. Motion is smooth but doubled.")},
             {Method::flow, "methodFlow", translate("Flow"),
              translate("Moves pixels along their motion. Looks filmed; can tear where they go far.")}}};
}

} // namespace yarngap::app
