#include "bake/block_step.hpp"

#include <fmt/format.h>

#include <yl/status_macros.hpp>

namespace yl {

Format format_of_chain(Format wanted) {
    switch (decoded_format(wanted).value_or(wanted)) {
        case Format::r8_unorm:
            return info(wanted).is_block() ? Format::r16_unorm : wanted;
        case Format::rg8_unorm:
            return info(wanted).is_block() ? Format::rg16_unorm : wanted;
        case Format::r8_snorm:
            return info(wanted).is_block() ? Format::r16_snorm : wanted;
        case Format::rg8_snorm:
            return info(wanted).is_block() ? Format::rg16_snorm : wanted;
        default:
            return decoded_format(wanted).value_or(wanted);
    }
}

Status encode_chain(Texture& texture, Format wanted, const BlockOptions& blocks, BlockFamily family,
                    Findings& findings) {
    if (info(wanted).is_block()) {
        YL_TRY(texture, encode_texture(texture, wanted, blocks));
    }
    const Findings sizes = check_blocks(texture.shape(), family);
    findings.insert(findings.end(), sizes.begin(), sizes.end());
    return {};
}

Findings check_blocks(const TextureShape& shape, BlockFamily family) {
    const FormatInfo& f = info(shape.format);
    if (!f.is_block() && family != BlockFamily::none)
        return {{"no-blocks-for-role",
                 fmt::format("the blocks that were asked for cannot hold light in floating point: "
                             "the texture stays {}",
                             f.name),
                 "use BC6H where the device has it, or the role color", FindingLevel::hint}};
    // Few sizes are whole blocks of ASTC but those of 4 x 4, which does not matter but to WebGPU: its
    // plans say so.
    if (!f.is_block() || f.block_width != 4 || f.block_height != 4 ||
        (shape.width % f.block_width == 0 && shape.height % f.block_height == 0))
        return {};
    const bool is_bc = f.family == BlockFamily::bc;
    return {{"partial-blocks",
             fmt::format("{} x {} texels are not a multiple of {} x {}: {} such a top level in {}; "
                         "OpenGL and Vulkan take it",
                         shape.width, shape.height, f.block_width, f.block_height,
                         is_bc ? "Direct3D and WebGPU refuse" : "WebGPU refuses", f.name),
             "choose a size of whole blocks, such as a power of two"}};
}

}  // namespace yl
