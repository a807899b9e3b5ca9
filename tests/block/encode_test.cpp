// Encoders: quality against searches of everything, exact cases, and the same bytes everywhere.
#include <tbb/task_arena.h>

#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/processors.hpp"

using namespace yl;
using support::must;
using support::must_fail;

namespace {

std::vector<Format> block_formats() {
    std::vector<Format> formats;
    for (const FormatInfo& f : all_formats())
        if (f.is_block())
            formats.push_back(f.format);
    return formats;
}

/// Smooth colours, edges and noise, and a hole in the middle if asked for.
Image scene(std::uint32_t width, std::uint32_t height, bool has_alpha, std::uint32_t seed = 1) {
    support::Random random(seed);
    Image image = must(Image::create(Format::rgba8_unorm, width, height));
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            std::byte* pixel = image.view().row(y).data() + std::size_t{4} * x;
            const bool edge = (x / 11 + y / 7) % 3 == 0;
            for (std::uint32_t c = 0; c < 3; ++c) {
                const double wave = std::sin(x * 0.07 * (c + 1) + y * 0.05 * (3 - c));
                const double light = 110 + 70 * wave + (edge ? 60.0 * (c == 0 ? 1 : -0.6) : 0.0);
                const double noise = static_cast<double>(random() % 9) - 4;
                pixel[c] = static_cast<std::byte>(std::clamp(light + noise, 0.0, 255.0));
            }
            const double away = std::hypot(x - width / 2.0, y - height / 2.0);
            pixel[3] = has_alpha ? static_cast<std::byte>(std::clamp(away * 8 - 120, 0.0, 255.0))
                                 : std::byte{255};
        }
    return image;
}

double psnr(ConstImageView a, ConstImageView b) {
    return must(measure_difference(a, b, {.role = Role::data, .transfer = Transfer::linear})).psnr;
}

double psnr_of(const Image& source, Format format, const BlockOptions& options) {
    const Image blocks = must(encode_blocks(source.view(), format, options));
    const Image texels = must(decode_blocks(blocks.view()));
    if (info(format).channel_count > 2)
        return psnr(source.view(), texels.view());
    const Image part =
        must(convert(source.view(), texels.format(),
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    return psnr(part.view(), texels.view());
}

}  // namespace

TEST_CASE("every block format at every effort is near its source, and nearer with more effort") {
    const Image picture = scene(96, 64, false);
    struct Bound {
        Format format;
        double fast, best;
    };
    for (const Bound& bound : {Bound{Format::bc1_unorm, 30, 30.5},
                               {Format::bc1a_unorm, 30, 30.5},
                               {Format::bc2_unorm, 30, 30.5},
                               {Format::bc3_unorm, 30, 30.5},
                               {Format::bc4_unorm, 40, 41},
                               {Format::bc5_unorm, 40, 41},
                               {Format::bc7_unorm, 32.5, 39},
                               {Format::etc2_rgb8_unorm, 28, 31},
                               {Format::etc2_rgb8a1_unorm, 28, 31},
                               {Format::etc2_rgba8_unorm, 28, 31},
                               {Format::eac_r11_unorm, 40, 42},
                               {Format::eac_rg11_unorm, 40, 42},
                               {Format::astc_4x4_unorm, 30, 38},
                               {Format::astc_5x5_unorm, 26, 33},
                               {Format::astc_6x6_unorm, 24, 30},
                               {Format::astc_8x8_unorm, 21, 26},
                               {Format::astc_12x12_unorm, 18, 21}}) {
        CAPTURE(info(bound.format).name);
        double last = 0;
        for (const int effort : {0, 2, 5, 8, 10}) {
            CAPTURE(effort);
            const double decibels =
                psnr_of(picture, bound.format, {.role = Role::data, .effort = effort});
            CHECK(decibels > (effort == 0 ? bound.fast : effort == 10 ? bound.best : 0.0));
            CHECK(decibels > last - 0.05);
            last = std::max(last, decibels);
        }
    }
}

TEST_CASE("the same bytes on every instruction set, and for any number of threads") {
    for (const Format format : block_formats()) {
        CAPTURE(info(format).name);
        const Image picture = scene(70, 41, true, 3);
        for (const int effort : {0, 5, 8}) {
            std::vector<std::vector<std::byte>> results;
            support::for_each_instruction_set([&](const char*) {
                results.push_back(support::bytes_of(support::view_of(
                    must(encode_blocks(picture.view(), format, {.effort = effort})))));
            });
            for (const int threads : {1, 2, 7}) {
                tbb::task_arena arena(threads);
                arena.execute([&] {
                    results.push_back(support::bytes_of(support::view_of(
                        must(encode_blocks(picture.view(), format, {.effort = effort})))));
                });
            }
            for (const auto& result : results)
                CHECK(result == results.front());
        }
    }
}

TEST_CASE("blocks of one colour are exact in BC7 and as near as BC1 can be") {
    for (std::uint32_t step = 0; step < 64; ++step) {
        Image solid = must(Image::create(Format::rgba8_unorm, 4, 4));
        const std::array<int, 4> color = {static_cast<int>(step * 4), static_cast<int>(255 - step),
                                          static_cast<int>(step * step % 256),
                                          step % 2 == 0 ? 255 : static_cast<int>(step * 3)};
        for (std::uint32_t i = 0; i < 16; ++i)
            for (std::size_t c = 0; c < 4; ++c)
                solid.view().row(i / 4)[i % 4 * 4 + c] = static_cast<std::byte>(color[c]);
        CAPTURE(step);
        const Image bc7 = must(decode_blocks(
            support::view_of(must(encode_blocks(solid.view(), Format::bc7_unorm, {.effort = 0})))));
        CHECK(support::equal_pixels(bc7.view(), solid.view()));
        const Image bc1 = must(
            decode_blocks(support::view_of(must(encode_blocks(solid.view(), Format::bc1_unorm)))));
        for (std::size_t c = 0; c < 3; ++c)
            CHECK(std::abs(std::to_integer<int>(bc1.view().row(0)[c]) - color[c]) <=
                  (c == 1 ? 1 : 2));
    }
}

TEST_CASE("BC4 comes near a search of everything, even in noise") {
    const Image picture = scene(64, 64, false, 9);
    const Image blocks = must(encode_blocks(picture.view(), Format::bc4_unorm));
    double ours = 0, optimum = 0;
    for (std::uint32_t block = 0; block < 48; ++block) {
        std::array<double, 16> values{};
        for (std::uint32_t i = 0; i < 16; ++i)
            values[i] = std::to_integer<int>(
                picture.view().row(block / 16 * 4 + i / 4)[(block % 16 * 4 + i % 4) * 4]);
        const auto error_of = [&](int first, int second) {
            const int parts = first > second ? 7 : 5;
            double sum = 0;
            for (const double value : values) {
                double min =
                    parts == 5 ? std::min(value * value, (value - 255) * (value - 255)) : 1e9;
                for (int i = 0; i <= parts; ++i) {
                    const double shown = (first * (parts - i) + second * i) / double(parts);
                    min = std::min(min, (value - shown) * (value - shown));
                }
                sum += min;
            }
            return sum;
        };
        double min = 1e9;
        const auto [low, high] = std::minmax_element(values.begin(), values.end());
        for (int a = 0; a < 256; ++a)
            for (int b = 0; b < 256; ++b)
                // Ends far from all values are never the best ones.
                if (std::abs(std::min(a, b) - *low) < 48 && std::abs(std::max(a, b) - *high) < 48)
                    min = std::min(min, error_of(a, b));
        optimum += min;
        const std::byte* bytes = blocks.view().row(block / 16).data() + block % 16 * 8;
        ours += error_of(std::to_integer<int>(bytes[0]), std::to_integer<int>(bytes[1]));
    }
    CHECK(10 * std::log10(ours / optimum) < 0.2);
}

TEST_CASE("edges within a block take nothing from beyond") {
    for (const Format format : block_formats()) {
        CAPTURE(info(format).name);
        const std::uint32_t width = 4U * info(format).block_width,
                            height = 3U * info(format).block_height;
        const Image whole = scene(width, height, false, 5);
        ConstImageView part = whole.view();
        part.width = width - 3;
        part.height = height - 3;
        // The same, with the last texels repeated by hand.
        Image padded = must(Image::create(Format::rgba8_unorm, width, height));
        for (std::uint32_t y = 0; y < height; ++y)
            for (std::uint32_t x = 0; x < width; ++x)
                std::copy_n(whole.view().row(std::min(y, part.height - 1)).data() +
                                std::size_t{4} * std::min(x, part.width - 1),
                            4, padded.view().row(y).data() + std::size_t{4} * x);
        CHECK(support::bytes_of(support::view_of(must(encode_blocks(part, format)))) ==
              support::bytes_of(support::view_of(must(encode_blocks(padded.view(), format)))));
    }
}

TEST_CASE("cut-outs of BC1 fall where alpha is below a half, and opaque texels stay opaque") {
    const Image picture = scene(64, 64, true);
    const Image cut = must(
        decode_blocks(support::view_of(must(encode_blocks(picture.view(), Format::bc1a_unorm)))));
    const Image opaque = scene(64, 64, false);
    const Image bc7 = must(
        decode_blocks(support::view_of(must(encode_blocks(opaque.view(), Format::bc7_unorm)))));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::size_t x = 0; x < 64; ++x) {
            const int alpha = std::to_integer<int>(picture.view().row(y)[x * 4 + 3]);
            CHECK(std::to_integer<int>(cut.view().row(y)[x * 4 + 3]) == (alpha < 128 ? 0 : 255));
            CHECK(std::to_integer<int>(bc7.view().row(y)[x * 4 + 3]) == 255);
        }
}

TEST_CASE("colours that nobody sees do not count in the role color") {
    Image picture = scene(64, 64, true);
    // Noise where nothing is seen.
    support::Random random(4);
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::size_t x = 0; x < 64; ++x)
            if (picture.view().row(y)[x * 4 + 3] == std::byte{0})
                for (std::size_t c = 0; c < 3; ++c)
                    picture.view().row(y)[x * 4 + c] = static_cast<std::byte>(random() & 255U);
    const auto seen_error = [&](Format format, Role role) {
        const Image texels = must(decode_blocks(
            support::view_of(must(encode_blocks(picture.view(), format, {.role = role})))));
        double sum = 0;
        for (std::uint32_t y = 0; y < 64; ++y)
            for (std::size_t x = 0; x < 64; ++x) {
                const double alpha = std::to_integer<int>(picture.view().row(y)[x * 4 + 3]);
                for (std::size_t c = 0; c < 3; ++c) {
                    const double off = std::to_integer<int>(picture.view().row(y)[x * 4 + c]) -
                                       std::to_integer<int>(texels.view().row(y)[x * 4 + c]);
                    sum += alpha / 255 * off * off;
                }
                const double off = alpha - std::to_integer<int>(texels.view().row(y)[x * 4 + 3]);
                sum += off * off;
            }
        return sum;
    };
    for (const Format format : {Format::bc3_unorm, Format::bc7_unorm}) {
        CAPTURE(info(format).name);
        CHECK(seen_error(format, Role::color) < 0.99 * seen_error(format, Role::data));
    }
}

TEST_CASE("normals in BC5 turn less when their angle counts") {
    Image normals = must(Image::create(Format::rgba8_unorm, 64, 64));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::uint32_t x = 0; x < 64; ++x) {
            // Steep slopes beside flat ground.
            const double nx = (x % 4 < 2 ? 0.93 : 0.1) * std::sin(x * 0.31 + y * 0.11);
            const double ny = 0.3 * std::cos(y * 0.27 - x * 0.05);
            const double nz = std::sqrt(1 - nx * nx - ny * ny);
            std::byte* pixel = normals.view().row(y).data() + std::size_t{4} * x;
            pixel[0] = static_cast<std::byte>(std::lround((nx + 1) * 127.5));
            pixel[1] = static_cast<std::byte>(std::lround((ny + 1) * 127.5));
            pixel[2] = static_cast<std::byte>(std::lround((nz + 1) * 127.5));
            pixel[3] = std::byte{255};
        }
    const auto squared_angles = [&](Role role) {
        const Image texels = must(decode_blocks(support::view_of(
            must(encode_blocks(normals.view(), Format::bc5_unorm, {.role = role})))));
        double sum = 0;
        for (std::uint32_t y = 0; y < 64; ++y)
            for (std::size_t x = 0; x < 64; ++x) {
                ConstImageView a = normals.view(), b = texels.view();
                a.data += y * a.row_stride + x * 4;
                b.data += y * b.row_stride + x * 2;
                a.width = a.height = b.width = b.height = 1;
                const double angle =
                    *must(measure_difference(a, b, {.role = Role::normal})).mean_angle;
                sum += angle * angle;
            }
        return sum;
    };
    CHECK(squared_angles(Role::normal) < 0.98 * squared_angles(Role::data));
}

TEST_CASE("light in BC6H keeps its ratio from dim to bright, and signs where the format has them") {
    Image light = must(Image::create(Format::rgba32_float, 64, 64));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::uint32_t x = 0; x < 64; ++x) {
            auto* pixel = reinterpret_cast<float*>(light.view().row(y).data()) + std::size_t{4} * x;
            for (std::uint32_t c = 0; c < 3; ++c)
                pixel[c] = std::exp2(static_cast<float>(x) / 4 - 8 +
                                     std::sin(static_cast<float>(y * (c + 1)) * 0.05F));
            pixel[3] = 1;
        }
    for (const Format format : {Format::bc6h_ufloat, Format::bc6h_sfloat}) {
        CAPTURE(info(format).name);
        const Image texels =
            must(decode_blocks(support::view_of(must(encode_blocks(light.view(), format)))));
        const ImageDifference difference =
            must(measure_difference(light.view(), texels.view(), {.role = Role::hdr}));
        REQUIRE(difference.log_error);
        CHECK(*difference.log_error < 0.06);
    }
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::size_t i = 0; i < 64; ++i)
            reinterpret_cast<float*>(light.view().row(y).data())[i * 4] *= -1;
    const auto red_at = [](const Image& image) {
        return half_to_float(load<std::uint16_t>(image.view().row(9).data() + 40 * 8));
    };
    const Image with_sign = must(
        decode_blocks(support::view_of(must(encode_blocks(light.view(), Format::bc6h_sfloat)))));
    const Image without = must(
        decode_blocks(support::view_of(must(encode_blocks(light.view(), Format::bc6h_ufloat)))));
    CHECK(red_at(with_sign) < 0);
    CHECK(red_at(without) >= 0);
}

TEST_CASE("what is not a number or beyond the greatest half is stored as what can be") {
    Image odd = must(Image::create(Format::rgba32_float, 4, 4));
    for (std::uint32_t i = 0; i < 16; ++i) {
        auto* pixel =
            reinterpret_cast<float*>(odd.view().row(i / 4).data()) + std::size_t{4} * (i % 4);
        pixel[0] = std::numeric_limits<float>::quiet_NaN();
        pixel[1] = std::numeric_limits<float>::infinity();
        pixel[2] = -2.0F;
        pixel[3] = 1.0F;
    }
    const Image texels =
        must(decode_blocks(support::view_of(must(encode_blocks(odd.view(), Format::bc6h_ufloat)))));
    const std::byte* pixel = texels.view().row(2).data();
    CHECK(half_to_float(load<std::uint16_t>(pixel)) == 0);
    CHECK(half_to_float(load<std::uint16_t>(pixel + 2)) > 65000);
    CHECK(std::isfinite(half_to_float(load<std::uint16_t>(pixel + 2))));
    CHECK(half_to_float(load<std::uint16_t>(pixel + 4)) == 0);
}

TEST_CASE("rate-distortion makes blocks that pack better, at a bounded loss") {
    const Image picture = scene(128, 128, false, 6);
    for (const Format format : {Format::bc1_unorm, Format::bc3_unorm, Format::bc4_unorm,
                                Format::bc5_unorm, Format::bc7_unorm}) {
        CAPTURE(info(format).name);
        std::size_t plain = 0;
        const double plain_psnr = psnr_of(picture, format, {});
        for (const float rate_distortion : {0.0F, 8.0F, 30.0F}) {
            Texture texture =
                must(Texture::create({.format = format, .width = 128, .height = 128}));
            must(encode_blocks(picture.view(), texture.image(0),
                               {.rate_distortion = rate_distortion}));
            const auto file = must(
                texture_file_bytes("ktx2", texture, {.supercompression = Supercompression::zstd}));
            if (rate_distortion == 0)
                plain = file.size();
            CHECK(static_cast<double>(file.size()) <=
                  static_cast<double>(plain) * (rate_distortion == 0   ? 1.0
                                                : rate_distortion < 10 ? 0.97
                                                                       : 0.85));
            CHECK(psnr_of(picture, format, {.rate_distortion = rate_distortion}) >
                  plain_psnr - (rate_distortion == 0   ? 0.001
                                : rate_distortion < 10 ? 8
                                                       : 16));
        }
    }
}

TEST_CASE("rate-distortion keeps colours under an alpha that is one more channel") {
    Image picture = scene(64, 64, true, 6);
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::size_t x = 0; x < 64; ++x)
            picture.view().row(y)[x * 4 + 3] = std::byte{0};
    const auto color_error = [&](Format format, Role role, AlphaMode alpha) {
        const Image texels = must(decode_blocks(support::view_of(must(encode_blocks(
            picture.view(), format, {.role = role, .alpha = alpha, .rate_distortion = 8})))));
        double sum = 0;
        for (std::uint32_t y = 0; y < 64; ++y)
            for (std::size_t x = 0; x < 64; ++x)
                for (std::size_t c = 0; c < 3; ++c) {
                    const double off = std::to_integer<int>(picture.view().row(y)[x * 4 + c]) -
                                       std::to_integer<int>(texels.view().row(y)[x * 4 + c]);
                    sum += off * off;
                }
        return sum / (64 * 64 * 3);
    };
    for (const Format format : {Format::bc3_unorm, Format::bc7_unorm}) {
        CAPTURE(info(format).name);
        const double as_coverage = color_error(format, Role::color, AlphaMode::straight);
        const double as_data = color_error(format, Role::color, AlphaMode::data);
        CHECK(as_data < 0.2 * as_coverage);
        CHECK(color_error(format, Role::data, AlphaMode::straight) ==
              doctest::Approx(as_data).epsilon(0.5));
    }
}

TEST_CASE("16 bits are used in full by BC4, and sRGB codes kept by sRGB formats") {
    Image ramp = must(Image::create(Format::r16_unorm, 4, 4));
    for (std::uint32_t i = 0; i < 16; ++i)
        store(ramp.view().row(i / 4).data() + std::size_t{2} * (i % 4),
              static_cast<std::uint16_t>(30000 + i * 20));
    const Image blocks = must(encode_blocks(ramp.view(), Format::bc4_unorm));
    // 30000 to 30300 is 116.7 to 117.9 in codes of 8 bits: the ends lie about there.
    CHECK(std::abs(std::to_integer<int>(blocks.view().data[0]) - 118) <= 1);
    CHECK(std::abs(std::to_integer<int>(blocks.view().data[1]) - 117) <= 1);

    Image picture = scene(32, 32, false);
    const auto linear =
        support::bytes_of(support::view_of(must(encode_blocks(picture.view(), Format::bc7_unorm))));
    const auto srgb = support::bytes_of(support::view_of(must(
        encode_blocks(picture.view(), Format::bc7_srgb, {.source_transfer = Transfer::srgb}))));
    CHECK(linear == srgb);
}

TEST_CASE("sRGB codes in a format that cannot say so become light in a linear block format") {
    Image gray = must(Image::create(Format::rgba8_unorm, 4, 4));
    for (std::uint32_t i = 0; i < 16; ++i)
        for (std::size_t c = 0; c < 4; ++c)
            gray.view().row(i / 4)[i % 4 * 4 + c] = c == 3 ? std::byte{255} : std::byte{188};
    const auto red_of = [&](Transfer transfer) {
        const Image texels = must(decode_blocks(support::view_of(
            must(encode_blocks(gray.view(), Format::bc7_unorm, {.source_transfer = transfer})))));
        return std::to_integer<int>(texels.view().row(0)[0]);
    };
    CHECK(red_of(Transfer::linear) == 188);
    CHECK(red_of(Transfer::srgb) == 128);  // srgb_decode(188 / 255) is 0.503
}

TEST_CASE("progress is told, and cancels") {
    const Image picture = scene(256, 256, false);
    std::vector<float> told;
    must(encode_blocks(picture.view(), Format::bc7_unorm,
                       {.effort = 0, .progress = [&](const ProgressStep& step) {
                            CHECK(step.phase == Phase::encoding);
                            told.push_back(step.share);
                            return true;
                        }}));
    CHECK(std::is_sorted(told.begin(), told.end()));
    CHECK(told.back() == 1.0F);
    const auto cancelled = encode_blocks(picture.view(), Format::bc7_unorm,
                                         {.progress = [](const ProgressStep&) { return false; }});
    CHECK(must_fail(cancelled).kind == ErrorKind::cancelled);
}

TEST_CASE("textures go there and back between formats of all kinds") {
    const Texture cube = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 16, .height = 16, .levels = 5, .faces = 6}, 2);
    const Texture blocks = must(encode_texture(cube, Format::bc7_srgb, {.effort = 0}));
    CHECK(blocks.shape().faces == 6);
    const Texture other = must(texture_in_format(blocks, Format::bc3_srgb, Role::color));
    CHECK(other.shape().format == Format::bc3_srgb);
    const Texture floats = must(texture_in_format(other, Format::rgba16_float, Role::color));
    CHECK(floats.shape().format == Format::rgba16_float);
    CHECK(floats.shape().levels == 5);
    CHECK(must_fail(encode_texture(cube, Format::rgba16_float)).kind == ErrorKind::usage);
    CHECK(must_fail(encode_texture(cube, Format::bc7_srgb, {.effort = 11})).place == "effort");
    CHECK(must_fail(encode_texture(blocks, Format::bc1_srgb)).kind == ErrorKind::unsupported);
}

TEST_CASE("blocks and texels of other sizes are refused, whichever side differs") {
    const auto image = [](Format format, std::uint32_t width, std::uint32_t height) {
        return must(Image::create(format, width, height));
    };
    for (const Format format : {Format::bc1_unorm, Format::bc5_unorm, Format::astc_6x6_unorm}) {
        const Format plain = *decoded_format(format);
        const Image texels = image(plain, 24, 12), blocks = image(format, 24, 12);
        for (const auto& [width, height] :
             {std::pair{24U, 12U}, {24U, 11U}, {23U, 12U}, {12U, 24U}, {24U, 24U}, {48U, 12U}}) {
            const bool is_equal = width == 24 && height == 12;
            Image other_blocks = image(format, width, height);
            Image other_texels = image(plain, width, height);
            CHECK(encode_blocks(texels.view(), other_blocks.view(), {.effort = 0}).has_value() ==
                  is_equal);
            CHECK(decode_blocks(blocks.view(), other_texels.view()).has_value() == is_equal);
        }
    }
}
