// Texture files made row by row are those made of whole pictures, to the byte.
#include <yl/bake_rows.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_tiff.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::TemporaryFolder;

namespace {

/// A picture with some structure in it, so that no encoder has only noise; alpha in one corner.
void write_picture_of(const std::string& path, Format format, std::uint32_t width,
                      std::uint32_t height, bool is_opaque = false) {
    Image image = must(Image::create(Format::rgba8_unorm, width, height));
    support::Random random(width * 31 + height);
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            std::byte* const texel = image.view().row(y).data() + std::size_t{x} * 4;
            texel[0] = std::byte(128 + x * 40 / width + random() % 20);
            texel[1] = std::byte(100 + y * 60 / height + random() % 20);
            texel[2] = std::byte(200 + (x / 7 + y / 5) % 2 * 40);
            texel[3] = std::byte(is_opaque || x + y > 60 ? 255 : 3 * (x + y));
        }
    const Image converted = must(
        convert(support::view_of(image), format,
                {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::luminance}));
    must(write_picture(path, converted.view()));
}

void check_same(const TemporaryFolder& folder, const std::string& picture,
                const BakeOptions& options, const std::string& ending = "ktx2",
                const TextureWriteOptions& writing = {}) {
    const std::string flowed = folder.path("rows." + ending),
                      whole = folder.path("whole." + ending);
    const Baked baked = must(bake_file(picture, options));
    must(write_texture(whole, baked.texture, writing));
    const BakedFile file = must(bake_by_rows(picture, flowed, options, {}, writing));
    CHECK(support::read_bytes(flowed) == support::read_bytes(whole));
    CHECK(file.shape == baked.texture.shape());
    CHECK(file.metadata.transfer == baked.texture.metadata.transfer);
    CHECK(file.metadata.alpha == baked.texture.metadata.alpha);
    CHECK(file.metadata.swizzle == baked.texture.metadata.swizzle);
    CHECK(file.metadata.sampler == baked.texture.metadata.sampler);
    CHECK(file.role == baked.role);
    CHECK(file.is_opaque == baked.is_opaque);
    CHECK(file.file_bytes == support::read_bytes(whole).size());
    CHECK(file.mean_normal_length.has_value() == baked.mean_normal_length.has_value());
    if (baked.mean_normal_length)
        CHECK(*file.mean_normal_length == doctest::Approx(*baked.mean_normal_length).epsilon(1e-9));
    REQUIRE(file.findings.size() == baked.findings.size());
    for (std::size_t i = 0; i < file.findings.size(); ++i)
        CHECK(file.findings[i].problem == baked.findings[i].problem);
}

}  // namespace

TEST_CASE("sizes of all kinds, more than a strip of rows") {
    const TemporaryFolder folder;
    const std::string picture = folder.path("p.png");
    for (const std::array<std::uint32_t, 2>& size :
         std::initializer_list<std::array<std::uint32_t, 2>>{{1, 1},
                                                             {1, 700},
                                                             {700, 1},
                                                             {64, 1024},
                                                             {37, 777},
                                                             {256, 256},
                                                             {255, 513},
                                                             {1024, 40}}) {
        CAPTURE(size[0]);
        CAPTURE(size[1]);
        write_picture_of(picture, Format::rgba8_unorm, size[0], size[1]);
        check_same(folder, picture, {});
        check_same(folder, picture, {.compressed = BlockFamily::bc, .blocks = {.effort = 1}});
        check_same(folder, picture, {.mips = {.kernel = Kernel{}}});
    }
}

TEST_CASE("pictures whose second level is large, with few levels and with all") {
    const TemporaryFolder folder;
    const std::string picture = folder.path("p.pgm");
    Image image = must(Image::create(Format::r8_unorm, 4100, 1100));
    for (std::uint32_t y = 0; y < image.height(); ++y)
        for (std::uint32_t x = 0; x < image.width(); ++x)
            image.view().row(y)[x] = static_cast<std::byte>((x * y / 64 + x) & 0xFFU);
    must(write_picture(picture, std::as_const(image).view()));
    for (const std::optional<std::uint32_t> levels : {std::optional(1U), {2U}, {3U}, {}})
        check_same(folder, picture, {.role = Role::mask, .levels = levels});
}

TEST_CASE("every kind of stored pixel, in every role that suits it") {
    const TemporaryFolder folder;
    struct Kind {
        const char* ending;
        Format format;
    };
    for (const Kind& kind : {Kind{"png", Format::r8_unorm}, Kind{"png", Format::rg8_unorm},
                             Kind{"png", Format::rgb8_unorm}, Kind{"png", Format::rgba8_unorm},
                             Kind{"png", Format::r16_unorm}, Kind{"png", Format::rgba16_unorm},
                             Kind{"tif", Format::rgb16_unorm}, Kind{"tif", Format::rgba8_unorm},
                             Kind{"tif", Format::rgb32_float}, Kind{"exr", Format::rgba16_float},
                             Kind{"bmp", Format::rgb8_unorm}}) {
        const std::string picture = folder.path(std::string("p.") + kind.ending);
        write_picture_of(picture, kind.format, 96, 330);
        const bool is_float = info(kind.format).is_float();
        for (const Role role :
             {Role::color, Role::normal, Role::mask, Role::data, Role::height, Role::hdr}) {
            if ((is_float && role == Role::normal) || (!is_float && role == Role::hdr))
                continue;
            CAPTURE(kind.ending);
            CAPTURE(info(kind.format).name);
            CAPTURE(info(role).name);
            check_same(folder, picture, {.role = role});
            check_same(folder, picture,
                       {.role = role, .compressed = BlockFamily::bc, .blocks = {.effort = 1}});
        }
    }
}

TEST_CASE("formats, encoders' choices and containers") {
    const TemporaryFolder folder;
    const std::string picture = folder.path("p.png");
    write_picture_of(picture, Format::rgba8_unorm, 132, 402);
    for (const Format format :
         {Format::bc1_srgb,        Format::bc1a_srgb,       Format::bc3_srgb,
          Format::bc4_unorm,       Format::bc5_unorm,       Format::bc7_srgb,
          Format::etc2_rgb8_srgb,  Format::eac_rg11_unorm,  Format::astc_4x4_srgb,
          Format::astc_5x5_srgb,   Format::astc_6x6_unorm,  Format::astc_10x8_srgb,
          Format::astc_12x12_srgb, Format::astc_6x6_sfloat, Format::rgba16_unorm,
          Format::rgba16_float,    Format::rgb10a2_unorm,   Format::r8_unorm,
          Format::rg8_unorm,       Format::rgba32_float}) {
        CAPTURE(info(format).name);
        check_same(folder, picture, {.format = format, .blocks = {.effort = 1}});
        if (info(format).dxgi != 0)
            check_same(folder, picture, {.format = format, .blocks = {.effort = 1}}, "dds");
    }
    check_same(folder, picture,
               {.format = Format::bc7_srgb, .blocks = {.effort = 1, .rate_distortion = 20}});
    check_same(folder, picture, {.format = Format::bc1_srgb, .blocks = {.rate_distortion = 5}});
    check_same(folder, picture,
               {.format = Format::astc_6x6_srgb, .blocks = {.effort = 1, .rate_distortion = 5}});
    check_same(folder, picture, {}, "dds");
    check_same(folder, picture, {.format = Format::rgba8_unorm}, "dds", {.legacy_header = true});
    check_same(folder, picture, {}, "ktx2", {.writer = "someone"});
}

TEST_CASE("what options change") {
    const TemporaryFolder folder;
    const std::string picture = folder.path("p.png");
    write_picture_of(picture, Format::rgba8_unorm, 200, 600);
    const Sampler sampler = must(parse_sampler("mag=linear mip=linear wrap=repeat"));
    for (const BakeOptions& options :
         {BakeOptions{.levels = 1}, BakeOptions{.levels = 3},
          BakeOptions{.levels = 4, .first_level = 2}, BakeOptions{.first_level = 5},
          BakeOptions{.sampler = sampler}, BakeOptions{.plain_chain = true},
          BakeOptions{.alpha = AlphaMode::premultiplied}, BakeOptions{.alpha = AlphaMode::data},
          BakeOptions{.transfer = Transfer::linear}, BakeOptions{.mips = {.dither = true}},
          BakeOptions{.role = Role::normal, .mips = {.dither = true}},
          BakeOptions{.mips = {.reduction = Reduction::maximum}},
          BakeOptions{.mips = {.kernel = Kernel{.kind = Kernel::Kind::lanczos, .radius = 3}}},
          BakeOptions{.mips = {.edges = {Edge::repeat, Edge::mirror}}},
          BakeOptions{.mips = {.kernel = Kernel{}, .edges = {Edge::repeat, Edge::repeat}}}})
        check_same(folder, picture, options);
}

TEST_CASE("what needs the whole picture is refused by its name, and nothing is written") {
    const TemporaryFolder folder;
    const std::string picture = folder.path("p.png"), texture = folder.path("t.ktx2");
    write_picture_of(picture, Format::rgba8_unorm, 40, 40);
    const auto other = std::make_shared<const Picture>(must(read_picture(picture)));
    const auto refused = [&](const BakeOptions& options, const TextureWriteOptions& writing = {}) {
        const Error error = must_fail(bake_by_rows(picture, texture, options, {}, writing));
        CHECK(error.kind == ErrorKind::usage);
        CHECK_FALSE(error.place.empty());
        CHECK_FALSE(std::filesystem::exists(texture));
        return error.message;
    };
    CHECK(contains(refused({.max_side = 20}), "size"));
    CHECK(contains(refused({.power_of_two = PowerOfTwo::up}), "size"));
    CHECK(contains(refused({.origin = Origin::bottom}), "last row"));
    CHECK(contains(refused({.coverage = 0.5F}), "test"));
    CHECK(contains(refused({.given = {{1, other}}}), "given"));
    CHECK(contains(refused({.role = Role::data, .normals = other}), "normal map"));
    CHECK(contains(refused({.mips = {.from_top = true}}), "top"));
    CHECK(contains(refused({.mips = {.sharpen = 1}}), "sharpened"));
    CHECK(contains(refused({.mips = {.fade = Fade{1, 3}}}), "fade"));
    CHECK(contains(refused({.mips = {.edges = {Edge::clamp, Edge::repeat}}}), "repeat"));
    CHECK(contains(refused({.mips = {.guard_fireflies = true}}), "fireflies"));
    refused({}, {.supercompression = Supercompression::zstd});
    refused({.levels = 50});
    refused({.first_level = 9});
    CHECK(folder.entries() == std::vector<std::string>{"p.png"});
}

TEST_CASE("a damaged picture leaves the old texture as it was") {
    const TemporaryFolder folder;
    const std::string picture = folder.path("p.png"), texture = folder.path("t.ktx2");
    write_picture_of(picture, Format::rgba8_unorm, 90, 700);
    support::write_text(texture, "old");
    auto bytes = support::read_bytes(picture);
    bytes.resize(bytes.size() * 2 / 3);
    support::write_bytes(picture, bytes);
    const Error error = must_fail(bake_by_rows(picture, texture));
    CHECK(error.kind == ErrorKind::malformed);
    CHECK(error.place == picture);
    CHECK(support::read_bytes(texture).size() == 3);
    CHECK(folder.entries() == std::vector<std::string>{"p.png", "t.ktx2"});
    CHECK(must_fail(bake_by_rows(folder.path("no.png"), texture)).kind == ErrorKind::missing);
    CHECK(must_fail(bake_by_rows(picture, folder.path("t.wrong"))).message.size() > 0);
}

TEST_CASE("progress goes through both readings, and can end them") {
    const TemporaryFolder folder;
    const std::string picture = folder.path("p.png"), texture = folder.path("t.ktx2");
    write_picture_of(picture, Format::rgba8_unorm, 90, 900);
    for (const BlockFamily compressed : {BlockFamily::none, BlockFamily::bc}) {
        std::vector<ProgressStep> steps;
        const Progress all([&](const ProgressStep& step) {
            steps.push_back(step);
            return true;
        });
        must(bake_by_rows(picture, texture,
                          {.compressed = compressed, .blocks = {.effort = 0}, .progress = all}));
        CHECK(steps.front().phase == Phase::reading);
        CHECK(steps.back().phase ==
              (compressed == BlockFamily::bc ? Phase::encoding : Phase::levels));
        CHECK(steps.back().share == 1);
        std::filesystem::remove(texture);
        for (std::size_t stop = 0; stop < steps.size(); ++stop) {
            std::size_t count = 0;
            const Progress some([&](const ProgressStep&) { return count++ < stop; });
            const auto cancelled =
                bake_by_rows(picture, texture,
                             {.compressed = compressed, .blocks = {.effort = 0}, .progress = some});
            if (cancelled)  // nobody was asked after the last row
                std::filesystem::remove(texture);
            else
                CHECK(cancelled.error().kind == ErrorKind::cancelled);
            CHECK(folder.entries() == std::vector<std::string>{"p.png"});
        }
    }
}
