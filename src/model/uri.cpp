#include "model/uri.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include <yl/status_macros.hpp>
#include "base/inside.hpp"

namespace yl::model {
namespace {

int hex_digit(char c) {
    if (c >= '0' && c <= '9')
        return c - '0';
    if (c >= 'a' && c <= 'f')
        return c - 'a' + 10;
    return c >= 'A' && c <= 'F' ? c - 'A' + 10 : -1;
}

constexpr std::string_view base64_digits =
    "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";

/// The value of a base64 character (RFC 4648, with the URL alphabet as well), or -1.
int base64_value(char c) {
    if (c >= 'A' && c <= 'Z')
        return c - 'A';
    if (c >= 'a' && c <= 'z')
        return c - 'a' + 26;
    if (c >= '0' && c <= '9')
        return c - '0' + 52;
    if (c == '+' || c == '-')
        return 62;
    return c == '/' || c == '_' ? 63 : -1;
}

Result<std::vector<std::byte>> decode_base64(std::string_view text) {
    while (!text.empty() && text.back() == '=')
        text.remove_suffix(1);
    std::vector<std::byte> bytes;
    bytes.reserve(text.size() * 3 / 4);
    std::uint32_t bits = 0;
    int count = 0;
    for (const char c : text) {
        const int value = base64_value(c);
        if (value < 0)
            return fail(ErrorKind::malformed, "a data URI holds a character that is not base64");
        bits = bits << 6 | static_cast<std::uint32_t>(value);
        count += 6;
        if (count >= 8) {
            count -= 8;
            bytes.push_back(static_cast<std::byte>(bits >> count & 0xFF));
        }
    }
    if (count >= 6)
        return fail(ErrorKind::malformed, "a data URI ends within a byte");
    return bytes;
}

}  // namespace

std::string percent_decoded(std::string_view text) {
    std::string decoded;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const bool has_code = text[i] == '%' && i + 2 < text.size() &&
                              hex_digit(text[i + 1]) >= 0 && hex_digit(text[i + 2]) >= 0;
        if (!has_code) {
            decoded += text[i];
            continue;
        }
        decoded += static_cast<char>(hex_digit(text[i + 1]) * 16 + hex_digit(text[i + 2]));
        i += 2;
    }
    return decoded;
}

bool is_data_uri(std::string_view uri) {
    return uri.starts_with("data:");
}

Result<std::vector<std::byte>> decode_data_uri(std::string_view uri, std::uint64_t most) {
    const std::size_t comma = uri.find(',');
    if (!is_data_uri(uri) || comma == std::string_view::npos)
        return fail(ErrorKind::malformed, "a data URI has no comma before its data");
    const std::string_view data = uri.substr(comma + 1);
    if (data.size() / 4 * 3 > most)
        return fail(ErrorKind::limit,
                    fmt::format("a data URI of {} characters exceeds the limit of "
                                "{} bytes",
                                data.size(), most));
    if (uri.substr(0, comma).ends_with(";base64"))
        return decode_base64(data);
    const std::string plain = percent_decoded(data);
    std::vector<std::byte> bytes(plain.size());
    std::ranges::transform(plain, bytes.begin(), [](char c) { return static_cast<std::byte>(c); });
    return bytes;
}

std::string encode_data_uri(std::string_view type, std::span<const std::byte> bytes) {
    std::string uri = fmt::format("data:{};base64,", type);
    uri.reserve(uri.size() + (bytes.size() + 2) / 3 * 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        const std::size_t count = std::min<std::size_t>(bytes.size() - i, 3);
        std::uint32_t bits = 0;
        for (std::size_t k = 0; k < 3; ++k)
            bits = bits << 8 | (k < count ? std::to_integer<std::uint32_t>(bytes[i + k]) : 0);
        for (std::size_t k = 0; k < 4; ++k)
            uri += k <= count ? base64_digits[bits >> (18 - 6 * k) & 63] : '=';
    }
    return uri;
}

Result<std::filesystem::path> resolve_uri(std::string_view uri, const std::filesystem::path& folder,
                                          bool allow_outside, bool is_on_disk) {
    std::string text = percent_decoded(uri);
    std::ranges::replace(text, '\\', '/');
    if (text.find('\0') != std::string::npos)
        return fail(ErrorKind::malformed, "a file's name holds a zero byte");
    if (text.starts_with("file://"))
        text.erase(0, 7);
    if (text.find("://") != std::string::npos)
        return fail(ErrorKind::usage, "it is not a file: nothing is fetched from elsewhere");
    if (text.empty())
        return fail(ErrorKind::malformed, "a URI names no file");
    const std::filesystem::path path = std::filesystem::path(text).lexically_normal();
    const bool has_drive = text.size() > 1 && text[1] == ':';
    const std::filesystem::path file = path.is_absolute() ? path : folder / path;
    const bool leads_out = path.is_absolute() || has_drive || *path.begin() == ".." ||
                           (is_on_disk && !lies_within(file, folder));
    if (leads_out && !allow_outside)
        return fail(ErrorKind::usage,
                    "it leads out of the model's folder; allow that if the model is trusted");
    return file;
}

}  // namespace yl::model
