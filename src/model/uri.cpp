#include "model/uri.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/base64.hpp"
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

Result<std::vector<std::byte>> base64_bytes(std::string_view text) {
    auto bytes = decode_base64(text);
    if (!bytes)
        return fail(ErrorKind::malformed,
                    "a data URI holds a character that is not base64, or ends within a byte");
    return *std::move(bytes);
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
        return base64_bytes(data);
    const std::string plain = percent_decoded(data);
    std::vector<std::byte> bytes(plain.size());
    std::ranges::transform(plain, bytes.begin(), [](char c) { return static_cast<std::byte>(c); });
    return bytes;
}

std::string encode_data_uri(std::string_view type, std::span<const std::byte> bytes) {
    std::string uri = fmt::format("data:{};base64,", type);
    append_base64(uri, bytes);
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
