// Members of requests, each with an error that names it.
#pragma once

#include <fmt/format.h>

#include "call.hpp"

namespace yl::web {

[[nodiscard]] inline tl::unexpected<Error> wrong(const char* member, std::string_view what) {
    return fail_at({ErrorKind::usage, fmt::format("'{}' is to be {}", member, what)}, member);
}

[[nodiscard]] inline bool has(const Json& request, const char* member) {
    return request.is_object() && request.contains(member) && !request[member].is_null();
}

/// A number that is not negative and whole.
[[nodiscard]] inline Result<std::uint32_t> number(const Json& request, const char* member) {
    if (!has(request, member) || !request[member].is_number())
        return wrong(member, "a number");
    const double value = request[member].get<double>();
    if (!(value >= 0 && value <= 4294967295.0))
        return wrong(member, "a whole number that is not negative");
    return static_cast<std::uint32_t>(value);
}

[[nodiscard]] inline Result<std::uint32_t> number_or(const Json& request, const char* member,
                                                     std::uint32_t otherwise) {
    return has(request, member) ? number(request, member) : Result<std::uint32_t>(otherwise);
}

[[nodiscard]] inline Result<float> decimal_or(const Json& request, const char* member,
                                              float otherwise) {
    if (!has(request, member))
        return otherwise;
    if (!request[member].is_number())
        return wrong(member, "a number");
    return request[member].get<float>();
}

[[nodiscard]] inline Result<bool> flag_or(const Json& request, const char* member, bool otherwise) {
    if (!has(request, member))
        return otherwise;
    if (!request[member].is_boolean())
        return wrong(member, "true or false");
    return request[member].get<bool>();
}

[[nodiscard]] inline Result<std::string> text(const Json& request, const char* member) {
    if (!has(request, member) || !request[member].is_string())
        return wrong(member, "a text");
    return request[member].get<std::string>();
}

/// Memory of the module that the caller has filled: [address, length].
[[nodiscard]] Result<std::span<std::byte>> memory(const Json& request, const char* member);

/// Where the caller finds memory.
[[nodiscard]] Json place_of(std::span<const std::byte> bytes);

/// An object that a request names by its number.
template <class Kind>
[[nodiscard]] Result<Kind*> object(Objects& objects, const Json& request, const char* member) {
    YL_TRY(const std::uint32_t found, number(request, member));
    return objects.find<Kind>(found);
}

[[nodiscard]] Result<std::optional<Role>> role_of(const Json& request);
[[nodiscard]] Result<std::optional<Transfer>> transfer_of(const Json& request);
[[nodiscard]] Result<std::optional<Format>> format_of(const Json& request, const char* member);
/// `sampler` is the text form.
[[nodiscard]] Result<std::optional<Sampler>> sampler_of(const Json& request);

[[nodiscard]] Json to_json(const Findings& findings);
[[nodiscard]] Json to_json(const TextureShape& shape);
[[nodiscard]] Json to_json(const TextureMetadata& metadata);
[[nodiscard]] Json to_json(const TextureFileInfo& info);
[[nodiscard]] Json to_json(const Error& error);
/// The sampler: text form, and the values for WebGL and WebGPU.
[[nodiscard]] Json to_json(const Sampler& sampler);

/// An image that is kept: its number, sides, and where its pixels lie, row by row without gaps.
[[nodiscard]] Result<Json> kept(Objects& objects, Image image);

/// A texture that is kept: its number with all about it.
[[nodiscard]] Json kept(Objects& objects, Texture texture);

}  // namespace yl::web
