#include "support/reference_jpeg.hpp"

#include <cstdio>
#include <cstdlib>

#include <jpeglib.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <stdexcept>

namespace support {
namespace {

[[noreturn]] void on_error(j_common_ptr info) {
    char message[JMSG_LENGTH_MAX];
    info->err->format_message(info, message);
    throw std::runtime_error(message);
}

void describe(jpeg_compress_struct& info, const ReferenceJpeg& kind) {
    info.image_width = kind.width;
    info.image_height = kind.height;
    info.input_components = kind.components;
    info.in_color_space = kind.components == 1   ? JCS_GRAYSCALE
                          : kind.components == 3 ? JCS_RGB
                                                 : JCS_CMYK;
    jpeg_set_defaults(&info);
    if (kind.components == 3)
        jpeg_set_colorspace(&info, kind.convert ? JCS_YCbCr : JCS_RGB);
    if (kind.components == 4)
        jpeg_set_colorspace(&info, kind.convert ? JCS_YCCK : JCS_CMYK);
    jpeg_set_quality(&info, kind.quality, FALSE);
    for (int c = 0; c < info.num_components; ++c)
        info.comp_info[c].h_samp_factor = info.comp_info[c].v_samp_factor = 1;
    info.comp_info[0].h_samp_factor = kind.luma[0];
    info.comp_info[0].v_samp_factor = kind.luma[1];
    if (kind.components == 4) {
        info.comp_info[3].h_samp_factor = kind.luma[0];
        info.comp_info[3].v_samp_factor = kind.luma[1];
    }
    if (kind.progressive)
        jpeg_simple_progression(&info);
    info.restart_in_rows = static_cast<int>(kind.restart_rows);
    info.restart_interval = kind.restart_blocks;
    info.optimize_coding = kind.optimized ? TRUE : FALSE;
}

/// Waves with noise.
void write_rows(jpeg_compress_struct& info, const ReferenceJpeg& kind) {
    std::mt19937 random(7);
    std::vector<unsigned char> row(std::size_t{kind.width} *
                                   static_cast<std::size_t>(kind.components));
    for (std::uint32_t y = 0; y < kind.height; ++y) {
        for (std::size_t i = 0; i < row.size(); ++i) {
            const double x = static_cast<double>(i / static_cast<std::size_t>(kind.components));
            const double c = static_cast<double>(i % static_cast<std::size_t>(kind.components));
            const double wave = std::sin(x * 0.07 * (c + 1)) * std::cos(y * 0.05 + c);
            row[i] = static_cast<unsigned char>(std::clamp(
                128 + kind.amplitude * wave + static_cast<double>(random() % 21), 0.0, 255.0));
        }
        JSAMPROW pointer = row.data();
        jpeg_write_scanlines(&info, &pointer, 1);
    }
}

}  // namespace

std::vector<std::byte> write_reference_jpeg(const ReferenceJpeg& kind) {
    jpeg_compress_struct info{};
    jpeg_error_mgr errors{};
    info.err = jpeg_std_error(&errors);
    errors.error_exit = on_error;
    jpeg_create_compress(&info);
    unsigned char* memory = nullptr;
    unsigned long size = 0;
    jpeg_mem_dest(&info, &memory, &size);
    describe(info, kind);
    std::array<jpeg_scan_info, 4> scans{};
    if (kind.separate_scans) {
        for (int c = 0; c < info.num_components; ++c)
            scans[static_cast<std::size_t>(c)] = {1, {c, 0, 0, 0}, 0, 63, 0, 0};
        info.scan_info = scans.data();
        info.num_scans = info.num_components;
    }
    jpeg_start_compress(&info, TRUE);
    if (!kind.exif.empty())
        jpeg_write_marker(&info, JPEG_APP0 + 1, reinterpret_cast<const JOCTET*>(kind.exif.data()),
                          static_cast<unsigned>(kind.exif.size()));
    if (!kind.profile.empty())
        jpeg_write_icc_profile(&info, reinterpret_cast<const JOCTET*>(kind.profile.data()),
                               static_cast<unsigned>(kind.profile.size()));
    write_rows(info, kind);
    jpeg_finish_compress(&info);
    jpeg_destroy_compress(&info);
    const auto* bytes = reinterpret_cast<const std::byte*>(memory);
    std::vector<std::byte> file(bytes, bytes + size);
    std::free(memory);
    return file;
}

std::vector<int> read_reference_jpeg(std::span<const std::byte> file) {
    jpeg_decompress_struct info{};
    jpeg_error_mgr errors{};
    info.err = jpeg_std_error(&errors);
    errors.error_exit = on_error;
    jpeg_create_decompress(&info);
    jpeg_mem_src(&info, reinterpret_cast<const unsigned char*>(file.data()), file.size());
    jpeg_read_header(&info, TRUE);
    info.dct_method = JDCT_ISLOW;
    info.do_fancy_upsampling = TRUE;
    jpeg_start_decompress(&info);
    std::vector<int> pixels;
    std::vector<unsigned char> row(std::size_t{info.output_width} *
                                   static_cast<std::size_t>(info.output_components));
    while (info.output_scanline < info.output_height) {
        JSAMPROW pointer = row.data();
        jpeg_read_scanlines(&info, &pointer, 1);
        pixels.insert(pixels.end(), row.begin(), row.end());
    }
    jpeg_finish_decompress(&info);
    jpeg_destroy_decompress(&info);
    return pixels;
}

}  // namespace support
