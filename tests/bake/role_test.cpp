#include <fmt/format.h>

#include <yl/yl.hpp>

#include <cmath>
#include <cstring>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

using Vector = std::array<double, 3>;

/// Directions all over the upper half, as biased or signed floats.
std::vector<Vector> directions() {
    std::vector<Vector> result = {{0, 0, 1}};
    for (int i = 1; i < 256; ++i) {
        const double tilt = 1.2 * i / 256, azimuth = 2.4 * i;
        result.push_back({std::sin(tilt) * std::cos(azimuth), std::sin(tilt) * std::sin(azimuth),
                          std::cos(tilt)});
    }
    return result;
}

Image floats_of(const std::vector<Vector>& vectors, bool biased, double length = 1) {
    Image image = must(Image::create(Format::rgba32_float, 16, 16));
    for (std::size_t i = 0; i < vectors.size(); ++i) {
        std::array<float, 4> texel = {0, 0, 0, 1};
        for (std::size_t c = 0; c < 3; ++c) {
            const double n = vectors[i][c] * length;
            texel[c] = static_cast<float>(biased ? 0.5 + 0.5 * n : n);
        }
        std::memcpy(image.view().row(static_cast<std::uint32_t>(i / 16)).data() + i % 16 * 16,
                    texel.data(), 16);
    }
    return image;
}

/// Normals in a format that holds two or more channels, as its kind of numbers has them.
Image normals_in(Format format) {
    const FormatInfo& f = info(format);
    Image image = must(Image::create(format, 16, 16));
    must(convert(std::as_const(*std::make_unique<Image>(
                                   floats_of(directions(), f.kind == NumericKind::unorm)))
                     .view(),
                 image.view(), {}));
    return image;
}

bool holds_normals(const FormatInfo& f) {
    return !f.is_block() && f.channel_count > 1 && f.transfer == Transfer::linear &&
           f.kind != NumericKind::unsigned_float && f.kind != NumericKind::shared_exponent;
}

/// The greatest angle between the texels of an image and the directions, in degrees.
double max_angle(ConstImageView image) {
    const Image reference = floats_of(directions(), false);
    return *must(measure_difference(reference.view(), image, {.role = Role::normal})).max_angle;
}

/// What rounding to so many bits turns a vector by.
double rounding_angle(const FormatInfo& f) {
    return f.channels[0].bits >= 16 || f.is_float() ? 0.15 : 0.8;
}

Picture picture_of(Image image) {
    Picture picture;
    picture.image = std::move(image);
    picture.transfer = Transfer::linear;
    return picture;
}

}  // namespace

TEST_CASE("normals keep their directions from every format to every other, flat and tilted") {
    for (const FormatInfo& from : all_formats())
        for (const FormatInfo& to : all_formats()) {
            if (!holds_normals(from) || !holds_normals(to))
                continue;
            CAPTURE(from.name);
            CAPTURE(to.name);
            const Baked baked = must(bake(picture_of(normals_in(from.format)),
                                          {.role = Role::normal, .format = to.format}));
            const double bound = rounding_angle(from) + rounding_angle(to);
            CHECK(max_angle(baked.texture.image(0)) <
                  (to.channel_count == 2 || from.channel_count == 2 ? 2.5 : 1) * bound);
            // The other road: a texture in another format.
            Texture texture =
                must(Texture::create({.format = from.format, .width = 16, .height = 16}));
            const Image normals = normals_in(from.format);
            for (std::uint32_t y = 0; y < 16; ++y)
                std::ranges::copy(std::as_const(normals).view().row(y),
                                  texture.image(0).row(y).begin());
            const Texture other = must(texture_in_format(texture, to.format, Role::normal));
            CHECK(max_angle(other.image(0)) <
                  (to.channel_count == 2 || from.channel_count == 2 ? 2.5 : 1) * bound);
        }
}

TEST_CASE("chains of normals are unit vectors in every format") {
    for (const FormatInfo& to : all_formats()) {
        if (!holds_normals(to))
            continue;
        CAPTURE(to.name);
        // One direction everywhere: every level holds it.
        const std::vector<Vector> same(256, {0.6, 0, 0.8});
        const Baked baked = must(
            bake(picture_of(floats_of(same, true)), {.role = Role::normal, .format = to.format}));
        for (std::uint32_t level = 0; level < baked.texture.shape().levels; ++level) {
            const Image floats = must(convert(baked.texture.image(level), Format::rgba32_float,
                                              {.source_transfer = Transfer::linear}));
            float x = 0;
            std::memcpy(&x, floats.view().row(0).data(), 4);
            CHECK((to.kind == NumericKind::unorm ? 2 * x - 1 : x) ==
                  doctest::Approx(0.6).epsilon(0.02));
        }
    }
}

TEST_CASE("normals that are not one long are made so before a component is dropped") {
    for (const double length : {0.7, 1.0, 1.3})
        for (const Format format : {Format::rg8_unorm, Format::rg16_snorm, Format::rgba8_unorm,
                                    Format::bc5_unorm, Format::bc5_snorm}) {
            CAPTURE(length);
            CAPTURE(info(format).name);
            Image bytes = must(Image::create(Format::rgba16_unorm, 16, 16));
            // Shortened ones fit; longer ones are cut off at 1.
            std::vector<Vector> gentle = directions();
            if (length > 1)
                gentle.assign(256, {0.3, 0.4, 0.86});
            must(convert(support::view_of(floats_of(gentle, true, length)), bytes.view(), {}));
            const Baked baked = must(bake(picture_of(std::move(bytes)),
                                          {.role = Role::normal, .format = format, .levels = 1}));
            CHECK(*baked.mean_normal_length ==
                  doctest::Approx(length > 1 ? 1.193 : length).epsilon(0.02));
            if (length > 1)
                continue;
            if (!info(format).is_block()) {
                CHECK(max_angle(baked.texture.image(0)) < 2);
                continue;
            }
            // Blocks of wild directions lose much; no more of short ones than of others.
            const Baked units = must(bake(picture_of(normals_in(Format::rgba16_unorm)),
                                          {.role = Role::normal, .format = format, .levels = 1}));
            const Image reference = floats_of(directions(), false);
            const auto mean_angle = [&](const Texture& texture) {
                return *must(measure_difference(reference.view(), texture.image(0),
                                                {.role = Role::normal}))
                            .mean_angle;
            };
            CHECK(mean_angle(baked.texture) ==
                  doctest::Approx(mean_angle(units.texture)).epsilon(0.02));
        }
}

TEST_CASE("a texture of short normals loses a component only after it is made one long") {
    Texture texture =
        must(Texture::create({.format = Format::rgba16_unorm, .width = 16, .height = 16}));
    const std::vector<Vector> same(256, {0.6, 0, 0.8});
    must(convert(support::view_of(floats_of(same, true, 0.5)), texture.image(0), {}));
    for (const Format format : {Format::bc5_unorm, Format::bc5_snorm, Format::rg16_unorm}) {
        CAPTURE(info(format).name);
        const Texture pairs = must(texture_in_format(texture, format, Role::normal));
        CHECK(must(measure_difference(std::as_const(texture).image(0), pairs.image(0),
                                      {.role = Role::normal}))
                  .max_angle.value() < 1);
    }
}

TEST_CASE("unit normals of eight bits keep their bytes") {
    const Picture picture = picture_of(normals_in(Format::rgba8_unorm));
    const Baked baked = must(bake(picture, {.role = Role::normal}));
    CHECK(support::equal_pixels(baked.texture.image(0), picture.image.view()));
    CHECK(*baked.mean_normal_length == doctest::Approx(1).epsilon(0.01));
}

TEST_CASE("a level that is given has just the size of the level, both ways") {
    const auto picture_of = [](std::uint32_t width, std::uint32_t height) {
        Picture made;
        made.image = must(Image::create(Format::rgba8_srgb, width, height));
        for (std::uint32_t y = 0; y < height; ++y)
            std::ranges::fill(made.image.view().row(y), std::byte{77});
        return made;
    };
    const Picture picture = picture_of(24, 12);
    for (const auto& [width, height] :
         {std::pair{12U, 6U}, std::pair{11U, 6U}, std::pair{12U, 7U}, std::pair{6U, 12U}}) {
        const auto level = std::make_shared<const Picture>(picture_of(width, height));
        const auto baked = bake(picture, {.role = Role::color, .given = {{1, level}}});
        CHECK(baked.has_value() == (width == 12 && height == 6));
        if (!baked)
            CHECK(contains(baked.error().message, "at this level the texture is 12 x 6"));
    }
    const auto texel = std::make_shared<const Picture>(picture_of(1, 1));
    CHECK(bake(picture, {.role = Role::color, .given = {{4, texel}}}).has_value());
    for (const std::uint32_t beside : {0U, 5U}) {
        const Error error =
            must_fail(bake(picture, {.role = Role::color, .given = {{beside, texel}}}));
        CHECK(contains(error.message, "the chain has levels 0 to 4"));
    }
}

TEST_CASE("the kernel follows the role, unless one is given") {
    CHECK(default_kernel(Role::color).kind == Kernel::Kind::kaiser);
    CHECK(default_kernel(Role::normal).radius == 3);
    for (const Role role : {Role::mask, Role::data, Role::hdr, Role::height})
        CHECK(default_kernel(role).kind == Kernel::Kind::box);
    Picture picture;
    picture.image = must(Image::create(Format::rgba8_srgb, 64, 64));
    support::Random random(3);
    support::fill_random(picture.image.view(), random);
    const auto level = [&](const BakeOptions& options) {
        return support::bytes_of(support::surface_of(must(bake(picture, options)).texture, 1));
    };
    const Kernel kaiser{.kind = Kernel::Kind::kaiser};
    CHECK(level({}) == level({.mips = {.kernel = kaiser, .limit_ringing = true}}));
    CHECK(level({}) != level({.mips = {.kernel = kaiser}}));
    CHECK(level({.mips = {.kernel = Kernel{}}}) != level({}));
    CHECK(level({.role = Role::data, .format = Format::rgba8_unorm}) ==
          level({.role = Role::data, .format = Format::rgba8_unorm, .mips = {.kernel = Kernel{}}}));
}

TEST_CASE(
    "pictures in floating point are light, and a sun of one texel stays unless it is to be "
    "dimmed") {
    Picture sky;
    sky.image = must(Image::create(Format::rgb32_float, 16, 16));
    for (std::uint32_t y = 0; y < 16; ++y)
        for (std::uint32_t x = 0; x < 48; ++x) {
            const float light = y == 8 && x / 3 == 8 ? 30000.0F : 1.0F;
            std::memcpy(sky.image.view().row(y).data() + x * 4, &light, 4);
        }
    sky.transfer = Transfer::linear;
    CHECK(default_role(sky) == Role::hdr);
    const auto mean = [](const Baked& baked) {
        const std::uint32_t last = baked.texture.shape().levels - 1;
        const Image floats = must(convert(baked.texture.image(last), Format::rgba32_float, {}));
        float value = 0;
        std::memcpy(&value, floats.view().row(0).data(), 4);
        return static_cast<double>(value);
    };
    const Baked kept = must(bake(sky));
    CHECK(kept.role == Role::hdr);
    CHECK(mean(kept) == doctest::Approx((255 + 30000) / 256.0).epsilon(0.01));
    CHECK(kept.findings.empty());
    const Baked dimmed = must(bake(sky, {.mips = {.guard_fireflies = true}}));
    CHECK(mean(dimmed) < 2);
    REQUIRE(dimmed.findings.size() == 1);
    CHECK(contains(dimmed.findings[0].problem, "99 %"));
}

TEST_CASE("pixels that speak against their role are found") {
    const auto problems = [](const Picture& picture, Role role) {
        std::string all;
        for (const Finding& finding : must(bake(picture, {.role = role})).findings)
            all += finding.problem + "\n";
        return all;
    };
    const Picture normals = picture_of(normals_in(Format::rgba8_unorm));
    CHECK(contains(problems(normals, Role::color), "looks like a normal map"));
    CHECK_FALSE(contains(problems(normals, Role::normal), "normals"));
    CHECK(guess_role(normals).role == Role::normal);
    Picture noise;
    noise.image = must(Image::create(Format::rgb8_srgb, 32, 32));
    support::Random random(9);
    support::fill_random(noise.image.view(), random);
    CHECK(contains(problems(noise, Role::normal), "holds no normals"));
    CHECK(problems(noise, Role::color).empty());
    CHECK(guess_role(noise).role == Role::color);
    Picture heights;
    heights.image = must(Image::create(Format::r8_unorm, 32, 32));
    support::fill_random(heights.image.view(), random);
    heights.swizzle = gray_swizzle;
    heights.info.file_channels = 1;
    CHECK(contains(problems(heights, Role::normal), "heights, no normals"));
    CHECK(guess_role(heights).role == Role::mask);
    // A clear sky is blue, and its texels could be directions; as a whole they lean.
    Picture sky;
    sky.image = must(Image::create(Format::rgb8_srgb, 32, 32));
    for (std::uint32_t y = 0; y < 32; ++y)
        for (std::uint32_t x = 0; x < 32; ++x)
            for (std::size_t c = 0; c < 3; ++c)
                sky.image.view().row(y)[x * 3 + c] =
                    std::byte(std::array{120U, 190U, 240U}[c] + (x + y) % 8);
    CHECK(problems(sky, Role::color).empty());
}

TEST_CASE("what a file leaves open or says in vain is a finding") {
    PictureInfo info;
    CHECK(check_picture_info(info, Role::color).empty());  // no file
    info.file_format = "PNG";
    info.leaves_transfer_open = true;
    REQUIRE(check_picture_info(info, Role::color).size() == 1);
    CHECK(check_picture_info(info, Role::color)[0].level == FindingLevel::hint);
    CHECK(check_picture_info(info, Role::data).empty());
    info.unapplied = "the colour profile 'P3'";
    info.remarks = {"the colour profile 'P3' was kept, not applied; colours were taken as sRGB"};
    REQUIRE(check_picture_info(info, Role::color).size() == 1);
    CHECK(check_picture_info(info, Role::color)[0].level == FindingLevel::warning);
}

TEST_CASE("a transfer function that is asked for counts more than the file's") {
    Picture picture;
    picture.image = must(Image::create(Format::rgb8_srgb, 1, 1));
    for (std::byte& byte : picture.image.view().row(0))
        byte = std::byte{128};
    picture.transfer = Transfer::srgb;
    const auto code = [&](const BakeOptions& options) {
        return std::to_integer<int>(
            support::surface_of(must(bake(picture, options)).texture, 0).row(0)[0]);
    };
    CHECK(code({}) == 128);
    CHECK(code({.transfer = Transfer::linear}) == 188);
    CHECK(code({.transfer = Transfer::linear, .format = Format::rgba8_unorm}) == 128);
    CHECK(code({.role = Role::data}) == 128);
    CHECK(code({.role = Role::data, .transfer = Transfer::srgb}) == 55);
    Picture light = picture_of(floats_of(directions(), false));
    CHECK(must_fail(bake(light, {.transfer = Transfer::srgb})).kind == ErrorKind::usage);
}

TEST_CASE("roughness is widened in the channel that holds it, also in gray") {
    auto normals = std::make_shared<Picture>(picture_of(normals_in(Format::rgba8_unorm)));
    const auto level_1 = [&](Format stored, const Swizzle& swizzle, bool widened) {
        Picture rough;
        rough.image = must(Image::create(stored, 16, 16));
        for (std::uint32_t y = 0; y < 16; ++y)
            for (std::byte& byte : rough.image.view().row(y))
                byte = std::byte{64};
        rough.swizzle = swizzle;
        rough.transfer = Transfer::linear;
        const Baked baked = must(bake(rough, {.role = Role::data,
                                              .normals = widened ? normals : nullptr,
                                              .roughness_channel = Channel::green}));
        return support::bytes_of(baked.texture.image(1));
    };
    CHECK(level_1(Format::r8_unorm, gray_swizzle, true)[0] >
          level_1(Format::r8_unorm, gray_swizzle, false)[0]);
    Picture packed;
    packed.image = must(Image::create(Format::rgb8_unorm, 16, 16));
    for (std::uint32_t y = 0; y < 16; ++y)
        for (std::size_t i = 0; i < 48; ++i)
            packed.image.view().row(y)[i] = std::byte(10 + 50 * (i % 3));
    packed.transfer = Transfer::linear;
    const auto texel = support::bytes_of(support::surface_of(
        must(bake(packed,
                  {.role = Role::data, .normals = normals, .roughness_channel = Channel::green}))
            .texture,
        1));
    CHECK(std::to_integer<int>(texel[0]) == 10);
    CHECK(std::to_integer<int>(texel[1]) > 60);
    CHECK(std::to_integer<int>(texel[2]) == 110);
}

TEST_CASE("a picture is converted by what it is: gray, depth, one channel") {
    Picture gray;
    gray.image = must(Image::create(Format::r8_srgb, 1, 1));
    gray.image.view().row(0)[0] = std::byte{128};
    gray.swizzle = gray_swizzle;
    gray.transfer = Transfer::srgb;
    const Picture color = must(convert(gray, Format::rgba8_srgb));
    CHECK(support::bytes_of(color.image.view()) == support::bytes_of({128, 128, 128, 255}));
    CHECK(color.swizzle == identity_swizzle);
    Picture deep;
    deep.image = must(Image::create(Format::rgb16_unorm, 1, 1));
    for (std::size_t i = 0; i < 6; ++i)
        deep.image.view().row(0)[i] = std::byte(i % 2 == 0 ? 0 : 128);
    deep.transfer = Transfer::srgb;
    const Picture light = must(convert(deep, Format::rgba16_unorm));
    CHECK(light.transfer == Transfer::linear);
    std::uint16_t code = 0;
    std::memcpy(&code, light.image.view().row(0).data(), 2);
    CHECK(code == doctest::Approx(65535 * srgb_decode(32768.0 / 65535)).epsilon(0.001));
    Picture green;
    green.image = must(Image::create(Format::rgb8_unorm, 1, 1));
    green.image.view().row(0)[0] = green.image.view().row(0)[2] = std::byte{0};
    green.image.view().row(0)[1] = std::byte{255};
    green.transfer = Transfer::linear;
    const Picture one = must(convert(green, Format::r8_unorm));
    CHECK(std::to_integer<int>(one.image.view().row(0)[0]) == 182);  // 0.7152 of 255
    CHECK(one.swizzle == gray_swizzle);
    // A view knows none of this, and says so.
    CHECK(must_fail(
              convert(green.image.view(), Format::r8_unorm, {.source_transfer = Transfer::linear}))
              .kind == ErrorKind::usage);
    CHECK(contains(must_fail(convert(deep.image.view(), Format::rgba8_srgb, {})).message,
                   "transfer function"));
}

TEST_CASE("textures are baked again: rows, format, levels, volumes and cubes") {
    const Texture source = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 12, .height = 8, .levels = 1}, 4);
    // Nothing asked for: nothing changes.
    const Texture same = must(rebake(source, {})).texture;
    CHECK(same.shape() == source.shape());
    CHECK(support::equal_pixels(same.image(0), source.image(0)));
    const Texture turned = must(rebake(source, {.origin = Origin::bottom})).texture;
    CHECK(turned.metadata.origin == Origin::bottom);
    CHECK(std::ranges::equal(turned.image(0).row(0), source.image(0).row(7)));
    const Texture back = must(rebake(turned, {.origin = Origin::top})).texture;
    CHECK(support::equal_pixels(back.image(0), source.image(0)));
    // A chain of a texture is that of the picture it was made from.
    Picture picture;
    picture.image = must(Image::create(Format::rgba8_srgb, 12, 8));
    for (std::uint32_t y = 0; y < 8; ++y)
        std::ranges::copy(source.image(0).row(y), picture.image.view().row(y).begin());
    const Baked expected = must(bake(picture, {.role = Role::color}));
    const Texture chain =
        must(rebake(source, {.bake = {.role = Role::color}, .new_levels = true})).texture;
    REQUIRE(chain.shape() == expected.texture.shape());
    for (std::uint32_t level = 0; level < chain.shape().levels; ++level)
        CHECK(support::equal_pixels(chain.image(level), expected.texture.image(level)));
    const Texture blocks = must(rebake(source, {.bake = {.compressed = BlockFamily::bc}})).texture;
    CHECK(blocks.shape().format == Format::bc7_srgb);
    // ETC2 picks by role and alpha, and has nothing for light, which is said.
    const auto etc = [&](Role role, Format format, int alpha) {
        Picture one;
        one.image = must(Image::create(format, 8, 8));
        for (std::uint32_t y = 0; y < 8; ++y)
            for (std::size_t i = 0; i < one.image.view().row(y).size(); ++i)
                one.image.view().row(y)[i] =
                    static_cast<std::byte>(i % 4 == 3 ? alpha * int(i / 4) : int(i * y) % 60);
        return must(bake(one, {.role = role, .compressed = BlockFamily::etc2}));
    };
    CHECK(etc(Role::color, Format::rgb8_srgb, 0).texture.shape().format == Format::etc2_rgb8_srgb);
    CHECK(etc(Role::color, Format::rgba8_srgb, 9).texture.shape().format ==
          Format::etc2_rgba8_srgb);
    CHECK(etc(Role::height, Format::r16_unorm, 0).texture.shape().format == Format::eac_r11_unorm);
    CHECK(etc(Role::normal, Format::rgb8_unorm, 0).texture.shape().format ==
          Format::eac_rg11_unorm);
    const Baked light = etc(Role::hdr, Format::rgba16_float, 0);
    CHECK(light.texture.shape().format == Format::rgba16_float);
    CHECK(std::ranges::any_of(light.findings, [](const Finding& finding) {
        return finding.code == "no-blocks-for-role";
    }));
    const Texture volume = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 8, .height = 8, .depth = 4}, 6);
    CHECK(must(rebake(volume, {.bake = {.role = Role::data}, .new_levels = true}))
              .texture.shape()
              .levels == 4);
    // The longest side says how many levels there are, whichever it is.
    for (const TextureShape& longest :
         {TextureShape{.format = Format::rgba8_unorm, .width = 8, .height = 2, .depth = 2},
          TextureShape{.format = Format::rgba8_unorm, .width = 2, .height = 8, .depth = 2},
          TextureShape{.format = Format::rgba8_unorm, .width = 2, .height = 2, .depth = 8}})
        CHECK(must(rebake(support::random_texture(longest, 6),
                          {.bake = {.role = Role::data}, .new_levels = true}))
                  .texture.shape()
                  .levels == 4);
    const Texture cube = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 8, .height = 8, .faces = 6}, 6);
    CHECK(must(rebake(cube, {.new_levels = true})).texture.shape().levels == 4);
    CHECK(must_fail(rebake(cube, {.bake = {.max_side = 4}, .new_levels = true})).kind ==
          ErrorKind::usage);
}

TEST_CASE("old DDS files are sRGB where the role is a colour, and that is said") {
    const Texture texture =
        support::random_texture({.format = Format::bc3_unorm, .width = 8, .height = 8}, 2);
    const auto bytes = must(texture_file_bytes("dds", texture, {.legacy_header = true}));
    const TextureFile plain = must(read_texture(bytes));
    CHECK(plain.texture.shape().format == Format::bc3_unorm);
    const TextureFile color = must(read_texture(bytes, {.role = Role::color}));
    CHECK(color.texture.shape().format == Format::bc3_srgb);
    CHECK(contains(color.info.remarks.at(0), "taken as sRGB"));
    CHECK(std::ranges::equal(color.texture.level(0), plain.texture.level(0)));
    CHECK(must(read_texture(bytes, {.role = Role::normal})).texture.shape().format ==
          Format::bc3_unorm);
    const TextureFile asked =
        must(read_texture(bytes, {.role = Role::color, .transfer = Transfer::linear}));
    CHECK(asked.texture.shape().format == Format::bc3_unorm);
    CHECK(asked.info.remarks.empty());
    const Texture lines =
        support::random_texture({.format = Format::bc5_unorm, .width = 8, .height = 8}, 2);
    CHECK(must_fail(
              read_texture(must(texture_file_bytes("dds", lines)), {.transfer = Transfer::srgb}))
              .kind == ErrorKind::usage);
}

TEST_CASE("opaque BC1 and BC1 with holes are told apart in DDS") {
    for (const Format format :
         {Format::bc1_unorm, Format::bc1_srgb, Format::bc1a_unorm, Format::bc1a_srgb}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 8, .height = 8}, 2);
        CHECK(must(read_texture(must(texture_file_bytes("dds", texture)))).texture.shape().format ==
              format);
    }
}

TEST_CASE(
    "sRGB values in formats that no device decodes are decoded on the way, and that is said") {
    Texture texture =
        must(Texture::create({.format = Format::rgba16_unorm, .width = 1, .height = 1}));
    for (std::size_t i = 0; i < 8; ++i)
        texture.level(0)[i] = std::byte{i % 2 == 0 ? std::uint8_t{0} : std::uint8_t{128}};
    texture.metadata.transfer = Transfer::srgb;
    const DeviceProfile device = must(find_profile("vulkan-desktop"));
    const UploadPlan plan = must(plan_upload(texture, device));
    CHECK(plan.converts());
    REQUIRE_FALSE(plan.findings.empty());
    CHECK(contains(plan.findings.back().problem, "decoded on the way"));
    const Texture sent = must(converted_for(plan, texture));
    std::uint16_t code = 0;
    std::memcpy(&code, sent.level(0).data(), 2);
    if (sent.shape().format == Format::rgba16_unorm)
        CHECK(code == doctest::Approx(65535 * srgb_decode(0.50003)).epsilon(0.001));
    texture.metadata.transfer = Transfer::linear;
    CHECK_FALSE(must(plan_upload(texture, device)).converts());
}

TEST_CASE("blocks that stick out of a side are pointed out") {
    for (const auto& [width, height] :
         {std::pair{8U, 8U}, std::pair{8U, 6U}, std::pair{6U, 8U}, std::pair{6U, 6U}}) {
        const Baked baked =
            must(bake(picture_of(must(Image::create(Format::rgba8_srgb, width, height))),
                      {.role = Role::color, .format = Format::bc7_srgb}));
        const auto found = std::ranges::find_if(baked.findings, [](const Finding& finding) {
            return finding.code == "partial-blocks";
        });
        CHECK((found == baked.findings.end()) == (width == 8 && height == 8));
        if (found != baked.findings.end())
            CHECK(contains(found->problem, fmt::format("{} x {} texels", width, height)));
    }
}
