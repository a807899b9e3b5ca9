#include <cmath>
#include <cstring>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/damage.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

std::vector<std::byte> file_of(const std::string& lines, const std::string& resolution,
                               std::initializer_list<int> pixels) {
    ByteWriter writer;
    writer.append("#?RADIANCE\n" + lines + "\n" + resolution + "\n");
    for (const int byte : pixels)
        writer.write(static_cast<std::uint8_t>(byte));
    return writer.release();
}

std::vector<float> floats_of(const Picture& picture) {
    const auto bytes = support::bytes_of(picture.image.view());
    std::vector<float> values(bytes.size() / 4);
    std::memcpy(values.data(), bytes.data(), bytes.size());
    return values;
}

/// The red channel alone.
std::vector<float> reds(const std::vector<std::byte>& file) {
    std::vector<float> values;
    const auto all = floats_of(must(read_picture(file)));
    for (std::size_t i = 0; i < all.size(); i += 3)
        values.push_back(all[i]);
    return values;
}

}  // namespace

TEST_CASE("flat pixels: mantissa times two to the exponent less 136") {
    const auto file =
        file_of("FORMAT=32-bit_rle_rgbe\n", "-Y 1 +X 2", {128, 64, 255, 129, 200, 100, 50, 0});
    CHECK(floats_of(must(read_picture(file))) ==
          std::vector<float>{1.0F, 0.5F, 255.0F / 128, 0, 0, 0});
    CHECK(must(read_picture(file)).transfer == Transfer::linear);
}

TEST_CASE("the newer run lengths, by channel, and the older ones, by pixel") {
    const auto packed = file_of("FORMAT=32-bit_rle_rgbe\n", "-Y 1 +X 8",
                                {2, 2, 0,   8, 128 + 8, 128, 8, 1, 2, 3, 4, 5,   6,
                                 7, 8, 130, 9, 6,       9,   9, 9, 9, 9, 9, 136, 129});
    CHECK(reds(packed) == std::vector<float>(8, 1.0F));
    CHECK(floats_of(must(read_picture(packed)))[1] == 1.0F / 128);
    CHECK(floats_of(must(read_picture(packed)))[22] == 8.0F / 128);
    const auto old = file_of("FORMAT=32-bit_rle_rgbe\n", "-Y 1 +X 5",
                             {128, 0, 0, 129, 1, 1, 1, 3, 64, 0, 0, 129});
    CHECK(reds(old) == std::vector<float>{1, 1, 1, 1, 0.5F});
    std::vector<float> many(2 + 1 + 256, 1.0F);
    many.push_back(0.5F);
    CHECK(reds(file_of("FORMAT=32-bit_rle_rgbe\n", "-Y 1 +X 260",
                       {128, 0, 0, 129, 1, 1, 1, 2, 1, 1, 1, 1, 64, 0, 0, 129})) == many);
}

TEST_CASE("all eight orientations show the same picture") {
    // Picture: 1 2 / 3 4, in mantissas.
    const auto seen = [](const std::string& resolution, std::array<int, 4> order) {
        const auto file = file_of(
            "FORMAT=32-bit_rle_rgbe\n", resolution,
            {order[0], 0, 0, 136, order[1], 0, 0, 136, order[2], 0, 0, 136, order[3], 0, 0, 136});
        return reds(file);
    };
    const std::vector<float> upright = {1, 2, 3, 4};
    CHECK(seen("-Y 2 +X 2", {1, 2, 3, 4}) == upright);
    CHECK(seen("-Y 2 -X 2", {2, 1, 4, 3}) == upright);
    CHECK(seen("+Y 2 +X 2", {3, 4, 1, 2}) == upright);
    CHECK(seen("+Y 2 -X 2", {4, 3, 2, 1}) == upright);
    CHECK(seen("+X 2 -Y 2", {1, 3, 2, 4}) == upright);
    CHECK(seen("-X 2 -Y 2", {2, 4, 1, 3}) == upright);
    CHECK(seen("+X 2 +Y 2", {3, 1, 4, 2}) == upright);
    CHECK(seen("-X 2 +Y 2", {4, 2, 3, 1}) == upright);
    const Picture tall = must(read_picture(
        file_of("FORMAT=32-bit_rle_rgbe\n", "+X 1 -Y 2", {1, 0, 0, 136, 2, 0, 0, 136})));
    CHECK(tall.image.width() == 1);
    CHECK(tall.image.height() == 2);
}

TEST_CASE("exposures are divided out, XYZ becomes RGB, and both are said") {
    const Picture exposed = must(read_picture(file_of(
        "EXPOSURE=2\nFORMAT=32-bit_rle_rgbe\nEXPOSURE= 2.0\n", "-Y 1 +X 1", {128, 0, 0, 129})));
    CHECK(floats_of(exposed)[0] == 0.25F);
    CHECK(exposed.info.remarks.size() == 1);
    // The white of D65: X 0.9505, Y 1, Z 1.089, at steps of 1 / 128.
    const auto white = floats_of(
        must(read_picture(file_of("FORMAT=32-bit_rle_xyze\n", "-Y 1 +X 1", {122, 128, 139, 129}))));
    for (const float value : white)
        CHECK(value == doctest::Approx(1).epsilon(0.01));
}

TEST_CASE("what is written is read back within half a step of the greatest channel") {
    for (const std::uint32_t width : {1U, 7U, 8U, 300U}) {
        const Texture texture = support::random_texture(
            {.format = Format::rgb32_float, .width = width, .height = 3}, 5);
        const Picture back = must(read_picture(must(encode_picture("hdr", texture.image(0)))));
        const auto read = floats_of(back);
        const auto* sent = reinterpret_cast<const float*>(texture.level(0).data());
        for (std::size_t i = 0; i < read.size(); ++i) {
            const std::size_t first = i / 3 * 3;
            const float most = std::max({sent[first], sent[first + 1], sent[first + 2]});
            CHECK(std::abs(read[i] - sent[i]) <= most / 256 * 1.001F);
        }
    }
    Image flat = must(Image::create(Format::rgb32_float, 500, 2));
    for (std::uint32_t y = 0; y < 2; ++y)
        std::fill_n(reinterpret_cast<float*>(flat.view().row(y).data()), 1500, 0.75F);
    const auto file = must(encode_picture("hdr", flat.view()));
    CHECK(file.size() < 150);
    for (const float value : reds(file))
        CHECK(value == 0.75F);
}

TEST_CASE("broken files are refused") {
    const auto file = file_of("FORMAT=32-bit_rle_rgbe\n", "-Y 1 +X 8",
                              {2, 2, 0, 8, 136, 128, 136, 1, 136, 2, 136, 129});
    must(read_picture(file));
    support::check_every_cut(file);
    support::flip_every_bit(file);
    CHECK(contains(must_fail(read_picture(file_of("FORMAT=8-bit\n", "-Y 1 +X 1", {}))).message,
                   "8-bit"));
    CHECK(contains(must_fail(read_picture(file_of("", "-Y 1 +Y 1", {}))).message, "resolution"));
    CHECK(contains(must_fail(read_picture(file_of("", "-Y 1 +X 8", {2, 2, 0, 8, 200, 1}))).message,
                   "fit its row"));
    CHECK(must_fail(read_picture(file_of("", "-Y 90000 +X 8", {}))).kind == ErrorKind::malformed);
}

TEST_CASE("the line of the size has a sign and an axis twice, of both axes") {
    for (const char* line : {"-Y 1 +Z 1", "-Y 1 *X 1", "*Y 1 +X 1", "-Z 1 +X 1", "-Y 1 +Y 1",
                             "-X 1 +X 1", "-Y 1", "-Y 0 +X 1", "-Y 1 +X 0"}) {
        CAPTURE(line);
        CHECK_FALSE(read_picture(file_of("FORMAT=32-bit_rle_rgbe\n", line, {128, 128, 128, 129}))
                        .has_value());
    }
    for (const char* line : {"-Y 1 +X 1", "+Y 1 +X 1", "-Y 1 -X 1", "+X 1 -Y 1", "-X 1 +Y 1"}) {
        CAPTURE(line);
        CHECK(read_picture(file_of("FORMAT=32-bit_rle_rgbe\n", line, {128, 128, 128, 129}))
                  .has_value());
    }
}
