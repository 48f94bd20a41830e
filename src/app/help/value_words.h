// What is this? A sentence or two about each value of the steps, and when to change it.
#pragma once

#include <QString>

#include <optional>

namespace yarngap::app {

struct ValueWords {
    QString name;
    QString what;
    QString when;    ///< to change it
    QString picture; ///< file of a small picture beside the guide; empty where no eye decides
    QString less;    ///< what its left half shows
    QString more;    ///< … and its right half
};

/// By the object name of the field, box or slider; nothing where there is nothing to say.
[[nodiscard]] std::optional<ValueWords> wordsForValue(const QString& objectName);

} // namespace yarngap::app
