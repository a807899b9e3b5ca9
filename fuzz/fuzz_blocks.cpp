// Block decoders and encoders: any blocks decode, and what they decode to can be encoded again, unless
// decoders alone are looked at.
#include <yl/block.hpp>

#include "input.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size < 4)
        return 0;
    const auto all = yl::all_formats();
    const yl::FormatInfo& f = all[data[0] % all.size()];
    if (!f.is_block())
        return 0;
    const std::uint32_t width = 1 + data[1] % 16, height = 1 + data[2] % 16;
    auto blocks = yl::Image::create(f.format, width, height);
    if (!blocks)
        std::abort();
    const yl::ImageView view = blocks->view();
    const std::size_t bytes = view.row_bytes() * view.row_count();
    std::memset(view.data, 0, bytes);
    std::memcpy(view.data, data + 4, std::min(size - 4, bytes));
    const auto texels = yl::decode_blocks(view);
    if (!texels)
        std::abort();
#ifndef YL_FUZZ_DECODING
    const auto again = yl::encode_blocks(texels->view(), f.format,
                                         {.role = static_cast<yl::Role>(data[3] % 6),
                                          .effort = data[3] / 16 % 2,
                                          .rate_distortion = data[3] % 3 == 0 ? 2.0F : 0.0F});
    if (!again || !yl::decode_blocks(again->view()))
        std::abort();
#endif
    return 0;
}
