#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

Image gray_image(int code) {
    Image image = must(Image::create(Format::r8_srgb, 3, 2));
    for (std::uint32_t y = 0; y < 2; ++y)
        for (std::byte& byte : image.view().row(y))
            byte = static_cast<std::byte>(code);
    return image;
}

}  // namespace

TEST_CASE("many files at once: every picture arrives once, and every failure by itself") {
    const support::TemporaryFolder folder;
    std::vector<std::filesystem::path> paths;
    for (int i = 0; i < 60; ++i) {
        paths.push_back(folder.path(std::to_string(i) + ".png"));
        if (i % 10 == 3)
            continue;  // missing
        must(write_picture(paths.back(), support::view_of(gray_image(i))));
        if (i % 10 == 7)
            support::write_text(paths.back().string(), "broken");
    }
    std::vector<int> arrivals(paths.size());
    int failures = 0;
    read_pictures(paths, [&](std::size_t index, const Result<Picture>& picture) {
        ++arrivals[index];
        const bool bad = index % 10 == 3 || index % 10 == 7;
        CHECK(picture.has_value() != bad);
        if (picture)
            CHECK(std::to_integer<std::size_t>(picture->image.view().row(1)[2]) == index);
        if (picture)
            return;
        ++failures;
        CHECK(picture.error().place == paths[index]);
        CHECK(picture.error().kind ==
              (index % 10 == 3 ? ErrorKind::missing : ErrorKind::unsupported));
    });
    CHECK(failures == 12);
    for (const int count : arrivals)
        CHECK(count == 1);
}

TEST_CASE("a program's own reader is asked first, and its pictures are baked like any other") {
    ReadOptions options;
    options.further_readers.push_back(
        {"garden plan",
         [](std::span<const std::byte> bytes) {
             return !bytes.empty() && bytes[0] == std::byte{'g'};
         },
         [](std::span<const std::byte> bytes, const ReadOptions&) -> Result<Picture> {
             if (bytes.size() < 2)
                 return fail(ErrorKind::malformed, "an empty plan");
             Picture picture;
             picture.image = gray_image(std::to_integer<int>(bytes[1]));
             picture.swizzle = gray_swizzle;
             return picture;
         }});
    const Picture picture = must(read_picture(support::bytes_of({'g', 42}), options));
    CHECK(picture.info.file_format == "garden plan");
    CHECK(std::to_integer<int>(support::level_of(must(bake(picture)).texture, 0)[1]) == 42);
    CHECK(
        contains(must_fail(read_picture(support::bytes_of({'g'}), options)).message, "empty plan"));
    CHECK(must_fail(read_picture(support::bytes_of({'g', 42}))).kind == ErrorKind::unsupported);
}

TEST_CASE("files are recognised by content, and a name that says otherwise is remarked") {
    const support::TemporaryFolder folder;
    support::write_bytes(folder.path("picture.tga"),
                         must(encode_picture("png", support::view_of(gray_image(1)))));
    const Picture picture = must(read_picture(folder.path("picture.tga")));
    CHECK(picture.info.file_format == "PNG");
    CHECK(contains(picture.info.remarks.at(0), "says TGA, but it holds PNG"));
    must(write_picture(folder.path("right.png"), support::view_of(gray_image(1))));
    CHECK(must(read_picture(folder.path("right.png"))).info.remarks.empty());
}

TEST_CASE("two channels that are seen as red and green are written as three") {
    Picture pairs;
    pairs.image = must(Image::create(Format::rg8_unorm, 1, 1));
    pairs.image.view().row(0)[0] = std::byte{40};
    pairs.image.view().row(0)[1] = std::byte{90};
    pairs.transfer = Transfer::linear;
    const Picture fitted = must(fitted_to("png", pairs));
    REQUIRE(info(fitted.image.format()).channel_count == 3);
    CHECK(fitted.image.view().row(0)[0] == std::byte{40});
    CHECK(fitted.image.view().row(0)[1] == std::byte{90});
    // Gray with alpha are two channels in a file, too.
    pairs.swizzle = gray_alpha_swizzle;
    CHECK(info(must(fitted_to("png", pairs)).image.format()).channel_count == 2);
}
