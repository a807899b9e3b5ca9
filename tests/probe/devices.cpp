// Plans for every device that is known, samplers in the words of each API, findings, the keeper.
#include <thread>

#include "hash.hpp"

namespace probe {
namespace {

constexpr const char* samplers[] = {"",
                                    "mag=nearest min=nearest mip=none",
                                    "mag=linear min=nearest mip=nearest aniso=8 wrap=mirror",
                                    "wrap=clamp-to-border border=1,0,0,1 bias=1.5",
                                    "wrap=clamp-to-edge,mirror-once,repeat lod=1..3",
                                    "compare=less-or-equal wrap=clamp-to-edge"};

void add(Hash& hash, const yl::UploadPlan& plan) {
    hash.add_all(plan.api, plan.shape.format, plan.shape.width, plan.shape.height, plan.shape.depth,
                 plan.shape.levels, plan.shape.layers, plan.shape.faces, plan.source_format,
                 plan.source_transfer, yl::swizzle_text(plan.swizzle),
                 yl::swizzle_text(plan.swizzle_on_the_way), plan.staging_bytes, plan.max_batch,
                 plan.levels.first, plan.levels.count, plan.findings);
    for (const yl::UploadRegion& r : plan.regions)
        hash.add_all(r.level, r.layer, r.face, r.x, r.y, r.z, r.width, r.height, r.depth, r.offset,
                     r.row_pitch, r.slice_pitch);
    for (const yl::UploadBatch& batch : plan.batches)
        hash.add_all(batch.first_region, batch.region_count, batch.bytes);
}

/// Shapes of every kind.
std::vector<yl::TextureShape> shapes_in(yl::Format format) {
    std::vector<yl::TextureShape> shapes = {
        {.format = format, .width = 40, .height = 24, .levels = 6},
        {.format = format, .width = 20, .height = 12, .levels = 3, .layers = 5, .is_array = true},
        {.format = format, .width = 16, .height = 16, .levels = 5, .faces = 6},
        {.format = format,
         .width = 8,
         .height = 8,
         .levels = 2,
         .layers = 2,
         .faces = 6,
         .is_array = true},
        {.format = format, .width = 12, .height = 20, .depth = 6, .levels = 3},
        {.format = format, .width = 30000, .height = 16, .levels = 1}};
    if (!yl::info(format).is_block())
        shapes.push_back({.format = format, .width = 64, .height = 0, .levels = 7});
    return shapes;
}

void plans() {
    for (const yl::DeviceProfile& profile : yl::built_in_profiles())
        for (const yl::FormatInfo& f : yl::all_formats()) {
            Hash hash;
            const auto add_plan = [&](const yl::Result<yl::UploadPlan>& plan) {
                if (plan)
                    add(hash, *plan);
                else
                    hash.add(plan.error().message);
            };
            for (const yl::TextureShape& shape : shapes_in(f.format)) {
                const auto whole = yl::plan_upload(shape, profile);
                add_plan(whole);
                add_plan(yl::plan_upload(shape, profile,
                                         {.levels = {1, 2},
                                          .first_layer = 1,
                                          .layer_count = 2,
                                          .smallest_first = true,
                                          .staging_budget = 700,
                                          .role = yl::Role::data},
                                         yl::gray_alpha_swizzle, yl::Transfer::srgb));
                if (whole)
                    add_plan(yl::plan_update(
                        *whole, {.level = 0, .x = 4, .y = 8, .width = 8, .height = 4}, profile));
            }
            print(fmt::format("plan for {} of {}", profile.name, f.name), hash.value());
        }
}

void staging() {
    yl::Texture texture = chain_of(yl::Format::rgb8_srgb, 40, 24);
    yl::or_exit(yl::build_mips(texture));
    for (const yl::DeviceProfile& profile : yl::built_in_profiles()) {
        const auto prepared = yl::prepare_upload(texture, profile, {.staging_budget = 2000});
        const std::string name = "staging for " + profile.name;
        if (!is_there(name, prepared))
            continue;
        Hash hash;
        for (const yl::UploadBatch& batch : prepared->plan.batches) {
            std::vector<std::byte> bytes(batch.bytes);
            yl::or_exit(yl::fill_staging(prepared->plan, batch, prepared->source(texture), bytes));
            hash.add(std::span<const std::byte>(bytes));
        }
        print(name, hash.value(), prepared->findings);
    }
}

void sampler_words() {
    for (const char* words : samplers) {
        const yl::Sampler sampler = yl::or_exit(yl::parse_sampler(words));
        const yl::GlSampler gl = yl::gl_sampler(sampler);
        const yl::VulkanSampler vk = yl::vulkan_sampler(sampler);
        const yl::D3d12Sampler d3d = yl::d3d12_sampler(sampler);
        const yl::WebGpuSampler web = yl::webgpu_sampler(sampler);
        const yl::MetalSampler metal = yl::metal_sampler(sampler);
        print("sampler " + text(words), yl::sampler_text(sampler), gl.mag_filter, gl.min_filter,
              gl.wrap, gl.compare_mode, gl.compare_func, vk.mag_filter, vk.min_filter,
              vk.mipmap_mode, vk.address_mode, vk.anisotropy_enable, vk.compare_enable,
              vk.compare_op, vk.min_lod, vk.max_lod, vk.border_color, vk.border_is_preset,
              d3d.filter, d3d.address_mode, d3d.comparison_func, d3d.min_lod, d3d.max_lod,
              d3d.max_anisotropy, web.mag_filter, web.min_filter, web.mipmap_filter,
              web.address_mode, web.compare, web.lod_min_clamp, web.lod_max_clamp,
              web.max_anisotropy, metal.mag_filter, metal.min_filter, metal.mip_filter,
              metal.address_mode, metal.compare_function, metal.border_color);
    }
}

void rules() {
    for (const char* words : samplers) {
        const yl::Sampler sampler = yl::or_exit(yl::parse_sampler(words));
        for (const yl::Format format : {yl::Format::rgba8_srgb, yl::Format::r32_float,
                                        yl::Format::bc5_unorm, yl::Format::rgba16_float}) {
            Hash hash;
            for (const yl::TextureShape& shape : shapes_in(format)) {
                const yl::LevelRange range = yl::LevelRange::of(shape);
                hash.add_all(yl::is_complete(shape, sampler, range),
                             yl::check_sampler(shape, sampler, range));
                for (const yl::DeviceProfile& profile : yl::built_in_profiles())
                    for (const yl::Role role : {yl::Role::color, yl::Role::normal})
                        hash.add(yl::check_on_device(
                            {.shape = shape, .sampler = sampler, .role = role}, profile));
            }
            print(fmt::format("rules of {} for '{}'", yl::info(format).name, words), hash.value());
        }
        Hash fitted;
        for (const yl::DeviceProfile& profile : yl::built_in_profiles()) {
            yl::Findings findings;
            fitted.add_all(yl::sampler_text(yl::fit_sampler(sampler, profile, findings)), findings);
        }
        print(fmt::format("fitted '{}'", words), fitted.value());
    }
}

/// One worker and one texture after the other, so that the order of events is settled.
void keeper(const Places& places) {
    yl::RecordingDevice device(yl::or_exit(yl::find_profile("vulkan-desktop")));
    {
        yl::TextureKeeper keeper(device, {.workers = 1, .staging_budget = 64U << 10});
        for (const char* file : {"moss.png", "label.png", "none.png"}) {
            const auto ticket = keeper.request({.file = places.demo / file});
            keeper.pump_until_settled();
            const yl::KeptTexture status = keeper.status(ticket);
            print("kept " + text(file), yl::name(status.state), status.progress, status.findings,
                  status.dropped_levels, status.device_bytes, status.error.has_value());
        }
        const yl::KeeperTotals totals = keeper.totals();
        print("keeper's totals", totals.tickets, totals.textures, totals.ready, totals.failed,
              totals.device_bytes);
    }
    Hash events;
    for (const yl::DeviceRecord& record : device.records())
        events.add_all(record.kind, record.texture, record.bytes);
    print("keeper's events", events.value(), device.textures_alive(), device.bytes_in_use());
}

/// Textures under a budget that grows and shrinks: which of them lose how many levels.
void keeper_budgets() {
    std::vector<std::vector<std::byte>> files;
    for (std::uint32_t i = 0; i < 5; ++i) {
        yl::Picture picture;
        picture.image = waves_in(yl::Format::rgba8_srgb, 16U << (i % 3), 16U << (i % 2));
        files.push_back(yl::or_exit(yl::encode_picture("bmp", picture)));
    }
    for (const std::uint64_t budget : {0ULL, 1000ULL, 5461ULL, 5462ULL, 9000ULL, 30'000ULL}) {
        yl::RecordingDevice device(yl::or_exit(yl::find_profile("vulkan-desktop")));
        Hash hash;
        yl::TextureKeeper keeper(device, {.workers = 1, .memory_budget = budget});
        std::vector<yl::TextureTicket> tickets;
        const auto settle = [&] {
            keeper.pump_until_settled();
            for (const yl::TextureTicket ticket : tickets) {
                const yl::KeptTexture status = keeper.status(ticket);
                hash.add_all(status.state, status.dropped_levels, status.device_bytes);
            }
            hash.add(keeper.totals().device_bytes);
        };
        for (std::size_t i = 0; i < files.size(); ++i) {
            tickets.push_back(keeper.request({.bytes = yl::SharedBytes(files[i])}));
            settle();
        }
        for (const std::uint64_t other : {2 * budget, budget / 2, std::uint64_t{20'000}}) {
            keeper.set_memory_budget(other);
            settle();
        }
        keeper.release(tickets.back());
        tickets.pop_back();
        settle();
        print(fmt::format("kept within {} bytes", budget), hash.value());
    }
}

void placeholders() {
    Hash hash;
    for (const yl::KeeperState state : {yl::KeeperState::waiting, yl::KeeperState::failed})
        for (const yl::RoleInfo& role : yl::all_roles())
            for (const yl::TextureKind kind :
                 {yl::TextureKind::flat, yl::TextureKind::flat_array, yl::TextureKind::cube,
                  yl::TextureKind::cube_array, yl::TextureKind::volume, yl::TextureKind::line}) {
                const yl::Texture texture =
                    yl::or_exit(yl::placeholder_texture(state, role.role, kind));
                hash.add_all(texture, texture.shape().format, yl::kind_of(texture.shape()),
                             yl::sampler_text(texture.metadata.sampler.value_or(yl::Sampler())));
            }
    print("placeholders", hash.value());
}

}  // namespace

void devices(const Places& places) {
    plans();
    staging();
    sampler_words();
    rules();
    keeper(places);
    keeper_budgets();
    placeholders();
}

}  // namespace probe
