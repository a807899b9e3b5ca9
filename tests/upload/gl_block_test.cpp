// Every block decoder against the graphics driver's.
#include "upload/gl/functions.hpp"
#include "upload/gl_fixture.hpp"
#include "upload/random_blocks.hpp"

using namespace yl;
using support::GlFixture;
using support::must;

namespace {

support::Differences compare_with_driver(const GlFixture& fixture, Format format,
                                         std::uint32_t seed) {
    const Texture texture = support::random_blocks(format, seed);
    const auto uploaded = must(fixture.device.upload(texture));
    REQUIRE_FALSE(uploaded.plan().converts());
    const gl::Functions& gl = fixture.device.functions();
    const Texture ours = must(decode_texture(texture));
    const FormatInfo& f = info(ours.shape().format);
    std::vector<std::byte> theirs(ours.level(0).size());
    gl.BindTexture(uploaded.target(), uploaded.texture_name());
    gl.PixelStorei(GL_PACK_ALIGNMENT, 1);
    gl.GetTexImage(uploaded.target(), 0, f.gl.format, f.gl.type, theirs.data());
    gl.BindTexture(uploaded.target(), 0);
    must(gl.check("read texels"));
    return support::compare_texels(ours.shape().format, ours.level(0), theirs);
}

void check_format(Format format, int allowed) {
    const GlFixture fixture;
    CAPTURE(info(format).name);
    for (std::uint32_t round = 0; round < support::block_rounds; ++round) {
        CAPTURE(round);
        const support::Differences differences = compare_with_driver(fixture, format, round + 1);
        CHECK(differences.max <= allowed);
        if (allowed == 0)
            CHECK(differences.texels == 0);
    }
}

}  // namespace

// Interpolated colours of BC1 to BC5 may be rounded either way, and the driver's are off by up to
// 1.7 codes from the exact ones; ours are held to those in block/decode_test.cpp.
constexpr int driver_rounding = 2;

TEST_CASE("a million blocks of BC1 decode as the driver decodes them") {
    check_format(Format::bc1_unorm, driver_rounding);
}
TEST_CASE("a million blocks of BC1 with cut-outs decode as the driver decodes them") {
    check_format(Format::bc1a_unorm, driver_rounding);
}
TEST_CASE("a million blocks of BC2 decode as the driver decodes them") {
    check_format(Format::bc2_unorm, driver_rounding);
}
TEST_CASE("a million blocks of BC3 decode as the driver decodes them") {
    check_format(Format::bc3_unorm, driver_rounding);
}
TEST_CASE("a million blocks of BC4 decode as the driver decodes them") {
    check_format(Format::bc4_unorm, driver_rounding);
}
TEST_CASE("a million blocks of signed BC4 decode as the driver decodes them") {
    check_format(Format::bc4_snorm, driver_rounding);
}
TEST_CASE("a million blocks of BC5 decode as the driver decodes them") {
    check_format(Format::bc5_unorm, driver_rounding);
}
TEST_CASE("a million blocks of signed BC5 decode as the driver decodes them") {
    check_format(Format::bc5_snorm, driver_rounding);
}
TEST_CASE("a million blocks of BC6H of every mode decode exactly as the driver's") {
    check_format(Format::bc6h_ufloat, 0);
}
TEST_CASE("a million blocks of signed BC6H of every mode decode exactly as the driver's") {
    check_format(Format::bc6h_sfloat, 0);
}
TEST_CASE("a million blocks of ETC2 of every form decode exactly as the driver's") {
    for (const Format format :
         {Format::etc2_rgb8_unorm, Format::etc2_rgb8a1_unorm, Format::etc2_rgba8_unorm})
        check_format(format, 0);
}
TEST_CASE("a million blocks of EAC decode to the same 11 bits as the driver's") {
    for (const Format format : {Format::eac_r11_unorm, Format::eac_r11_snorm,
                                Format::eac_rg11_unorm, Format::eac_rg11_snorm})
        check_format(format, 0);
}
TEST_CASE("a million blocks of BC7 of every mode decode exactly as the driver's") {
    check_format(Format::bc7_unorm, 0);
}
TEST_CASE("random blocks of ASTC of every footprint decode exactly as the driver's") {
    for (const FormatInfo& f : all_formats())
        if (f.family == BlockFamily::astc)
            check_format(f.format, 0);
}
