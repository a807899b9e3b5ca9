// One reader of picture files, YL_FORMAT: any bytes give an error or a picture within the limits.
#include <algorithm>

#include "codec/picture_format.hpp"
#include "input.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const yl::PictureFormat format = yl::YL_FORMAT();
    const auto bytes = std::as_bytes(std::span(data, size));
    if (!format.recognise(bytes))
        return -1;  // another reader's file: not worth keeping
    // Small enough for thousands of pictures a second, large enough for several bands of rows.
    constexpr yl::Limits limits{.max_side = 256, .max_bytes = 1 << 19};
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
