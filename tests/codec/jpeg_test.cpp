#include <algorithm>
#include <cstdlib>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/damage.hpp"
#include "support/pictures.hpp"
#include "support/reference_jpeg.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::ReferenceJpeg;

namespace {

std::vector<int> codes(const Picture& picture) {
    std::vector<int> result;
    for (const std::byte byte : support::bytes_of(picture.image.view()))
        result.push_back(std::to_integer<int>(byte));
    return result;
}

int max_difference(const std::vector<int>& a, const std::vector<int>& b) {
    REQUIRE(a.size() == b.size());
    int most = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        most = std::max(most, std::abs(a[i] - b[i]));
    return most;
}

int difference_from_reference(const ReferenceJpeg& kind) {
    const auto file = support::write_reference_jpeg(kind);
    return max_difference(codes(must(read_picture(file))), support::read_reference_jpeg(file));
}

/// What CMYK values of Adobe's kind, 255 less ink, look like without a profile.
std::vector<int> rgb_of_inverted_cmyk(const std::vector<int>& cmyk) {
    std::vector<int> rgb;
    for (std::size_t i = 0; i < cmyk.size(); i += 4)
        for (std::size_t c = 0; c < 3; ++c)
            rgb.push_back((cmyk[i + c] * cmyk[i + 3] + 127) / 255);
    return rgb;
}

std::string exif_with(int orientation, bool little) {
    std::string tiff = little ? std::string("II\x2A\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0", 18)
                              : std::string("MM\0\x2A\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01", 18);
    tiff += little ? std::string(1, static_cast<char>(orientation)) + std::string(3, '\0')
                   : std::string(1, '\0') + static_cast<char>(orientation) + std::string(2, '\0');
    return std::string("Exif\0\0", 6) + tiff + std::string(4, '\0');
}

}  // namespace

TEST_CASE("gray and 4:4:4, baseline and progressive: within 1 of the reference, at any size") {
    for (const auto& size : {std::pair{1U, 1U}, {8U, 8U}, {17U, 9U}, {100U, 75U}})
        for (const bool progressive : {false, true})
            for (const int components : {1, 3})
                for (const int quality : {30, 75, 98}) {
                    const auto width = size.first;
                    const auto height = size.second;

                    CAPTURE(width);
                    CAPTURE(progressive);
                    CAPTURE(components);
                    CAPTURE(quality);
                    CHECK(difference_from_reference({.width = width,
                                                     .height = height,
                                                     .components = components,
                                                     .progressive = progressive,
                                                     .quality = quality}) <= 1);
                }
}

TEST_CASE("subsampled chroma: within 2 of the reference") {
    for (const std::array<int, 2> luma :
         {std::array{2, 1}, {1, 2}, {2, 2}, {4, 1}, {4, 2}, {1, 4}, {3, 1}})
        for (const bool progressive : {false, true})
            for (const auto& size : {std::pair{64U, 48U}, {33U, 21U}, {3U, 5U}}) {
                const auto width = size.first;
                const auto height = size.second;

                CAPTURE(luma[0]);
                CAPTURE(luma[1]);
                CAPTURE(width);
                CAPTURE(progressive);
                CHECK(difference_from_reference({.width = width,
                                                 .height = height,
                                                 .luma = luma,
                                                 .progressive = progressive}) <= 2);
            }
}

namespace {

constexpr std::array<std::array<int, 2>, 8> samplings = {
    {{1, 1}, {2, 1}, {1, 2}, {2, 2}, {4, 1}, {1, 4}, {4, 2}, {3, 1}}};

/// The file with its frame saying 12 bits a sample: the same coefficients, other pixels.
std::vector<std::byte> as_12_bits(std::vector<std::byte> file) {
    for (std::size_t i = 0; i + 4 < file.size(); ++i)
        if (file[i] == std::byte{0xFF} &&
            (file[i + 1] == std::byte{0xC0} || file[i + 1] == std::byte{0xC1} ||
             file[i + 1] == std::byte{0xC2})) {
            if (file[i + 1] == std::byte{0xC0})
                file[i + 1] = std::byte{0xC1};  // extended: baseline has 8 bits
            file[i + 4] = std::byte{12};
            return file;
        }
    return file;
}

}  // namespace

TEST_CASE("coefficients that are kept share memory with the pixels: every height and sampling") {
    // Progressive files, and sequential ones of several scans, keep all coefficients in the memory
    // that their pixels fill.
    for (const std::array<int, 2>& luma : samplings)
        for (std::uint32_t height = 17; height < 17 + 33; ++height)
            for (const int components : {1, 3})
                for (const bool separate : {false, true}) {
                    if (components == 1 && (luma != samplings[0] || separate))
                        continue;
                    const ReferenceJpeg kept{.width = 40,
                                             .height = height,
                                             .components = components,
                                             .luma = luma,
                                             .progressive = !separate,
                                             .separate_scans = separate};
                    CAPTURE(luma[0]);
                    CAPTURE(luma[1]);
                    CAPTURE(height);
                    CAPTURE(separate);
                    const auto file = support::write_reference_jpeg(kept);
                    const auto expected = support::read_reference_jpeg(file);
                    CHECK(max_difference(codes(must(read_picture(file))), expected) <= 2);
                    const Picture wide = must(read_picture(file, {.widen_to_rgba = true}));
                    CHECK(support::equal_pixels(
                        wide.image.view(),
                        support::view_of(
                            must(convert(must(read_picture(file)), wide.image.format())).image)));
                    // The same coefficients from one sequential scan, which keeps none of them.
                    ReferenceJpeg flowing = kept;
                    flowing.progressive = flowing.separate_scans = false;
                    const auto deep = as_12_bits(file);
                    const auto deep_flowing = as_12_bits(support::write_reference_jpeg(flowing));
                    for (const bool widen : {false, true})
                        CHECK(support::equal_pixels(
                            support::view_of(
                                must(read_picture(deep, {.widen_to_rgba = widen})).image),
                            support::view_of(
                                must(read_picture(deep_flowing, {.widen_to_rgba = widen})).image)));
                }
}

TEST_CASE("4:4:0: halves go down in even rows and up in odd ones, as the reference has them") {
    for (const std::uint32_t height : {16U, 33U})
        CHECK(difference_from_reference({.width = 50, .height = height, .luma = {1, 2}}) <= 1);
}

TEST_CASE("what JFIF says of colours counts more than a marker of Adobe's") {
    auto file = support::write_reference_jpeg({.width = 16, .height = 16});
    const Picture before = must(read_picture(file));
    const std::string adobe(
        "\xFF\xEE\x00\x0E"
        "Adobe\x00\x64\x00\x00\x00\x00\x00",
        16);
    const auto bytes = std::as_bytes(std::span(adobe));
    const std::size_t behind_jfif = 2 + 18;
    REQUIRE(contains(std::string(reinterpret_cast<const char*>(file.data()), 12), "JFIF"));
    file.insert(file.begin() + behind_jfif, bytes.begin(), bytes.end());
    CHECK(support::equal_pixels(support::view_of(must(read_picture(file)).image),
                                before.image.view()));
}

TEST_CASE("files without their end, or with stray bytes between segments, are read with a remark") {
    for (const bool progressive : {false, true}) {
        const auto file = support::write_reference_jpeg(
            {.width = 40, .height = 24, .luma = {2, 2}, .progressive = progressive});
        const Picture whole = must(read_picture(file));
        const Picture endless = must(read_picture(std::span(file).first(file.size() - 2)));
        CHECK(support::equal_pixels(endless.image.view(), whole.image.view()));
        CHECK(contains(endless.info.remarks.at(0), "ends without its end marker"));
        auto stray = file;
        const std::size_t behind_jfif = 2 + 18;
        stray.insert(stray.begin() + behind_jfif, 3, std::byte{0x20});
        const Picture passed = must(read_picture(stray));
        CHECK(support::equal_pixels(passed.image.view(), whole.image.view()));
        CHECK(contains(passed.info.remarks.at(0), "3 stray bytes"));
        if (progressive)  // without its last scan a picture is not whole
            for (std::size_t i = file.size() - 2; i-- > 0;)
                if (file[i] == std::byte{0xFF} && file[i + 1] == std::byte{0xDA}) {
                    must_fail(read_picture(std::span(file).first(i)));
                    break;
                }
    }
}

TEST_CASE("restart intervals, optimised tables, 16-bit tables, RGB without conversion") {
    CHECK(difference_from_reference(
              {.width = 90, .height = 70, .luma = {2, 2}, .restart_blocks = 3}) <= 2);
    CHECK(difference_from_reference(
              {.width = 90, .height = 70, .progressive = true, .restart_blocks = 5}) <= 1);
    CHECK(difference_from_reference({.width = 90, .height = 70, .restart_rows = 1}) <= 1);
    CHECK(difference_from_reference({.width = 90, .height = 70, .optimized = true}) <= 1);
    CHECK(difference_from_reference({.width = 90, .height = 70, .quality = 1}) <= 1);
    CHECK(difference_from_reference({.width = 90, .height = 70, .convert = false}) <= 1);
}

TEST_CASE("CMYK and YCCK as Adobe's programs write them become RGB, and that is said") {
    // Strong colours at a low quality ring beyond what is there, and are cut off before ink is
    // applied.
    struct Kind {
        bool convert;
        int quality;
        double amplitude;
    };
    for (const Kind& kind :
         {Kind{false, 90, 90}, {true, 90, 90}, {false, 30, 400}, {true, 30, 400}}) {
        const auto file = support::write_reference_jpeg({.width = 40,
                                                         .height = 30,
                                                         .components = 4,
                                                         .convert = kind.convert,
                                                         .quality = kind.quality,
                                                         .amplitude = kind.amplitude});
        const Picture picture = must(read_picture(file));
        CHECK(max_difference(codes(picture),
                             rgb_of_inverted_cmyk(support::read_reference_jpeg(file))) <= 2);
        CHECK(contains(picture.info.remarks.at(0), "CMYK"));
        CHECK(picture.info.file_channels == 3);  // inks are no alpha
    }
}

TEST_CASE("the orientation of EXIF is applied and said, or only said") {
    for (const bool little : {false, true})
        for (int orientation = 1; orientation <= 8; ++orientation) {
            const auto file = support::write_reference_jpeg(
                {.width = 20, .height = 12, .exif = exif_with(orientation, little)});
            const Picture as_stored = must(read_picture(file, {.apply_orientation = false}));
            const Picture upright = must(read_picture(file));
            CAPTURE(orientation);
            CHECK(as_stored.image.width() == 20);
            CHECK(upright.image.width() == (orientation >= 5 ? 12 : 20));
            CHECK(upright.info.remarks.size() == (orientation == 1 ? 0 : 1));
            CHECK(support::equal_pixels(
                upright.image.view(),
                support::view_of(must(with_orientation(as_stored.image.view(),
                                                       static_cast<Orientation>(orientation))))));
        }
}

TEST_CASE("all eight turns, worked out by hand") {
    Image image = must(Image::create(Format::r8_unorm, 3, 2));  // 1 2 3 / 4 5 6
    for (std::uint32_t i = 0; i < 6; ++i)
        image.view().row(i / 3)[i % 3] = static_cast<std::byte>(i + 1);
    const auto seen = [&](Orientation orientation) {
        return support::bytes_of(
            support::view_of(must(with_orientation(std::as_const(image).view(), orientation))));
    };
    CHECK(seen(Orientation::none) == support::bytes_of({1, 2, 3, 4, 5, 6}));
    CHECK(seen(Orientation::mirror) == support::bytes_of({3, 2, 1, 6, 5, 4}));
    CHECK(seen(Orientation::half) == support::bytes_of({6, 5, 4, 3, 2, 1}));
    CHECK(seen(Orientation::flip) == support::bytes_of({4, 5, 6, 1, 2, 3}));
    CHECK(seen(Orientation::transpose) == support::bytes_of({1, 4, 2, 5, 3, 6}));
    CHECK(seen(Orientation::quarter_right) == support::bytes_of({4, 1, 5, 2, 6, 3}));
    CHECK(seen(Orientation::transverse) == support::bytes_of({6, 3, 5, 2, 4, 1}));
    CHECK(seen(Orientation::quarter_left) == support::bytes_of({3, 6, 2, 5, 1, 4}));
}

TEST_CASE("a file that ends early is an error, unless partial pictures are asked for") {
    for (const bool progressive : {false, true}) {
        const auto file =
            support::write_reference_jpeg({.width = 64, .height = 64, .progressive = progressive});
        const auto half = std::span(file).first(file.size() / 2);
        CHECK(contains(must_fail(read_picture(half)).message, "early"));
        const Picture partial = must(read_picture(half, {.allow_partial = true}));
        CHECK(contains(partial.info.remarks.at(0), "incomplete"));
        const Picture whole = must(read_picture(file));
        const auto first_row = [](const Picture& picture) { return picture.image.view().row(0); };
        if (!progressive)
            CHECK(std::ranges::equal(first_row(partial), first_row(whole)));
    }
}

TEST_CASE("kinds of JPEG that are not handled are named") {
    auto file = support::write_reference_jpeg({.width = 8, .height = 8, .components = 1});
    const std::array start_of_frame = {std::byte{0xFF}, std::byte{0xC0}};
    const auto frame =
        std::search(file.begin(), file.end(), start_of_frame.begin(), start_of_frame.end());
    REQUIRE(frame != file.end());
    for (const auto& [marker, name] : {std::pair{0xC3, "lossless"},
                                       {0xC5, "hierarchical"},
                                       {0xC9, "arithmetic"},
                                       {0xF7, "JPEG-LS"}}) {
        *(frame + 1) = static_cast<std::byte>(marker);
        const Error error = must_fail(read_picture(file));
        CHECK(error.kind == ErrorKind::unsupported);
        CHECK(contains(error.message, name));
    }
}

TEST_CASE("files cut off at any byte are errors, and flipped bits never more than wrong pixels") {
    for (const ReferenceJpeg& kind :
         {ReferenceJpeg{.width = 16, .height = 8, .luma = {2, 1}, .restart_blocks = 1},
          ReferenceJpeg{
              .width = 9, .height = 9, .components = 1, .progressive = true, .quality = 50}}) {
        const auto file = support::write_reference_jpeg(kind);
        support::check_every_cut(file);
        support::flip_every_bit(file);
        support::flip_every_bit(file, {.allow_partial = true});
    }
}
