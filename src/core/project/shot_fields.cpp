#include "core/project/shot_fields.h"

#include <array>
#include <cmath>

namespace yarngap {

namespace {

template <typename Value>
struct Word {
    Value value;
    const char* word;
};

constexpr std::array<Word<FieldUse>, 4> fieldUses{{{FieldUse::asCoded, "coded"},
                                                   {FieldUse::toFrames, "frames"},
                                                   {FieldUse::toFields, "fields"},
                                                   {FieldUse::removePulldown, "film"}}};
constexpr std::array<Word<PulldownRun::Kind>, 5> runKinds{{{PulldownRun::Kind::whole, "whole"},
                                                           {PulldownRun::Kind::pulldown32, "3:2"},
                                                           {PulldownRun::Kind::pulldown2332, "2:3:3:2"},
                                                           {PulldownRun::Kind::shifted22, "2:2"},
                                                           {PulldownRun::Kind::fields, "fields"}}};

template <typename Value, std::size_t N>
const char* wordOf(const std::array<Word<Value>, N>& table, Value value) {
    for (const Word<Value>& entry : table)
        if (entry.value == value) return entry.word;
    return "";
}

template <typename Value, std::size_t N>
Value valueOf(const std::array<Word<Value>, N>& table, const Json& json) {
    const std::string word = Words().read(json);
    std::string list;
    for (const Word<Value>& entry : table) {
        if (word == entry.word) return entry.value;
        list += std::string(list.empty() ? "" : ", ") + entry.word;
    }
    throw shouldBe("one of " + list);
}

bool isFirst(const Json& json, const char* yes, const char* no) {
    const std::string word = Words().read(json);
    if (word != yes && word != no) throw shouldBe(std::string(yes) + " or " + no);
    return word == yes;
}

/// The stretches lie in order and do not overlap.
void validateStretches(const std::vector<MethodStretch>& stretches) {
    for (std::size_t i = 0; i < stretches.size(); ++i)
        if (stretches[i].last < stretches[i].first || (i > 0 && stretches[i].first <= stretches[i - 1].last))
            throw Error("methodStretches: entry " + std::to_string(i + 1) +
                        " ends before it begins, or overlaps the one before. Restore it from a copy.");
}

template <typename Validate>
void validateNested(const char* field, Validate validate) {
    try {
        validate();
    } catch (const Error& error) {
        throw Error(std::string(field) + ": " + error.what());
    }
}

} // namespace

bool FieldOrder::read(const Json& json) const {
    return isFirst(json, "top", "bottom");
}
bool Range::read(const Json& json) const {
    return isFirst(json, "full", "limited");
}
Json FieldUseWord::write(FieldUse use) const {
    return wordOf(fieldUses, use);
}
FieldUse FieldUseWord::read(const Json& json) const {
    return valueOf(fieldUses, json);
}

Json PulldownForm::write(const PulldownRun& run) const {
    return {run.first, run.last, wordOf(runKinds, run.kind), run.topFirst ? "top" : "bottom", run.phase};
}
PulldownRun PulldownForm::read(const Json& json) const {
    constexpr std::size_t parts = 5;
    if (!json.is_array() || json.size() != parts) throw shouldBe("[first, last, kind, order, phase]");
    const Whole frame{0, lastFrame};
    return {frame.read(json[0]), frame.read(json[1]), valueOf(runKinds, json[2]), FieldOrder().read(json[3]),
            static_cast<int>(Whole{0, 4}.read(json[4]))};
}

DamagedPlace DamagedPlaceForm::read(const Json& json) const {
    constexpr std::size_t parts = 4;
    if (!json.is_array() || json.size() != parts) throw shouldBe("[x, y, width, height]");
    const Whole number{0, 1 << 20};
    const auto part = [&](std::size_t i) { return static_cast<int>(number.read(json[i])); };
    return {part(0), part(1), part(2), part(3)};
}

Json Share::write(double share) const {
    constexpr double fine = 1000; // more decimals say nothing
    return std::round(share * fine) / fine;
}
double Share::read(const Json& json) const {
    if (!json.is_number() || !(json.get<double>() >= 0 && json.get<double>() <= 1))
        throw shouldBe("a number from 0 to 1");
    return json.get<double>();
}

MattePoint PointForm::read(const Json& json) const {
    if (!json.is_array() || json.size() != 2 || !json[0].is_number() || !json[1].is_number())
        throw shouldBe("two numbers, [x, y]");
    return {json[0].get<double>(), json[1].get<double>()};
}

GuidePair GuidePairForm::read(const Json& json) const {
    if (!json.is_array() || json.size() != 2) throw shouldBe("two places, [[x, y], [x, y]]");
    return {PointForm().read(json[0]), PointForm().read(json[1])};
}

void validateShot(const Shot& shot) {
    if (shot.media.empty()) throw Error("It names no media file. Restore it from a copy.");
    if (shot.interpretation.rotation % 90 != 0)
        throw Error("interpretation: rotation: " + std::string(shouldBe("0, 90, 180 or 270").what()));
    if (const auto& aspect = shot.interpretation.pixelAspect;
        aspect && (*aspect < Rational(1, 10) || *aspect > Rational(10)))
        throw Error("interpretation: pixelAspect: " + std::string(shouldBe("from 1/10 to 10").what()));
    for (const Take& take : shot.takes)
        if (take.name.empty()) throw Error("takes: One has no name. Restore it from a copy.");
    validateStretches(shot.methodStretches);
    validateNested("cleanup", [&] { validate(shot.cleanup); });
    validateNested("mending", [&] { validate(shot.mending); });
    validate(shot.matte);
    validateNested("finish", [&] { validate(shot.finish); });
    if (!shot.keys.empty()) validateKeys(shot.keys);
    validate({.sourceRate = Rate(), .outputRate = Rate(), .from = 0, .to = 0, .speed = shot.speed});
}

} // namespace yarngap
