// Option values that several commands take: roles, formats, samplers, textures.
#pragma once

#include <string>
#include <yl/names.hpp>
#include <yl/yl.hpp>

namespace ylat {

[[nodiscard]] yl::Result<yl::Role> parse_role(const std::string& text);
/// A name of the table; where it ends before its kind ("bc7", "rgba16"), the role settles that.
[[nodiscard]] yl::Result<yl::Format> parse_format(const std::string& text, yl::Role role,
                                                  std::string_view besides = "");
/// "coverage" or "data".
[[nodiscard]] yl::Result<yl::AlphaMode> parse_alpha(const std::string& text);
/// "srgb" or "linear".
[[nodiscard]] yl::Result<yl::Transfer> parse_transfer(const std::string& text);
[[nodiscard]] yl::Result<yl::Origin> parse_origin(const std::string& text);
/// "full" or a number.
[[nodiscard]] yl::Result<std::optional<std::uint32_t>> parse_levels(const std::string& text);
/// "none", "zlib" or "zstd", the latter two with ":LEVEL" if wanted; the writer is this tool.
[[nodiscard]] yl::Result<yl::TextureWriteOptions> parse_supercompression(const std::string& text);
/// "0..1000"
[[nodiscard]] yl::Result<yl::LevelRange> parse_level_range(const std::string& text,
                                                           const char* option);
/// What a file's name ends in, in small letters and without its point.
[[nodiscard]] std::string lower_case_ending(const std::string& path);
/// A finite number, all of the text; `expected` says which ones the option takes.
[[nodiscard]] yl::Result<float> parse_number(const std::string& text, const char* option, float min,
                                             float max, const std::string& expected);
/// A number of bytes, with k, M or G (1024 of what comes before) if wanted.
[[nodiscard]] yl::Result<std::uint64_t> parse_bytes(const std::string& text, const char* option);
/// "1280x800"
[[nodiscard]] yl::Result<std::array<std::uint32_t, 2>> parse_size(const std::string& text);

/// Fills in `value` from an option's text, where the option was given.
template <class T, class U>
[[nodiscard]] yl::Status parse_if_given(const std::string& text,
                                        yl::Result<T> (*parse)(const std::string&), U& value) {
    if (text.empty())
        return {};
    auto parsed = parse(text);
    if (!parsed)
        return tl::unexpected(parsed.error());
    value = std::move(*parsed);
    return {};
}

/// As in the library, for an option of its own name.
[[nodiscard]] yl::Result<yl::Sampler> parse_sampler_option(const std::string& text);

/// How a picture is turned: one of the words.
constexpr const char* orientation_words =
    "right, left, half, mirror, flip, transpose or transverse";
[[nodiscard]] yl::Result<yl::Orientation> parse_orientation(const std::string& text);

/// "nearest", "up" or "down"; anything else lets sizes be.
[[nodiscard]] yl::PowerOfTwo named_power_of_two(const std::string& text);

/// All names, for help texts.
[[nodiscard]] std::string role_names();

/// For help texts.
[[nodiscard]] std::string cube_layout_names();

}  // namespace ylat
