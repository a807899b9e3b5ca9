#include <algorithm>
#include <yl/yl.hpp>

#include "support/pictures.hpp"
#include "upload/gl/functions.hpp"
#include "upload/gl_fixture.hpp"

using namespace yl;
using support::contains;
using support::GlFixture;
using support::must;
using support::must_fail;

TEST_CASE("every format at odd sizes, uploaded and read back, is what was sent") {
    const GlFixture gl;
    for (const FormatInfo& format : all_formats())
        for (const auto& size : {std::pair{1U, 1U}, {1U, 7U}, {5U, 3U}, {255U, 257U}}) {
            const auto width = size.first;
            const auto height = size.second;

            CAPTURE(format.name);
            CAPTURE(width);
            const Texture texture =
                support::random_texture({.format = format.format,
                                         .width = width,
                                         .height = height,
                                         .levels = full_level_count(width, height)},
                                        width);
            const auto uploaded = must(gl.device.upload(texture));
            const Texture back = must(uploaded.read_back());
            const Texture converted = uploaded.plan().converts()
                                          ? must(converted_for(uploaded.plan(), texture))
                                          : Texture{};
            const Texture& sent = uploaded.plan().converts() ? converted : texture;
            REQUIRE(back.shape() == sent.shape());
            for (std::uint32_t level = 0; level < sent.shape().levels; ++level) {
                CAPTURE(level);
                CHECK(std::ranges::equal(back.level(level), sent.level(level)));
            }
            CHECK(uploaded.plan().converts() == !gl.device.profile().supports(format.format));
        }
}

TEST_CASE("the device describes itself") {
    const GlFixture gl;
    const DeviceProfile& profile = gl.device.profile();
    CHECK_FALSE(profile.name.empty());
    CHECK(contains(profile.api, "OpenGL 4."));
    CHECK(profile.max_2d_side >= 4096);
    CHECK(profile.max_anisotropy >= 2);
    CHECK(profile.supports(Format::rgba8_srgb));
}

TEST_CASE("unpack state, bindings and the active unit are left as they were") {
    const GlFixture fixture;
    const gl::Functions& gl = fixture.device.functions();
    GLuint texture = 0;
    gl.GenTextures(1, &texture);
    gl.ActiveTexture(GL_TEXTURE3);
    gl.BindTexture(GL_TEXTURE_2D, texture);
    gl.PixelStorei(GL_UNPACK_ALIGNMENT, 8);
    gl.PixelStorei(GL_UNPACK_ROW_LENGTH, 100);
    gl.PixelStorei(GL_UNPACK_SKIP_ROWS, 2);
    gl.PixelStorei(GL_PACK_ALIGNMENT, 2);
    gl.PixelStorei(GL_PACK_SKIP_PIXELS, 5);
    const Texture sent = support::random_texture(
        {.format = Format::rgb8_unorm, .width = 7, .height = 5, .levels = 3}, 1);
    const auto uploaded = must(fixture.device.upload(sent));
    const Texture back = must(uploaded.read_back());
    CHECK(std::ranges::equal(back.level(0), sent.level(0)));
    uploaded.bind(5);
    CHECK(gl.integer(GL_ACTIVE_TEXTURE) == GL_TEXTURE3);
    CHECK(gl.integer(GL_TEXTURE_BINDING_2D) == static_cast<GLint>(texture));
    CHECK(gl.integer(GL_UNPACK_ALIGNMENT) == 8);
    CHECK(gl.integer(GL_UNPACK_ROW_LENGTH) == 100);
    CHECK(gl.integer(GL_UNPACK_SKIP_ROWS) == 2);
    CHECK(gl.integer(GL_PACK_ALIGNMENT) == 2);
    CHECK(gl.integer(GL_PACK_SKIP_PIXELS) == 5);
    gl.ActiveTexture(GL_TEXTURE5);
    CHECK(gl.integer(GL_TEXTURE_BINDING_2D) == static_cast<GLint>(uploaded.texture_name()));
    CHECK(gl.integer(GL_SAMPLER_BINDING) == static_cast<GLint>(uploaded.sampler_name()));
    gl.DeleteTextures(1, &texture);
    must(gl.check("run this test"));
}

TEST_CASE(
    "anisotropy beyond the device is lowered, and the sampler that a texture carries is used") {
    const GlFixture gl;
    Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 8, .height = 8, .levels = 4}, 1);
    const auto lowered =
        must(gl.device.upload(texture, {.sampler = must(parse_sampler("aniso=4096"))}));
    CHECK(lowered.sampler().max_anisotropy == gl.device.profile().max_anisotropy);
    REQUIRE(lowered.findings().size() == 1);
    CHECK(contains(lowered.findings()[0].problem, "4096"));
    texture.metadata.sampler = must(parse_sampler("mag=nearest wrap=mirror"));
    CHECK(must(gl.device.upload(texture)).sampler() == *texture.metadata.sampler);
}

TEST_CASE("textures go with their objects, and moving keeps them") {
    const GlFixture fixture;
    const Texture texture =
        support::random_texture({.format = Format::r8_unorm, .width = 4, .height = 4}, 1);
    auto first = must(fixture.device.upload(texture));
    const auto name = first.texture_name();
    auto second = std::move(first);
    CHECK(second.texture_name() == name);
    CHECK(std::ranges::equal(support::level_of(must(second.read_back()), 0), texture.level(0)));
}

TEST_CASE("too large for the device is refused before anything is made") {
    const GlFixture gl;
    const Texture texture = must(Texture::create(
        {.format = Format::r8_unorm, .width = 1, .height = gl.device.profile().max_2d_side + 1},
        {.max_side = ~0U}));
    const Error error = must_fail(gl.device.upload(texture));
    CHECK(error.kind == ErrorKind::device);
    CHECK(contains(error.message, std::to_string(gl.device.profile().max_2d_side)));
}

TEST_CASE("a loader that finds nothing gives an error that names what is missing") {
    const Error error = must_fail(gl::Device::open([](const char*) -> void* { return nullptr; }));
    CHECK(error.kind == ErrorKind::device);
    CHECK(contains(error.message, "gl"));
}
