#include "support/reference_png.hpp"

#include <png.h>

#include <algorithm>
#include <cstring>
#include <random>
#include <stdexcept>

#include "support/check.hpp"

namespace support {
namespace {

[[noreturn]] void on_error(png_structp, png_const_charp message) {
    throw std::runtime_error(message);
}
void on_warning(png_structp, png_const_charp) {}

void append(png_structp png, png_bytep data, png_size_t size) {
    auto& file = *static_cast<std::vector<std::byte>*>(png_get_io_ptr(png));
    const auto* bytes = reinterpret_cast<const std::byte*>(data);
    file.insert(file.end(), bytes, bytes + size);
}

void take(png_structp png, png_bytep data, png_size_t size) {
    auto& left = *static_cast<std::span<const std::byte>*>(png_get_io_ptr(png));
    if (size > left.size())
        png_error(png, "the reference ran out of bytes");
    std::memcpy(data, left.data(), size);
    left = left.subspan(size);
}

}  // namespace

std::vector<std::byte> write_reference_png(const ReferencePng& kind) {
    std::mt19937 random(kind.seed);
    std::vector<std::byte> file;
    png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, on_error, on_warning);
    png_infop info = png_create_info_struct(png);
    png_set_write_fn(png, &file, append, [](png_structp) {});
    png_set_IHDR(png, info, kind.width, kind.height, kind.bits, kind.color_type,
                 kind.interlaced ? PNG_INTERLACE_ADAM7 : PNG_INTERLACE_NONE,
                 PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
    png_set_filter(png, 0, PNG_ALL_FILTERS);
    const bool palette = kind.color_type == PNG_COLOR_TYPE_PALETTE;
    if (palette) {
        std::vector<png_color> colors(std::size_t{1} << kind.bits);
        for (png_color& color : colors)
            color = {static_cast<png_byte>(random()), static_cast<png_byte>(random()),
                     static_cast<png_byte>(random())};
        png_set_PLTE(png, info, colors.data(), static_cast<int>(colors.size()));
        std::vector<png_byte> alphas(colors.size() / 2 + 1);
        for (png_byte& alpha : alphas)
            alpha = static_cast<png_byte>(random());
        if (kind.transparency)
            png_set_tRNS(png, info, alphas.data(), static_cast<int>(alphas.size()), nullptr);
    }
    png_set_compression_level(png, 6);
    const std::size_t row_bytes = (std::size_t{kind.width} *
                                       (kind.color_type == 2   ? 3U
                                        : kind.color_type == 4 ? 2U
                                        : kind.color_type == 6 ? 4U
                                                               : 1U) *
                                       static_cast<std::size_t>(kind.bits) +
                                   7) /
                                  8;
    // Few different values, so that the one transparent colour occurs.
    std::vector<std::vector<png_byte>> rows(kind.height, std::vector<png_byte>(row_bytes));
    const png_byte mask = kind.transparency && kind.bits >= 8 ? 1 : 0xFF;
    for (auto& row : rows)
        for (png_byte& byte : row)
            byte = static_cast<png_byte>(random() & mask);
    if (kind.transparency && !palette) {
        png_color_16 transparent{};
        transparent.gray = static_cast<png_uint_16>(kind.bits < 8    ? 1
                                                    : kind.bits == 8 ? 1
                                                                     : 0x0101);
        transparent.red = transparent.green = transparent.blue = transparent.gray;
        png_set_tRNS(png, info, nullptr, 0, &transparent);
    }
    png_write_info(png, info);
    std::vector<png_bytep> pointers;
    for (auto& row : rows)
        pointers.push_back(row.data());
    png_write_image(png, pointers.data());
    png_write_end(png, info);
    png_destroy_write_struct(&png, &info);
    return file;
}

ReferencePixels read_reference_png(std::span<const std::byte> file) {
    png_structp png = png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, on_error, on_warning);
    png_infop info = png_create_info_struct(png);
    png_set_read_fn(png, &file, take);
    png_read_info(png, info);
    png_set_expand(png);
    if (png_get_bit_depth(png, info) == 16)
        png_set_swap(png);
    png_set_interlace_handling(png);
    png_read_update_info(png, info);
    ReferencePixels pixels;
    pixels.width = png_get_image_width(png, info);
    pixels.height = png_get_image_height(png, info);
    pixels.channels = png_get_channels(png, info);
    pixels.bits = png_get_bit_depth(png, info);
    const std::size_t row_bytes = png_get_rowbytes(png, info);
    pixels.bytes.resize(row_bytes * pixels.height);
    std::vector<png_bytep> pointers;
    for (std::uint32_t y = 0; y < pixels.height; ++y)
        pointers.push_back(reinterpret_cast<png_bytep>(pixels.bytes.data() + y * row_bytes));
    png_read_image(png, pointers.data());
    png_read_end(png, nullptr);
    png_destroy_read_struct(&png, &info, nullptr);
    return pixels;
}

}  // namespace support
