// Rows as they come out of a file are those of the picture read whole.
#include <yl/picture_rows.hpp>
#include <yl/status_macros.hpp>

#include "base/bytes.hpp"
#include "codec/png/chunks.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_png.hpp"
#include "support/reference_tiff.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

std::shared_ptr<const Files> one_file(std::span<const std::byte> bytes) {
    return memory_files(
        {{"file", SharedBytes(std::vector<std::byte>(bytes.begin(), bytes.end()))}});
}

/// In bands of 1, 2, 3 ... rows, with rows further apart than they are long.
Result<Image> read_in_bands(PictureRows& rows) {
    Image image = must(Image::create(rows.format(), rows.width(), rows.height(), Limits::none()));
    std::vector<std::byte> band;
    std::uint32_t y = 0;
    for (std::uint32_t count = 1; rows.rows_left() > 0; ++count) {
        count = std::min(count, rows.rows_left());
        const std::size_t stride = image.row_stride() + 13;
        band.assign(stride * count, std::byte{0xEE});
        const ImageView view{band.data(), rows.format(), rows.width(), count, stride};
        YL_CHECK(rows.read(view));
        for (std::uint32_t i = 0; i < count; ++i) {
            std::ranges::copy(view.row(i), image.view().row(y + i).begin());
            const auto gap = std::span(band).subspan(i * stride + image.row_stride(), 13);
            CHECK(std::ranges::all_of(gap, [](std::byte b) { return b == std::byte{0xEE}; }));
        }
        y += count;
    }
    return image;
}

/// Gives the rows, all of them read.
PictureRows check_rows(std::span<const std::byte> file, const ReadOptions& options = {}) {
    const Picture whole = must(read_picture(file, options));
    ReadOptions by_name = options;
    by_name.files = one_file(file);
    PictureRows rows = must(PictureRows::open("file", by_name));
    CHECK(rows.format() == whole.image.format());
    CHECK(rows.picture().transfer == whole.transfer);
    CHECK(rows.picture().alpha == whole.alpha);
    CHECK(rows.picture().swizzle == whole.swizzle);
    const PictureInfo& info = rows.picture().info;
    CHECK(info.file_format == whole.info.file_format);
    CHECK(info.transfer_reason == whole.info.transfer_reason);
    CHECK(info.applied_profile == whole.info.applied_profile);
    CHECK(info.color_profile_name == whole.info.color_profile_name);
    CHECK(info.unapplied == whole.info.unapplied);
    CHECK(info.file_bits == whole.info.file_bits);
    const Image image = must(read_in_bands(rows));
    CHECK(support::equal_pixels(image.view(), whole.image.view()));
    CHECK(info.remarks == whole.info.remarks);
    return rows;
}

using Chunk = std::pair<const char*, std::vector<std::byte>>;

/// A chunk put into a PNG before its image data.
std::vector<std::byte> with_chunk(std::span<const std::byte> file, const char (&name)[5],
                                  std::span<const std::byte> data) {
    constexpr std::size_t head = 8 + 25;  // signature and IHDR
    ByteWriter writer;
    writer.append(file.first(head));
    png::write_chunk(writer, png::chunk_type(name), data);
    writer.append(file.subspan(head));
    return writer.release();
}

std::vector<std::byte> big_endian(std::initializer_list<std::uint32_t> numbers) {
    ByteWriter writer;
    for (const std::uint32_t number : numbers)
        writer.write_big(number);
    return writer.release();
}

}  // namespace

TEST_CASE("PNGs of all kinds, in bands of any height") {
    std::uint32_t seed = 7;
    struct Kind {
        int color_type, bits;
    };
    for (const Kind& kind : {Kind{0, 1}, Kind{0, 2}, Kind{0, 4}, Kind{0, 8}, Kind{0, 16},
                             Kind{2, 8}, Kind{2, 16}, Kind{3, 1}, Kind{3, 2}, Kind{3, 4},
                             Kind{3, 8}, Kind{4, 8}, Kind{4, 16}, Kind{6, 8}, Kind{6, 16}})
        for (const bool interlaced : {false, true})
            for (const bool transparency : {false, true}) {
                if (transparency && kind.color_type > 3)
                    continue;
                CAPTURE(kind.color_type);
                CAPTURE(kind.bits);
                CAPTURE(interlaced);
                const auto file = support::write_reference_png({.width = 1 + seed % 61,
                                                                .height = 1 + seed % 43,
                                                                .color_type = kind.color_type,
                                                                .bits = kind.bits,
                                                                .interlaced = interlaced,
                                                                .transparency = transparency,
                                                                .seed = seed});
                seed += 11;
                CHECK(check_rows(file).flows() == !interlaced);
            }
}

TEST_CASE("image data of several chunks, and larger than any buffer") {
    Image noise = must(Image::create(Format::rgba8_srgb, 700, 700));
    support::Random random(5);
    support::fill_random(noise.view(), random);
    const auto file = must(encode_picture("png", support::view_of(noise), {.effort = 1}));
    CHECK(file.size() > (1U << 20U));
    CHECK(check_rows(file).flows());
}

TEST_CASE("what chunks say of colours happens to rows as well") {
    const auto file = support::write_reference_png({.width = 40, .height = 30, .color_type = 2});
    const auto gamma = with_chunk(file, "gAMA", big_endian({55555}));
    CHECK_FALSE(check_rows(gamma).picture().info.applied_profile.empty());
    const auto primaries = with_chunk(
        file, "cHRM", big_endian({31270, 32900, 64000, 33000, 21000, 71000, 15000, 6000}));
    CHECK_FALSE(check_rows(primaries).picture().info.applied_profile.empty());
    check_rows(primaries, {.role = Role::normal});
    check_rows(primaries, {.profile = ProfileUse::keep});
    check_rows(gamma, {.transfer = Transfer::linear});
    check_rows(with_chunk(file, "sRGB", std::vector<std::byte>(1)));
}

TEST_CASE("TIFFs of strips and tiles, all samples and compressions") {
    support::Random random(17);
    struct Kind {
        support::TiffKind kind;
        bool flows = true;
    };
    std::vector<Kind> kinds;
    constexpr std::uint16_t compressions[] = {1, 5, 8, 32773};
    for (const std::uint16_t compression : compressions)
        for (const bool is_planar : {false, true})
            for (const std::uint32_t tile : {0U, 16U})
                kinds.push_back({{.width = 53,
                                  .height = 211,
                                  .channels = 3,
                                  .photometric = 2,
                                  .compression = compression,
                                  .is_planar = is_planar,
                                  .tile_width = tile,
                                  .tile_height = tile}});
    kinds.push_back({{.width = 9, .height = 500, .bits = 16, .big_endian = true}});
    kinds.push_back({{.width = 9, .height = 500, .bits = 16, .rows_per_strip = 500}});
    kinds.push_back({{.width = 20, .height = 130, .bits = 32, .format = 3, .big_tiff = true}});
    kinds.push_back({{.width = 33, .height = 90, .bits = 1, .rows_per_strip = 90}});
    kinds.push_back(
        {{.width = 21, .height = 150, .channels = 4, .photometric = 5, .rows_per_strip = 64}});
    kinds.push_back({{.width = 19,
                      .height = 260,
                      .channels = 3,
                      .photometric = 2,
                      .is_planar = true,
                      .rows_per_strip = 128}});
    for (const Kind& one : kinds) {
        const support::TiffKind& kind = one.kind;
        CAPTURE(kind.compression);
        CAPTURE(kind.is_planar);
        CAPTURE(kind.bits);
        CAPTURE(kind.photometric);
        std::vector<std::uint64_t> samples(std::size_t{kind.width} * kind.height * kind.channels);
        const std::uint64_t most = kind.bits == 32 ? 0x3FFFFFFF : (1ULL << kind.bits) - 1;
        for (std::uint64_t& sample : samples)
            sample = random() % (most + 1);
        CHECK(check_rows(support::reference_tiff(kind, samples)).flows() == one.flows);
    }
}

TEST_CASE("a turned picture is read whole, and left as it is where that is asked") {
    support::TiffKind kind{.width = 30, .height = 20, .channels = 3, .photometric = 2};
    kind.orientation = 6;
    const std::vector<std::uint64_t> samples(std::size_t{30} * 20 * 3, 77);
    const auto file = support::reference_tiff(kind, samples);
    CHECK_FALSE(check_rows(file).flows());
    CHECK(check_rows(file, {.apply_orientation = false}).flows());
}

TEST_CASE("other formats are read whole") {
    Image image = must(Image::create(Format::rgb8_srgb, 30, 20));
    support::Random random(5);
    support::fill_random(image.view(), random);
    for (const char* ending : {"bmp", "qoi", "tga", "ppm", "webp"})
        CHECK_FALSE(check_rows(must(encode_picture(ending, support::view_of(image)))).flows());
}

TEST_CASE("strips too high for memory are read whole, within the limits") {
    support::TiffKind kind{.width = 100, .height = 400, .compression = 8, .rows_per_strip = 400};
    const std::vector<std::uint64_t> samples(std::size_t{100} * 400, 77);
    const auto file = support::reference_tiff(kind, samples);
    const auto files = one_file(file);
    CHECK_FALSE(
        must(PictureRows::open("file", {.limits = {.max_bytes = 120000}, .files = files})).flows());
    const Error error = must_fail(PictureRows::open(
        "file", {.limits = {.max_side = 300, .max_bytes = 120000}, .files = files}));
    CHECK(error.kind == ErrorKind::limit);
    CHECK(contains(error.message, "400 rows high"));
}

TEST_CASE("a side limits only what is read whole, and rows have a limit of their own") {
    const auto file = support::write_reference_png({.width = 40, .height = 30, .color_type = 2});
    const auto files = one_file(file);
    CHECK(must(PictureRows::open("file", {.limits = {.max_side = 20}, .files = files})).flows());
    const Error wide =
        must_fail(PictureRows::open("file", {.limits = {.max_bytes = 100000}, .files = files}));
    CHECK(wide.kind == ErrorKind::limit);
    const auto interlaced = one_file(support::write_reference_png(
        {.width = 40, .height = 30, .color_type = 2, .interlaced = true}));
    const Error whole =
        must_fail(PictureRows::open("file", {.limits = {.max_side = 20}, .files = interlaced}));
    CHECK(whole.kind == ErrorKind::limit);
    CHECK(contains(whole.message, "interlaced"));
}

TEST_CASE("damaged files fail where they are damaged, and stay so") {
    const auto file = support::write_reference_png(
        {.width = 64, .height = 64, .color_type = 6, .bits = 16, .seed = 3});
    for (std::size_t cut = 0; cut < file.size() - 12; cut += 97) {
        CAPTURE(cut);
        auto rows = PictureRows::open("file", {.files = one_file(std::span(file).first(cut))});
        if (!rows) {
            CHECK_FALSE(rows.error().message.empty());
            continue;
        }
        const auto image = read_in_bands(*rows);
        REQUIRE_FALSE(image);
        CHECK_FALSE(image.error().message.empty());
        CHECK(image.error().place == "file");
        std::vector<std::byte> row(64 * 8);
        const ImageView band{row.data(), rows->format(), 64, 1, row.size()};
        CHECK(must_fail(rows->read(band)).kind == ErrorKind::usage);
    }
    for (std::size_t at = 40; at < file.size() - 12; at += 131) {
        CAPTURE(at);
        auto flipped = file;
        flipped[at] ^= std::byte{0x10};
        auto rows = PictureRows::open("file", {.files = one_file(flipped)});
        const bool is_read = rows && read_in_bands(*rows);
        CHECK(is_read == read_picture(flipped).has_value());
    }
}

TEST_CASE("bytes behind a stream that ends before its rows do not stand for them") {
    const Image image = must(Image::create(Format::r8_unorm, 8, 4));
    const auto file = must(encode_picture("png", support::view_of(image)));
    const std::string_view text(reinterpret_cast<const char*>(file.data()), file.size());
    const std::size_t at = text.find("IDAT") + 4;
    const std::span<const std::byte> packed =
        std::span(file).subspan(at, load<std::uint32_t, std::endian::big>(file.data() + at - 8));
    ByteWriter data, taller;
    data.append(packed);
    data.append(std::vector<std::byte>(64, std::byte{0x78}));
    taller.append(std::span(file).first(8));
    auto header = std::vector(file.begin() + 16, file.begin() + 29);
    header[7] = std::byte{5};  // rows
    png::write_chunk(taller, png::chunk_type("IHDR"), header);
    png::write_chunk(taller, png::chunk_type("IDAT"), data.release());
    png::write_chunk(taller, png::chunk_type("IEND"), {});
    const auto damaged = taller.release();
    CHECK(contains(must_fail(read_picture(damaged)).message, "end early"));
    PictureRows rows = must(PictureRows::open("file", {.files = one_file(damaged)}));
    const auto read = read_in_bands(rows);
    REQUIRE_FALSE(read);
    CHECK(contains(read.error().message, "end early"));
}

TEST_CASE("the end of a file is remarked on") {
    const auto file = support::write_reference_png({.width = 40, .height = 30});
    check_rows(std::span(file).first(file.size() - 12));
    auto longer = file;
    longer.resize(longer.size() + 5);
    check_rows(longer);
}

TEST_CASE("bands that do not fit are refused, and what is asked for is said") {
    const auto file = support::write_reference_png({.width = 40, .height = 30, .color_type = 2});
    PictureRows rows = must(PictureRows::open("file", {.files = one_file(file)}));
    std::vector<std::byte> memory(std::size_t{200} * 40);
    const auto refused = [&](Format format, std::uint32_t width, std::uint32_t height) {
        const Error error = must_fail(rows.read({memory.data(), format, width, height, 200}));
        return error.kind == ErrorKind::usage && !error.message.empty();
    };
    CHECK(refused(Format::rgba8_srgb, 40, 1));
    CHECK(refused(rows.format(), 39, 1));
    CHECK(refused(rows.format(), 40, 31));
    CHECK(must_fail(rows.read({})).kind == ErrorKind::usage);
    CHECK(rows.rows_left() == 30);
    must(rows.read({memory.data(), rows.format(), 40, 30, 200}));
    CHECK(refused(rows.format(), 40, 1));
    CHECK(must_fail(PictureRows::open("file", {.widen_to_rgba = true})).kind == ErrorKind::usage);
    CHECK(must_fail(PictureRows::open("missing.png")).kind == ErrorKind::missing);
    const std::byte text[] = {std::byte{'h'}, std::byte{'i'}};
    CHECK(must_fail(PictureRows::open("file", {.files = one_file(text)})).kind ==
          ErrorKind::unsupported);
}

TEST_CASE("rows begin again, whether they flow or not") {
    for (const bool interlaced : {false, true}) {
        const auto file = support::write_reference_png(
            {.width = 40, .height = 30, .color_type = 6, .interlaced = interlaced});
        PictureRows rows = must(PictureRows::open("file", {.files = one_file(file)}));
        const Picture* const known = &rows.picture();
        const Image first = must(read_in_bands(rows));
        must(rows.rewind());
        CHECK(rows.rows_left() == 30);
        std::vector<std::byte> some(std::size_t{160} * 7);
        must(rows.read({some.data(), rows.format(), 40, 7, 160}));
        must(rows.rewind());
        const Image second = must(read_in_bands(rows));
        CHECK(support::equal_pixels(first.view(), second.view()));
        CHECK(&rows.picture() == known);
    }
}

TEST_CASE("a picture is read into memory of the caller's: any format, stride and order of rows") {
    const support::TemporaryFolder folder;
    const std::string path = folder.path("p.png");
    for (const int color_type : {0, 2, 4, 6})
        for (const bool interlaced : {false, true}) {
            support::write_bytes(path, support::write_reference_png({.width = 41,
                                                                     .height = 150,
                                                                     .color_type = color_type,
                                                                     .interlaced = interlaced}));
            const Picture whole = must(read_picture(path));
            for (const Format format :
                 {whole.image.format(), Format::rgba8_srgb, Format::rgba8_unorm,
                  Format::rgba16_float, Format::r8_unorm, Format::rgba32_float})
                for (const Origin origin : {Origin::top, Origin::bottom}) {
                    CAPTURE(color_type);
                    CAPTURE(info(format).name);
                    const bool is_own = format == whole.image.format();
                    const Image expected =
                        must(is_own ? whole.image.clone()
                                    : must(read_picture_as(path, format)).image.clone());
                    const std::size_t stride = expected.row_stride() + 29;
                    std::vector<std::byte> memory(stride * 150, std::byte{0xEE});
                    must(read_picture_into(path, {memory.data(), format, 41, 150, stride}, {},
                                           origin));
                    for (std::uint32_t y = 0; y < 150; ++y) {
                        const std::uint32_t place = origin == Origin::top ? y : 149 - y;
                        const auto row = std::span(memory).subspan(place * stride, stride);
                        REQUIRE(std::ranges::equal(row.first(expected.row_stride()),
                                                   expected.view().row(y)));
                        REQUIRE(row.back() == std::byte{0xEE});
                    }
                }
        }
    std::vector<std::byte> memory(std::size_t{41} * 150 * 4);
    CHECK(must_fail(read_picture_into(path, {memory.data(), Format::rgba8_srgb, 40, 150, 164}))
              .kind == ErrorKind::usage);
    CHECK(must_fail(read_picture_into(path, {})).kind == ErrorKind::usage);
    CHECK(
        must_fail(read_picture_into(path, {memory.data(), Format::bc7_srgb, 41, 150, 1000})).kind !=
        ErrorKind::io);
}
