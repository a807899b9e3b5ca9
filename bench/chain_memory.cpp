// The memory that a chain of 16,384 x 16,384 takes: chain_memory [SIDE]
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <string>
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

}  // namespace

int main(int argc, char** argv) {
    const auto side = static_cast<std::uint32_t>(argc > 1 ? std::atoi(argv[1]) : 16384);
    const double before = peak_memory();
    auto texture = yl::Texture::create({.format = yl::Format::rgba8_srgb,
                                        .width = side,
                                        .height = side,
                                        .levels = yl::full_level_count(side, side)});
    if (!texture)
        return std::fprintf(stderr, "%s\n", texture.error().sentence().c_str()), 1;
    std::memset(texture->level(0).data(), 0x7F, texture->level(0).size());
    for (const char* kernel : {"box", "kaiser:3"})
        if (!yl::build_mips(*texture, {.kernel = *yl::parse_kernel(kernel)}))
            return 1;
    const auto chain = static_cast<double>(texture->shape().total_bytes());
    std::printf("%u x %u rgba8-srgb: a chain of %.0f MiB, peak %.0f MiB, %.3f times the chain\n",
                side, side, chain / (1 << 20), (peak_memory() - before) / (1 << 20),
                (peak_memory() - before) / chain);
    return 0;
}
