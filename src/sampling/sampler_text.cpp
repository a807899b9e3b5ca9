// The text form of a sampler.
#include <fmt/format.h>

#include <span>
#include <vector>

#include <yl/sampler.hpp>
#include <yl/status_macros.hpp>
#include "base/number.hpp"
#include "base/out_of_memory.hpp"
#include "base/split.hpp"

namespace yl {
namespace {

constexpr std::array<std::string_view, 2> filter_names = {"nearest", "linear"};
constexpr std::array<std::string_view, 3> mip_names = {"none", "nearest", "linear"};
constexpr std::array<std::string_view, 5> wrap_names = {"repeat", "mirror", "clamp-to-edge",
                                                        "clamp-to-border", "mirror-once"};
constexpr std::array<std::string_view, 9> compare_names = {
    "off",   "never", "less", "equal", "less-or-equal", "greater", "not-equal", "greater-or-equal",
    "always"};

tl::unexpected<Error> wrong(std::string_view part, std::string_view expected) {
    return fail_at(
        {ErrorKind::usage, fmt::format("'{}' is not understood; it takes {}", part, expected)},
        "sampler");
}

template <class Enum, std::size_t count>
Status parse_name(std::string_view part, std::string_view value,
                  const std::array<std::string_view, count>& names, Enum& target) {
    for (std::size_t i = 0; i < count; ++i) {
        if (names[i] != value)
            continue;
        target = static_cast<Enum>(i);
        return {};
    }
    return wrong(part, fmt::format("one of {}", fmt::join(names, ", ")));
}

Result<float> parse_number(std::string_view part, std::string_view value) {
    float number = 0;
    const auto [end, error] = number_from_chars(value.data(), value.data() + value.size(), number);
    if (error != std::errc{} || end != value.data() + value.size() || !(number - number == 0.0F))
        return wrong(part, "a number");
    return number;
}

Status parse_numbers(std::string_view part, std::string_view value, std::span<float> numbers) {
    const auto parts = split(value, ',');
    if (parts.size() != numbers.size())
        return wrong(part, fmt::format("{} numbers, with commas", numbers.size()));
    for (std::size_t i = 0; i < parts.size(); ++i) {
        YL_TRY(numbers[i], parse_number(part, parts[i]));
    }
    return {};
}

Status parse_wrap(std::string_view part, std::string_view value, Sampler& sampler) {
    const auto axes = split(value, ',');
    if (axes.size() > 3)
        return wrong(part, "at most three names, for u, v and w");
    for (std::size_t axis = 0; axis < 3; ++axis) {
        YL_CHECK(parse_name(part, axes[std::min(axis, axes.size() - 1)], wrap_names,
                            sampler.wrap[axis]));
    }
    return {};
}

Status parse_level_range(std::string_view part, std::string_view value, Sampler& sampler) {
    const std::size_t dots = value.find("..");
    if (dots == std::string_view::npos)
        return wrong(part, "a range such as 0..4");
    YL_TRY(sampler.min_level, parse_number(part, value.substr(0, dots)));
    YL_TRY(sampler.max_level, parse_number(part, value.substr(dots + 2)));
    if (sampler.min_level > sampler.max_level)
        return wrong(part, "a range whose end is not below its start");
    return {};
}

Status parse_part(std::string_view part, Sampler& sampler) {
    const std::size_t equals = part.find('=');
    const std::string_view key = part.substr(0, equals);
    const std::string_view value = equals == std::string_view::npos ? "" : part.substr(equals + 1);
    if (key == "mag")
        return parse_name(part, value, filter_names, sampler.mag);
    if (key == "min")
        return parse_name(part, value, filter_names, sampler.min);
    if (key == "mip")
        return parse_name(part, value, mip_names, sampler.mip);
    if (key == "wrap")
        return parse_wrap(part, value, sampler);
    if (key == "border")
        return parse_numbers(part, value, sampler.border);
    if (key == "compare")
        return parse_name(part, value, compare_names, sampler.compare);
    if (key == "lod")
        return parse_level_range(part, value, sampler);
    if (key == "bias")
        return parse_numbers(part, value, std::span(&sampler.level_bias, 1));
    if (key == "aniso") {
        YL_CHECK(parse_numbers(part, value, std::span(&sampler.max_anisotropy, 1)));
        return sampler.max_anisotropy >= 1 ? Status{} : wrong(part, "1 (none) or more");
    }
    return fail_at(
        {ErrorKind::usage,
         fmt::format(
             "'{}' is no part of a sampler; the parts are mag, min, mip, wrap, border, aniso, lod, "
             "bias and compare, each with '=' and a value",
             part)},
        "sampler");
}

}  // namespace

std::string_view name(Filter filter) {
    return filter_names[static_cast<std::size_t>(filter)];
}
std::string_view name(MipFilter filter) {
    return mip_names[static_cast<std::size_t>(filter)];
}
std::string_view name(Wrap wrap) {
    return wrap_names[static_cast<std::size_t>(wrap)];
}

Result<Sampler> parse_sampler(std::string_view text, const Sampler& otherwise) try {
    Sampler sampler = otherwise;
    for (const std::string_view part : split(text, ' ')) {
        if (part.empty())
            continue;
        YL_CHECK(parse_part(part, sampler));
    }
    return sampler;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::string sampler_text(const Sampler& sampler) {
    const Sampler standard;
    std::string text = fmt::format("mag={} min={} mip={}", name(sampler.mag), name(sampler.min),
                                   name(sampler.mip));
    if (sampler.wrap != standard.wrap) {
        text += fmt::format(" wrap={}", name(sampler.wrap[0]));
        const bool all_equal =
            sampler.wrap[1] == sampler.wrap[0] && sampler.wrap[2] == sampler.wrap[0];
        if (!all_equal)
            text += fmt::format(",{}", name(sampler.wrap[1]));
        if (sampler.wrap[2] != sampler.wrap[1])
            text += fmt::format(",{}", name(sampler.wrap[2]));
    }
    if (sampler.border != standard.border)
        text += fmt::format(" border={}", fmt::join(sampler.border, ","));
    if (sampler.max_anisotropy > 1)
        text += fmt::format(" aniso={}", sampler.max_anisotropy);
    if (sampler.min_level != standard.min_level || sampler.max_level != standard.max_level)
        text += fmt::format(" lod={}..{}", sampler.min_level, sampler.max_level);
    if (sampler.level_bias != 0)
        text += fmt::format(" bias={}", sampler.level_bias);
    if (sampler.compare != Compare::off)
        text +=
            fmt::format(" compare={}", compare_names[static_cast<std::size_t>(sampler.compare)]);
    return text;
}

}  // namespace yl
