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
    auto file = support::write_reference_exr({});
    file[5] = std::byte{0x08};
    CHECK(contains(must_fail(read_picture(file)).message, "deep"));
    auto packed = support::write_reference_exr({.compression = zip});
    const std::string_view text(reinterpret_cast<const char*>(packed.data()), packed.size());
    const std::size_t value = text.find("compression", text.find("compression") + 5) + 12 + 4;
    REQUIRE(packed[value] == std::byte{zip});
    packed[value] = std::byte{10};
    const Error error = must_fail(read_picture(packed));
    CHECK(error.kind == ErrorKind::unsupported);
    CHECK(contains(error.message, "number 10"));
}

namespace {

/// How far apart two halves are, counted in halves.
int steps_between(float a, float b) {
    const auto place = [](float value) {
        const int bits = float_to_half(value);
        return (bits & 0x8000) != 0 ? -(bits & 0x7FFF) : bits;
    };
    return std::abs(place(a) - place(b));
}

/// The picture beside what the library reads: the worst distance, and the share that differs.
struct Beside {
    int worst = 0;
    double share = 0;
};
Beside beside_reference(const support::LossyExr& lossy, const std::vector<std::size_t>& order) {
    const auto values = floats_of(must(read_picture(lossy.file)));
    Beside beside;
    REQUIRE(values.size() == order.size() * lossy.channels[order[0]].size());
    for (std::size_t i = 0; i < values.size(); ++i) {
        const float expected = lossy.channels[order[i % order.size()]][i / order.size()];
        const int steps = steps_between(values[i], expected);
        beside.worst = std::max(beside.worst, steps);
        beside.share += (steps > 0 ? 1.0 : 0.0) / static_cast<double>(values.size());
    }
    return beside;
}

constexpr int b44 = 6, b44a = 7, dwaa = 8, dwab = 9;
constexpr std::array<std::array<int, 2>, 7> lossy_sizes = {
    {{1, 1}, {4, 4}, {5, 3}, {33, 65}, {70, 45}, {8, 260}, {130, 300}}};

}  // namespace

TEST_CASE("B44 and B44A: every block as the reference decodes it") {
    std::uint32_t seed = 1;
    for (const int compression : {b44, b44a})
        for (const auto& size : lossy_sizes)
            for (const bool is_perceptual : {false, true})
                for (const int alpha : {0, 1, 2})
                    for (const int tile : {0, 32}) {
                        CAPTURE(size[0]);
                        CAPTURE(size[1]);
                        const auto lossy = support::write_lossy_exr(
                            compression, size[0], size[1],
                            {{.name = "A", .type = alpha},
                             {.name = "B", .is_perceptual = is_perceptual},
                             {.name = "G", .is_perceptual = is_perceptual},
                             {.name = "R", .is_perceptual = is_perceptual}},
                            seed++, tile);
                        // Only its own table of powers rounds in another way.
                        CHECK(beside_reference(lossy, {3, 2, 1, 0}).worst <=
                              (is_perceptual ? 1 : 0));
                    }
}

// Before the curve is undone, cosines added up in another order round to the next half here and there;
// its power of 2.2 makes up to six halves of that.
TEST_CASE("DWAA and DWAB: nearly all colours are those of the reference, the others next to them") {
    std::uint32_t seed = 100;
    double different = 0, files = 0;
    for (const int compression : {dwaa, dwab})
        for (const auto& size : lossy_sizes)
            for (const int type : {1, 2})
                for (const bool is_perceptual : {false, true})
                    for (const int tile : {0, 64}) {
                        CAPTURE(size[0]);
                        CAPTURE(size[1]);
                        CAPTURE(type);
                        CAPTURE(is_perceptual);
                        const auto lossy = support::write_lossy_exr(
                            compression, size[0], size[1],
                            {{.name = "A", .type = type},
                             {.name = "B", .type = type, .is_perceptual = is_perceptual},
                             {.name = "G", .type = type, .is_perceptual = is_perceptual},
                             {.name = "R", .type = type, .is_perceptual = is_perceptual},
                             {.name = "Z", .type = 2}},
                            seed++, tile);
                        const Beside beside = beside_reference(lossy, {3, 2, 1, 0});
                        CHECK(beside.worst <= 6);
                        different += beside.share;
                        ++files;
                    }
    MESSAGE("differs in ", 100 * different / files, " % of the samples, by a few halves");
    CHECK(different / files < 0.002);
}

TEST_CASE("DWA: gray, layers of triples, and channels that no rule knows") {
    const auto gray = support::write_lossy_exr(dwaa, 50, 40, {{.name = "Y"}}, 5);
    CHECK(beside_reference(gray, {0}).worst <= 6);
    const auto depth = support::write_lossy_exr(dwab, 50, 40, {{.name = "Z", .type = 2}}, 6);
    const auto values = floats_of(must(read_picture(depth.file)));
    CHECK(values == depth.channels[0]);
    const auto layers = support::write_lossy_exr(dwaa, 40, 70,
                                                 {{.name = "back.B"},
                                                  {.name = "back.G"},
                                                  {.name = "back.R"},
                                                  {.name = "front.B"},
                                                  {.name = "front.G"},
                                                  {.name = "front.R"},
                                                  {.name = "front.id", .type = 0}},
                                                 7);
    CHECK(beside_reference(layers, {2, 1, 0}).worst <= 6);
    // Without one of a triple the others stand alone.
    const auto two = support::write_lossy_exr(dwaa, 40, 70, {{.name = "G"}, {.name = "Y"}}, 8);
    CHECK(beside_reference(two, {1}).worst <= 6);
}

TEST_CASE("luminance with coarser chroma under every compression") {
    for (const int compression : {b44, dwaa, piz}) {
        const auto lossy = support::write_lossy_exr(
            compression, 60, 40,
            {{.name = "BY", .step = 2}, {.name = "RY", .step = 2}, {.name = "Y"}}, 9);
        const Picture picture = must(read_picture(lossy.file));
        CHECK(info(picture.image.format()).channel_count == 3);
    }
}

TEST_CASE("parts are read by name, the first one without") {
    const auto file = support::write_reference_parts(
        {{"left", {.compression = zip, .channels = "RGB"}},
         {"mask", {.compression = piz, .channels = "Y", .data = {0, 0, 40, 30}}},
         {"tiles", {.channels = "RGBA", .data = {0, 0, 50, 33}, .tile = 16}},
         {"right", {.compression = b44a, .channels = "Y", .data = {2, 1, 8, 5}}}});
    const Picture first = must(read_picture(file));
    CHECK(floats_of(first) == expected({.channels = "RGB"}, "RGB"));
    CHECK(contains(first.info.remarks.at(0), "'left'"));
    CHECK(contains(first.info.remarks.at(0), "'tiles'"));
    CHECK(floats_of(must(read_picture(file, {.part = "mask"}))) ==
          expected({.data = {0, 0, 40, 30}}, "Y"));
    const auto levels = must(read_levels(file, {.part = "tiles"}));
    CHECK(levels.size() == 6);
    CHECK(floats_of(levels[0]) == expected({.data = {0, 0, 50, 33}}, "RGBA"));
    CHECK(must(read_picture(file, {.part = "right"})).image.width() == 10);
    const Error error = must_fail(read_picture(file, {.part = "middle"}));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(contains(error.message, "'right'"));
    CHECK(must(peek_picture(file)).width == 10);
    const auto png =
        must(encode_picture("png", support::view_of(must(Image::create(Format::r8_unorm, 1, 1)))));
    CHECK(must_fail(read_picture(png, {.part = "left"})).kind == ErrorKind::usage);
}

TEST_CASE("levels of tiles are read, each with its own samples") {
    for (const bool each_axis : {false, true})
        for (const bool rounds_up : {false, true})
            for (const auto& size :
                 {std::array{1, 1}, std::array{64, 64}, std::array{70, 33}, std::array{5, 100}}) {
                CAPTURE(each_axis);
                CAPTURE(rounds_up);
                CAPTURE(size[0]);
                const auto levels = must(read_levels(
                    support::write_reference_levels(size[0], size[1], each_axis, rounds_up)));
                int width = size[0], height = size[1];
                for (std::size_t level = 0; level < levels.size(); ++level) {
                    CAPTURE(level);
                    REQUIRE(levels[level].image.width() == static_cast<std::uint32_t>(width));
                    REQUIRE(levels[level].image.height() == static_cast<std::uint32_t>(height));
                    const auto values = floats_of(levels[level]);
                    for (int y = 0; y < height; ++y)
                        for (int x = 0; x < width; ++x)
                            REQUIRE(values[static_cast<std::size_t>(y * width + x)] ==
                                    exr_value('Y', x, y) + 64.0F * static_cast<float>(level));
                    width = std::max((width + (rounds_up ? 1 : 0)) / 2, 1);
                    height = std::max((height + (rounds_up ? 1 : 0)) / 2, 1);
                }
                const std::uint32_t last =
                    std::min(levels.back().image.width(), levels.back().image.height());
                CHECK(last == 1);
                CHECK((each_axis ||
                       std::max(levels.back().image.width(), levels.back().image.height()) == 1));
            }
    CHECK(must(read_levels(support::write_reference_exr({.tile = 16}))).size() == 1);
    const auto file = support::write_reference_levels(64, 64, false, false);
    CHECK(must_fail(read_levels(file, {.limits = {.max_bytes = 20000}})).kind == ErrorKind::limit);
}

TEST_CASE("files cut off at any byte are errors, and flipped bits never more than wrong pixels") {
    for (const int compression : {1, zip, piz, b44, dwaa}) {
        const auto file = support::write_reference_exr({.compression = compression,
                                                        .channels = "RG",
                                                        .data = {0, 0, 5, 4},
                                                        .display = {0, 0, 5, 4}});
        support::check_every_cut(file);
        support::flip_every_bit(file);
    }
}

TEST_CASE("parts and levels cut off or damaged are errors, or wrong pixels") {
    const auto parts = support::write_reference_parts(
        {{"a", {.compression = dwaa, .channels = "RGB"}}, {"b", {.channels = "Y", .tile = 16}}});
    support::flip_every_bit(parts);
    support::flip_every_bit(parts, {.part = "b"});
    const auto levels = support::write_reference_levels(20, 17, false, false);
    for (std::size_t size = 0; size < levels.size(); size += 3)
        CHECK_FALSE(read_levels(std::span(levels).first(size)));
    for (std::size_t bit = 0; bit < levels.size() * 8; bit += 5) {
        auto damaged = levels;
        damaged[bit / 8] ^= static_cast<std::byte>(1U << bit % 8);
        const auto read = read_levels(damaged, {.limits = support::damage_limits});
        CHECK((read || !read.error().message.empty()));
    }
}
