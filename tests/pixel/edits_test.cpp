// What people do to pictures before they become textures.
#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "pixel/channels.hpp"
#include "pixel/rows.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/processors.hpp"

using namespace yl;
using support::bytes_of;
using support::contains;
using support::must;
using support::must_fail;

namespace {

Image image_of(Format format, std::uint32_t width, std::initializer_list<int> values) {
    Image image = must(Image::create(
        format, width,
        static_cast<std::uint32_t>(values.size() / (width * info(format).channel_count))));
    const auto bytes = bytes_of(values);
    std::copy(bytes.begin(), bytes.end(), image.view().data);
    return image;
}

std::vector<float> rows_of(const RowCodec& codec, const std::vector<std::byte>& texels) {
    std::vector<float> rgba(texels.size());
    codec.load(texels.data(), rgba.data(), texels.size() / 4);
    return rgba;
}

}  // namespace

TEST_CASE("a part of an image is a view of it") {
    const Image image = image_of(Format::r8_unorm, 4, {0, 1, 2, 3, 10, 11, 12, 13, 20, 21, 22, 23});
    const ConstImageView part = must(cropped(image.view(), {1, 1, 2, 2}));
    CHECK(bytes_of(part) == bytes_of({11, 12, 21, 22}));
    CHECK(
        contains(must_fail(cropped(image.view(), {3, 0, 2, 1})).message, "does not lie in 4 x 3"));
    CHECK_FALSE(cropped(image.view(), {0, 0, 0, 1}));
    CHECK_FALSE(cropped(image.view(), {~0U, 0, 2, 1}));
}

TEST_CASE("channels of several images become one image") {
    const Image a = image_of(Format::r8_unorm, 2, {10, 20});
    const Image b = image_of(Format::rgb8_srgb, 2, {1, 2, 3, 4, 5, 6});
    const ChannelSource sources[] = {
        {.image = a.view()},
        {.image = b.view(), .channel = Channel::blue, .inverted = true},
        {.value = 1},
        {.image = b.view(), .channel = Channel::green}};
    const Image packed = must(pack_channels(sources));
    CHECK(packed.format() == Format::rgba8_unorm);
    CHECK(bytes_of(packed.view()) == bytes_of({10, 252, 255, 2, 20, 249, 255, 5}));
    const Image wide = image_of(Format::r8_unorm, 3, {1, 2, 3});
    const ChannelSource unequal[] = {{.image = a.view()}, {.image = wide.view()}};
    CHECK(contains(must_fail(pack_channels(unequal)).message, "2 x 1 and 3 x 1"));
    CHECK_FALSE(pack_channels(std::array{ChannelSource{.value = 1}}));
    CHECK_FALSE(pack_channels({}));
}

TEST_CASE("the deepest source settles the depth") {
    const Image narrow = image_of(Format::r8_unorm, 1, {255});
    Image deep = must(Image::create(Format::r16_unorm, 1, 1));
    store<std::uint16_t>(deep.view().data, 4660);
    const ChannelSource sources[] = {{.image = narrow.view()}, {.image = deep.view()}};
    const Image packed = must(pack_channels(sources));
    CHECK(packed.format() == Format::rg16_unorm);
    CHECK(load<std::uint16_t>(packed.view().data) == 65535);
    CHECK(load<std::uint16_t>(packed.view().data + 2) == 4660);
}

TEST_CASE("channels in another order keep their numbers and their meaning") {
    const Image image = image_of(Format::rgba8_srgb, 1, {1, 2, 3, 4});
    const Image swapped = must(reordered(image.view(), "bgr"));
    CHECK(swapped.format() == Format::rgb8_srgb);
    CHECK(bytes_of(swapped.view()) == bytes_of({3, 2, 1}));
    CHECK(bytes_of(support::view_of(must(reordered(image.view(), "a")))) == bytes_of({4}));
    CHECK(bytes_of(support::view_of(must(reordered(image.view(), "r0g1")))) ==
          bytes_of({1, 0, 2, 255}));
    for (const char* wrong : {"", "rgbab", "x", "01"})
        CHECK(must_fail(reordered(image.view(), wrong)).kind == ErrorKind::usage);
}

TEST_CASE("one channel is turned round, signed or not") {
    Image image = image_of(Format::rgb8_unorm, 1, {1, 100, 3});
    must(invert_channel(image.view(), Channel::green));
    CHECK(bytes_of(image.view()) == bytes_of({1, 155, 3}));
    Image directions = image_of(Format::rg8_snorm, 1, {20, 127});
    must(invert_channel(directions.view(), Channel::green));
    CHECK(bytes_of(directions.view()) == bytes_of({20, 256 - 127}));
    CHECK_FALSE(invert_channel(image.view(), Channel::alpha));
}

TEST_CASE("colour is multiplied by alpha in linear light, and divided again") {
    Image image = image_of(Format::rgba8_srgb, 2, {200, 100, 50, 128, 9, 9, 9, 0});
    must(premultiply(image.view(), Transfer::srgb));
    const double expected = 255 * srgb_encode(srgb_decode(200 / 255.0) * (128 / 255.0));  // 146.9
    CHECK(std::to_integer<int>(image.view().row(0)[0]) == static_cast<int>(expected + 0.5));
    CHECK(std::to_integer<int>(image.view().row(0)[4]) == 0);
    must(unpremultiply(image.view(), Transfer::srgb));
    CHECK(std::abs(std::to_integer<int>(image.view().row(0)[0]) - 200) <= 1);
    CHECK(std::to_integer<int>(image.view().row(0)[3]) == 128);
    Image opaque = image_of(Format::rgb8_srgb, 1, {1, 2, 3});
    CHECK(contains(must_fail(premultiply(opaque.view(), Transfer::srgb)).message, "has no alpha"));
}

TEST_CASE("a picture laid over a colour is opaque") {
    Image image = image_of(Format::rgba8_unorm, 3, {255, 0, 0, 255, 255, 0, 0, 0, 200, 0, 0, 51});
    must(composite_over(image.view(), {0, 0, 1}, Transfer::linear));
    CHECK(bytes_of(image.view()) == bytes_of({255, 0, 0, 255, 0, 0, 255, 255, 40, 0, 204, 255}));
}

TEST_CASE("transparent pixels get the colour of the nearest that are not, and keep their alpha") {
    constexpr std::uint32_t side = 23;
    Image image = must(Image::create(Format::rgba8_srgb, side, side));
    support::Random random(6);
    std::vector<std::array<int, 2>> solid;
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const bool is_solid = random() % 40 == 0;
            std::byte* pixel = image.view().row(y).data() + x * 4;
            for (std::size_t c = 0; c < 3; ++c)
                pixel[c] = static_cast<std::byte>(is_solid ? 1 + random() % 255 : 0);
            pixel[3] = std::byte{is_solid ? std::uint8_t{9} : std::uint8_t{0}};
            if (is_solid)
                solid.push_back({static_cast<int>(x), static_cast<int>(y)});
        }
    REQUIRE(solid.size() > 3);
    const Image before =
        must(convert(image.view(), Format::rgba8_srgb,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    must(bleed_colors(image.view()));
    int right = 0;
    for (int y = 0; y < static_cast<int>(side); ++y)
        for (int x = 0; x < static_cast<int>(side); ++x) {
            const auto pixel = [&](const Image& from, int px, int py) {
                const auto row = from.view().row(static_cast<std::uint32_t>(py));
                return std::vector<std::byte>(row.begin() + px * 4, row.begin() + px * 4 + 3);
            };
            int min = 1 << 20;
            for (const auto& [sx, sy] : solid)
                min = std::min(min, (sx - x) * (sx - x) + (sy - y) * (sy - y));
            bool is_nearest = false;
            for (const auto& [sx, sy] : solid)
                if ((sx - x) * (sx - x) + (sy - y) * (sy - y) == min)
                    is_nearest = is_nearest || pixel(image, x, y) == pixel(before, sx, sy);
            right += is_nearest ? 1 : 0;
            CHECK(image.view().row(
                      static_cast<std::uint32_t>(y))[static_cast<std::size_t>(x) * 4 + 3] ==
                  before.view().row(
                      static_cast<std::uint32_t>(y))[static_cast<std::size_t>(x) * 4 + 3]);
        }
    // Propagation from neighbour to neighbour misses the nearest by a fraction in rare corners.
    CHECK(right >= 0.99 * side * side);
    Image empty = image_of(Format::rgba8_unorm, 1, {5, 6, 7, 0});
    must(bleed_colors(empty.view()));
    CHECK(bytes_of(empty.view()) == bytes_of({5, 6, 7, 0}));
}

TEST_CASE("a mask multiplies alpha") {
    Image image = image_of(Format::rgba8_srgb, 2, {1, 2, 3, 255, 4, 5, 6, 100});
    must(mask_by(image.view(), support::view_of(image_of(Format::r8_unorm, 2, {51, 255}))));
    CHECK(bytes_of(image.view()) == bytes_of({1, 2, 3, 51, 4, 5, 6, 100}));
    CHECK_FALSE(mask_by(image.view(), support::view_of(image_of(Format::r8_unorm, 1, {51}))));
}

TEST_CASE("normals of a slope, either way up, and of a flat") {
    // Each step of 8 codes is 8 / 255 * 255 = 8 pixels high: a slope of 8 to the right.
    Image slope = must(Image::create(Format::r8_unorm, 8, 8));
    for (std::uint32_t y = 0; y < 8; ++y)
        for (std::uint32_t x = 0; x < 8; ++x)
            slope.view().row(y)[x] = static_cast<std::byte>(8 * x + 2 * y);
    constexpr Edges clamp = {Edge::clamp, Edge::clamp};
    const Image normals =
        must(normals_from_height(slope.view(), {.height = 255.0F / 8, .edges = clamp}));
    // Slopes 1 and 0.25 (down): n = (-1, 0.25, 1) / |n|, the green axis up.
    const double length = std::sqrt(1 + 0.0625 + 1);
    const auto code = [&](double n) {
        return static_cast<int>(255 * (0.5 + 0.5 * n / length) + 0.5);
    };
    const auto at = [&](const Image& image, std::size_t c) {
        return std::to_integer<int>(image.view().row(4)[4 * 4 + c]);
    };
    CHECK(at(normals, 0) == code(-1));
    CHECK(at(normals, 1) == code(0.25));
    CHECK(at(normals, 2) == code(1));
    const Image down = must(normals_from_height(
        slope.view(), {.height = 255.0F / 8, .edges = clamp, .green_up = false}));
    CHECK(at(down, 1) == code(-0.25));
    const Image deep = must(normals_from_height(support::view_of(must(
        convert(slope.view(), Format::r16_unorm,
                {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red})))));
    CHECK(deep.format() == Format::rgba16_unorm);
}

TEST_CASE("dithering keeps the mean where rounding does not") {
    Image source = must(Image::create(Format::r32_float, 64, 64));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::uint32_t x = 0; x < 64; ++x)
            store(source.view().row(y).data() + 4 * x, std::bit_cast<std::uint32_t>(100.3F / 255));
    const auto mean = [&](bool dither) {
        const Image narrow = must(convert(source.view(), Format::r8_unorm, {.dither = dither}));
        double sum = 0;
        for (const std::byte byte : bytes_of(narrow.view())) {
            const int value = std::to_integer<int>(byte);
            CHECK((value == 100 || value == 101));
            sum += value;
        }
        return sum / (64 * 64);
    };
    CHECK(mean(false) == 100);
    CHECK(mean(true) == doctest::Approx(100.3).epsilon(0.0002));
}

TEST_CASE("rows of 8-bit RGBA in vectors are those of the plain codec") {
    support::Random random(8);
    for (const Format format : {Format::rgba8_unorm, Format::rgba8_srgb}) {
        const RowCodec plain = plain_row_codec(format, Transfer::linear);
        const RowCodec vectors = row_codec(format, Transfer::linear);
        const bool differ = plain.store != vectors.store;
        REQUIRE(differ);
        std::vector<std::byte> texels(4 * 259);
        for (std::size_t i = 0; i < texels.size(); ++i)
            texels[i] = static_cast<std::byte>(i / 4);
        CHECK(rows_of(plain, texels) == rows_of(vectors, texels));
        std::vector<float> rgba;
        for (int i = 0; i < 40000; ++i)
            rgba.push_back(std::bit_cast<float>(static_cast<std::uint32_t>(random())));
        for (int i = 0; i < 40004; ++i)
            rgba.push_back(static_cast<float>(random() % 70000) / 65535.0F);
        for (int code = 0; code < 256; ++code)  // where one code ends and the next begins
            for (const float off : {-1e-2F, -2e-3F, -1e-6F, 0.0F, 1e-6F, 2e-3F, 1e-2F}) {
                const double at = (code + 0.5 + static_cast<double>(off)) / 255;
                const auto light =
                    static_cast<float>(format == Format::rgba8_srgb ? srgb_decode(at) : at);
                for (const float beside : {-9.0F, 9.0F})
                    for (int c = 0; c < 4; ++c)
                        rgba.push_back(c % 2 == 0 ? light : std::nextafter(light, beside));
            }
        std::vector<std::byte> a(rgba.size()), b(rgba.size());
        plain.store(rgba.data(), a.data(), a.size() / 4);
        support::for_each_instruction_set([&](const char* name) {
            CAPTURE(name);
            std::fill(b.begin(), b.end(), std::byte{0});
            vectors.store(rgba.data(), b.data(), b.size() / 4);
            CHECK(a == b);
        });
    }
}

TEST_CASE("red and blue are exchanged at any width, also in place") {
    for (const std::uint32_t channels : {3U, 4U})
        for (const std::size_t count : {1U, 15U, 16U, 17U, 100U}) {
            std::vector<std::byte> pixels(count * channels);
            for (std::size_t i = 0; i < pixels.size(); ++i)
                pixels[i] = static_cast<std::byte>(i);
            const auto before = pixels;
            exchange_red_and_blue(pixels.data(), pixels.data(), count, channels);
            for (std::size_t i = 0; i < pixels.size(); ++i) {
                const std::size_t c = i % channels;
                CHECK(pixels[i] == before[c < 3 ? i - c + (2 - c) : i]);
            }
        }
}

TEST_CASE("normals of a transposed height map are the transposed normals, at every kind of edge") {
    const Image heights = [] {
        Image image = must(Image::create(Format::r16_unorm, 13, 9));
        support::Random random(4);
        support::fill_random(image.view(), random);
        return image;
    }();
    const Image transposed = must(with_orientation(heights.view(), Orientation::transpose));
    constexpr Edge all_edges[] = {Edge::clamp, Edge::repeat, Edge::mirror};
    for (const Edge across : all_edges)
        for (const Edge down : all_edges) {
            // Green downwards, so that both axes grow with their pixels.
            const Image normals = must(normals_from_height(
                heights.view(), {.height = 3, .edges = {across, down}, .green_up = false}));
            const Image other = must(normals_from_height(
                transposed.view(), {.height = 3, .edges = {down, across}, .green_up = false}));
            for (std::uint32_t y = 0; y < 9; ++y)
                for (std::uint32_t x = 0; x < 13; ++x) {
                    const auto code = [](const Image& image, std::uint32_t column,
                                         std::uint32_t row, std::size_t c) {
                        return static_cast<int>(
                            load<std::uint16_t>(image.view().row(row).data() + 8 * column + 2 * c));
                    };
                    CHECK(std::abs(code(normals, x, y, 0) - code(other, y, x, 1)) <= 1);
                    CHECK(std::abs(code(normals, x, y, 1) - code(other, y, x, 0)) <= 1);
                    CHECK(std::abs(code(normals, x, y, 2) - code(other, y, x, 2)) <= 1);
                }
        }
}

TEST_CASE("dithering has a pattern of its own in each channel, row and column") {
    Image source = must(Image::create(Format::rgba32_float, 32, 32));
    for (std::uint32_t y = 0; y < 32; ++y)
        for (std::uint32_t i = 0; i < 4 * 32; ++i)
            store(source.view().row(y).data() + 4 * i, std::bit_cast<std::uint32_t>(100.5F / 255));
    const Image narrow = must(convert(source.view(), Format::rgba8_unorm, {.dither = true}));
    const auto code = [&](std::uint32_t x, std::uint32_t y, std::size_t c) {
        return std::to_integer<int>(narrow.view().row(y)[4 * x + c]);
    };
    for (std::size_t a = 0; a < 4; ++a)
        for (std::size_t b = a + 1; b < 4; ++b) {
            int unlike = 0;
            for (std::uint32_t y = 0; y < 32; ++y)
                for (std::uint32_t x = 0; x < 32; ++x)
                    unlike += code(x, y, a) != code(x, y, b) ? 1 : 0;
            CHECK(unlike > 100);
        }
    for (std::size_t c = 0; c < 4; ++c) {
        int across = 0, down = 0;
        for (std::uint32_t i = 0; i + 1 < 32; ++i) {
            across += code(i, 5, c) != code(i + 1, 5, c) ? 1 : 0;
            down += code(5, i, c) != code(5, i + 1, c) ? 1 : 0;
        }
        CHECK(across > 3);
        CHECK(down > 3);
    }
}
