// Every reader of texture files: any bytes give an error or a texture within the limits, and what
// has been read can be written and read again.
#include <yl/texture_file.hpp>

#include "input.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto bytes = std::as_bytes(std::span(data, size));
    constexpr yl::Limits limits{.max_side = 256, .max_bytes = 1 << 18};
    const auto file = yl::read_texture(bytes, {.limits = limits});
    if (!file)
        return 0;
    const auto again = yl::texture_file_bytes("ktx2", file->texture);
    if (!again)
        std::abort();
    const auto back = yl::read_texture(*again, {.limits = limits});
    if (!back || back->texture.shape() != file->texture.shape())
        std::abort();
    return 0;
}
