// JSON of a model, read with a check at every step: nothing is taken for what it is not.
#pragma once

#include <fmt/format.h>

#include <array>
#include <nlohmann/json.hpp>

#include <yl/result.hpp>

namespace yl::model {

using Json = nlohmann::json;

[[nodiscard]] inline const Json& nothing() {
    static const Json null;
    return null;
}

/// An object's member; null where there is none.
[[nodiscard]] inline const Json& member(const Json& object, const char* key) {
    if (!object.is_object())
        return nothing();
    const auto found = object.find(key);
    return found != object.end() ? *found : nothing();
}

/// A member that is written to, made where there is none. Never by an index of null: where memory ends,
/// that leaves an object or a list without anything in it behind, which cannot be destroyed.
[[nodiscard]] inline Json& made_in(Json& object, const char* key, Json::value_t kind) {
    Json& value = object[key];
    if (value.is_null())
        value = Json(kind);
    return value;
}
[[nodiscard]] inline Json& object_in(Json& object, const char* key) {
    return made_in(object, key, Json::value_t::object);
}
[[nodiscard]] inline Json& list_in(Json& object, const char* key) {
    return made_in(object, key, Json::value_t::array);
}

/// "a/b/c", one inside the other.
[[nodiscard]] inline const Json& member_at(const Json& object, std::string_view path) {
    const Json* at = &object;
    while (!path.empty()) {
        const std::size_t slash = std::min(path.find('/'), path.size());
        at = &member(*at, std::string(path.substr(0, slash)).c_str());
        path.remove_prefix(std::min(slash + 1, path.size()));
    }
    return *at;
}

[[nodiscard]] inline std::size_t count_of(const Json& object, const char* key) {
    const Json& list = member(object, key);
    return list.is_array() ? list.size() : 0;
}

/// A member that is a list; an empty one where there is none.
[[nodiscard]] inline const Json& list_of(const Json& object, const char* key) {
    static const Json empty = Json::array();
    const Json& found = member(object, key);
    return found.is_array() ? found : empty;
}

[[nodiscard]] inline const std::string& text_of(const Json& object, const char* key) {
    static const std::string empty;
    const Json& value = member(object, key);
    return value.is_string() ? value.get_ref<const std::string&>() : empty;
}

[[nodiscard]] inline float number_of(const Json& object, const char* key, float otherwise) {
    const Json& value = member(object, key);
    return value.is_number() ? value.get<float>() : otherwise;
}

/// As many numbers; the others where they are not all there.
template <std::size_t count>
[[nodiscard]] std::array<float, count> numbers_of(const Json& object, const char* key,
                                                  const std::array<float, count>& otherwise) {
    const Json& list = member(object, key);
    if (!list.is_array() || list.size() != count)
        return otherwise;
    std::array<float, count> numbers{};
    for (std::size_t i = 0; i < count; ++i) {
        if (!list[i].is_number())
            return otherwise;
        numbers[i] = list[i].template get<float>();
    }
    return numbers;
}

/// A whole number from 0 on; nothing where there is none. Fails for anything else.
[[nodiscard]] inline Result<std::optional<std::uint64_t>> whole_of(const Json& object,
                                                                   const char* key) {
    const Json& value = member(object, key);
    if (value.is_null())
        return std::optional<std::uint64_t>();
    if (!value.is_number_unsigned())
        return fail(ErrorKind::malformed,
                    fmt::format("'{}' is {}; it has to be a whole number from 0 on", key,
                                value.dump().substr(0, 40)));
    return std::optional(value.get<std::uint64_t>());
}

/// An index into the model's list `list`; nothing where there is none.
[[nodiscard]] inline Result<std::optional<std::size_t>> index_of(const Json& object,
                                                                 const char* key, const Json& model,
                                                                 const char* list) {
    auto index = whole_of(object, key);
    if (!index)
        return tl::unexpected(index.error());
    if (!*index)
        return std::optional<std::size_t>();
    if (**index >= count_of(model, list))
        return fail(ErrorKind::malformed, fmt::format("'{}' is {}, and there are {} {}", key,
                                                      **index, count_of(model, list), list));
    return std::optional<std::size_t>(**index);
}

}  // namespace yl::model
