// Textures on their way: converted for the device, and laid into staging memory.
#include <fmt/format.h>

#include <cstring>

#include <yl/block.hpp>
#include <yl/convert.hpp>
#include <yl/status_macros.hpp>
#include <yl/upload.hpp>
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/staging.hpp"

namespace yl {
namespace {

/// The shape of what the program hands over, in the plan's format.
TextureShape source_shape(const UploadPlan& plan, const TextureShape& given) {
    TextureShape shape = given;
    shape.format = plan.shape.format;
    if (!plan.box)
        shape.is_1d = plan.shape.is_1d;
    return shape;
}

Status convert_level(const Texture& from, Texture& to, std::uint32_t level,
                     const ConvertOptions& options) {
    const TextureShape& shape = to.shape();
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face) {
            ConstImageView source = from.image(level, layer, face);
            ImageView target = to.image(level, layer, face);
            for (std::uint32_t slice = 0; slice < shape.depth_at(level); ++slice) {
                YL_CHECK(convert(source, target, options));
                source.data += from.shape().surface_bytes(level);
                target.data += shape.surface_bytes(level);
            }
        }
    return {};
}

/// Of an update, the texture is the box alone.
UploadRegion place_in_texture(const UploadPlan& plan, const UploadRegion& region) {
    UploadRegion place = region;
    if (plan.box) {
        place.level = place.layer = place.face = place.x = 0;
        place.y -= plan.box->y;
        place.z -= plan.box->z;
    }
    return place;
}

}  // namespace

const std::byte* region_source(const UploadPlan& plan, const UploadRegion& region,
                               const Texture& texture) {
    const FormatInfo& f = info(texture.shape().format);
    const UploadRegion place = place_in_texture(plan, region);
    return texture.image(place.level, place.layer, place.face).data +
           place.z * texture.shape().surface_bytes(place.level) +
           place.y / f.block_height * texture.shape().row_bytes(place.level) +
           std::uint64_t{place.x / f.block_width} * f.block_bytes;
}

namespace {

/// Whether a texture has the texels that a plan takes from it.
Status check_source(const UploadPlan& plan, std::span<const UploadRegion> regions,
                    const Texture& texture) {
    const TextureShape& shape = texture.shape();
    if (shape.format != plan.shape.format)
        return fail(ErrorKind::usage,
                    fmt::format("the texture is {}, and the plan stores {}",
                                info(shape.format).name, info(plan.shape.format).name));
    const FormatInfo& f = info(shape.format);
    for (const UploadRegion& region : regions) {
        const UploadRegion place = place_in_texture(plan, region);
        const bool is_there =
            place.level < shape.levels && place.layer < shape.layers && place.face < shape.faces &&
            place.x + place.width <= round_up(shape.width_at(place.level), f.block_width) &&
            place.y + place.height <= round_up(shape.height_at(place.level), f.block_height) &&
            place.z + place.depth <= shape.depth_at(place.level);
        if (!is_there)
            return fail(ErrorKind::usage,
                        fmt::format("the plan takes texels from level {}, layer {}, face {} that "
                                    "the texture has not",
                                    place.level, place.layer, place.face));
    }
    return {};
}

}  // namespace

Status check_write(const UploadPlan& plan, std::size_t batch, const Texture& texture,
                   const TextureShape& on_device) {
    const auto refuse = [](std::string message) {
        return fail(ErrorKind::usage, std::move(message));
    };
    if (plan.shape != on_device)
        return refuse("the plan was made for another shape");
    if (batch >= plan.batches.size())
        return refuse(fmt::format("the plan has {} batches; there is no number {}",
                                  plan.batches.size(), batch));
    return check_source(plan, plan.regions_of(plan.batches[batch]), texture);
}

namespace {

/// Every texel in another format, with its channels in the order of the plan.
Result<Texture> plain_texels_for(const UploadPlan& plan, const Texture& texels, Format format) {
    TextureShape shape = source_shape(plan, texels.shape());
    shape.format = format;
    YL_TRY(Texture converted, Texture::create(shape, Limits::none()));
    const ConvertOptions conversion{.source_transfer = plan.source_transfer,
                                    .target_transfer = converted.metadata.transfer,
                                    .swizzle = plan.swizzle_on_the_way,
                                    .to_one_channel = ToOneChannel::red};
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        YL_CHECK(convert_level(texels, converted, level, conversion));
    return converted;
}

/// Four channels that hold those of a decoded format exactly.
Format four_channels(const FormatInfo& f) {
    return f.is_float()                   ? Format::rgba16_float
           : f.transfer == Transfer::srgb ? Format::rgba8_srgb
           : f.kind == NumericKind::snorm ? Format::rgba16_snorm
                                          : Format::rgba16_unorm;
}

Result<Texture> in_format_of(const UploadPlan& plan, const Texture& texels) {
    const FormatInfo& f = info(texels.shape().format);
    if (!plan.transcodes())
        return plain_texels_for(plan, texels, plan.shape.format);
    if (plan.swizzle_on_the_way == identity_swizzle)
        return encode_texture(texels, plan.shape.format, plan.encoding);
    YL_TRY(Texture ordered, plain_texels_for(plan, texels, four_channels(f)));
    ordered.metadata.alpha = texels.metadata.alpha;
    return encode_texture(ordered, plan.shape.format, plan.encoding);
}

}  // namespace

Result<Texture> converted_for(const UploadPlan& plan, const Texture& texture) try {
    YL_CHECK(check_texture(texture, "texture"));
    Texture decoded;
    const bool is_block =
        info(plan.source_format).is_block() && plan.shape.format != plan.source_format;
    if (is_block) {
        YL_TRY(decoded, decode_texture(texture));
    }
    YL_TRY(Texture converted, in_format_of(plan, is_block ? decoded : texture));
    const Transfer transfer = converted.metadata.transfer;
    converted.metadata = texture.metadata;
    converted.metadata.transfer = transfer;
    converted.metadata.swizzle = plan.swizzle;
    return converted;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status fill_staging(const UploadPlan& plan, const UploadBatch& batch, const Texture& texture,
                    std::span<std::byte> staging) {
    YL_CHECK(check_texture(texture, "texture"));
    if (std::size_t{batch.first_region} + batch.region_count > plan.regions.size())
        return fail(ErrorKind::usage, "the batch is none of the plan's");
    if (staging.size() < batch.bytes)
        return fail_at({ErrorKind::usage, fmt::format("the batch needs {} bytes, and there are {}",
                                                      batch.bytes, staging.size())},
                       "staging");
    YL_CHECK(check_source(plan, plan.regions_of(batch), texture));
    lay_out(plan, batch, texture, staging);
    return {};
}

namespace {

/// The rows of a region, one after the other at these pitches.
void lay_out_region(const UploadPlan& plan, const UploadRegion& region, const Texture& texture,
                    std::byte* target, std::uint64_t row_pitch, std::uint64_t slice_pitch) {
    const FormatInfo& f = info(plan.shape.format);
    const std::byte* source = region_source(plan, region, texture);
    const std::uint32_t source_level = plan.box ? 0 : region.level;
    const std::uint64_t source_row = texture.shape().row_bytes(source_level);
    const std::uint64_t source_slice = texture.shape().surface_bytes(source_level);
    const std::uint64_t rows = ceil_div(region.height, f.block_height);
    const std::uint64_t row_bytes =
        ceil_div(region.width, f.block_width) * std::uint64_t{f.block_bytes};
    for (std::uint32_t slice = 0; slice < region.depth; ++slice) {
        std::byte* to = target + slice * slice_pitch;
        const std::byte* from = source + slice * source_slice;
        if (source_row == row_pitch && row_bytes == source_row) {
            std::memcpy(to, from, rows * row_bytes);
            continue;
        }
        for (std::uint64_t row = 0; row < rows; ++row)
            std::memcpy(to + row * row_pitch, from + row * source_row, row_bytes);
    }
}

}  // namespace

void lay_out(const UploadPlan& plan, const UploadBatch& batch, const Texture& texture,
             std::span<std::byte> staging) {
    for (const UploadRegion& region : plan.regions_of(batch))
        lay_out_region(plan, region, texture, staging.data() + region.offset, region.row_pitch,
                       region.slice_pitch);
}

Status fill_mapped(const UploadPlan& plan, const UploadRegion& region, const Texture& texture,
                   std::span<std::byte> memory, std::uint64_t row_pitch,
                   std::uint64_t slice_pitch) {
    YL_CHECK(check_texture(texture, "texture"));
    YL_CHECK(check_source(plan, {&region, 1}, texture));
    if (region.width == 0 || region.height == 0 || region.depth == 0)
        return {};
    const FormatInfo& f = info(plan.shape.format);
    const std::uint64_t row_bytes =
        ceil_div(region.width, f.block_width) * std::uint64_t{f.block_bytes};
    const std::uint64_t rows = ceil_div(region.height, f.block_height);
    if (row_pitch < row_bytes)
        return fail_at({ErrorKind::usage, fmt::format("a row has {} bytes, and the pitch is {}",
                                                      row_bytes, row_pitch)},
                       "row_pitch");
    const CheckedSize slice = CheckedSize(rows - 1) * row_pitch + row_bytes;
    if (region.depth > 1 && !slice.fits(slice_pitch))
        return fail_at({ErrorKind::usage, fmt::format("slices of {} rows do not fit a pitch of {}",
                                                      rows, slice_pitch)},
                       "slice_pitch");
    const CheckedSize needed = CheckedSize(region.depth - 1) * slice_pitch + slice;
    if (!needed.fits(memory.size()))
        return fail_at(
            {ErrorKind::usage, fmt::format("the region does not fit {} bytes", memory.size())},
            "memory");
    lay_out_region(plan, region, texture, memory.data(), row_pitch, slice_pitch);
    return {};
}

}  // namespace yl
