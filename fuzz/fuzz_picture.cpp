// One reader of picture files, YL_FORMAT: any bytes give an error or a picture within the limits.
#include <algorithm>
#include <vector>

#include "codec/picture_format.hpp"
#include "input.hpp"

namespace {

/// Small enough for thousands of pictures a second, large enough for several bands of rows.
constexpr yl::Limits limits{.max_side = 256, .max_bytes = 1 << 19};
/// With nothing done to colours or sides.
const yl::ReadOptions as_stored{
    .transfer = yl::Transfer::linear, .limits = limits, .apply_orientation = false};
/// A thousand rows have to be within the limits.
const yl::ReadOptions in_rows{.transfer = yl::Transfer::linear,
                              .limits = {.max_side = 256, .max_bytes = 1 << 22},
                              .apply_orientation = false};

/// Rows that come one by one are those of the picture that was read whole.
void check_rows(const yl::PictureFormat& format, std::span<const std::byte> bytes,
                const yl::Picture* whole) {
    const auto files =
        yl::memory_files({{"file", std::vector<std::byte>(bytes.begin(), bytes.end())}});
    auto file = files->open("file");
    auto start = format.open_rows(yl::SharedFile(std::move(*file)), in_rows);
    const bool flows = start && start->reader != nullptr;
    if (!flows) {
        if (!start && (whole != nullptr || start.error().message.empty()))
            std::abort();
        return;
    }
    const std::size_t row_bytes = std::size_t{start->width} * yl::info(start->format).block_bytes;
    std::vector<std::byte> row(row_bytes);
    for (std::uint32_t y = 0; y < std::min(start->height, 4096U); ++y) {
        const auto status =
            start->reader->read({row.data(), start->format, start->width, 1, row.size()});
        if (!status && (whole != nullptr || status.error().message.empty()))
            std::abort();
        if (!status)
            return;
        if (whole != nullptr && !std::ranges::equal(row, whole->image.view().row(y)))
            std::abort();
    }
}

/// The levels that a file stores begin with the picture.
void check_levels(const yl::PictureFormat& format, std::span<const std::byte> bytes,
                  const yl::Picture* whole) {
    const auto levels = format.read_levels(bytes, as_stored);
    const bool begins_with_it = levels && whole != nullptr &&
                                levels->front().image.width() == whole->image.width() &&
                                levels->front().image.height() == whole->image.height();
    if (levels ? whole != nullptr && !begins_with_it : levels.error().message.empty())
        std::abort();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const yl::PictureFormat format = yl::YL_FORMAT();
    const auto bytes = std::as_bytes(std::span(data, size));
    if (!format.recognise(bytes))
        return -1;  // another reader's file: not worth keeping
    if (format.open_rows != nullptr || format.read_levels != nullptr) {
        const auto stored = format.read(bytes, as_stored);
        if (format.open_rows != nullptr)
            check_rows(format, bytes, stored ? &*stored : nullptr);
        if (format.read_levels != nullptr)
            check_levels(format, bytes, stored ? &*stored : nullptr);
    }
    if (format.read_frames != nullptr) {
        const auto frames = format.read_frames(bytes, {.limits = limits});
        if (frames ? frames->pictures.empty() : frames.error().message.empty())
            std::abort();
    }
    auto header = format.peek(bytes);
    if (!header && format.peek_damaged != nullptr)
        header = format.peek_damaged(bytes);
    const auto picture = format.read(bytes, {.limits = limits, .allow_partial = size % 2 == 1});
    if (!picture) {
        if (picture.error().message.empty())
            std::abort();
        return 0;
    }
    // What can be read has a header that says so; a PNG may ask for a turn behind its pixels.
    const auto seen = picture->image.view();
    if (!header || header->bits != yl::info(seen.format).channels[0].bits ||
        std::minmax(header->width, header->height) != std::minmax(seen.width, seen.height))
        std::abort();
    // Every byte of the pixels is there: the sanitizers see a read of one that is not.
    unsigned sum = 0;
    for (std::uint32_t y = 0; y < seen.height; ++y)
        for (const std::byte byte : seen.row(y))
            sum += std::to_integer<unsigned>(byte);
    volatile unsigned sink = sum;
    static_cast<void>(sink);
    return 0;
}
