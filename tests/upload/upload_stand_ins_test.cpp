// Plans carried out as programs for Direct3D 11 and Metal do, on stand-ins that check the rules.
#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "upload/kinds.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

/// Tries it on every format and kind of texture that a built-in profile knows.
void on_all_kinds(const char* profile_name, const std::function<void(const Texture&)>& attempt) {
    const DeviceProfile profile = must(find_profile(profile_name));
    std::size_t count = 0;
    for (const FormatInfo& f : all_formats())
        for (const TextureShape& shape : support::shapes_for(profile, f.format)) {
            CAPTURE(support::text_of(shape));
            attempt(support::random_texture(shape, static_cast<std::uint32_t>(++count)));
        }
    CHECK(count > 500);
}

/// What a texture is on a device: itself, or converted.
struct Prepared {
    PreparedUpload upload;
    const Texture& source;
    Prepared(const Texture& texture, const char* profile, std::uint64_t budget)
        : upload(must(
              prepare_upload(texture, must(find_profile(profile)), {.staging_budget = budget}))),
          source(upload.source(texture)) {}
};

/// All levels that the device has: Metal's lines have one.
bool arrived(const Texture& contents, const Texture& source) {
    bool equal = contents.shape().format == source.shape().format;
    for (std::uint32_t level = 0; equal && level < contents.shape().levels; ++level)
        equal = std::ranges::equal(contents.level(level), source.level(level));
    return equal;
}

std::vector<Direct3d11Data> initial_data(const UploadPlan& plan, const Texture& source) {
    const TextureShape& shape = plan.shape;
    std::vector<Direct3d11Data> data(std::size_t{shape.levels} * shape.layers * shape.faces);
    for (const UploadRegion& region : plan.regions) {
        Direct3d11Data& one =
            data[direct3d_subresource(shape, region.level, region.layer, region.face)];
        const std::byte* texels = source.image(region.level, region.layer, region.face).data;
        one.memory = {texels, shape.surface_bytes(region.level) * region.depth};
        one.row_pitch = static_cast<std::uint32_t>(region.row_pitch);
        one.depth_pitch = static_cast<std::uint32_t>(region.slice_pitch);
    }
    return data;
}

constexpr std::uint64_t no_budget = std::numeric_limits<std::uint64_t>::max();

Texture plain_texture(std::uint32_t levels = 3) {
    return support::random_texture(
        {.format = Format::rgba8_unorm, .width = 16, .height = 12, .levels = levels}, 5);
}

template <class R>
bool breaks(const R& result, const char* words) {
    const Error error = must_fail(result);
    CHECK(error.kind == ErrorKind::usage);
    CAPTURE(error.message);
    CHECK(contains(error.message, words));
    return error.kind == ErrorKind::usage && contains(error.message, words);
}

}  // namespace

TEST_CASE("Direct3D 11: every format and kind as initial data") {
    on_all_kinds("d3d11", [](const Texture& texture) {
        const Prepared prepared(texture, "d3d11", no_budget);
        const auto made =
            must(Direct3d11StandIn::create(prepared.upload.plan.shape, Direct3d11Usage::immutable,
                                           initial_data(prepared.upload.plan, prepared.source)));
        CHECK(made.is_complete());
        CHECK(arrived(made.contents(), prepared.source));
    });
}

TEST_CASE("Direct3D 11: every format and kind by mapped subresources and by updates") {
    on_all_kinds("d3d11", [](const Texture& texture) {
        const Prepared prepared(texture, "d3d11", no_budget);
        const UploadPlan& plan = prepared.upload.plan;
        auto staging = must(Direct3d11StandIn::create(plan.shape, Direct3d11Usage::staging));
        auto standard = must(Direct3d11StandIn::create(plan.shape));
        const auto data = initial_data(plan, prepared.source);
        for (const UploadRegion& region : plan.regions) {
            const std::uint32_t index =
                direct3d_subresource(plan.shape, region.level, region.layer, region.face);
            CHECK_FALSE(staging.is_complete());
            const Direct3d11Mapped mapped = must(staging.map(index));
            must(fill_mapped(plan, region, prepared.source, mapped.memory, mapped.row_pitch,
                             mapped.depth_pitch));
            must(staging.unmap(index));
            must(standard.update_subresource(index, std::nullopt, data[index]));
        }
        CHECK(staging.is_complete());
        CHECK(arrived(staging.contents(), prepared.source));
        CHECK(standard.is_complete());
        CHECK(arrived(standard.contents(), prepared.source));
    });
}

TEST_CASE("Direct3D 11: the rules, each broken") {
    const Texture texture = plain_texture();
    const Prepared prepared(texture, "d3d11", no_budget);
    const UploadPlan& plan = prepared.upload.plan;
    auto data = initial_data(plan, texture);
    using Usage = Direct3d11Usage;
    CHECK(breaks(Direct3d11StandIn::create({.format = Format::rgb8_unorm, .width = 4, .height = 4}),
                 "cannot be on this device"));
    CHECK(breaks(Direct3d11StandIn::create(plan.shape, Usage::immutable), "without data"));
    CHECK(breaks(Direct3d11StandIn::create(plan.shape, Usage::dynamic), "more than one level"));
    data.pop_back();
    CHECK(breaks(Direct3d11StandIn::create(plan.shape, Usage::standard, data),
                 "2 initial data for 3"));
    data = initial_data(plan, texture);
    data[1].row_pitch = 31;
    CHECK(breaks(Direct3d11StandIn::create(plan.shape, Usage::standard, data),
                 "row pitch of 31 bytes is too short for rows of 32"));
    data = initial_data(plan, texture);
    data[2].memory = data[2].memory.first(47);
    CHECK(
        breaks(Direct3d11StandIn::create(plan.shape, Usage::standard, data), "leaves its memory"));
    data = initial_data(plan, texture);

    auto standard = must(Direct3d11StandIn::create(plan.shape));
    CHECK(breaks(standard.map(0), "dynamic and staging"));
    CHECK(breaks(standard.update_subresource(3, std::nullopt, data[0]), "no subresource 3"));
    CHECK(breaks(standard.update_subresource(0, Direct3d11Box{0, 0, 0, 17, 1, 1}, data[0]),
                 "leaves level 0"));
    for (const Direct3d11Box& empty :
         {Direct3d11Box{4, 0, 0, 4, 1, 1}, Direct3d11Box{4, 0, 0, 3, 1, 1},
          Direct3d11Box{0, 2, 0, 1, 2, 1}, Direct3d11Box{0, 2, 0, 1, 1, 1},
          Direct3d11Box{0, 0, 1, 1, 1, 1}, Direct3d11Box{0, 0, 1, 1, 1, 0}})
        CHECK(breaks(standard.update_subresource(0, empty, data[0]), "empty"));
    CHECK_FALSE(standard.is_complete());
    auto fixed = must(Direct3d11StandIn::create(plan.shape, Usage::immutable, data));
    CHECK(breaks(fixed.update_subresource(0, std::nullopt, data[0]), "immutable"));
    auto staging = must(Direct3d11StandIn::create(plan.shape, Usage::staging));
    must(staging.map(1));
    CHECK(breaks(staging.map(2), "mapped already"));
    CHECK(breaks(staging.update_subresource(1, std::nullopt, data[1]), "is mapped"));
    CHECK(breaks(staging.unmap(0), "not mapped"));
    must(staging.unmap(1));
    CHECK(breaks(staging.map(3), "no subresource 3"));

    const Texture blocks = support::random_texture(
        {.format = Format::bc1_unorm, .width = 8, .height = 8, .levels = 3}, 2);
    auto of_blocks = must(Direct3d11StandIn::create(blocks.shape()));
    const Direct3d11Data one{blocks.level(0), 16, 0};
    must(of_blocks.update_subresource(0, Direct3d11Box{4, 0, 0, 8, 4, 1}, one));
    CHECK(breaks(of_blocks.update_subresource(0, Direct3d11Box{2, 0, 0, 6, 4, 1}, one),
                 "begins within a block"));
    CHECK(breaks(of_blocks.update_subresource(0, Direct3d11Box{0, 0, 0, 4, 6, 1}, one),
                 "ends within a block"));
    // Of a level of 2 x 2, a box holds the whole block.
    CHECK(breaks(of_blocks.update_subresource(2, Direct3d11Box{0, 0, 0, 2, 2, 1}, one),
                 "ends within a block"));
    must(of_blocks.update_subresource(2, Direct3d11Box{0, 0, 0, 4, 4, 1}, one));
}

TEST_CASE("Metal: every format and kind by replaceRegion and by a blit encoder") {
    on_all_kinds("metal", [](const Texture& texture) {
        const Prepared prepared(texture, "metal", 2000);
        const UploadPlan& plan = prepared.upload.plan;
        const bool is_volume = plan.shape.dimensions() == 3;
        auto shared = must(MetalStandIn::create(plan.shape, MetalStorage::shared));
        auto own = must(MetalStandIn::create(plan.shape, MetalStorage::device_private));
        for (const UploadBatch& batch : plan.batches) {
            std::vector<std::byte> buffer(batch.bytes);
            must(fill_staging(plan, batch, prepared.source, buffer));
            for (const UploadRegion& region : plan.regions_of(batch)) {
                const MetalRegion box{region.x,     region.y,      region.z,
                                      region.width, region.height, region.depth};
                const std::uint32_t slice = region.layer * plan.shape.faces + region.face;
                const std::uint64_t image = is_volume ? region.slice_pitch : 0;
                must(shared.replace_region(box, region.level, slice,
                                           std::span(buffer).subspan(region.offset),
                                           region.row_pitch, image));
                must(own.copy_from_buffer(buffer, region.offset, region.row_pitch, image, box,
                                          slice, region.level));
            }
        }
        CHECK(shared.is_complete());
        CHECK(arrived(shared.contents(), prepared.source));
        CHECK(own.is_complete());
        CHECK(arrived(own.contents(), prepared.source));
    });
}

TEST_CASE("Metal: the rules, each broken") {
    const Texture texture = plain_texture();
    auto shared = must(MetalStandIn::create(texture.shape(), MetalStorage::shared));
    auto own = must(MetalStandIn::create(texture.shape(), MetalStorage::device_private));
    const auto bytes = texture.level(0);
    const MetalRegion all{.width = 16, .height = 12};
    CHECK(breaks(MetalStandIn::create({.format = Format::rgb8_unorm, .width = 4, .height = 4},
                                      MetalStorage::shared),
                 "cannot be on this device"));
    CHECK(breaks(
        MetalStandIn::create(
            {.format = Format::r8_unorm, .width = 4, .height = 1, .levels = 2, .is_1d = true},
            MetalStorage::shared),
        ""));
    CHECK(breaks(own.replace_region(all, 0, 0, bytes, 64, 0), "blit encoder"));
    CHECK(breaks(shared.replace_region(all, 0, 0, bytes, 64, 768), "bytesPerImage is 0"));
    CHECK(breaks(shared.replace_region(all, 0, 0, bytes, 66, 0), "no multiple of"));
    CHECK(breaks(shared.replace_region(all, 0, 0, bytes, 60, 0), "too short"));
    CHECK(breaks(shared.replace_region(all, 0, 0, bytes.first(767), 64, 0), "leaves its memory"));
    CHECK(breaks(shared.replace_region(all, 3, 0, bytes, 64, 0), "no level 3"));
    CHECK(breaks(shared.replace_region(all, 0, 1, bytes, 64, 0), "layer 1"));
    CHECK(
        breaks(shared.replace_region({.x = 1, .width = 16}, 0, 0, bytes, 64, 0), "leaves level 0"));
    CHECK(breaks(shared.replace_region({.width = 0}, 0, 0, bytes, 64, 0), "empty"));
    CHECK(breaks(own.copy_from_buffer(bytes, 2, 64, 0, {}, 0, 0), "no multiple of"));
    CHECK(breaks(own.copy_from_buffer(bytes, 768, 64, 0, {}, 0, 0), "leaves its memory"));
    CHECK(breaks(own.copy_from_buffer(bytes, 0, 32768 * 4, 0, {}, 0, 0), "more than 32767"));
    must(own.copy_from_buffer(bytes, 0, 64, 0, all, 0, 0));
    CHECK_FALSE(own.is_complete());
    CHECK(std::ranges::equal(own.contents().level(0), bytes));

    const Texture blocks =
        support::random_texture({.format = Format::bc1_unorm, .width = 10, .height = 6}, 2);
    auto of_blocks = must(MetalStandIn::create(blocks.shape(), MetalStorage::managed));
    must(of_blocks.replace_region({.width = 10, .height = 6}, 0, 0, blocks.level(0), 24, 0));
    CHECK(of_blocks.is_complete());
    CHECK(breaks(of_blocks.replace_region({.width = 6, .height = 4}, 0, 0, blocks.level(0), 24, 0),
                 "ends within a block"));
    CHECK(breaks(
        of_blocks.replace_region({.x = 2, .width = 4, .height = 4}, 0, 0, blocks.level(0), 24, 0),
        "begins within a block"));

    const Texture volume = support::random_texture(
        {.format = Format::r8_unorm, .width = 4, .height = 4, .depth = 4}, 2);
    auto deep = must(MetalStandIn::create(volume.shape(), MetalStorage::shared));
    const MetalRegion cube{.width = 4, .height = 4, .depth = 4};
    CHECK(breaks(deep.replace_region(cube, 0, 0, volume.level(0), 4, 18), "per image"));
    CHECK(breaks(deep.replace_region(cube, 0, 0, volume.level(0), 4, 12), "slice pitch of 12"));
    must(deep.replace_region(cube, 0, 0, volume.level(0), 4, 16));
    CHECK(arrived(deep.contents(), volume));
}

TEST_CASE("Metal's numbers for kinds of textures and swizzles") {
    TextureShape shape{.format = Format::r8_unorm, .width = 4, .height = 4};
    CHECK(metal_texture_type(shape) == 2);
    shape.layers = 2;
    CHECK(metal_texture_type(shape) == 3);
    shape.faces = 6;
    CHECK(metal_texture_type(shape) == 6);
    shape.layers = 1;
    CHECK(metal_texture_type(shape) == 5);
    shape.faces = 1;
    shape.depth = 3;
    CHECK(metal_texture_type(shape) == 7);
    shape.depth = shape.height = 1;
    shape.is_1d = true;
    CHECK(metal_texture_type(shape) == 0);
    shape.is_array = true;
    CHECK(metal_texture_type(shape) == 1);
    CHECK(metal_swizzle(identity_swizzle) == std::array<std::uint32_t, 4>{2, 3, 4, 5});
    CHECK(metal_swizzle(*parse_swizzle("a01r")) == std::array<std::uint32_t, 4>{5, 0, 1, 2});
}
