// One page, little-endian, in strips that zlib packs after differences.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/parallel.hpp"
#include "base/zlib_stream.hpp"
#include "codec/tiff/page.hpp"
#include "codec/tiff/tiff.hpp"

namespace yl::tiff {
namespace {

constexpr std::uint16_t word = 3, number = 4, bytes_as_they_are = 7;
constexpr std::size_t wanted_strip_bytes = std::size_t{1} << 18;
constexpr std::size_t entry_bytes = 12;

/// Entries with values of 16 or 32 bits, or bytes; `offset` is where the directory will be.
class DirectoryWriter {
 public:
    void add(Tag tag, std::uint16_t type, std::vector<std::uint32_t> values) {
        ByteWriter stored;
        for (const std::uint32_t value : values)
            if (type == word)
                stored.write(static_cast<std::uint16_t>(value));
            else
                stored.write(value);
        entries_.push_back({tag, type, values.size(), stored.release()});
    }
    void add(Tag tag, ByteSpan bytes) {
        entries_.push_back({tag, bytes_as_they_are, bytes.size(),
                            std::vector<std::byte>(bytes.begin(), bytes.end())});
    }

    [[nodiscard]] std::vector<std::byte> bytes(std::size_t offset) {
        std::ranges::sort(entries_, {}, &Stored::tag);
        ByteWriter directory, values;
        std::size_t values_at = offset + 2 + entries_.size() * entry_bytes + 4;
        directory.write(static_cast<std::uint16_t>(entries_.size()));
        for (const Stored& entry : entries_) {
            directory.write(static_cast<std::uint16_t>(entry.tag));
            directory.write(entry.type);
            directory.write(static_cast<std::uint32_t>(entry.count));
            if (entry.bytes.size() <= 4) {
                std::array<std::byte, 4> inside = {};
                std::ranges::copy(entry.bytes, inside.begin());
                directory.append(inside);
                continue;
            }
            directory.write(static_cast<std::uint32_t>(values_at + values.offset()));
            values.append(entry.bytes);
            values.pad_to(2);
        }
        directory.write(std::uint32_t{0});  // no further page
        directory.append(values.bytes());
        return directory.release();
    }

 private:
    struct Stored {
        Tag tag;
        std::uint16_t type;
        std::size_t count;
        std::vector<std::byte> bytes;
    };
    std::vector<Stored> entries_;
};

template <class Number>
void take_differences(std::span<std::byte> row, std::size_t channels) {
    for (std::size_t i = row.size(); i >= (channels + 1) * sizeof(Number); i -= sizeof(Number)) {
        std::byte* const here = row.data() + i - sizeof(Number);
        store(here, static_cast<Number>(load<Number>(here) -
                                        load<Number>(here - channels * sizeof(Number))));
    }
}

/// The inverse of `join_float_planes`, for little-endian numbers.
void split_float_planes(std::span<std::byte> row, std::size_t channels, std::size_t bytes) {
    const std::vector<std::byte> numbers(row.begin(), row.end());
    const std::size_t count = row.size() / bytes;
    for (std::size_t i = 0; i < count; ++i)
        for (std::size_t b = 0; b < bytes; ++b)
            row[b * count + i] = numbers[i * bytes + (bytes - 1 - b)];
    take_differences<std::uint8_t>(row, channels);
}

void predict(std::span<std::byte> row, const PlainChannels& plain) {
    if (plain.is_float)
        split_float_planes(row, plain.channels, plain.bits / 8);
    else if (plain.bits == 8)
        take_differences<std::uint8_t>(row, plain.channels);
    else
        take_differences<std::uint16_t>(row, plain.channels);
}

Result<std::vector<std::byte>> packed_strip(ConstImageView image, const PlainChannels& plain,
                                            std::uint32_t begin, std::uint32_t rows, int level) {
    std::vector<std::byte> strip;
    for (std::uint32_t y = begin; y < std::min(begin + rows, image.height); ++y) {
        const auto row = image.row(y);
        strip.insert(strip.end(), row.begin(), row.end());
        predict(std::span(strip).last(row.size()), plain);
    }
    return pack_zlib(strip, level);
}

void describe(DirectoryWriter& directory, ConstImageView image, const PlainChannels& plain,
              const WriteOptions& options) {
    const bool is_gray = plain.channels < 3;
    const auto all = [&](std::uint32_t value) {
        return std::vector<std::uint32_t>(plain.channels, value);
    };
    directory.add(Tag::width, number, {image.width});
    directory.add(Tag::height, number, {image.height});
    directory.add(Tag::bits, word, all(plain.bits));
    directory.add(Tag::compression, word, {static_cast<std::uint32_t>(Compression::deflate)});
    directory.add(
        Tag::photometric, word,
        {static_cast<std::uint32_t>(is_gray ? Photometric::black_is_zero : Photometric::rgb)});
    directory.add(Tag::channels, word, {plain.channels});
    directory.add(Tag::planes, word, {1});
    directory.add(Tag::predictor, word, {plain.is_float ? 3U : 2U});
    constexpr std::uint32_t unassociated = 2;
    if (plain.channels % 2 == 0)
        directory.add(Tag::extra_samples, word, {unassociated});
    directory.add(Tag::sample_format, word,
                  all(static_cast<std::uint32_t>(plain.is_float ? SampleFormat::floating
                                                                : SampleFormat::whole)));
    if (!options.color_profile.empty())
        directory.add(Tag::color_profile, options.color_profile);
}

}  // namespace

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions& options) {
    const auto plain = plain_channels(image.format);
    if (!plain)
        return fail(ErrorKind::usage,
                    "TIFF is written of plain channels of 8 and 16 bits, and of floating point; "
                    "convert the picture first");
    const std::size_t row_bytes = image.row(0).size();
    const auto rows = static_cast<std::uint32_t>(std::clamp<std::size_t>(
        wanted_strip_bytes / std::max<std::size_t>(row_bytes, 1), 1, image.height));
    const auto count = static_cast<std::size_t>(ceil_div(image.height, rows));
    std::vector<Result<std::vector<std::byte>>> strips(count);
    const int level = std::clamp(options.effort + options.effort / 5, 1, 12);
    parallel_each(count, [&](std::size_t i) {
        strips[i] = packed_strip(image, *plain, static_cast<std::uint32_t>(i) * rows, rows, level);
    });
    ByteWriter writer;
    writer.append("II");
    writer.write(std::uint16_t{42});
    writer.write(std::uint32_t{0});  // filled in below
    std::vector<std::uint32_t> offsets, sizes;
    for (auto& strip : strips) {
        if (!strip)
            return tl::unexpected(strip.error());
        if (writer.offset() + strip->size() > 0xFFFFFFF0U)
            return fail(ErrorKind::usage, "the picture is too large for a TIFF file of 4 GiB");
        offsets.push_back(static_cast<std::uint32_t>(writer.offset()));
        sizes.push_back(static_cast<std::uint32_t>(strip->size()));
        writer.append(*strip);
        writer.pad_to(2);
    }
    DirectoryWriter directory;
    describe(directory, image, *plain, options);
    directory.add(Tag::rows_per_strip, number, {rows});
    directory.add(Tag::strip_offsets, number, offsets);
    directory.add(Tag::strip_bytes, number, sizes);
    const std::size_t at = writer.offset();
    writer.append(directory.bytes(at));
    std::vector<std::byte> file = writer.release();
    store(file.data() + 4, static_cast<std::uint32_t>(at));
    return file;
}

}  // namespace yl::tiff
