#include "app/steps/setting_words.h"

#include "app/look/core_names.h"
#include "app/look/language.h"
#include "app/steps/step_layout.h"

namespace yarngap::app {

QString words(FlowQuality value) {
    return named(name(value));
}

QString words(AnalyseOn value) {
    switch (value) {
    case AnalyseOn::asIs:
        return translated("the picture as it is");
    case AnalyseOn::contrast:
        return translated("contrast lifted");
    case AnalyseOn::edges:
        return translated("edges");
    }
    return {};
}

QString words(InFront value) {
    switch (value) {
    case InFront::judged:
        return translated("judged per pixel");
    case InFront::slower:
        return translated("the slower motion");
    case InFront::faster:
        return translated("the faster motion");
    }
    return {};
}

QString words(Sides value) {
    switch (value) {
    case Sides::both:
        return translated("both source frames");
    case Sides::before:
        return translated("the one before only");
    case Sides::after:
        return translated("the one after only");
    }
    return {};
}

QString words(StandIn value) {
    switch (value) {
    case StandIn::blend:
        return translated("blend");
    case StandIn::repeat:
        return translated("repeat");
    case StandIn::side:
        return translated("one side");
    }
    return {};
}

std::array<MethodWords, allMethods.size()> methodWords() {
    return {{{Method::sample, "methodSample", translated("Sampling"),
              translated("Repeats the nearest source frame. Nothing is made up; motion stutters.")},
             {Method::blend, "methodBlend", translated("Blending"),
              translated("Cross-fades the frames around. Motion is smooth but doubled.")},
             {Method::flow, "methodFlow", translated("Flow"),
              translated("Moves pixels along their motion. Looks filmed; can tear where they go far.")}}};
}

} // namespace yarngap::app
