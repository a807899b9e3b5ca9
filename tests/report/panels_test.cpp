#include <cmath>
#include <yl/yl.hpp>

#include "report/canvas.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

namespace {

Image filled(std::uint32_t width, std::uint32_t height, int code) {
    Image image = must(Image::create(Format::rgba8_srgb, width, height));
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::byte& byte : image.view().row(y))
            byte = static_cast<std::byte>(code);
    return image;
}

int count_code(ConstImageView image, int code) {
    int count = 0;
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::uint32_t x = 0; x < image.width; ++x)
            count += std::to_integer<int>(image.row(y)[x * 4]) == code ? 1 : 0;
    return count;
}

}  // namespace

TEST_CASE("pictures keep their pixels and stand in rows and columns") {
    std::vector<LabelledPicture> pictures;
    for (int i = 0; i < 3; ++i)
        pictures.push_back({filled(40, 20, 255), "name", ""});
    const Image two = must(arrange_panels(pictures, 2, ""));
    const Image three = must(arrange_panels(pictures, 3, ""));
    CHECK(two.width() < three.width());
    CHECK(two.height() > three.height());
    CHECK(count_code(two.view(), 255) >= 3 * 800);
    CHECK(must(arrange_panels(pictures, 2, "a heading")).height() > two.height());
}

TEST_CASE("labels are drawn, and long ones broken at spaces") {
    CHECK(text_width("iiii", TextSize::small) < text_width("MMMM", TextSize::small));
    CHECK(text_width("M", TextSize::small) < text_width("M", TextSize::large));
    const auto lines =
        break_lines("one two three", TextSize::small, text_width("one two", TextSize::small));
    CHECK(lines == std::vector<std::string>{"one two", "three"});
    CHECK(break_lines("unbreakable", TextSize::small, 3).size() == 11);
    Canvas canvas = must(Canvas::create(60, 30, {0, 0, 0}));
    canvas.text(2, 2, "l", TextSize::large, {255, 255, 255});
    canvas.text(50, 25, "clipped at the edge", TextSize::large, {255, 255, 255});
    const Image image = std::move(canvas).take();
    CHECK(count_code(image.view(), 255) >= 10);  // the stem of the letter
}

TEST_CASE(
    "labels are UTF-8: Latin letters have glyphs, and what is none is shown as a question mark") {
    const auto width = [](std::string_view text) { return text_width(text, TextSize::small); };
    std::string_view text = "a\xC3\xA9\xE2\x80\xA6\xF0\x9F\x98\x80\xFF\xC3";
    const std::vector<char32_t> expected = {'a', 0xE9, 0x2026, 0x1F600, 0xFFFD, 0xFFFD};
    for (const char32_t character : expected)
        CHECK(take_character(text) == character);
    CHECK(text.empty());
    const auto differs = [](char32_t a, char32_t b) {
        const Letter one = letter(a, TextSize::large), other = letter(b, TextSize::large);
        return one.coverage != other.coverage;
    };
    for (const char32_t latin : {0xE9U, 0xDFU, 0x141U, 0x159U, 0x2013U, 0x2026U, 0x2212U})
        CHECK(differs(latin, U'?'));
    CHECK(differs(0xE9, U'e'));
    CHECK_FALSE(differs(0x1F600, U'?'));
    CHECK(width("\xC3\xA9") == width("e"));
    const std::string cut = cut_to_width("a long name of a file.png", TextSize::small, 60);
    CHECK(width(cut) <= 60);
    CHECK(cut.ends_with("\xE2\x80\xA6"));
    CHECK(cut.starts_with("a lo"));
    CHECK(cut_to_width("short", TextSize::small, 60) == "short");
    for (const std::string& line :
         break_lines("one_very_long_name.png and more", TextSize::small, 50))
        CHECK(width(line) <= 50);
}

TEST_CASE("long headings and labels widen a small picture, and no further") {
    std::vector<LabelledPicture> pictures;
    pictures.push_back({filled(2, 2, 255), std::string(300, 'w'), ""});
    const Image sheet = must(arrange_panels(pictures, 3, std::string(500, 'm')));
    CHECK(sheet.width() <= 700);
    CHECK(sheet.height() > 100);
    const std::vector<ColorKey> keys = {{{1, 1, 1, 1}, std::string(200, 'k')}};
    CHECK(must(with_keys(support::view_of(filled(80, 20, 9)), keys)).width() == 80);
}

TEST_CASE("what is filled has its colour to the code, whatever was there before") {
    for (const int before : {0, 1, 77, 128, 254, 255}) {
        Canvas canvas = must(Canvas::create(9, 5, {0, 0, 0}));
        canvas.place(0, 0, support::view_of(filled(9, 5, before)));
        canvas.fill(0, 0, 9, 5, paper);
        const Image picture = std::move(canvas).take();
        for (std::uint32_t y = 0; y < 5; ++y)
            for (std::uint32_t x = 0; x < 9; ++x)
                for (std::size_t c = 0; c < 4; ++c)
                    CHECK(std::to_integer<int>(picture.view().row(y)[4 * x + c]) ==
                          (c < 3 ? paper[c] : 255));
    }
    // Ink at full coverage is the ink, on dark and on light ground.
    for (const std::uint8_t ground : {std::uint8_t{0}, std::uint8_t{255}}) {
        Canvas canvas = must(Canvas::create(60, 30, {ground, ground, ground}));
        canvas.text(0, 0, "HI", TextSize::large, {100, 100, 100});
        CHECK(count_code(support::view_of(std::move(canvas).take()), 100) > 10);
    }
}

TEST_CASE("nothing to arrange, or the wrong format, is refused") {
    CHECK(must_fail(arrange_panels({}, 1, "")).kind == ErrorKind::usage);
    std::vector<LabelledPicture> pictures;
    pictures.push_back({must(Image::create(Format::r8_unorm, 1, 1)), "", ""});
    CHECK(must_fail(arrange_panels(pictures, 1, "")).kind == ErrorKind::usage);
    // A map of differences needs a number above 0 that is full.
    const Image one = filled(2, 2, 100);
    for (const double full : {0.0, -1.0, std::nan("")})
        CHECK(must_fail(draw_difference(one.view(), one.view(), full)).kind == ErrorKind::usage);
    CHECK(draw_difference(one.view(), one.view(), 1e-3).has_value());
}

TEST_CASE("differences are counted, measured and placed") {
    Image a = filled(10, 10, 100);
    Image b = filled(10, 10, 100);
    b.view().row(4)[7 * 4 + 1] = std::byte{104};
    b.view().row(5)[1 * 4 + 2] = std::byte{98};
    const PictureDifference difference = must(compare_pictures(a.view(), b.view(), 2));
    CHECK(difference.max == 4);
    CHECK(difference.worst_x == 7);
    CHECK(difference.worst_y == 4);
    CHECK(difference.pixels_beyond == 1);
    CHECK(difference.share_within() == doctest::Approx(0.99));
    CHECK(difference.mean == doctest::Approx(6.0 / 400));
    CHECK(must_fail(compare_pictures(a.view(), support::view_of(filled(10, 9, 1)), 2)).kind ==
          ErrorKind::usage);
}
