// Words for the values of an enumeration, as files and the command line write them.
#pragma once

#include "core/error.h"

#include <array>
#include <string>
#include <string_view>

namespace yarngap {

template <typename Value, std::size_t count>
struct ChoiceNames {
    struct Entry {
        Value value;
        std::string_view name;
    };
    std::string_view what; ///< for messages: "stand-in"
    std::array<Entry, count> entries;

    [[nodiscard]] constexpr std::string_view nameOf(Value value) const {
        for (const Entry& entry : entries)
            if (entry.value == value) return entry.name;
        return {};
    }
    /// The value of a name; throws Error listing the names.
    [[nodiscard]] Value parse(std::string_view text) const {
        std::string list;
        for (std::size_t i = 0; i < count; ++i) {
            if (entries[i].name == text) return entries[i].value;
            list += std::string(i == 0 ? "" : i + 1 == count ? " or " : ", ") + std::string(entries[i].name);
        }
        throw Error('"' + std::string(text) + "\" is no " + std::string(what) + ". Use " + list + '.');
    }
};

} // namespace yarngap
