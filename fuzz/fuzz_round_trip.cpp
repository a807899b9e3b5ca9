// Writers: any pixels in any format give an error or a file that reads back as the same pixels.
#include <yl/picture.hpp>
#include <yl/texture_file.hpp>

#include "input.hpp"

namespace {

using fuzz::check;

constexpr std::string_view picture_endings[] = {"png", "bmp", "tga", "qoi", "ppm",
                                                "pgm", "pam", "pfm", "exr", "hdr"};

yl::Texture texture_of(fuzz::Input& input, bool is_picture) {
    yl::TextureShape shape{.format = input.one_of(yl::all_formats()).format,
                           .width = input.between(1, 24),
                           .height = input.between(1, 24)};
    if (!is_picture) {
        shape.levels = input.between(1, 5);
        shape.layers = input.between(1, 3);
        shape.depth = input.take<std::uint8_t>() % 8 == 0 ? input.between(1, 5) : 1;
        shape.faces = input.take<std::uint8_t>() % 8 == 0 ? 6 : 1;
        if (shape.depth > 1)
            shape.layers = shape.faces = 1;
        if (shape.faces == 6)
            shape.height = shape.width;
        shape.is_array = shape.layers > 1;
        shape.levels =
            std::min(shape.levels, yl::full_level_count(shape.width, shape.height, shape.depth));
    }
    auto texture = yl::Texture::create(shape);
    check(texture.has_value());
    return std::move(*texture);
}

void fill(yl::Texture& texture, fuzz::Input& input) {
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        input.spread_over(texture.level(level));
}

/// What is read holds the same values bit by bit, but for HDR, whose shared exponents keep fewer.
void check_picture(fuzz::Input& input) {
    const std::string_view ending = input.one_of(picture_endings);
    const int effort = static_cast<int>(input.between(0, 4));
    yl::Texture texture = texture_of(input, true);
    fill(texture, input);
    const yl::ConstImageView image = std::as_const(texture).image(0);
    const auto file = yl::encode_picture(ending, image, {.effort = effort});
    if (!file)
        return check(!file.error().message.empty());
    const auto back = yl::read_picture(*file);
    check(back.has_value());
    const auto view = back->image.view();
    check(view.width == image.width && view.height == image.height);
    if (ending == "hdr" ||
        yl::info(view.format).channel_count != yl::info(image.format).channel_count)
        return;
    if (yl::info(view.format).block_bytes != yl::info(image.format).block_bytes)
        return;
    for (std::uint32_t y = 0; y < view.height; ++y)
        check(std::ranges::equal(view.row(y), image.row(y)));
}

void check_texture(fuzz::Input& input) {
    const bool is_ktx = input.take<std::uint8_t>() % 2 == 0;
    yl::TextureWriteOptions options;
    constexpr yl::Supercompression schemes[] = {
        yl::Supercompression::none, yl::Supercompression::zstd, yl::Supercompression::zlib};
    options.supercompression = is_ktx ? input.one_of(schemes) : yl::Supercompression::none;
    options.level = static_cast<int>(input.between(0, 4));
    options.legacy_header = !is_ktx && input.take<std::uint8_t>() % 2 == 0;
    yl::Texture texture = texture_of(input, false);
    fill(texture, input);
    const auto file = yl::texture_file_bytes(is_ktx ? "ktx2" : "dds", texture, options);
    if (!file)
        return check(!file.error().message.empty());
    const auto back = yl::read_texture(*file);
    check(back.has_value());
    if (options.legacy_header)  // may come back in a wider format
        return check(back->texture.shape().width == texture.shape().width);
    check(back->texture.shape() == texture.shape());
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        check(std::ranges::equal(back->texture.level(level), texture.level(level)));
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    fuzz::Input input(data, size);
    if (input.take<std::uint8_t>() % 2 == 0)
        check_picture(input);
    else
        check_texture(input);
    return 0;
}
