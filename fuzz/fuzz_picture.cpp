// Every reader of picture files: any bytes give an error or a picture within the limits.
#include <yl/codec.hpp>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto bytes = std::as_bytes(std::span(data, size));
    constexpr yl::ReadLimits limits{.greatest_side = 1024, .greatest_bytes = 1 << 22};
    const auto picture = yl::read_picture(bytes, {.limits = limits});
    if (!picture)
        return picture.error().message.empty() ? __builtin_trap(), 0 : 0;
    // Every byte of the pixels is set: the sanitizers see a read of one that is not there.
    unsigned sum = 0;
    const auto view = picture->image.view();
    for (std::uint32_t y = 0; y < view.height; ++y)
        for (const std::byte byte : view.row(y))
            sum += std::to_integer<unsigned>(byte);
    volatile unsigned sink = sum;
    static_cast<void>(sink);
    return 0;
}
