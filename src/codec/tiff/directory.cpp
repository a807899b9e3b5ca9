#include "codec/tiff/directory.hpp"

#include <fmt/format.h>

#include <array>
#include <bit>

#include <yl/status_macros.hpp>

namespace yl::tiff {
namespace {

constexpr std::uint16_t classic = 42, big = 43;
constexpr std::uint64_t max_entries = 4096;

/// Bytes of a value by the type's number (section 2; 13 and 16 to 18 by later documents).
constexpr std::array<std::uint8_t, 19> type_bytes = {0, 1, 1, 2, 4, 8, 1, 1, 2, 4,
                                                     8, 4, 8, 4, 0, 0, 8, 8, 8};
constexpr std::uint16_t fraction = 5, signed_fraction = 10, single = 11, twice = 12;

std::size_t bytes_of(std::uint16_t type) {
    return type < type_bytes.size() ? type_bytes[type] : 0;
}

}  // namespace

Result<File> File::open(ByteSpan bytes) {
    File file;
    file.bytes_ = bytes;
    const std::string_view start = as_text(bytes).substr(0, 2);
    if (start != "II" && start != "MM")
        return fail(ErrorKind::malformed, "this is no TIFF file", 0);
    file.is_big_endian_ = start == "MM";
    const auto version = file.number(2, 2);
    if (version != classic && version != big)
        return fail(ErrorKind::malformed, "this is no TIFF file", 2);
    file.is_big_tiff_ = version == big;
    if (file.is_big_tiff_ && (file.number(4, 2) != 8U || file.number(6, 2) != 0U))
        return fail(ErrorKind::malformed, "BigTIFF with offsets of other than 8 bytes", 4);
    const auto first = file.is_big_tiff_ ? file.number(8, 8) : file.number(4, 4);
    if (!first)
        return fail(ErrorKind::malformed, "the file ends within its header", 4);
    file.first_ = *first;
    return file;
}

std::optional<std::uint64_t> File::number(std::uint64_t offset, std::size_t count) const {
    if (offset > bytes_.size() || count > bytes_.size() - offset)
        return {};
    std::uint64_t value = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t at = is_big_endian_ ? i : count - 1 - i;
        value = value << 8U | std::to_integer<std::uint64_t>(bytes_[offset + at]);
    }
    return value;
}

Result<Directory> Directory::read(const File& file, std::uint64_t offset) {
    Directory directory;
    directory.file_ = &file;
    const std::size_t wide = file.is_big_tiff() ? 8 : 4;
    const std::size_t count_bytes = file.is_big_tiff() ? 8 : 2;
    const std::size_t entry_bytes = 4 + 2 * wide;
    const auto count = file.number(offset, count_bytes);
    if (!count || *count == 0 || *count > max_entries)
        return fail(ErrorKind::malformed, "a directory is not where it is said to be, or empty",
                    offset);
    std::uint64_t at = offset + count_bytes;
    for (std::uint64_t i = 0; i < *count; ++i, at += entry_bytes) {
        const auto tag = file.number(at, 2), type = file.number(at + 2, 2);
        const auto values = file.number(at + 4, wide), value = file.number(at + 4 + wide, wide);
        if (!tag || !type || !values || !value)
            return fail(ErrorKind::malformed, "the file ends within a directory", at);
        const std::size_t size = bytes_of(static_cast<std::uint16_t>(*type));
        const bool is_inside = size > 0 && *values <= wide / size;
        directory.entries_.try_emplace(
            static_cast<Tag>(*tag),
            Entry{static_cast<std::uint16_t>(*type), *values, is_inside ? at + 4 + wide : *value});
    }
    directory.next_ = file.number(at, wide).value_or(0);
    return directory;
}

ByteSpan Directory::raw(Tag tag) const {
    const auto found = entries_.find(tag);
    if (found == entries_.end())
        return {};
    const Entry& entry = found->second;
    const std::size_t size = bytes_of(entry.type);
    const ByteSpan bytes = file_->bytes();
    if (size == 0 || entry.offset > bytes.size() ||
        entry.count > (bytes.size() - entry.offset) / size)
        return {};
    return bytes.subspan(static_cast<std::size_t>(entry.offset),
                         static_cast<std::size_t>(entry.count) * size);
}

Result<std::vector<std::uint64_t>> Directory::numbers(Tag tag, std::uint64_t most) const {
    const auto found = entries_.find(tag);
    if (found == entries_.end())
        return std::vector<std::uint64_t>{};
    const Entry& entry = found->second;
    const ByteSpan bytes = raw(tag);
    const std::size_t size = bytes_of(entry.type);
    const bool is_whole = entry.type != fraction && entry.type != signed_fraction &&
                          entry.type != single && entry.type != twice;
    if (bytes.empty() || !is_whole || entry.count > most)
        return fail(
            ErrorKind::malformed,
            fmt::format("the values of tag {} are not there, or of the wrong kind or number",
                        static_cast<int>(tag)),
            entry.offset);
    std::vector<std::uint64_t> values(static_cast<std::size_t>(entry.count));
    for (std::size_t i = 0; i < values.size(); ++i)
        values[i] = *file_->number(entry.offset + i * size, size);
    return values;
}

Result<std::uint64_t> Directory::number(Tag tag, std::uint64_t otherwise) const {
    constexpr std::uint64_t any = ~std::uint64_t{0};
    YL_TRY(const auto values, numbers(tag, any));
    return values.empty() ? otherwise : values[0];
}

std::vector<double> Directory::fractions(Tag tag, std::uint64_t most) const {
    const auto found = entries_.find(tag);
    if (found == entries_.end() || raw(tag).empty() || found->second.count > most)
        return {};
    const Entry& entry = found->second;
    const std::size_t size = bytes_of(entry.type);
    std::vector<double> values;
    for (std::uint64_t i = 0; i < entry.count; ++i) {
        const std::uint64_t at = entry.offset + i * size;
        if (entry.type == fraction) {
            const auto below = static_cast<double>(*file_->number(at + 4, 4));
            values.push_back(static_cast<double>(*file_->number(at, 4)) / below);
        } else if (entry.type == single) {
            values.push_back(
                std::bit_cast<float>(static_cast<std::uint32_t>(*file_->number(at, 4))));
        } else {
            values.push_back(static_cast<double>(*file_->number(at, size)));
        }
    }
    return values;
}

}  // namespace yl::tiff
