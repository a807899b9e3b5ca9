// Prints hashes of what the library makes: the same on every processor and by every compiler, and the
// same as in expected.txt until somebody means to change it.
//
//     probe DEMO SEEDS [PART...]        # the demo's data, and the seeds of the fuzz targets
#include <algorithm>
#include <fstream>
#include <random>

#include <yl/algorithm_versions.hpp>

#include "hash.hpp"

namespace probe {

yl::Image waves(std::uint32_t width, std::uint32_t height) {
    yl::Image image = yl::or_exit(yl::Image::create(yl::Format::rgba16_unorm, width, height));
    std::mt19937 random(width * 7919 + height);
    for (std::uint32_t y = 0; y < height; ++y) {
        std::byte* row = image.view().row(y).data();
        for (std::uint32_t x = 0; x < 4 * width; ++x) {
            const std::uint32_t wave = (x * 523 + y * 2311) % 65536;
            const std::uint32_t even = wave < 32768 ? 2 * wave : 2 * (65535 - wave);
            const auto code = static_cast<std::uint16_t>((even * 15 + (random() & 0xFFFFU)) / 16);
            row[2 * x] = static_cast<std::byte>(code & 0xFF);
            row[2 * x + 1] = static_cast<std::byte>(code >> 8);
        }
    }
    return image;
}

yl::Image waves_in(yl::Format format, std::uint32_t width, std::uint32_t height) {
    const yl::Image wide = waves(width, height);
    return yl::or_exit(yl::convert(
        wide.view(), format,
        {.source_transfer = yl::Transfer::linear, .to_one_channel = yl::ToOneChannel::luminance}));
}

yl::Texture chain_of(yl::Format format, std::uint32_t width, std::uint32_t height) {
    yl::Texture texture =
        yl::or_exit(yl::Texture::create({.format = format,
                                         .width = width,
                                         .height = height,
                                         .levels = yl::full_level_count(width, height)}));
    const yl::Image image = waves_in(format, width, height);
    std::ranges::copy(std::span(image.view().data, texture.level(0).size()),
                      texture.level(0).begin());
    return texture;
}

std::vector<std::filesystem::path> files_in(const std::filesystem::path& folder) {
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(folder))
        if (entry.is_regular_file())
            files.push_back(entry.path());
    std::ranges::sort(files);
    return files;
}

std::vector<std::byte> bytes_of(const std::filesystem::path& file) {
    std::ifstream stream(file, std::ios::binary);
    const std::string text{std::istreambuf_iterator<char>(stream), {}};
    const auto bytes = std::as_bytes(std::span(text));
    return {bytes.begin(), bytes.end()};
}

namespace {

/// What caches go by: another hash below asks for another number here.
void versions(const Places&) {
    for (const yl::AlgorithmVersion& one : yl::algorithm_versions()) {
        const bool is_of_system = one.name == "zstd" || one.name == "zlib";
        fmt::print("{}version of {:<45} {}\n", is_of_system ? "packed: " : "", one.name,
                   one.version);
    }
}

struct Part {
    std::string_view name;
    void (*run)(const Places& places);
};

constexpr Part parts[] = {
    {"versions", versions}, {"pixels", pixels},   {"files", files},       {"textures", textures},
    {"cubes", cubes},       {"devices", devices}, {"drawings", drawings}, {"findings", findings},
    {"scenes", scenes},     {"sweeps", sweeps},
#ifdef YL_PROBE_MODELS
    {"models", models},
#endif
#ifdef YL_PROBE_REPORTS
    {"reports", reports},
#endif
};

}  // namespace
}  // namespace probe

int main(int argc, char** argv) {
    if (argc < 3)
        return std::fprintf(stderr, "usage: probe DEMO SEEDS [PART...]\n"), 2;
    const std::vector<std::string_view> wanted(argv + 3, argv + argc);
    for (const probe::Part& part : probe::parts)
        if (wanted.empty() || std::ranges::find(wanted, part.name) != wanted.end())
            part.run({argv[1], argv[2]});
    return 0;
}
