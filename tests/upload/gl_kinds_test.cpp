// Every format in every kind of texture, by every way that OpenGL and OpenGL ES have.
#include "upload/gl_fixture.hpp"
#include "upload/kinds.hpp"

using namespace yl;
using support::must;

namespace {

struct Way {
    const char* name;
    gl::HeadlessOptions context;
    gl::DeviceOptions device;
};

/// OpenGL ES gives the values of three channels, not their bits, and -128 is the same value as
/// -127.
void avoid_second_minus_one(Texture& texture) {
    const FormatInfo& f = info(texture.shape().format);
    if (f.kind != NumericKind::snorm || f.channel_count != 3)
        return;
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        std::ranges::replace(texture.level(level), std::byte{0x80}, std::byte{0x81});
}

void send_everything(const Way& way, bool fixed_storage = true) {
    const auto context = must(gl::HeadlessContext::create(way.context));
    const auto device = must(gl::Device::open(context.loader(), way.device));
    CAPTURE(way.name);
    CAPTURE(device.profile().api);
    std::size_t count = 0;
    for (const FormatInfo& f : all_formats())
        for (const TextureShape& shape : support::shapes_for(device.profile(), f.format)) {
            CAPTURE(support::text_of(shape));
            Texture texture = support::random_texture(shape, static_cast<std::uint32_t>(++count));
            if (way.context.embedded)
                avoid_second_minus_one(texture);
            const auto uploaded = must(
                device.upload(texture, {.staging_budget = 2000}, {.immutable = fixed_storage}));
            CHECK(support::holds(uploaded, uploaded.plan(), texture));
        }
    CHECK(count > 700);
}

}  // namespace

TEST_CASE("OpenGL by direct state access") {
    send_everything({"direct", {}, {}});
}

TEST_CASE("OpenGL by binding") {
    send_everything({"bound", {}, {.direct_state_access = false}});
}

TEST_CASE("OpenGL 3.3 with levels that are given one by one") {
    send_everything({"loose", {.major = 3, .minor = 3}, {.direct_state_access = false}}, false);
}

TEST_CASE("OpenGL through a ring of pixel buffers") {
    send_everything({"streamed", {}, {.streaming = true}});
}

TEST_CASE("OpenGL ES 3.2") {
    send_everything({"ES", {.major = 3, .minor = 2, .embedded = true}, {}});
}

TEST_CASE("OpenGL ES 3.2 through a ring of pixel buffers") {
    send_everything(
        {"ES, streamed", {.major = 3, .minor = 2, .embedded = true}, {.streaming = true}});
}
