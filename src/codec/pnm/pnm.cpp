// The PNM family (netpbm's file format descriptions):
//   P1 P4  bits, 1 is black        P2 P5  gray        P3 P6  RGB        P7  PAM, one to four
//   channels
// the first of each pair as text, the second in binary, rows from the top, samples big endian.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/text.hpp"
#include "codec/picture_format.hpp"
#include "codec/pnm/header.hpp"

namespace yl {
namespace {

struct Header {
    PictureStart start;
    std::uint32_t max = 1;
    bool is_text = false;
    bool is_bits = false;
};

Status check_max(std::uint32_t max) {
    if (max > 0 && max <= 65535)
        return {};
    return fail(ErrorKind::malformed,
                fmt::format("the header's greatest value is {}; it lies between 1 and 65535", max));
}

Result<Header> read_pam_header(pnm::HeaderReader& words) {
    Header h;
    bool ended = false;
    while (!ended) {
        YL_TRY(const std::string key, words.word());
        if (key == "ENDHDR") {
            ended = true;
        } else if (key == "WIDTH") {
            YL_TRY(h.start.width, words.number("header's width"));
        } else if (key == "HEIGHT") {
            YL_TRY(h.start.height, words.number("header's height"));
        } else if (key == "DEPTH") {
            YL_TRY(h.start.channels, words.number("header's depth"));
        } else if (key == "MAXVAL") {
            YL_TRY(h.max, words.number("header's greatest value"));
        } else if (key == "TUPLTYPE") {
            YL_CHECK(words.rest_of_line());  // the number of channels says it all
        } else {
            return fail(
                ErrorKind::malformed,
                fmt::format("the header has a line '{}', which PAM does not know", printable(key)));
        }
    }
    if (h.start.channels < 1 || h.start.channels > 4)
        return fail(
            ErrorKind::unsupported,
            fmt::format("the header gives {} channels; 1 to 4 are handled", h.start.channels));
    return h;
}

Result<Header> read_header(ByteReader& reader) {
    YL_TRY(const ByteSpan magic, reader.take(2));
    const char digit = as_text(magic)[1];
    pnm::HeaderReader words(reader);
    Header h;
    if (digit == '7') {
        YL_TRY(h, read_pam_header(words));
    } else {
        h.is_text = digit <= '3';
        h.is_bits = digit == '1' || digit == '4';
        h.start.channels = digit == '3' || digit == '6' ? 3 : 1;
        YL_TRY(h.start.width, words.number("header's width"));
        YL_TRY(h.start.height, words.number("header's height"));
        if (!h.is_bits) {
            YL_TRY(h.max, words.number("header's greatest value"));
        }
    }
    YL_CHECK(check_max(h.max));
    h.start.bits = h.max > 255 ? 16 : 8;
    return h;
}

/// A sample, from 0 .. `greatest` to the whole range of `bits`.
std::uint32_t widen(std::uint32_t sample, std::uint32_t max, std::uint32_t bits) {
    const std::uint64_t full = bits == 16 ? 65535 : 255;
    return static_cast<std::uint32_t>((std::min(sample, max) * full + max / 2) / max);
}

void put(std::uint32_t value, std::uint32_t bits, std::size_t index, std::span<std::byte> row) {
    if (bits == 16)
        store(row.data() + 2 * index, static_cast<std::uint16_t>(value));
    else
        row[index] = static_cast<std::byte>(value);
}

/// The bytes of a binary row.
std::uint64_t row_bytes(const Header& h) {
    return h.is_bits ? ceil_div(h.start.width, 8)
                     : h.start.width * h.start.channels * h.start.bits / 8;
}

Status read_text_row(pnm::HeaderReader& words, const Header& h, std::span<std::byte> row) {
    for (std::size_t i = 0; i < h.start.width * h.start.channels; ++i) {
        std::uint32_t sample = 0;
        if (h.is_bits) {
            YL_TRY(const bool is_black, words.bit());
            sample = is_black ? 0 : 1;
        } else {
            YL_TRY(sample, words.number("sample"));
        }
        put(widen(sample, h.max, h.start.bits), h.start.bits, i, row);
    }
    return {};
}

void read_binary_row(ByteSpan stored, const Header& h, std::span<std::byte> row) {
    if (h.max == 255 && !h.is_bits) {
        std::copy(stored.begin(), stored.end(), row.begin());
        return;
    }
    for (std::size_t i = 0; i < h.start.width * h.start.channels; ++i) {
        std::uint32_t sample = 0;
        if (h.is_bits)
            sample = (std::to_integer<std::uint32_t>(stored[i / 8]) >> (7 - i % 8) & 1) ^ 1U;
        else if (h.start.bits == 16)
            sample = load<std::uint16_t, std::endian::big>(stored.data() + 2 * i);
        else
            sample = std::to_integer<std::uint32_t>(stored[i]);
        put(widen(sample, h.max, h.start.bits), h.start.bits, i, row);
    }
}

Result<PictureHeader> peek_pnm(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    return header_of(h.start);
}

Result<Picture> read_pnm(ByteSpan bytes, const ReadOptions& options) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    const CheckedSize needed = h.is_text ? CheckedSize(h.start.width) * h.start.height
                                         : CheckedSize(row_bytes(h)) * h.start.height;
    const bool within_limits = std::max(h.start.width, h.start.height) <= options.limits.max_side;
    if (within_limits && !needed.fits(reader.left()))
        return fail(ErrorKind::malformed,
                    fmt::format("the file ends early: {} bytes are too few for {} x {} pixels",
                                reader.left(), h.start.width, h.start.height),
                    reader.offset());
    YL_TRY(Picture picture, start_picture(h.start, options));
    if (h.is_bits)
        picture.info.file_bits = 1;
    pnm::HeaderReader words(reader);
    for (std::uint32_t y = 0; y < picture.image.height(); ++y) {
        const auto row = picture.image.view().row(y);
        if (h.is_text) {
            YL_CHECK(read_text_row(words, h, row));
        } else {
            YL_TRY(const ByteSpan stored, reader.take(row_bytes(h)));
            read_binary_row(stored, h, row);
        }
    }
    if (reader.left() > 0 && !h.is_text)
        picture.info.remarks.push_back(
            fmt::format("{} bytes follow the end of the picture", reader.left()));
    return picture;
}

void write_samples(ByteWriter& writer, ConstImageView image, std::uint32_t bits) {
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const ByteSpan row = image.row(y);
        if (bits == 8)
            writer.append(row);
        else
            for (std::size_t i = 0; i < row.size(); i += 2)
                writer.write_big(load<std::uint16_t>(row.data() + i));
    }
}

Result<std::vector<std::byte>> write_pnm(ConstImageView image, std::uint32_t channels) {
    const auto kind = plain_channels(image.format);
    if (!kind || kind->is_float || kind->channels != channels)
        return fail(ErrorKind::usage,
                    fmt::format("{} does not hold {}; it takes 8 or 16 bits of {}",
                                channels == 3 ? "PPM" : "PGM", info(image.format).name,
                                channels == 3 ? "red, green and blue" : "one channel"));
    ByteWriter writer;
    writer.append(fmt::format("P{}\n{} {}\n{}\n", channels == 3 ? 6 : 5, image.width, image.height,
                              kind->bits == 16 ? 65535 : 255));
    write_samples(writer, image, kind->bits);
    return writer.release();
}

Result<std::vector<std::byte>> write_pam(ConstImageView image, const WriteOptions&) {
    static constexpr const char* types[] = {"GRAYSCALE", "GRAYSCALE_ALPHA", "RGB", "RGB_ALPHA"};
    const auto kind = plain_channels(image.format);
    if (!kind || kind->is_float)
        return fail(
            ErrorKind::usage,
            fmt::format("PAM does not hold {}; it takes one to four channels of 8 or 16 bits",
                        info(image.format).name));
    ByteWriter writer;
    writer.append(fmt::format("P7\nWIDTH {}\nHEIGHT {}\nDEPTH {}\nMAXVAL {}\nTUPLTYPE {}\nENDHDR\n",
                              image.width, image.height, kind->channels,
                              kind->bits == 16 ? 65535 : 255, types[kind->channels - 1]));
    write_samples(writer, image, kind->bits);
    return writer.release();
}

template <char text, char binary>
bool recognise(ByteSpan bytes) {
    if (bytes.size() < 3 || as_text(bytes)[0] != 'P')
        return false;
    const char digit = as_text(bytes)[1];
    return (digit == text || digit == binary) &&
           std::string_view(" \t\r\n\v\f#").find(as_text(bytes)[2]) != std::string_view::npos;
}

template <std::uint32_t channels>
Result<std::vector<std::byte>> write_channels(ConstImageView image, const WriteOptions&) {
    return write_pnm(image, channels);
}

}  // namespace

PictureFormat ppm_format() {
    return {"PPM",
            {"ppm", "pnm"},
            recognise<'3', '6'>,
            read_pnm,
            peek_pnm,
            write_channels<3>,
            {.channels = "3", .bytes = true, .words = true}};
}
PictureFormat pgm_format() {
    return {"PGM",
            {"pgm"},
            recognise<'2', '5'>,
            read_pnm,
            peek_pnm,
            write_channels<1>,
            {.channels = "1", .bytes = true, .words = true}};
}
PictureFormat pbm_format() {
    return {"PBM", {"pbm"}, recognise<'1', '4'>, read_pnm, peek_pnm, nullptr, {}};
}
PictureFormat pam_format() {
    return {"PAM",
            {"pam"},
            recognise<'7', '7'>,
            read_pnm,
            peek_pnm,
            write_pam,
            {.channels = "1234", .bytes = true, .words = true}};
}

}  // namespace yl
