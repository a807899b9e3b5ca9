// Blocks that a device lacks become its own blocks, those that lose least.
#include <cmath>
#include <map>
#include <yl/yl.hpp>

#include "keeper_fixture.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

const UploadOptions transcoding{.missing_blocks = MissingBlocks::transcode};

DeviceProfile device_with(std::vector<Format> formats) {
    DeviceProfile profile;
    profile.max_2d_side = profile.max_cube_side = 4096;
    profile.max_layers = 256;
    std::ranges::sort(formats);
    profile.formats.assign(formats.begin(), formats.end());
    return profile;
}

/// All plain formats, and the blocks of some families.
DeviceProfile device_with_families(std::vector<BlockFamily> families) {
    std::vector<Format> formats;
    for (const FormatInfo& f : all_formats())
        if (!f.is_block() || std::ranges::find(families, f.family) != families.end())
            formats.push_back(f.format);
    return device_with(formats);
}

/// Waves, an edge and some grain, different in every channel; opaque, or with holes.
Texture wavy(std::uint32_t width, std::uint32_t height, bool has_holes, std::uint32_t levels = 1) {
    Texture texture = must(Texture::create(
        {.format = Format::rgba16_float, .width = width, .height = height, .levels = levels}));
    std::mt19937 random(3);
    for (std::uint32_t level = 0; level < levels; ++level) {
        const ImageView view = texture.image(level);
        Image wide = must(Image::create(Format::rgba32_float, view.width, view.height));
        for (std::uint32_t y = 0; y < view.height; ++y)
            for (std::uint32_t x = 0; x < view.width; ++x) {
                auto* texel = reinterpret_cast<float*>(wide.view().row(y).data()) + 4 * x;
                for (std::uint32_t c = 0; c < 4; ++c) {
                    const double wave = std::sin(0.11 * x * (c + 1)) * std::cos(0.07 * y + c);
                    const double edge = (x + 2 * y) % 37 < 12 ? 0.15 : 0.0;
                    texel[c] = static_cast<float>(0.45 + 0.3 * wave + edge +
                                                  0.0002 * double(random() % 100));
                }
                texel[3] = has_holes && texel[3] < 0.5F ? 0.0F : 1.0F;
            }
        must(convert(std::as_const(wide).view(), view, {.source_transfer = Transfer::linear}));
    }
    return texture;
}

/// Decibels between the texels of two textures, in the first channels; not of colours in holes.
double decibels(const Texture& a, const Texture& b, std::uint32_t channels) {
    double sum = 0, count = 0;
    for (std::uint32_t level = 0; level < a.shape().levels; ++level) {
        const auto floats = [&](const Texture& texture) {
            return must(convert(texture.image(level), Format::rgba32_float,
                                {.source_transfer = Transfer::linear}));
        };
        const Image first = floats(a), second = floats(b);
        for (std::uint32_t y = 0; y < first.height(); ++y)
            for (std::size_t x = 0; x < first.width(); ++x)
                for (std::size_t c = 0; c < channels; ++c) {
                    const auto value = [&](const Image& image) {
                        return double(
                            reinterpret_cast<const float*>(image.view().row(y).data())[4 * x + c]);
                    };
                    const auto* texel =
                        reinterpret_cast<const float*>(first.view().row(y).data()) + 4 * x;
                    const bool is_seen = c == 3 || texel[3] > 0;
                    sum += is_seen ? std::pow(value(first) - value(second), 2) : 0;
                    ++count;
                }
    }
    return 10 * std::log10(count / std::max(sum, 1e-12));
}

Texture decoded(const Texture& blocks) {
    return must(decode_texture(blocks));
}

bool has_holes_alone(const FormatInfo& f) {
    return f.name.starts_with("bc1a") || f.name.starts_with("etc2-rgb8a1");
}

}  // namespace

TEST_CASE("every block format goes to the blocks of another family, or to texels, and stays near") {
    const std::map<BlockFamily, std::vector<BlockFamily>> others = {
        {BlockFamily::bc, {BlockFamily::etc2, BlockFamily::astc, BlockFamily::astc_hdr}},
        {BlockFamily::etc2, {BlockFamily::bc, BlockFamily::astc}},
        {BlockFamily::astc, {BlockFamily::bc, BlockFamily::etc2}},
        {BlockFamily::astc_hdr, {BlockFamily::bc, BlockFamily::etc2}}};
    int transcoded = 0;
    for (const FormatInfo& f : all_formats()) {
        if (!f.is_block())
            continue;
        CAPTURE(f.name);
        const Texture blocks =
            must(encode_texture(wavy(44, 28, has_holes_alone(f), 2), f.format,
                                {.role = f.is_float() ? Role::hdr : Role::data}));
        const DeviceProfile device = device_with_families(others.at(f.family));
        const UploadPlan plan = must(plan_upload(blocks, device, transcoding));
        const FormatInfo& chosen = info(plan.shape.format);
        CHECK(plan.converts());
        CHECK(chosen.channel_count >= f.channel_count);
        CHECK(chosen.transfer == f.transfer);
        REQUIRE(plan.findings.size() == 1);
        CHECK(contains(plan.findings[0].problem,
                       plan.transcodes() ? "is transcoded to " : "is decompressed to "));
        const Texture converted = must(converted_for(plan, blocks));
        CHECK(converted.shape() == plan.shape);
        if (!plan.transcodes())
            continue;
        ++transcoded;
        CHECK(decibels(decoded(blocks), decoded(converted), f.channel_count) > 30);
        // What else the device has loses more, up to a little.
        const double best = decibels(decoded(blocks), decoded(converted), f.channel_count);
        for (const FormatSupport& support : device.formats) {
            const auto alone = device_with({support.format});
            const auto other = plan_upload(blocks, alone, transcoding);
            if (!info(support.format).is_block() || !other)
                continue;
            CAPTURE(info(support.format).name);
            const Texture its = must(converted_for(*other, blocks));
            CHECK(best > decibels(decoded(blocks), decoded(its), f.channel_count) - 2);
        }
    }
    CHECK(transcoded > 30);
}

TEST_CASE("nothing is transcoded that the device has, or that nobody asked for") {
    const Texture blocks = must(encode_texture(wavy(16, 16, false), Format::bc7_srgb));
    const DeviceProfile phone = must(find_profile("vulkan-mobile"));
    const UploadPlan plain = must(plan_upload(blocks, phone));
    CHECK(plain.shape.format == Format::rgba8_srgb);
    CHECK_FALSE(plain.transcodes());
    const UploadPlan own =
        must(plan_upload(blocks, must(find_profile("vulkan-desktop")), transcoding));
    CHECK(own.shape.format == Format::bc7_srgb);
    CHECK_FALSE(own.converts());
    UploadOptions texels = transcoding;
    texels.format = Format::rgba8_srgb;
    CHECK(must(plan_upload(blocks, phone, texels)).shape.format == Format::rgba8_srgb);
    texels = transcoding;
    texels.transcode_effort = 11;
    CHECK(must_fail(plan_upload(blocks, phone, texels)).kind == ErrorKind::usage);
    const UploadPlan transcoded = must(plan_upload(blocks, phone, transcoding));
    CHECK(transcoded.shape.format == Format::astc_4x4_srgb);
    CHECK(transcoded.staging_bytes == 16 * 16);
}

TEST_CASE("a swizzle that the device lacks is carried out before blocks are encoded") {
    Texture gray = must(encode_texture(wavy(20, 12, false), Format::bc4_unorm));
    gray.metadata.swizzle = gray_swizzle;
    const DeviceProfile web = must(find_profile("webgpu"));
    const UploadPlan plan = must(plan_upload(gray, web, transcoding));
    CHECK(plan.shape.format == Format::bc7_unorm);
    CHECK(plan.swizzle == identity_swizzle);
    const Texture texels = must(decode_texture(must(converted_for(plan, gray))));
    const Texture before = must(decode_texture(gray));
    int most = 0;
    for (std::uint32_t y = 0; y < 12; ++y)
        for (std::size_t x = 0; x < 20; ++x) {
            const int wanted = std::to_integer<int>(before.image(0).row(y)[x]);
            for (std::size_t c = 0; c < 3; ++c)
                most = std::max(
                    most,
                    std::abs(wanted - std::to_integer<int>(texels.image(0).row(y)[4 * x + c])));
            CHECK(texels.image(0).row(y)[4 * x + 3] == std::byte{255});
        }
    CHECK(most <= 6);
}

TEST_CASE("a texture transcoded is uploaded, read back and updated as what it became") {
    RecordingDevice device(must(find_profile("vulkan-mobile")));
    const Texture blocks = must(encode_texture(wavy(32, 24, false, 3), Format::bc3_srgb));
    const PreparedUpload prepared = must(prepare_upload(blocks, device.profile(), transcoding));
    CHECK(prepared.desc.shape.format == Format::astc_4x4_srgb);
    auto uploaded = must(upload_texture(device, blocks, transcoding));
    const Texture back = must(uploaded.texture->read_back());
    for (std::uint32_t level = 0; level < 3; ++level)
        CHECK(std::ranges::equal(back.level(level), prepared.converted.level(level)));

    const Texture part = must(encode_texture(wavy(8, 4, false), Format::bc3_srgb));
    const TextureBox box{.level = 1, .x = 4, .y = 8, .width = 8, .height = 4};
    const PreparedUpdate update = must(prepare_update(uploaded.plan, box, part, device.profile()));
    CHECK(update.converted.shape().format == Format::astc_4x4_srgb);
    must(uploaded.texture->write(update.plan, 0, update.source(part)));
    const Texture after = must(uploaded.texture->read_back());
    const auto row = after.image(1).row(2);  // of blocks
    CHECK(std::ranges::equal(row.subspan(16, 32), update.converted.image(0).row(0)));
}

TEST_CASE("the keeper transcodes what its device lacks, in the memory of blocks") {
    support::Bench bench;
    RecordingDevice phone(must(find_profile("vulkan-mobile")));
    const std::string path = bench.folder.path("wavy.ktx2");
    must(write_texture(path, must(encode_texture(wavy(64, 64, false), Format::bc7_srgb))));
    for (const MissingBlocks missing : {MissingBlocks::decode, MissingBlocks::transcode}) {
        TextureKeeper keeper(phone, {.missing_blocks = missing});
        const TextureTicket ticket = keeper.request({.file = path});
        while (!keeper.totals().is_settled())
            keeper.pump();
        CHECK(keeper.status(ticket).state == KeeperState::ready);
        CHECK(keeper.status(ticket).device_bytes ==
              (missing == MissingBlocks::decode ? 64U * 64 * 4 : 64U * 64));
    }
}
