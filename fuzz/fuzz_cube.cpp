// Cubes: any picture in any layout gives an error or a cube that can be laid out again.
#include <yl/cube.hpp>

#include "images.hpp"

namespace {

using fuzz::check;

/// Cut layouts bring back every face as it was.
void check_again(const yl::Texture& cube, yl::CubeLayout layout, fuzz::Input& input) {
    auto picture = yl::picture_of_cube(cube, layout);
    check(picture.has_value());
    if (!yl::is_cut_layout(layout))
        return;
    yl::Picture again;
    again.image = std::move(*picture);
    const auto back = yl::cube_of_picture(again, {.layout = layout});
    check(back && back->shape() == cube.shape());
    for (std::uint32_t face = 0; face < 6; ++face) {
        const auto a = cube.image(0, 0, face), b = std::as_const(*back).image(0, 0, face);
        for (std::uint32_t y = 0; y < a.height; ++y)
            check(std::ranges::equal(a.row(y), b.row(y)));
    }
    const auto& conventions = yl::all_cube_conventions();
    const auto& other = input.one_of(conventions);
    const auto there = yl::with_convention(cube, yl::standard_cube_convention(), other);
    if (there)
        check(yl::with_convention(*there, other, yl::standard_cube_convention()).has_value());
}

void check_layout(fuzz::Input& input) {
    const yl::CubeLayout layout = input.one_of(yl::all_cube_layouts());
    const std::uint32_t side = input.between(1, 8);
    const bool fits = input.take<std::uint8_t>() % 8 != 0;
    std::uint32_t width = input.between(1, 40), height = input.between(1, 40);
    constexpr std::uint32_t sides[][2] = {{4, 3}, {3, 4}, {6, 1}, {1, 6}, {2, 1}, {1, 1}, {4, 1}};
    if (fits) {
        const auto& shape = input.one_of(sides);
        width = side * shape[0];
        height = side * shape[1];
    }
    yl::CubeSourceOptions options;
    if (input.take<std::uint8_t>() % 4 != 0)
        options.layout = layout;
    if (input.take<std::uint8_t>() % 4 == 0)
        options.face_size = input.between(0, 12);
    yl::Picture picture;
    const yl::Format format = input.one_of(fuzz::image_formats);
    picture.image = fuzz::image_of(input, format, width, height);
    const auto possible = yl::possible_cube_layouts(width, height);
    const auto guess = yl::guess_cube_layout(picture);
    check(!guess || !possible.empty());
    const auto cube = yl::cube_of_picture(picture, options);
    if (!cube)
        return check(!cube.error().message.empty());
    check(cube->shape().faces == 6 && cube->shape().width == cube->shape().height);
    check_again(*cube, layout, input);
}

void check_places(fuzz::Input& input) {
    const yl::CubeLayout layout = input.one_of(yl::all_cube_layouts());
    if (yl::is_cut_layout(layout))
        return;
    const auto part = [&] { return input.take<std::uint16_t>() / 65535.0; };
    const std::array<double, 2> place = {part(), part()};
    const auto direction = yl::direction_of_place(layout, place);
    if (!direction)
        return;
    const auto [x, y] = yl::place_of_direction(layout, *direction);
    check(x >= -1e-9 && x <= 1 + 1e-9 && y >= -1e-9 && y <= 1 + 1e-9);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    fuzz::Input input(data, size);
    if (input.take<std::uint8_t>() % 2 == 0)
        check_layout(input);
    else
        check_places(input);
    return 0;
}
