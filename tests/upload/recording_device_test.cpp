// The stand-in: what it keeps, what it refuses, and how it fails on request.
#include <cstring>
#include <functional>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "upload/device_texture.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

DeviceProfile profile(const char* name) {
    return must(find_profile(name));
}

bool equal_levels(const Texture& a, const Texture& b) {
    bool equal = a.shape() == b.shape();
    for (std::uint32_t level = 0; equal && level < a.shape().levels; ++level)
        equal = std::ranges::equal(a.level(level), b.level(level));
    return equal;
}

}  // namespace

TEST_CASE("what frames in flight may use stays for as many frames, and goes with the next") {
    for (const std::uint32_t frames : {0U, 1U, 2U, 5U}) {
        DeferredRelease release(frames);
        release.next_frame();
        auto first = std::make_shared<int>(1), second = std::make_shared<int>(2);
        const std::weak_ptr<int> of_first = first, of_second = second;
        release.keep(std::move(first));
        for (std::uint32_t frame = 1; frame <= frames + 2; ++frame) {
            if (frame == 2)
                release.keep(std::move(second));
            CAPTURE(frames);
            CAPTURE(frame);
            CHECK(of_first.expired() == (frames == 0 || frame > frames + 1));
            if (frame >= 2)
                CHECK(of_second.expired() == (frames == 0));
            release.next_frame();
        }
        CHECK(of_first.expired());
        CHECK(of_second.expired());
    }
}

TEST_CASE("ranges of levels end where the texture does") {
    const TextureShape shape{.format = Format::rgba8_srgb, .width = 16, .height = 16, .levels = 5};
    constexpr std::uint32_t all = LevelRange::all;
    struct Case {
        LevelRange range;
        std::uint32_t count;  // 0: refused
    };
    for (const Case& one : {Case{{0, all}, 5},
                            {{0, 5}, 5},
                            {{4, 1}, 1},
                            {{4, all}, 1},
                            {{1, 2}, 2},
                            {{0, 0}, 0},
                            {{2, 0}, 0},
                            {{0, 6}, 0},
                            {{4, 2}, 0},
                            {{5, 1}, 0},
                            {{5, all}, 0},
                            {{9, all}, 0},
                            {{all, 1}, 0},
                            {{1, all - 1}, 0}}) {
        CAPTURE(one.range.first);
        CAPTURE(one.range.count);
        const auto checked = checked_levels(shape, one.range);
        REQUIRE(checked.has_value() == (one.count > 0));
        if (checked)
            CHECK(*checked == LevelRange{one.range.first, one.count});
        else
            CHECK(contains(checked.error().message, "no level"));
    }
}

TEST_CASE("every kind of texture goes to every built-in device and comes back") {
    std::vector<TextureShape> shapes = {
        {.width = 20, .height = 12, .levels = 5},
        {.width = 20, .height = 12, .levels = 2, .layers = 3, .is_array = true},
        {.width = 9, .height = 5, .depth = 4, .levels = 4},
        {.width = 8, .height = 8, .levels = 4, .faces = 6},
        {.width = 8, .height = 8, .levels = 2, .layers = 2, .faces = 6, .is_array = true}};
    for (const DeviceProfile& device_profile : built_in_profiles())
        for (TextureShape shape : shapes)
            for (const Format format : {Format::r8_unorm, Format::rgb8_srgb, Format::bc7_srgb,
                                        Format::bc4_snorm, Format::rgba16_float}) {
                if (shape.layers > 1 && shape.faces == 6 && !device_profile.has_cube_arrays)
                    continue;
                shape.format = format;
                CAPTURE(device_profile.name);
                CAPTURE(info(format).name);
                RecordingDevice device(device_profile);
                const Texture texture = support::random_texture(shape, 7);
                const auto uploaded =
                    must(upload_texture(device, texture, {.staging_budget = 3000}));
                const Texture back = must(uploaded.texture->read_back());
                if (uploaded.plan.converts())
                    CHECK(equal_levels(back, must(converted_for(uploaded.plan, texture))));
                else
                    CHECK(equal_levels(back, texture));
            }
}

TEST_CASE("records tell what happened, and memory is given back") {
    RecordingDevice device(profile("gl33"));
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 4, .height = 4, .levels = 3}, 1);
    {
        const auto uploaded = must(upload_texture(device, texture, {.label = "moss"}));
        CHECK(device.textures_alive() == 1);
        CHECK(device.bytes_in_use() == (16 + 4 + 1) * 4);
    }
    CHECK(device.textures_alive() == 0);
    CHECK(device.bytes_in_use() == 0);
    REQUIRE(device.records().size() == 4);
    CHECK(device.records()[0].kind == DeviceRecord::Kind::reserve);
    CHECK(contains(device.records()[0].text, "moss"));
    CHECK(device.records()[1].kind == DeviceRecord::Kind::write);
    CHECK(device.records()[2].kind == DeviceRecord::Kind::set_level_range);
    CHECK(device.records()[3].kind == DeviceRecord::Kind::release);
    device.forget_records();
    CHECK(device.records().empty());
}

TEST_CASE("an update changes its box and nothing else") {
    RecordingDevice device(profile("d3d12"));
    const Texture texture = support::random_texture(
        {.format = Format::bc1_unorm, .width = 24, .height = 16, .levels = 2}, 2);
    const auto uploaded = must(upload_texture(device, texture));
    const Texture patch =
        support::random_texture({.format = Format::bc1_unorm, .width = 8, .height = 4}, 3);
    const UploadPlan plan = must(
        plan_update(uploaded.plan, {.x = 16, .y = 8, .width = 8, .height = 4}, device.profile()));
    must(uploaded.texture->write(plan, 0, patch));
    const Texture back = must(uploaded.texture->read_back());
    CHECK(std::memcmp(back.image(0).row(2).data() + 4 * 8, patch.image(0).row(0).data(), 16) == 0);
    for (const std::uint32_t row : {0U, 1U, 3U})
        CHECK(std::ranges::equal(back.image(0).row(row), texture.image(0).row(row)));
    CHECK(std::memcmp(back.image(0).row(2).data(), texture.image(0).row(2).data(), 32) == 0);
    CHECK(std::ranges::equal(back.level(1), texture.level(1)));
}

TEST_CASE("slices of volumes are updated one by one") {
    RecordingDevice device(profile("vulkan-desktop"));
    const Texture volume = support::random_texture(
        {.format = Format::rg8_unorm, .width = 5, .height = 4, .depth = 6}, 2);
    const auto uploaded = must(upload_texture(device, volume));
    const Texture patch = support::random_texture(
        {.format = Format::rg8_unorm, .width = 2, .height = 3, .depth = 2}, 3);
    must(uploaded.texture->write(
        must(plan_update(uploaded.plan,
                         {.x = 3, .y = 1, .z = 4, .width = 2, .height = 3, .depth = 2},
                         device.profile())),
        0, patch));
    const Texture back = must(uploaded.texture->read_back());
    const auto texel = [](const Texture& t, std::size_t x, std::size_t y, std::size_t z) {
        const TextureShape& s = t.shape();
        return t.level(0)[2 * (x + s.width * (y + s.height * z))];
    };
    for (std::size_t z = 0; z < 6; ++z)
        for (std::size_t y = 0; y < 4; ++y)
            for (std::size_t x = 0; x < 5; ++x) {
                const bool is_in = x >= 3 && y >= 1 && z >= 4;
                CHECK(texel(back, x, y, z) ==
                      (is_in ? texel(patch, x - 3, y - 1, z - 4) : texel(volume, x, y, z)));
            }
}

TEST_CASE("broken rules are named") {
    RecordingDevice device(profile("d3d12"));
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 8, .height = 8, .levels = 4}, 1);
    const auto prepared = must(prepare_upload(texture, device.profile()));
    const auto target = must(device.reserve(prepared.desc));
    CHECK(contains(must_fail(target->set_level_range({0, 4})).message,
                   "before all of it is written"));
    UploadPlan plan = prepared.plan;
    plan.regions[0].row_pitch = 100;
    CHECK(contains(must_fail(target->write(plan, 0, texture)).message, "row pitch of 100"));
    plan = prepared.plan;
    plan.regions[1].offset += 16;
    CHECK(contains(must_fail(target->write(plan, 0, texture)).message, "not aligned to 512"));
    plan = prepared.plan;
    plan.regions[1].offset = 0;
    CHECK(contains(must_fail(target->write(plan, 0, texture)).message, "share staging memory"));
    plan = prepared.plan;
    plan.regions[0].x = 1;
    CHECK(
        contains(must_fail(target->write(plan, 0, texture)).message, "takes texels from level 0"));
    plan = prepared.plan;
    plan.batches[0].bytes -= 1;
    CHECK(contains(must_fail(target->write(plan, 0, texture)).message, "leaves its staging"));
    CHECK(contains(must_fail(target->write(prepared.plan, 1, texture)).message, "no number 1"));
    const Texture other = support::random_texture(
        {.format = Format::r8_unorm, .width = 8, .height = 8, .levels = 4}, 1);
    CHECK(contains(must_fail(target->write(prepared.plan, 0, other)).message, "r8-unorm"));
    must(target->write(prepared.plan, 0, texture));
    must(target->set_level_range({1, 3}));
    CHECK(target->level_range().first == 1);
    CHECK(contains(must_fail(target->set_level_range({0, 5})).message, "has no level 4"));
    // requests that no plan for the device would make
    TextureDesc desc = prepared.desc;
    desc.sampler.max_anisotropy = 64;
    CHECK(contains(must_fail(device.reserve(desc)).message, "does not fit"));
    desc = prepared.desc;
    desc.shape.format = Format::rgb8_unorm;
    CHECK(contains(must_fail(device.reserve(desc)).message, "rgb8-unorm"));
}

TEST_CASE("out of memory, trouble on request, and a lost device: errors, and nothing is kept") {
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 16, .height = 16, .levels = 5}, 1);
    RecordingDevice small(profile("gl33"), 1500);
    const auto first = must(upload_texture(small, texture));
    const Error full = must_fail(upload_texture(small, texture));
    CHECK(full.kind == ErrorKind::limit);
    CHECK(contains(full.message, "136 of 1500"));
    CHECK(small.textures_alive() == 1);

    RecordingDevice device(profile("gl33"));
    int calls = 0;
    device.fail_next([&](const DeviceRecord& record) -> Status {
        if (record.kind == DeviceRecord::Kind::write && ++calls == 2)
            return fail(ErrorKind::limit, "no memory for this one");
        return {};
    });
    const UploadOptions in_steps = {.staging_budget = 400};
    CHECK(must_fail(upload_texture(device, texture, in_steps)).message == "no memory for this one");
    CHECK(device.textures_alive() == 0);
    CHECK(device.bytes_in_use() == 0);
    device.fail_next({});
    const auto whole = must(upload_texture(device, texture, in_steps));
    device.lose();
    CHECK(must_fail(whole.texture->read_back()).kind == ErrorKind::device);
    CHECK(must_fail(upload_texture(device, texture)).kind == ErrorKind::device);
}

TEST_CASE("updates reorder channels on the way where the whole upload did") {
    DeviceProfile plain = profile("vulkan-desktop");
    plain.has_swizzle = false;
    RecordingDevice device(plain);
    Texture gray =
        support::random_texture({.format = Format::r8_unorm, .width = 6, .height = 4}, 5);
    gray.metadata.swizzle = gray_swizzle;
    const auto uploaded = must(upload_texture(device, gray));
    REQUIRE(uploaded.plan.swizzle_on_the_way == gray_swizzle);
    const Texture patch =
        support::random_texture({.format = Format::r8_unorm, .width = 2, .height = 3}, 6);
    const PreparedUpdate update = must(
        prepare_update(uploaded.plan, {.x = 3, .y = 1, .width = 2, .height = 3}, patch, plain));
    must(uploaded.texture->write(update.plan, 0, update.source(patch)));
    const Texture back = must(uploaded.texture->read_back());
    const std::size_t bytes = info(back.shape().format).block_bytes;
    REQUIRE(bytes >= 3);
    for (std::size_t y = 0; y < 4; ++y)
        for (std::size_t x = 0; x < 6; ++x) {
            const bool is_in = x >= 3 && x < 5 && y >= 1;
            const std::byte value =
                is_in ? patch.level(0)[(y - 1) * 2 + x - 3] : gray.level(0)[y * 6 + x];
            for (std::size_t c = 0; c < 3; ++c)
                CHECK(back.level(0)[(y * 6 + x) * bytes + c] == value);
        }
}

TEST_CASE("a region out of place in any direction is refused by the stand-in") {
    const auto refusal = [](const TextureShape& shape, const char* device_name,
                            const std::function<void(UploadRegion&)>& tamper) {
        RecordingDevice device(profile(device_name));
        UploadPlan plan = must(plan_upload(shape, device.profile()));
        tamper(plan.regions[0]);
        TextureShape larger = shape;  // so that the source has what a region leaves the target for
        larger.width *= 4;
        larger.height *= 4;
        larger.depth *= shape.depth > 1 ? 4 : 1;
        larger.levels += 2;
        larger.layers = shape.layers > 1 ? 8 : 1;
        const auto target = must(device.reserve({.shape = plan.shape}));
        const Status status = target->write(plan, 0, support::random_texture(larger, 1));
        return status ? std::string() : status.error().message;
    };
    const TextureShape volume{
        .format = Format::rgba8_unorm, .width = 8, .height = 4, .depth = 2, .levels = 2};
    const TextureShape blocks{.format = Format::bc1_unorm,
                              .width = 16,
                              .height = 8,
                              .levels = 2,
                              .layers = 2,
                              .is_array = true};
    const auto plain = [&](const std::function<void(UploadRegion&)>& tamper) {
        return refusal(volume, "vulkan-desktop", tamper);
    };
    const auto block = [&](const std::function<void(UploadRegion&)>& tamper) {
        return refusal(blocks, "webgpu", tamper);
    };
    CHECK(plain([](UploadRegion&) {}).empty());
    CHECK(block([](UploadRegion&) {}).empty());
    CHECK(contains(plain([](UploadRegion& r) { r.level = 2; }), "level 2"));
    CHECK(contains(block([](UploadRegion& r) { r.layer = 2; }), "layer 2"));
    for (const auto side : {&UploadRegion::width, &UploadRegion::height, &UploadRegion::depth}) {
        CHECK(contains(plain([&](UploadRegion& r) { r.*side += 1; }), "leaves level 0"));
        CHECK(contains(plain([&](UploadRegion& r) { r.*side = 0; }), "is empty"));
    }
    for (const auto place : {&UploadRegion::x, &UploadRegion::y, &UploadRegion::z})
        CHECK(contains(plain([&](UploadRegion& r) { r.*place = 1; }), "leaves level 0"));
    for (const auto side : {&UploadRegion::width, &UploadRegion::height})
        CHECK(contains(block([&](UploadRegion& r) { r.*side -= 1; }), "ends within a block"));
    for (const auto place : {&UploadRegion::x, &UploadRegion::y})
        CHECK(contains(block([&](UploadRegion& r) {
                           r.width = r.height = 4;
                           r.*place = 2;
                       }),
                       "begins within a block"));
    CHECK(contains(block([](UploadRegion& r) { r.offset += 4; }), "is not aligned"));
    CHECK(contains(block([](UploadRegion& r) { r.row_pitch -= 8; }), "row pitch"));
    CHECK(contains(plain([](UploadRegion& r) { r.slice_pitch -= 4; }), "staging memory"));
    CHECK(contains(plain([](UploadRegion& r) { r.offset = 1U << 20U; }), "staging memory"));
}
