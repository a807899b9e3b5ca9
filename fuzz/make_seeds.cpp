// Writes small valid files of every kind into a folder, for the fuzzers to start from:
//     make_seeds FOLDER
#include <cstdio>
#include <fstream>
#include <yl/yl.hpp>

#include "support/reference_jpeg.hpp"

namespace {

void write(const std::string& path, const std::vector<std::byte>& file) {
    std::ofstream out(path, std::ios::binary);
    out.write(reinterpret_cast<const char*>(file.data()),
              static_cast<std::streamsize>(file.size()));
}

void write(const std::string& path, const yl::Result<std::vector<std::byte>>& file) {
    if (file)  // else this format cannot hold that one
        write(path, *file);
}

/// The library writes no JPEG; the reference library does.
void write_jpegs(const std::string& folder) {
    for (const int components : {1, 3, 4})
        for (const bool progressive : {false, true})
            for (const int luma : {1, 2})
                write(folder + "jpeg-" + std::to_string(components) +
                          (progressive ? "-progressive-" : "-baseline-") + std::to_string(luma) +
                          ".jpg",
                      support::write_reference_jpeg({.width = 17,
                                                     .height = 9,
                                                     .components = components,
                                                     .luma = {luma, luma},
                                                     .progressive = progressive,
                                                     .restart_blocks = luma == 2 ? 1U : 0U,
                                                     .quality = 70}));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2)
        return std::fprintf(stderr, "usage: make_seeds FOLDER\n"), 2;
    const std::string folder = std::string(argv[1]) + "/";
    write_jpegs(folder);
    for (const yl::FormatInfo& format : yl::all_formats()) {
        auto texture =
            yl::Texture::create({.format = format.format, .width = 6, .height = 5, .levels = 3});
        if (!texture)
            return 1;
        for (std::uint32_t level = 0; level < 3; ++level)
            for (std::size_t i = 0; i < texture->level(level).size(); ++i)
                texture->level(level)[i] = static_cast<std::byte>(i * 7);
        const std::string name(format.name);
        for (const char* ending :
             {"png", "ppm", "pgm", "pam", "pfm", "bmp", "tga", "qoi", "hdr", "exr"})
            write(folder + name + "." + ending, yl::encode_picture(ending, texture->image(0)));
        for (const auto scheme :
             {yl::Supercompression::none, yl::Supercompression::zstd, yl::Supercompression::zlib})
            write(folder + name + "-" + std::string(yl::name(scheme)) + ".ktx2",
                  yl::encode_texture("ktx2", *texture, {.supercompression = scheme}));
        for (const bool old : {false, true})
            write(folder + name + (old ? "-old" : "") + ".dds",
                  yl::encode_texture("dds", *texture, {.legacy_header = old}));
    }
    return 0;
}
