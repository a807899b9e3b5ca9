// Upload plans: any shape, profile and options give an error or a plan that a strict stand-in
// carries out, and that brings back the same texels.
#include <yl/upload.hpp>

#include "input.hpp"

namespace {

using fuzz::check;

yl::TextureShape shape_of(fuzz::Input& input) {
    const auto kind = input.take<std::uint8_t>();
    const std::uint32_t max_side = kind < 16 ? 70 : 13;  // mostly small ones, which are quick
    yl::TextureShape shape;
    shape.format = input.one_of(yl::all_formats()).format;
    shape.width = input.between(1, max_side);
    shape.height = kind % 7 == 1 ? 1 : input.between(1, max_side);
    shape.depth = kind % 7 == 2 ? input.between(1, 5) : 1;
    shape.layers = kind % 7 == 3 ? input.between(1, 4) : 1;
    shape.is_array = shape.layers > 1 || kind % 7 == 5;
    shape.faces = kind % 7 == 4 ? 6 : 1;
    if (shape.faces == 6)
        shape.height = shape.width;
    const auto full = yl::full_level_count(shape.width, shape.height, shape.depth);
    shape.levels = std::min(input.between(1, 7), full);
    return shape;
}

/// Small numbers most of the time, and now and then any.
std::uint32_t count_of(fuzz::Input& input) {
    const auto kind = input.take<std::uint8_t>();
    return kind < 8 ? input.take<std::uint32_t>() : kind % 16;
}

yl::UploadOptions options_of(fuzz::Input& input) {
    yl::UploadOptions options;
    if (input.take<std::uint8_t>() % 4 == 0)
        options.format = input.one_of(yl::all_formats()).format;
    options.levels.first = input.take<std::uint8_t>() % 4 == 0 ? count_of(input) : 0;
    if (input.take<std::uint8_t>() % 4 == 0)
        options.levels.count = count_of(input);
    options.first_layer = input.take<std::uint8_t>() % 4 == 0 ? count_of(input) : 0;
    if (input.take<std::uint8_t>() % 4 == 0)
        options.layer_count = count_of(input);
    options.smallest_first = input.take<std::uint8_t>() % 2 == 0;
    if (input.take<std::uint8_t>() % 2 == 0)
        options.staging_budget = input.take<std::uint16_t>();
    return options;
}

/// The batches' sums; what a region has to keep to is checked by the stand-in.
void check_sums(const yl::UploadPlan& plan) {
    std::uint64_t bytes = 0, max_batch = 0;
    std::size_t regions = 0;
    for (const yl::UploadBatch& batch : plan.batches) {
        bytes += batch.bytes;
        max_batch = std::max(max_batch, batch.bytes);
        check(batch.first_region == regions);
        regions += batch.region_count;
    }
    check(bytes == plan.staging_bytes && max_batch == plan.max_batch);
    check(regions == plan.regions.size());
}

/// A plan for everything brings every texel.
void check_texels(const yl::UploadPlan& plan, const yl::Texture& stored, const yl::Texture& there) {
    const yl::TextureShape& shape = plan.shape;
    std::uint64_t texels = 0, planned = 0;
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        texels += std::uint64_t{shape.width_at(level)} * shape.height_at(level) *
                  shape.depth_at(level) * shape.layers * shape.faces;
    for (const yl::UploadRegion& r : plan.regions)
        planned += std::uint64_t{std::min(r.width, shape.width_at(r.level) - r.x)} *
                   std::min(r.height, shape.height_at(r.level) - r.y) * r.depth;
    check(planned <= texels);
    if (planned < texels)
        return;
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        check(std::ranges::equal(stored.level(level), there.level(level)));
}

void carry_out(const yl::UploadPlan& plan, const yl::Texture& texture,
               const yl::DeviceProfile& profile) {
    const auto stored = yl::converted_for(plan, texture);
    if (!stored)  // a format that nothing encodes
        return check(!stored.error().message.empty());
    yl::RecordingDevice device(profile);
    const auto there = device.reserve({.shape = plan.shape});
    check(there.has_value());
    std::vector<std::byte> staging(plan.max_batch);
    for (std::size_t batch = 0; batch < plan.batches.size(); ++batch) {
        check(yl::fill_staging(plan, plan.batches[batch], *stored, staging).has_value());
        check((*there)->write(plan, batch, *stored).has_value());
    }
    const auto back = (*there)->read_back();
    check(back.has_value());
    check_texels(plan, *stored, *back);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    fuzz::Input input(data, size);
    const yl::DeviceProfile& profile = input.one_of(yl::built_in_profiles());
    const yl::TextureShape shape = shape_of(input);
    const yl::UploadOptions options = options_of(input);
    const auto plan = yl::plan_upload(shape, profile, options);
    if (!plan) {
        check(!plan.error().message.empty());
        return 0;
    }
    check_sums(*plan);
    auto texture = yl::Texture::create(shape);
    check(texture.has_value());
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        input.spread_over(texture->level(level));
    carry_out(*plan, *texture, profile);
    return 0;
}
