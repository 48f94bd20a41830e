#include "cli/commands.h"
#include "cli/json_output.h"

#include <iostream>

namespace yarngap::cli {

void probe(const std::string& input, bool json, bool claimsOnly, const Reader& reader) {
    const auto index = reader.open(input);
    const auto findings = claimsOnly ? nullptr : reader.inspect(index, LookedFor::all);
    if (json) {
        auto out = toJson(index->facts);
        if (findings) out["measured"] = toJson(*index, *findings);
        print(out);
    } else {
        std::cout << toText(index->facts);
        if (findings) std::cout << toText(*index, *findings);
    }
}

void scan(const std::string& input, bool json, const Reader& reader) {
    const auto index = reader.open(input);
    const auto findings = reader.inspect(index, LookedFor::all);
    const Suitability suitability = *reader.assess(index, *findings);
    if (json) {
        auto out = toJson(*index, *findings);
        out["suitability"] = toJson(suitability);
        print(out);
    } else {
        std::cout << toText(*index, *findings) << toText(suitability);
    }
}

} // namespace yarngap::cli
