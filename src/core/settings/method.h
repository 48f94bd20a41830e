// The ways of making in-betweens.
#pragma once

#include <array>
#include <string_view>

namespace yarngap {

/// How in-betweens are made.
enum class Method { sample, blend, flow };

/// A method as files, the command line and sentences call it.
struct MethodNames {
    Method method;
    std::string_view key;  ///< in files and on the command line
    std::string_view name; ///< in sentences
};

/// All methods there are. What each does: row_makers.h, for the plan, and kind_makers.h, for the picture.
inline constexpr std::array<MethodNames, 3> allMethods{{{Method::sample, "sample", "frame sampling"},
                                                        {Method::blend, "blend", "frame blending"},
                                                        {Method::flow, "flow", "optical flow"}}};

/// Which source frame sampling shows.
enum class SampleFrom {
    nearest, ///< the one nearest in time
    before   ///< the one before, until the next one begins
};
[[nodiscard]] std::string_view name(SampleFrom value);
/// Reads "nearest" or "before"; throws Error listing them.
SampleFrom parseSampleFrom(std::string_view text);

[[nodiscard]] std::string_view name(Method method);
[[nodiscard]] std::string_view keyOf(Method method);
/// The method with that key; throws Error listing the keys.
Method parseMethod(std::string_view key);

} // namespace yarngap
