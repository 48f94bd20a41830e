#include "core/project/json_text.h"

#include <nlohmann/json.hpp>

#include <algorithm>

namespace yarngap {

namespace {

constexpr int deepestNesting = 32;

/// Levels of brackets outside strings, in text that may be no JSON at all. The library's own way to ask while
/// it parses walks through a whole list at the end of each of its elements.
int nestingOf(std::string_view text) {
    int depth = 0;
    int deepest = 0;
    bool inString = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (inString) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                inString = false;
        } else if (c == '"') {
            inString = true;
        } else if (c == '[' || c == '{') {
            deepest = std::max(deepest, ++depth);
        } else if (c == ']' || c == '}') {
            --depth;
        }
    }
    return deepest;
}

} // namespace

nlohmann::json jsonFrom(std::string_view text) {
    if (nestingOf(text) > deepestNesting) return nlohmann::json(nlohmann::json::value_t::discarded);
    return nlohmann::json::parse(text, nullptr, false);
}

} // namespace yarngap
