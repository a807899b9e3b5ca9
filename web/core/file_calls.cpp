// Texture files, written.
#include "request.hpp"

namespace yl::web {
namespace {

Result<Json> write(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const std::string ending, text(request, "as"));
    TextureWriteOptions options;
    if (has(request, "supercompression")) {
        YL_TRY(const std::string scheme, text(request, "supercompression"));
        if (scheme != "none" && scheme != "zstd" && scheme != "zlib")
            return wrong("supercompression", "none, zstd or zlib");
        options.supercompression = scheme == "zstd"   ? Supercompression::zstd
                                   : scheme == "zlib" ? Supercompression::zlib
                                                      : Supercompression::none;
    }
    YL_TRY(const std::uint32_t compression, number_or(request, "compression_level", 0));
    options.level = static_cast<int>(compression);
    YL_TRY(std::vector<std::byte> bytes, texture_file_bytes(ending, *texture, options));
    const std::uint32_t kept_bytes = objects.keep(std::move(bytes));
    YL_TRY(const auto* held, objects.find<std::vector<std::byte>>(kept_bytes));
    return Json{{"object", kept_bytes}, {"memory", place_of(*held)}};
}

constexpr NamedCall calls[] = {
    {"write_texture", write, "texture as supercompression compression_level"}};

}  // namespace

std::span<const NamedCall> file_calls() {
    return calls;
}

}  // namespace yl::web
