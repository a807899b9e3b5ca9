// QOI, "The Quite OK Image Format for Fast, Lossless Compression" (specification version 1.0).
//
//   header:  "qoif"  width (32, big endian)  height (32)  channels (8)  colour space (8)
//
//   00 iiiiii            the pixel at place i of the recent ones
//   01 rr gg bb          differences of -2 .. 1
//   10 gggggg rrrr bbbb  green's difference of -32 .. 31, and red's and blue's to it, -8 .. 7
//   11 nnnnnn            the last pixel n + 1 times more, up to 62
//   11111110 r g b       11111111 r g b a
#include <array>

#include <yl/status_macros.hpp>
#include "codec/picture_format.hpp"

namespace yl {
namespace {

constexpr std::uint8_t tag_mask = 0xC0;
constexpr std::uint8_t tag_recent = 0x00;
constexpr std::uint8_t tag_difference = 0x40;
constexpr std::uint8_t tag_luma = 0x80;
constexpr std::uint8_t tag_run = 0xC0;
constexpr std::uint8_t byte_rgb = 0xFE;
constexpr std::uint8_t byte_rgba = 0xFF;
constexpr int longest_run = 62;
constexpr std::uint8_t linear_color_space = 1;
constexpr std::array<std::uint8_t, 8> end_marker = {0, 0, 0, 0, 0, 0, 0, 1};

using Pixel = std::array<std::uint8_t, 4>;

std::size_t place_of(const Pixel& p) {
    return (p[0] * 3U + p[1] * 5U + p[2] * 7U + p[3] * 11U) % 64U;
}

std::uint8_t add(std::uint8_t value, int difference) {
    return static_cast<std::uint8_t>(value + difference);
}

/// The pixels of a stream, one after the other.
class PixelReader {
 public:
    explicit PixelReader(ByteReader& reader) : reader_(reader) {}

    Result<Pixel> next() {
        if (run_ > 0) {
            --run_;
            return last_;
        }
        YL_TRY(const auto byte, reader_.read<std::uint8_t>());
        if (byte == byte_rgb || byte == byte_rgba) {
            for (std::size_t c = 0; c < (byte == byte_rgb ? 3U : 4U); ++c) {
                YL_TRY(last_[c], reader_.read<std::uint8_t>());
            }
        } else if ((byte & tag_mask) == tag_recent) {
            last_ = recent_[byte];
        } else if ((byte & tag_mask) == tag_difference) {
            for (std::size_t c = 0; c < 3; ++c)
                last_[c] = add(last_[c], (byte >> (4 - 2 * c) & 3) - 2);
        } else if ((byte & tag_mask) == tag_luma) {
            YL_TRY(const auto rest, reader_.read<std::uint8_t>());
            const int green = (byte & 0x3F) - 32;
            last_[0] = add(last_[0], green - 8 + (rest >> 4));
            last_[1] = add(last_[1], green);
            last_[2] = add(last_[2], green - 8 + (rest & 0xF));
        } else {
            run_ = byte & 0x3F;
        }
        recent_[place_of(last_)] = last_;
        return last_;
    }

 private:
    ByteReader& reader_;
    std::array<Pixel, 64> recent_{};
    Pixel last_ = {0, 0, 0, 255};
    int run_ = 0;
};

class PixelWriter {
 public:
    explicit PixelWriter(ByteWriter& writer) : writer_(writer) {}

    void put(const Pixel& pixel) {
        if (pixel == last_) {
            if (++run_ == longest_run)
                flush();
            return;
        }
        flush();
        write_changed(pixel);
        recent_[place_of(pixel)] = pixel;
        last_ = pixel;
    }

    void flush() {
        if (run_ > 0)
            byte(tag_run | (run_ - 1));
        run_ = 0;
    }

 private:
    void byte(int value) { writer_.write(static_cast<std::uint8_t>(value)); }

    void write_changed(const Pixel& pixel) {
        const std::size_t place = place_of(pixel);
        if (recent_[place] == pixel)
            return byte(tag_recent | static_cast<int>(place));
        if (pixel[3] != last_[3]) {
            byte(byte_rgba);
            for (const std::uint8_t value : pixel)
                byte(value);
            return;
        }
        const auto difference = [&](std::size_t c) {
            return static_cast<std::int8_t>(pixel[c] - last_[c]);
        };
        const int red = difference(0);
        const int green = difference(1);
        const int blue = difference(2);
        const auto fits = [](int value, int half) { return value >= -half && value < half; };
        if (fits(red, 2) && fits(green, 2) && fits(blue, 2))
            return byte(tag_difference | (red + 2) << 4 | (green + 2) << 2 | (blue + 2));
        if (fits(green, 32) && fits(red - green, 8) && fits(blue - green, 8)) {
            byte(tag_luma | (green + 32));
            return byte((red - green + 8) << 4 | (blue - green + 8));
        }
        byte(byte_rgb);
        for (std::size_t c = 0; c < 3; ++c)
            byte(pixel[c]);
    }

    ByteWriter& writer_;
    std::array<Pixel, 64> recent_{};
    Pixel last_ = {0, 0, 0, 255};
    int run_ = 0;
};

bool recognise(ByteSpan bytes) {
    return bytes.size() >= 14 && as_text(bytes).starts_with("qoif");
}

Result<PictureStart> read_header(ByteReader& reader) {
    YL_CHECK(reader.skip(4));
    PictureStart start;
    YL_TRY(start.width, reader.read_big<std::uint32_t>());
    YL_TRY(start.height, reader.read_big<std::uint32_t>());
    YL_TRY(start.channels, reader.read<std::uint8_t>());
    YL_TRY(const auto color_space, reader.read<std::uint8_t>());
    if (start.channels != 3 && start.channels != 4)
        return fail(ErrorKind::malformed,
                    "the header gives a number of channels that is neither 3 nor 4", 12);
    start.declared_transfer = color_space == linear_color_space ? Transfer::linear : Transfer::srgb;
    return start;
}

Result<PictureHeader> peek(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(const PictureStart start, read_header(reader));
    return header_of(start);
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    ByteReader reader(bytes);
    YL_TRY(const PictureStart start, read_header(reader));
    // One byte makes at most 62 pixels.
    if (start.width * start.height / longest_run > bytes.size())
        return fail(ErrorKind::malformed,
                    "the file is too short for the size that its header gives", 4);
    YL_TRY(Picture picture, start_picture(start, options));
    PixelReader pixels(reader);
    for (std::uint32_t y = 0; y < picture.image.height(); ++y) {
        std::byte* target = picture.image.view().row(y).data();
        for (std::uint32_t x = 0; x < picture.image.width(); ++x) {
            YL_TRY(const Pixel pixel, pixels.next());
            for (std::size_t c = 0; c < start.channels; ++c)
                *target++ = std::byte{pixel[c]};
        }
    }
    YL_CHECK(reader.skip(end_marker.size()));
    return picture;
}

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions& options) {
    const auto kind = plain_channels(image.format);
    if (!kind || kind->bits != 8 || kind->channels < 3)
        return fail(ErrorKind::usage,
                    "QOI holds RGB and RGBA of 8 bits; convert the picture first");
    ByteWriter writer;
    writer.append("qoif");
    writer.write_big(image.width);
    writer.write_big(image.height);
    writer.write(static_cast<std::uint8_t>(kind->channels));
    writer.write(options.transfer == Transfer::linear ? linear_color_space : std::uint8_t{0});
    PixelWriter pixels(writer);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const ByteSpan row = image.row(y);
        for (std::size_t x = 0; x < image.width; ++x) {
            Pixel pixel = {0, 0, 0, 255};
            for (std::size_t c = 0; c < kind->channels; ++c)
                pixel[c] = std::to_integer<std::uint8_t>(row[x * kind->channels + c]);
            pixels.put(pixel);
        }
    }
    pixels.flush();
    writer.append(std::as_bytes(std::span(end_marker)));
    return writer.release();
}

}  // namespace

PictureFormat qoi_format() {
    return {"QOI", {"qoi"}, recognise, read, peek, write, {.channels = "34", .bytes = true}};
}

}  // namespace yl
