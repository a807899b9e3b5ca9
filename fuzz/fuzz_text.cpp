// Text forms: any text gives an error or a value whose own text form means the same.
#include <yl/atlas.hpp>
#include <yl/convert.hpp>
#include <yl/cube.hpp>
#include <yl/environment.hpp>
#include <yl/lookup_table.hpp>
#include <yl/resize.hpp>
#include <yl/sampler.hpp>

#include "input.hpp"

namespace {

using fuzz::check;

void check_sampler(std::string_view text) {
    const auto sampler = yl::parse_sampler(text);
    if (!sampler)
        return check(!sampler.error().message.empty());
    const auto again = yl::parse_sampler(yl::sampler_text(*sampler));
    check(again && yl::sampler_text(*again) == yl::sampler_text(*sampler));
}

void check_kernel(std::string_view text) {
    const auto kernel = yl::parse_kernel(text);
    if (!kernel)
        return check(!kernel.error().message.empty());
    check(kernel->reach() > 0 && kernel->reach() <= 16);
    const auto again = yl::parse_kernel(yl::kernel_text(*kernel));
    check(again && yl::kernel_text(*again) == yl::kernel_text(*kernel));
}

void check_edges(std::string_view text) {
    if (const auto edges = yl::parse_edges(text))
        check(yl::parse_edges(yl::edges_text(*edges)) == *edges);
}

void check_swizzle(std::string_view text) {
    if (const auto swizzle = yl::parse_swizzle(text))
        check(yl::parse_swizzle(yl::swizzle_text(*swizzle)) == *swizzle);
}

void check_convention(std::string_view text) {
    const auto convention = yl::parse_cube_convention(text);
    if (!convention)
        return check(!convention.error().message.empty());
    const auto again = yl::parse_cube_convention(yl::cube_convention_text(*convention));
    check(again && again->faces == convention->faces &&
          again->right_up_ahead == convention->right_up_ahead);
}

void check_harmonics(std::string_view text) {
    if (const auto harmonics = yl::parse_harmonics(text))
        check(yl::parse_harmonics(yl::harmonics_text(*harmonics)).has_value());
}

/// Six names, set off by line ends.
void check_face_names(std::string_view text) {
    std::array<std::string, 6> names;
    std::size_t name = 0;
    for (const char letter : text)
        if (letter == '\n')
            name = std::min<std::size_t>(name + 1, 5);
        else
            names[name] += letter;
    static_cast<void>(yl::are_game_names(names));
    if (const auto faces = yl::faces_by_name(names)) {
        auto sorted = *faces;
        std::sort(sorted.begin(), sorted.end());
        check(std::adjacent_find(sorted.begin(), sorted.end()) == sorted.end());
        check(!yl::game_arrangements(*faces).empty());
    }
}

void check_lookup_table(std::string_view text) {
    const auto table = yl::parse_lookup_table(text, {.max_side = 64, .max_bytes = 1 << 20});
    if (!table)
        return check(!table.error().message.empty());
    const yl::TextureShape& shape = table->texture.shape();
    check(shape.is_3d ? shape.depth == shape.width : shape.is_1d);
}

void check_atlas_table(std::string_view text) {
    const auto table = yl::parse_atlas_table(text);
    if (!table)
        return check(!table.error().message.empty());
    check(yl::parse_atlas_table(yl::atlas_table_text(*table)) == *table);
    for (const yl::AtlasPart& part : table->parts)
        static_cast<void>(yl::part_coordinates(*table, part));
}

constexpr void (*checks[])(std::string_view) = {
    check_sampler,   check_kernel,     check_edges,        check_swizzle,    check_convention,
    check_harmonics, check_face_names, check_lookup_table, check_atlas_table};

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    fuzz::Input input(data, size);
    const auto form = input.one_of(checks);
    const auto rest = input.rest();
    form({reinterpret_cast<const char*>(rest.data()), rest.size()});
    return 0;
}
