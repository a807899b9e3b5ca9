#include "codec/tiff/directory.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <set>

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

Result<File> File::open(ByteSource source) {
    File file(std::move(source));
    YL_CHECK(file.read_header());
    return file;
}

Status File::read_header() {
    constexpr std::uint64_t little_mark = 'I' * 256 + 'I', big_mark = 'M' * 256 + 'M';
    const auto mark = number(0, 2);
    if (mark != little_mark && mark != big_mark)
        return fail(ErrorKind::malformed, "this is not a TIFF file", 0);
    is_big_endian_ = mark == big_mark;
    const auto version = number(2, 2);
    if (version != classic && version != big)
        return fail(ErrorKind::malformed, "this is not a TIFF file", 2);
    is_big_tiff_ = version == big;
    if (is_big_tiff_ && (number(4, 2) != 8U || number(6, 2) != 0U))
        return fail(ErrorKind::malformed, "BigTIFF with offsets of other than 8 bytes", 4);
    const auto first = is_big_tiff_ ? number(8, 8) : number(4, 4);
    if (!first)
        return fail(ErrorKind::malformed, "the file ends within its header", 4);
    first_ = *first;
    return {};
}

/// Makes the window one that holds these bytes; false where they cannot be read.
bool File::read_window(std::uint64_t offset, std::size_t count) const {
    if (offset >= window_begin_ && offset - window_begin_ + count <= window_.size())
        return true;
    constexpr std::uint64_t window_bytes = 4096;
    window_begin_ = offset;
    window_.resize(static_cast<std::size_t>(std::min(window_bytes, size() - offset)));
    const Status status = source_.read(offset, window_);
    if (!status)
        window_.clear();
    return status.has_value();
}

std::optional<std::uint64_t> File::number(std::uint64_t offset, std::size_t count) const {
    const bool is_in_memory = source_.is_in_memory();
    if (offset > size() || count > size() - offset ||
        (!is_in_memory && !read_window(offset, count)))
        return {};
    const std::byte* const stored =
        is_in_memory ? source_.memory().data() + offset : window_.data() + (offset - window_begin_);
    std::uint64_t value = 0;
    for (std::size_t i = 0; i < count; ++i)
        value = value << 8U |
                std::to_integer<std::uint64_t>(stored[is_big_endian_ ? i : count - 1 - i]);
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

bool Directory::has_values(const Entry& entry) const {
    const std::size_t size = bytes_of(entry.type);
    const std::uint64_t end = file_->size();
    return size > 0 && entry.count > 0 && entry.offset <= end &&
           entry.count <= (end - entry.offset) / size;
}

std::vector<std::byte> Directory::raw(Tag tag) const {
    const auto found = entries_.find(tag);
    if (found == entries_.end() || !has_values(found->second))
        return {};
    const Entry& entry = found->second;
    std::vector<std::byte> space;
    const auto bytes =
        file_->source().piece(entry.offset, entry.count * bytes_of(entry.type), space);
    return bytes ? std::vector<std::byte>(bytes->begin(), bytes->end()) : std::vector<std::byte>{};
}

Result<std::vector<std::uint64_t>> Directory::numbers(Tag tag, std::uint64_t most) const {
    const auto found = entries_.find(tag);
    if (found == entries_.end())
        return std::vector<std::uint64_t>{};
    const Entry& entry = found->second;
    const std::size_t size = bytes_of(entry.type);
    const bool is_whole = entry.type != fraction && entry.type != signed_fraction &&
                          entry.type != single && entry.type != twice;
    if (!has_values(entry) || !is_whole || entry.count > most)
        return fail(
            ErrorKind::malformed,
            fmt::format("the values of tag {} are not there, or of the wrong kind or number",
                        static_cast<int>(tag)),
            entry.offset);
    std::vector<std::uint64_t> values(static_cast<std::size_t>(entry.count));
    for (std::size_t i = 0; i < values.size(); ++i) {
        const auto value = file_->number(entry.offset + i * size, size);
        if (!value)
            return fail(ErrorKind::io, "the file cannot be read", entry.offset);
        values[i] = *value;
    }
    return values;
}

Result<std::uint64_t> Directory::number(Tag tag, std::uint64_t otherwise) const {
    constexpr std::uint64_t any = ~std::uint64_t{0};
    YL_TRY(const auto values, numbers(tag, any));
    return values.empty() ? otherwise : values[0];
}

std::vector<double> Directory::fractions(Tag tag, std::uint64_t most) const {
    const auto found = entries_.find(tag);
    if (found == entries_.end() || !has_values(found->second) || found->second.count > most)
        return {};
    const Entry& entry = found->second;
    const std::size_t size = bytes_of(entry.type);
    std::vector<double> values;
    const auto number_at = [&](std::uint64_t at, std::size_t bytes) {
        return static_cast<double>(file_->number(at, bytes).value_or(0));
    };
    for (std::uint64_t i = 0; i < entry.count; ++i) {
        const std::uint64_t at = entry.offset + i * size;
        if (entry.type == fraction)
            values.push_back(number_at(at, 4) / number_at(at + 4, 4));
        else if (entry.type == single)
            values.push_back(static_cast<double>(std::bit_cast<float>(
                static_cast<std::uint32_t>(file_->number(at, 4).value_or(0)))));
        else
            values.push_back(number_at(at, size));
    }
    return values;
}

Result<std::vector<Directory>> pages_of(const File& file) {
    constexpr std::size_t max_pages = 65536;
    constexpr std::uint64_t preview = 1, mask = 4;
    std::vector<Directory> pages, others;
    std::set<std::uint64_t> seen;
    for (std::uint64_t at = file.first_directory(); at != 0 && seen.insert(at).second;) {
        auto directory = Directory::read(file, at);
        if (!directory && pages.empty() && others.empty())
            return tl::unexpected(directory.error());
        if (!directory || seen.size() > max_pages)
            break;
        const auto kind = directory->number(Tag::subfile_type, 0);
        const bool is_other = kind && (*kind & (preview | mask)) != 0;
        (is_other ? others : pages).push_back(*directory);
        at = directory->next();
    }
    if (pages.empty())
        pages = std::move(others);
    if (pages.empty())
        return fail(ErrorKind::malformed, "the file has no page");
    return pages;
}

}  // namespace yl::tiff
