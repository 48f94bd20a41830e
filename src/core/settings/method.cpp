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
