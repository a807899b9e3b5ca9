#include "codec/jpeg/frame.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"

namespace yl::jpeg {

std::optional<std::string> unsupported_frame(std::uint8_t marker) {
    switch (marker) {
        case 0xC3:
            return "a lossless JPEG";
        case 0xC5:
        case 0xC6:
        case 0xC7:
            return "a hierarchical JPEG";
        case 0xC9:
        case 0xCA:
            return "an arithmetic-coded JPEG";
        case 0xCB:
            return "a lossless arithmetic-coded JPEG";
        case 0xCD:
        case 0xCE:
        case 0xCF:
            return "a hierarchical arithmetic-coded JPEG";
        case 0xF7:
            return "a JPEG-LS picture";
        default:
            return {};
    }
}

Result<Frame> parse_frame(std::uint8_t marker, ByteSpan segment, std::size_t offset) {
    const auto wrong = [&](std::string message) {
        return fail(ErrorKind::malformed, "frame header: " + std::move(message), offset);
    };
    ByteReader reader(segment);
    Frame frame;
    frame.progressive = marker == sof_progressive;
    YL_TRY(frame.bits, reader.read<std::uint8_t>());
    YL_TRY(frame.height, reader.read_big<std::uint16_t>());
    YL_TRY(frame.width, reader.read_big<std::uint16_t>());
    YL_TRY(const auto count, reader.read<std::uint8_t>());
    if (frame.bits != 8 && (frame.bits != 12 || marker == sof_baseline))
        return wrong(
            fmt::format("{} bits for a sample, which this kind of JPEG does not have", frame.bits));
    if (frame.width == 0 || frame.height == 0)
        return wrong(fmt::format("a size of {} x {}", frame.width, frame.height));
    if (count != 1 && count != 3 && count != 4)
        return fail(ErrorKind::unsupported,
                    fmt::format("frame header: {} components; 1, 3 and 4 are handled", count),
                    offset);
    for (std::uint32_t i = 0; i < count; ++i) {
        Component component;
        YL_TRY(component.id, reader.read<std::uint8_t>());
        YL_TRY(const auto factors, reader.read<std::uint8_t>());
        YL_TRY(component.quantization, reader.read<std::uint8_t>());
        component.h = factors >> 4;
        component.v = factors & 15U;
        if (component.h < 1 || component.h > 4 || component.v < 1 || component.v > 4 ||
            component.quantization > 3)
            return wrong(fmt::format("sampling factors {} x {} and table {} are out of range",
                                     component.h, component.v, component.quantization));
        frame.max_h = std::max(frame.max_h, component.h);
        frame.max_v = std::max(frame.max_v, component.v);
        frame.components.push_back(component);
    }
    // A single component is coded block by block, whatever its factors (A.2.2).
    if (count == 1)
        frame.components[0].h = frame.components[0].v = frame.max_h = frame.max_v = 1;
    frame.units_x = static_cast<std::uint32_t>(ceil_div(frame.width, frame.max_h * block_side));
    frame.units_y = static_cast<std::uint32_t>(ceil_div(frame.height, frame.max_v * block_side));
    for (Component& component : frame.components) {
        component.width =
            static_cast<std::uint32_t>(ceil_div(frame.width * component.h, frame.max_h));
        component.height =
            static_cast<std::uint32_t>(ceil_div(frame.height * component.v, frame.max_v));
        component.blocks_x = frame.units_x * component.h;
        component.blocks_y = frame.units_y * component.v;
        component.first_block = frame.row_blocks;
        frame.row_blocks += std::size_t{component.blocks_x} * component.v;
    }
    return frame;
}

}  // namespace yl::jpeg
