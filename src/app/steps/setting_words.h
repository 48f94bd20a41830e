// Words for the settings of in-betweens, as the window shows them.
#pragma once

#include "core/settings/in_betweens.h"
#include "core/settings/method.h"

#include <QString>

#include <array>

namespace yarngap::app {

[[nodiscard]] QString words(FlowQuality value);
[[nodiscard]] QString words(AnalyseOn value);
[[nodiscard]] QString words(InFront value);
[[nodiscard]] QString words(Sides value);
[[nodiscard]] QString words(StandIn value);

/// A method as the step shows it; its key on the keyboard is its place in the list.
struct MethodWords {
    Method method;
    const char* objectName;
    QString button;   ///< in a word
    QString explains; ///< what to expect of it
};
/// In the order of allMethods.
[[nodiscard]] std::array<MethodWords, allMethods.size()> methodWords();

} // namespace yarngap::app
