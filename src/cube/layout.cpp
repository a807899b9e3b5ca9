#include <yl/cube.hpp>

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include <yl/edit.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "cube/resample.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// Where a face lies, counted in faces, and how it lies there.
struct Cut {
    CubeFace face;
    std::uint32_t column, row;
    Orientation orientation = Orientation::none;
};

struct CutLayout {
    std::uint32_t columns, rows;
    std::array<Cut, 6> cuts;
};

using enum CubeFace;

constexpr CutLayout horizontal_cross = {
    4,
    3,
    {{{right, 2, 1}, {left, 0, 1}, {top, 1, 0}, {bottom, 1, 2}, {front, 1, 1}, {back, 3, 1}}}};
constexpr CutLayout vertical_cross = {3,
                                      4,
                                      {{{right, 2, 1},
                                        {left, 0, 1},
                                        {top, 1, 0},
                                        {bottom, 1, 2},
                                        {front, 1, 1},
                                        {back, 1, 3, Orientation::half}}}};
constexpr CutLayout in_a_row = {
    6,
    1,
    {{{right, 0, 0}, {left, 1, 0}, {top, 2, 0}, {bottom, 3, 0}, {front, 4, 0}, {back, 5, 0}}}};
constexpr CutLayout in_a_column = {
    1,
    6,
    {{{right, 0, 0}, {left, 0, 1}, {top, 0, 2}, {bottom, 0, 3}, {front, 0, 4}, {back, 0, 5}}}};

const CutLayout* cut_layout(CubeLayout layout) {
    switch (layout) {
        case CubeLayout::horizontal_cross:
            return &horizontal_cross;
        case CubeLayout::vertical_cross:
            return &vertical_cross;
        case CubeLayout::row:
            return &in_a_row;
        case CubeLayout::column:
            return &in_a_column;
        default:
            return nullptr;
    }
}

/// Width and height of a layout, in whatever.
std::array<std::uint32_t, 2> proportions(CubeLayout layout) {
    if (const CutLayout* cut = cut_layout(layout))
        return {cut->columns, cut->rows};
    switch (layout) {
        case CubeLayout::panorama:
        case CubeLayout::dual_paraboloid:
            return {2, 1};
        case CubeLayout::half_panorama:
            return {4, 1};
        default:
            return {1, 1};
    }
}

/// How many faces fit beside each other into a picture at the same density in its middle.
std::uint32_t faces_across(CubeLayout layout) {
    const bool is_wide = layout == CubeLayout::panorama || layout == CubeLayout::half_panorama ||
                         layout == CubeLayout::dual_paraboloid;
    return is_wide ? 4 : 2;
}

constexpr std::array<std::pair<CubeLayout, std::string_view>, 10> layout_names = {
    {{CubeLayout::horizontal_cross, "horizontal-cross"},
     {CubeLayout::vertical_cross, "vertical-cross"},
     {CubeLayout::row, "row"},
     {CubeLayout::column, "column"},
     {CubeLayout::panorama, "panorama"},
     {CubeLayout::angular_map, "angular-map"},
     {CubeLayout::mirror_ball, "mirror-ball"},
     {CubeLayout::half_panorama, "half-panorama"},
     {CubeLayout::octahedral, "octahedral"},
     {CubeLayout::dual_paraboloid, "dual-paraboloid"}}};

constexpr auto layouts = [] {
    std::array<CubeLayout, layout_names.size()> all{};
    for (std::size_t i = 0; i < all.size(); ++i)
        all[i] = layout_names[i].first;
    return all;
}();

void copy_texels(ConstImageView source, ImageView target, std::uint32_t x, std::uint32_t y) {
    const std::size_t begin = std::size_t{x} * info(target.format).block_bytes;
    for (std::uint32_t row = 0; row < source.height; ++row)
        std::copy_n(source.row(row).data(), source.row_bytes(), target.row(y + row).data() + begin);
}

ConstImageView part_of(ConstImageView image, std::uint32_t x, std::uint32_t y, std::uint32_t side) {
    image.data += y * image.row_stride + std::size_t{x} * info(image.format).block_bytes;
    image.width = image.height = side;
    return image;
}

Status cut_faces(ConstImageView picture, const CutLayout& layout, Texture& cube) {
    const std::uint32_t side = cube.shape().width;
    for (const Cut& cut : layout.cuts) {
        const ConstImageView part = part_of(picture, cut.column * side, cut.row * side, side);
        YL_TRY(const Image face, with_orientation(part, cut.orientation));
        copy_texels(face.view(), cube.image(0, 0, static_cast<std::uint32_t>(cut.face)), 0, 0);
    }
    return {};
}

Result<Image> joined_faces(const Texture& cube, const CutLayout& layout, std::uint32_t level,
                           std::uint32_t layer) {
    const std::uint32_t side = cube.shape().width_at(level);
    YL_TRY(Image picture, Image::create(cube.shape().format, layout.columns * side,
                                        layout.rows * side, Limits::none()));
    const ImageView view = picture.view();
    std::fill_n(view.data, std::size_t{view.height} * view.row_stride, std::byte{0});
    for (const Cut& cut : layout.cuts) {
        // Half turns undo themselves.
        YL_TRY(const Image face,
               with_orientation(cube.image(level, layer, static_cast<std::uint32_t>(cut.face)),
                                cut.orientation));
        copy_texels(face.view(), view, cut.column * side, cut.row * side);
    }
    return picture;
}

TextureMetadata traits_of(const Picture& picture) {
    TextureMetadata metadata;
    metadata.transfer = picture.transfer;
    metadata.alpha = picture.alpha;
    metadata.swizzle = picture.swizzle;
    return metadata;
}

Error misfit(std::uint32_t width, std::uint32_t height, CubeLayout layout) {
    const auto [columns, rows] = proportions(layout);
    return {ErrorKind::usage,
            fmt::format("a picture of {} x {} is not a {}: its sides should be as {} to {}", width,
                        height, name(layout), columns, rows)};
}

bool fits(std::uint32_t width, std::uint32_t height, CubeLayout layout) {
    const auto [columns, rows] = proportions(layout);
    return std::uint64_t{width} * rows == std::uint64_t{height} * columns && width % columns == 0;
}

double sign(double value) {
    return value < 0 ? -1 : 1;
}

/// The upper half lies in the middle; the lower one is folded out over its edges.
std::array<double, 2> place_on_octahedron(double x, double y, double z) {
    const double size = std::abs(x) + std::abs(y) + std::abs(z);
    double across = x / size, ahead = z / size;
    if (y < 0) {
        const double folded = (1 - std::abs(ahead)) * sign(across);
        ahead = (1 - std::abs(across)) * sign(ahead);
        across = folded;
    }
    return {0.5 + 0.5 * across, 0.5 - 0.5 * ahead};
}

Direction direction_on_octahedron(const std::array<double, 2>& place) {
    double across = 2 * place[0] - 1, ahead = 1 - 2 * place[1];
    const double up = 1 - std::abs(across) - std::abs(ahead);
    if (up < 0) {
        const double folded = (1 - std::abs(ahead)) * sign(across);
        ahead = (1 - std::abs(across)) * sign(ahead);
        across = folded;
    }
    const double length = std::sqrt(across * across + up * up + ahead * ahead);
    return {across / length, up / length, ahead / length};
}

}  // namespace

std::string_view name(CubeLayout layout) {
    return layout_names[static_cast<std::size_t>(layout)].second;
}

std::span<const CubeLayout> all_cube_layouts() {
    return layouts;
}

std::optional<CubeLayout> find_cube_layout(std::string_view name) {
    for (const auto& [layout, known] : layout_names)
        if (known == name)
            return layout;
    return std::nullopt;
}

std::vector<CubeLayout> possible_cube_layouts(std::uint32_t width, std::uint32_t height) {
    std::vector<CubeLayout> result;
    for (const auto& [layout, unused] : layout_names)
        if (width > 0 && height > 0 && fits(width, height, layout))
            result.push_back(layout);
    return result;
}

bool is_cut_layout(CubeLayout layout) {
    return cut_layout(layout) != nullptr;
}

namespace {

/// Faces lie side by side to the texel, which blocks do not.
Status check_texels(Format format) {
    if (info(format).is_block())
        return fail(ErrorKind::unsupported, "blocks have to be unpacked before they are laid out");
    return {};
}

}  // namespace

Result<Texture> cube_of_picture(const Picture& picture, const CubeSourceOptions& options) try {
    YL_CHECK(check_view(picture.image.view(), "picture"));
    const ConstImageView image = picture.image.view();
    YL_CHECK(check_texels(image.format));
    const auto possible = possible_cube_layouts(image.width, image.height);
    if (!options.layout && possible.empty())
        return fail(
            ErrorKind::usage,
            fmt::format("a picture of {} x {} is not a layout of a cube: crosses are as 4 to "
                        "3 or 3 to 4, rows as 6 to 1, panoramas as 2 to 1, balls square",
                        image.width, image.height));
    const CubeLayout layout = options.layout ? *options.layout : possible.front();
    if (!fits(image.width, image.height, layout))
        return tl::unexpected(misfit(image.width, image.height, layout));
    const CutLayout* cut = cut_layout(layout);
    const std::uint32_t own_size =
        image.width / (cut != nullptr ? cut->columns : faces_across(layout));
    const std::uint32_t size = options.face_size.value_or(std::max(own_size, 1U));
    if (cut != nullptr && size != own_size)
        return fail(ErrorKind::usage,
                    fmt::format("the faces of this {} are {} texels wide and are copied; leave out "
                                "the size, or resize the picture before",
                                name(layout), own_size));
    YL_TRY(Texture cube,
           Texture::create({.format = image.format, .width = size, .height = size, .faces = 6}));
    cube.metadata = traits_of(picture);
    if (cut != nullptr) {
        YL_CHECK(cut_faces(image, *cut, cube));
    } else {
        YL_CHECK(resample_to_faces(image, layout, cube));
    }
    return cube;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> picture_of_cube(const Texture& cube, CubeLayout layout, std::uint32_t level,
                              std::uint32_t layer, std::optional<std::uint32_t> width) try {
    YL_CHECK(check_texture(cube, "cube"));
    const TextureShape& shape = cube.shape();
    if (shape.faces != 6 || level >= shape.levels || layer >= shape.layers)
        return fail(ErrorKind::usage, "this is not a level of a cube map");
    YL_CHECK(check_texels(shape.format));
    if (const CutLayout* cut = cut_layout(layout))
        return joined_faces(cube, *cut, level, layer);
    const auto [columns, rows] = proportions(layout);
    const std::uint32_t own_width = faces_across(layout) * shape.width_at(level);
    const std::uint32_t across = width.value_or(own_width);
    if (across == 0 || across % columns != 0)
        return fail(ErrorKind::usage,
                    fmt::format("a {} cannot be {} pixels wide: its sides are as {} to {}",
                                name(layout), across, columns, rows));
    YL_TRY(Image picture, Image::create(shape.format, across, across / columns * rows));
    YL_CHECK(resample_to_picture(cube, level, layer, layout, picture.view()));
    return picture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::array<double, 2> place_of_direction(CubeLayout layout, const Direction& d) {
    using std::numbers::pi;
    const double length = std::sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
    const double x = d[0] / length, y = d[1] / length, z = d[2] / length;
    if (layout == CubeLayout::panorama)
        return {0.5 + std::atan2(x, z) / (2 * pi), std::atan2(std::hypot(x, z), y) / pi};
    if (layout == CubeLayout::half_panorama)
        return {0.5 + std::atan2(x, z) / (2 * pi),
                std::min(std::atan2(std::hypot(x, z), y) / (pi / 2), 1.0)};
    if (layout == CubeLayout::octahedral)
        return place_on_octahedron(x, y, z);
    if (layout == CubeLayout::dual_paraboloid) {
        const bool is_ahead = z >= 0;
        const double scale = 0.5 / (1 + std::abs(z));
        const double u = 0.5 + (is_ahead ? x : -x) * scale, v = 0.5 - y * scale;
        return {(is_ahead ? u : 1 + u) / 2, v};
    }
    const double from_axis = std::hypot(x, y);
    const double radius = layout == CubeLayout::angular_map
                              ? std::atan2(from_axis, z) / pi
                              : std::sqrt(std::max(0.0, 0.5 + 0.5 * z));  // sin of half the angle
    const double scale = from_axis > 0 ? 0.5 * radius / from_axis : 0;
    return {0.5 + scale * x, 0.5 - scale * y};
}

std::optional<Direction> direction_of_place(CubeLayout layout, const std::array<double, 2>& place) {
    using std::numbers::pi;
    if (layout == CubeLayout::panorama) {
        const double longitude = (place[0] - 0.5) * 2 * pi, from_top = place[1] * pi;
        return Direction{std::sin(from_top) * std::sin(longitude), std::cos(from_top),
                         std::sin(from_top) * std::cos(longitude)};
    }
    if (layout == CubeLayout::half_panorama)
        return direction_of_place(CubeLayout::panorama, {place[0], place[1] / 2});
    if (layout == CubeLayout::octahedral)
        return direction_on_octahedron(place);
    if (layout == CubeLayout::dual_paraboloid) {
        const bool is_ahead = place[0] < 0.5;
        const double px = 2 * (2 * place[0] - (is_ahead ? 0 : 1)) - 1, py = 1 - 2 * place[1];
        const double square = px * px + py * py;
        const double side = is_ahead ? 1 : -1;
        return Direction{side * 2 * px / (1 + square), 2 * py / (1 + square),
                         side * (1 - square) / (1 + square)};
    }
    const double x = 2 * place[0] - 1, y = 1 - 2 * place[1];
    const double radius = std::hypot(x, y);
    if (radius > 1)
        return std::nullopt;
    if (layout == CubeLayout::mirror_ball) {
        // The ball's normal is (x, y, -depth), and the light came along the mirrored line of sight.
        const double depth = std::sqrt(1 - radius * radius);
        return Direction{2 * depth * x, 2 * depth * y, 1 - 2 * depth * depth};
    }
    const double scale = radius > 0 ? std::sin(radius * pi) / radius : 0;
    return Direction{scale * x, scale * y, std::cos(radius * pi)};
}

}  // namespace yl
