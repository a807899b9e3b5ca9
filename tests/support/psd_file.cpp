#include "support/psd_file.hpp"

#include "base/bytes.hpp"
#include "base/zlib_stream.hpp"

namespace support {
namespace {

using Bytes = std::vector<std::byte>;

void write_section(yl::ByteWriter& file, yl::ByteSpan content, bool has_long_length = false) {
    if (has_long_length)
        file.write_big(static_cast<std::uint64_t>(content.size()));
    else
        file.write_big(static_cast<std::uint32_t>(content.size()));
    file.append(content);
}

void write_resource(yl::ByteWriter& resources, std::uint16_t number, yl::ByteSpan content) {
    resources.append("8BIM");
    resources.write_big(number);
    resources.append(std::string_view("\3abc", 4));
    write_section(resources, content);
    resources.pad_to(2);
}

Bytes resources_of(const PsdKind& kind) {
    yl::ByteWriter resources;
    if (!kind.profile.empty())
        write_resource(resources, 1039, kind.profile);
    yl::ByteWriter index, version;
    index.write_big(static_cast<std::uint16_t>(kind.clear_index));
    if (kind.clear_index >= 0)
        write_resource(resources, 1047, index.bytes());
    version.write_big(std::uint32_t{1});
    version.write(static_cast<std::uint8_t>(kind.has_merged ? 1 : 0));
    write_resource(resources, 1057, version.bytes());
    return resources.release();
}

/// A row as the file has it, before it is packed.
Bytes row_of(const PsdKind& kind, const std::uint32_t* samples) {
    yl::ByteWriter row;
    if (kind.bits == 1) {
        for (std::uint32_t x = 0; x < kind.width; x += 8) {
            unsigned byte = 0;
            for (std::uint32_t i = 0; i < 8 && x + i < kind.width; ++i)
                byte |= samples[x + i] << (7 - i);
            row.write(static_cast<std::uint8_t>(byte));
        }
        return row.release();
    }
    for (std::uint32_t x = 0; x < kind.width; ++x) {
        if (kind.bits == 8)
            row.write(static_cast<std::uint8_t>(samples[x]));
        else if (kind.bits == 16)
            row.write_big(static_cast<std::uint16_t>(samples[x]));
        else
            row.write_big(samples[x]);
    }
    return row.release();
}

Bytes differences_of(const PsdKind& kind, Bytes row) {
    if (kind.bits == 32) {
        Bytes planes(row.size());
        for (std::size_t i = 0; i < kind.width; ++i)
            for (std::size_t b = 0; b < 4; ++b)
                planes[b * kind.width + i] = row[4 * i + b];
        row = planes;
    }
    if (kind.bits == 16) {
        for (std::size_t x = kind.width - 1; x > 0; --x) {
            const auto at = [&](std::size_t i) {
                return yl::load<std::uint16_t, std::endian::big>(row.data() + 2 * i);
            };
            yl::store<std::uint16_t, std::endian::big>(
                row.data() + 2 * x, static_cast<std::uint16_t>(at(x) - at(x - 1)));
        }
        return row;
    }
    for (std::size_t i = row.size() - 1; i > 0; --i)
        row[i] = std::byte(
            (std::to_integer<unsigned>(row[i]) - std::to_integer<unsigned>(row[i - 1])) & 255U);
    return row;
}

Bytes run_lengths_of(const Bytes& row) {
    Bytes packed;
    for (std::size_t i = 0; i < row.size();) {
        std::size_t run = 1;
        while (i + run < row.size() && run < 128 && row[i + run] == row[i])
            ++run;
        if (run > 1) {
            packed.push_back(static_cast<std::byte>(257 - run));
            packed.push_back(row[i]);
        } else {
            packed.push_back(std::byte{0});
            packed.push_back(row[i]);
        }
        i += run;
    }
    return packed;
}

Bytes picture_of(const PsdKind& kind, const std::vector<std::uint32_t>& samples) {
    yl::ByteWriter picture, rows, lengths;
    picture.write_big(kind.packing);
    for (std::size_t y = 0; y < std::size_t{kind.channels} * kind.height; ++y) {
        Bytes row = row_of(kind, samples.data() + y * kind.width);
        if (kind.packing == 3)
            row = differences_of(kind, std::move(row));
        if (kind.packing == 1) {
            row = run_lengths_of(row);
            if (kind.is_large)
                lengths.write_big(static_cast<std::uint32_t>(row.size()));
            else
                lengths.write_big(static_cast<std::uint16_t>(row.size()));
        }
        rows.append(row);
    }
    picture.append(lengths.bytes());
    if (kind.packing >= 2)
        picture.append(*yl::pack_zlib(rows.bytes(), 6));
    else
        picture.append(rows.bytes());
    return picture.release();
}

}  // namespace

std::vector<std::byte> psd_file(const PsdKind& kind, const std::vector<std::uint32_t>& samples) {
    yl::ByteWriter file;
    file.append("8BPS");
    file.write_big(static_cast<std::uint16_t>(kind.is_large ? 2 : 1));
    file.append(Bytes(6));
    file.write_big(static_cast<std::uint16_t>(kind.channels));
    file.write_big(kind.height);
    file.write_big(kind.width);
    file.write_big(static_cast<std::uint16_t>(kind.bits));
    file.write_big(kind.mode);
    Bytes palette;
    if (kind.mode == 2)
        for (int c = 0; c < 3; ++c)
            for (int i = 0; i < 256; ++i)
                palette.push_back(std::byte(c == 0 ? i : c == 1 ? 255 - i : i / 2));
    write_section(file, palette);
    write_section(file, resources_of(kind));
    yl::ByteWriter layers;
    if (kind.layers != 0) {
        yl::ByteWriter info;
        info.write_big(static_cast<std::uint16_t>(kind.layers));
        info.append(Bytes(20));
        write_section(layers, info.bytes(), kind.is_large);
    }
    write_section(file, layers.bytes(), kind.is_large);
    file.append(picture_of(kind, samples));
    return file.release();
}

}  // namespace support
