#include "arguments.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <numeric>
#include <utility>

namespace ylat {
namespace {

tl::unexpected<yl::Error> wrong(const char* option, const std::string& value,
                                const std::string& expected) {
    return yl::fail_at(
        {yl::ErrorKind::usage, fmt::format("'{}' is not understood; it takes {}", value, expected)},
        option);
}

std::optional<std::uint32_t> parse_count(std::string_view text) {
    std::uint32_t number = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    const bool whole = error == std::errc{} && end == text.data() + text.size();
    return whole ? std::optional(number) : std::nullopt;
}

/// Both sides of `separator`, as numbers.
std::optional<std::array<std::uint32_t, 2>> parse_pair(std::string_view text,
                                                       std::string_view separator) {
    const std::size_t middle = text.find(separator);
    if (middle == std::string_view::npos)
        return {};
    const auto first = parse_count(text.substr(0, middle));
    const auto second = parse_count(text.substr(middle + separator.size()));
    if (!first || !second)
        return {};
    return std::array{*first, *second};
}

}  // namespace

yl::Result<yl::Orientation> parse_orientation(const std::string& text) {
    static constexpr std::pair<std::string_view, yl::Orientation> words[] = {
        {"right", yl::Orientation::quarter_right},
        {"left", yl::Orientation::quarter_left},
        {"half", yl::Orientation::half},
        {"mirror", yl::Orientation::mirror},
        {"flip", yl::Orientation::flip},
        {"transpose", yl::Orientation::transpose},
        {"transverse", yl::Orientation::transverse}};
    for (const auto& [word, orientation] : words)
        if (text == word)
            return orientation;
    return wrong("--turn", text, orientation_words);
}

yl::PowerOfTwo named_power_of_two(const std::string& text) {
    return text == "nearest" ? yl::PowerOfTwo::nearest
           : text == "up"    ? yl::PowerOfTwo::up
           : text == "down"  ? yl::PowerOfTwo::down
                             : yl::PowerOfTwo::any;
}

std::string role_names() {
    std::string names;
    for (const yl::RoleInfo& role : yl::all_roles())
        names += (names.empty() ? "" : ", ") + std::string(role.name);
    return names;
}

yl::Result<yl::Role> parse_role(const std::string& text) {
    const auto role = yl::find_role(text);
    if (!role)
        return wrong("--role", text, "one of " + role_names());
    return *role;
}

namespace {

/// The names that begin most like `text`.
std::vector<std::string_view> formats_like(std::string_view text) {
    constexpr std::size_t shown = 6;
    std::vector<std::string_view> names;
    for (const yl::FormatInfo& f : yl::all_formats())
        names.push_back(f.name);
    std::ranges::stable_sort(names, {}, [&](std::string_view name) {
        return std::pair(yl::letters_apart(text, name.substr(0, text.size())), name.size());
    });
    names.resize(std::min(names.size(), shown));
    return names;
}

}  // namespace

yl::Result<yl::Format> parse_format(const std::string& text, yl::Role role,
                                    std::string_view besides) {
    static constexpr std::string_view of_colors[] = {"", "-srgb", "-unorm", "-ufloat", "-float"};
    static constexpr std::string_view of_light[] = {"", "-float", "-ufloat", "-unorm", "-srgb"};
    static constexpr std::string_view of_numbers[] = {"", "-unorm", "-float", "-ufloat", "-snorm"};
    const auto& endings = role == yl::Role::color ? of_colors
                          : role == yl::Role::hdr ? of_light
                                                  : of_numbers;
    for (const std::string_view ending : endings)
        for (const yl::FormatInfo& f : yl::all_formats())
            if (f.name == text + std::string(ending))
                return f.format;
    return wrong(
        "--as", text,
        fmt::format("{}a format such as {}", besides, fmt::join(formats_like(text), ", ")));
}

yl::Result<yl::AlphaMode> parse_alpha(const std::string& text) {
    if (text == "coverage")
        return yl::AlphaMode::straight;
    if (text == "data")
        return yl::AlphaMode::data;
    return wrong("--alpha", text, "coverage or data");
}

yl::Result<yl::Transfer> parse_transfer(const std::string& text) {
    if (text == "srgb")
        return yl::Transfer::srgb;
    if (text == "linear")
        return yl::Transfer::linear;
    return wrong("--transfer", text, "srgb or linear");
}

yl::Result<yl::Origin> parse_origin(const std::string& text) {
    if (text == "top")
        return yl::Origin::top;
    if (text == "bottom")
        return yl::Origin::bottom;
    return wrong("--origin", text, "top or bottom");
}

yl::Result<std::optional<std::uint32_t>> parse_levels(const std::string& text) {
    if (text == "full")
        return std::nullopt;
    const auto count = parse_count(text);
    if (!count || *count == 0)
        return wrong("--levels", text, "'full' or a number from 1 on");
    return count;
}

yl::Result<yl::TextureWriteOptions> parse_supercompression(const std::string& text) {
    const std::size_t colon = text.find(':');
    const std::string scheme = text.substr(0, colon);
    yl::TextureWriteOptions options;
    options.writer = fmt::format("ylat {} (Yellow Lattice)", yl::version);
    int most = 0;
    if (scheme == "zstd") {
        options.supercompression = yl::Supercompression::zstd;
        most = 22;
    } else if (scheme == "zlib") {
        options.supercompression = yl::Supercompression::zlib;
        most = 12;
    } else if (scheme != "none" || colon != std::string::npos) {
        return wrong("--supercompress", text,
                     "none, zlib or zstd, the latter two with ':LEVEL' if wanted");
    }
    if (colon == std::string::npos)
        return options;
    const auto level = parse_count(std::string_view(text).substr(colon + 1));
    if (!level || *level < 1 || *level > static_cast<std::uint32_t>(most))
        return wrong("--supercompress", text,
                     fmt::format("a level from 1 to {} after '{}:'", most, scheme));
    options.level = static_cast<int>(*level);
    return options;
}

yl::Result<yl::Sampler> parse_sampler_option(const std::string& text) {
    return yl::parse_sampler(text);
}

yl::Result<yl::LevelRange> parse_level_range(const std::string& text, const char* option) {
    const auto pair = parse_pair(text, "..");
    if (!pair || (*pair)[0] > (*pair)[1])
        return wrong(option, text, "a range such as 0..1000");
    const std::uint32_t further = (*pair)[1] - (*pair)[0];
    return yl::LevelRange{(*pair)[0], std::max(further + 1, further)};
}

std::string lower_case_ending(const std::string& path) {
    std::string ending = std::filesystem::path(path).extension().string();
    ending.erase(0, 1);
    for (char& letter : ending)
        letter = static_cast<char>(std::tolower(static_cast<unsigned char>(letter)));
    return ending;
}

yl::Result<float> parse_number(const std::string& text, const char* option, float min, float max,
                               const std::string& expected) {
    float number = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (error != std::errc{} || end != text.data() + text.size() ||
        !(number >= min && number <= max))
        return wrong(option, text, expected);
    return number;
}

yl::Result<std::uint64_t> parse_bytes(const std::string& text, const char* option) {
    static constexpr std::pair<char, unsigned> units[] = {
        {'k', 10}, {'K', 10}, {'M', 20}, {'G', 30}};
    std::uint64_t number = 0;
    const char* const last = text.data() + text.size();
    auto [end, error] = std::from_chars(text.data(), last, number);
    unsigned shift = 0;
    for (const auto& [letter, bits] : units)
        if (error == std::errc{} && end + 1 == last && *end == letter) {
            shift = bits;
            end = last;
        }
    if (error != std::errc{} || end != last || number == 0 || number > ~std::uint64_t{0} >> shift)
        return wrong(option, text, "a number of bytes such as 65536, 64k, 16M or 1G");
    return number << shift;
}

yl::Result<std::array<std::uint32_t, 2>> parse_size(const std::string& text) {
    const auto pair = parse_pair(text, "x");
    if (!pair || std::min((*pair)[0], (*pair)[1]) == 0 || std::max((*pair)[0], (*pair)[1]) > 8192)
        return wrong("--size", text, "WIDTHxHEIGHT in pixels, up to 8192 each, such as 640x400");
    return *pair;
}

std::string cube_layout_names() {
    std::string names;
    for (const yl::CubeLayout layout : yl::all_cube_layouts())
        names += (names.empty() ? "" : ", ") + std::string(yl::name(layout));
    return names;
}

}  // namespace ylat
