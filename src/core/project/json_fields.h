// The fields of JSON objects, each told once for reading and writing. Internal to project/.
#pragma once

#include "core/error.h"
#include "core/time/rate.h"

#include <nlohmann/json.hpp>

#include <cstdint>
#include <filesystem>
#include <initializer_list>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace yarngap {

// A type tells its fields in one function, which reads as well as writes them:
//
//     template <typename Fields, typename Value> // Value is Key or const Key
//     void tellFields(Fields& fields, Value& key) {
//         fields.value("frame", key.frame, Whole{0, 1'000'000'000});
//         fields.optional("speed", key.speed, Exact{});
//     }
//     Key key = readObject<Key>(json, unknown, tellKey);   // throws Error with the place
//     Json again = writeObject(key, unknown, tellKey);
//
// What is missing keeps the value that the type begins with. Fields that nobody tells of are `unknown`, at
// every depth, and are written back. Those of an entry of a list go with the entry as it was read; where it
// was changed since, with the one at its place, while the list has as many entries as before.

using Json = nlohmann::json;

/// "This should be `what`."
inline Error shouldBe(const std::string& what) {
    return Error("This should be " + what + ". Restore it from a copy.");
}

// ---- Forms of values: write() gives the JSON, read() the value or throws Error.

struct Flag {
    [[nodiscard]] Json write(bool value) const { return value; }
    [[nodiscard]] bool read(const Json& json) const {
        if (!json.is_boolean()) throw shouldBe("true or false");
        return json.get<bool>();
    }
};

/// A whole number from `least` to `most`.
struct Whole {
    std::int64_t least, most;
    [[nodiscard]] Json write(std::int64_t value) const { return value; }
    [[nodiscard]] std::int64_t read(const Json& json) const {
        if (!json.is_number_integer() || json.get<double>() < static_cast<double>(least) ||
            json.get<double>() > static_cast<double>(most))
            throw shouldBe("a whole number from " + std::to_string(least) + " to " + std::to_string(most));
        return json.get<std::int64_t>();
    }
};

struct Words {
    [[nodiscard]] Json write(const std::string& value) const { return value; }
    [[nodiscard]] std::string read(const Json& json) const {
        if (!json.is_string()) throw shouldBe("text");
        return json.get<std::string>();
    }
};

/// An exact number: "1/4", "12.5".
struct Exact {
    [[nodiscard]] Json write(const Rational& value) const { return value.toString(); }
    [[nodiscard]] Rational read(const Json& json) const { return Rational::parse(Words().read(json)); }
};

struct FrameRate {
    [[nodiscard]] Json write(const Rate& value) const { return value.toString(); }
    [[nodiscard]] Rate read(const Json& json) const { return Rate::parse(Words().read(json)); }
};

/// A file, relative to `folder` where possible.
struct FileIn {
    const std::filesystem::path& folder;
    [[nodiscard]] Json write(const std::filesystem::path& value) const {
        const auto relative = value.lexically_relative(folder);
        return (relative.empty() ? value : relative).generic_string();
    }
    [[nodiscard]] std::filesystem::path read(const Json& json) const {
        const std::string text = Words().read(json);
        if (text.empty() || text.find('\0') != std::string::npos) throw shouldBe("the name of a file");
        return (folder / text).lexically_normal();
    }
};

/// A word for a value, by functions that give and read it.
template <typename Name, typename Parse>
struct Choice {
    Name name;
    Parse parse;
    template <typename Value>
    [[nodiscard]] Json write(const Value& value) const {
        return std::string(name(value));
    }
    [[nodiscard]] auto read(const Json& json) const { return parse(Words().read(json)); }
};
template <typename Name, typename Parse>
Choice(Name, Parse) -> Choice<Name, Parse>;

// ---- Objects and lists

template <typename Value, typename Tell>
Value readObject(Json json, Json& unknown, Tell tell);
template <typename Value, typename Tell>
Json writeObject(const Value& value, Json unknown, Tell tell);

/// Takes fields out of an object; what is left is unknown.
class FieldReader {
  public:
    explicit FieldReader(Json object)
        : rest_(std::move(object)) {
        if (!rest_.is_object()) throw shouldBe("a group of fields in braces");
    }

    [[nodiscard]] bool has(const char* name) const { return rest_.contains(name); }
    /// Refuses an object without one of these fields.
    void needs(std::initializer_list<const char*> names) const {
        for (const char* name : names)
            if (!rest_.contains(name))
                throw Error("\"" + std::string(name) + "\" is missing. Restore it from a copy.");
    }
    template <typename Value, typename Form>
    void value(const char* name, Value& value, const Form& form) {
        take(name, [&](Json& json) { value = static_cast<Value>(form.read(json)); });
    }
    template <typename Value, typename Form>
    void optional(const char* name, std::optional<Value>& value, const Form& form) {
        take(name, [&](Json& json) { value = static_cast<Value>(form.read(json)); });
    }
    template <typename Value, typename Form>
    void unless(const char* name, Value& value, const Value& /*usual*/, const Form& form) {
        this->value(name, value, form);
    }
    template <typename Value, typename Tell>
    void object(const char* name, Value& value, Tell tell) {
        Json unknown = Json::object();
        take(name, [&](Json& json) { value = readObject<Value>(std::move(json), unknown, tell); });
        if (!unknown.empty()) left_[name] = std::move(unknown);
    }
    template <typename Value, typename Tell>
    void objectUnless(const char* name, Value& value, const Value& /*usual*/, Tell tell) {
        object(name, value, tell);
    }
    template <typename Value, typename Tell>
    void optionalObject(const char* name, std::optional<Value>& value, Tell tell) {
        if (rest_.contains(name)) object(name, value.emplace(), tell);
    }
    /// A list of values of one form.
    template <typename Value, typename Form>
    void plainList(const char* name, std::vector<Value>& list, std::size_t most, const Form& form) {
        take(name, [&](Json& json) {
            forEach(json, most, [&](Json& entry, std::size_t) { list.push_back(form.read(entry)); });
        });
    }
    /// A list of objects.
    template <typename Value, typename Tell>
    void list(const char* name, std::vector<Value>& list, std::size_t most, Tell tell) {
        Json unknown = Json::array();
        take(name, [&](Json& json) {
            const std::size_t count = json.size();
            forEach(json, most, [&](Json& entry, std::size_t at) {
                Json own = Json::object();
                list.push_back(readObject<Value>(std::move(entry), own, tell));
                if (own.empty()) return;
                unknown.push_back({{"at", at},
                                   {"of", count},
                                   {"like", writeObject(list.back(), Json::object(), tell)},
                                   {"fields", std::move(own)}});
            });
        });
        if (!unknown.empty()) left_[name] = std::move(unknown);
    }
    /// What nobody told of.
    [[nodiscard]] Json unknown() && {
        rest_.update(left_);
        return std::move(rest_);
    }

  private:
    template <typename Read>
    void take(const char* name, Read read) {
        const auto it = rest_.find(name);
        if (it == rest_.end()) return;
        try {
            read(*it);
        } catch (const Error& error) {
            throw Error(std::string(name) + ": " + error.what());
        }
        rest_.erase(it);
    }
    template <typename Read>
    static void forEach(Json& json, std::size_t most, Read read) {
        if (!json.is_array() || json.size() > most)
            throw shouldBe("a list of at most " + std::to_string(most) + " entries");
        std::size_t at = 0;
        for (Json& entry : json) {
            try {
                read(entry, at++);
            } catch (const Error& error) {
                throw Error("entry " + std::to_string(at) + ": " + error.what());
            }
        }
    }

    Json rest_;
    Json left_ = Json::object(); ///< unknown fields inside known ones
};

/// Puts fields into an object.
class FieldWriter {
  public:
    explicit FieldWriter(Json unknown)
        : unknown_(std::move(unknown)) {}

    [[nodiscard]] bool has(const char* /*name*/) const { return false; }
    void needs(std::initializer_list<const char*> /*names*/) const {}
    template <typename Value, typename Form>
    void value(const char* name, const Value& value, const Form& form) {
        put(name, form.write(value));
    }
    template <typename Value, typename Form>
    void optional(const char* name, const std::optional<Value>& value, const Form& form) {
        unknown_.erase(name);
        if (value) out_[name] = form.write(*value);
    }
    template <typename Value, typename Form>
    void unless(const char* name, const Value& value, const Value& usual, const Form& form) {
        unknown_.erase(name);
        if (!(value == usual)) out_[name] = form.write(value);
    }
    template <typename Value, typename Tell>
    void object(const char* name, const Value& value, Tell tell) {
        Json own = takeUnknown(name, Json::object());
        out_[name] = writeObject(value, std::move(own), tell);
    }
    template <typename Value, typename Tell>
    void objectUnless(const char* name, const Value& value, const Value& usual, Tell tell) {
        if (value == usual)
            unknown_.erase(name);
        else
            object(name, value, tell);
    }
    template <typename Value, typename Tell>
    void optionalObject(const char* name, const std::optional<Value>& value, Tell tell) {
        if (value)
            object(name, *value, tell);
        else
            unknown_.erase(name);
    }
    template <typename Value, typename Form>
    void plainList(const char* name, const std::vector<Value>& list, std::size_t /*most*/, const Form& form) {
        unknown_.erase(name);
        for (const Value& entry : list)
            out_[name].push_back(form.write(entry));
    }
    template <typename Value, typename Tell>
    void list(const char* name, const std::vector<Value>& list, std::size_t /*most*/, Tell tell) {
        Json unknown = takeUnknown(name, Json::array());
        if (list.empty()) return;
        Json& entries = out_[name] = Json::array();
        for (const Value& entry : list)
            entries.push_back(writeObject(entry, Json::object(), tell));
        giveBack(entries, unknown);
    }
    [[nodiscard]] Json object() && {
        for (auto& [name, value] : unknown_.items())
            out_.emplace(name, value);
        return std::move(out_);
    }

  private:
    void put(const char* name, Json value) {
        unknown_.erase(name);
        out_[name] = std::move(value);
    }
    Json takeUnknown(const char* name, Json none) {
        const auto it = unknown_.find(name);
        if (it == unknown_.end() || it->type() != none.type()) return none;
        Json own = std::move(*it);
        unknown_.erase(it);
        return own;
    }
    /// Gives entries of a list their unknown fields; see above.
    static void giveBack(Json& entries, const Json& unknown) {
        std::vector<bool> given(entries.size(), false);
        std::vector<const Json*> homeless;
        for (const Json& one : unknown) {
            const auto at = one["at"].get<std::size_t>(); // mostly it lies where it lay
            std::size_t i = at < entries.size() && !given[at] && entries[at] == one["like"] ? at : 0;
            while (i < entries.size() && (given[i] || entries[i] != one["like"]))
                ++i;
            if (i == entries.size()) {
                homeless.push_back(&one);
                continue;
            }
            given[i] = true;
            merge(entries[i], one["fields"]);
        }
        for (const Json* one : homeless) {
            const auto at = (*one)["at"].get<std::size_t>();
            if ((*one)["of"] != entries.size() || given[at]) continue;
            given[at] = true;
            merge(entries[at], (*one)["fields"]);
        }
    }
    /// Adds unknown fields to an entry that was written without them.
    static void merge(Json& entry, const Json& fields) {
        for (const auto& [name, value] : fields.items()) {
            const auto it = entry.find(name);
            if (it == entry.end())
                entry[name] = value;
            else if (it->is_object() && value.is_object())
                merge(*it, value);
            else if (it->is_array() && value.is_array())
                giveBack(*it, value);
        }
    }

    Json out_ = Json::object();
    Json unknown_;
};

/// Reads what `tell` tells of; throws Error with the place. `unknown` gets the rest.
template <typename Value, typename Tell>
Value readObject(Json json, Json& unknown, Tell tell) {
    Value value{};
    FieldReader reader(std::move(json));
    tell(reader, value);
    unknown = std::move(reader).unknown();
    return value;
}

template <typename Value, typename Tell>
Json writeObject(const Value& value, Json unknown, Tell tell) {
    FieldWriter writer(std::move(unknown));
    tell(writer, value);
    return std::move(writer).object();
}

} // namespace yarngap
