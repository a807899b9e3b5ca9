// Plans: which format, which regions, which memory.
#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <optional>

#include <yl/block.hpp>
#include <yl/status_macros.hpp>
#include <yl/upload.hpp>
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/regions.hpp"
#include "upload/transcode.hpp"

namespace yl {
namespace {

tl::unexpected<Error> refuse(std::string message) {
    return fail(ErrorKind::device, std::move(message));
}

bool holds(const FormatInfo& wide, const FormatInfo& f) {
    if (wide.is_block() || wide.transfer != f.transfer || wide.channel_count < f.channel_count)
        return false;
    if (wide.kind == NumericKind::shared_exponent || wide.kind == NumericKind::unsigned_float)
        return false;
    const bool number_fits = wide.kind == f.kind || wide.kind == NumericKind::signed_float;
    const int spare = wide.is_float() && !f.is_float() ? 5 : 0;  // a half holds 11 bits, not 16
    return number_fits && wide.channels[0].bits >= f.channels[0].bits + spare;
}

bool allows(const FormatSupport& support, const TextureShape& shape) {
    return (shape.dimensions() != 1 || support.allows_1d) &&
           (shape.dimensions() != 3 || support.allows_3d);
}

/// The smallest format of the device that loses nothing of `f`; one that filters work on, if any.
std::optional<Format> substitute(const FormatInfo& f, const TextureShape& shape,
                                 const DeviceProfile& profile, std::uint32_t min_channels) {
    const FormatSupport* best = nullptr;
    for (const FormatSupport& candidate : profile.formats) {
        const FormatInfo& wide = info(candidate.format);
        if (!holds(wide, f) || wide.channel_count < min_channels || !allows(candidate, shape))
            continue;
        const bool is_better = best == nullptr || (candidate.is_filtered && !best->is_filtered) ||
                               (candidate.is_filtered == best->is_filtered &&
                                wide.block_bytes < info(best->format).block_bytes);
        if (is_better)
            best = &candidate;
    }
    return best != nullptr ? std::optional(best->format) : std::nullopt;
}

bool has_whole_blocks(const TextureShape& shape, const FormatInfo& f) {
    return shape.width % f.block_width == 0 && shape.height % f.block_height == 0;
}

/// Whether the sides of the texture may end within a block, or do not.
bool sides_fit(const FormatSupport& support, const TextureShape& shape,
               const DeviceProfile& profile) {
    return has_whole_blocks(shape, info(support.format)) ||
           (!profile.needs_whole_blocks && !support.needs_whole_sides);
}

bool is_usable(Format format, const TextureShape& shape, const DeviceProfile& profile) {
    const FormatSupport* support = profile.find(format);
    return support != nullptr && allows(*support, shape) && sides_fit(*support, shape, profile);
}

/// A swizzle that changes nothing for a shader, given the channels that the format has.
bool is_implied(const Swizzle& swizzle, const FormatInfo& f) {
    constexpr std::array stored = {Channel::red, Channel::green, Channel::blue, Channel::alpha};
    for (std::size_t i = 0; i < 4; ++i) {
        const auto without = i == 3 ? SwizzleSource::one : SwizzleSource::zero;
        const bool is_there = f.has(stored[i]);
        if (swizzle[i] != identity_swizzle[i] && (is_there || swizzle[i] != without))
            return false;
    }
    return true;
}

/// The device's blocks that lose least of those of the texture.
std::optional<Format> nearest_blocks(const TextureShape& shape, const DeviceProfile& profile,
                                     std::uint32_t min_channels) {
    constexpr float least_worth = 30;  // decibels, below which it is a poor picture
    std::optional<Format> best;
    float most = least_worth;
    for (const FormatSupport& support : profile.formats) {
        const FormatInfo& f = info(support.format);
        const auto quality = transcode_quality(shape.format, support.format);
        if (!quality || *quality <= most || f.channel_count < min_channels ||
            !is_usable(support.format, shape, profile))
            continue;
        most = *quality;
        best = support.format;
    }
    return best;
}

/// "converted to rgba8-srgb on the way".
std::string what_becomes(const FormatInfo& from, Format chosen) {
    const std::string_view to = info(chosen).name;
    if (!info(chosen).is_block())
        return fmt::format("{} to {} on the way", from.is_block() ? "decompressed" : "converted",
                           to);
    return fmt::format("transcoded to {} on the way (about {:.0f} dB)", to,
                       transcode_quality(from.format, chosen).value_or(0));
}

/// What to do about it; `blocks` are those of the device that could hold the texture.
std::string spared(Format chosen, std::optional<Format> blocks) {
    if (info(chosen).is_block())
        return fmt::format("bake it as {} to spare the time and the loss", info(chosen).name);
    if (!blocks)
        return fmt::format("bake it as {} to spare the conversion", info(chosen).name);
    return fmt::format(
        "bake it as {}, or have it transcoded, so that it takes the memory of blocks",
        info(*blocks).name);
}

/// Why the device does not take the format as it is, and what would spare the conversion.
Finding reason(const TextureShape& shape, const DeviceProfile& profile, Format chosen,
               bool reorders, std::optional<Format> blocks) {
    const FormatInfo& from = info(shape.format);
    const std::string to = what_becomes(from, chosen);
    const FormatSupport* support = profile.find(shape.format);
    if (support == nullptr)
        return {"format-missing",
                fmt::format("the device has no {}: the texture is {}", from.name, to),
                spared(chosen, blocks)};
    if (!allows(*support, shape))
        return {"format-missing-for-shape",
                fmt::format("the device has {} for surfaces only: the {} is {}", from.name,
                            shape.dimensions() == 1 ? "line" : "volume", to),
                spared(chosen, blocks)};
    if (!sides_fit(*support, shape, profile))
        return {
            "partial-blocks-decoded",
            fmt::format("{} x {} texels are not a multiple of {}'s blocks, as the device wants: "
                        "the texture is {}",
                        shape.width, shape.height, from.name, to),
            from.block_width == from.block_height
                ? fmt::format("make its sides multiples of {}", from.block_width)
                : fmt::format("make its sides multiples of {} and {}", from.block_width,
                              from.block_height)};
    if (reorders)
        return {
            "swizzle-missing",
            fmt::format("the device cannot reorder channels when sampling: the texture is {}, with "
                        "its channels in their places",
                        to),
            fmt::format("bake it as {}, or reorder the channels in the shader", info(chosen).name),
            FindingLevel::hint};
    return {"converted-as-asked", fmt::format("the texture is {}, as asked", to),
            spared(chosen, std::nullopt), FindingLevel::hint};
}

/// The format nearest to `wanted` that the device has.
std::optional<Format> nearest(Format wanted, const TextureShape& shape,
                              const DeviceProfile& profile, std::uint32_t min_channels) {
    const auto does = [&](Format format) {
        return is_usable(format, shape, profile) && info(format).channel_count >= min_channels;
    };
    if (does(wanted))
        return wanted;
    const Format texels = decoded_format(wanted).value_or(wanted);
    return does(texels) ? texels : substitute(info(texels), shape, profile, min_channels);
}

/// How blocks are encoded on the way. The vector that a format of more than two channels is weighed
/// by as a normal has three components.
BlockOptions encoding_on_the_way(const UploadOptions& options, Format from, Format to) {
    const bool is_srgb = info(to).transfer == Transfer::srgb;
    BlockOptions encoding{.role = options.role.value_or(info(to).is_float() ? Role::hdr
                                                        : is_srgb           ? Role::color
                                                                            : Role::data),
                          .effort = options.transcode_effort};
    if (encoding.role == Role::normal && info(from).channel_count == 2 &&
        info(to).channel_count > 2)
        encoding.role = Role::data;
    return encoding;
}

/// Sets the plan's format and where the swizzle is applied.
Status choose_format(UploadPlan& plan, const DeviceProfile& profile, const UploadOptions& options,
                     const Swizzle& swizzle) {
    const TextureShape& shape = plan.shape;
    const FormatInfo& own = info(shape.format);
    const bool reorders = !profile.has_swizzle && !is_implied(swizzle, own);
    const std::uint32_t min_channels = reorders ? 4 : 1;
    const Format wanted = options.format.value_or(shape.format);
    if (info(wanted).is_block() && wanted != shape.format)
        return fail(ErrorKind::usage, "a plan does not compress: bake the texture as " +
                                          std::string(info(wanted).name));
    const bool changes = reorders && (own.is_block() || info(wanted).channel_count < 4);
    const bool is_missing = changes || !is_usable(wanted, shape, profile);
    std::optional<Format> chosen;
    if (is_missing && info(wanted).is_block() && options.missing_blocks == MissingBlocks::transcode)
        chosen = nearest_blocks(shape, profile, min_channels);
    if (chosen)
        plan.encoding = encoding_on_the_way(options, shape.format, *chosen);
    else
        chosen = nearest(changes ? decoded_format(wanted).value_or(wanted) : wanted, shape, profile,
                         min_channels);
    if (!chosen)
        return refuse(fmt::format("the device has neither {} nor a format that holds its values",
                                  info(wanted).name));
    if (*chosen != shape.format || reorders)
        plan.findings.push_back(reason(shape, profile, *chosen, reorders,
                                       nearest_blocks(shape, profile, min_channels)));
    (profile.has_swizzle ? plan.swizzle : plan.swizzle_on_the_way) =
        reorders || profile.has_swizzle ? swizzle : identity_swizzle;
    plan.shape.format = *chosen;
    return {};
}

/// sRGB values in a format that no device decodes, such as 16 bits.
void decode_on_the_way(UploadPlan& plan, Transfer transfer) {
    const FormatInfo& f = info(plan.source_format);
    if (transfer != Transfer::srgb || f.transfer == Transfer::srgb ||
        f.kind != NumericKind::unorm || info(plan.shape.format).is_block())
        return;
    plan.source_transfer = Transfer::srgb;
    plan.findings.push_back(
        {"srgb-decoded-on-upload",
         fmt::format(
             "colours are sRGB values, which no device decodes in {}: they are decoded on the "
             "way",
             f.name),
         "bake the texture in an -srgb format, or of linear light", FindingLevel::hint});
}

/// Lines become surfaces one texel high where the device has no lines.
void choose_sides(UploadPlan& plan, const DeviceProfile& profile) {
    TextureShape& shape = plan.shape;
    if (shape.dimensions() != 1)
        return;
    const bool lacks_levels = !profile.has_1d_levels && shape.levels > 1;
    const bool lacks_layers = !profile.has_1d_arrays && (shape.is_array || shape.layers > 1);
    if (profile.max_1d_side > 0 && !lacks_levels && !lacks_layers)
        return;
    shape.is_1d = false;
    plan.findings.push_back(
        {"no-1d-textures",
         fmt::format("the device has no textures of one side{}: it is stored one texel high",
                     profile.max_1d_side == 0 ? ""
                     : lacks_levels           ? " with mip levels"
                                              : " with layers"),
         "sample it as a 2D texture, with v = 0.5", FindingLevel::hint});
}

Status check_limits(const TextureShape& shape, const DeviceProfile& profile) {
    const bool is_cube = shape.faces == 6;
    const std::uint32_t dimensions = shape.dimensions();
    const std::uint32_t max = is_cube           ? profile.max_cube_side
                              : dimensions == 1 ? profile.max_1d_side
                              : dimensions == 3 ? profile.max_3d_side
                                                : profile.max_2d_side;
    const char* kind = is_cube           ? "cubes"
                       : dimensions == 1 ? "textures of one side"
                       : dimensions == 3 ? "volumes"
                                         : "textures";
    if (max == 0)
        return refuse(fmt::format("the device has no {}", kind));
    if (std::max({shape.width, shape.height, shape.depth}) > max)
        return refuse(fmt::format(
            "{} x {}{} texels exceed the device's {}{}; leave out the top "
            "levels",
            shape.width, shape.height, dimensions == 3 ? fmt::format(" x {}", shape.depth) : "",
            max, is_cube || dimensions != 2 ? fmt::format(" for {}", kind) : ""));
    const bool is_array = shape.is_array || shape.layers > 1;
    if (is_array && is_cube && !profile.has_cube_arrays)
        return refuse("the device has no arrays of cubes; upload each cube by itself");
    if (is_array && std::uint64_t{shape.layers} * shape.faces > profile.max_layers)
        return refuse(fmt::format("{} layers{} exceed the device's {}", shape.layers,
                                  is_cube ? " of six faces" : "", profile.max_layers));
    const bool is_power_of_two = std::has_single_bit(shape.width) &&
                                 std::has_single_bit(shape.height) &&
                                 std::has_single_bit(shape.depth);
    if (profile.needs_power_of_two && shape.levels > 1 && !is_power_of_two)
        return refuse(
            fmt::format("{} x {} texels are not powers of two, which the device wants "
                        "for mip levels; resize them, or leave the levels out",
                        shape.width, shape.height));
    return {};
}

/// Limits that not every device of the kind has.
void check_guarantees(UploadPlan& plan, const DeviceProfile& profile) {
    const TextureShape& shape = plan.shape;
    const std::uint32_t side = std::max({shape.width, shape.height, shape.depth});
    const std::uint32_t guaranteed =
        shape.dimensions() == 3 ? profile.guaranteed_3d_side : profile.guaranteed_2d_side;
    const std::uint32_t layers = shape.layers * shape.faces;
    const bool is_array = shape.is_array || shape.layers > 1;
    const auto warn = [&](std::string what, std::uint32_t limit) {
        plan.findings.push_back(
            {"beyond-guaranteed-limit",
             fmt::format("{} are more than every device of the kind takes, which is {}; nearly all "
                         "take them",
                         what, limit),
             "ask the device, and keep a smaller version for those that refuse",
             FindingLevel::hint});
    };
    if (guaranteed > 0 && side > guaranteed)
        warn(fmt::format("{} texels", side), guaranteed);
    if (is_array && profile.guaranteed_layers > 0 && layers > profile.guaranteed_layers)
        warn(fmt::format("{} layers", layers), profile.guaranteed_layers);
}

Status check_options(const UploadOptions& options, const TextureShape& shape) {
    if (options.levels.count == 0 || options.levels.first >= shape.levels)
        return fail(ErrorKind::usage, fmt::format("levels from {} on are not there: there are {}",
                                                  options.levels.first, shape.levels));
    if (options.layer_count == 0 || options.first_layer >= shape.layers)
        return fail(ErrorKind::usage, fmt::format("layers from {} on are not there: there are {}",
                                                  options.first_layer, shape.layers));
    if (options.transcode_effort < 0 || options.transcode_effort > 10)
        return fail(ErrorKind::usage, fmt::format("the effort is {}; it goes from 0 to 10",
                                                  options.transcode_effort));
    return {};
}

Status add_levels(UploadPlan& plan, const DeviceProfile& profile, const UploadOptions& options) {
    const TextureShape& shape = plan.shape;
    plan.levels.first = options.levels.first;
    plan.levels.count = std::min(options.levels.count, shape.levels - options.levels.first);
    const std::uint32_t layer_count =
        std::min(options.layer_count, shape.layers - options.first_layer);
    RegionLayout layout(plan, profile, options.staging_budget);
    for (std::uint32_t i = 0; i < plan.levels.count; ++i) {
        const std::uint32_t level =
            plan.levels.first + (options.smallest_first ? plan.levels.count - 1 - i : i);
        for (std::uint32_t layer = 0; layer < layer_count; ++layer)
            for (std::uint32_t face = 0; face < shape.faces; ++face)
                YL_CHECK(layout.add({.level = level,
                                     .layer = options.first_layer + layer,
                                     .face = face,
                                     .width = shape.width_at(level),
                                     .height = shape.height_at(level),
                                     .depth = shape.depth_at(level)}));
    }
    layout.finish();
    return {};
}

}  // namespace

Result<UploadPlan> plan_upload(const TextureShape& shape, const DeviceProfile& profile,
                               const UploadOptions& options, const Swizzle& swizzle,
                               Transfer transfer) try {
    YL_CHECK(check_options(options, shape));
    UploadPlan plan;
    plan.api = profile.api_kind;
    plan.shape = shape;
    plan.source_format = shape.format;
    choose_sides(plan, profile);
    YL_CHECK(check_limits(plan.shape, profile));
    check_guarantees(plan, profile);
    YL_CHECK(choose_format(plan, profile, options, swizzle));
    decode_on_the_way(plan, transfer);
    YL_CHECK(add_levels(plan, profile, options));
    return plan;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<UploadPlan> plan_upload(const Texture& texture, const DeviceProfile& profile,
                               const UploadOptions& options) {
    YL_CHECK(check_texture(texture, "texture"));
    return plan_upload(texture.shape(), profile, options, texture.metadata.swizzle,
                       texture.metadata.transfer);
}

Result<UploadPlan> plan_update(const UploadPlan& whole, const TextureBox& box,
                               const DeviceProfile& profile, std::uint64_t staging_budget) try {
    const TextureShape& shape = whole.shape;
    const auto refuse_box = [](std::string message) {
        return fail(ErrorKind::usage, std::move(message));
    };
    if (box.level >= shape.levels || box.layer >= shape.layers || box.face >= shape.faces)
        return refuse_box(fmt::format("the texture has no level {}, layer {}, face {}", box.level,
                                      box.layer, box.face));
    const auto lies_within = [](std::uint32_t at, std::uint32_t size, std::uint32_t side) {
        return size > 0 && at < side && size <= side - at;
    };
    const std::uint32_t width = shape.width_at(box.level), height = shape.height_at(box.level);
    if (!lies_within(box.x, box.width, width) || !lies_within(box.y, box.height, height) ||
        !lies_within(box.z, box.depth, shape.depth_at(box.level)))
        return refuse_box(
            fmt::format("{} x {} x {} texels at {}, {}, {} do not lie within level "
                        "{}, which has {} x {} x {}",
                        box.width, box.height, box.depth, box.x, box.y, box.z, box.level, width,
                        height, shape.depth_at(box.level)));
    const FormatInfo& f = info(shape.format);
    const bool begins_whole = box.x % f.block_width == 0 && box.y % f.block_height == 0;
    const bool ends_whole = (box.width % f.block_width == 0 || box.x + box.width == width) &&
                            (box.height % f.block_height == 0 || box.y + box.height == height);
    if (!begins_whole || !ends_whole)
        return refuse_box(
            fmt::format("{} x {} texels at {}, {} cut blocks of {}: whole ones can "
                        "be changed",
                        box.width, box.height, box.x, box.y, f.name));
    UploadPlan plan;
    plan.api = whole.api;
    plan.shape = shape;
    plan.source_format = whole.source_format;
    plan.source_transfer = whole.source_transfer;
    plan.encoding = whole.encoding;
    plan.swizzle = whole.swizzle;
    plan.swizzle_on_the_way = whole.swizzle_on_the_way;
    plan.levels = {box.level, 1};
    plan.box = box;
    RegionLayout layout(plan, profile, staging_budget);
    YL_CHECK(layout.add({.level = box.level,
                         .layer = box.layer,
                         .face = box.face,
                         .x = box.x,
                         .y = box.y,
                         .z = box.z,
                         .width = box.width,
                         .height = box.height,
                         .depth = box.depth}));
    layout.finish();
    return plan;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
