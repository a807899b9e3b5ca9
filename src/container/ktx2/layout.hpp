// The fixed parts of a KTX 2.0 file (Khronos KTX File Format Specification, version 2.0).
//
//   byte  0  identifier, 12 bytes
//        12  vkFormat  typeSize  pixelWidth  pixelHeight  pixelDepth
//        32  layerCount  faceCount  levelCount  supercompressionScheme       each 32 bits
//        48  offset and length of the data format descriptor                 each 32 bits
//        56  offset and length of the key/value data                         each 32 bits
//        64  offset and length of the supercompression global data           each 64 bits
//        80  level index: offset, length, uncompressed length of each level  each 64 bits
//            data format descriptor, key/value data, levels (the smallest first)
#pragma once

#include <array>
#include <cstdint>
#include <numeric>
#include <vector>

#include <yl/texture_file.hpp>
#include "base/bytes.hpp"
#include "base/progress.hpp"

namespace yl::ktx2 {

inline constexpr std::array<std::uint8_t, 12> identifier = {0xAB, 'K',  'T',  'X',  ' ',  '2',
                                                            '0',  0xBB, '\r', '\n', 0x1A, '\n'};
inline constexpr std::size_t header_bytes = 80;
inline constexpr std::size_t level_entry_bytes = 24;

inline constexpr std::string_view orientation_key = "KTXorientation";
inline constexpr std::string_view swizzle_key = "KTXswizzle";
inline constexpr std::string_view writer_key = "KTXwriter";
inline constexpr std::string_view sampler_key = "YellowLatticeSampler";
/// "data" or "opaque": what the descriptor's flag cannot say of alpha.
inline constexpr std::string_view alpha_key = "YellowLatticeAlpha";

/// Where a level may begin (section 3.10, "mipPadding").
[[nodiscard]] inline std::uint64_t level_alignment(Format format, Supercompression scheme) {
    return scheme == Supercompression::none
               ? std::lcm(std::uint64_t{info(format).block_bytes}, std::uint64_t{4})
               : 1;
}

/// The data format descriptor of a format: its total length, then one basic descriptor block of
/// version 1.3 (Khronos Data Format Specification 1.3, section 5).
[[nodiscard]] std::vector<std::byte> data_format_descriptor(Format format, Transfer transfer,
                                                            AlphaMode alpha);

/// The format whose blocks are those of a descriptor of ETC1; null for any other descriptor.
[[nodiscard]] const FormatInfo* format_of_etc1(ByteSpan descriptor);

/// What a file's own descriptor says beyond what its vkFormat settles.
struct DescriptorTraits {
    Transfer transfer = Transfer::linear;
    AlphaMode alpha = AlphaMode::straight;
};

/// Holds a file's descriptor against the one that its vkFormat demands. `offset` is its place in
/// the file, for errors.
[[nodiscard]] Result<DescriptorTraits> check_descriptor(ByteSpan descriptor, std::size_t offset,
                                                        Format format, Supercompression scheme);

/// Compresses one level, whose bytes `progress` counts; zlib's all at once.
[[nodiscard]] Result<std::vector<std::byte>> pack_level(ByteSpan level, Supercompression scheme,
                                                        int effort, ProgressCounter& progress);

/// Decompresses one level into exactly `target`.
[[nodiscard]] Status unpack_level(ByteSpan packed, Supercompression scheme,
                                  std::span<std::byte> target);

}  // namespace yl::ktx2
