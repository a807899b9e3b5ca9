// BC4 and BC5: one and two channels of eight values each.
#include "block/bc/bc4_values.hpp"
#include "block/bc/decode.hpp"

namespace yl::bc {
namespace {

void look_up(const std::array<std::uint8_t, 8>& values, const std::byte* block, std::byte* texels,
             std::size_t stride) {
    std::uint64_t indices = load<std::uint64_t>(block) >> 16;
    for (std::size_t y = 0; y < 4; ++y, indices >>= 12)
        store(texels + y * stride, std::uint32_t{values[indices & 7U]} |
                                       std::uint32_t{values[indices >> 3 & 7U]} << 8 |
                                       std::uint32_t{values[indices >> 6 & 7U]} << 16 |
                                       std::uint32_t{values[indices >> 9 & 7U]} << 24);
}

void look_up_both(const std::array<std::uint8_t, 8>& red, const std::array<std::uint8_t, 8>& green,
                  const std::byte* block, std::byte* texels, std::size_t stride) {
    std::uint64_t reds = load<std::uint64_t>(block) >> 16;
    std::uint64_t greens = load<std::uint64_t>(block + 8) >> 16;
    for (std::size_t y = 0; y < 4; ++y) {
        std::uint64_t row = 0;
        for (unsigned x = 0; x < 4; ++x, reds >>= 3, greens >>= 3)
            row |= (std::uint64_t{red[reds & 7U]} | std::uint64_t{green[greens & 7U]} << 8)
                   << 16 * x;
        store(texels + y * stride, row);
    }
}

}  // namespace

void decode_bc4(const std::byte* block, std::byte* texels, std::size_t stride) {
    look_up(unorm_values(block), block, texels, stride);
}

void decode_bc4_snorm(const std::byte* block, std::byte* texels, std::size_t stride) {
    look_up(snorm_values(block), block, texels, stride);
}

void decode_bc5(const std::byte* block, std::byte* texels, std::size_t stride) {
    look_up_both(unorm_values(block), unorm_values(block + 8), block, texels, stride);
}

void decode_bc5_snorm(const std::byte* block, std::byte* texels, std::size_t stride) {
    look_up_both(snorm_values(block), snorm_values(block + 8), block, texels, stride);
}

}  // namespace yl::bc
