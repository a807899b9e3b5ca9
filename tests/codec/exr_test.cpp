#include <cmath>
#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/damage.hpp"
#include "support/pictures.hpp"
#include "support/reference_exr.hpp"

using namespace yl;
using support::contains;
using support::exr_value;
using support::must;
using support::must_fail;
using support::ReferenceExr;

namespace {

constexpr int zip = 3, piz = 4;

/// All channels as floats, row by row.
std::vector<float> floats_of(const Picture& picture) {
    const FormatInfo& format = info(picture.image.format());
    const Image wide =
        must(convert(picture.image.view(), Format::rgba32_float,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    std::vector<float> values;
    for (std::uint32_t y = 0; y < wide.height(); ++y) {
        const auto* row = reinterpret_cast<const float*>(wide.view().row(y).data());
        for (std::uint32_t x = 0; x < wide.width(); ++x)
            values.insert(values.end(), row + 4 * x, row + 4 * x + format.channel_count);
    }
    return values;
}

/// What a file of this kind looks like in its display window.
std::vector<float> expected(const ReferenceExr& kind, const std::string& order) {
    std::vector<float> values;
    for (int y = kind.display[1]; y <= kind.display[3]; ++y)
        for (int x = kind.display[0]; x <= kind.display[2]; ++x) {
            const bool inside =
                x >= kind.data[0] && x <= kind.data[2] && y >= kind.data[1] && y <= kind.data[3];
            for (const char channel : order)
                values.push_back(inside ? exr_value(channel, x, y, kind.many_values) : 0);
        }
    return values;
}

}  // namespace

TEST_CASE("every lossless compression, sample type and layout") {
    for (int compression = 0; compression <= piz; ++compression)
        for (int type = 0; type <= 2; ++type)
            for (const int tile : {0, 16, 7})
                for (const auto& size : {std::pair{1, 1}, {10, 7}, {70, 45}}) {
                    const auto width = size.first;
                    const auto height = size.second;

                    const std::array<int, 4> window = {0, 0, width - 1, height - 1};
                    const ReferenceExr kind{.compression = compression,
                                            .channels = "RGBA",
                                            .type = type,
                                            .data = window,
                                            .display = window,
                                            .tile = tile};
                    CAPTURE(compression);
                    CAPTURE(type);
                    CAPTURE(tile);
                    CAPTURE(width);
                    const Picture picture = must(read_picture(support::write_reference_exr(kind)));
                    CHECK(picture.image.format() ==
                          (type == 1 ? Format::rgba16_float : Format::rgba32_float));
                    CHECK(picture.alpha == AlphaMode::premultiplied);
                    CHECK(floats_of(picture) == expected(kind, "RGBA"));
                }
}

TEST_CASE("PIZ with more than 14 bits: its wavelet goes round at 16") {
    // A chunk of one channel has 22,400 values, one of three more than 2^15. They rise evenly, or else
    // they would not be packed at all.
    for (const char* channels : {"Y", "RGB"})
        for (const int tile : {0, 256})
            for (const int type : {1, 2}) {
                const ReferenceExr kind{.compression = piz,
                                        .channels = channels,
                                        .type = type,
                                        .data = {0, 0, 699, 70},
                                        .display = {0, 0, 699, 70},
                                        .tile = tile,
                                        .many_values = true};
                CHECK(floats_of(must(read_picture(support::write_reference_exr(kind)))) ==
                      expected(kind, channels));
            }
}

TEST_CASE("chunks above and below the data window are damage") {
    const auto sound = support::write_reference_exr({});
    constexpr std::size_t row_bytes = 10 * 3 * 2;
    const std::size_t last_chunk = sound.size() - row_bytes - 8;  // its row, its length, samples
    CHECK(sound[last_chunk] == std::byte{6});
    for (const std::int32_t row : {-1, 7, -2'000'000'000, 2'000'000'000}) {
        auto file = sound;
        std::memcpy(&file[last_chunk], &row, sizeof(row));
        const Error error = must_fail(read_picture(file));
        CHECK(error.kind == ErrorKind::malformed);
        CHECK(contains(error.message, "outside the data window"));
    }
}

TEST_CASE("data windows smaller, larger and beside the display window, rows from the bottom") {
    for (const std::array<int, 4>& data : {std::array{2, 3, 5, 4},
                                           {-4, -3, 20, 11},
                                           {5, -2, 14, 3},
                                           {30, 30, 35, 33},
                                           {-20, 0, 9, 6}})
        for (const int compression : {zip, piz}) {
            const ReferenceExr kind{.compression = compression, .channels = "RGB", .data = data};
            const Picture picture = must(read_picture(support::write_reference_exr(kind)));
            CHECK(floats_of(picture) == expected(kind, "RGB"));
            CHECK(contains(picture.info.remarks.at(0), "data window"));
        }
    const ReferenceExr upwards{.compression = zip,
                               .channels = "RGB",
                               .data = {0, 0, 9, 40},
                               .display = {0, 0, 9, 40},
                               .decreasing = true};
    CHECK(floats_of(must(read_picture(support::write_reference_exr(upwards)))) ==
          expected(upwards, "RGB"));
}

TEST_CASE(
    "luminance alone is gray, other channels are read as gray and said, luminance with chroma is "
    "RGB") {
    const ReferenceExr gray{.channels = "Y"};
    CHECK(must(read_picture(support::write_reference_exr(gray))).swizzle == gray_swizzle);
    CHECK(floats_of(must(read_picture(support::write_reference_exr(gray)))) == expected(gray, "Y"));
    const ReferenceExr depth{.channels = "Z", .type = 2};
    CHECK(floats_of(must(read_picture(support::write_reference_exr(depth)))) ==
          expected(depth, "Z"));
    const ReferenceExr many{.channels = "BGRZ"};
    const Picture picture = must(read_picture(support::write_reference_exr(many)));
    CHECK(floats_of(picture) == expected(many, "RGB"));
    CHECK(contains(picture.info.remarks.at(0), "3 of the file's 4 channels"));

    const auto rgb = floats_of(must(read_picture(support::write_luminance_chroma_exr(50, 30))));
    double most = 0;
    for (int y = 4; y < 26; ++y)  // the library's own filter bends the chroma at the edges
        for (int x = 4; x < 46; ++x)
            for (std::size_t c = 0; c < 3; ++c)
                most = std::max(most,
                                std::abs(double{rgb[static_cast<std::size_t>(y * 50 + x) * 3 + c]} -
                                         double{support::smooth_value("RGB"[c], x, y)}));
    CHECK(most < 0.01);
}

TEST_CASE("what is written is read back, here and by the reference") {
    for (const Format format :
         {Format::r16_float, Format::rg16_float, Format::rgb16_float, Format::rgba16_float}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 23, .height = 37}, 3);
        const auto file = must(encode_picture("exr", texture.image(0)));
        CHECK(support::equal_pixels(support::view_of(must(read_picture(file)).image),
                                    texture.image(0)));
        if (info(format).channel_count < 3)
            continue;
        const auto reference = support::read_reference_exr(file);
        const Image wide = must(
            convert(texture.image(0), Format::rgba32_float,
                    {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
        CHECK(std::memcmp(reference.data(), wide.view().data, reference.size() * sizeof(float)) ==
              0);
    }
    CHECK(must_fail(encode_picture("exr",
                                   support::view_of(must(Image::create(Format::rgb8_unorm, 1, 1)))))
              .kind == ErrorKind::usage);
}

TEST_CASE("what is not handled is named") {
    for (const auto& [compression, name] : {std::pair{6, "B44"}, {8, "DWAA"}}) {
        const Error error =
            must_fail(read_picture(support::write_reference_exr({.compression = compression})));
        CHECK(error.kind == ErrorKind::unsupported);
        CHECK(contains(error.message, name));
    }
    auto file = support::write_reference_exr({});
    file[5] = std::byte{0x08};
    CHECK(contains(must_fail(read_picture(file)).message, "deep"));
    file[5] = std::byte{0x10};
    CHECK(contains(must_fail(read_picture(file)).message, "multi-part"));
}

TEST_CASE("files cut off at any byte are errors, and flipped bits never more than wrong pixels") {
    for (const int compression : {1, zip, piz}) {
        const auto file = support::write_reference_exr({.compression = compression,
                                                        .channels = "RG",
                                                        .data = {0, 0, 5, 4},
                                                        .display = {0, 0, 5, 4}});
        support::check_every_cut(file);
        support::flip_every_bit(file);
    }
}
