#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include <yl/block.hpp>
#include <yl/convert.hpp>
#include <yl/upload.hpp>
#include "base/attempt.hpp"
#include "base/checked.hpp"

namespace yl {
namespace {

bool holds(const FormatInfo& wide, const FormatInfo& f) {
    if (wide.is_block() || wide.transfer != f.transfer || wide.channel_count < f.channel_count)
        return false;
    if (wide.kind == NumericKind::shared_exponent || wide.kind == NumericKind::unsigned_float)
        return false;
    const bool number_fits = wide.kind == f.kind || wide.kind == NumericKind::signed_float;
    const int spare = wide.is_float() && !f.is_float() ? 5 : 0;  // a half holds 11 bits, not 16
    return number_fits && wide.channels[0].bits >= f.channels[0].bits + spare;
}

/// The smallest format of the device that loses nothing of `format`.
std::optional<Format> substitute(const FormatInfo& f, const DeviceProfile& profile) {
    const FormatInfo* best = nullptr;
    for (const Format candidate : profile.formats) {
        const FormatInfo& wide = info(candidate);
        if (holds(wide, f) && (best == nullptr || wide.block_bytes < best->block_bytes))
            best = &wide;
    }
    return best != nullptr ? std::optional(best->format) : std::nullopt;
}

void add_region(UploadPlan& plan, const DeviceProfile& profile, std::uint32_t level,
                std::uint32_t layer, std::uint32_t face) {
    UploadRegion region{.level = level, .layer = layer, .face = face};
    region.width = plan.shape.width_at(level);
    region.height = plan.shape.height_at(level);
    region.offset = round_up(plan.staging_bytes, profile.offset_alignment);
    region.row_pitch = round_up(plan.shape.row_bytes(level), profile.row_pitch_alignment);
    region.slice_pitch =
        region.row_pitch * ceil_div(region.height, info(plan.shape.format).block_height);
    plan.staging_bytes = region.offset + region.slice_pitch;
    plan.regions.push_back(region);
}

Status check_limits(const TextureShape& shape, const DeviceProfile& profile) {
    const auto refuse = [](std::string message) {
        return fail(ErrorKind::device, std::move(message));
    };
    if (shape.dimensions() != 2)
        return fail(ErrorKind::unsupported,
                    fmt::format("{}D textures cannot be uploaded yet", shape.dimensions()));
    const bool is_cube = shape.faces == 6;
    const std::uint32_t greatest = is_cube ? profile.greatest_cube_side : profile.greatest_2d_side;
    if (std::max(shape.width, shape.height) > greatest)
        return refuse(
            fmt::format("{} x {} texels exceed the device's {}{}; leave out the top levels",
                        shape.width, shape.height, greatest, is_cube ? " for cubes" : ""));
    const bool is_array = shape.is_array || shape.layers > 1;
    if (is_array && is_cube && !profile.has_cube_arrays)
        return refuse("the device has no arrays of cubes; upload each cube by itself");
    if (is_array && std::uint64_t{shape.layers} * shape.faces > profile.greatest_layers)
        return refuse(fmt::format("{} layers{} exceed the device's {}", shape.layers,
                                  is_cube ? " of six faces" : "", profile.greatest_layers));
    return {};
}

}  // namespace

bool DeviceProfile::supports(Format format) const {
    return std::binary_search(formats.begin(), formats.end(), format);
}

Result<UploadPlan> plan_upload(const TextureShape& shape, const DeviceProfile& profile) {
    YL_CHECK(check_limits(shape, profile));
    UploadPlan plan;
    plan.shape = shape;
    plan.source_format = shape.format;
    if (!profile.supports(shape.format)) {
        const Format texels = decoded_format(shape.format).value_or(shape.format);
        const auto other =
            profile.supports(texels) ? std::optional(texels) : substitute(info(texels), profile);
        if (!other)
            return fail(ErrorKind::device,
                        fmt::format("the device has neither {} nor a format that holds its values",
                                    info(shape.format).name));
        plan.shape.format = *other;
        plan.findings.push_back(
            {fmt::format("the device has no {}: the texture is converted to {} on the way",
                         info(shape.format).name, info(*other).name),
             fmt::format("bake it as {} to spare the conversion", info(*other).name)});
    }
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
            for (std::uint32_t face = 0; face < shape.faces; ++face)
                add_region(plan, profile, level, layer, face);
    return plan;
}

Result<Texture> converted_for(const UploadPlan& plan, const Texture& texture) {
    YL_TRY(Texture converted, Texture::create(plan.shape));
    const Transfer transfer = converted.traits.transfer;
    converted.traits = texture.traits;
    converted.traits.transfer = transfer;
    Texture decoded;
    const bool is_block = info(plan.source_format).is_block();
    if (is_block) {
        YL_TRY(decoded, decode_texture(texture));
    }
    const Texture& texels = is_block ? decoded : texture;
    for (const UploadRegion& region : plan.regions) {
        YL_CHECK(convert(texels.image(region.level, region.layer, region.face),
                         converted.image(region.level, region.layer, region.face)));
    }
    return converted;
}

Sampler fit_sampler(const Sampler& sampler, const DeviceProfile& profile, Findings& findings) {
    Sampler fitting = sampler;
    if (sampler.max_anisotropy > profile.greatest_anisotropy) {
        fitting.max_anisotropy = profile.greatest_anisotropy;
        findings.push_back(
            {fmt::format("anisotropy {} exceeds the device's {} and was lowered to it",
                         sampler.max_anisotropy, profile.greatest_anisotropy),
             fmt::format("ask for {} or less", profile.greatest_anisotropy)});
    }
    return fitting;
}

}  // namespace yl
