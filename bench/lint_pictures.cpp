// Sound textures, as the survey makes them of pictures.
#include <algorithm>
#include <cmath>

#include "lint_defects.hpp"

namespace survey {

std::optional<Picture> as_rgba(const Picture& picture) {
    if (info(picture.image.format()).is_float())
        return std::nullopt;
    auto converted = convert(picture, Format::rgba8_srgb);
    if (!converted)
        return std::nullopt;
    return std::move(*converted);
}

std::optional<Texture> chain_of(const Picture& picture, Role role) {
    BakeOptions options;
    options.role = role;
    options.format = role == Role::color ? Format::rgba8_srgb : Format::rgba8_unorm;
    auto baked = bake(picture, options);
    if (!baked)
        return std::nullopt;
    return std::move(baked->texture);
}

std::optional<Texture> one_level(const Picture& picture, Format format) {
    auto texture = Texture::create(
        {.format = format, .width = picture.image.width(), .height = picture.image.height()});
    if (!texture)
        return std::nullopt;
    std::span<std::byte> to = texture->level(0);
    for (std::uint32_t y = 0; y < picture.image.height(); ++y) {
        const auto row = picture.image.view().row(y);
        std::ranges::copy(row, to.begin());
        to = to.subspan(row.size());
    }
    texture->metadata.transfer = info(format).transfer;
    texture->metadata.alpha = picture.alpha;
    return std::move(*texture);
}

double contrast(const Picture& picture) {
    double sum = 0, squares = 0, count = 0;
    for (std::uint32_t y = 0; y < picture.image.height(); ++y)
        for (const std::byte byte : picture.image.view().row(y)) {
            sum += code(byte);
            squares += code(byte) * code(byte);
            ++count;
        }
    return std::sqrt(std::max(0.0, squares / count - sum / count * (sum / count)));
}

std::optional<Picture> normals_of(const Picture& picture, float strength) {
    auto height =
        convert(picture.image.view(), Format::r8_unorm,
                {.source_transfer = Transfer::srgb, .to_one_channel = ToOneChannel::luminance});
    if (!height || contrast(picture) < 15)
        return std::nullopt;
    auto normals = normals_from_height(height->view(), {.height = 8 * strength});
    if (!normals)
        return std::nullopt;
    auto image =
        convert(normals->view(), Format::rgba8_unorm, {.source_transfer = Transfer::linear});
    if (!image)
        return std::nullopt;
    Picture made;
    made.image = std::move(*image);
    made.transfer = Transfer::linear;
    return made;
}

std::optional<Texture> sky_of(const Picture& picture) {
    constexpr std::uint32_t side = 64, height = 2 * side, width = 2 * height, fade = height / 2;
    constexpr std::uint32_t detail = 24;  // texels across: skies are soft
    auto small =
        resize(picture.image.view(), detail, detail, {.kernel = {.kind = Kernel::Kind::box}});
    if (contrast(picture) < 25 || !small)
        return std::nullopt;
    auto large =
        resize(small->view(), width + fade, height, {.kernel = {.kind = Kernel::Kind::cubic}});
    auto around = Image::create(Format::rgba8_srgb, width, height);
    if (!large || !around)
        return std::nullopt;
    // What is left over on the right fades into the left, so that it goes round.
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::size_t i = 0; i < std::size_t{4} * width; ++i) {
            const auto row = std::as_const(*large).view().row(y);
            const double share = std::min(static_cast<double>(i / 4) / fade, 1.0);
            const int over = share < 1 ? code(row[i + std::size_t{4} * width]) : 0;
            around->view().row(y)[i] = i % 4 == 3 ? std::byte{255}
                                                  : static_cast<std::byte>(std::lround(
                                                        share * code(row[i]) + (1 - share) * over));
        }
    Picture whole;
    whole.image = std::move(*around);
    auto cube = cube_of_picture(whole, {.layout = CubeLayout::panorama, .face_size = side});
    if (!cube)
        return std::nullopt;
    TextureShape shape = cube->shape();
    shape.levels = full_level_count(side, side);
    auto sky = Texture::create(shape);
    if (!sky)
        return std::nullopt;
    std::ranges::copy(cube->level(0), sky->level(0).begin());
    sky->metadata = cube->metadata;
    if (!build_cube_mips(*sky))
        return std::nullopt;
    return std::move(*sky);
}

}  // namespace survey
