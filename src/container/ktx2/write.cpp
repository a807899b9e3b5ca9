// Writing KTX 2.0.
#include <fmt/format.h>

#include <map>

#include <yl/status_macros.hpp>
#include <yl/version.hpp>
#include "base/checked.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "container/ktx2/ktx2.hpp"
#include "container/ktx2/layout.hpp"

namespace yl::ktx2 {
namespace {

std::string orientation(const TextureShape& shape, Origin origin) {
    const std::string text = origin == Origin::top ? "rdi" : "rui";
    return text.substr(0, shape.dimensions());
}

/// The keys and values in the order of their names, as the standard asks for.
std::vector<std::byte> key_value_data(const TextureShape& shape, const TextureMetadata& metadata,
                                      const TextureWriteOptions& options) {
    std::map<std::string, std::string, std::less<>> entries(metadata.key_values.begin(),
                                                            metadata.key_values.end());
    const auto set = [&](std::string_view key, std::string value) {  // text ends with a zero byte
        entries.insert_or_assign(std::string(key), std::move(value) + '\0');
    };
    set(orientation_key, orientation(shape, metadata.origin));
    set(writer_key,
        options.writer.empty() ? fmt::format("Yellow Lattice {}", version) : options.writer);
    if (metadata.swizzle != identity_swizzle)
        set(swizzle_key, swizzle_text(metadata.swizzle));
    if (metadata.sampler)
        set(sampler_key, sampler_text(*metadata.sampler));
    const bool has_alpha = info(shape.format).has(Channel::alpha);
    if (has_alpha && metadata.alpha == AlphaMode::data)
        set(alpha_key, "data");
    if (has_alpha && metadata.alpha == AlphaMode::opaque)
        set(alpha_key, "opaque");
    ByteWriter writer;
    for (const auto& [key, value] : entries) {
        writer.write(static_cast<std::uint32_t>(key.size() + 1 + value.size()));
        writer.append(key);
        writer.write(std::uint8_t{0});
        writer.append(value);
        writer.pad_to(4);
    }
    return writer.release();
}

struct LevelEntry {
    std::uint64_t offset = 0;
    std::uint64_t bytes = 0;  ///< as stored
};

void write_header(ByteWriter& writer, const TextureShape& shape, Supercompression scheme) {
    writer.append(std::as_bytes(std::span(identifier)));
    writer.write(static_cast<std::uint32_t>(shape.format));
    writer.write(std::uint32_t{info(shape.format).type_size});
    writer.write(shape.width);
    writer.write(shape.is_1d ? 0U : shape.height);
    writer.write(shape.dimensions() == 3 ? shape.depth : 0U);
    writer.write(shape.is_array ? shape.layers : 0U);
    writer.write(shape.faces);
    writer.write(shape.levels);
    writer.write(static_cast<std::uint32_t>(scheme));
}

/// Each level by itself, several at the same time; the bytes are kept by the file.
Status pack_levels(std::vector<ByteSpan>& levels, const TextureWriteOptions& options,
                   EncodedFile& file) {
    std::uint64_t bytes = 0;
    for (const ByteSpan level : levels)
        bytes += level.size();
    std::vector<Result<std::vector<std::byte>>> packed(levels.size());
    ProgressCounter progress(options.progress, Phase::packing, bytes);
    parallel_each(levels.size(), [&](std::size_t level) {
        if (progress.cancelled())
            return;
        packed[level] =
            pack_level(levels[level], options.supercompression, options.level, progress);
    });
    YL_CHECK(progress.finish());
    for (std::size_t level = 0; level < levels.size(); ++level) {
        YL_TRY(file.owned.emplace_back(), std::move(packed[level]));
        levels[level] = file.owned.back();
    }
    return {};
}

/// Everything before the levels, which are given their places.
ByteWriter head_of(const TextureShape& shape, const TextureMetadata& metadata,
                   const TextureWriteOptions& options, std::vector<LevelEntry>& levels) {
    const std::uint64_t alignment = level_alignment(shape.format, options.supercompression);
    const auto descriptor = data_format_descriptor(shape.format, metadata.transfer, metadata.alpha);
    const auto key_values = key_value_data(shape, metadata, options);
    const std::uint64_t descriptor_offset = header_bytes + level_entry_bytes * shape.levels;
    const std::uint64_t key_value_offset = descriptor_offset + descriptor.size();
    std::uint64_t end = round_up(key_value_offset + key_values.size(), alignment);
    for (std::uint32_t level = shape.levels; level-- > 0;) {
        levels[level].offset = round_up(end, alignment);
        end = levels[level].offset + levels[level].bytes;
    }
    ByteWriter head;
    write_header(head, shape, options.supercompression);
    head.write(static_cast<std::uint32_t>(descriptor_offset));
    head.write(static_cast<std::uint32_t>(descriptor.size()));
    head.write(static_cast<std::uint32_t>(key_value_offset));
    head.write(static_cast<std::uint32_t>(key_values.size()));
    head.write(std::uint64_t{0});  // no supercompression global data
    head.write(std::uint64_t{0});
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        head.write(levels[level].offset);
        head.write(levels[level].bytes);
        head.write(shape.level_bytes(level));
    }
    head.append(descriptor);
    head.append(key_values);
    head.pad_to(static_cast<std::size_t>(alignment));
    return head;
}

}  // namespace

Result<EncodedFile> write(const Texture& texture, const TextureWriteOptions& options) {
    const TextureShape& shape = texture.shape();
    EncodedFile file;
    std::vector<ByteSpan> data(shape.levels);
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        data[level] = texture.level(level);
    if (options.supercompression != Supercompression::none)
        YL_CHECK(pack_levels(data, options, file));
    std::vector<LevelEntry> levels(shape.levels);
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        levels[level].bytes = data[level].size();
    ByteWriter head = head_of(shape, texture.metadata, options, levels);
    const std::size_t head_bytes = head.offset();
    // Levels whose size is not a multiple of the alignment are followed by up to so many zero bytes.
    head.write(std::uint64_t{0});
    head.write(std::uint64_t{0});
    file.owned.push_back(head.release());
    const ByteSpan zeros = ByteSpan(file.owned.back()).last(16);
    file.pieces.push_back(ByteSpan(file.owned.back()).first(head_bytes));
    std::uint64_t end = head_bytes;
    for (std::uint32_t level = shape.levels; level-- > 0;) {
        file.pieces.push_back(zeros.first(static_cast<std::size_t>(levels[level].offset - end)));
        file.pieces.push_back(data[level]);
        end = levels[level].offset + levels[level].bytes;
    }
    return file;
}

Result<FilePlan> plan(const TextureShape& shape, const TextureMetadata& metadata,
                      const TextureWriteOptions& options) {
    if (options.supercompression != Supercompression::none)
        return fail_at({ErrorKind::usage, "the size of packed levels is not known before"},
                       "supercompression");
    std::vector<LevelEntry> levels(shape.levels);
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        levels[level].bytes = shape.level_bytes(level);
    FilePlan plan{.head = head_of(shape, metadata, options, levels).release()};
    for (const LevelEntry& level : levels)
        plan.level_offsets.push_back(level.offset);
    plan.bytes = levels[0].offset + levels[0].bytes;
    return plan;
}

}  // namespace yl::ktx2
