#include <algorithm>

#include <yl/status_macros.hpp>
#include "codec/exr/exr.hpp"
#include "codec/exr/header.hpp"
#include "codec/exr/unpack.hpp"

namespace yl::exr {
namespace {

constexpr std::uint32_t rows_in_chunk = 16;

void write_attribute(ByteWriter& writer, std::string_view name, std::string_view type,
                     ByteSpan value) {
    writer.append(name);
    writer.write(std::uint8_t{0});
    writer.append(type);
    writer.write(std::uint8_t{0});
    writer.write(static_cast<std::uint32_t>(value.size()));
    writer.append(value);
}

/// The names of the channels in the order that files have them, and where each lies in a pixel.
std::vector<std::pair<char, std::size_t>> ordered_channels(std::uint32_t count) {
    switch (count) {
        case 1:
            return {{'Y', 0}};
        case 2:
            return {{'A', 1}, {'Y', 0}};
        case 3:
            return {{'B', 2}, {'G', 1}, {'R', 0}};
        default:
            return {{'A', 3}, {'B', 2}, {'G', 1}, {'R', 0}};
    }
}

std::vector<std::byte> header_bytes(ConstImageView image, std::uint32_t channels) {
    ByteWriter writer;
    writer.write(magic);
    writer.write(std::uint32_t{2});
    ByteWriter list;
    for (const auto& [name, place] : ordered_channels(channels)) {
        list.write(static_cast<std::uint8_t>(name));
        list.write(std::uint8_t{0});
        for (const std::uint32_t field : {static_cast<std::uint32_t>(SampleType::half), 0U, 1U, 1U})
            list.write(field);
    }
    list.write(std::uint8_t{0});
    ByteWriter window;
    for (const std::uint32_t side : {0U, 0U, image.width - 1, image.height - 1})
        window.write(side);
    const auto zip = static_cast<std::byte>(Compression::zip);
    const std::byte rising{0};
    ByteWriter one;
    one.write(std::bit_cast<std::uint32_t>(1.0F));
    ByteWriter centre;
    centre.write(std::uint64_t{0});
    write_attribute(writer, "channels", "chlist", list.bytes());
    write_attribute(writer, "compression", "compression", {&zip, 1});
    write_attribute(writer, "dataWindow", "box2i", window.bytes());
    write_attribute(writer, "displayWindow", "box2i", window.bytes());
    write_attribute(writer, "lineOrder", "lineOrder", {&rising, 1});
    write_attribute(writer, "pixelAspectRatio", "float", one.bytes());
    write_attribute(writer, "screenWindowCenter", "v2f", centre.bytes());
    write_attribute(writer, "screenWindowWidth", "float", one.bytes());
    writer.write(std::uint8_t{0});
    return writer.release();
}

}  // namespace

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions& options) {
    const auto kind = plain_channels(image.format);
    if (!kind || !kind->is_float || kind->bits != 16)
        return fail(
            ErrorKind::usage,
            "OpenEXR is written of half floats (rgba16-float, say); convert the picture first");
    const auto channels = ordered_channels(kind->channels);
    const std::uint32_t count = (image.height + rows_in_chunk - 1) / rows_in_chunk;
    ByteWriter writer;
    writer.append(header_bytes(image, kind->channels));
    ByteWriter chunks;
    std::vector<std::uint64_t> offsets;
    for (std::uint32_t top = 0; top < image.height; top += rows_in_chunk) {
        ByteWriter raw;
        for (std::uint32_t y = top; y < std::min(top + rows_in_chunk, image.height); ++y)
            for (const auto& [name, place] : channels)
                for (std::uint32_t x = 0; x < image.width; ++x)
                    raw.append(
                        image.row(y).subspan((std::size_t{x} * kind->channels + place) * 2, 2));
        YL_TRY(const auto packed, pack_zip(raw.bytes(), options.effort));
        const ByteSpan smaller = packed.size() < raw.offset() ? ByteSpan(packed) : raw.bytes();
        offsets.push_back(writer.offset() + std::uint64_t{count} * 8 + chunks.offset());
        chunks.write(top);
        chunks.write(static_cast<std::uint32_t>(smaller.size()));
        chunks.append(smaller);
    }
    for (const std::uint64_t offset : offsets)
        writer.write(offset);
    writer.append(chunks.bytes());
    return writer.release();
}

}  // namespace yl::exr
