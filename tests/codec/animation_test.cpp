// Animations: GIF written by the general-purpose library, and PNG assembled chunk by chunk, against
// canvases drawn here.
#include <array>
#include <yl/yl.hpp>

#include "codec/png/chunks.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_gif.hpp"

using namespace yl;
using support::color_of;
using support::contains;
using support::GifFrame;
using support::GifKind;
using support::must;
using support::must_fail;
using support::reference_gif;

namespace {

using Bytes = std::vector<std::byte>;

GifFrame random_frame(support::Random& random, const GifKind& kind) {
    GifFrame frame;
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    frame.x = below(kind.width);
    frame.y = below(kind.height);
    frame.width = 1 + below(kind.width - frame.x);
    frame.height = 1 + below(kind.height - frame.y);
    frame.is_interlaced = below(2) == 1;
    frame.has_own_colors = below(2) == 1;
    frame.disposal = below(4);
    frame.delay = below(300);
    if (below(2) == 1)
        frame.transparent = below(1 << kind.bits);
    while (frame.indices.size() < static_cast<std::size_t>(frame.width * frame.height)) {
        const auto index = std::byte(below(1 << kind.bits));
        for (int run = below(4) == 0 ? below(60) : 1; run > 0; --run)
            frame.indices.push_back(index);
    }
    frame.indices.resize(static_cast<std::size_t>(frame.width * frame.height));
    return frame;
}

/// The canvases after each frame, four bytes a pixel.
std::vector<Bytes> expected(const GifKind& kind) {
    const auto pixels = static_cast<std::size_t>(kind.width * kind.height);
    Bytes canvas(4 * pixels);
    std::vector<Bytes> shown;
    for (const GifFrame& frame : kind.frames) {
        const Bytes before = canvas;
        const auto each = [&](auto&& change) {
            for (int y = 0; y < frame.height; ++y)
                for (int x = 0; x < frame.width; ++x)
                    change(std::to_integer<int>(
                               frame.indices[static_cast<std::size_t>(y * frame.width + x)]),
                           canvas.data() + 4 * ((frame.y + y) * kind.width + frame.x + x));
        };
        each([&](int index, std::byte* pixel) {
            if (index == frame.transparent)
                return;
            const auto color = color_of(index, frame.has_own_colors);
            for (std::size_t c = 0; c < 3; ++c)
                pixel[c] = std::byte(color[c]);
            pixel[3] = std::byte{255};
        });
        shown.push_back(canvas);
        if (frame.disposal == 2)
            each([](int, std::byte* pixel) { std::fill_n(pixel, 4, std::byte{0}); });
        if (frame.disposal == 3)
            canvas = before;
    }
    return shown;
}

// Chunks of PNG.

Bytes big(std::initializer_list<std::uint32_t> numbers) {
    ByteWriter writer;
    for (const std::uint32_t number : numbers)
        writer.write_big(number);
    return writer.release();
}

struct PngFrame {
    std::uint32_t x = 0, y = 0;
    Picture picture = {};
    std::uint8_t disposal = 0, blend = 0;
    std::uint16_t delay = 1, of = 4;
};

/// The parts of a still file between its header and its end.
std::vector<png::Chunk> chunks_of(const Bytes& file) {
    ByteReader reader(file);
    must(reader.skip(8));
    std::vector<png::Chunk> chunks;
    while (reader.left() > 0)
        chunks.push_back(must(png::read_chunk(reader)));
    return chunks;
}

Bytes animated_png(const std::vector<PngFrame>& frames, std::uint32_t plays, bool hides_first) {
    ByteWriter writer;
    std::uint32_t sequence = 0;
    const auto write = [&](const char(&name)[5], const Bytes& data) {
        png::write_chunk(writer, png::chunk_type(name), data);
    };
    bool is_first = true;
    for (const PngFrame& frame : frames) {
        const Bytes file = must(encode_picture("png", frame.picture.image.view()));
        const auto chunks = chunks_of(file);
        if (is_first) {
            writer.append(std::span(file).first(8));
            png::write_chunk(writer, chunks[0].type, chunks[0].data);
            write("acTL", big({static_cast<std::uint32_t>(frames.size()), plays}));
        }
        if (is_first && hides_first)
            for (const png::Chunk& chunk : chunks)
                if (chunk.name() == "IDAT")
                    png::write_chunk(writer, chunk.type, chunk.data);
        Bytes control = big({sequence++, frame.picture.image.width(), frame.picture.image.height(),
                             frame.x, frame.y, std::uint32_t{frame.delay} << 16 | frame.of});
        control.push_back(std::byte(frame.disposal));
        control.push_back(std::byte(frame.blend));
        write("fcTL", control);
        for (const png::Chunk& chunk : chunks) {
            if (chunk.name() != "IDAT")
                continue;
            if (is_first && !hides_first) {
                png::write_chunk(writer, chunk.type, chunk.data);
                continue;
            }
            Bytes data = big({sequence++});
            data.insert(data.end(), chunk.data.begin(), chunk.data.end());
            write("fdAT", data);
        }
        is_first = false;
    }
    write("IEND", {});
    return writer.release();
}

Picture noise(std::uint32_t width, std::uint32_t height, Format format, unsigned seed) {
    Picture picture;
    picture.image = must(Image::create(format, width, height));
    support::Random random(seed);
    support::fill_random(picture.image.view(), random);
    return picture;
}

}  // namespace

TEST_CASE("GIF: frames of every kind, against canvases drawn pixel by pixel") {
    support::Random random(5);
    std::size_t files = 0;
    for (int bits = 1; bits <= 8; ++bits)
        for (int round = 0; round < 64; ++round, ++files) {
            GifKind kind = {.width = 1 + static_cast<int>(random() % 40),
                            .height = 1 + static_cast<int>(random() % 40),
                            .bits = bits,
                            .repeats_for_ever = round % 2 == 0};
            for (int frame = 0; frame < 1 + round % 6; ++frame)
                kind.frames.push_back(random_frame(random, kind));
            const Bytes file = reference_gif(kind);
            const PictureFrames frames = must(read_frames(file));
            const auto wanted = expected(kind);
            CAPTURE(bits);
            CAPTURE(round);
            REQUIRE(frames.pictures.size() == wanted.size());
            CHECK(frames.plays == (kind.repeats_for_ever ? 0 : 1));
            for (std::size_t i = 0; i < wanted.size(); ++i) {
                CHECK(support::bytes_of(frames.pictures[i].image.view()) == wanted[i]);
                CHECK(frames.seconds[i] == doctest::Approx(kind.frames[i].delay / 100.0));
            }
            // The still picture is the first frame, without alpha where it has none.
            const Picture still = must(read_picture(file));
            const bool is_opaque = kind.frames[0].width == kind.width &&
                                   kind.frames[0].height == kind.height &&
                                   kind.frames[0].transparent < 0;
            const PictureHeader header = must(peek_picture(file));
            CHECK(header.frames == wanted.size());
            CHECK(header.channels == (is_opaque ? 3 : 4));
            CHECK(info(still.image.format()).channel_count == header.channels);
            const Picture as_rgba = must(convert(still, Format::rgba8_srgb));
            CHECK(support::bytes_of(as_rgba.image.view()) == wanted[0]);
        }
    CHECK(files >= 500);
}

TEST_CASE("GIF: frames before the damage are kept, and it is said") {
    support::Random random(3);
    GifKind kind = {.width = 12, .height = 9, .bits = 4};
    for (int frame = 0; frame < 4; ++frame)
        kind.frames.push_back(random_frame(random, kind));
    const Bytes file = reference_gif(kind);
    const PictureFrames whole = must(read_frames(file));
    const support::TemporaryFolder folder;
    std::size_t most = 0;
    for (std::size_t length = 40; length + 1 < file.size(); length += 3) {
        const auto part = std::span(file).first(length);
        const auto frames = read_frames(part);
        if (!frames)
            continue;
        most = std::max(most, frames->pictures.size());
        for (std::size_t i = 0; i < frames->pictures.size(); ++i)
            CHECK(support::equal_pixels(support::view_of(frames->pictures[i].image),
                                        support::view_of(whole.pictures[i].image)));
        CHECK(contains(frames->pictures[0].info.remarks.at(0), "damaged after"));
        support::write_bytes(folder.path("t.gif"), part);
        CHECK(must(peek_picture(folder.path("t.gif"))).frames == frames->pictures.size());
        CHECK_FALSE(peek_picture(part).has_value());  // it might go on
    }
    CHECK(most >= 3);
}

TEST_CASE("GIF: damage ends with an error or a picture") {
    support::Random random(9);
    GifKind kind = {.width = 30, .height = 20, .bits = 5};
    for (int frame = 0; frame < 3; ++frame)
        kind.frames.push_back(random_frame(random, kind));
    const Bytes file = reference_gif(kind);
    for (std::size_t length = 0; length < file.size(); ++length) {
        const auto frames = read_frames(std::span(file).first(length));
        if (!frames)
            CHECK(!frames.error().message.empty());
    }
    for (int i = 0; i < 5000; ++i) {
        Bytes damaged = file;
        for (int hits = 0; hits < 3; ++hits)
            damaged[6 + random() % (damaged.size() - 6)] = std::byte(random());
        const auto frames = read_frames(damaged, {.limits = {.max_side = 2000}});
        if (!frames)
            CHECK(!frames.error().message.empty());
    }
    CHECK(must_fail(read_frames(file, {.limits = {.max_bytes = 4000}})).kind == ErrorKind::limit);
    CHECK(must_fail(encode_picture("gif", noise(2, 2, Format::rgb8_srgb, 1))).kind ==
          ErrorKind::usage);
}

TEST_CASE("animated PNG: places, blending, disposal, and a still image that is no frame") {
    for (const Format format : {Format::rgba8_srgb, Format::rgba16_unorm})
        for (const bool hides_first : {false, true}) {
            std::vector<PngFrame> frames;
            frames.push_back({0, 0, noise(12, 9, format, 1), 0, 0, 1, 4});
            frames.push_back({3, 2, noise(5, 4, format, 2), 1, 0, 3, 0});
            frames.push_back({1, 1, noise(8, 8, format, 3), 2, 0, 1, 2});
            frames.push_back({6, 5, noise(6, 4, format, 4), 0, 1, 1, 1});
            const Bytes file = animated_png(frames, 7, hides_first);
            const PictureFrames read = must(read_frames(file));
            REQUIRE(read.pictures.size() == 4);
            CHECK(read.plays == 7);
            CHECK(read.seconds == std::vector<double>{0.25, 0.03, 0.5, 1});
            const std::size_t pixel = info(format).block_bytes;
            Bytes canvas = support::bytes_of(frames[0].picture.image.view());
            const auto put = [&](const PngFrame& frame, bool clear) {
                const ConstImageView image = std::as_const(frame.picture.image).view();
                for (std::uint32_t y = 0; y < image.height; ++y)
                    for (std::size_t i = 0; i < image.width * pixel; ++i)
                        canvas[((frame.y + y) * 12 + frame.x) * pixel + i] =
                            clear ? std::byte{0} : image.row(y)[i];
            };
            CHECK(support::bytes_of(read.pictures[0].image.view()) == canvas);
            put(frames[1], false);
            CHECK(support::bytes_of(read.pictures[1].image.view()) == canvas);
            put(frames[1], true);
            const Bytes before = canvas;
            put(frames[2], false);
            CHECK(support::bytes_of(read.pictures[2].image.view()) == canvas);
            // The last frame is composited over what was there before the third.
            const auto number = [&](const Bytes& bytes, std::size_t at) {
                return format == Format::rgba8_srgb
                           ? std::to_integer<int>(bytes[at]) / 255.0
                           : (std::to_integer<int>(bytes[2 * at]) +
                              256 * std::to_integer<int>(bytes[2 * at + 1])) /
                                 65535.0;
            };
            const Bytes above = support::bytes_of(frames[3].picture.image.view());
            const Bytes shown = support::bytes_of(read.pictures[3].image.view());
            double worst = 0;
            for (std::size_t y = 0; y < 4; ++y)
                for (std::size_t x = 0; x < 6; ++x) {
                    const std::size_t at = 4 * ((5 + y) * 12 + 6 + x), from = 4 * (y * 6 + x);
                    const double a = number(above, from + 3);
                    const double b = number(before, at + 3) * (1 - a);
                    worst = std::max(worst, std::abs(number(shown, at + 3) - (a + b)));
                    for (std::size_t c = 0; c < 3 && a + b > 0; ++c)
                        worst = std::max(
                            worst, std::abs(number(shown, at + c) - (a * number(above, from + c) +
                                                                     b * number(before, at + c)) /
                                                                        (a + b)));
                }
            CHECK(worst <= 0.51 / 255);
            CHECK(support::equal_pixels(support::view_of(must(read_picture(file)).image),
                                        std::as_const(frames[0].picture.image).view()));
        }
    // An animation without any frame is its still picture.
    const Bytes still = must(encode_picture("png", noise(4, 4, Format::rgba8_srgb, 1)));
    ByteWriter without_frames;
    without_frames.append(std::span(still).first(8));
    for (const png::Chunk& chunk : chunks_of(still)) {
        png::write_chunk(without_frames, chunk.type, chunk.data);
        if (chunk.name() == "IHDR")
            png::write_chunk(without_frames, png::chunk_type("acTL"), big({2, 0}));
    }
    CHECK(must(read_frames(without_frames.release())).pictures.size() == 1);
    // A frame that reaches beyond the picture.
    std::vector<PngFrame> wide;
    wide.push_back({0, 0, noise(4, 4, Format::rgba8_srgb, 1)});
    wide.push_back({2, 0, noise(3, 4, Format::rgba8_srgb, 1)});
    CHECK(contains(must_fail(read_frames(animated_png(wide, 0, false))).message,
                   "beyond the picture"));
}
