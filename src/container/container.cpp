#include <yl/container.hpp>

#include <fmt/format.h>

#include <algorithm>

#include "base/attempt.hpp"
#include "base/file.hpp"
#include "container/texture_format.hpp"

namespace yl {
namespace {

const std::vector<TextureFormat>& texture_formats() {
    static const std::vector<TextureFormat> formats = {ktx2_format()};
    return formats;
}

const TextureFormat* find_by_content(ByteSpan bytes) {
    const auto found = std::find_if(texture_formats().begin(), texture_formats().end(),
                                    [&](const auto& format) { return format.recognise(bytes); });
    return found != texture_formats().end() ? &*found : nullptr;
}

Result<EncodedFile> encode(std::string_view ending, const Texture& texture,
                           const TextureWriteOptions& options) {
    std::string known;
    for (const TextureFormat& format : texture_formats()) {
        if (format.ending == ending)
            return format.write(texture, options);
        known += fmt::format("{}.{}", known.empty() ? "" : ", ", format.ending);
    }
    return fail(ErrorKind::usage,
                fmt::format("no texture format has the ending '.{}' (known: {})", ending, known));
}

}  // namespace

Result<TextureFile> read_texture(ByteSpan bytes, const ReadLimits& limits) {
    if (bytes.empty())
        return fail(ErrorKind::malformed, "the file is empty");
    const TextureFormat* format = find_by_content(bytes);
    if (format == nullptr)
        return fail(ErrorKind::unsupported, "this is no texture file that can be read");
    YL_TRY(TextureFile file, format->read(bytes, limits));
    file.info.file_format = format->name;
    file.info.file_bytes = bytes.size();
    return file;
}

Result<TextureFile> read_texture(const std::filesystem::path& path, const ReadLimits& limits) {
    YL_TRY(const MappedFile file, MappedFile::open(path));
    auto texture = read_texture(file.bytes(), limits);
    if (!texture)
        return fail_at(texture.error(), path.string());
    return texture;
}

Status write_texture(const std::filesystem::path& path, const Texture& texture,
                     const TextureWriteOptions& options) {
    const std::string ending = path.extension().string();
    const auto encoded =
        encode(ending.empty() ? "" : std::string_view(ending).substr(1), texture, options);
    if (!encoded)
        return fail_at(encoded.error(), path.string());
    return write_file(path, encoded->pieces);
}

Result<std::vector<std::byte>> encode_texture(std::string_view file_format, const Texture& texture,
                                              const TextureWriteOptions& options) {
    YL_TRY(const EncodedFile encoded, encode(file_format, texture, options));
    std::vector<std::byte> bytes;
    for (const ByteSpan piece : encoded.pieces)
        bytes.insert(bytes.end(), piece.begin(), piece.end());
    return bytes;
}

bool looks_like_texture(ByteSpan bytes) {
    return find_by_content(bytes) != nullptr;
}

std::string_view name(Supercompression scheme) {
    switch (scheme) {
        case Supercompression::none:
            return "none";
        case Supercompression::zstd:
            return "zstd";
        case Supercompression::zlib:
            return "zlib";
    }
    return "unknown";
}

}  // namespace yl
