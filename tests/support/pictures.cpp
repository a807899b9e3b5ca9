#include "support/pictures.hpp"

#include <algorithm>

#include "support/check.hpp"

namespace support {

void fill_random(yl::ImageView image, Random& random) {
    const yl::FormatInfo& format = yl::info(image.format);
    if (!format.is_float() || format.is_block()) {
        const std::uint32_t rows = (image.height + format.block_height - 1U) / format.block_height;
        for (std::uint32_t y = 0; y < rows; ++y)
            for (std::byte& byte : image.row(y))
                byte = static_cast<std::byte>(random() & 0xFF);
        return;
    }
    yl::Image floats = must(yl::Image::create(yl::Format::rgba32_float, image.width, image.height));
    std::uniform_real_distribution<float> value(0.0F, 4.0F);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        auto* row = reinterpret_cast<float*>(floats.view().row(y).data());
        std::generate_n(row, std::size_t{image.width} * 4, [&] { return value(random); });
    }
    must(yl::convert(
        floats.view(), image,
        {.source_transfer = yl::Transfer::linear, .to_one_channel = yl::ToOneChannel::red}));
}

yl::Texture random_texture(const yl::TextureShape& shape, std::uint32_t seed) {
    Random random(seed);
    yl::Texture texture = must(yl::Texture::create(shape));
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        yl::ImageView all =
            texture.image(level);  // every surface of the level, one below the other
        const std::uint32_t block = yl::info(shape.format).block_height;
        all.height = (all.height + block - 1) / block * block;
        all.height *= shape.depth_at(level) * shape.layers * shape.faces;
        fill_random(all, random);
    }
    return texture;
}

std::vector<std::byte> bytes_of(yl::ConstImageView image) {
    std::vector<std::byte> bytes;
    for (std::uint32_t y = 0; y < image.row_count(); ++y) {
        const auto row = image.row(y);
        bytes.insert(bytes.end(), row.begin(), row.end());
    }
    return bytes;
}

std::vector<std::byte> bytes_of(std::initializer_list<int> values) {
    std::vector<std::byte> bytes;
    for (const int value : values)
        bytes.push_back(static_cast<std::byte>(value));
    return bytes;
}

bool equal_pixels(yl::ConstImageView a, yl::ConstImageView b) {
    return a.width == b.width && a.height == b.height && a.format == b.format &&
           bytes_of(a) == bytes_of(b);
}

double mean_difference(yl::ConstImageView a, yl::ConstImageView b) {
    const auto first = bytes_of(a), second = bytes_of(b);
    double sum = 0;
    for (std::size_t i = 0; i < first.size(); ++i)
        sum += std::abs(std::to_integer<int>(first[i]) - std::to_integer<int>(second.at(i)));
    return sum / static_cast<double>(first.size());
}

}  // namespace support
