#include <yl/texture_file.hpp>

#include <array>

#include <yl/picture.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/files.hpp"
#include "base/out_of_memory.hpp"
#include "base/text.hpp"
#include "container/texture_format.hpp"
#include "pixel/check.hpp"

namespace yl {

TextureShape ktx_shape(Format format, const std::array<std::uint32_t, 3>& size,
                       std::uint32_t layers, std::uint32_t faces, std::uint32_t levels) {
    const auto [width, height, depth] = size;
    return {.format = format,
            .width = width,
            .height = std::max(height, 1U),
            .depth = std::max(depth, 1U),
            .levels = std::max(levels, 1U),
            .layers = std::max(layers, 1U),
            .faces = faces,
            .is_array = layers != 0,
            .is_1d = height == 0,
            .is_3d = depth == 1};
}

namespace {

const std::vector<TextureFormat>& texture_formats() {
    static const std::vector<TextureFormat> formats = {ktx2_format(), dds_format(), ktx1_format()};
    return formats;
}

const TextureFormat* find_by_content(ByteSpan bytes) {
    const auto found = std::find_if(texture_formats().begin(), texture_formats().end(),
                                    [&](const auto& format) { return format.recognise(bytes); });
    return found != texture_formats().end() ? &*found : nullptr;
}

/// One that is written.
Result<const TextureFormat*> find_by_ending(std::string_view given) {
    const std::string ending = lower_case(std::string(given));
    std::string known;
    for (const TextureFormat& format : texture_formats()) {
        if (format.write == nullptr)
            continue;
        if (format.ending == ending)
            return &format;
        known += fmt::format("{}.{}", known.empty() ? "" : ", ", format.ending);
    }
    return fail(ErrorKind::usage,
                fmt::format("no texture format has the ending '.{}' (known: {})", ending, known));
}

Result<EncodedFile> encode(std::string_view ending, const Texture& texture,
                           const TextureWriteOptions& options) {
    YL_TRY(const TextureFormat* const format, find_by_ending(ending));
    return format->write(texture, options);
}

Status relabel(Transfer transfer, TextureLayout& layout) {
    const FormatInfo& f = info(layout.shape.format);
    const auto twin = with_transfer(layout.shape.format, transfer);
    const bool is_wide = f.kind == NumericKind::unorm && !f.is_block() && f.channels[0].bits > 8;
    if (!twin && !is_wide && f.transfer != transfer)
        return fail_at(
            {ErrorKind::usage, fmt::format("{} holds no {} values", f.name,
                                           transfer == Transfer::srgb ? "sRGB" : "linear")},
            "transfer");
    layout.shape.format = twin.value_or(layout.shape.format);
    layout.metadata.transfer = transfer;
    return {};
}

}  // namespace

Result<FilePlan> plan_texture_file(std::string_view ending, const TextureShape& shape,
                                   const TextureMetadata& metadata,
                                   const TextureWriteOptions& options) {
    YL_TRY(const TextureFormat* const format, find_by_ending(ending));
    return format->plan(shape, metadata, options);
}

Result<TextureStream> TextureStream::open(const ByteSource& source,
                                          const TextureReadOptions& options) {
    constexpr std::size_t longest_start = 64;
    std::vector<std::byte> space;
    YL_TRY(const ByteSpan start, source.start(longest_start, space));
    if (start.empty())
        return fail(ErrorKind::malformed, "the file is empty");
    const TextureFormat* format = find_by_content(start);
    if (format == nullptr)
        return fail(ErrorKind::unsupported, looks_like_picture(start)
                                                ? "this is a picture, not a texture file: read it "
                                                  "with read_picture, or bake it"
                                                : "this is not a texture file that can be read");
    YL_TRY(TextureLayout layout, format->read_header(source, options));
    if (options.transfer)
        YL_CHECK(relabel(*options.transfer, layout));
    layout.info.file_format = format->name;
    layout.info.file_bytes = source.size();
    TextureStream stream;
    stream.source_ = std::make_shared<const ByteSource>(source);
    stream.progress_ = options.progress;
    stream.layout_ = std::make_shared<const TextureLayout>(std::move(layout));
    return stream;
}

Result<TextureStream> TextureStream::open(ByteSpan bytes, const TextureReadOptions& options) try {
    return open(ByteSource(bytes), options);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<TextureStream> TextureStream::open(const std::filesystem::path& path,
                                          const TextureReadOptions& options,
                                          FileAccess access) try {
    const auto opened = [&](auto file, const auto& source_of) -> Result<TextureStream> {
        if (!file)
            return no_such_file(file.error(), path, &looks_like_texture);
        auto kept = std::make_shared<const typename decltype(file)::value_type>(std::move(*file));
        auto stream = open(source_of(kept), options);
        if (!stream)
            return fail_at(stream.error(), path.string());
        stream->file_ = std::move(kept);
        return stream;
    };
    const auto in_memory = [](const auto& file) { return ByteSource(file->bytes()); };
    switch (access) {
        case FileAccess::copy:
            return opened(read_file(options.files, path), in_memory);
        case FileAccess::on_demand: {
            const auto files = options.files ? options.files : disk_files();
            return opened(files->open(path), [](const auto& file) {
                return ByteSource(std::shared_ptr<const File>(file, file->get()));
            });
        }
        case FileAccess::map:
            break;
    }
    if (options.files != nullptr)
        return fail_at({ErrorKind::usage, "only files of the disk can be mapped"}, path.string());
    return opened(MappedFile::open(path), in_memory);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

namespace {

Result<TextureFile> whole_file(const TextureStream& stream) {
    TextureFile file;
    YL_TRY(file.texture, stream.read_all());
    file.info = stream.info();
    return file;
}

}  // namespace

Result<TextureFile> read_texture(ByteSpan bytes, const TextureReadOptions& options) {
    YL_TRY(const TextureStream stream, TextureStream::open(bytes, options));
    return whole_file(stream);
}

Result<TextureFile> read_texture(const std::filesystem::path& path,
                                 const TextureReadOptions& options) try {
    YL_TRY(const TextureStream stream, TextureStream::open(path, options));
    auto file = whole_file(stream);
    if (!file)
        return fail_at(file.error(), path.string());
    return file;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status write_texture(const std::filesystem::path& path, const Texture& texture,
                     const TextureWriteOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    const auto encoded = encode(ending_of(path), texture, options);
    if (!encoded)
        return fail_at(encoded.error(), path.string());
    return write_file(path, encoded->pieces, options.progress);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Findings losses_in_file(const std::filesystem::path& path, const TextureMetadata& metadata,
                        Format format, const TextureWriteOptions& options) {
    Findings findings;
    if (ending_of(path) != "dds")
        return findings;
    if (metadata.sampler)
        findings.push_back({"dds-keeps-no-sampler", "DDS keeps no sampler",
                            "write .ktx2, or set the sampler in the program", FindingLevel::hint});
    if (metadata.swizzle != identity_swizzle)
        findings.push_back(
            {"dds-keeps-no-swizzle",
             fmt::format("DDS keeps no swizzle: what is seen as {} will be seen as rgba",
                         swizzle_text(metadata.swizzle)),
             "write .ktx2, or set the swizzle in the program"});
    if (metadata.origin == Origin::bottom)
        findings.push_back(
            {"dds-keeps-no-origin", "DDS cannot say that row 0 is at the bottom", "write .ktx2"});
    if (options.legacy_header && yl::info(format).transfer == Transfer::srgb)
        findings.push_back({"dds-keeps-no-srgb",
                            "the old header of DDS cannot say that colours are sRGB",
                            "use the extended one, or choose an sRGB format in the program"});
    return findings;
}

Result<std::vector<std::byte>> texture_file_bytes(std::string_view file_format,
                                                  const Texture& texture,
                                                  const TextureWriteOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_TRY(const EncodedFile encoded, encode(file_format, texture, options));
    std::vector<std::byte> bytes;
    for (const ByteSpan piece : encoded.pieces)
        bytes.insert(bytes.end(), piece.begin(), piece.end());
    return bytes;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<FileContent> file_content(const std::filesystem::path& path,
                                 const std::shared_ptr<const Files>& files) try {
    constexpr std::size_t longest_start = 64;
    std::array<std::byte, longest_start> bytes{};
    YL_TRY(const std::size_t count, read_start(files, path, bytes));
    const ByteSpan start = ByteSpan(bytes).first(count);
    if (start.empty())
        return fail_at({ErrorKind::malformed, "the file is empty"}, path.string());
    return looks_like_picture(start)   ? FileContent::picture
           : looks_like_texture(start) ? FileContent::texture
                                       : FileContent::other;
} catch (const std::bad_alloc&) {
    return out_of_memory();
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
