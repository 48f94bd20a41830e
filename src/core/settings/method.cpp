#include "core/settings/method.h"

#include "core/error.h"

#include <algorithm>
#include <string>

namespace yarngap {

namespace {

const MethodNames& namesOf(Method method) {
    return *std::find_if(allMethods.begin(), allMethods.end(),
                         [method](const MethodNames& names) { return names.method == method; });
}

} // namespace

std::string_view name(SampleFrom value) {
    return value == SampleFrom::before ? "before" : "nearest";
}

SampleFrom parseSampleFrom(std::string_view text) {
    for (const SampleFrom value : {SampleFrom::nearest, SampleFrom::before})
        if (text == name(value)) return value;
    throw Error("\"" + std::string(text) + "\" is no frame to sample. Use nearest or before.");
}

std::string_view name(Method method) {
    return namesOf(method).name;
}

std::string_view keyOf(Method method) {
    return namesOf(method).key;
}

Method parseMethod(std::string_view key) {
    std::string list;
    for (const MethodNames& names : allMethods) {
        if (names.key == key) return names.method;
        if (!list.empty()) list += &names == &allMethods.back() ? " or " : ", ";
        list += names.key;
    }
    throw Error("\"" + std::string(key) + "\" is not a method. Use " + list + ".");
}

} // namespace yarngap
