// Writes small valid files for the fuzzers to start from, in a folder for each target:
//     make_seeds FOLDER
#include <cstdio>
#include <filesystem>
#include <yl/yl.hpp>

#include "seed_models.hpp"
#include "support/profiles.hpp"
#include "support/psd_file.hpp"
#include "support/reference_exr.hpp"
#include "support/reference_gif.hpp"
#include "support/reference_jpeg.hpp"
#include "support/reference_png.hpp"
#include "support/reference_tiff.hpp"
#include "support/reference_webp.hpp"

namespace {

/// Six by five texels with three levels, of bytes that are not all alike.
yl::Result<yl::Texture> small_texture(yl::Format format, yl::TextureShape shape) {
    shape.format = format;
    auto texture = yl::Texture::create(shape);
    if (texture)
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            for (std::size_t i = 0; i < texture->level(level).size(); ++i)
                texture->level(level)[i] = static_cast<std::byte>(i * 7);
    return texture;
}

/// What the library writes, in every kind of pixel that differs in a file.
void write_pictures(const seeds::Folder& folder) {
    using yl::Format;
    for (const Format format : {Format::r8_unorm, Format::rg8_unorm, Format::rgb8_srgb,
                                Format::rgba8_srgb, Format::r16_unorm, Format::rgba16_unorm,
                                Format::r32_float, Format::rgb32_float, Format::rgba16_float}) {
        const auto texture = small_texture(format, {.width = 6, .height = 5});
        if (!texture)
            continue;
        for (const std::string ending :
             {"png", "ppm", "pgm", "pam", "pfm", "bmp", "tga", "qoi", "hdr", "exr"}) {
            const auto file = yl::encode_picture(ending, texture->image(0));
            if (file)  // else this file format cannot hold those pixels
                folder.write(ending, std::string(yl::info(format).name), *file);
        }
        if (const auto file = yl::encode_picture("tif", texture->image(0)))
            folder.write("tiff", std::string(yl::info(format).name), *file);
    }
    folder.write_text("pbm", "text", "P1\n# one\n5 3\n1 0 1 0 1\n0 1 0 1 0\n1 1 1 1 1\n");
    folder.write_text("pbm", "bits", "P4\n5 3\n\x55\x2a\x7f");
    folder.write_text("pgm", "text", "P2\n3 2\n15\n0 5 10\n15 10 5\n");
    folder.write_text("ppm", "text", "P3\n2 1\n255\n255 0 0  0 255 0\n");
}

/// What the library reads and does not write; the reference libraries do.
void write_reference_pictures(const seeds::Folder& folder) {
    for (const int components : {1, 3, 4})
        for (const bool progressive : {false, true})
            for (const int luma : {1, 2})
                folder.write("jpeg",
                             std::to_string(components) +
                                 (progressive ? "-progressive-" : "-baseline-") +
                                 std::to_string(luma),
                             support::write_reference_jpeg({.width = 17,
                                                            .height = 9,
                                                            .components = components,
                                                            .luma = {luma, luma},
                                                            .progressive = progressive,
                                                            .restart_blocks = luma == 2 ? 1U : 0U,
                                                            .quality = 70}));
    folder.write(
        "jpeg", "ink-profile",
        support::write_reference_jpeg(
            {.width = 9, .height = 5, .components = 4, .profile = support::ink_profile(2)}));
    for (const int color_type : {0, 2, 3, 4, 6})
        for (const int bits : {1, 8, 16}) {
            const bool is_possible =
                bits == 8 || color_type == 0 || (bits == 1) == (color_type == 3);
            if (is_possible)
                folder.write("png", std::to_string(color_type) + "-" + std::to_string(bits),
                             support::write_reference_png({.width = 7,
                                                           .height = 5,
                                                           .color_type = color_type,
                                                           .bits = bits,
                                                           .interlaced = bits != 16,
                                                           .transparency = color_type < 4}));
        }
    for (int compression = 0; compression <= 5; ++compression)
        for (const int tile : {0, 4})
            folder.write("exr", std::to_string(compression) + (tile != 0 ? "-tiles" : "-lines"),
                         support::write_reference_exr({.compression = compression, .tile = tile}));
    const std::vector<support::LossyChannel> channels = {
        {.name = "A"}, {.name = "B"}, {.name = "G"}, {.name = "R"}, {.name = "Z", .type = 2}};
    for (int compression = 6; compression <= 9; ++compression)
        folder.write("exr", std::to_string(compression) + "-lossy",
                     support::write_lossy_exr(compression, 11, 9, channels, 1).file);
    folder.write("exr", "parts",
                 support::write_reference_parts(
                     {{"a", {.channels = "Y"}}, {"b", {.channels = "RGB", .tile = 16}}}));
    for (const bool each_axis : {false, true})
        folder.write("exr", each_axis ? "levels-each-axis" : "levels",
                     support::write_reference_levels(20, 9, each_axis, each_axis));
}

/// Each scheme with strips and tiles, planes and orders of its own.
void write_reference_pages(const seeds::Folder& folder) {
    std::uint32_t number = 0;
    for (const std::uint16_t compression : std::array<std::uint16_t, 4>{1, 5, 8, 32773})
        for (const std::uint32_t bits : {1U, 8U, 16U, 32U}) {
            support::TiffKind kind = {.width = 9, .height = 6, .bits = bits};
            kind.channels = number % 4 + 1;
            kind.photometric = kind.channels < 3 ? 1 : 2;
            kind.compression = compression;
            kind.tile_width = number % 3 == 0 ? 16 : 0;
            kind.tile_height = 16;
            kind.is_planar = number % 2 == 0;
            kind.big_endian = number % 5 == 0;
            kind.big_tiff = number % 7 == 0;
            if (bits >= 8 && (compression == 5 || compression == 8))
                kind.predictor = 2;
            if (kind.channels % 2 == 0)
                kind.extra = {static_cast<std::uint16_t>(number % 3)};
            std::vector<std::uint64_t> samples(std::size_t{9} * 6 * kind.channels);
            for (std::size_t i = 0; i < samples.size(); ++i)
                samples[i] = i * 7 % (std::uint64_t{1} << std::min(bits, 31U));
            folder.write("tiff", "reference-" + std::to_string(number++),
                         support::reference_tiff(kind, samples));
        }
    const std::vector<std::uint64_t> inks = {10, 200, 30, 0, 90, 0, 255, 40, 0, 0, 0, 255};
    folder.write("tiff", "ink-profile",
                 support::reference_tiff({.width = 3,
                                          .height = 1,
                                          .channels = 4,
                                          .photometric = 5,
                                          .profile = support::ink_profile(2)},
                                         inks));
    const std::vector<std::byte> units(6 * 6, std::byte{90});
    folder.write("tiff", "ycbcr", support::reference_ycbcr_tiff(6, 5, 2, 2, units));
}

void write_animations(const seeds::Folder& folder) {
    for (int bits = 1; bits <= 8; bits += 3) {
        support::GifKind kind = {.width = 7, .height = 5, .bits = bits};
        for (int i = 0; i < 4; ++i) {
            support::GifFrame frame = {i, i / 2, 7 - i, 5 - i, i % 2 == 0, i == 1, i, i - 1, 5 * i};
            for (int pixel = 0; pixel < frame.width * frame.height; ++pixel)
                frame.indices.push_back(static_cast<std::byte>(pixel * 5 % (1 << bits)));
            kind.frames.push_back(std::move(frame));
        }
        folder.write("gif", std::to_string(bits), support::reference_gif(kind));
    }
}

/// Pixels with and without loss, with what each kind may do to them, and an animation of those.
void write_webp(const seeds::Folder& folder) {
    std::vector<support::WebpFrame> frames;
    for (int i = 0; i < 8; ++i) {
        const support::WebpKind kind{.width = 17 + i,
                                     .height = 9 + 3 * i,
                                     .has_alpha = i % 3 != 0,
                                     .is_lossless = i % 2 == 0,
                                     .method = 6 - i / 2,
                                     .quality = 90.0F - 10.0F * static_cast<float>(i),
                                     .partitions = i % 4,
                                     .has_strong_filter = i % 4 != 1,
                                     .alpha_compression = i % 4 != 3,
                                     .alpha_filtering = i % 3};
        std::vector<std::byte> pixels;
        for (int at = 0; at < 4 * kind.width * kind.height; ++at)
            pixels.push_back(
                static_cast<std::byte>(i < 4 ? at / 16 % 5 * 40 : at * at / 7 + at % 4));
        auto file = support::reference_webp(kind, pixels);
        folder.write("webp", std::to_string(i), file);
        frames.push_back({.x = 2 * i,
                          .milliseconds = 40 * i,
                          .is_cleared = i % 2 == 0,
                          .replaces = i % 3 == 0,
                          .file = std::move(file)});
    }
    folder.write("webp", "animation", support::reference_webp_animation(40, 40, frames, 3));
}

void write_psd(const seeds::Folder& folder) {
    for (std::uint16_t number = 0; number < 16; ++number) {
        constexpr std::uint16_t modes[] = {3, 1, 2, 4};
        support::PsdKind kind{.is_large = number % 5 == 4,
                              .width = 9U + number,
                              .height = 6,
                              .mode = modes[number % 4],
                              .packing = static_cast<std::uint16_t>(number / 4)};
        kind.channels = kind.mode == 4 ? 4 : kind.mode == 3 ? 4 : 1;
        kind.bits = kind.mode == 2 ? 8 : number % 3 == 0 ? 16 : 8;
        kind.layers = number % 3 == 1 ? -2 : 0;
        kind.clear_index = kind.mode == 2 ? 3 : -1;
        std::vector<std::uint32_t> samples;
        for (std::uint32_t i = 0; i < kind.width * kind.height * kind.channels; ++i)
            samples.push_back(i / 3 * 37 % 256);
        folder.write("psd", std::to_string(number), support::psd_file(kind, samples));
    }
}

void write_textures(const seeds::Folder& folder) {
    using yl::Format;
    for (const Format format :
         {Format::r8_unorm, Format::rgba8_srgb, Format::bgra8_srgb, Format::rgba16_float,
          Format::rgb32_float, Format::bc1a_srgb, Format::bc3_unorm, Format::bc4_snorm,
          Format::bc5_unorm, Format::bc6h_ufloat, Format::bc7_srgb, Format::etc2_rgb8_srgb,
          Format::etc2_rgba8_unorm, Format::eac_rg11_snorm, Format::astc_4x4_unorm,
          Format::astc_6x6_srgb, Format::astc_8x8_sfloat}) {
        const std::string name(yl::info(format).name);
        const auto texture = small_texture(format, {.width = 6, .height = 5, .levels = 3});
        if (!texture)
            continue;
        for (const auto scheme :
             {yl::Supercompression::none, yl::Supercompression::zstd, yl::Supercompression::zlib})
            if (const auto file =
                    yl::texture_file_bytes("ktx2", *texture, {.supercompression = scheme}))
                folder.write("texture", name + "-ktx2-" + std::string(yl::name(scheme)), *file);
        for (const bool old : {false, true})
            if (const auto file = yl::texture_file_bytes("dds", *texture, {.legacy_header = old}))
                folder.write("texture", name + (old ? "-dds-old" : "-dds"), *file);
    }
    const yl::TextureShape shapes[] = {{.width = 4, .height = 4, .levels = 2, .faces = 6},
                                       {.width = 4, .height = 3, .layers = 3},
                                       {.width = 4, .height = 3, .depth = 5, .levels = 3}};
    const std::string names[] = {"cube", "array", "volume"};
    for (std::size_t i = 0; i < std::size(shapes); ++i)
        for (const std::string ending : {"ktx2", "dds"})
            if (const auto texture = small_texture(Format::rgba8_srgb, shapes[i]))
                if (const auto file = yl::texture_file_bytes(ending, *texture))
                    folder.write("texture", names[i] + "-" + ending, *file);
}

/// KTX 1 (version 1 of the specification, section 2): twelve bytes of identifier, thirteen words,
/// pairs of keys and values, and for each level its size and its texels.
void write_old_textures(const seeds::Folder& folder) {
    struct Kind {
        std::string name;
        std::uint32_t type, type_size, format, internal_format, faces, bytes;
    };
    const Kind kinds[] = {{"ktx1-rgba8", 0x1401, 1, 0x1908, 0x8058, 1, 16},
                          {"ktx1-rgb8", 0x1401, 1, 0x1907, 0x8051, 1, 16},
                          {"ktx1-rgba16f", 0x140B, 2, 0x1908, 0x881A, 1, 32},
                          {"ktx1-cube", 0x1401, 1, 0x1903, 0x8229, 6, 8},
                          {"ktx1-bc1", 0, 1, 0, 0x83F1, 1, 8},
                          {"ktx1-etc1", 0, 1, 0, 0x8D64, 1, 8},
                          {"ktx1-etc2-eac", 0, 1, 0, 0x9279, 1, 16},
                          {"ktx1-eac-rg11", 0, 1, 0, 0x9272, 1, 16},
                          {"ktx1-astc-6x6", 0, 1, 0, 0x93D4, 1, 16}};
    for (const Kind& kind : kinds) {
        std::string file("\xABKTX 11\xBB\r\n\x1A\n", 12);
        for (const std::uint32_t word :
             {0x04030201U, kind.type, kind.type_size, kind.format, kind.internal_format,
              kind.format, 2U, 2U, 0U, 0U, kind.faces, 1U, 16U, 12U})
            file.append(reinterpret_cast<const char*>(&word), 4);
        file.append("KTXkey\0val\0\0", 12);
        file.append(reinterpret_cast<const char*>(&kind.bytes), 4);
        file.append(std::size_t{kind.bytes} * kind.faces, '\x37');
        folder.write_text("texture", kind.name, file);
    }
}

/// The other targets take numbers from the front of any bytes.
void write_numbers(const seeds::Folder& folder) {
    for (const char* target : {"blocks", "plan", "round_trip", "cube", "order"})
        for (unsigned seed = 0; seed < 12; ++seed) {
            std::string bytes;
            for (unsigned i = 0; i < 96; ++i)
                bytes += static_cast<char>((seed * 37 + i * (2 * seed + 29)) >> (i % 3));
            bytes[0] = static_cast<char>(seed * 5);
            folder.write_text(target, std::to_string(seed), bytes);
        }
    const char* texts[] = {
        "mag=nearest min=linear mip=nearest wrap=repeat,mirror border=0,0.5,0,1 lod=0..4",
        "kaiser:3,4",
        "clamp,repeat",
        "rrr1",
        "+x-z-y -x+z-y +y+x+z -y+x-z +z+x-y -z-x-y +x+y+z",
        "1 2 3 4 5 6",
        "right\nleft\ntop\nbottom\nfront\nback",
        "TITLE \"a\"\nLUT_3D_SIZE 2\nDOMAIN_MAX 1 1 2\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 0 1\n0 "
        "1 1\n1 1 1\n",
        "{\"width\":16,\"height\":16,\"layers\":1,\"last_clean_level\":1,\"parts\":[{\"name\":"
        "\"a\","
        "\"layer\":0,\"box\":[2,2,5,4],\"cell\":[0,0,10,8],\"turned\":false,\"repeats\":false,"
        "\"picture\":[6,4],\"trimmed\":[1,0],\"pivot\":[3,2.5]}],\"flipbooks\":[]}"};
    for (std::size_t i = 0; i < std::size(texts); ++i)
        folder.write_text("text", std::to_string(i), static_cast<char>(i) + std::string(texts[i]));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2)
        return std::fprintf(stderr, "usage: make_seeds FOLDER\n"), 2;
    const seeds::Folder folder(argv[1]);
    write_pictures(folder);
    write_reference_pictures(folder);
    write_reference_pages(folder);
    write_animations(folder);
    write_webp(folder);
    write_psd(folder);
    write_textures(folder);
    write_old_textures(folder);
    seeds::write_models(folder);
    seeds::write_imports(folder);
    write_numbers(folder);
    return 0;
}
