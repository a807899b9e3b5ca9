// The memory that a chain of 16,384 x 16,384 takes, and what encoding its top level does:
// chain_memory [SIDE]
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <string>
#include <yl/status_macros.hpp>
#include <yl/yl.hpp>

namespace {

/// The most memory that this process has had, in bytes, as Linux counts it.
double peak_memory() {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("VmHWM:"))
            return std::atof(line.c_str() + 6) * 1024;
    return 0;
}

yl::Status memory_of_chain(yl::Texture& texture, double before) {
    for (const char* kernel : {"box", "kaiser:3"}) {
        YL_TRY(const yl::Kernel parsed, yl::parse_kernel(kernel));
        YL_CHECK(yl::build_mips(texture, {.kernel = parsed}));
    }
    const auto chain = static_cast<double>(texture.shape().total_bytes());
    std::printf("a chain of %.0f MiB: peak %.3f times the chain\n", chain / (1 << 20),
                (peak_memory() - before) / chain);
    return {};
}

/// Forgets the most memory that this process has had.
void forget_peak() {
    std::ofstream("/proc/self/clear_refs") << "5";
}

yl::Status memory_of_encoding(const yl::Texture& texture, yl::Format format, double before) {
    forget_peak();
    YL_TRY(const yl::Texture blocks, yl::encode_texture(texture, format, {.effort = 0}));
    const auto both =
        static_cast<double>(texture.shape().total_bytes() + blocks.shape().total_bytes());
    std::printf("%s: source and result %.0f MiB, peak %.3f times both\n",
                std::string(yl::info(format).name).c_str(), both / (1 << 20),
                (peak_memory() - before) / both);
    return {};
}

yl::Status measure(std::uint32_t side) {
    yl::TextureShape shape{.format = yl::Format::rgba8_srgb, .width = side, .height = side};
    const double before = peak_memory();
    {
        shape.levels = yl::full_level_count(side, side);
        YL_TRY(yl::Texture chain, yl::Texture::create(shape));
        std::memset(chain.level(0).data(), 0x7F, chain.level(0).size());
        YL_CHECK(memory_of_chain(chain, before));
    }
    shape.levels = 1;
    YL_TRY(yl::Texture texture, yl::Texture::create(shape));
    unsigned state = 1;
    for (std::byte& byte : texture.level(0))
        byte = static_cast<std::byte>((state = state * 1664525U + 1013904223U) >> 26);
    for (const yl::Format format :
         {yl::Format::bc1_srgb, yl::Format::bc7_srgb, yl::Format::etc2_rgb8_srgb,
          yl::Format::etc2_rgba8_srgb, yl::Format::astc_4x4_srgb, yl::Format::astc_6x6_srgb,
          yl::Format::astc_12x12_srgb})
        YL_CHECK(memory_of_encoding(texture, format, before));
    return {};
}

}  // namespace

int main(int argc, char** argv) {
    const auto side = static_cast<std::uint32_t>(argc > 1 ? std::atoi(argv[1]) : 16384);
    if (const yl::Status done = measure(side); !done)
        return std::fprintf(stderr, "%s\n", done.error().sentence().c_str()), 1;
    return 0;
}
