// Radiance pictures (Greg Ward, "Real Pixels", Graphics Gems II; Radiance file formats).
//
//   "#?RADIANCE" and lines of text, an empty line, the resolution ("-Y 512 +X 1024"), then rows of
//   pixels:
//   +----------+----------+----------+----------+
//   |   red    |  green   |   blue   | exponent |     value = mantissa * 2^(exponent - 136)
//   +----------+----------+----------+----------+
//
//   A row begins with 2 2 and its length (16, big endian) when its four channels are packed one
//   after the other: a byte over 128 repeats the next byte that often less 128; any other byte
//   counts bytes as they are. In the older packing 1 1 1 n repeats the last pixel n times, n * 256
//   times if it follows such a one, and so on.
#include <fmt/format.h>
#include <bit>

#include <cmath>

#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/number.hpp"
#include "base/text.hpp"
#include "codec/picture_format.hpp"

namespace yl {
namespace {

constexpr int exponent_bias = 136;  // 128, and 8 bits of mantissa
constexpr std::uint32_t min_packed_width = 8;
constexpr std::uint32_t max_packed_width = 0x7FFF;

using Pixel = std::array<std::uint8_t, 4>;

/// How rows and columns of the file lie in the picture.
struct Orientation {
    bool rows_are_vertical =
        false;  ///< "X" comes first: each stored row is a column of the picture
    bool flip_x = false;
    bool flip_y = false;
};

struct Header {
    PictureStart start{.channels = 3, .bits = 32, .is_float = true};
    Orientation orientation;
    std::uint32_t rows = 0;     ///< as stored
    std::uint32_t columns = 0;  ///< as stored
    double exposure = 1;
    bool is_xyz = false;
};

Result<std::string> read_line(ByteReader& reader) {
    std::string line;
    while (line.size() < 4096) {
        YL_TRY(const auto byte, reader.read<std::uint8_t>());
        if (byte == '\n')
            return line;
        line += static_cast<char>(byte);
    }
    return fail(ErrorKind::malformed, "a line of the header is too long", reader.offset());
}

std::optional<double> number_after(const std::string& line, std::string_view key) {
    if (!line.starts_with(key))
        return {};
    const std::string_view number =
        without_plus(trimmed(std::string_view(line).substr(key.size())));
    double value = 0;
    return number_from_chars(number.data(), number.data() + number.size(), value).ec == std::errc{}
               ? std::optional(value)
               : std::nullopt;
}

/// "-Y 512 +X 1024": two axes, each with its direction and length.
Status parse_resolution(const std::string& line, Header& h) {
    char sign[2] = {}, axis[2] = {};
    unsigned length[2] = {};
    char rest = 0;
    const int found = std::sscanf(line.c_str(), "%c%c %9u %c%c %9u%c", &sign[0], &axis[0],
                                  &length[0], &sign[1], &axis[1], &length[1], &rest);
    const auto sound = [&](int i) {
        return (sign[i] == '+' || sign[i] == '-') && (axis[i] == 'X' || axis[i] == 'Y');
    };
    if (found < 6 || (found == 7 && rest != '\r') || !sound(0) || !sound(1) || axis[0] == axis[1])
        return fail(
            ErrorKind::malformed,
            fmt::format("the resolution '{}' is not understood; it looks like '-Y 512 +X 1024'",
                        printable(line, 40)));
    const int x = axis[0] == 'X' ? 0 : 1;
    h.rows = length[0];
    h.columns = length[1];
    h.orientation = {x == 0, sign[x] == '-', sign[1 - x] == '+'};
    h.start.width = length[x];
    h.start.height = length[1 - x];
    return {};
}

Result<Header> read_header(ByteReader& reader) {
    Header h;
    while (true) {
        YL_TRY(std::string line, read_line(reader));
        if (!line.empty() && line.back() == '\r')
            line.pop_back();
        if (line.empty())
            break;
        if (const auto exposure = number_after(line, "EXPOSURE="))
            h.exposure *= *exposure;
        if (!line.starts_with("FORMAT="))
            continue;
        const std::string_view format = trimmed(std::string_view(line).substr(7));
        h.is_xyz = format == "32-bit_rle_xyze";
        if (!h.is_xyz && format != "32-bit_rle_rgbe")
            return fail(ErrorKind::unsupported,
                        fmt::format("'{}' is not handled; 32-bit_rle_rgbe and 32-bit_rle_xyze are",
                                    printable(line)));
    }
    YL_TRY(const std::string resolution, read_line(reader));
    YL_CHECK(parse_resolution(resolution, h));
    if (!(h.exposure > 0) || !std::isfinite(h.exposure))
        return fail(ErrorKind::malformed, fmt::format("the header's exposure is {}", h.exposure));
    return h;
}

Status read_packed_row(ByteReader& reader, std::vector<Pixel>& row) {
    for (std::size_t channel = 0; channel < 4; ++channel) {
        for (std::size_t x = 0; x < row.size();) {
            YL_TRY(const auto count, reader.read<std::uint8_t>());
            const bool is_run = count > 128;
            const std::size_t length = is_run ? count - 128U : count;
            if (length == 0 || length > row.size() - x)
                return fail(ErrorKind::malformed,
                            fmt::format("a run of {} pixels does not fit its row", length),
                            reader.offset() - 1);
            YL_TRY(const ByteSpan values, reader.take(is_run ? 1 : length));
            for (std::size_t i = 0; i < length; ++i)
                row[x++][channel] = std::to_integer<std::uint8_t>(values[is_run ? 0 : i]);
        }
    }
    return {};
}

/// Flat pixels, and the older run lengths among them.
Status read_flat_row(ByteReader& reader, std::vector<Pixel>& row) {
    int shift = 0;
    for (std::size_t x = 0; x < row.size();) {
        Pixel pixel{};
        YL_TRY(const ByteSpan stored, reader.take(4));
        for (std::size_t c = 0; c < 4; ++c)
            pixel[c] = std::to_integer<std::uint8_t>(stored[c]);
        const bool is_run = pixel[0] == 1 && pixel[1] == 1 && pixel[2] == 1;
        if (!is_run) {
            row[x++] = pixel;
            shift = 0;
            continue;
        }
        const std::uint64_t length = shift < 32 ? std::uint64_t{pixel[3]} << shift : row.size() + 1;
        if (x == 0 || length > row.size() - x)
            return fail(ErrorKind::malformed, "a run of pixels does not fit its row",
                        reader.offset() - 4);
        for (std::uint64_t i = 0; i < length; ++i, ++x)
            row[x] = row[x - 1];
        shift += 8;
    }
    return {};
}

Status read_row(ByteReader& reader, std::vector<Pixel>& row) {
    if (row.size() < min_packed_width || row.size() > max_packed_width || reader.left() < 4)
        return read_flat_row(reader, row);
    const std::size_t start = reader.offset();
    YL_TRY(const auto mark, reader.read_big<std::uint16_t>());
    YL_TRY(const auto length, reader.read_big<std::uint16_t>());
    if (mark == 0x0202 && length == row.size())
        return read_packed_row(reader, row);
    YL_CHECK(reader.seek(start));
    return read_flat_row(reader, row);
}

/// From stored pixels to linear light of BT.709 primaries and white D65.
class Light {
 public:
    explicit Light(const Header& h) : is_xyz_(h.is_xyz) {
        for (std::size_t e = 1; e < scales_.size(); ++e)
            scales_[e] = std::ldexp(1.0, static_cast<int>(e) - exponent_bias) / h.exposure;
    }

    [[nodiscard]] std::array<float, 3> of(const Pixel& pixel) const {
        const double scale = scales_[pixel[3]];
        const double a = pixel[0] * scale, b = pixel[1] * scale, c = pixel[2] * scale;
        if (!is_xyz_)
            return {static_cast<float>(a), static_cast<float>(b), static_cast<float>(c)};
        return {static_cast<float>(3.2404542 * a - 1.5371385 * b - 0.4985314 * c),
                static_cast<float>(-0.9692660 * a + 1.8760108 * b + 0.0415560 * c),
                static_cast<float>(0.0556434 * a - 0.2040259 * b + 1.0572252 * c)};
    }

 private:
    bool is_xyz_;
    std::array<double, 256> scales_{};  ///< by exponent; an exponent of 0 is black
};

/// Lays row `i` of the file where the header's orientation says.
void place_row(const std::vector<Pixel>& row, std::uint32_t i, const Header& h, const Light& light,
               ImageView view) {
    const bool vertical = h.orientation.rows_are_vertical;
    const auto place = [&](std::uint32_t j) {
        const std::uint32_t x = vertical ? i : j;
        const std::uint32_t y = vertical ? j : i;
        return view.data +
               std::size_t{h.orientation.flip_y ? view.height - 1 - y : y} * view.row_stride +
               std::size_t{h.orientation.flip_x ? view.width - 1 - x : x} * sizeof(float) * 3;
    };
    std::byte* pixel = place(0);
    const std::ptrdiff_t step = row.size() > 1 ? place(1) - pixel : 0;
    for (const Pixel& stored : row) {
        const auto rgb = light.of(stored);
        store_all(pixel, std::bit_cast<std::array<std::uint32_t, 3>>(rgb));
        pixel += step;
    }
}

Result<PictureHeader> peek(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    return header_of(h.start);
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    // The densest packing spends a byte on 127 values, or four on 2^24 pixels in the older form.
    if (h.rows > reader.left())
        return fail(ErrorKind::malformed,
                    fmt::format("the file ends early: {} bytes are too few for {} rows",
                                reader.left(), h.rows),
                    reader.offset());
    YL_TRY(Picture picture, start_picture(h.start, options));
    picture.info.file_bits = 8;
    const ImageView view = picture.image.view();
    const Light light(h);
    std::vector<Pixel> row(h.columns);
    for (std::uint32_t i = 0; i < h.rows; ++i) {
        YL_CHECK(read_row(reader, row));
        place_row(row, i, h, light, view);
    }
    if (h.exposure != 1)
        picture.info.remarks.push_back(
            fmt::format("an exposure of {} was divided out", h.exposure));
    if (h.is_xyz)
        picture.info.remarks.emplace_back("XYZ values were converted to BT.709 primaries");
    return picture;
}

Pixel pixel_of(const float* rgb) {
    double most = 0;
    for (int c = 0; c < 3; ++c)
        if (rgb[c] > 0 && std::isfinite(rgb[c]))
            most = std::max(most, static_cast<double>(rgb[c]));
    if (most < 1e-38)
        return {};
    int exponent = 0;
    std::frexp(most, &exponent);
    if (std::lround(std::ldexp(most, 8 - exponent)) > 255)
        ++exponent;  // rounding reached the next power of two
    if (exponent + 128 > 255)
        return {255, 255, 255, 255};
    Pixel pixel{};
    for (std::size_t c = 0; c < 3; ++c) {
        const double value =
            rgb[c] > 0 && std::isfinite(rgb[c]) ? static_cast<double>(rgb[c]) : 0.0;
        pixel[c] = static_cast<std::uint8_t>(std::lround(std::ldexp(value, 8 - exponent)));
    }
    pixel[3] = static_cast<std::uint8_t>(exponent + 128);
    return pixel;
}

void write_packed_channel(const std::vector<Pixel>& row, std::size_t channel, ByteWriter& writer) {
    for (std::size_t x = 0; x < row.size();) {
        std::size_t run = 1;
        while (run < 127 && x + run < row.size() && row[x + run][channel] == row[x][channel])
            ++run;
        if (run >= 3) {
            writer.write(static_cast<std::uint8_t>(128 + run));
            writer.write(row[x][channel]);
            x += run;
            continue;
        }
        std::size_t end = x + 1;  // as they are, up to where three equal ones begin
        while (end < row.size() && end - x < 128 &&
               !(end + 2 < row.size() && row[end][channel] == row[end + 1][channel] &&
                 row[end][channel] == row[end + 2][channel]))
            ++end;
        writer.write(static_cast<std::uint8_t>(end - x));
        for (; x < end; ++x)
            writer.write(row[x][channel]);
    }
}

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions&) {
    if (image.format != Format::rgb32_float)
        return fail(ErrorKind::usage, "Radiance files hold rgb32-float; convert the picture first");
    ByteWriter writer;
    writer.append(fmt::format("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y {} +X {}\n", image.height,
                              image.width));
    const bool packed = image.width >= min_packed_width && image.width <= max_packed_width;
    std::vector<Pixel> row(image.width);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        std::vector<float> rgb(std::size_t{image.width} * 3);
        std::memcpy(rgb.data(), image.row(y).data(), rgb.size() * sizeof(float));
        swap_unless_little<std::uint32_t>(std::as_writable_bytes(std::span(rgb)));
        for (std::size_t x = 0; x < row.size(); ++x)
            row[x] = pixel_of(&rgb[3 * x]);
        if (packed) {
            writer.write_big(std::uint16_t{0x0202});
            writer.write_big(static_cast<std::uint16_t>(image.width));
            for (std::size_t channel = 0; channel < 4; ++channel)
                write_packed_channel(row, channel, writer);
        } else {
            for (const Pixel& pixel : row)
                writer.append(std::as_bytes(std::span(pixel)));
        }
    }
    return writer.release();
}

bool recognise(ByteSpan bytes) {
    return as_text(bytes).starts_with("#?RADIANCE") || as_text(bytes).starts_with("#?RGBE");
}

}  // namespace

PictureFormat hdr_format() {
    return {"Radiance HDR", {"hdr", "pic", "rgbe", "xyze"},    recognise, read, peek,
            write,          {.channels = "3", .singles = true}};
}

}  // namespace yl
