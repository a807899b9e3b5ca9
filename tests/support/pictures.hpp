// Random and simple pictures, with fixed seeds.
#pragma once

#include <cstdint>
#include <random>
#include <vector>
#include <yl/yl.hpp>

namespace support {

using Random = std::mt19937;

/// Fills a texture or image of any format with random values that the format holds: no NaN, no
/// infinity, floats within a few powers of two.
void fill_random(yl::ImageView image, Random& random);

[[nodiscard]] yl::Texture random_texture(const yl::TextureShape& shape, std::uint32_t seed);

/// Bytes of an image without padding; bytes of these values.
[[nodiscard]] std::vector<std::byte> bytes_of(yl::ConstImageView image);
[[nodiscard]] std::vector<std::byte> bytes_of(std::initializer_list<int> values);

/// Of all bytes of two pictures of 8 bits, in code values.
[[nodiscard]] double mean_difference(yl::ConstImageView a, yl::ConstImageView b);

[[nodiscard]] bool equal_pixels(yl::ConstImageView a, yl::ConstImageView b);

}  // namespace support
